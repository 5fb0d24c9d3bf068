"""The computation: NumPy, SciPy and msgspec's structs only; no interface code, files, clock or printing."""
