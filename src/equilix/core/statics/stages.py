"""The stages of a gimbal: what turns on each axis, where its CG lies beside it, and what gravity does to it."""

from __future__ import annotations

import math
from enum import StrEnum
from itertools import pairwise

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.cache import cached_for_rig
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import AXES, Category
from equilix.core.massprops.bodies import MassProperties, spread_inertia
from equilix.core.rounding import lacking
from equilix.core.sources import common_practice
from equilix.core.statics.equilibrium import SupportResult
from equilix.core.statics.turning import BodyLink

#: Names of the stages, the innermost first, and the number of the rig axis that each turns about.
STAGES = ("tilt", "roll", "pan")
ABOUT = {"tilt": 1, "roll": 0, "pan": 2}
#: The rig axes beside which a stage's CG is told, in working order.
BESIDE = {"tilt": ("x", "z"), "roll": ("y", "z"), "pan": ("x", "y")}
#: What a gimbal's make decides: no scale clears it.
BY_MAKE = frozenset({("roll", "z"), ("pan", "y")})
NUMBER = {"x": 0, "y": 1, "z": 2}
_ACROSS = {name: (NUMBER[a], NUMBER[b]) for name, (a, b) in BESIDE.items()}
#: rad: how far an axis may lie off the rig's and still be one of a gimbal's; what is off by more was joined wrongly.
_SKEW = math.radians(1.0)
#: rad: the lean of the frame that pan's torque is given for.
LEAN = common_practice(math.radians(30.0))


class Trouble(StrEnum):
    """Why the stages of a build are none."""

    SKEW = "an axis lies askew"
    ORDER = "the axes are in another order"
    TWICE = "an axis is there twice"
    NO_TILT = "no tilt axis"
    NO_MASS = "a stage has no mass"


class Stage(Struct, frozen=True, eq=False):
    """One stage with all that it carries: `parts` (n,) bool.

    It turns about rig axis number `about` through `point` (3,) (m).
    `holder` is the number of the part that the point is fixed to; `mass` kg, `cg` (3,) m, rig frame, all at home. The
    CG was found `more` (3,) (m) from where its parts have it, and `cg` lies there.
    """

    name: str
    about: int
    point: np.ndarray
    holder: int
    parts: np.ndarray
    mass: float
    cg: np.ndarray
    more: np.ndarray

    @property
    def weight(self) -> float:
        """Its weight (N)."""
        return self.mass * STANDARD_GRAVITY

    @property
    def offset(self) -> np.ndarray:
        """Its CG (3,) (m) from the axis point."""
        result: np.ndarray = self.cg - self.point
        return result

    @property
    def beside(self) -> tuple[float, float]:
        """The CG (m) from the axis, along the two rig axes beside it, see `BESIDE`."""
        a, b = _ACROSS[self.name]
        return float(self.cg[a] - self.point[a]), float(self.cg[b] - self.point[b])

    @property
    def axis(self) -> np.ndarray:
        """The axis (3,) in the rig frame."""
        result: np.ndarray = np.eye(3)[self.about]
        return result


class Stages(Struct, SupportResult, frozen=True, eq=False):
    """The stages of a gimbal, the innermost first; `usual` if no axes are joined, so that they are taken to meet."""

    stages: tuple[Stage, ...]
    usual: bool

    def stage(self, name: str) -> Stage | None:
        """Return the stage called `name`, None without one."""
        return next((stage for stage in self.stages if stage.name == name), None)


@cached_for_rig
def stages_of(
    assembly: Assembly,
    positions: Positions,
    meet: tuple[float, float, float],
    more: tuple[tuple[float, float, float], ...] = (),
) -> Stages | Trouble:
    """Return the stages that the axes of a build part it into, each with all that turns on it.

    Of the first stages the moments (kg m) were found to be `more` than the parts say. Without axes all of it is taken
    as a payload whose axes meet at `meet` (m), see `_as_payload`.
    """
    if not assembly.axes:
        return _as_payload(assembly, positions, meet)
    parted = _parted(assembly)
    if isinstance(parted, Trouble):
        return parted
    cgs = parted.shares @ positions.cg
    moments = np.zeros((len(parted.names), 3))
    moments[: len(more)] = np.reshape(more[: len(moments)], (-1, 3))
    off = moments / np.array(parted.masses)[:, None]
    found = zip(parted.names, parted.axes, parted.parts, parted.masses, cgs + off, off, strict=True)
    return Stages(
        tuple(
            Stage(name, ABOUT[name], positions.axis[k], assembly.axes[k].part, parts, mass, cg, shift)
            for name, k, parts, mass, cg, shift in found
        ),
        False,
    )


class _Parted(Struct, frozen=True, eq=False):
    """What turns on which axis, wherever the slides stand, the innermost first: `names`, numbers of the `axes`.

    `parts` (s, n) turn on each, of `masses` (kg) in all; each part has so large `shares` (s, n) of that.
    """

    names: tuple[str, ...]
    axes: tuple[int, ...]
    parts: np.ndarray
    masses: tuple[float, ...]
    shares: np.ndarray


@cached_for_rig
def _parted(assembly: Assembly) -> _Parted | Trouble:
    sensor = assembly.sensor if assembly.sensor is not None else len(assembly.parts) - 1
    names, axes, parts = [], [], []
    for kind, name in zip(AXES, STAGES, strict=True):
        several = [(k, axis) for k, axis in enumerate(assembly.axes) if axis.kind is kind]
        if len(several) > 1:
            return Trouble.TWICE
        for k, axis in several:
            if abs(float(axis.direction[ABOUT[name]])) < math.cos(_SKEW):
                return Trouble.SKEW
            turning = axis.beyond if axis.beyond[sensor] else ~axis.beyond
            if lacking(float(assembly.mass[turning].sum())):
                return Trouble.NO_MASS
            names.append(name)
            axes.append(k)
            parts.append(turning)
    if not names or names[0] != STAGES[0]:
        return Trouble.NO_TILT
    for inner, outer in pairwise(parts):
        if (inner & ~outer).any():
            return Trouble.ORDER
    turned = np.array(parts)
    weighed = turned * assembly.mass
    masses = weighed.sum(axis=1)
    return _Parted(tuple(names), tuple(axes), turned, tuple(masses.tolist()), weighed / masses[:, None])


def _as_payload(assembly: Assembly, positions: Positions, meet: tuple[float, float, float]) -> Stages | Trouble:
    """Return a build without axes as what a gimbal would carry: all three meet `meet` (m; forward, left, up) from the
    middle of the top of what everything sits on; of a bare camera, at its middle's height."""
    mass = assembly.whole
    if lacking(mass):
        return Trouble.NO_MASS
    root = assembly.root
    bare = assembly.parts[root].category is Category.BODY
    up = 0.0 if bare else float(assembly.edges[root, 2]) + meet[2]
    point = positions.centre[root] + np.array([meet[0], meet[1], up])
    everything = np.ones(len(assembly.parts), dtype=bool)
    cg = assembly.mass @ positions.cg / mass
    return Stages(
        tuple(Stage(name, ABOUT[name], point, root, everything, mass, cg, np.zeros(3)) for name in STAGES), True
    )


def peak_torque(stage: Stage) -> float:
    """Return the greatest torque (N m) of gravity over a stage's full turn, the others level.

    ``W hypot(a, b)`` of the CG beside the axis; of pan with the frame leaned by `LEAN` the worst way, since level it
    has none.
    """
    size = stage.weight * math.hypot(*stage.beside)
    return size * math.sin(LEAN) if stage.name == "pan" else size


def links_of(assembly: Assembly, cg: np.ndarray, on_it: Stages) -> tuple[BodyLink, ...]:
    """Return the stages without what they carry as links, the outermost first; `cg` (n, 3) (m) of all parts."""
    links = []
    inner = np.zeros(len(assembly.parts), dtype=bool)
    carried = np.zeros(3)
    for stage in on_it.stages:
        own = stage.parts & ~inner
        inner = stage.parts
        body = body_of_parts(assembly, cg, own)
        if body is not None:
            # Of what was found of the stage, what it carries has its own.
            body = replace(body, cg=body.cg + (stage.mass * stage.more - carried) / body.mass)
        carried = stage.mass * stage.more
        links.append(BodyLink(stage.point, stage.axis, body))
    return tuple(reversed(links))


def body_of_parts(assembly: Assembly, cg: np.ndarray, which: np.ndarray) -> MassProperties | None:
    """Return the mass properties of some parts (n,) bool whose CGs are `cg` (n, 3) (m), None without a mass."""
    masses = assembly.mass * which
    mass = float(masses.sum())
    if lacking(mass):
        return None
    middle = masses @ cg / mass
    own = np.einsum("n,nij->ij", which.astype(float), assembly.inertia)
    return MassProperties(mass, middle, own + spread_inertia(masses, cg - middle))
