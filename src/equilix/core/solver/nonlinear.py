"""Forms that are only nearly linear: an answer is worked out again from where it lies, then set exactly.

Products of inertia and a drop time bend with the slides. A search takes levers and the wished place of the CG as they
are; its answer shows what they become. With its choices kept, Newton steps over the slides that it moved close the rest
(Gauss-Newton with bounds: Nocedal and Wright, Numerical Optimization, ch. 10 and 16, from memory).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.cache import cached_for_rig
from equilix.core.rounding import EXACT, ROUNDING, SLIGHT, largest, negligible
from equilix.core.solver.plan import STAYS, Form, Plan, PlanStatus, Target
from equilix.core.solver.targets import form_slopes, form_value, target_of
from equilix.core.sources import common_practice

#: How often a search is asked anew from where its answer lies.
_ROUNDS = 3
#: What must be left at most of what the answer before left for another search to be worth it.
_LESS = common_practice(0.99)
#: Newton steps, what counts as closed, in tolerances of each form, and the least that such a slide does.
_STEPS, _CLOSED, _LEAST = 60, 1e-10, ROUNDING
#: Share of a form's tolerance below which the search has closed it.
_MET = 1e-2

_NOBODY = Operator("nobody", "Nobody")


def frozen_at(target: Target, there: Target) -> Target:
    """Return a `target` with levers, places and tolerances as they are `there`, on a build that differs little."""
    forms = []
    for form, other in zip(target.forms, there.forms, strict=True):
        point = target.point + (there.about(other)[0] - there.point)
        forms.append(replace(other, point=point, holder=target.about(form)[1], offset=other.offset))
    return replace(target, forms=tuple(forms))


def settled(
    search: Callable[[Target], Plan], analysis: Analysis, kit: Kit, target: Target, slides: frozenset[str]
) -> Plan:
    """Return the plan that `search` finds for a curved target, settled on the figures themselves.

    `slides` are the placed parts whose slides may be set finely; a plan that moves too few of them for what it closes
    moves others. It is proven only where all is closed: what is left nearby is least, elsewhere nobody has looked.
    """
    plan, asked, left = search(target), target, math.inf
    last = plan
    for _ in range(_ROUNDS):
        if not plan.found or not plan.changes:
            return plan
        met = [negligible(float(v), _MET * asked.allowed(f)) for v, f in zip(plan.values, asked.forms, strict=False)]
        done = set_exactly(plan, analysis, kit, met, slides)
        if done is None:
            return plan
        plan, there, reached = done
        values = zip(plan.values, there.forms, strict=True)
        if reached and (all(met) or all(negligible(float(v), there.allowed(form)) for v, form in values)):
            return plan
        left, before = plan.beyond(there), left
        if left > _LESS * before:
            plan = plan if left <= before else last
            break
        last = plan
        asked = frozen_at(target, there)
        again = search(asked)
        if not again.found or not again.changes or _same(again, plan):
            break
        plan = again
    return replace(plan, status=PlanStatus.GOOD)


def _same(one: Plan, other: Plan) -> bool:
    there = {p.id: p for p in other.build.parts}
    return len(there) == len(one.build.parts) and all(
        p.id in there
        and (p.parent, p.mount) == (there[p.id].parent, there[p.id].mount)
        and negligible(p.setting - there[p.id].setting, STAYS)
        for p in one.build.parts
    )


def closed_by_slides(
    now: Analysis,
    kit: Kit,
    rows: Sequence[int],
    free: Callable[[Analysis, np.ndarray, np.ndarray], Sequence[int]],
    move: Callable[[Analysis, dict[int, float]], Build],
    ends: Mapping[int, tuple[float, float]] | None = None,
    closed: float = _CLOSED,
) -> tuple[Analysis, Target, bool]:
    """Return the rig with its slides set so that the forms at `rows` are closed, its target, and whether they are.

    All that sets slides to marks does it here: Newton steps over the slides that are `free`, which is asked with the
    values (r,) and slopes (r, k) of the rows in tolerances of each; `move` makes the build of a step's settings by
    slide. No slide leaves its travel, nor the `ends` (m) that are given for it. What is below `closed` tolerances is
    closed.
    """
    which = list(rows)
    for _ in range(_STEPS):
        there = target_of(now)
        assert there is not None
        values, slopes, sizes = forms_of(now, there)
        shares, scaled = values[which] / sizes[which], slopes[which] / sizes[which][:, None]
        if negligible(largest(shares), closed):
            return now, there, True
        step = bounded_step(now, list(free(now, shares, scaled)), scaled, shares, ends)
        if not step:
            break
        now = analyse(move(now, step), kit, _NOBODY, now)
    there = target_of(now)
    assert there is not None
    return now, there, False


def set_exactly(
    plan: Plan, analysis: Analysis, kit: Kit, met: Sequence[bool], slides: frozenset[str]
) -> tuple[Plan, Target, bool] | None:
    """Return a plan with its slides set so that the forms that it has `met` are closed, its target, and whether they
    are; None where nothing can be set."""
    whole = {**kit, **plan.kit}
    now = analyse(plan.build, whole, _NOBODY, analysis)
    if target_of(now) is None:
        return None
    start = {p.id: p.setting for p in plan.build.parts}
    moved = set(plan.moved)

    def free(there: Analysis, shares: np.ndarray, slopes: np.ndarray) -> list[int]:
        return _free(there, moved, slides, slopes[np.abs(shares) > _CLOSED])

    def move(there: Analysis, step: dict[int, float]) -> Build:
        build = there.build
        for j, setting in step.items():
            placed = build.parts[there.assembly.slide_parts[j]]
            if placed.id in moved or not negligible(setting - start[placed.id], STAYS):
                moved.add(placed.id)
                build = build.with_placed(replace(placed, setting=setting))
        return build

    now, target, reached = closed_by_slides(now, whole, [k for k, m in enumerate(met) if m], free, move)
    before = {p.id: p.setting for p in analysis.build.parts}
    settings = {
        p.id: p.setting
        for p in now.build.parts
        if p.id in moved and (p.id not in before or not negligible(p.setting - before[p.id], STAYS))
    }
    changes = plan.changes + len(settings.keys() - plan.moved.keys())
    found = replace(plan, build=now.build, moved=settings, values=forms_of(now, target)[0], changes=changes)
    ends = zip(found.values, target.forms, strict=True)
    within = all(negligible(float(v), target.allowed(form)) for v, form in ends)
    if not (reached and (all(met) or within)):
        # What lies nearby leaves no less; elsewhere nobody has looked.
        found = replace(found, status=PlanStatus.GOOD)
    elif all(met):
        # Where nothing is left of anything, no other plan leaves less.
        found = replace(found, status=PlanStatus.PROVEN)
    return found, target, reached


# A sled's marks are asked for its picture, its verdict and its figures, where they end too.
@cached_for_rig
def forms_of(now: Analysis, target: Target) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return values (f,), slopes (f, k) and tolerances (f,) of a target's forms."""
    forms: tuple[Form, ...] = target.forms
    values = np.array([form_value(now, target, form) for form in forms])
    slopes = np.array([form_slopes(now, target, form) for form in forms]).reshape(len(forms), len(now.settings))
    sizes = np.array([max(target.allowed(form), EXACT) for form in forms])
    for array in (values, slopes, sizes):
        array.flags.writeable = False
    return values, slopes, sizes


def _free(now: Analysis, moved: set[str], slides: frozenset[str], slopes: np.ndarray) -> list[int]:
    """Return the slides to set: those that are moved already, and as many more as it takes, the strongest first."""
    assembly = now.assembly
    ids = [now.build.parts[i].id for i in assembly.slide_parts]
    usable = [
        j
        for j, mount in enumerate(assembly.slide_mounts)
        if mount.goes and not mount.notched and (ids[j] in moved or ids[j] in slides)
    ]
    chosen: list[int] = []
    rank = 0
    for j in sorted(usable, key=lambda j: (ids[j] not in moved, -largest(slopes[:, j]))):
        if negligible(largest(slopes[:, j]), _LEAST):
            continue
        if ids[j] in moved:
            chosen.append(j)
            rank = int(np.linalg.matrix_rank(_scaled(slopes[:, chosen]), tol=SLIGHT))
        elif rank < len(slopes):
            more = int(np.linalg.matrix_rank(_scaled(slopes[:, [*chosen, j]]), tol=SLIGHT))
            if more > rank:
                chosen.append(j)
                rank = more
    return chosen


def _scaled(columns: np.ndarray) -> np.ndarray:
    sizes = np.linalg.norm(columns, axis=0)
    result: np.ndarray = columns / np.maximum(sizes, EXACT)
    return result


def bounded_step(
    now: Analysis,
    free: list[int],
    slopes: np.ndarray,
    values: np.ndarray,
    held: Mapping[int, tuple[float, float]] | None = None,
) -> dict[int, float] | None:
    """Return new settings of the `free` slides by one least-squares step that stays within their travel.

    A slide that would pass its end, or where it is `held` before, stops there, and the others make up for it. None
    where nothing can be done.
    """
    if not free or not len(values):
        return None
    mounts = now.assembly.slide_mounts
    ends = {j: (mounts[j].low, mounts[j].high) for j in free} | dict(held or {})
    left, rest = list(free), -values.copy()
    settings: dict[int, float] = {}
    while left:
        shift = np.linalg.lstsq(slopes[:, left], rest, rcond=None)[0]
        past = []
        for j, by in zip(left, shift.tolist(), strict=True):
            (low, high), at = ends[j], float(now.settings[j])
            if not low - EXACT <= at + by <= high + EXACT:
                past.append((max(low - at - by, at + by - high), j, low if by < 0.0 else high))
        if not past:
            for j, by in zip(left, shift.tolist(), strict=True):
                settings[j] = min(max(float(now.settings[j]) + by, ends[j][0]), ends[j][1])
            break
        _, j, end = max(past)
        rest = rest - slopes[:, j] * (end - float(now.settings[j]))
        settings[j] = end
        left.remove(j)
    return {j: setting for j, setting in settings.items() if setting != float(now.settings[j])}
