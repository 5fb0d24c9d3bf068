"""Parts that are pieces of a support themselves: of a gimbal's arms, of a sled's post."""

from __future__ import annotations

from collections.abc import Iterable

from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category, Part
from equilix.document.kinds.records import shipped_kinds

#: So many make one; of fewer it is a plate or a bearing that somebody owns besides. Common practice.
_ENOUGH = 3


def usual_support(kit: Iterable[Part]) -> str:
    """Return the support that a bag is for: that of which it holds the pieces and nothing to rest on a shoulder."""
    found = [part.category for part in kit]
    if Category.PAD in found:
        return KEYS[0]
    return next(
        (key for key, pieces in shipped_kinds().pieces_of.items() if sum(one in pieces for one in found) >= _ENOUGH),
        KEYS[0],
    )
