"""The ways to cure a rig that tips, side by side: slides, moved parts, another battery, dead weight, more steadiness.

Each way is a freedom and an order of goals for the same search. Which categories may do what is common
practice: grips, handle and screen stay where hands and eye want them.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import TYPE_CHECKING

import numpy as np

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, stays
from equilix.core.assembly.build import Build, FreeMount, Kit, Operator, Placed, free_mounts, mount_of
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Part
from equilix.core.kit.parts import Joint as PartJoint
from equilix.core.kit.uncertainty import COVERAGE, Certainty
from equilix.core.massprops.bodies import shift_inertia
from equilix.core.operator.strength import Joint
from equilix.core.registry import support_called
from equilix.core.slides import slide_of_camera
from equilix.core.solver.choices import Choice, Follower, Freedom, Option, carried_parts, fits, parts_of
from equilix.core.solver.dead_weight import MOST_DEAD_WEIGHT, weight_block, weight_mounts
from equilix.core.solver.search import (
    Form,
    Goal,
    Limits,
    Plan,
    Target,
    find_plan,
)

if TYPE_CHECKING:
    from equilix.core.carry.carried import Carry

#: N m. A tip moment that hands don't feel on a shoulder rig; common practice, the user's to change.
TOLERANCE = 0.10
#: Share of the pad's half width within which the CG is wanted however unsure it is; common practice.
_LEAST_ASIDE = 0.25
#: kg that a way to more steadiness may add; common practice.
MOST_STEADYING = 2.5
#: Things that are set to the lens and go along when the camera slides.
SET_TO_LENS = frozenset({Category.LENS_SUPPORT, Category.FOCUS, Category.MATTE_BOX})
#: Things whose place hands, eye and head decide; slides that carry only these are not for balance.
_SET_TO_BODY = frozenset({Category.GRIP, Category.CLAMP, Category.HANDLE, Category.MONITOR, Category.ARM})
#: So many of the heaviest are tried elsewhere: lighter ones balance nothing, and each doubles the search.
_MOST_MOVED = 5
#: So many ways to fill what is empty are tried.
_MOST_FILLED = 40
#: Things that may hang elsewhere without harm.
_MOVABLE = (Category.BATTERY_PLATE, Category.BATTERY, Category.SENDER, Category.AUDIO, Category.WEIGHT)


class StrategyKind(StrEnum):
    SLIDES = "slides only"
    MOVE = "move what is there"
    BATTERY = "change the battery"
    DEAD_WEIGHT = "dead weight"
    STEADY = "as heavy as steadies it"


@dataclass(frozen=True, slots=True)
class Relaxation:
    """The smallest change of what is given that would let a plan reach the tolerance.

    `travel` (m) more on the slide of `placed_id`, or `lighter` (kg) less on it.
    """

    placed_id: str
    travel: float = 0.0
    lighter: float = 0.0


@dataclass(frozen=True, eq=False, slots=True)
class Strategy:
    """One way: its `plan`, the `after` analysis of the changed build, and how it compares.

    `remaining` and `remaining_u` N m; `full` whether it is within the tolerance; `steadier` the roll,
    pitch and yaw inertia about the pad over what it is now; `lasts` (s) how long it is held now and then;
    `relaxations` what else would do if it falls short.
    """

    kind: StrategyKind
    plan: Plan
    after: Analysis
    remaining: float
    remaining_u: float
    full: bool
    steadier: tuple[float, float, float]
    relaxations: tuple[Relaxation, ...]
    tires: Tired | None = None
    lasts: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Tired:
    """The joint that carries most after a way, more than any did before: shares of its strength."""

    joint: Joint
    before: float
    after: float


#: m more of travel that anybody could find for a slide; common practice.
_LONGEST_TRAVEL = 0.30
#: Pitch inertia over what it is now from which a way may be called steadier; common practice.
_STEADIER = 1.05
#: kg m beyond all tolerances that is nothing but rounding.
_NOTHING = 2e-7
#: Rise of the greatest share of strength from which a way says so; common practice.
_MORE = 0.01


def _carried(analysis: Analysis, operator: Operator) -> Carry | None:
    from equilix.core.carry.carried import Carry, carry

    found = carry(analysis, operator, analysis.build.support)
    return found if isinstance(found, Carry) else None


def _tires(now: Carry | None, then: Carry | None) -> Tired | None:
    """Return the joint that would give out first, if it carries noticeably more than the worst one does `now`."""
    if now is None or then is None or then.worst.share <= now.worst.share + _MORE:
        return None
    return Tired(then.worst.joint, now.worst.share, then.worst.share)


def target_of(analysis: Analysis, tolerance: float = TOLERANCE) -> Target | None:
    """Return the support's condition: it does not tip (to `tolerance`, N m), and beside that way the CG surely lies
    where it may.

    None without a support.
    """
    stand, body, spread = analysis.stand, analysis.body, analysis.spread
    if stand is None:
        return None
    holder = analysis.build.parts[stand.holder].id
    tip = Form("tip", stand.forward)
    half_y = stand.aside
    if half_y is None:
        return Target(stand.point, holder, (tip,), tolerance / STANDARD_GRAVITY)
    unsure = COVERAGE * float(spread.cg[1]) if spread is not None else 0.0
    aside = max(half_y - unsure, _LEAST_ASIDE * half_y) * (body.mass if body is not None else 0.0)
    # What lies beyond either counts in the tolerances of both: one that can't be met never hides the other.
    weight = TOLERANCE / STANDARD_GRAVITY / aside if aside > 0.0 else 1.0
    forms = (tip, Form("aside", stand.across, tolerance=aside, weight=weight))
    return Target(stand.point, holder, forms, tolerance / STANDARD_GRAVITY)


def robust_target(analysis: Analysis, target: Target) -> Target:
    """Return `target` with two forms more: the CG keeps to its room even if masses and CGs are off by their doubt.

    The likeliest way to be off by two standard uncertainties in all is ``dm_i = 2 u_i^2 a_i / S`` with the arms
    a and ``S^2 = sum u^2 a^2 + sum m^2 u_r^2``; the CGs' share, ``2 sum m^2 u_r^2 / S``, narrows the room. Design
    point of first-order reliability: Hasofer and Lind, J. Eng. Mech. Div. ASCE 100 (1974), from memory.
    Arms are those of the present build.
    """
    assembly, stand, body = analysis.assembly, analysis.stand, analysis.body
    if stand is None or stand.span is None or body is None:
        return target
    arm = (analysis.positions.cg - stand.point) @ stand.forward
    variance = assembly.doubts.mass**2 + (assembly.doubts.gain**2).sum(axis=0)
    along = np.einsum("nj,nj->n", np.einsum("nij,i->nj", assembly.rotation, stand.forward) ** 2, assembly.doubts.cg**2)
    by_cg = float(assembly.mass**2 @ along)
    spread = math.sqrt(float(variance @ arm**2) + by_cg)
    if spread <= 0.0:
        return target
    off = COVERAGE * variance * arm / spread
    half = stand.span - COVERAGE * by_cg / spread / body.mass
    forms = []
    for sign in (1.0, -1.0):
        heavier = tuple(
            (placed.id, sign * float(kg))
            for placed, kg in zip(analysis.build.parts, off, strict=True)
            if abs(kg) > 1e-6
        )
        forms.append(Form("pitch if guesses are off", stand.forward, max(half, 0.0), heavier, strict=True))
    return replace(target, forms=(*target.forms, *forms))


# What each way may change


def balance_slides(analysis: Analysis) -> frozenset[str]:
    """Return the placed parts whose slides are for balance: those that carry more than hands, eye and lens set."""
    assembly = analysis.assembly
    found = set()
    idle = support_called(analysis.build.support).idle
    for j, i in enumerate(assembly.slide_parts):
        carried = {assembly.parts[k].category for k in range(len(assembly.parts)) if assembly.carries(j, k)}
        # Rods only carry what is set on them.
        own = carried - idle
        if assembly.slide_mounts[j].high > assembly.slide_mounts[j].low and own - SET_TO_LENS - _SET_TO_BODY:
            found.add(analysis.build.parts[i].id)
        elif own == set() and carried:
            continue
    return frozenset(found)


def lens_followers(analysis: Analysis) -> tuple[Follower, ...]:
    """Return what is set to the lens on slides that don't carry the camera.

    A motor or a matte box on rods goes along exactly; a lens support may stay wherever the lens still lies
    over it.
    """
    assembly = analysis.assembly
    leader = slide_of_camera(analysis)
    if leader is None or assembly.sensor is None:
        return ()
    lead = analysis.build.parts[assembly.slide_parts[leader]].id
    followers = []
    for i in assembly.slide_parts:
        if assembly.parts[i].category not in SET_TO_LENS or not assembly.parts_two(leader, i, assembly.sensor):
            continue
        placed_id = analysis.build.parts[i].id
        back, ahead = (0.0, 0.0)
        if assembly.parts[i].category is Category.LENS_SUPPORT:
            back, ahead = _room_under_lens(analysis, i)
        followers.append(Follower(lead, placed_id, back, ahead))
    return tuple(followers)


def _room_under_lens(analysis: Analysis, support: int) -> tuple[float, float]:
    """Return how far (m) a lens support may go back and ahead of where it stands below the lens."""
    assembly = analysis.assembly
    lenses = [k for k, part in enumerate(assembly.parts) if part.category is Category.LENS]
    if not lenses:
        return (0.0, 0.0)
    lens = lenses[0]
    x = float(analysis.positions.centre[support, 0])
    middle, half = float(analysis.positions.centre[lens, 0]), float(assembly.edges[lens, 0])
    # Neither at the mount, where it relieves nothing, nor at the very front.
    low, high = middle - 0.6 * half, middle + 0.9 * half
    return (min(low - x, 0.0), max(high - x, 0.0))


def slides_freedom(analysis: Analysis, pad: bool = False) -> Freedom:
    """Return the freedom to slide what is there; with `pad` also what holds it, and with it the rig on the body."""
    slides = balance_slides(analysis)
    if pad:
        slides |= _holder_slides(analysis)
    if not pad and analysis.stand is not None:
        assembly, holder = analysis.assembly, analysis.stand.holder
        slides -= {
            analysis.build.parts[i].id for j, i in enumerate(assembly.slide_parts) if assembly.carries(j, holder)
        }
    return Freedom(slides, (), lens_followers(analysis))


def _holder_slides(analysis: Analysis) -> frozenset[str]:
    """Return the slides that take both hands along and nothing of the camera: grips set to another place."""
    stand, assembly = analysis.stand, analysis.assembly
    if stand is None or not support_called(analysis.build.support).in_hands:
        return frozenset()
    hands = [place.part for place in stand.pose.places]
    return frozenset(
        analysis.build.parts[i].id
        for j, i in enumerate(assembly.slide_parts)
        if all(assembly.carries(j, part) for part in hands)
        and not (assembly.sensor is not None and assembly.carries(j, assembly.sensor))
    )


def move_freedom(analysis: Analysis, kit: Kit) -> Freedom:
    """Return the freedom to hang movable parts, with what sits on them, on other free mounts, and to slide all."""
    build = analysis.build
    base = slides_freedom(analysis, pad=True)
    choices = []
    free_to_move = [
        placed
        for placed in parts_of(build, kit, _MOVABLE)
        if placed.parent is not None
        and not placed.reversed
        and placed.own is None
        and kit[build.placed(placed.parent).part_id].category not in _MOVABLE
    ]
    movable = _heaviest(analysis, free_to_move)
    gone = {p.id for placed in movable for p in (placed, *carried_parts(build, placed.id))}
    stays = replace(build, parts=tuple(p for p in build.parts if p.id not in gone))
    mounts = free_mounts(stays, kit)
    for placed in movable:
        carried = carried_parts(build, placed.id)
        options = [Option(placed, carried, current=True)]
        part = kit[placed.part_id]
        for free in mounts:
            same = (free.placed_id, free.mount.id) == (placed.parent, placed.mount)
            foot = fits(part, free.mount)
            if same or foot is None or not _sensible(part, free, stays, kit):
                continue
            moved = replace(placed, parent=free.placed_id, mount=free.mount.id, foot=foot, setting=free.mount.snap(0.0))
            options.append(Option(moved, carried))
        if len(options) > 1:
            choices.append(Choice(tuple(options), needed=True))
    return Freedom(base.slides, tuple(choices), base.followers)


def _heaviest(analysis: Analysis, several: Sequence[Placed]) -> list[Placed]:
    """Return those of `several` worth hanging elsewhere, with what they carry the heaviest first, in part order."""
    mass = {p.id: m for p, m in zip(analysis.build.parts, analysis.assembly.mass.tolist(), strict=True)}
    weight = {p.id: sum(mass[i] for i in analysis.build.carried_by(p.id)) for p in several}
    chosen = sorted(several, key=lambda p: -weight[p.id])[:_MOST_MOVED]
    return [p for p in several if p in chosen]


def _sensible(part: Part, free: FreeMount, build: Build, kit: Kit) -> bool:
    """Whether anybody would hang `part` there: a battery on rods or behind, not on the lens side of the rods."""
    carrier = kit[build.placed(free.placed_id).part_id]
    if part.category in (Category.BATTERY_PLATE, Category.BATTERY):
        return carrier.category in (Category.RODS, Category.BODY, Category.PLATE, Category.CAGE)
    return carrier.category not in (Category.GRIP, Category.LENS, Category.MATTE_BOX)


def battery_freedom(analysis: Analysis, kit: Kit) -> Freedom:
    """Return the freedom to put another battery of the kit in the place of the one on the build, and to slide."""
    build = analysis.build
    base = slides_freedom(analysis)
    on_build = {placed.part_id for placed in build.parts}
    choices = []
    for placed in parts_of(build, kit, (Category.BATTERY,)):
        mount = mount_of(placed, build, kit)
        if mount is None or placed.reversed or placed.own is not None or carried_parts(build, placed.id):
            continue
        options = [Option(placed, current=True)]
        for part in kit.values():
            foot = fits(part, mount)
            if part.category is Category.BATTERY and part.id not in on_build and part.mass and foot is not None:
                options.append(Option(replace(placed, part_id=part.id, foot=foot)))
        if len(options) > 1:
            choices.append(Choice(tuple(options), needed=True))
    if not choices:
        choices = _filled(analysis, kit)
    return Freedom(base.slides, tuple(choices), base.followers)


def _filled(analysis: Analysis, kit: Kit) -> list[Choice]:
    """Return the batteries of the kit that an empty plate takes; else plates with a battery for mounts that are free.

    One of them goes on.
    """
    build = analysis.build
    used = {placed.part_id for placed in build.parts}
    taken = {placed.id for placed in build.parts}
    spare = [part for part in kit.values() if part.id not in used and part.mass]
    batteries = [part for part in spare if part.category is Category.BATTERY]
    options: list[Option] = []
    free = free_mounts(build, kit)
    for spot in free:
        if kit[build.placed(spot.placed_id).part_id].category is Category.BATTERY_PLATE:
            for part in batteries:
                foot = fits(part, spot.mount)
                if foot is not None:
                    name = _fresh(f"battery {part.id}", taken)
                    options.append(Option(Placed(name, part.id, spot.placed_id, spot.mount.id, foot)))
    if not options and any(kit[placed.part_id].category is Category.BATTERY for placed in build.parts):
        return []
    for plate in spare if not options else []:
        if plate.category is not Category.BATTERY_PLATE:
            continue
        for spot in free:
            foot = fits(plate, spot.mount)
            if foot is None or not _sensible(plate, spot, build, kit):
                continue
            for part in batteries:
                seat = next(((m, f) for m in plate.mounts if (f := fits(part, m)) is not None), None)
                if seat is None:
                    continue
                name = _fresh(f"plate {plate.id}", taken)
                on_it = Placed(_fresh(f"battery {part.id}", taken), part.id, name, seat[0].id, seat[1])
                options.append(
                    Option(Placed(name, plate.id, spot.placed_id, spot.mount.id, foot, spot.mount.snap(0.0)), (on_it,))
                )
    return [Choice(tuple(options[:_MOST_FILLED]), needed=True)] if options else []


def weight_choices(analysis: Analysis, kit: Kit, blocks: bool = True) -> tuple[Choice, ...]:
    """Return counterweights of the kit on free mounts, and with `blocks` steel of any mass at their ends."""
    build = analysis.build
    on_build = {placed.part_id for placed in build.parts}
    mounts = weight_mounts(build, kit)
    choices = []
    taken = {placed.id for placed in build.parts}
    for part in kit.values():
        if part.category is not Category.WEIGHT or part.id in on_build or not part.mass:
            continue
        options = []
        for free in mounts:
            foot = fits(part, free.mount)
            if foot is not None:
                new = Placed(_fresh(f"weight {part.id}", taken), part.id, free.placed_id, free.mount.id, foot)
                options.append(Option(new, dead=True))
        if options:
            choices.append(Choice(tuple(options)))
    if blocks:
        choices += _block_choices(mounts, taken)
    return tuple(choices)


def _block_choices(mounts: Sequence[FreeMount], taken: set[str]) -> list[Choice]:
    choices = []
    for free in mounts:
        mount = free.mount
        ends = (mount.low, mount.high) if mount.joint is PartJoint.SLIDE else (0.0,)
        options = []
        for end in ends:
            name = f"block {free.placed_id} {free.mount.id} {end:g}"
            part = weight_block(1.0, free.mount.kind, f"dead {name}")
            placed = Placed(_fresh(name, taken), part.id, free.placed_id, free.mount.id, 0, end)
            options.append(Option(placed, (), part, dead=True, grows=MOST_DEAD_WEIGHT))
        choices.append(Choice(tuple(options)))
    return choices


def _fresh(wanted: str, taken: set[str]) -> str:
    name = wanted
    while name in taken:
        name += "'"
    taken.add(name)
    return name


def dead_freedom(analysis: Analysis, kit: Kit, slides: bool) -> Freedom:
    """Return the freedom to add dead weight; with `slides` also to slide, but only what doesn't move a block."""
    blocks = not slides
    base = slides_freedom(analysis) if slides else Freedom()
    return Freedom(base.slides, weight_choices(analysis, kit, blocks), base.followers)


def steady_freedom(analysis: Analysis, kit: Kit) -> Freedom:
    """Return the freedom to take heavier batteries and weights, and to slide."""
    battery = battery_freedom(analysis, kit)
    return Freedom(battery.slides, (*battery.choices, *weight_choices(analysis, kit, blocks=False)), battery.followers)


# The ways


def find_strategies(
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    tolerance: float = TOLERANCE,
    go_on: Callable[[], bool] = lambda: True,
    tell: Callable[[tuple[Strategy, ...]], None] = lambda _found: None,
) -> tuple[Strategy, ...]:
    """Return the ways that change something, each with its proof; ways that come to the same plan stand once.

    Fewer than all if `go_on` said to stop. `tell` gets those found so far each time that there is one more, or a
    first one whose proof is still to come.
    """
    target = target_of(analysis, tolerance)
    if target is None or analysis.body is None:
        return ()
    found: list[Strategy] = []
    seen: set[tuple[object, ...]] = set()
    level = is_level(analysis, target)
    now = _carried(analysis, operator)
    for kind in StrategyKind:
        if not go_on():
            break
        if level and kind is not StrategyKind.STEADY:
            continue

        def early(plan: Plan, kind: StrategyKind = kind, so_far: tuple[Strategy, ...] = tuple(found)) -> None:
            if plan.found and plan.changes and _key(plan) not in seen:
                tell((*so_far, _strategy(kind, plan, analysis, kit, operator, target)))

        plan = _plan(kind, analysis, kit, target, go_on, early)
        if plan is None or not plan.found or plan.changes == 0:
            continue
        key = _key(plan)
        if key in seen:
            continue
        seen.add(key)
        strategy = _strategy(kind, plan, analysis, kit, operator, target, now)
        if kind is StrategyKind.STEADY and strategy.steadier[1] < _STEADIER:
            continue
        if kind is not StrategyKind.STEADY and not strategy.full and _no_better(plan, found, target):
            continue
        if strategy.full and kind is not StrategyKind.STEADY:
            strategy = _surer(strategy, analysis, kit, operator, target, go_on, now)
        found.append(strategy)
        tell(tuple(found))
    return tuple(found)


def _no_better(plan: Plan, found: Sequence[Strategy], target: Target) -> bool:
    """Whether a plan that falls short leaves no less than one that is there already: then it is not worth a change."""
    left = plan.beyond(target)
    return any(strategy.plan.beyond(target) <= left + 0.05 * left for strategy in found)


def is_level(analysis: Analysis, target: Target) -> bool:
    """Whether every free form of a shoulder `target` is within its tolerance on the build as it is."""
    body = analysis.body
    if body is None:
        return False
    return all(
        abs(body.mass * float(form.direction @ (body.cg - target.point))) <= target.allowed(form) + 1e-12
        for form in target.forms
        if form.within is None
    )


def _surer(
    strategy: Strategy,
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    target: Target,
    go_on: Callable[[], bool],
    now: Carry | None,
) -> Strategy:
    """Return a way of the same kind that holds even if the guesses are off, if this one doesn't and there is one."""
    if stays(strategy.after) in (None, Certainty.CLEAR):
        return strategy
    plan = _plan(strategy.kind, analysis, kit, robust_target(analysis, target), go_on)
    if plan is None or not plan.found or plan.changes == 0:
        return strategy
    surer = _strategy(strategy.kind, plan, analysis, kit, operator, target, now)
    return surer if surer.full and stays(surer.after) is Certainty.CLEAR else strategy


def _plan(
    kind: StrategyKind,
    analysis: Analysis,
    kit: Kit,
    target: Target,
    go_on: Callable[[], bool],
    tell: Callable[[Plan], None] | None = None,
) -> Plan | None:
    build, whole = analysis.build, analysis.assembly
    match kind:
        case StrategyKind.SLIDES:
            return find_plan(build, kit, target, slides_freedom(analysis), go_on=go_on, assembly=whole, tell=tell)
        case StrategyKind.MOVE:
            freedom = move_freedom(analysis, kit)
            return find_plan(build, kit, target, freedom, go_on=go_on, assembly=whole, tell=tell)
        case StrategyKind.BATTERY:
            freedom = battery_freedom(analysis, kit)
            if not freedom.choices:
                return None
            # Another battery is the point of this way: slides alone are another one.
            others = tuple(
                replace(choice, options=tuple(o for o in choice.options if not o.current)) for choice in freedom.choices
            )
            present = [option.placed.id for choice in freedom.choices for option in choice.options if option.current]
            bare = replace(build, parts=tuple(p for p in build.parts if p.id not in present))
            plan = find_plan(bare, kit, target, replace(freedom, choices=others), go_on=go_on)
            # Counted against the build as it stands, not against one without its batteries.
            had = sum(kit[placed.part_id].mass or 0.0 for placed in build.parts if placed.id in present)
            return replace(plan, added_mass=plan.added_mass - had)
        case StrategyKind.DEAD_WEIGHT:
            alone = find_plan(
                build, kit, target, dead_freedom(analysis, kit, slides=False), go_on=go_on, assembly=whole
            )
            if alone.found and alone.beyond(target) <= _NOTHING:
                return alone
            both = find_plan(build, kit, target, dead_freedom(analysis, kit, slides=True), go_on=go_on)
            better = both.found and both.beyond(target) < alone.beyond(target) - 1e-9
            return both if better else alone
        case _:
            goals = (Goal.BEYOND, Goal.STEADINESS)
            limits = Limits(added=MOST_STEADYING)
            exact = replace(target, tolerance=0.0)
            return find_plan(build, kit, exact, steady_freedom(analysis, kit), goals, limits, go_on, whole)


def _key(plan: Plan) -> tuple[object, ...]:
    return tuple(
        (p.part_id if p.part_id not in plan.kit else "dead", p.parent, p.mount, round(p.setting, 5))
        for p in sorted(plan.build.parts, key=lambda p: p.id)
    )


def _strategy(
    kind: StrategyKind,
    plan: Plan,
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    target: Target,
    now: Carry | None = None,
) -> Strategy:
    after = analyse(plan.build, {**kit, **plan.kit}, operator, analysis)
    stand = after.stand
    assert stand is not None
    full = plan.beyond(target) <= _NOTHING
    then = _carried(after, operator) if now is not None else None
    return Strategy(
        kind,
        plan,
        after,
        stand.tip_moment,
        stand.tip_doubt,
        full,
        _steadier(after, analysis),
        () if full else relaxations(after, plan.remaining(target) - target.tolerance),
        _tires(now, then),
        (now.to_the_end, then.to_the_end) if now is not None and then is not None else None,
    )


def _steadier(after: Analysis, before: Analysis) -> tuple[float, float, float]:
    """Return the roll, pitch and yaw inertia about the pad after over before."""
    sizes = []
    for one in (after, before):
        assert one.body is not None
        assert one.stand is not None
        sizes.append(np.diag(shift_inertia(one.body, one.stand.point)))
    roll, pitch, yaw = (float(v) for v in sizes[0] / sizes[1])
    return roll, pitch, yaw


def relaxations(after: Analysis, lacking: float) -> tuple[Relaxation, ...]:
    """Return what would take a moment of `lacking` (kg m) more off a plan that falls short, smallest first.

    More travel for a slide that stands at its stop, or less mass on the part with the longest arm on the
    heavy side.
    """
    assembly, stand = after.assembly, after.stand
    if stand is None or after.body is None:
        return ()
    side = math.copysign(1.0, stand.tip_moment)
    found = []
    mass = assembly.carried_mass()
    names = balance_slides(after)
    for j, i in enumerate(assembly.slide_parts):
        placed_id = after.build.parts[i].id
        if placed_id not in names:
            continue
        holds = assembly.carries(j, stand.holder)
        slope = float(assembly.slide_axes[j] @ stand.forward) * (float(mass[j]) - after.body.mass * holds)
        mount, now = assembly.slide_mounts[j], float(after.settings[j])
        helpful = -side * slope
        at_stop = now <= mount.low + 1e-6 if helpful < 0.0 else now >= mount.high - 1e-6
        if at_stop and abs(slope) > 1e-6 and lacking / abs(slope) <= _LONGEST_TRAVEL:
            found.append(Relaxation(placed_id, travel=lacking / abs(slope)))
    found.sort(key=lambda r: r.travel)
    arms = side * ((after.positions.cg - stand.point) @ stand.forward)
    heavy = [
        (float(lacking / arms[i]), i)
        for i, part in enumerate(assembly.parts)
        if arms[i] > 1e-3
        and part.category in (Category.LENS, Category.MATTE_BOX, Category.MONITOR, Category.BATTERY)
        and part.mass is not None
        and lacking / arms[i] < part.mass
    ]
    if heavy:
        lighter, i = min(heavy)
        found.append(Relaxation(after.build.parts[i].id, lighter=lighter))
    return tuple(found[:3])


# Added mass against remaining moment


@dataclass(frozen=True, slots=True)
class TradePoint:
    """The least remaining moment (N m) with at most `added` kg of dead weight."""

    added: float
    remaining: float


def trade_off(
    analysis: Analysis, kit: Kit, slides: bool, points: int = 13, go_on: Callable[[], bool] = lambda: True
) -> tuple[TradePoint, ...]:
    """Return the curve of added dead weight against remaining moment, by an added-mass limit raised in steps.

    Epsilon constraint: Haimes, Lasdon and Wismer, IEEE Trans. SMC 1 (1971). With `slides` the rig is first
    slid as level as it gets; what then remains is what weight must do.
    """
    whole_target = target_of(analysis, 0.0)
    if whole_target is None:
        return ()
    # The curve is of the tip moment alone.
    target = replace(whole_target, forms=whole_target.forms[:1])
    build = analysis.build
    if slides:
        slid = find_plan(build, kit, target, slides_freedom(analysis), (Goal.MOMENT,), go_on=go_on)
        if not slid.found:
            return ()
        build = slid.build
        target = replace(target, point=_pad_of(build, kit, target))
    base = replace_build(analysis, build, kit)
    freedom = dead_freedom(base, kit, slides=False)
    if not freedom.choices:
        return (TradePoint(0.0, abs(_moment(base))),)
    goals = (Goal.MOMENT, Goal.ADDED_MASS)
    whole = find_plan(build, kit, target, freedom, goals, go_on=go_on)
    if not whole.found:
        return ()
    most = max(whole.added_mass, 1e-3)
    found = [TradePoint(0.0, abs(_moment(base)))]
    for k in range(1, points):
        if not go_on():
            return ()
        limit = most * k / (points - 1)
        plan = find_plan(build, kit, target, freedom, goals, Limits(added=limit), go_on)
        if plan.found:
            found.append(TradePoint(plan.added_mass, plan.remaining(target) * STANDARD_GRAVITY))
    return tuple(found)


def replace_build(analysis: Analysis, build: Build, kit: Kit) -> Analysis:
    """Return the analysis of another build for the same person; body figures are not needed here."""
    return analyse(build, kit, Operator("nobody", "Nobody"), analysis)


def _pad_of(build: Build, kit: Kit, target: Target) -> np.ndarray:
    after = analyse(build, kit, Operator("nobody", "Nobody"))
    return after.stand.point if after.stand is not None else target.point


def _moment(analysis: Analysis) -> float:
    return analysis.stand.tip_moment if analysis.stand is not None else 0.0


# Doubt


@dataclass(frozen=True, slots=True)
class Swayed:
    """A part whose weighing may change the advice: by how far (m, k = 2) the camera's mark could move, and whether
    the slide might then fall short, or no longer do so."""

    part: int
    shift: float
    flips: bool


def swayed_by(analysis: Analysis, least: float = 0.001) -> tuple[Swayed, ...]:
    """Return the parts whose doubt moves the camera plate's mark by more than `least` (m), most first.

    The mark is ``q = -M/S`` with slope S; one mass off by dm moves it by ``-dm a/S``, a its arm once the
    rig is level: M and S both depend on it if the slide carries it.
    """
    assembly, stand, body = analysis.assembly, analysis.stand, analysis.body
    slide = slide_of_camera(analysis)
    if slide is None or stand is None or body is None:
        return ()
    holds = assembly.carries(slide, stand.holder)
    along = float(assembly.slide_axes[slide] @ stand.forward)
    slope = along * (float(assembly.carried_mass()[slide]) - body.mass * holds)
    if abs(slope) < 1e-6:
        return ()
    mount, now = assembly.slide_mounts[slide], float(analysis.settings[slide])
    wanted = now - body.mass * stand.ahead / slope
    # Arms with the camera at its mark.
    along *= wanted - now
    carried = np.array([assembly.carries(slide, i) for i in range(len(assembly.parts))], dtype=float)
    arm = (analysis.positions.cg - stand.point) @ stand.forward + along * (carried - float(holds))
    u = np.sqrt(assembly.doubts.mass**2 + (assembly.doubts.gain**2).sum(axis=0))
    shift = COVERAGE * np.abs(u * arm / slope)
    found = []
    for i in np.argsort(-shift).tolist():
        if shift[i] < least:
            break
        inside = mount.low <= wanted <= mount.high
        ends = [mount.low <= wanted + sign * shift[i] <= mount.high for sign in (-1.0, 1.0)]
        found.append(Swayed(i, float(shift[i]), any(end != inside for end in ends)))
    return tuple(found)
