"""The bench in words and pictures."""
