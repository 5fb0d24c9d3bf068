"""Windows that ask."""
