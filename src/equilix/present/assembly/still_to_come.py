"""What a build still lacks; the rail asks at every start, so that nothing else is loaded for it."""

from __future__ import annotations

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Kit
from equilix.core.kit.parts import Category, MountKind
from equilix.present.supports import text_of

#: What every rig needs in the end, and the word for it.
_NEEDED: tuple[tuple[Category, str], ...] = (
    (Category.BODY, "a camera"),
    (Category.LENS, "a lens"),
    (Category.BATTERY, "a battery"),
)


def still_to_come(analysis: Analysis, kit: Kit) -> tuple[str, ...]:
    """Return in words what the kit holds loose that a rig can't do without, and what is lacking altogether."""
    on_build = {placed.part_id for placed in analysis.build.parts}
    there = {part.category for part in analysis.assembly.parts}
    loose = {part.category for part in kit.values() if part.id not in on_build}
    found = [word for category, word in _NEEDED if category not in there and category in loose]
    touches = {point.kind for point in analysis.assembly.touch_points}
    lacking = text_of(analysis).lacks(analysis)
    if lacking:
        found.append(lacking)
    if text_of(analysis).needs_grips and MountKind.GRIP_POINT not in touches:
        found.append("grips, or a support")
    return tuple(found)
