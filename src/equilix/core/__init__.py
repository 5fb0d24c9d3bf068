"""The computation: NumPy and SciPy only; no interface code, files, clock or printing."""
