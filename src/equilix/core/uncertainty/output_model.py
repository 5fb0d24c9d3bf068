"""The figures that a verdict rests on, as functions of a rig's mass and CG: for uncertainty, advice and Monte Carlo.

Every figure is worked out from numbers that the parts' figures enter linearly or as quotients: mass M, CG (x, y, z),
the mass that the camera's slide carries, and mass and CG of each stage where a support has some. First order and
sampling use the same ones.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from msgspec import Struct, field

from equilix.core.analysis import Analysis
from equilix.core.assembly.resolve import Assembly
from equilix.core.cache import cached_for_rig
from equilix.core.frames import STANDARD_GRAVITY, UP
from equilix.core.records import Output, Threshold
from equilix.core.rounding import ROUNDING, SLIGHT, negligible
from equilix.core.slides import level_slope, slide_of_camera
from equilix.core.sources import assumed
from equilix.core.statics.hands import Statics
from equilix.core.units import Kind

if TYPE_CHECKING:
    from equilix.core.support import Case

#: Share of the one way's move that the other's must be for a figure to count as straight between them.
_STRAIGHT = assumed(0.8)
#: Standard uncertainty of a part's own inertia taken as that of an even block, as a share of it.
OWN_INERTIA = assumed(0.15)


class Samples(Struct, frozen=True, eq=False):
    """d draws of a rig: `mass` (d,) kg, `cg` (d, 3) m in the rig frame, `carried` (d,) kg on the camera's slide.

    `stages` (d, g, 4) are mass (kg) and CG (m) of each of the g stages. `seconds` (d, 6) are the inertia (kg m2) about
    the CG, rig axes: I_xx, I_yy, I_zz, I_xy, I_xz, I_yz; (d, 0) where the support does not ask for it.
    """

    mass: np.ndarray
    cg: np.ndarray
    carried: np.ndarray
    stages: np.ndarray
    seconds: np.ndarray

    @property
    def rows(self) -> np.ndarray:
        """All numbers (d, 5 + 4 g + s): mass, CG, carried, then mass and CG of each stage, then the inertia."""
        stages = self.stages.reshape(len(self.mass), -1)
        columns = (self.mass[:, None], self.cg, self.carried[:, None], stages, self.seconds)
        return np.concatenate(columns, axis=1)

    @classmethod
    def of(cls, rows: np.ndarray) -> Samples:
        """Return the draws that have these `rows`."""
        # Stages are four numbers each: what is over is the inertia's six.
        last = rows.shape[1] - (6 if (rows.shape[1] - 5) % 4 else 0)
        stages = rows[:, 5:last].reshape(len(rows), -1, 4)
        return cls(rows[:, 0], rows[:, 1:4], rows[:, 4], stages, rows[:, last:])


class OutputModel(Struct, eq=False):
    """Works out every output of one analysed build for many draws of its mass and CG at once."""

    case: Case[Any, Any]
    statics: Statics | None
    slide: int | None
    offered: tuple[Output, ...]
    _last: dict[str, tuple[Samples, tuple[np.ndarray, np.ndarray]]] = field(default_factory=dict)
    #: What was worked out already: the rig moved by its uncertainties, and what that does to outputs.
    _moved: Samples | None = None
    _firsts: dict[str, tuple[float, float]] = field(default_factory=dict)

    def values(self, output: str, samples: Samples) -> np.ndarray:
        """Return the output (d,) in SI for `samples`.

        The slide is the travel that brings the CG over the support; it is endless here, whatever the plate's
        own travel. Without hands that could hold it the hand's force is not a number.
        """
        return self.analysis.support.outputs_by_name[output].of(self, samples)

    @property
    def analysis(self) -> Analysis:
        """The analysed build."""
        return self.case.analysis

    def thresholds(self, output: str) -> tuple[Threshold, ...]:
        """Return the values at which the verdict changes, those of the support and the maker's limits."""
        if output == SLIDE_TO_LEVEL:
            return self._slide_stops()
        return self.analysis.support.outputs_by_name[output].limits(self.case.settings)

    def _slide_stops(self) -> tuple[Threshold, ...]:
        if self.slide is None:
            return ()
        mount = self.analysis.assembly.slide_mounts[self.slide]
        now = float(self.analysis.settings[self.slide])
        return (Threshold(mount.low - now, "slide ends"), Threshold(mount.high - now, "slide ends"))

    def now(self) -> Samples:
        """Return the best estimates as the only draw."""
        body = self.case.body
        carried = 0.0 if self.slide is None else float(self.analysis.assembly.carried_mass()[self.slide])
        if not self.groups and not asks_inertia(self.analysis):
            none = np.zeros((1, 0, 4)), np.zeros((1, 0))
            return Samples(np.array([body.mass]), body.cg[None, :].copy(), np.array([carried]), *none)
        assembly, at = self.analysis.assembly, self.analysis.positions.cg
        stages = []
        for group in self.groups:
            mass = float(assembly.mass @ group)
            stages.append([mass, *((assembly.mass * group) @ at / mass).tolist()])
        found = np.array([stages])
        seconds = six_of(body.inertia)[None, :] if asks_inertia(self.analysis) else np.zeros((1, 0))
        return Samples(np.array([body.mass]), body.cg[None, :].copy(), np.array([carried]), found, seconds)

    @property
    def groups(self) -> tuple[np.ndarray, ...]:
        """The parts (n,) bool of each stage."""
        return self.case.equilibrium.groups

    def load(self, samples: Samples) -> tuple[np.ndarray, np.ndarray]:
        """Return mass (d,) and CG (d, 3) of what the first form is of: the innermost stage, or all."""
        return (samples.stages[:, 0, 0], samples.stages[:, 0, 1:]) if self.groups else (samples.mass, samples.cg)

    def gradient(self, output: str) -> np.ndarray:
        """Return the output's derivatives (c,) by each of `Samples.rows`, by central differences.

        One step of 1e-5 m or kg: where the figure has a kink this is the slope at the estimate's own side.
        """
        base = self.now().rows[0]
        step = 1e-5
        rows = np.repeat(base[None, :], 2 * len(base), axis=0)
        for k in range(len(base)):
            rows[2 * k, k] += step
            rows[2 * k + 1, k] -= step
        values = self.values(output, Samples.of(rows))
        result: np.ndarray = (values[0::2] - values[1::2]) / (2.0 * step)
        return result

    # One function for each output

    def hangs(self, samples: Samples) -> np.ndarray:
        """Return pitch and roll (d, 2) (rad) at which each drawn rig hangs from the support's point."""
        equilibrium = self.case.equilibrium
        d = samples.cg - equilibrium.point
        return np.column_stack([np.arctan2(d[:, 0], np.hypot(d[:, 1], d[:, 2])), np.arctan2(-d[:, 1], -d[:, 2])])

    def offset(self, samples: Samples) -> np.ndarray:
        """Return the CG (d, 3) (m) from the support: ahead, to the left of that, up."""
        equilibrium = self.case.equilibrium
        axes = np.array([equilibrium.forward, equilibrium.across, UP])
        offset: np.ndarray = (self.load(samples)[1] - equilibrium.point) @ axes.T
        return offset

    def _slide(self, samples: Samples) -> np.ndarray:
        assembly, equilibrium = self.analysis.assembly, self.case.equilibrium
        assert self.slide is not None
        moves_it = assembly.carries(self.slide, equilibrium.holder)
        mass = self.load(samples)[0]
        slope = (samples.carried - mass * moves_it) * float(assembly.slide_axes[self.slide] @ equilibrium.forward)
        result: np.ndarray = -mass * self.offset(samples)[:, 0] / slope
        return result

    def held(self, samples: Samples) -> tuple[np.ndarray, np.ndarray]:
        equilibrium, statics = self.case.equilibrium, self.statics
        assert statics is not None
        return self.of_samples(
            "held", samples, lambda: statics.forces(samples.mass, samples.cg + equilibrium.pose.shift)
        )

    def of_samples(
        self, what: str, samples: Samples, find: Callable[[], tuple[np.ndarray, np.ndarray]]
    ) -> tuple[np.ndarray, np.ndarray]:
        """Return what was found of the same `samples` before: outputs that share it are asked one after the other."""
        last = self._last.get(what)
        if last is None or last[0] is not samples:
            last = self._last[what] = (samples, find())
        return last[1]

    def moved(self) -> Samples:
        """Return the rig as it is, then moved each way by two of its independent u, as `moved_by` takes them."""
        if self._moved is None:
            covariance = self.covariance()
            for gain, gradient, _ in lessons(self, covariance):
                covariance = covariance - np.outer(gain, gradient @ covariance)
            steps = 2.0 * spread_of(covariance).T
            rows = np.repeat(self.now().rows, 1 + 2 * len(steps), axis=0)
            rows[1 : 1 + len(steps)] += steps
            rows[1 + len(steps) :] -= steps
            self._moved = Samples.of(rows)
        return self._moved

    def covariance(self) -> np.ndarray:
        """Return the covariance (c, c) of the numbers in `Samples.rows`, see `covariance_of`."""
        analysis = self.analysis
        if asks_inertia(analysis):
            return covariance_of(analysis, inputs_of(analysis, self.slide))
        # The same without an inertia: what doubtful CGs add stays while slides move.
        groups = tuple(group.tobytes() for group in self.groups)
        result: np.ndarray = _by_masses(analysis, _by_mass(analysis, self.slide)) + _by_cgs(analysis.assembly, groups)
        return result

    def firsts(self, which: Sequence[str]) -> dict[str, tuple[float, float]]:
        """Return outputs of the rig as it is, each with its standard uncertainty, see `output_uncertainties`."""
        asked = [output for output in which if output not in self._firsts]
        if asked:
            table = np.array([self.values(output, self.moved()) for output in asked])
            self._firsts |= zip(asked, zip(table[:, 0].tolist(), moved_by(table).tolist(), strict=True), strict=True)
        return {output: self._firsts[output] for output in which}


#: Outputs that every support has.
CG_AHEAD = Output("CG distance ahead", Kind.LENGTH, lambda g, samples: g.offset(samples)[:, 0], signed=True)
SLIDE_TO_LEVEL = Output("slide that makes it level", Kind.LENGTH, OutputModel._slide, signed=True)
TIP_MOMENT = Output(
    "tipping moment",
    Kind.MOMENT,
    lambda g, samples: g.load(samples)[0] * STANDARD_GRAVITY * g.offset(samples)[:, 0],
    signed=True,
)
LARGER_HAND = Output("larger hand, rig alone", Kind.FORCE, lambda g, samples: g.held(samples)[0], by_forces=True)
TOTAL_MASS = Output("total mass", Kind.MASS, lambda g, samples: samples.mass)


@cached_for_rig
def output_model(analysis: Analysis) -> OutputModel | None:
    """Return the outputs of a build that has a mass and lies on its support, else None."""
    support = analysis.support
    case = support.case(analysis)
    if case is None:
        return None
    holding, lacking = case.equilibrium.holding, set()
    if holding is None or not holding.hands:
        lacking.add(LARGER_HAND)
    slide = slide_of_camera(analysis)
    if slide is not None and negligible(level_slope(analysis, slide), SLIGHT):
        slide = None
    if slide is None:
        lacking.add(SLIDE_TO_LEVEL)
    offered = tuple(
        output
        for output in support.outputs
        if output not in lacking and not (output.by_forces and holding is None) and output.there(case)
    )
    return OutputModel(case, None if holding is None else case.equilibrium.pose.statics(arms=False), slide, offered)


class Inputs(Struct, frozen=True, eq=False):
    """First-order dependence of the c numbers in `Samples.rows` on the n parts' figures.

    `mass` (n, c) by each mass (1/kg and so on), `cg` (n, 3, c) by each CG along the part's own axes, `own` (n, c) by
    the part's own inertia, as a share of it.
    """

    mass: np.ndarray
    cg: np.ndarray
    own: np.ndarray


def inputs_of(analysis: Analysis, slide: int | None) -> Inputs:
    """Return how mass, CG and carried mass follow the parts' figures: dc/dm_i = (r_i - c)/M, dc/dr_i = m_i/M."""
    assembly, body = analysis.assembly, analysis.body
    assert body is not None
    groups = analysis.equilibrium.groups if analysis.equilibrium is not None else ()
    mass, cg = _by_mass(analysis, slide), _by_cg(assembly, groups)
    if not asks_inertia(analysis):
        return Inputs(mass, cg, np.zeros_like(mass))
    away, six = analysis.positions.cg - body.cg, six_of(assembly.inertia)
    # About the CG itself what it moves by adds nothing, first order.
    by_mass = six / np.maximum(assembly.mass, ROUNDING)[:, None] + six_of(lever_squares(away))
    turned = np.transpose(assembly.rotation, (0, 2, 1))
    by_cg = np.einsum("nka,nac->nkc", turned, six_slopes(away) * assembly.mass[:, None, None])
    own = np.concatenate([np.zeros_like(mass), six], axis=1)
    return Inputs(np.concatenate([mass, by_mass], axis=1), np.concatenate([cg, by_cg], axis=2), own)


def _by_mass(analysis: Analysis, slide: int | None) -> np.ndarray:
    """Return how the numbers of `Samples.rows` follow each part's mass (n, c), the inertia left out."""
    assembly, places = analysis.assembly, analysis.positions.cg
    groups = analysis.equilibrium.groups if analysis.equilibrium is not None else ()
    mass = np.zeros((len(assembly.parts), 5 + 4 * len(groups)))
    mass[:, :5] = _whole_by_masses(analysis, slide)
    for k, group in enumerate(groups):
        first, within = 5 + 4 * k, assembly.mass * group
        total = float(within.sum())
        mass[:, first] = group
        mass[:, first + 1 : first + 4] = (places - within @ places / total) * (group / total)[:, None]
    return mass


def _by_cg(assembly: Assembly, groups: Sequence[np.ndarray]) -> np.ndarray:
    """Return how they follow each part's CG along its own axes (n, 3, c), the inertia left out."""
    cg = np.zeros((len(assembly.parts), 3, 5 + 4 * len(groups)))
    # Part axis j lies along column j of rig_from_part.
    turned = np.transpose(assembly.rotation, (0, 2, 1))
    cg[:, :, 1:4] = turned * (assembly.mass / assembly.whole)[:, None, None]
    for k, group in enumerate(groups):
        within = assembly.mass * group
        cg[:, :, 6 + 4 * k : 9 + 4 * k] = turned * (within / within.sum())[:, None, None]
    return cg


@cached_for_rig
def _by_cgs(assembly: Assembly, groups: tuple[bytes, ...]) -> np.ndarray:
    """Return what doubtful CGs add to a covariance (c, c), the inertia left out; it stays while slides move."""
    slopes = _by_cg(assembly, [np.frombuffer(group, dtype=bool) for group in groups])
    moved = (assembly.uncertainties.cg[:, :, None] * slopes).reshape(-1, slopes.shape[2])
    result: np.ndarray = moved.T @ moved
    return result


def _whole_by_masses(analysis: Analysis, slide: int | None) -> np.ndarray:
    """Return how the whole's mass, CG and carried mass follow each part's mass (n, 5)."""
    body = analysis.body
    assert body is not None
    mass = np.zeros((len(analysis.assembly.parts), 5))
    mass[:, 0] = 1.0
    mass[:, 1:4] = (analysis.positions.cg - body.cg) / body.mass
    if slide is not None:
        mass[:, 4] = analysis.assembly.carried_by(slide)
    return mass


def _by_masses(analysis: Analysis, slopes: np.ndarray) -> np.ndarray:
    """Return what uncertain masses add to a covariance (c, c), by themselves and in common; `slopes` (n, c)."""
    uncertainties = analysis.assembly.uncertainties
    own, common = uncertainties.mass[:, None] * slopes, uncertainties.gain @ slopes
    result: np.ndarray = own.T @ own + common.T @ common
    return result


def asks_inertia(analysis: Analysis) -> bool:
    """Whether figures of the support that a build is on go by its inertia."""
    return analysis.support.by_inertia


def six_of(inertia: np.ndarray) -> np.ndarray:
    """Return I_xx, I_yy, I_zz, I_xy, I_xz, I_yz (..., 6) of tensors (..., 3, 3)."""
    return inertia[..., [0, 1, 2, 0, 0, 1], [0, 1, 2, 1, 2, 2]]


def lever_squares(away: np.ndarray) -> np.ndarray:
    """Return ``r.r E - r r^T`` (n, 3, 3) (m2) of points `away` (n, 3) (m): the inertia of one kilogram there."""
    squares = np.einsum("ni,ni->n", away, away)
    result: np.ndarray = squares[:, None, None] * np.eye(3) - away[:, :, None] * away[:, None, :]
    return result


def six_slopes(away: np.ndarray) -> np.ndarray:
    """Return how `six_of` of `lever_squares` grows (n, 3, 6) (m) with each of x, y and z of points `away` (n, 3)."""
    x, y, z = away.T
    none = np.zeros_like(x)
    by = [
        [none, 2.0 * x, 2.0 * x, -y, -z, none],
        [2.0 * y, none, 2.0 * y, -x, none, -z],
        [2.0 * z, 2.0 * z, none, none, -x, -y],
    ]
    return np.transpose(np.array(by), (2, 0, 1))


def covariance_of(analysis: Analysis, inputs: Inputs) -> np.ndarray:
    """Return the covariance (c, c) of the numbers in `Samples.rows`, first order: JCGM 100:2008 clause 5, H.2."""
    by_cg = (analysis.assembly.uncertainties.cg[:, :, None] * inputs.cg).reshape(-1, inputs.mass.shape[1])
    by_own = OWN_INERTIA * inputs.own
    result: np.ndarray = _by_masses(analysis, inputs.mass) + by_cg.T @ by_cg + by_own.T @ by_own
    return result


def spread_of(covariance: np.ndarray) -> np.ndarray:
    """Return the columns (n, n) l of independent uncertainties that add up to a covariance: ``C = sum l l^T``."""
    size, way = np.linalg.eigh(covariance)
    result: np.ndarray = way * np.sqrt(np.clip(size, 0.0, None))
    return result


def output_uncertainties(outputs: OutputModel, which: tuple[str, ...] | None = None) -> dict[str, float]:
    """Return the standard uncertainty of each output, half of what two of them move it by.

    Each of the independent uncertainties that make up the covariance is moved by twice its size each way, and what
    that does adds as squares, see `moved_by`. Where a figure is straight over that range this is the law of
    propagation, JCGM 100:2008 (GUM) clause 5; where it folds, as hands that are free on the pad do, the interval of
    two still reaches as far as the figure does.
    """
    firsts = outputs.firsts(outputs.offered if which is None else which)
    return {output: unsure for output, (_, unsure) in firsts.items()}


def lessons(outputs: OutputModel, covariance: np.ndarray) -> Iterator[tuple[np.ndarray, np.ndarray, float]]:
    """Return what was measured of the whole rig: the gain (c,), the output's derivatives (c,), the reading's u.

    A reading of what the parts already tell takes the share ``g = C h/(h C h + u^2)`` of its surprise, one after the
    other (Kalman, J. Basic Eng. 82 (1960); Gelb, Applied Optimal Estimation, ch. 4, from memory).
    """
    for output, u in outputs.analysis.support.observed(outputs.case):
        gradient = outputs.gradient(output)
        if not np.isfinite(gradient).all():
            continue
        gain = covariance @ gradient / (float(gradient @ covariance @ gradient) + u * u)
        yield gain, gradient, u
        covariance = covariance - np.outer(gain, gradient @ covariance)


def firsts_of(outputs: OutputModel) -> dict[str, tuple[float, float]]:
    """Return every output's value and standard uncertainty, as all rooms show them (SI)."""
    return outputs.firsts(outputs.offered)


def moved_by(values: np.ndarray) -> np.ndarray:
    """Return standard uncertainties (...) of figures from `values` (..., 1 + 2 n): now, then moved each way by two.

    Where both ways move it by about as much, to opposite sides, it is straight: their mean is its slope, whatever it
    bends. Otherwise the farther one counts.
    """
    n = values.shape[-1] // 2
    up, down = values[..., 1 : 1 + n] - values[..., :1], values[..., 1 + n :] - values[..., :1]
    # Where one of the two has no such figure, as a sled that turns over has no drop time, the other counts.
    near, far = np.fmin(np.abs(up), np.abs(down)), np.fmax(np.abs(up), np.abs(down))
    straight = (up * down <= 0.0) & (near >= _STRAIGHT * far)
    moved = np.where(straight, (near + far) / 2.0, far)
    result: np.ndarray = 0.5 * np.sqrt(np.where(np.isnan(moved), 0.0, moved**2).sum(axis=-1))
    return result


def unsure(
    analysis: Analysis, figures: Callable[[float, np.ndarray], np.ndarray | None], now: np.ndarray | None = None
) -> np.ndarray | None:
    """Return the standard uncertainties (f,) of `figures` (f,) of a rig's mass (kg) and CG (3,) (m, rig frame).

    As `output_uncertainties` does; `now` (f,) are the figures of the rig as it is, if known. None where the rig, or one
    that differs so little, has no such figures.
    """
    body = analysis.body
    if body is None:
        return None
    steps = 2.0 * spread_of(covariance_of(analysis, inputs_of(analysis, None))[:4, :4]).T
    rows = [] if now is None else [now]
    for step in (*([np.zeros(4)] if now is None else []), *steps, *-steps):
        found = figures(body.mass + float(step[0]), body.cg + step[1:])
        if found is None:
            return None
        rows.append(found)
    return moved_by(np.array(rows).T)
