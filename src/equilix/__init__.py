"""Equilix: balance, support and body-load planning for camera rigs."""

__version__ = "0.5.0"
