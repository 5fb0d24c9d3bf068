"""The marks of a sled's slides, all at once, and the steps in which people set them."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Operator
from equilix.core.assembly.clash import free_way, pairs_met
from equilix.core.cache import cached_for_rig
from equilix.core.frames import Z
from equilix.core.rounding import SLIGHT, negligible
from equilix.core.solver.nonlinear import closed_by_slides, forms_of
from equilix.core.solver.plan import Form, Target
from equilix.core.solver.scales import WorkStep
from equilix.core.solver.search_space import balance_slides, set_to_lens
from equilix.core.solver.targets import target_of
from equilix.core.sources import common_practice

#: What counts as closed, in tolerances of each form.
_CLOSED = 1e-8
#: kg, or tolerances for a metre, below which a slide moves a form by nothing.
_LEAST = SLIGHT
#: Share of what stays at most from which a slide more is worth setting.
_WORTH = common_practice(0.9)

_NOBODY = Operator("nobody", "Nobody")


@cached_for_rig
def marks_of(analysis: Analysis) -> tuple[tuple[WorkStep, ...], Analysis]:
    """Return the steps that set a curved target's slides, one for each form in its order, and the build then.

    Each form has one slide of its own, the strongest that does not carry what another form's does; all are set
    together, since each moves the others' forms too. Where a slide ends too soon, another that moves its form helps,
    with a step of its own. A form without a slide has a step without a part. `before` and `left` are in tolerances of
    the form.
    """
    target = target_of(analysis)
    if target is None:
        return (), analysis
    chosen = _chosen(analysis, target)
    now, there = analysis, target
    used = tuple(chosen[form.name] for form in target.forms if form.name in chosen)
    rows = tuple(k for k, form in enumerate(target.forms) if form.name in chosen)
    before = _shares(now, there)
    ends: dict[int, tuple[float, float]] = {}
    stopped: dict[int, tuple[int, int]] = {}
    if used:
        now, there = _closed(analysis, target, used, rows)
        # Each round holds one more slide back, or there is nothing that can be.
        for _ in used:
            held = _held(analysis, now, used, ends)
            if held is None:
                break
            j, at, stopped[j] = held
            ends[j] = (min(at, float(analysis.settings[j])), max(at, float(analysis.settings[j])))
            now, there, _ = _stepped(analysis, used, rows, ends)
    helping: dict[int, int] = {}
    while used and (more := _help(analysis, now, there, used, rows, ends, tuple(stopped.values()))) is not None:
        k, j, now, there = more
        used, helping[j] = (*used, j), k
    left = _shares(now, there)
    steps = []
    for k, form in enumerate(target.forms):
        stage, beside = form.name.split(" ")
        for j in (one for one, of in helping.items() if of == k):
            placed_id = analysis.build.parts[analysis.assembly.slide_parts[j]].id
            was, to = float(analysis.settings[j]), float(now.settings[j])
            steps.append(WorkStep(stage, beside, placed_id, was, to, before[k], left[k]))
        if form.name not in chosen:
            steps.append(WorkStep(stage, beside, "", 0.0, 0.0, before[k], left[k]))
            continue
        j = chosen[form.name]
        placed_id = analysis.build.parts[analysis.assembly.slide_parts[j]].id
        was, to = float(analysis.settings[j]), float(now.settings[j])
        meets = tuple(analysis.build.parts[i].id for i in stopped.get(j, ()))
        steps.append(WorkStep(stage, beside, placed_id, was, to, before[k], left[k], meets))
    return tuple(steps), now


def _help(
    analysis: Analysis,
    now: Analysis,
    there: Target,
    used: tuple[int, ...],
    rows: tuple[int, ...],
    ends: dict[int, tuple[float, float]],
    stopped: tuple[tuple[int, int], ...],
) -> tuple[int, int, Analysis, Target] | None:
    """Return the form that stays farthest beyond its tolerance, a slide that helps, and the rig with that set too.

    None where all are within theirs, or no other slide brings what is left noticeably down without a part that newly
    meets. What `stopped` another slide stays where it is.
    """
    shares = np.abs(_shares(now, there))
    k = int(max(rows, key=lambda row: float(shares[row])))
    if shares[k] <= 1.0:
        return None
    _, slopes, _ = forms_of(now, there)
    along = np.abs(analysis.assembly.slide_axes @ there.forms[k].direction) > _ALONG
    free = [j for j in _usable(analysis) if j not in used and along[j] and not negligible(float(slopes[k, j]), _LEAST)]
    known = pairs_met(analysis.assembly, now.positions)
    for j in sorted(free, key=lambda one: -abs(float(slopes[k, one]))):
        if any(analysis.assembly.parts_two(j, first, second) for first, second in stopped):
            continue
        then, target, _ = _stepped(analysis, (*used, j), rows, ends)
        worst = float(np.abs(_shares(then, target))[list(rows)].max())
        if worst < _WORTH * float(shares[k]) and pairs_met(analysis.assembly, then.positions) <= known:
            return k, j, then, target
    return None


def _usable(analysis: Analysis) -> list[int]:
    """Return the numbers of the slides that balance a build."""
    ids = balance_slides(analysis)
    assembly = analysis.assembly
    return [
        j
        for j, i in enumerate(assembly.slide_parts)
        if analysis.build.parts[i].id in ids and assembly.slide_mounts[j].goes
    ]


def _held(
    analysis: Analysis, now: Analysis, used: tuple[int, ...], ends: dict[int, tuple[float, float]]
) -> tuple[int, float, tuple[int, int]] | None:
    """Return the slide whose parts meet something at its mark that they do not now, where it stops, and what meets.

    None where nothing newly meets, or no slide without an end yet parts what does.
    """
    assembly = analysis.assembly
    met = pairs_met(assembly, now.positions)
    known = pairs_met(assembly, analysis.positions) if met else met
    new = sorted(met - known)
    follow = set_to_lens(analysis) if new else frozenset()
    for first, second in new:
        if first in follow or second in follow:
            continue
        parting = [j for j in used if j not in ends and assembly.parts_two(j, first, second)]
        if not parting:
            continue
        way = now.settings - analysis.settings
        j = max(parting, key=lambda one: abs(float(way[one])))
        back = now.settings.copy()
        back[j] = analysis.settings[j]
        goes, pair = free_way(assembly, assembly.at(back), j, float(way[j]), known)
        return j, float(analysis.settings[j]) + goes, pair or (first, second)
    return None


def _closed(
    analysis: Analysis, target: Target, used: tuple[int, ...], rows: tuple[int, ...]
) -> tuple[Analysis, Target]:
    """Return the rig with the `used` slides set so that the forms at `rows` are closed as far as they go.

    It begins from where they were closed last: that is the same while one of these slides is moved.
    """
    kept, closing = analysis.assembly.cache.of(_closed), (used, rows)
    if closing in kept:
        now, there = kept[closing]
        if _differs_by(analysis, now.build, used):
            return now, there
        build = _set(analysis, {j: float(now.settings[j]) for j in used})
        # Where all is closed, where one began makes no difference.
        near = analyse(build, analysis.assembly.kit, _NOBODY, analysis)
        now, there, reached = _stepped(near, used, rows)
        if reached:
            analysis.assembly.cache.put(_closed, closing, (now, there))
            return now, there
    now, there, reached = _stepped(analysis, used, rows)
    if reached:
        analysis.assembly.cache.put(_closed, closing, (now, there))
    return now, there


def _differs_by(analysis: Analysis, other: Build, used: tuple[int, ...]) -> bool:
    """Whether another build of the same parts is the same one but for where its `used` slides stand."""
    build, sliding = analysis.build, {analysis.assembly.slide_parts[j] for j in used}
    for i, (one, two) in enumerate(zip(build.parts, other.parts, strict=True)):
        if one is not two and one != (replace(two, setting=one.setting) if i in sliding else two):
            return False
    return bool(replace(build, parts=other.parts) == other)


def _set(analysis: Analysis, settings: dict[int, float]) -> Build:
    build = analysis.build
    for j, setting in settings.items():
        placed = build.parts[analysis.assembly.slide_parts[j]]
        build = build.with_placed(replace(placed, setting=analysis.assembly.slide_mounts[j].snap(setting)))
    return build


def _stepped(
    now: Analysis, used: tuple[int, ...], rows: tuple[int, ...], ends: Mapping[int, tuple[float, float]] | None = None
) -> tuple[Analysis, Target, bool]:
    """Return the rig with the `used` slides set, its target, and whether all `rows` are closed: `closed_by_slides`."""
    return closed_by_slides(now, now.assembly.kit, rows, lambda *_: used, _set, ends, _CLOSED)


def _shares(analysis: Analysis, target: Target) -> list[float]:
    values, _, sizes = forms_of(analysis, target)
    result: list[float] = (values / sizes).tolist()
    return result


def _chosen(analysis: Analysis, target: Target) -> dict[str, int]:
    """Return the number of the slide that each form is closed by."""
    assembly = analysis.assembly
    _, slopes, sizes = forms_of(analysis, target)
    usable = _usable(analysis)
    directions = np.array([form.direction for form in target.forms])
    along = (np.abs(directions @ assembly.slide_axes.T) > _ALONG).tolist()
    found: dict[str, int] = {}
    plain = [(k, form) for k, form in enumerate(target.forms) if form.lever is None]
    for k, form in plain:
        several = [j for j in usable if j not in found.values() and along[k][j]]
        several.sort(key=lambda j: (not _first(analysis, form, j), -abs(float(slopes[k, j]))))
        if several and not negligible(float(slopes[k, several[0]]), _LEAST):
            found[form.name] = several[0]
    for k, form in enumerate(target.forms):
        if form.lever is None:
            continue
        # A product takes the slide that still moves it once the CG is held where it is.
        level, name = next(
            ((m, other.name) for m, other in plain if (other.direction == form.direction).all()), (k, form.name)
        )
        holds = found.get(name)
        if holds is None:
            continue
        best, most = None, _LEAST
        for j in usable:
            if j in found.values() or not along[k][j]:
                continue
            by = float(slopes[k, j] - slopes[k, holds] * slopes[level, j] / slopes[level, holds])
            if abs(by) / float(sizes[k]) > most:
                best, most = j, abs(by) / float(sizes[k])
        if best is not None:
            found[form.name] = best
    return found


#: Cosine from which a slide runs along a form's way.
_ALONG = 0.9


def _first(analysis: Analysis, form: Form, j: int) -> bool:
    """Whether people turn to a slide first: the stage to level, the bearing for the drop."""
    assembly, equilibrium = analysis.assembly, analysis.equilibrium
    if equilibrium is None:
        return False
    carries = assembly.carried_by(j)
    if float(form.direction[Z]) != 0.0:
        # The bearing alone, or all but the bearing.
        return bool(carries[equilibrium.holder]) == (int(carries.sum()) * 2 < len(carries))
    return assembly.sensor is not None and bool(carries[assembly.sensor]) != bool(carries[equilibrium.holder])
