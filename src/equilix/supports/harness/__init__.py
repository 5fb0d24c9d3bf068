"""A rig that hangs from a hook on a harness."""
