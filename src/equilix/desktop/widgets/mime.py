"""What is dragged from one widget to another."""

from __future__ import annotations

#: A part of the kit, by its id.
MIME = "application/x-equilix-part-id"
