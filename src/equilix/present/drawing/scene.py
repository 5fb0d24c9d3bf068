"""A drawing as a list of paths and labels in pixels, for the screen and for paper alike.

Colours are names of palette tokens. y grows downwards.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Callable, Iterable, Sequence
from enum import StrEnum
from functools import lru_cache

from msgspec import Struct, field

Point = tuple[float, float]
#: ("M", x, y), ("L", x, y), ("C", x1, y1, x2, y2, x, y) or ("Z",)
Command = tuple[str | float, ...]

_KAPPA = 0.5522847498  # circle by four cubics, error below 0.03 %


class Anchor(StrEnum):
    START = "start"
    MIDDLE = "middle"
    END = "end"


class PathItem(Struct, frozen=True):
    """A path: `fill` and `stroke` are colour tokens, `dash` lengths in px, `opacity` of the fill.

    The whole path is shifted by (`dx`, `dy`) px, so that equal shapes in many places share their commands.
    """

    commands: tuple[Command, ...]
    fill: str | None = None
    stroke: str | None = None
    width: float = 1.25
    dash: tuple[float, ...] = ()
    opacity: float = 1.0
    dx: float = 0.0
    dy: float = 0.0


class TextItem(Struct, frozen=True):
    """One line of text; y is its baseline."""

    x: float
    y: float
    text: str
    size: float = 13.0
    weight: int = 400
    color: str = "ink"
    anchor: Anchor = Anchor.START


Item = PathItem | TextItem


class Region(Struct, frozen=True):
    """Where the mouse meets something: `key` names it, `polygon` bounds it."""

    key: tuple[str, ...]
    polygon: tuple[Point, ...]

    def contains(self, x: float, y: float) -> bool:
        """Whether the point is inside, by counting crossings."""
        inside = False
        previous = self.polygon[-1]
        for point in self.polygon:
            if (point[1] > y) != (previous[1] > y):
                across = (previous[0] - point[0]) * (y - point[1]) / (previous[1] - point[1]) + point[0]
                if x < across:
                    inside = not inside
            previous = point
        return inside


class Scene(Struct, eq=False):
    """Items back to front, and regions; later regions lie on top."""

    items: list[Item] = field(default_factory=list)
    regions: list[Region] = field(default_factory=list)

    def path(
        self,
        commands: Iterable[Command],
        fill: str | None = None,
        stroke: str | None = None,
        width: float = 1.25,
        dash: tuple[float, ...] = (),
        opacity: float = 1.0,
    ) -> None:
        """Add a path."""
        self.put(tuple(commands), 0.0, 0.0, fill, stroke, width, dash, opacity)

    def put(
        self,
        commands: tuple[Command, ...],
        x: float,
        y: float,
        fill: str | None = None,
        stroke: str | None = None,
        width: float = 1.25,
        dash: tuple[float, ...] = (),
        opacity: float = 1.0,
    ) -> None:
        """Add a shape that is drawn about (0, 0), at a place: one shape serves in many places, and while it moves."""
        self.items.append(PathItem(commands, fill, stroke, width, dash, opacity, x, y))

    def line(
        self, x1: float, y1: float, x2: float, y2: float, stroke: str, width: float = 1.0, dash: tuple[float, ...] = ()
    ) -> None:
        """Add a straight line."""
        self.path((("M", x1, y1), ("L", x2, y2)), None, stroke, width, dash)

    def text(
        self,
        x: float,
        y: float,
        text: str,
        size: float = 13.0,
        weight: int = 400,
        color: str = "ink",
        anchor: Anchor = Anchor.START,
    ) -> None:
        """Add a line of text with its baseline at y."""
        self.items.append(TextItem(x, y, text, size, weight, color, anchor))

    def note(self, x: float, y: float, text: str, size: float, color: str, anchor: Anchor = Anchor.START) -> None:
        """Add a line of text that stays legible on whatever lies below it."""
        wide = text_width(text, size)
        left = {Anchor.START: x, Anchor.MIDDLE: x - wide / 2.0, Anchor.END: x - wide}[anchor]
        ground = rect(0.0, 0.0, wide + 4.0, size + 3.0, 2)
        self.put(ground, left - 2.0, y - size + 1.0, "paper", None, 0.0, (), 0.86)
        self.text(x, y, text, size, 600, color, anchor)

    def hit(self, x: float, y: float) -> tuple[str, ...] | None:
        """Return the key of the topmost region at a point."""
        for region in reversed(self.regions):
            if region.contains(x, y):
                return region.key
        return None


#: The shift of what stays.
_STAYS = (0.0, 0.0)


def shift_between(old: Item, new: Item) -> tuple[float, float] | None:
    """Return by how much (px, right and down) `new` is `old` shifted, None if it differs otherwise."""
    if old == new:
        return _STAYS
    if isinstance(old, TextItem):
        if not isinstance(new, TextItem) or old.text != new.text or old.color != new.color or old.size != new.size:
            return None
        if old.weight != new.weight or old.anchor is not new.anchor:
            return None
        return new.x - old.x, new.y - old.y
    if not isinstance(new, PathItem) or old.fill != new.fill or old.stroke != new.stroke or old.width != new.width:
        return None
    if old.dash != new.dash or old.opacity != new.opacity:
        return None
    x, y = new.dx - old.dx, new.dy - old.dy
    if old.commands is new.commands or old.commands == new.commands:
        return x, y
    within = _path_shift(old.commands, new.commands)
    return (x + within[0], y + within[1]) if within is not None else None


#: px: a path that is bent by less is still the same path.
_SAME = 1e-3


def _path_shift(old: tuple[Command, ...], new: tuple[Command, ...]) -> tuple[float, float] | None:
    """Return by how much one path is the other shifted, None if their shapes differ."""
    if len(old) != len(new) or not old or len(old[0]) < 3 or len(new[0]) < 3:
        return None
    shift = float(new[0][1]) - float(old[0][1]), float(new[0][2]) - float(old[0][2])
    for a, b in zip(old, new, strict=True):
        if a[0] != b[0] or len(a) != len(b):
            return None
        for k in range(1, len(a)):
            if abs(float(b[k]) - float(a[k]) - shift[1 - k % 2]) > _SAME:
                return None
    return shift


def polygon(points: Sequence[Point]) -> tuple[Command, ...]:
    """Return a closed path through `points`."""
    first, *others = points
    return (("M", *first), *(("L", *point) for point in others), ("Z",))


def polyline(points: Sequence[Point]) -> tuple[Command, ...]:
    """Return an open path through `points`."""
    first, *others = points
    return (("M", *first), *(("L", *point) for point in others))


@lru_cache(maxsize=1024)
def rect(x: float, y: float, w: float, h: float, r: float = 0.0) -> tuple[Command, ...]:
    """Return a rectangle with corners rounded by `r`."""
    r = min(r, abs(w) / 2.0, abs(h) / 2.0)
    if r <= 0.0:
        return polygon(((x, y), (x + w, y), (x + w, y + h), (x, y + h)))
    k = r * (1.0 - _KAPPA)
    return (
        ("M", x + r, y),
        ("L", x + w - r, y),
        ("C", x + w - k, y, x + w, y + k, x + w, y + r),
        ("L", x + w, y + h - r),
        ("C", x + w, y + h - k, x + w - k, y + h, x + w - r, y + h),
        ("L", x + r, y + h),
        ("C", x + k, y + h, x, y + h - k, x, y + h - r),
        ("L", x, y + r),
        ("C", x, y + k, x + k, y, x + r, y),
        ("Z",),
    )


def ellipse(cx: float, cy: float, rx: float, ry: float) -> tuple[Command, ...]:
    """Return an ellipse."""
    kx, ky = rx * _KAPPA, ry * _KAPPA
    return (
        ("M", cx + rx, cy),
        ("C", cx + rx, cy + ky, cx + kx, cy + ry, cx, cy + ry),
        ("C", cx - kx, cy + ry, cx - rx, cy + ky, cx - rx, cy),
        ("C", cx - rx, cy - ky, cx - kx, cy - ry, cx, cy - ry),
        ("C", cx + kx, cy - ry, cx + rx, cy - ky, cx + rx, cy),
        ("Z",),
    )


@lru_cache(maxsize=1024)
def circle(cx: float, cy: float, r: float) -> tuple[Command, ...]:
    """Return a circle."""
    return ellipse(cx, cy, r, r)


def arc(cx: float, cy: float, r: float, start: float, end: float) -> tuple[Command, ...]:
    """Return an open arc from angle `start` to `end` (rad, clockwise on the screen from +x)."""
    steps = max(1, math.ceil(abs(end - start) / (math.pi / 4)))
    step = (end - start) / steps
    k = 4.0 / 3.0 * math.tan(step / 4.0) * r
    commands: list[Command] = [("M", cx + r * math.cos(start), cy + r * math.sin(start))]
    for i in range(steps):
        a, b = start + i * step, start + (i + 1) * step
        x1, y1 = cx + r * math.cos(a), cy + r * math.sin(a)
        x2, y2 = cx + r * math.cos(b), cy + r * math.sin(b)
        commands.append(
            (
                "C",
                x1 - k * math.sin(a),
                y1 + k * math.cos(a),
                x2 + k * math.sin(b),
                y2 - k * math.cos(b),
                x2,
                y2,
            )
        )
    return tuple(commands)


@lru_cache(maxsize=256)
def sector(cx: float, cy: float, r: float, start: float, end: float) -> tuple[Command, ...]:
    """Return a closed pie piece."""
    return (*arc(cx, cy, r, start, end), ("L", cx, cy), ("Z",))


def hatch(points: Sequence[Point], gap: float, slope: float = 1.0) -> tuple[Command, ...]:
    """Return parallel lines, `gap` px apart and rising at `slope` (+1 or -1), inside a polygon."""
    lines: list[Command] = []
    keys = [y + slope * x for x, y in points]
    low, high = min(keys), max(keys)
    key = low + gap / 2.0
    while key < high:
        crossings: list[Point] = []
        for (x1, y1), (x2, y2) in zip(points, (*points[1:], points[0]), strict=True):
            a, b = y1 + slope * x1 - key, y2 + slope * x2 - key
            if (a < 0.0) != (b < 0.0):
                t = a / (a - b)
                crossings.append((x1 + t * (x2 - x1), y1 + t * (y2 - y1)))
        crossings.sort()
        for start, end in zip(crossings[::2], crossings[1::2], strict=False):
            lines.append(("M", *start))
            lines.append(("L", *end))
        key += gap * math.sqrt(2.0)
    return tuple(lines)


def arrow_head(x: float, y: float, angle: float, size: float) -> tuple[Command, ...]:
    """Return a filled head whose point is at (x, y), pointing along `angle` (rad, clockwise from +x)."""
    spread = math.radians(155.0)
    a = (x + size * math.cos(angle + spread), y + size * math.sin(angle + spread))
    b = (x + size * math.cos(angle - spread), y + size * math.sin(angle - spread))
    return polygon(((x, y), a, b))


#: Rough advance of the type face over its size; only for keeping labels apart.
ADVANCE = 0.54


def fitted(text: str, size: float, width: float) -> str:
    """Return `text`, cut off with three dots if it is wider than `width` px, never in a figure or before its unit."""
    return cut_to_fit(text, lambda part: text_width(part, size) <= width)


def cut_to_fit(text: str, fits: Callable[[str], bool]) -> str:
    """Return `text`, cut off with three dots where it does not fit, never in a figure or before its unit."""
    if fits(text):
        return text
    kept = text[: bisect_left(range(len(text)), 1, key=lambda n: 0 if fits(text[: n + 1] + "…") else 1)]
    # A word of which some is left counts as far as it was written.
    words = kept.split(" ")
    whole = text.split(" ")[: len(words)]
    while words and any(c.isdigit() for c in whole[len(words) - 1]):
        words.pop()
    return " ".join(words).rstrip(" ,.(±≈+−") + "…"


def text_width(text: str, size: float) -> float:
    """Return about how wide `text` is (px)."""
    return len(text) * size * ADVANCE
