"""The order in which people set a gimbal's scales, each exactly, and the marks of all of them for every lens."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Sequence
from typing import TypeVar, cast

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Kit, Operator
from equilix.core.assembly.clash import free_way, pairs_met
from equilix.core.assembly.resolve import Assembly
from equilix.core.rounding import EXACT, ROUNDING, SLIGHT, negligible
from equilix.core.solver.choices import lens_swaps
from equilix.core.solver.plan import Target
from equilix.core.solver.search_space import set_to_lens
from equilix.core.solver.targets import form_slopes, form_value
from equilix.core.statics.stages import Stages

Found = TypeVar("Found")


class WorkStep(Struct, frozen=True):
    """One scale to set: the slide of `placed_id` from `now` to `to` (m) clears the stage's CG `beside` its axis.

    `left` (m) of the stage's CG is what stays there, since the slide ends or nothing slides; `before` (m) what is there
    now, with all earlier steps done. `placed_id` is empty where no slide moves it, or it need not move. `meets` are
    the two placed parts that touch where the step ends early for it.
    """

    stage: str
    beside: str
    placed_id: str
    now: float
    to: float
    before: float
    left: float
    meets: tuple[str, ...] = ()


def order_of_work(analysis: Analysis, on_it: Stages, target: Target) -> tuple[WorkStep, ...]:
    """Return the steps that balance a gimbal, in working order; each leaves the ones before it alone.

    First moments are linear in the slides, and a slide of an outer stage moves nothing against the axes within it, so
    that solving the rows one after the other is exact (forward substitution: Golub and Van Loan, ch. 3). Where parts
    would meet at the end that do not now, each step goes as far as nothing meets, and what is left is what stays.
    """
    rows = _Rows(analysis, on_it, target)
    steps, ends = rows.solved(None)
    met = _met(analysis.assembly, ends)
    if met and (known := _met(analysis.assembly, analysis.settings.tolist())) != met:
        # What is set to the lens is set to it again, wherever the camera goes.
        follow = set_to_lens(analysis)
        steps, _ = rows.solved(known | frozenset(pair for pair in met if not follow.isdisjoint(pair)))
    return steps


#: How many places are kept for one rig.
_MOST_KEPT = 64


def _kept(assembly: Assembly, asked: tuple[object, ...], find: Callable[[], Found]) -> Found:
    """Return what was found of an assembly's places: the same ones come back while one of its scales is dragged."""
    places = assembly.cache.of(_kept)
    if asked not in places:
        assembly.cache.put(_kept, asked, find(), _MOST_KEPT)
    return cast("Found", places[asked])


def _met(assembly: Assembly, settings: Sequence[float]) -> frozenset[tuple[int, int]]:
    """Return the pairs that meet with the slides at `settings` (k,) (m)."""
    # To what no scale is set to.
    asked = tuple(round(setting / SLIGHT) for setting in settings)
    return _kept(assembly, asked, lambda: pairs_met(assembly, assembly.at(np.array(asked) * SLIGHT)))


class _Rows:
    """The forms of a gimbal's target as rows of the slides' settings."""

    def __init__(self, analysis: Analysis, on_it: Stages, target: Target) -> None:
        self.analysis, self.on_it, self.target = analysis, on_it, target
        self.values = np.array([form_value(analysis, target, form) for form in target.forms])
        slopes = [form_slopes(analysis, target, form) for form in target.forms]
        self.slopes = np.array(slopes).reshape(len(self.values), len(analysis.settings))
        # Plain numbers, asked one by one.
        self.by = self.slopes.tolist()
        self.usable = scales_of(analysis, on_it)

    def scales_for(self, f: int, used: Collection[int]) -> list[int]:
        """Return the slides that move form `f` and none before it, the coarse one, which carries more, first."""
        # A slide that carries less than this does not count.
        by, least = self.by, SLIGHT
        several = [
            j
            for j in self.usable
            if j not in used and not negligible(by[f][j], least) and all(negligible(row[j], least) for row in by[:f])
        ]
        return sorted(several, key=lambda j: -abs(by[f][j]))

    def solved(self, known: frozenset[tuple[int, int]] | None) -> tuple[tuple[WorkStep, ...], list[float]]:
        """Return the steps, and where every slide stands after them (m).

        None keeps no parts apart; otherwise all but the `known` pairs are kept from meeting.
        """
        analysis, assembly, values = self.analysis, self.analysis.assembly, self.values
        settings = analysis.settings.astype(float).tolist()
        steps: list[WorkStep] = []
        used: set[int] = set()
        for f, form in enumerate(self.target.forms):
            stage_name, beside = form.name.split(" ")
            stage = self.on_it.stage(stage_name)
            assert stage is not None
            before = float(values[f]) / stage.mass
            several = self.scales_for(f, used)
            done = 0
            for j in several:
                if done and negligible(values[f], EXACT * stage.mass):
                    break
                mount = assembly.slide_mounts[j]
                now = settings[j]
                meets: tuple[str, ...] = ()
                to = mount.snap(now - float(values[f]) / self.by[f][j])
                if known is not None:
                    to, meets = self._held(settings, j, to, known)
                values = values + self.slopes[:, j] * (to - now)
                settings[j] = to
                used.add(j)
                placed = analysis.build.parts[assembly.slide_parts[j]].id
                left = float(values[f]) / stage.mass
                steps.append(WorkStep(stage.name, beside, placed, now, to, before, left, meets))
                before, done = left, done + 1
            if not several:
                steps.append(WorkStep(stage.name, beside, "", 0.0, 0.0, before, before))
        return tuple(steps), settings

    def _held(
        self, settings: list[float], j: int, to: float, known: frozenset[tuple[int, int]]
    ) -> tuple[float, tuple[str, ...]]:
        """Return how far slide `j` goes towards `to` (m), and the placed parts that stop it before."""
        assembly, now = self.analysis.assembly, settings[j]
        if not _met(assembly, [to if i == j else setting for i, setting in enumerate(settings)]) - known:
            return to, ()
        at, way = tuple(settings), to - now
        way, pair = _kept(
            assembly, (at, j, to, known), lambda: free_way(assembly, assembly.at(np.array(at)), j, way, known)
        )
        if pair is None:
            return to, ()
        mount = assembly.slide_mounts[j]
        end = mount.snap(now + way)
        if abs(end - now) > abs(way) + ROUNDING:
            # The last notch before it.
            end = mount.snap(end - math.copysign(mount.step, way))
        return end, tuple(self.analysis.build.parts[i].id for i in pair)


class LensMarks(Struct, frozen=True, eq=False):
    """Where all scales stand for one `lens`: the steps from how they stand now; `reason` why it can't go on.

    `meets` are two placed parts that touch there and don't with the lens that is on. `after` is the rig then.
    """

    lens: str
    steps: tuple[WorkStep, ...]
    reason: str = ""
    meets: tuple[str, ...] = ()
    after: Analysis | None = None


def lens_marks(
    analysis: Analysis, kit: Kit, order: Callable[[Analysis], tuple[WorkStep, ...]]
) -> tuple[LensMarks, ...]:
    """Return where every scale must stand for each lens of the kit in the place of the one that is on.

    What sits on the lens goes along where it fits; `order` gives the steps of a build.
    """
    found = []
    for swap in lens_swaps(analysis.build, kit):
        if swap.build is None:
            found.append(LensMarks(swap.lens.name, (), swap.reason))
            continue
        there = analyse(swap.build, kit, _NOBODY)
        steps = order(there)
        met = _met_at(there, steps) - _met_at(analysis, ())
        ends = {step.placed_id: step.to for step in steps}
        parts = tuple(replace(p, setting=ends.get(p.id, p.setting)) for p in there.build.parts)
        after = analyse(replace(there.build, parts=parts), kit, _NOBODY, there)
        found.append(LensMarks(swap.lens.name, steps, meets=min(met, default=()), after=after))
    return tuple(found)


def _met_at(analysis: Analysis, steps: Sequence[WorkStep]) -> set[tuple[str, ...]]:
    """Return the placed parts that meet once all steps are done, but for what is set to the lens."""
    ids = [analysis.build.parts[i].id for i in analysis.assembly.slide_parts]
    ends = {step.placed_id: step.to for step in steps}
    settings = [ends.get(key, now) for key, now in zip(ids, analysis.settings.tolist(), strict=True)]
    pairs, follow = pairs_met(analysis.assembly, analysis.assembly.at(np.array(settings))), set_to_lens(analysis)
    return {tuple(analysis.build.parts[i].id for i in pair) for pair in pairs if follow.isdisjoint(pair)}


_NOBODY = Operator("nobody", "Nobody")


def scales_of(analysis: Analysis, on_it: Stages) -> tuple[int, ...]:
    """Return the numbers of the slides that are a gimbal's scales: those between the camera and the frame."""
    assembly = analysis.assembly
    if assembly.sensor is None:
        return ()
    root = assembly.root
    outside = [k for k in range(len(assembly.parts)) if not on_it.stages[-1].parts[k]]
    far = outside[0] if outside else root
    between = assembly.slides_between(assembly.sensor, far)
    return tuple(j for j in between if assembly.slide_mounts[j].goes)
