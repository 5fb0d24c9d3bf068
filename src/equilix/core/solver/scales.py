"""The order in which people set a gimbal's scales, each exactly, and the marks of all of them for every lens."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec import Struct

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Kit, Operator
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import Category
from equilix.core.rounding import EXACT, SLIGHT
from equilix.core.solver.choices import with_lens
from equilix.core.solver.plan import Target
from equilix.core.solver.targets import form_slopes, form_value
from equilix.core.statics.stages import Stages


class Step(Struct, frozen=True):
    """One scale to set: the slide of `placed_id` from `now` to `to` (m) clears the stage's CG `beside` its axis.

    `left` (m) of the stage's CG is what stays there, since the slide ends or nothing slides; `before` (m) what is there
    now, with all earlier steps done. `placed_id` is empty where no slide moves it, or it need not move.
    """

    stage: str
    beside: str
    placed_id: str
    now: float
    to: float
    before: float
    left: float


def order_of_work(analysis: Analysis, on_it: Stages, target: Target) -> tuple[Step, ...]:
    """Return the steps that balance a gimbal, in working order; each leaves the ones before it alone.

    First moments are linear in the slides, and a slide of an outer stage moves nothing against the axes within it, so
    that solving the rows one after the other is exact (forward substitution: Golub and Van Loan, ch. 3).
    """
    assembly = analysis.assembly
    values = np.array([form_value(analysis, target, form) for form in target.forms])
    slopes = np.array([form_slopes(analysis, target, form) for form in target.forms]).reshape(len(values), -1)
    settings, usable = analysis.settings.astype(float).tolist(), scales_of(analysis, on_it)
    # Plain numbers, asked one by one; a slide that carries less than this does not count.
    by, least = slopes.tolist(), SLIGHT
    steps: list[Step] = []
    used: set[int] = set()
    for f, form in enumerate(target.forms):
        stage = on_it.stage(form.name.split(" ")[0])
        assert stage is not None
        before = float(values[f]) / stage.mass
        several = [
            j for j in usable if j not in used and abs(by[f][j]) > least and all(abs(row[j]) <= least for row in by[:f])
        ]
        # The coarse scale carries more.
        several.sort(key=lambda j: -abs(by[f][j]))
        done = 0
        for j in several:
            if abs(values[f]) <= EXACT * stage.mass and done:
                break
            mount = assembly.slide_mounts[j]
            now = settings[j]
            to = mount.snap(now - float(values[f]) / by[f][j])
            values = values + slopes[:, j] * (to - now)
            settings[j] = to
            used.add(j)
            placed = analysis.build.parts[assembly.slide_parts[j]].id
            left = float(values[f]) / stage.mass
            steps.append(Step(stage.name, form.name.split(" ")[1], placed, now, to, before, left))
            before, done = left, done + 1
        if not several:
            steps.append(Step(stage.name, form.name.split(" ")[1], "", 0.0, 0.0, before, before))
    return tuple(steps)


class LensMarks(Struct, frozen=True, eq=False):
    """Where all scales stand for one `lens`: the steps from how they stand now; `reason` why it can't go on."""

    lens: str
    steps: tuple[Step, ...]
    reason: str = ""


def lens_marks(analysis: Analysis, kit: Kit, order: Callable[[Analysis], tuple[Step, ...]]) -> tuple[LensMarks, ...]:
    """Return where every scale must stand for each lens of the kit in the place of the one that is on.

    What sits on the lens goes along where it fits; `order` gives the steps of a build.
    """
    pairs = zip(analysis.build.parts, analysis.assembly.parts, strict=True)
    lens = next((placed for placed, part in pairs if part.category is Category.LENS), None)
    if lens is None:
        return ()
    found = []
    for part in kit.values():
        if part.category is not Category.LENS:
            continue
        if part.mass is None:
            found.append(LensMarks(part.name, (), "has no mass"))
            continue
        try:
            other = with_lens(analysis.build, kit, lens, part, True)
        except AssemblyError as error:
            found.append(LensMarks(part.name, (), str(error)))
            continue
        found.append(LensMarks(part.name, order(analyse(other, kit, _NOBODY))))
    return tuple(found)


_NOBODY = Operator("nobody", "Nobody")


def scales_of(analysis: Analysis, on_it: Stages) -> tuple[int, ...]:
    """Return the numbers of the slides that are a gimbal's scales: those between the camera and the frame."""
    assembly = analysis.assembly
    if assembly.sensor is None:
        return ()
    root = int(np.flatnonzero(assembly.parent < 0)[0])
    outside = [k for k in range(len(assembly.parts)) if not on_it.stages[-1].parts[k]]
    far = outside[0] if outside else root
    between = assembly.slides_between(assembly.sensor, far)
    return tuple(j for j in between if assembly.slide_mounts[j].high > assembly.slide_mounts[j].low)
