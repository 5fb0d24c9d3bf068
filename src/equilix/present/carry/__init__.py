"""The room of what it costs to carry a rig."""
