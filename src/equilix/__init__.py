"""Equilix: balance, support and body-load planning for camera rigs."""

__version__ = "0.2.0"

__version__ = "0.3.0"
