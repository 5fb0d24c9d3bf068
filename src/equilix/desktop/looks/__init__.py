"""How it looks: colours, type, and pictures of it."""
