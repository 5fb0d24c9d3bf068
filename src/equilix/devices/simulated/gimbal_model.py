"""What a gimbal on the bench does: moments about three axes, bearings that stick, motors whose readings are off.

The moments follow the scales as weights do; where the model is of nobody's build they are drawn from a seed.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, field

from equilix.core.frames import STANDARD_GRAVITY

#: The axes, the scales that move something against each, and the ways along which their moments are counted.
AXES: dict[str, tuple[str, ...]] = {"tilt": ("plate", "height"), "roll": ("roll",), "pan": ("pan",)}
SCALES = ("plate", "height", "roll", "pan")
#: m: how far each scale goes to either side of its middle.
TRAVEL = {"plate": 0.055, "height": 0.032, "roll": 0.040, "pan": 0.035}
#: Nm/s: how fast a motor's zero drifts, and Nm: its standing bias and noise.
DRIFT, BIAS, NOISE = 0.0002, 0.02, 0.012
#: Share by which a bearing's friction differs from one time to the next.
STICTION = 0.15


@dataclass(slots=True)
class Turning:
    """One axis: `moments` (N m) along its two ways with the scales in the middle, `slopes` (N/m) of those scales."""

    moments: tuple[float, float]
    slopes: dict[str, tuple[float, float]]
    friction: float
    bias: float


@dataclass(slots=True)
class GimbalModel:
    """A gimbal somebody works at: `marks` (m from the middle), the attitude (rad) and from which side it came."""

    axes: dict[str, Turning]
    seed: int = 1
    noise: float = NOISE
    marks: dict[str, float] = field(default_factory=lambda: dict.fromkeys(SCALES, 0.0))
    tilt: float = 0.0
    roll: float = 0.0
    lean: float = 0.0
    aside: float = 0.0
    came: float = 1.0
    _draw: random.Random = field(default_factory=random.Random)

    def __post_init__(self) -> None:
        self._draw = random.Random(self.seed)

    def hold(self, tilt: float, roll: float, lean: float, aside: float) -> None:
        """Bring it to an attitude (rad); what a reading then shows depends on the side from which it came."""
        moved = (tilt - self.tilt) + (roll - self.roll) + (lean - self.lean) + (aside - self.aside)
        if moved:
            self.came = math.copysign(1.0, moved)
        self.tilt, self.roll, self.lean, self.aside = tilt, roll, lean, aside

    def set(self, scale: str, to: float) -> None:
        """Set a scale (m from its middle), as far as it goes; a hand is about a twentieth of a millimetre off."""
        most = TRAVEL[scale]
        self.marks[scale] = min(max(to + self._draw.gauss(0.0, 0.00005), -most), most)

    def way(self, axis: str) -> tuple[float, float]:
        """Return the way (2,) in which the attitude looks at an axis."""
        if axis == "pan":
            return math.sin(self.aside), math.sin(self.lean)
        angle = self.tilt if axis == "tilt" else self.roll
        return math.cos(angle), math.sin(angle)

    def moments(self, axis: str) -> tuple[float, float]:
        """Return the moments (N m) along an axis's two ways as the scales stand."""
        turning = self.axes[axis]
        found = list(turning.moments)
        for scale, slope in turning.slopes.items():
            for k in (0, 1):
                found[k] += slope[k] * self.marks[scale]
        return found[0], found[1]

    def torque(self, axis: str) -> float:
        """Return gravity's torque (N m) about an axis at the attitude."""
        (a, b), (c, d) = self.way(axis), self.moments(axis)
        return a * c + b * d

    def effort(self, axis: str, now: float) -> float:
        """Return what the motor says it holds (N m) at `now` (s): torque, friction's side, bias, drift and noise."""
        turning = self.axes[axis]
        rubs = self.came * turning.friction
        return self.torque(axis) + rubs + turning.bias + DRIFT * now + self._draw.gauss(0.0, self.noise)

    def release(self, axis: str) -> str:
        """Return what the stage does when it is let go: "positive", "negative" or "stays"."""
        friction = self.axes[axis].friction * (1.0 + STICTION * self._draw.gauss(0.0, 1.0))
        torque = self.torque(axis)
        return "positive" if torque > friction else "negative" if torque < -friction else "stays"


def drawn(seed: int) -> GimbalModel:
    """Return a gimbal with a camera on it, as somebody put it on in a hurry."""
    draw = random.Random(1_000 + seed)
    load = STANDARD_GRAVITY * draw.uniform(1.2, 3.6)
    tilt = STANDARD_GRAVITY * 0.5 + load
    roll, pan = tilt + 6.0, tilt + 14.0

    def axis(first: float, second: float, slopes: dict[str, tuple[float, float]], friction: float) -> Turning:
        return Turning((first, second), slopes, friction * draw.uniform(0.7, 1.6), draw.gauss(0.0, BIAS))

    plate, height = load + 1.0, load + 2.2
    return GimbalModel(
        {
            "tilt": axis(
                load * _within(draw, 0.018, 0.045),
                load * _within(draw, 0.010, 0.024),
                {"plate": (plate, 0.0), "height": (0.0, height)},
                0.011,
            ),
            # Left lifted is positive: what lies left turns it back.
            "roll": axis(roll * _within(draw, 0.012, 0.028), 0.0, {"roll": (-(tilt + 4.0), 0.0)}, 0.014),
            "pan": axis(
                pan * _within(draw, 0.012, 0.024), 0.0, {"pan": (-(roll + 4.5), 0.0), "plate": (-plate, 0.0)}, 0.018
            ),
        },
        seed,
    )


def _within(draw: random.Random, u: float, most: float) -> float:
    return min(max(draw.gauss(0.0, u), -most), most)
