"""Where a rig rests or hangs: one module per kind of support."""
