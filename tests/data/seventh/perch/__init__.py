"""A flat cushion: the rig rests on it under its root."""
