"""What runs beside the window's own thread, and what ends it."""
