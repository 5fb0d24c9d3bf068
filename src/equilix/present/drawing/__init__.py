"""Scenes and what is drawn in several rooms: silhouettes, rig, tags, sockets."""
