"""Lettered tags of the parts of a drawing, placed so that they meet neither each other nor the CG.

A tag stands on its part or beside it. Where there is no room, it stands in a rail above or below the rig, in the order
of what it points at: its leader goes aside between rail and rig, then straight up or down: none crosses another.
"""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.kit.parts import HowKnown, Part
from equilix.core.units import Kind
from equilix.present.drawing.rig_drawing import PartBox, letter
from equilix.present.drawing.scene import Anchor, Scene, circle, polyline, text_width
from equilix.present.drawing.scene import rect as rounded
from equilix.present.units import System, figure

_RING = 8.5
_CLEAR = 4.0
#: px between a rail and the rig, in which leaders go aside; and px that two leaders keep apart.
RAIL_GAP, _APART = 18.0, 5.0


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


#: A tag's place relative to its part's corner: dx, dy, width, whether the mass is shown, and where its leader meets the
#: part (px from its left), None without one.
Place = tuple[float, float, float, bool, float | None]


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
    if held is not None:
        for box in boxes:
            if box.index in held:
                _draw_held(scene, box, held[box.index], tag_text(parts[box.index], system), box.index == selected)
        return held
    places: dict[int, Place] = {}
    room = _Room(boxes, taken, area)
    led: list[_Led] = []
    for box in sorted(boxes, key=lambda box: (box.index != selected, -box.width * box.height)):
        text = tag_text(parts[box.index], system)
        width = 2 * _RING + 5 + text_width(text, 13)
        rect = _place(box, width, room)
        if rect is None:
            led.append(_Led(box, text, width))
            continue
        room.take(rect.grown(_CLEAR / 2), is_tag=True)
        places[box.index] = (rect.left - box.left, rect.top - box.top, rect.right - rect.left, True, None)
    for one, rect, at in _in_rails(led, boxes, room):
        shown = rect.right - rect.left > 2 * _RING + 1.0
        places[one.box.index] = (rect.left - one.box.left, rect.top - one.box.top, rect.right - rect.left, shown, at)
    # Leaders first: no line runs over a tag.
    by_number = {box.index: box for box in boxes}
    for index, place in sorted(places.items(), key=lambda item: item[1][4] is None):
        _draw_held(scene, by_number[index], place, tag_text(parts[index], system), index == selected)
    return places


class _Led(Struct, frozen=True):
    """A tag that has no room by its part: its `text`, and its `width` with it (px)."""

    box: PartBox
    text: str
    width: float


def _in_rails(led: list[_Led], boxes: list[PartBox], room: _Room) -> list[tuple[_Led, Rect, float]]:
    """Return where tags stand in the rails, and where their leaders meet their parts (px from their left)."""
    if not led:
        return []
    top, bottom = min(box.top for box in boxes), max(box.bottom for box in boxes)
    above = max(top - RAIL_GAP - 2 * _RING, room.area.top)
    below = min(bottom + RAIL_GAP, room.area.bottom - 2 * _RING)
    middle = (top + bottom) / 2.0
    halves = [one for one in led if one.box.centre[1] <= middle], [one for one in led if one.box.centre[1] > middle]
    # The fuller rail first: what it has no room for goes into the other one, in its order there.
    used: list[float] = []
    first, second = sorted(zip(halves, (above, below), strict=True), key=lambda rail: -len(rail[0]))
    found, rest = _in_rail(first[0], first[1], room, used)
    for _, rect, _ in found:
        room.take(rect.grown(_CLEAR / 2), is_tag=True)
    return found + _in_rail([*second[0], *rest], second[1], room, used)[0]


def _in_rail(
    led: list[_Led], y: float, room: _Room, used: list[float]
) -> tuple[list[tuple[_Led, Rect, float]], list[_Led]]:
    """Return the tags that stand in the rail at `y` (px, its top), and those that have no room there."""
    free = room.free_in(y, y + 2 * _RING)
    if not free or not led:
        return [], led
    pointing = sorted(((_meets_at(one.box, room, used, y), one) for one in led), key=lambda pair: pair[0])
    by_part: list[list[tuple[float, _Led]]] = [[] for _ in free]
    for x, one in pointing:
        nearest = min(range(len(free)), key=lambda k: max(free[k][0] - x, x - free[k][1], 0.0))
        by_part[nearest].append((x, one))
    found: list[tuple[_Led, Rect, float]] = []
    rest: list[_Led] = []
    for (start, end), several in zip(free, by_part, strict=True):
        wide = [one.width for _, one in several]
        if sum(wide) + _CLEAR * len(wide) > end - start:
            wide = [2 * _RING] * len(several)
        most = int((end - start) // (2 * _RING + _CLEAR))
        if sum(wide) + _CLEAR * len(wide) > end - start:
            rest += [one for _, one in several[most:]]
            several, wide = several[:most], wide[:most]
        # From the left as near as can be to what each points at, then back from the right end.
        xs: list[float] = []
        for k, (x, _) in enumerate(several):
            xs.append(max(x - _RING, start if k == 0 else xs[-1] + wide[k - 1] + _CLEAR))
        limit = end
        for k in range(len(xs) - 1, -1, -1):
            xs[k] = min(xs[k], limit - wide[k])
            limit = xs[k] - _CLEAR
        for (x, one), left, width in zip(several, xs, wide, strict=True):
            found.append((one, Rect(left, y, left + width, y + 2 * _RING), x - one.box.left))
    return found, rest


def _meets_at(box: PartBox, room: _Room, used: list[float], y: float) -> float:
    """Return where on a part (px) a leader meets it that runs straight from `y`: clear of tags and of other leaders."""
    cx, cy = box.centre
    half = max(box.width / 2.0 - 3.0, 0.0)
    tried = [cx + share * half for share in (0.0, 0.35, -0.35, 0.7, -0.7, 1.0, -1.0)]

    def trouble(x: float) -> tuple[bool, bool]:
        crowded = any(abs(x - other) < _APART for other in used)
        return crowded, room.over_a_tag(x, min(y, cy), max(y, cy))

    x = min(tried, key=lambda x: (sum(trouble(x)), abs(x - cx)))
    used.append(x)
    return x


def _draw_held(scene: Scene, box: PartBox, place: Place, text: str, chosen: bool) -> None:
    dx, dy, width, shown, at = place
    left, top = box.left + dx, box.top + dy
    rect = Rect(left, top, left + width, top + 2 * _RING)
    if at is not None:
        _draw_leader(scene, box, rect, box.left + at)
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


def _draw_leader(scene: Scene, box: PartBox, rect: Rect, x: float) -> None:
    """Draw a leader from a tag's ring: aside as far as the rail's gap goes, then straight to the part at `x` (px)."""
    ring, above = rect.left + _RING, rect.bottom <= box.centre[1]
    start = rect.bottom if above else rect.top
    end = box.top + min(4.0, box.height / 2.0) if above else box.bottom - min(4.0, box.height / 2.0)
    bend = start + RAIL_GAP - 4.0 if above else start - RAIL_GAP + 4.0
    bend = min(bend, end) if above else max(bend, end)
    scene.path(polyline(((ring, start), (x, bend), (x, end))), None, "ink3", 0.9)
    scene.put(circle(0.0, 0.0, 1.8), x, end, "ink3")


def _place(box: PartBox, width: float, room: _Room) -> Rect | None:
    """Return the first place for a tag on its part or beside it that meets nothing."""
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
    return room.first(inside + close, len(inside), box.index)


class _Room:
    """What tags may not meet: the parts' outlines, and what is taken, tags that were placed among it."""

    def __init__(self, boxes: list[PartBox], taken: list[Rect], area: Rect) -> None:
        self.area = area
        self._tags: list[Rect] = []
        self._rows = {box.index: row for row, box in enumerate(boxes)}
        # One row for each: left, top, right, bottom (px); outlines first, with as many to come as there are parts.
        self._rects = np.empty((4 * len(boxes) + len(taken), 4))
        self._count = 0
        for box in boxes:
            self.take(Rect(box.left, box.top, box.right, box.bottom))
        for rect in taken:
            self.take(rect)

    def take(self, rect: Rect, is_tag: bool = False) -> None:
        """Keep others clear of `rect`; of a tag leaders keep clear too."""
        self._rects[self._count] = (rect.left, rect.top, rect.right, rect.bottom)
        self._count += 1
        if is_tag:
            self._tags.append(rect)

    def over_a_tag(self, x: float, top: float, bottom: float) -> bool:
        """Whether an upright line at `x` runs over a tag."""
        return any(tag.left < x < tag.right and tag.top < bottom and top < tag.bottom for tag in self._tags)

    def free_in(self, top: float, bottom: float) -> list[tuple[float, float]]:
        """Return from where to where (px) a rail between `top` and `bottom` is free."""
        blocks = sorted(
            (left - _CLEAR, right + _CLEAR)
            for left, upper, right, lower in self._rects[: self._count].tolist()
            if upper < bottom and top < lower
        )
        free, start = [], self.area.left
        for left, right in (*blocks, (self.area.right, self.area.right)):
            if left - start > 2 * _RING:
                free.append((start, min(left, self.area.right)))
            start = max(start, right)
        return free

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
        area = self.area
        out = (left < area.left) | (right > area.right) | (top < area.top) | (bottom > area.bottom)
        bad = meets.any(axis=1) | out[:, 0]
        best = int(bad.argmin())
        return None if bad[best] else Rect(*tried[best])
