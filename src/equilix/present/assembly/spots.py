"""Places of a build that still take a part, in words."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.assembly.fit import (
    Spot,
)
from equilix.core.assembly.mounts import FreeFoot, FreeMount
from equilix.core.kit.parts import RODS, Connection
from equilix.present.assembly.pieces import Piece
from equilix.present.words import mid_sentence, mount_name, short_name


def spot_point(analysis: Analysis, spot: Spot) -> np.ndarray:
    """Return where a place for a part is (3,) (m, rig frame): a pair of rods at its end farther from the pad."""
    index = next(i for i, placed in enumerate(analysis.build.parts) if placed.id == spot.placed_id)
    rotation, origin = analysis.assembly.rotation[index], analysis.positions.origin[index]
    if isinstance(spot, FreeFoot):
        below: np.ndarray = origin + rotation @ np.array(spot.foot.at)
        return below
    mount, setting = spot.mount, 0.0
    if mount.joint is Connection.SLIDE and mount.kind in RODS:
        pad_x = float(analysis.equilibrium.point[0]) if analysis.equilibrium is not None else 0.0
        ends = [
            origin + rotation @ (np.array(mount.at) + s * np.array(mount.unit_axis)) for s in (mount.low, mount.high)
        ]
        return max(ends, key=lambda end: abs(float(end[0]) - pad_x))
    if mount.joint is Connection.SLIDE:
        setting = (mount.low + mount.high) / 2.0
    point: np.ndarray = origin + rotation @ (np.array(mount.at) + setting * np.array(mount.unit_axis))
    return point


def spot_key(spot: Spot) -> tuple[str, str, str]:
    """Return by what a drawing knows a place again."""
    if isinstance(spot, FreeFoot):
        return ("foot", spot.placed_id, str(spot.number))
    return ("mount", spot.placed_id, spot.mount.id)


def spot_name(spot: Spot, build: Build, kit: Kit) -> str:
    """Return a place in words: "rods of Rear rods 15 mm", "below Camera, 1/4-20"."""
    if isinstance(spot, FreeMount):
        return mount_name(spot, build, kit)
    return f"below {kit[build.placed(spot.placed_id).part_id].name}, {spot.foot.kind}"


def spot_title(spot: Spot, build: Build, kit: Kit) -> str:
    """Return what the tray is called for a place: "Fits rods of Rear rods 15 mm"."""
    return f"{'Fits' if isinstance(spot, FreeMount) else 'Goes'} {spot_name(spot, build, kit)}"


def spot_where(spot: Spot, build: Build, kit: Kit) -> str:
    """Return a place within a sentence: "on rods of …", "below Camera, …"."""
    name = mid_sentence(spot_name(spot, build, kit))
    return f"on {name}" if isinstance(spot, FreeMount) else name


def spot_of(placed: Placed, spots: Sequence[Spot]) -> Spot | None:
    """Return the place at which a part goes on that is not on the build yet; None by a connection of its own."""
    if placed.own is not None:
        return None
    return next((spot for spot in spots if spot.placed_id == placed.parent and _takes(spot, placed)), None)


def _takes(spot: Spot, placed: Placed) -> bool:
    if isinstance(spot, FreeFoot):
        return placed.reversed and spot.number == placed.foot
    return not placed.reversed and spot.mount.id == placed.mount


def tray_words(analysis: Analysis, kit: Kit, spot: Spot | None, count: int, first: Piece | None) -> tuple[str, str]:
    """Return title and note of the tray for a place: `count` parts fit, `first` is what Enter puts on."""
    if spot is not None:
        title = spot_title(spot, analysis.build, kit)
    else:
        title = "First part" if not analysis.build.parts else "Next part" if first is not None else "Nothing fits"
    if first is not None and analysis.build.parts:
        name = short_name(first.part.name)
        return title, f"Enter asks about {mid_sentence(name)}" if first.asks else f"Enter: {name} {first.words}"
    if not count:
        return title, "No part of the kit fits here. Ctrl+T adds typical parts, J makes a connection of your own."
    return title, f"{count} of {len(kit)} parts. Drag one on, or press its number"
