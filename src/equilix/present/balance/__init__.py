"""The room where the rig gets level: panel, elevation, ways, lenses, uncertainty."""
