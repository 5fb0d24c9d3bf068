"""The supports, each a class in a file of its own; their registry is `equilix.core.registry`."""
