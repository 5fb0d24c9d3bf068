"""A sled on a vest's spring arm."""
