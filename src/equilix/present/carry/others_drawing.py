"""The same rig on other supports and bodies, side by side: cards, or a table where there is no room for them."""

from __future__ import annotations

from collections.abc import Sequence

from equilix.core.carry.carried import Carry
from equilix.core.statics.pose import Hindrance
from equilix.present.carry.carry_view import HINDRANCES, hold_words
from equilix.present.carry.comparison import Comparison
from equilix.present.drawing.scene import (
    Region,
    Scene,
    fitted,
    rect,
    text_width,
)
from equilix.present.supports.labels import label_for
from equilix.present.units import MINUS
from equilix.present.words import JOINT_NAMES, times

_OTHERS = 130.0


#: px: the least width of the table of builds by two operators, with the gap before it.
_TABLE = 290.0


#: px: the least width of one of the other supports.
_CARD = 90.0


def _others_columns(width: float, count: int) -> tuple[float, float, bool]:
    """Return where the cards of `count` supports begin, how wide each is, and whether the table goes below them."""
    left = 80.0 if width < 640.0 else 96.0
    # A card is as narrow as its words allow before the table has to go below.
    beside = (width - left - _TABLE) / max(count, 1)
    if beside >= _CARD:
        return left, min(beside, 150.0), False
    return left, min(150.0 if width >= 640.0 else _CARD, (width - left) / max(count, 1)), True


def others_height(width: float, count: int) -> float:
    """Return the height (px) that the other supports, `count` in all, and the builds need at `width` px."""
    return 2.0 * _OTHERS if _others_columns(width, count)[2] else _OTHERS


def draw_others(
    options: Sequence[tuple[str, Carry | Hindrance]],
    chosen: str,
    compared: Comparison,
    width: float,
    height: float,
) -> Scene:
    """Return the supports side by side, regions ("support", kind), and builds by operators, ("cell", row, column).

    The first build and operator are those that are looked at.
    """
    scene = Scene()
    scene.text(0, 18, "This build, carried another way", 16, 600)
    left, card, stacked = _others_columns(width, len(options))
    whole, height = height, min(height, _OTHERS) if stacked else height
    rows = ("Hold time", "Gives out", "Steadiness")
    pitch = min(24.0, (height - 56.0) / len(rows))
    first = 62.0
    for k, words in enumerate(rows):
        scene.text(0, first + k * pitch, words, 13, 400, "ink2")
    for i, (kind, carried) in enumerate(options):
        x = left + i * card
        if kind == chosen:
            scene.path(rect(x - 8, 28, card - 8, height - 34, 4), "tint")
        name = fitted(label_for(kind).name, 15, card - 16)
        scene.text(x, 45, name, 15, 600, "accent" if kind == chosen else "ink")
        box = ((x - 8, 28.0), (x + card - 16, 28.0), (x + card - 16, height - 6), (x - 8, height - 6))
        scene.regions.append(Region(("support", kind), box))
        if isinstance(carried, Hindrance):
            scene.text(x, first, fitted(HINDRANCES[carried][0].rstrip("."), 13, card - 16), 13, 400, "ink2")
            continue
        worst = carried.worst
        steady = times(carried.steady[1]) if carried.steady is not None else "–"
        for k, words in enumerate((hold_words(carried.lasts), JOINT_NAMES[worst.joint][1], steady)):
            scene.text(x, first + k * pitch, fitted(words, 14, card - 16), 14, 600 if k == 0 else 400)
    if not any(isinstance(cell, Carry) for _, cells in compared.table for cell in cells):
        return scene  # nobody carries any of them on this support
    if stacked:
        _draw_table(scene, compared, 0.0, height, width, whole)
    else:
        _draw_table(scene, compared, left + len(options) * card + 20, 0.0, width, whole)
    return scene


def _draw_table(scene: Scene, compared: Comparison, left: float, above: float, width: float, height: float) -> None:
    table, builds = compared.table, len(compared.book.builds)
    longest = max((text_width(name, 13) for name, _ in table), default=0.0) + 12.0
    wide = 84.0 if width - left < 330.0 else min(max(longest, 110.0), 190.0)
    shown = compared.operators[: max(1, int((width - left - wide) / 92))]
    scene.text(left, above + 18, fitted("Other builds, other operators", 16, width - left), 16, 600)
    column = (width - left - wide) / max(len(shown), 1)
    for j, operator in enumerate(shown):
        x = left + wide + j * column
        scene.text(x, above + 45, fitted(operator.name, 13, column - 8), 13, 600, "ink2")
    pitch = min(24.0, max((height - above - 56.0) / 4, 14.0))
    room = max(int((height - above - 62.0) / pitch) + 1, 0)
    if max(builds, len(table)) > room:
        # The line below says how many more there are.
        room = max(int((height - above - 80.0) / pitch) + 1, 0)
    for i, (name, cells) in enumerate(table[:room]):
        y = above + 62.0 + i * pitch
        scene.text(left, y, fitted(name, 13, wide - 6), 13, 400, "ink2")
        for j, carried in enumerate(cells[: len(shown)]):
            x = left + wide + j * column
            here = i == 0 and j == 0
            if here:
                scene.path(rect(x - 6, y - 15, column - 4, 20, 3), "tint")
            words = MINUS
            if not isinstance(carried, Hindrance):
                words = hold_words(carried.lasts)
            scene.text(x, y, words, 13, 600 if here else 400)
            box = ((x - 6, y - 15), (x + column - 10, y - 15), (x + column - 10, y + 5), (x - 6, y + 5))
            scene.regions.append(Region(("cell", str(i), str(j)), box))
    more = max(builds, len(table)) - min(room, len(table))
    if more > 0:
        scene.text(left, height - 2, f"and {more} more builds", 12, 400, "ink3")
