"""What a stand-in scale shows: a load that swings in, noise, drift and the steps of its display.

Time is brought by the caller, so that the same seed gives the same readings however fast it runs.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, field

from msgspec import Struct

#: Hz and 1/s, how a hung load swings in, and share of the load by which it overshoots; common practice.
SWING, DECAY, OVERSHOOT = 1.1, 1.3, 0.35


class ScaleFaults(Struct, frozen=True):
    """How the stand-in errs: `gain` and `drift` (kg/s) apart, `noise` (kg) is a standard deviation."""

    gain: float = 0.0
    noise: float = 0.0008
    drift: float = 0.0
    unsteady: bool = False


@dataclass(slots=True)
class ScaleModel:
    """A scale with `capacity` and `step` (kg)."""

    step: float = 0.002
    capacity: float = 20.0
    faults: ScaleFaults = field(default_factory=ScaleFaults)
    seed: int = 1
    load: float = 0.0
    battery: float = 1.0
    zero: float = 0.0
    _before: float = 0.0
    _since: float = 0.0
    _began: float | None = None
    _noise: random.Random = field(init=False)

    def __post_init__(self) -> None:
        self._noise = random.Random(self.seed)

    def put(self, load: float, now: float) -> None:
        """Hang `load` (kg) on it at the time `now` (s)."""
        self._before = self._load_at(now)
        self.load, self._since = load, now

    def tare(self, now: float) -> None:
        """Make the present load the zero."""
        self.zero += self._shown(now)

    @property
    def off(self) -> bool:
        """Whether its battery is flat."""
        return self.battery <= 0.0

    def overloaded(self, now: float) -> bool:
        """Whether it carries more than it may; a swinging load counts as it swings."""
        return self._load_at(now) > self.capacity

    def reading(self, now: float) -> float:
        """Return what the display shows (kg) at the time `now` (s)."""
        shown = self._shown(now)
        return round(round(shown / self.step) * self.step, 9) + 0.0

    def _shown(self, now: float) -> float:
        if self._began is None:
            self._began = now
        f = self.faults
        value = self._load_at(now) * (1.0 + f.gain) + f.drift * (now - self._began) - self.zero
        value += self._noise.gauss(0.0, f.noise)
        if f.unsteady:
            value += 4.0 * self.step * math.sin(2.0 * math.pi * 0.7 * now)
        return value

    def _load_at(self, now: float) -> float:
        t = max(now - self._since, 0.0)
        change = self.load - self._before
        swing = OVERSHOOT * math.exp(-DECAY * t) * math.cos(2.0 * math.pi * SWING * t)
        arrived = 1.0 - math.exp(-6.0 * t)
        return self._before + change * (arrived + swing * arrived)
