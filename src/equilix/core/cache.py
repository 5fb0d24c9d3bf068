"""How much is remembered of what was worked out."""

from __future__ import annotations

#: Rigs: the build on screen, what is tried on it, and one beside it. Each keeps its assembly in memory, megabytes where
#: there are a thousand parts.
CACHED_RIGS = 4
#: People, grips and ways of standing: small things that come again.
CACHED_PEOPLE = 128
