"""A tripod's head, and a table."""
