"""What carrying a rig costs each joint, how sure that is, and grips side by side and staggered."""
