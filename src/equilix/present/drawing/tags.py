"""Lettered tags beside the parts of a drawing, placed so that they meet neither each other nor the CG."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.kit.parts import HowKnown, Part
from equilix.core.units import Kind
from equilix.present.drawing.rig_drawing import PartBox, letter
from equilix.present.drawing.scene import Anchor, Scene, circle, text_width
from equilix.present.drawing.scene import rect as rounded
from equilix.present.units import System, figure

_RING = 8.5
_CLEAR = 4.0
_LEADER = 40.0


class Rect(Struct, frozen=True):
    left: float
    top: float
    right: float
    bottom: float

    def meets(self, other: Rect) -> bool:
        """Whether the two overlap."""
        return (
            self.left < other.right and other.left < self.right and self.top < other.bottom and other.top < self.bottom
        )

    def within(self, other: Rect) -> bool:
        """Whether this one lies wholly inside `other`."""
        return (
            self.left >= other.left
            and self.right <= other.right
            and self.top >= other.top
            and self.bottom <= other.bottom
        )

    def grown(self, by: float) -> Rect:
        return Rect(self.left - by, self.top - by, self.right + by, self.bottom + by)


def tag_text(part: Part, system: System) -> str:
    """Return a part's mass as its tag shows it."""
    if part.mass is None:
        return "mass not known"
    about = "≈ " if part.mass_known is HowKnown.GUESSED else ""
    return about + figure(part.mass, Kind.MASS, system)


#: A tag's place relative to its part's corner: dx, dy, width, whether the mass is shown, whether it has a leader.
Place = tuple[float, float, float, bool, bool]


def draw_tags(
    scene: Scene,
    boxes: list[PartBox],
    parts: tuple[Part, ...],
    system: System,
    area: Rect,
    taken: list[Rect],
    selected: int | None,
    held: dict[int, Place] | None = None,
) -> dict[int, Place]:
    """Add one tag for each of `boxes`; `taken` are places to keep clear, `area` bounds all.

    Returns where each tag went; given back as `held`, tags stay by their parts while one is dragged.
    """
    places: dict[int, Place] = {}
    room = _Room(boxes, taken, area)
    order = sorted(boxes, key=lambda box: (box.index != selected, -box.width * box.height))
    for box in order:
        text = tag_text(parts[box.index], system)
        if held is not None:
            if box.index in held:
                _draw_held(scene, box, held[box.index], text, box.index == selected)
            continue
        mark = letter(box.index)
        full_width = 2 * _RING + 5 + text_width(text, 13)
        place = _place(box, full_width, room)
        if place is None:
            text = ""
            place = _place(box, 2 * _RING, room)
        if place is None:
            continue
        rect, leader = place
        room.take(rect.grown(_CLEAR / 2))
        chosen = box.index == selected
        if leader:
            _draw_leader(scene, box, rect)
        _draw(scene, rect, mark, text, chosen)
        dx, dy = rect.left - box.left, rect.top - box.top
        places[box.index] = (dx, dy, rect.right - rect.left, bool(text), leader)
    return held if held is not None else places


def _draw_held(scene: Scene, box: PartBox, place: Place, text: str, chosen: bool) -> None:
    dx, dy, width, shown, leader = place
    left, top = box.left + dx, box.top + dy
    rect = Rect(left, top, left + width, top + 2 * _RING)
    if leader:
        _draw_leader(scene, box, rect)
    _draw(scene, rect, letter(box.index), text if shown else "", chosen)


def _draw(scene: Scene, rect: Rect, mark: str, text: str, chosen: bool) -> None:
    cx, cy = rect.left + _RING, (rect.top + rect.bottom) / 2
    ground = rounded(0.0, 0.0, round(rect.right - rect.left + 2, 3), 2 * _RING, 8)
    scene.put(ground, rect.left - 1, rect.top, "paper", None, 0.0, (), 0.78)
    ring = circle(0.0, 0.0, _RING)
    scene.put(ring, cx, cy, "accent" if chosen else "paper", "accent" if chosen else "ink", 1.1)
    size = 11.5 if len(mark) == 1 else 9.0
    scene.text(cx, cy + size * 0.35, mark, size, 600, "onaccent" if chosen else "ink", Anchor.MIDDLE)
    if text:
        scene.text(rect.left + 2 * _RING + 5, cy + 4.5, text, 13, 500, "accent" if chosen else "ink")


def _draw_leader(scene: Scene, box: PartBox, rect: Rect) -> None:
    bx, by = box.centre
    x = min(max(bx, rect.left), rect.right)
    y = rect.top if rect.top > by else rect.bottom
    if rect.left > box.right or rect.right < box.left:
        x, y = (rect.left if rect.left > bx else rect.right), (rect.top + rect.bottom) / 2
    end_x = min(max(x, box.left + 3), box.right - 3)
    end_y = min(max(y, box.top + 3), box.bottom - 3)
    scene.line(x, y, end_x, end_y, "ink3", 0.9)
    scene.put(circle(0.0, 0.0, 1.8), end_x, end_y, "ink3")


def _place(box: PartBox, width: float, room: _Room) -> tuple[Rect, bool] | None:
    """Return the first place for a tag that meets nothing, and whether it needs a leader."""
    cx, cy = box.centre
    height = 2 * _RING

    def at(x: float, y: float) -> tuple[float, float, float, float]:
        return (x, y - height / 2, x + width, y + height / 2)

    inside: list[tuple[float, float, float, float]] = []
    if box.width >= width + 16 and box.height >= 30:
        inside = [
            at(x, y)
            for y in (box.top + height, cy, box.bottom - height)
            for x in (box.left + 8, cx - width / 2, box.right - width - 8)
        ]
    near = _CLEAR + 2
    close = [
        at(cx - width / 2, box.top - near - height / 2),
        at(box.left, box.top - near - height / 2),
        at(box.right - width, box.top - near - height / 2),
        at(box.right + near, cy),
        at(box.left - near - width, cy),
        at(box.right + near, box.top + height / 2),
        at(box.right + near, box.bottom - height / 2),
        at(box.left - near - width, box.top + height / 2),
        at(box.left - near - width, box.bottom - height / 2),
        at(cx - width / 2, box.bottom + near + height / 2),
    ]
    # Most find their place beside their part: farther off is looked at only for those that don't.
    found = room.first(inside + close, len(inside), box.index)
    if found is not None:
        return found, False
    led = [
        rect
        for away in (14.0, 26.0, _LEADER, 60.0, 85.0)
        for rect in (
            at(cx - width / 2, box.top - away - height / 2),
            at(box.right - width, box.top - away - height / 2),
            at(box.left, box.top - away - height / 2),
            at(box.right + away, box.top - away / 2),
            at(box.left - away - width, box.top - away / 2),
            at(box.right + away, cy + away / 2),
            at(box.left - away - width, cy + away / 2),
            at(cx - width / 2, box.bottom + away + height / 2),
            at(box.right + 4, box.bottom + away + height / 2),
            at(box.left - width - 4, box.bottom + away + height / 2),
        )
    ]
    found = room.first(led, 0, box.index)
    return (found, True) if found is not None else None


class _Room:
    """What tags may not meet: the parts' outlines, and what is taken, tags that were placed among it."""

    def __init__(self, boxes: list[PartBox], taken: list[Rect], area: Rect) -> None:
        self._area = area
        self._rows = {box.index: row for row, box in enumerate(boxes)}
        # One row for each: left, top, right, bottom (px); outlines first, with as many to come as there are parts.
        self._rects = np.empty((2 * len(boxes) + len(taken), 4))
        self._count = 0
        for box in boxes:
            self.take(Rect(box.left, box.top, box.right, box.bottom))
        for rect in taken:
            self.take(rect)

    def take(self, rect: Rect) -> None:
        """Keep others clear of `rect`."""
        self._rects[self._count] = (rect.left, rect.top, rect.right, rect.bottom)
        self._count += 1

    def first(self, tried: list[tuple[float, float, float, float]], inside: int, index: int) -> Rect | None:
        """Return the first of the rectangles that has room; the first `inside` of them lie on part `index`."""
        left, top, right, bottom = np.array(tried).T[:, :, None]
        o = self._rects[: self._count]
        meets = (left < o[:, 2]) & (o[:, 0] < right) & (top < o[:, 3]) & (o[:, 1] < bottom)
        if inside:
            # Inside a part a tag lies over it, and over what encloses it.
            outlines = o[: len(self._rows)]
            own = outlines[self._rows[index]]
            over = ((outlines[:, :2] <= own[:2] + 1.0) & (outlines[:, 2:] >= own[2:] - 1.0)).all(axis=1)
            meets[:inside, : len(over)] &= ~over
        area = self._area
        out = (left < area.left) | (right > area.right) | (top < area.top) | (bottom > area.bottom)
        bad = meets.any(axis=1) | out[:, 0]
        best = int(bad.argmin())
        return None if bad[best] else Rect(*tried[best])
