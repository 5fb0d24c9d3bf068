"""What parts of each kind usually weigh and measure, for what nobody has weighed or measured yet: common practice."""

from __future__ import annotations

import msgspec
from msgspec import Struct

from equilix.core.kit.parts import Category
from equilix.core.sources import common_practice
from equilix.data import DATA


class _Usual(Struct, frozen=True):
    mass: float
    size: tuple[float, float, float]


class _Table(Struct, frozen=True):
    usual: dict[Category, _Usual]


_FILE = DATA / "kinds.json"
#: Mass (kg) and length, width, height (mm) of a usual part of each kind, as the file has them; common practice.
TYPICAL: dict[Category, tuple[float, tuple[float, float, float]]] = {
    category: (usual.mass, usual.size)
    for category, usual in msgspec.json.decode(_FILE.read_bytes(), type=_Table).usual.items()
}

#: Factor by which the mass of a part may differ from its kind's usual one before it is asked about.
ODD_MASS = common_practice(15.0)

#: kg above which a part of no kind is asked about.
_HEAVIEST = common_practice(30.0)


def odd_mass(category: Category, mass: float) -> bool:
    """Whether `mass` (kg) is so far from what such parts usually weigh that it was probably typed in another unit."""
    usual, _ = TYPICAL[category]
    if category is Category.OTHER:
        return mass == 0.0 or mass > _HEAVIEST
    return not usual / ODD_MASS <= mass <= usual * ODD_MASS


#: Shortest and longest side (m) that a part of a camera rig has without being asked about.
_SIDES = common_practice((0.0005, 1.5))


def odd_size(size: tuple[float, float, float]) -> bool:
    """Whether a size (m) is so small or large that it was probably typed in another unit."""
    return max(size) > _SIDES[1] or min(size) < _SIDES[0]
