"""The keys of the supports: what they are called in files and on the command line."""

from __future__ import annotations

#: In the order in which rooms offer them.
KEYS = ("shoulder", "handheld", "harness", "gimbal", "vest", "tripod")
