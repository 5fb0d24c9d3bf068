"""The bare hands."""
