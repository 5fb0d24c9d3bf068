"""What a stopwatch, a level and a falling sled say, in words and as a picture."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.errors import EditError
from equilix.core.statics.sled import Sled, swing_from
from equilix.present.drawing.scene import Anchor, Scene, arc, circle, polygon, rect
from equilix.present.units import number

#: Drops that are timed; common practice.
TRIES = 3
#: s and degrees that a typed time and lean may have.
_TIMES, _LEANS = (0.1, 60.0), (-60.0, 60.0)


class TimingWords(Struct, frozen=True):
    """What is asked next, what was timed and what it teaches."""

    head: str
    why: str
    tries: str
    taught: str


def parse_times(text: str) -> tuple[float, ...]:
    """Return times (s) typed with spaces or semicolons between: "2.4 2.6 2.5"; EditError if they can't be read."""
    cells = [cell for cell in re.split(r"[;\s]+", text.replace(", ", " ").strip()) if cell]
    times = []
    for cell in cells:
        try:
            value = float(cell.removesuffix("s").replace(",", "."))
        except ValueError:
            raise EditError(f"“{cell}” is not a time. Type seconds, such as 2.4 2.6 2.5.") from None
        if not _TIMES[0] <= value <= _TIMES[1]:
            raise EditError(f"“{cell}” is not between {_TIMES[0]:g} and {_TIMES[1]:g} s.")
        times.append(value)
    return tuple(times)


def parse_lean(text: str) -> float | None:
    """Return a lean (rad) typed in degrees, None for nothing; EditError if it can't be read."""
    cell = text.strip().removesuffix("°").replace(",", ".").replace("−", "-")
    if not cell:
        return None
    try:
        value = float(cell)
    except ValueError:
        raise EditError(f"“{text.strip()}” is not an angle. Type degrees, such as 3.5.") from None
    if not _LEANS[0] <= value <= _LEANS[1]:
        raise EditError(f"The angle must be from {_LEANS[0]:g} to {_LEANS[1]:g} degrees.")
    return math.radians(value)


def timing_words(
    sled: Sled | None, said: tuple[float, float] | None, tries: Sequence[float], taken: str
) -> TimingWords:
    """Return the words of the bench; `said` is the drop time (s) and its standard uncertainty as the parts have it."""
    if sled is None:
        return TimingWords("Nothing to time yet.", "Put a sled with a bearing on the build. Weigh its parts.", "", "")
    if said is None or not math.isfinite(said[0]):
        return TimingWords("The sled turns over.", "Raise the bearing until it hangs. Then time it.", "", "")
    left = TRIES - len(tries)
    head = (
        f"Hold the post level and let go. Stop as it passes upright. Reading {len(tries) + 1} of {TRIES}."
        if left > 0
        else f"{TRIES} readings: {_mean(tries)}. Use them, or start again."
    )
    why = f"By its parts the drop time is {number(said[0], 2)} ± {number(2.0 * said[1], 2)} s."
    listed = "   ".join(f"{k + 1}  {number(time, 2)} s" for k, time in enumerate(tries))
    return TimingWords(head, why, listed or "not timed yet", taken)


def _mean(tries: Sequence[float]) -> str:
    return f"mean {number(float(np.mean(tries)), 2)} s"


def draw_fall(sled: Sled | None, since: float | None, size: tuple[float, float], tall: tuple[float, float]) -> Scene:
    """Return a sled let go level `since` so many seconds, None while it is held, in `size` px.

    `tall` (m) are how far it reaches above and below the bearing.
    """
    scene = Scene()
    width, height = size
    if sled is None or sled.drop_time is None:
        scene.text(width / 2.0, height / 2.0, "does not drop", 13, 400, "ink2", Anchor.MIDDLE)
        return scene
    lever = math.hypot(float(sled.offset[0]), float(sled.offset[2]))
    angle = math.pi / 2.0
    if since is not None:
        angle = float(swing_from(math.pi / 2.0, np.array([since]), sled.mass, sled.swing, lever)[0])
    longest = max(*tall, 0.05)
    scale = min(0.46 * width, 0.46 * height) / longest
    x, y = width / 2.0, height / 2.0
    below, above = tall[1] * scale, tall[0] * scale
    scene.path(arc(x, y, below, 0.0, math.pi / 2.0), None, "rule2", 1.0, (1.2, 2.6))
    scene.line(x, y, x, y + below, "ink3", 1.0, (6.0, 4.0))
    way = math.sin(angle), math.cos(angle)

    def at(along: float, aside: float) -> tuple[float, float]:
        return x + along * way[0] + aside * way[1], y + along * way[1] - aside * way[0]

    post = (at(-above, -3.0), at(below, -3.0), at(below, 3.0), at(-above, 3.0))
    scene.path(polygon(post), "p2", "line", 1.2)
    for along, aside, half in ((-above, 0.09 * scale, 0.05 * scale), (below, 0.10 * scale, 0.028 * scale)):
        box = (at(along - half, -aside), at(along + half, -aside), at(along + half, aside), at(along - half, aside))
        scene.path(polygon(box), "p1", "line", 1.2)
    scene.path(rect(x - 9.0, y - 6.0, 18.0, 12.0, 2.0), "p3", "accent", 1.4)
    scene.path(circle(*at(lever * scale, 0.0), 4.0), "ink")
    return scene


def reach_of(analysis: Analysis, bearing: np.ndarray) -> tuple[float, float]:
    """Return how far (m) the parts reach above and below a bearing (3,) (m, rig frame)."""
    heights = analysis.positions.centre[:, 2]
    edges = analysis.assembly.edges[:, 2]
    return float((heights + edges).max() - bearing[2]), float(bearing[2] - (heights - edges).min())
