"""What a build says of its supports, and how hands hold it: the build's own words, else what a support usually is."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from equilix.core.assembly.build import GRASP_SPOTS, Build, Grasp, Hold, Kit, Placed, Settings
from equilix.core.errors import AssemblyError
from equilix.core.keys import KEYS
from equilix.core.registry import usual_settings


def settings_of(build: Build, key: str) -> Settings:
    """Return what a build says of the support called `key`, the usual where it says nothing."""
    found = next((settings for settings in build.supports if settings.kind == key), None)
    return found if found is not None else usual_settings(key)


def with_settings(build: Build, changed: Settings) -> Build:
    """Return the build with `changed` in place of what it said of that support; what is usual need not be kept."""
    usual = usual_settings(changed.kind) == changed
    others = tuple(settings for settings in build.supports if settings.kind != changed.kind)
    kept = others if usual else tuple(sorted((*others, changed), key=lambda settings: KEYS.index(settings.kind)))
    return build if kept == build.supports else replace(build, supports=kept)


def hold_of(build: Build, key: str = "") -> Hold:
    """Return how hands hold a build on its support, or on the one called `key`."""
    return settings_of(build, key or build.support).hands


def with_hold(build: Build, hold: Hold, key: str = "") -> Build:
    """Return a build that is held so on its support, or on the one called `key`."""
    return with_settings(build, settings_of(build, key or build.support).with_hold(hold))


def check_grasps(build: Build, kit: Kit) -> None:
    """Raise AssemblyError if a hand holds something that is not on `build`."""
    if without_lost_grasps(build, kit) is not build:
        raise AssemblyError(f"Build {build.name}: a hand holds a part that is not on it. Choose another.")


def _is_there(grasp: Grasp, by_id: Mapping[str, Placed], kit: Kit) -> bool:
    placed = by_id.get(grasp.placed_id)
    part = kit.get(placed.part_id) if placed is not None else None
    if part is None:
        return False
    return grasp.mount_id in GRASP_SPOTS or any(mount.id == grasp.mount_id for mount in part.mounts)


def without_lost_grasps(build: Build, kit: Kit) -> Build:
    """Return `build` with hands by themselves, on any support, where they would hold what is not on it any more."""
    by_id = {placed.id: placed for placed in build.parts}
    for settings in build.supports:
        hold = settings.hands
        left, right = (g if g is None or _is_there(g, by_id, kit) else None for g in (hold.left, hold.right))
        if left is not hold.left or right is not hold.right:
            build = with_settings(build, settings.with_hold(replace(hold, left=left, right=right)))
    return build
