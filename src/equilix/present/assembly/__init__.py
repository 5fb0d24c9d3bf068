"""The room where parts go on."""
