"""A powered gimbal."""
