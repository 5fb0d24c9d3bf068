"""The stages of a build on a gimbal: what turns on which axis, what swings past what, what it carries."""

from __future__ import annotations

import math
from typing import TypeAlias

import numpy as np

from equilix.core.assembly.build import Build
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.cache import cached_for_rig
from equilix.core.kit.parts import Category
from equilix.core.measurement.found import Coached
from equilix.core.rounding import SLIGHT, negligible
from equilix.core.statics import stages as parted
from equilix.core.statics import swings
from equilix.core.statics.stages import Stage, Stages, Trouble
from equilix.core.statics.sweep import Passing
from equilix.core.support import Case
from equilix.supports.gimbal.settings import GimbalSettings

GimbalCase: TypeAlias = Case[GimbalSettings, Stages]


def stages_of(assembly: Assembly, positions: Positions, build: Build, settings: GimbalSettings) -> Stages | Trouble:
    """Return the stages of a build, or why it has none."""
    coached = settings.coached
    more = coached.more if coached is not None and still_coached(assembly, build, coached) else ()
    return parted.stages_of(assembly, positions, settings.pivot, more)


def coached_parts(assembly: Assembly, build: Build) -> tuple[tuple[str, ...], float]:
    """Return what a coach looks at: each placed part with its part's id, and their mass (kg)."""
    return tuple(f"{placed.id} {placed.part_id}" for placed in build.parts), assembly.whole


def still_coached(assembly: Assembly, build: Build, coached: Coached) -> bool:
    """Whether a build still has all that was on it, of the same mass, when the coach found where its CGs lie.

    What was added since has its own figures; where a part is another, nobody knows what was found of it.
    """
    on = set(coached.on)
    held = [f"{placed.id} {placed.part_id}" in on for placed in build.parts]
    mass = float(assembly.mass[np.array(held, dtype=bool)].sum())
    return sum(held) == len(on) and negligible(mass - coached.mass, SLIGHT * max(mass, 1.0))


def _use(settings: GimbalSettings) -> dict[str, float]:
    """Return how far (rad) each stage turns either way in use; pan goes all the way round."""
    return {"tilt": settings.tilt_use, "roll": settings.roll_use, "pan": math.pi}


def passings(case: GimbalCase, near: float = 0.0) -> tuple[Passing, ...]:
    """Return how parts swing past others, nearest first: pairs that come nearer than `near` (m)."""
    return swings.passings(case.analysis.assembly, case.analysis.positions, case.result, _use(case.settings), near)


def nearest_passing(case: GimbalCase, near: float) -> Passing | None:
    """Return the pair that comes nearest, None if none comes nearer than `near` (m)."""
    return swings.nearest_passing(
        case.analysis.assembly, case.analysis.positions, case.result, _use(case.settings), near
    )


def beside_axis(assembly: Assembly, positions: Positions, stage: Stage) -> float:
    """Return how far (m) a stage's axis passes by its nearest part, 0 where it goes through one or none has a size."""
    last = _nearest_parts(assembly)
    near = last.get(stage.name)
    if near is not None:
        # The part that was near before mostly still is: then no other need be asked.
        centre, edges, point = positions.centre[near].tolist(), assembly.edges[near].tolist(), stage.point.tolist()
        across = [max(abs(centre[k] - point[k]) - edges[k], 0.0) for k in range(3) if k != stage.about]
        if math.hypot(*across) == 0.0:
            return 0.0
    away = np.maximum(np.abs(positions.centre - stage.point) - assembly.edges, 0.0)
    away[:, stage.about] = 0.0
    squares = np.where(stage.parts & assembly.sized, (away**2).sum(axis=1), np.inf)
    last[stage.name] = int(squares.argmin())
    nearest = float(squares[last[stage.name]])
    return math.sqrt(nearest) if math.isfinite(nearest) else 0.0


@cached_for_rig
def _nearest_parts(assembly: Assembly) -> dict[str, int]:
    """Return the part that was last nearest to each stage's axis, by the stage's name; it is looked at first."""
    return {}


def payload_of(case: GimbalCase) -> float:
    """Return the mass (kg) that a gimbal carries beyond its own parts."""
    return _payload(case.analysis.assembly, case.result.stages[0].parts.tobytes())


@cached_for_rig
def _payload(assembly: Assembly, turning: bytes) -> float:
    """Return what (kg) of the `turning` parts (n,) bool is not the gimbal's."""
    own = np.array([part.category is Category.GIMBAL for part in assembly.parts])
    return float(assembly.mass[np.frombuffer(turning, dtype=bool) & ~own].sum())
