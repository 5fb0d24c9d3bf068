"""What the top bar shows of each support: its name, its tip and its sign, without its words or its mechanics.

A start needs all of these at once, and of the rest only what the build on the screen is for.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from importlib import import_module

from msgspec import Struct

from equilix.core.keys import KEYS
from equilix.present.drawing.scene import Scene, arc, circle


class Label(Struct, frozen=True):
    """A support's name, what its tip says, and what draws its `sign`.

    That is 10 to 32 px from the left, about a height (px), in a tone.
    """

    name: str
    tip: str
    sign: Callable[[Scene, float, str], None]


def draw_person(scene: Scene, middle: float, tone: str) -> None:
    """Draw the head and shoulders of a sign about the height `middle` (px)."""
    scene.path(circle(18, middle - 3, 3.4), None, tone, 1.4)
    scene.path((*arc(18, middle + 10, 8, 3.3, 6.1),), None, tone, 1.4)


@cache
def label_for(key: str) -> Label:
    """Return the label of the support called `key`; KeyError if there is none."""
    if key not in KEYS:
        raise KeyError(key)
    found: Label = import_module(f"equilix.supports.{key}.label").LABEL
    return found
