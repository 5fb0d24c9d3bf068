"""Builds: parts joined to one rig, placed, checked for clashes, turned round."""
