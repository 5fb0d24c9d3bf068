"""The joints of a build as what carries it sees them: where each is, and what lies beyond it."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.assembly.mounts import link_of
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.cache import cached_for_rig
from equilix.core.kit.parts import Mount


class Tie(Struct, frozen=True, eq=False):
    """A joint: part number `sitter` has a foot at `foot` (3,) (m, from its origin, rig axes) on a `mount` of `holder`.

    `child` is the one of the two that lies away from the root of the tree, `beyond_child` (n,) bool what does.
    """

    holder: int
    sitter: int
    child: int
    mount: Mount
    foot: np.ndarray
    beyond_child: np.ndarray

    def beyond(self, part: int) -> np.ndarray:
        """Return which parts (n,) lie on the other side of the joint than part number `part`."""
        return ~self.beyond_child if self.beyond_child[part] else self.beyond_child

    def point(self, positions: Positions) -> np.ndarray:
        """Return where it is (3,) (m, rig frame): at the foot, wherever the slide stands."""
        result: np.ndarray = positions.origin[self.sitter] + self.foot
        return result


@cached_for_rig
def ties(assembly: Assembly) -> tuple[Tie, ...]:
    """Return every joint between two parts of a build."""
    build = assembly.build
    number = {placed.id: i for i, placed in enumerate(build.parts)}
    found = []
    for i, placed in enumerate(build.parts):
        link = link_of(placed, build, assembly.kit)
        if link is None:
            continue
        beyond = np.zeros(len(build.parts), dtype=bool)
        beyond[[number[one] for one in build.carried_by(placed.id)]] = True
        sitter = number[link.sitter]
        foot = assembly.rotation[sitter] @ np.array(link.foot_at)
        found.append(Tie(number[link.holder], sitter, i, link.mount, foot, beyond))
    return tuple(found)
