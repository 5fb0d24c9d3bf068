"""One session with the coach: axis after axis, what was seen of each, and where the scales stand."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.measurement.belief import REGION, CoachBelief, CoachModel, Observation, Response, believe
from equilix.core.measurement.coach import Action, CoachAdvice, Left, advise, with_scale, without
from equilix.core.sources import assumed, common_practice

#: rad: angles of the tests, how far a frame is leaned.
_ANGLES = common_practice(tuple(math.radians(a) for a in (0.0, 45.0, -45.0, 20.0, -20.0, 70.0, -70.0)))
_LEAN = common_practice(math.radians(30.0))
#: By axis, the attitudes (rad: angle or lean) of its tests, each with the way in which it looks at the two moments.
TESTS: dict[str, tuple[tuple[float, tuple[float, float]], ...]] = {
    "tilt": tuple((a, (math.cos(a), math.sin(a))) for a in _ANGLES),
    # With one attitude nobody could tell a moment from what a motor is off by.
    "roll": tuple((a, (math.cos(a), math.sin(a))) for a in _ANGLES[:3]),
    "pan": ((_LEAN, (math.sin(_LEAN), 0.0)), (-_LEAN, (-math.sin(_LEAN), 0.0))),
}


class AxisBench(Struct, frozen=True):
    """One axis: its name, what is known of it before, and the slides of its scales, "" where there is none."""

    name: str
    bench: CoachModel
    scales: tuple[str, str]


#: Chance of being balanced below which an axis that was done is taken up again: its scales moved meanwhile.
_UNDONE = 0.5


@dataclass(slots=True)
class Coaching:
    """Axis after axis in working order; `looks` are kept by axis, `marks` (m) by slide.

    Axes that could not be balanced are `left`, each with the reason and where its scales stood then.
    """

    axes: tuple[AxisBench, ...]
    marks: dict[str, float]
    effort: bool = False
    looks: dict[str, list[Observation]] = field(default_factory=dict)
    moves: int = 0
    number: int = 0
    left: dict[str, tuple[Left, tuple[float, float]]] = field(default_factory=dict)
    _beliefs: dict[str, tuple[tuple[float, float], CoachBelief]] = field(default_factory=dict)

    @property
    def axis(self) -> AxisBench:
        """The axis that is worked at."""
        return self.axes[min(self.number, len(self.axes) - 1)]

    @property
    def finished(self) -> bool:
        """Whether every axis is balanced, or was left as it is."""
        return self.number >= len(self.axes)

    def standing(self, axis: AxisBench) -> tuple[float, float]:
        """Return where the scales of an axis stand (m), 0 where it has none."""
        first, second = (self.marks.get(one, 0.0) for one in axis.scales)
        return first, second

    def belief(self, axis: AxisBench | None = None) -> CoachBelief:
        """Return what is believed of an axis, the present one by default."""
        axis = axis or self.axis
        looks, marks = self.looks.get(axis.name, []), self.standing(axis)
        at, held = self._beliefs.get(axis.name, (marks, None))
        if held is not None and at == marks and held.looks == tuple(looks):
            return held
        found = believe(axis.bench, looks, marks, 1 + len(looks), held)
        self._beliefs[axis.name] = marks, found
        return found

    def between(self, axis: AxisBench, way: int) -> tuple[float, float]:
        """Return between which moments (N m) along one way of an axis 95 of 100 draws lie, as its scales stand."""
        low, high = np.quantile(self.belief(axis).now[:, way], (0.5 - REGION / 2.0, 0.5 + REGION / 2.0))
        return float(low), float(high)

    def found(self, axis: AxisBench) -> tuple[np.ndarray, np.ndarray]:
        """Return the moments (2,) (N m) along both ways of an axis as its scales stand, and their uncertainties."""
        now = self.belief(axis).now
        return now.mean(axis=0), now.std(axis=0)

    @property
    def settled(self) -> tuple[AxisBench, ...]:
        """The axes that are done, balanced or left as they are."""
        return self.axes[: self.number]

    def is_balanced(self, axis: AxisBench) -> bool:
        """Whether an axis was found balanced as its scales stand."""
        return axis in self.settled and axis.name not in self.left

    def advice(self) -> CoachAdvice:
        """Return what to do next at the present axis; where that one is balanced, the next axis is taken up.

        An axis whose scales were moved since, so that it no longer is as it was found, is taken up again.
        """
        for number, axis in enumerate(self.settled):
            why, at = self.left.get(axis.name, (None, None))
            if at != self.standing(axis) if why else self.belief(axis).inside < _UNDONE:
                self.number = number
                self.left.pop(axis.name, None)
                break
        while not self.finished:
            axis = self.axis
            ways = [way for _, way in TESTS[axis.name]]
            found = advise(
                axis.bench, self.belief(), self.looks.get(axis.name, []), self.standing(axis), ways, self.effort
            )
            if found.do is not Action.DONE:
                return found
            self.number += 1
        return CoachAdvice(Action.DONE)

    def leave(self, why: Left) -> None:
        """Leave the present axis as it is, and go on with the next."""
        self.left[self.axis.name] = why, self.standing(self.axis)
        self.number += 1

    def angle_of(self, way: tuple[float, float]) -> float:
        """Return the attitude (rad) of the present axis's test that looks along `way`."""
        return min(TESTS[self.axis.name], key=lambda test: math.dist(test[1], way))[0]

    def saw(self, way: tuple[float, float], saw: Response) -> None:
        """Keep what a release showed."""
        self._keep(Observation(way, self.standing(self.axis), saw))

    def read(self, way: tuple[float, float], effort: float, u: float) -> None:
        """Keep a motor's effort (N m) and its standard uncertainty."""
        self._keep(Observation(way, self.standing(self.axis), effort=effort, u=u))

    def _keep(self, look: Observation) -> None:
        self.looks.setdefault(self.axis.name, []).append(look)

    def moved(self, scale: int, to: float) -> str:
        """Note that a scale of the present axis was set (m); return its slide."""
        placed = self.axis.scales[scale]
        self.marks[placed] = to
        self.moves += 1
        return placed

    def take_back(self, number: int) -> None:
        """Forget one look at the present axis."""
        name = self.axis.name
        self.looks[name] = list(without(self.looks.get(name, []), number))
        self._beliefs.pop(name, None)

    def again(self) -> None:
        """Start over with the first axis; what was seen is forgotten."""
        self.looks.clear()
        self.left.clear()
        self._beliefs.clear()
        self.number = self.moves = 0


def begin(axes: Sequence[AxisBench], marks: dict[str, float], effort: bool = False) -> Coaching:
    """Return a session with nothing seen yet; `marks` (m) are where the slides stand."""
    return Coaching(tuple(axes), dict(marks), effort)


#: Uncertainty of a scale's effect over itself, with some masses unknown and with all known.
_EFFECT_UNCERTAINTY = assumed((0.4, 0.1))


def widened(bench: CoachModel, known: bool) -> CoachModel:
    """Return a bench whose scales' effects are known to a tenth where all masses are, else hardly at all."""
    share = _EFFECT_UNCERTAINTY[known]
    # Where nothing slides there is nothing to learn of it.
    first, second = (share * abs(s) for s in bench.slopes)
    return replace(bench, slopes_u=(first, second))


__all__ = ["TESTS", "AxisBench", "Coaching", "begin", "widened", "with_scale"]
