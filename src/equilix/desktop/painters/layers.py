"""Paints a drawing that moves: what stays, or only goes along with the hand, is painted once and put down again.

While something is dragged one scene follows the other, and nearly all of it is what it was, here or shifted.
Neighbours that go along together make a layer, a picture of their own; only the rest is painted item by item.
"""

from __future__ import annotations

import math

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPixmap

from equilix.desktop.looks.theme import Colors
from equilix.desktop.painters.scene_painter import bounds_of, paint_items
from equilix.present.drawing.scene import Item, Scene, shift_between

#: px: two items that are shifted by as much, but for this, go along together.
_TOGETHER = 0.01
#: Fewest items that are worth a picture of their own.
_FEW = 2
#: px of a picture's edge that stay free, for what a stroke covers beyond its bounds.
_EDGE = 2.0
#: The shift of what is the very same item as before.
_STAYS = (0.0, 0.0)


class _Layer(Struct, eq=False):
    """Items `start` to `stop` of the first scene, and their picture (made when it is first painted)."""

    start: int
    stop: int
    picture: QPixmap | None = None
    left: float = 0.0
    top: float = 0.0


def _alike(one: tuple[float, float] | None, other: tuple[float, float] | None) -> bool:
    """Whether two items go along together."""
    if one is None or other is None:
        return False
    return one is other or (abs(one[0] - other[0]) <= _TOGETHER and abs(one[1] - other[1]) <= _TOGETHER)


class Layers:
    """The layers of a drawing that moves: `follow` each scene of it, the first too, then `paint` it."""

    def __init__(self) -> None:
        self._first: tuple[Item, ...] = ()
        self._layers: list[_Layer] = []
        self._loose: set[int] = set()  # items that do not stay alike
        self._shifts: list[tuple[float, float] | None] = []
        self._look: tuple[str, float, float] = ("", 0.0, 0.0)  # theme, step and factor that pictures were painted with

    def forget(self) -> None:
        """Let go of all layers: the next scene is painted as it is."""
        self._first, self._layers, self._shifts = (), [], []
        self._loose.clear()

    def follow(self, scene: Scene) -> None:
        """Take in the next scene of the movement."""
        if len(scene.items) != len(self._first):
            self.forget()
            self._first = tuple(scene.items)
            return
        loose = self._loose
        self._shifts = [
            None if i in loose else _STAYS if old is new else shift_between(old, new)
            for i, (old, new) in enumerate(zip(self._first, scene.items, strict=True))
        ]
        parted = [i for i, shift in enumerate(self._shifts) if shift is None and i not in loose]
        loose.update(parted)
        if parted or not self._layers or not all(self._whole(layer) for layer in self._layers):
            self._gather()

    def _whole(self, layer: _Layer) -> bool:
        """Whether all of a layer still goes along together."""
        first, *others = self._shifts[layer.start : layer.stop]
        # Asked of every item at every step of a drag, and mostly of the very same shift.
        return first is not None and all(shift is first or _alike(shift, first) for shift in others)

    def _gather(self) -> None:
        """Put neighbours that go along together into layers; a layer that is whole keeps its picture."""
        kept = {(layer.start, layer.stop): layer for layer in self._layers if self._whole(layer)}
        self._layers = []
        start = 0
        while start < len(self._shifts):
            stop = start + 1
            while stop < len(self._shifts) and _alike(self._shifts[start], self._shifts[stop]):
                stop += 1
            if self._shifts[start] is not None and stop - start >= _FEW:
                self._layers.append(kept.get((start, stop)) or _Layer(start, stop))
            start = stop

    def paint(self, painter: QPainter, scene: Scene, colors: Colors, step: float, factor: float = 1.0) -> None:
        """Paint `scene`, the one that was followed last.

        `step` is how many px of the screen one of the scene's is: a layer is put down on whole px of the screen.
        `factor` is that on type sizes.
        """
        look = (str(colors.theme), step, factor)
        if look != self._look:
            # Another theme, or another screen, in the midst of it.
            self._look = look
            for layer in self._layers:
                layer.picture = None
        at = 0
        for layer in self._layers:
            if layer.start > at:
                paint_items(painter, scene.items[at : layer.start], colors, factor)
            if layer.picture is None:
                self._make(layer, colors, step, factor)
            self._put(painter, layer, step)
            at = layer.stop
        paint_items(painter, scene.items[at:], colors, factor)

    def _put(self, painter: QPainter, layer: _Layer, step: float) -> None:
        shift = self._shifts[layer.start]
        if layer.picture is not None and shift is not None:
            x, y = (layer.left + round(shift[0] * step)) / step, (layer.top + round(shift[1] * step)) / step
            painter.drawPixmap(QPointF(x, y), layer.picture)

    def _make(self, layer: _Layer, colors: Colors, step: float, factor: float) -> None:
        """Paint a layer's picture as the first scene has it."""
        items = self._first[layer.start : layer.stop]
        box = QRectF()
        for item in items:
            box = box.united(bounds_of(item, factor))
        edge = _EDGE * step
        left, top = math.floor(box.left() * step - edge), math.floor(box.top() * step - edge)
        right, bottom = math.ceil(box.right() * step + edge), math.ceil(box.bottom() * step + edge)
        picture = QPixmap(max(right - left, 1), max(bottom - top, 1))
        picture.fill(Qt.GlobalColor.transparent)
        within = QPainter(picture)
        within.translate(-left, -top)
        within.scale(step, step)
        paint_items(within, items, colors, factor)
        within.end()
        # Its px are the screen's, whatever the painter's scale.
        picture.setDevicePixelRatio(step)
        layer.picture, layer.left, layer.top = picture, float(left), float(top)
