"""What parts of each kind usually weigh and measure, for what nobody has weighed or measured yet: common practice."""

from __future__ import annotations

from equilix.core.kit.parts import Category

#: Mass (kg) and length, width, height (mm) of a usual part of each kind; common practice.
TYPICAL: dict[Category, tuple[float, tuple[float, float, float]]] = {
    Category.BODY: (2.0, (150, 104, 125)),
    Category.CAGE: (0.36, (90, 160, 118)),
    Category.PLATE: (0.2, (120, 60, 10)),
    Category.RODS: (0.1, (203.2, 75, 15)),
    Category.PAD: (0.35, (150, 110, 60)),
    Category.BATTERY_PLATE: (0.3, (18, 95, 150)),
    Category.BATTERY: (0.72, (52, 100, 150)),
    Category.HANDLE: (0.34, (160, 32, 60)),
    Category.MONITOR: (0.3, (24, 150, 92)),
    Category.ARM: (0.2, (100, 22, 46)),
    Category.ADAPTER: (0.2, (26, 66, 66)),
    Category.LENS: (1.0, (130, 90, 90)),
    Category.LENS_SUPPORT: (0.18, (24, 80, 60)),
    Category.FOCUS: (0.3, (48, 46, 94)),
    Category.MATTE_BOX: (0.48, (112, 150, 150)),
    Category.GRIP: (0.19, (36, 36, 145)),
    Category.CLAMP: (0.25, (34, 142, 34)),
    Category.AUDIO: (0.12, (150, 40, 60)),
    Category.SENDER: (0.25, (34, 68, 110)),
    Category.WEIGHT: (0.9, (40, 90, 40)),
    Category.CABLE: (0.15, (120, 30, 30)),
    Category.GIMBAL: (0.25, (90, 60, 60)),
    Category.SLED: (0.5, (40, 40, 700)),
    Category.BEARING: (0.3, (60, 60, 50)),
    Category.OTHER: (0.2, (60, 60, 60)),
}

#: Factor by which the mass of a part may differ from its kind's usual one before it is asked about; common
#: practice.
ODD_MASS = 15.0


def odd_mass(category: Category, mass: float) -> bool:
    """Whether `mass` (kg) is so far from what such parts usually weigh that it was probably typed in another unit."""
    usual, _ = TYPICAL[category]
    if category is Category.OTHER:
        return mass == 0.0 or mass > 30.0
    return not usual / ODD_MASS <= mass <= usual * ODD_MASS


#: Shortest and longest side (m) that a part of a camera rig has without being asked about; common practice.
_SIDES = (0.0005, 1.5)


def odd_size(size: tuple[float, float, float]) -> bool:
    """Whether a size (m) is so small or large that it was probably typed in another unit."""
    return max(size) > _SIDES[1] or min(size) < _SIDES[0]
