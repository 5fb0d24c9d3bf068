"""What is worked out of a rig is kept with it, and lives as long as it does.

Nothing that is kept is changed: another value takes its place. Window and search threads may ask at once; at worst the
same is worked out twice.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from functools import wraps
from typing import Any, Concatenate, ParamSpec, Protocol, TypeVar

P = ParamSpec("P")
T = TypeVar("T")
#: Of each figure, for how many places of slides and the like it is kept: the build on screen, what is tried, and one
#: beside it.
CACHED_RIGS = 4
#: People, grips and ways of standing: small things that come again with any rig.
CACHED_PEOPLE = 128


class RigCache:
    """What was worked out of one rig, by what worked it out and what it was asked."""

    def __init__(self) -> None:
        self._kept: dict[object, dict[Hashable, Any]] = {}

    def of(self, work: object) -> dict[Hashable, Any]:
        """Return what `work` has found by what it was asked: to be read, not to be changed."""
        return self._kept.setdefault(work, {})

    def put(self, work: object, asked: Hashable, found: object, most: int = CACHED_RIGS) -> None:
        """Keep what `work` has found; beyond `most` the oldest goes."""
        kept = self.of(work)
        if len(kept) >= most:
            for old in list(kept)[: len(kept) - most + 1]:
                kept.pop(old, None)
        kept[asked] = found


class HasCache(Protocol):
    """An assembly or an analysis."""

    @property
    def cache(self) -> RigCache:
        """What was worked out of it."""


R = TypeVar("R", bound=HasCache)


def cached_for_rig(work: Callable[Concatenate[R, P], T]) -> Callable[Concatenate[R, P], T]:
    """Keep what `work` returns with its first argument, an assembly or an analysis."""

    @wraps(work)
    def asked_once(rig: R, /, *args: P.args, **more: P.kwargs) -> T:
        asked = (args, *more.items()) if more else args
        kept = rig.cache.of(work)
        try:
            return kept[asked]  # type: ignore[no-any-return]
        except KeyError:
            found = work(rig, *args, **more)
            rig.cache.put(work, asked, found)
            return found

    return asked_once
