"""The ways to balance in words: what to change, to which marks, what is left, what hands and shoulder feel."""

from __future__ import annotations

from equilix.core.analysis import Analysis, new_warnings, stays, worse_warnings
from equilix.core.assembly.build import Kit
from equilix.core.assembly.mounts import FreeMount, mount_of
from equilix.core.kit.parts import Category
from equilix.core.kit.uncertainty import Certainty
from equilix.core.solver.plan import PlanStatus
from equilix.core.solver.relaxations import Relaxation
from equilix.core.solver.sensitivity import Influence
from equilix.core.solver.strategies import Strategy, StrategyKind
from equilix.core.support import case_of
from equilix.core.units import Kind
from equilix.present.card import Card
from equilix.present.drawing.work_order import THERE
from equilix.present.supports import text_of
from equilix.present.supports.text import index_of, own_scale_of, warning_words
from equilix.present.units import System, figure
from equilix.present.words import (
    JOINT_NAMES,
    MOST_SAID,
    added_text,
    mid_sentence,
    minutes,
    mount_name,
    number_mm,
    short_name,
    slider_of,
    times,
)


class Way(Card, frozen=True, eq=False):
    """One way to balance, or why it can't be had (`strategy` None)."""

    kind: StrategyKind
    strategy: Strategy | None
    preview: Analysis | None
    then: str = ""

    @property
    def warns(self) -> str:
        return self.then

    @property
    def possible(self) -> bool:
        """Whether it can be had."""
        return self.strategy is not None


_TITLES = {
    StrategyKind.SLIDES: "Slide what is there",
    StrategyKind.BATTERY: "Take another battery",
    StrategyKind.DEAD_WEIGHT: "Add dead weight",
    StrategyKind.LEAVE_OFF: "Leave something off",
    StrategyKind.STEADY: "As heavy as steadies it",
}


#: Kinds whose title says all but the mark where one slide does it.
#: Of what a way would make worse, how much is told in words.
_TOLD = 4
_SLIDING = frozenset({StrategyKind.HOLDER, StrategyKind.SLIDES, StrategyKind.MOVE})


def ways_of(strategies: tuple[Strategy, ...], analysis: Analysis, kit: Kit, system: System) -> tuple[Way, ...]:
    """Return the ways in the order of least change: slides first, dead weight and added steadiness last.

    Those that would make something worse come after those that would not, and those that are warned of last. Among
    equals one that falls short comes after one that does not and adds no more, even if that costs a little.
    """
    thens = [(strategy, _then(strategy, analysis, system)) for strategy in strategies]
    thens.sort(key=lambda it: (*_worsens(analysis, it[0].after), _outdone(it[0], strategies), bool(it[1])))
    return tuple(_way(strategy, then, analysis, kit, system) for strategy, then in thens)


def _worsens(analysis: Analysis, after: Analysis) -> tuple[bool, bool]:
    """Return whether a way makes the rig unusable, and whether it makes anything worse that is warned of."""
    worse = worse_warnings(analysis, after)
    return any(after.support.warning_type(finding.kind).leads for finding in worse), bool(worse)


def _outdone(strategy: Strategy, others: tuple[Strategy, ...]) -> bool:
    """Return whether it falls short where another that adds no more does not."""
    most = strategy.plan.added_mass
    return not strategy.full and any(other.full and other.plan.added_mass <= most for other in others)


def _way(strategy: Strategy, then: str, analysis: Analysis, kit: Kit, system: System) -> Way:
    ahead = analysis.equilibrium.ahead if analysis.equilibrium is not None else 0.0
    after = strategy.after.equilibrium.ahead if strategy.after.equilibrium is not None else 0.0
    changes = change_words(strategy, analysis, kit, system)
    return Way(
        _title(strategy, changes, analysis, kit, system),
        f"{added_text(strategy.plan.added_mass, system)}",
        ahead,
        after,
        f"CG {number_mm(ahead, system)} to {figure(after, Kind.LENGTH, system, sign=True)}",
        tuple(line for line in _lines(strategy, analysis, changes, system) if line),
        strategy.kind,
        strategy,
        strategy.after,
        then,
    )


def change_words(strategy: Strategy, analysis: Analysis, kit: Kit, system: System) -> tuple[str, ...]:
    """Return each change in words: "camera plate back 87 mm to mark 15", "V-lock battery 150 Wh instead of …"."""
    plan = strategy.plan
    words = []
    old = {placed.id: placed for placed in analysis.build.parts}
    whole = {**kit, **plan.kit}
    for option in plan.taken:
        placed = option.placed
        part = whole[placed.part_id]
        before = old.get(placed.id)
        if option.current and placed.id not in plan.moved:
            continue
        if before is None:
            where = _where(strategy, placed.id, whole)
            mass = figure(part.mass or 0.0, Kind.MASS, system)
            what = f"{mass} of dead weight" if part.id in plan.kit else short_name(part.name)
            if option.carried:
                what += f" with {' and '.join(mid_sentence(whole[p.part_id].name) for p in option.carried)}"
            words.append(f"{what} on {where}")
        elif before.part_id != placed.part_id:
            words.append(f"{mid_sentence(part.name)} instead of {mid_sentence(kit[before.part_id].name)}")
        elif (before.parent, before.mount) != (placed.parent, placed.mount):
            words.append(f"{short_name(part.name)} to {_where(strategy, placed.id, whole)}")
    there = {placed.id for placed in plan.build.parts}
    gone = [placed for placed in analysis.build.parts if placed.id not in there]
    words += [
        f"{short_name(kit[placed.part_id].name)} off"
        for placed in gone
        if strategy.kind is StrategyKind.LEAVE_OFF and placed.parent in there
    ]
    here, there_then = case_of(analysis), case_of(strategy.after)
    if here is not None and there_then is not None:
        said = text_of(analysis).slid_words(here, there_then, system)
        words += [said] if said else []
    # What goes along with the lens may do so by less than anybody sets a mark to.
    moved = [(i, to) for i, to in plan.moved.items() if i in old and abs(to - old[i].setting) >= THERE]
    order = analysis.support.working_order(here) if here is not None else ()
    if order:
        # As people work; what the order of work leaves alone comes last.
        moved.sort(key=lambda it: order.index(it[0]) if it[0] in order else len(order))
    else:
        # The longest first: it is what the way is about. To the millimetre: what goes along with another goes as far.
        moved.sort(key=lambda it: -round(abs(it[1] - old[it[0]].setting), 3))
    words += [move_words(placed_id, setting, analysis, system) for placed_id, setting in moved]
    return tuple(words)


def _where(strategy: Strategy, placed_id: str, kit: Kit) -> str:
    build = strategy.plan.build
    placed = build.placed(placed_id)
    mount = mount_of(placed, build, kit)
    if placed.parent is None or mount is None:
        return "the body"
    return mid_sentence(mount_name(FreeMount(placed.parent, mount), build, kit))


def move_words(placed_id: str, setting: float, analysis: Analysis, system: System) -> str:
    """Return a slide's move in words: "camera plate back 87 mm to mark 15 mm"."""
    slider, now = slider_of(analysis, placed_id), analysis.build.placed(placed_id).setting
    mark = figure(setting - slider.low, Kind.LENGTH, system)
    return f"{slider.name} {slider.way(setting - now)} {figure(abs(setting - now), Kind.LENGTH, system)} to mark {mark}"


def _title(strategy: Strategy, changes: tuple[str, ...], analysis: Analysis, kit: Kit, system: System) -> str:
    """Return a way's title: what it does, and what is hung elsewhere along with it."""
    hung = _hung(strategy, analysis, kit)
    rest = tuple(change for change in changes if not any(change.startswith(f"{name} to ") for name in hung))
    if not hung or not rest or strategy.kind not in _SLIDING:
        return _plain_title(strategy, changes, kit, system)
    return f"{_plain_title(strategy, rest, kit, system)}, {' and '.join(hung)} elsewhere"


def _hung(strategy: Strategy, analysis: Analysis, kit: Kit) -> list[str]:
    """Return the names of the parts that a way hangs on another mount."""
    old = {placed.id: placed for placed in analysis.build.parts}
    placed = [option.placed for option in strategy.plan.taken if option.placed.id in old and not option.current]
    return [
        short_name(kit[one.part_id].name)
        for one in placed
        if one.part_id == old[one.id].part_id and (one.parent, one.mount) != (old[one.id].parent, old[one.id].mount)
    ]


def _plain_title(strategy: Strategy, changes: tuple[str, ...], kit: Kit, system: System) -> str:
    plan = strategy.plan
    if strategy.kind is StrategyKind.STEADY:
        return f"Steadier in tilt: {times(strategy.steadier[1])} of now"
    if strategy.kind is StrategyKind.DEAD_WEIGHT and plan.dead_mass > 0.0:
        return f"Add {figure(plan.dead_mass, Kind.MASS, system)} of dead weight"
    if strategy.kind is StrategyKind.BATTERY:
        new = [p for o in plan.taken if not o.current for p in (*o.carried, o.placed)]
        taken = next((kit[p.part_id] for p in new if kit[p.part_id].category is Category.BATTERY), None)
        if taken is not None:
            return taken.name
    off = [change.removesuffix(" off") for change in changes if change.endswith(" off")]
    if strategy.kind is StrategyKind.LEAVE_OFF and off:
        return f"Leave off the {' and the '.join(off[:2])}" + (f" and {len(off) - 2} more" if len(off) > 2 else "")
    closely = strategy.kind is StrategyKind.SLIDES
    scales = text_of(strategy.after).slides_title(len(plan.moved), closely)
    after = case_of(strategy.after)
    own = (strategy.after.support.scales(after) if after is not None else None) or frozenset()
    if (
        scales
        and set(plan.moved) <= own
        and (closely or strategy.kind is StrategyKind.MOVE)
        and all(option.current for option in plan.taken)
    ):
        return scales
    if len(changes) == 1 and " to mark " in changes[0]:
        words = changes[0].split(" to mark ")[0]
        return f"Slide {words}"
    if (strategy.kind is StrategyKind.SLIDES or not _moves_what_holds(strategy)) and changes:
        said = [change.split(" to mark ")[0] for change in changes]
        return f"Slide {' and '.join(said[:2])}" + (f" and {len(said) - 2} more" if len(said) > 2 else "")
    return _TITLES.get(strategy.kind, text_of(strategy.after).moves_title(strategy.after))


def _moves_what_holds(strategy: Strategy) -> bool:
    """Whether a way hangs parts elsewhere, or slides what holds the rig."""
    after, moved = strategy.after, strategy.plan.moved
    if strategy.kind is not StrategyKind.MOVE or any(not option.current for option in strategy.plan.taken):
        return True
    equilibrium, assembly = after.equilibrium, after.assembly
    holds = [equilibrium.holder, *(place.part for place in equilibrium.pose.places)] if equilibrium is not None else []
    return any(
        after.build.parts[i].id in moved and any(assembly.carries(j, part) for part in holds)
        for j, i in enumerate(assembly.slide_parts)
    )


def _lines(strategy: Strategy, analysis: Analysis, changes: tuple[str, ...], system: System) -> list[str]:
    plan = strategy.plan
    first = "; ".join(changes)
    if len(changes) == 1 and " to mark " in first and strategy.kind in _SLIDING:
        first = "to mark " + first.split(" to mark ")[1]
    lines = [first[:1].upper() + first[1:]]
    if plan.dead_mass > 0.0 and strategy.kind is not StrategyKind.STEADY:
        lines.append("It does no other job.")
    lines.append(_effect(strategy, analysis, system))
    left = figure(abs(strategy.remaining), Kind.MOMENT, system, unit=False, extra=1)
    spread = figure(2.0 * strategy.remaining_u, Kind.MOMENT, system, extra=1)
    proof = "proven least" if plan.gap < 1e-6 else f"within {100 * plan.gap:.1f} % of the least"
    if plan.gap < 1e-6 and plan.status is not PlanStatus.PROVEN:
        proof = "the least nearby, not proven"
    lines.append(f"{text_of(strategy.after).left_over} {left} ± {spread}, {proof}.")
    lines.append(_aside(strategy.after, system))
    ended = _ended(strategy, system)
    if not strategy.full and ended:
        lines.append(ended)
    elif not strategy.full and not (lines[-1] and not strategy.relaxations):
        lines.append(_short(strategy.relaxations, strategy.after, system))
    lines.append(_binding(strategy))
    lines.append(_sureness(strategy.after))
    return lines


def _aside(after: Analysis, system: System) -> str:
    """Return that the CG ends beside what it lies on, "" if it does not: no slide along the rig cures that."""
    equilibrium = after.equilibrium
    if equilibrium is None or equilibrium.aside is None or abs(equilibrium.left) <= equilibrium.aside:
        return ""
    side = "left" if equilibrium.left > 0.0 else "right"
    return (
        f"Sideways the CG stays {figure(abs(equilibrium.left), Kind.LENGTH, system)} to the {side}, beside "
        f"{text_of(after).noun}: move something across, or put weight on the other side."
    )


def _effect(strategy: Strategy, analysis: Analysis, system: System) -> str:
    hands = [_largest_hand(a) for a in (analysis, strategy.after)]
    words = []
    if all(h is not None for h in hands):
        a, b = (figure(h or 0.0, Kind.FORCE, system, unit=False) for h in hands)
        words.append(
            f"Larger hand {a} → {figure(hands[1] or 0.0, Kind.FORCE, system)}"
            if a != b
            else f"Larger hand stays {figure(hands[1] or 0.0, Kind.FORCE, system)}"
        )
    before, after = case_of(analysis), case_of(strategy.after)
    if before is not None and after is not None:
        words.extend(text_of(strategy.after).effects(before, after, system))
    roll, tilt, pan = strategy.steadier
    if strategy.kind is StrategyKind.STEADY:
        words.append(f"steadiness in roll {times(roll)}, in pan {times(pan)}")
        if strategy.lasts is not None:
            now, then = (minutes(min(time, MOST_SAID)) for time in strategy.lasts)
            words.append(f"held for {then} instead of {now}" if then != now else f"still held for {now}")
    elif abs(tilt - 1.0) >= 0.03:
        words.append(f"inertia in tilt {times(tilt)}")
    said = ", ".join(words)
    return f"{said[:1].upper()}{said[1:]}." if words else ""


def _largest_hand(analysis: Analysis) -> float | None:
    holding = analysis.equilibrium.holding if analysis.equilibrium is not None else None
    return holding.larger if holding is not None else None


def _short(relaxations: tuple[Relaxation, ...], after: Analysis, system: System) -> str:
    parts = []
    for r in relaxations:
        name = short_name(after.assembly.parts[index_of(after, r.placed_id)].name)
        if r.travel > 0.0:
            parts.append(f"{figure(r.travel, Kind.LENGTH, system)} more travel for the {name}")
        elif r.lighter > 0.0:
            parts.append(f"a {name} lighter by {added_text(r.lighter, system).lstrip('+')}")
    equilibrium = after.equilibrium
    if not parts and equilibrium is not None and equilibrium.aside is not None and abs(equilibrium.tip_moment) < 0.1:
        return f"Sideways the CG may lie too far from {text_of(after).noun}: weigh the parts that stand aside."
    if not parts:
        # The moment that is left over may be none, where it is another axis that falls short.
        case = case_of(after)
        stays = text_of(after).verdict(case, system).head.rstrip(".") if case is not None else "it"
        return f"It falls short: “{stays}” stays, and no single change would do. Combine it with another way."
    return f"Falls short. What would do: {', or '.join(parts)}."


def _ended(strategy: Strategy, system: System) -> str:
    """Return how much more of its own travel the support would need, "" for a way that does not slide it."""
    scale = own_scale_of(strategy.after) if strategy.kind is StrategyKind.HOLDER else None
    if scale is None or scale.level is None:
        return ""
    lacking = max(scale.level - scale.high, scale.low - scale.level)
    return f"It ends there: {figure(lacking, Kind.LENGTH, system)} more would do." if lacking > 0.0 else ""


def _binding(strategy: Strategy) -> str:
    names = {
        placed.id: part.name
        for placed, part in zip(strategy.after.build.parts, strategy.after.assembly.parts, strict=True)
    }
    words = []
    for ids in strategy.plan.binding:
        known = [short_name(names[i]) for i in ids if i in names]
        if len(ids) == 1 and known and ids[0] in strategy.plan.moved:
            words.append(f"{known[0]} at its stop")
        elif len(ids) == 2 and len(known) == 2:
            words.append(f"{known[0]} touching {known[1]}")
    return f"Held back by: {', '.join(words)}." if words and not strategy.full else ""


def _sureness(after: Analysis) -> str:
    spread, hands_off = after.spread, stays(after)
    if hands_off is None or spread is None:
        return ""
    if hands_off is Certainty.CLEAR:
        return "Stays on when let go, even with the ± (95 %)."
    if hands_off is Certainty.CANNOT_SAY:
        at, by_place = spread.worst()
        todo = "find the CG of the" if by_place else "weigh the"
        return f"With the ± it may fall when let go: {todo} {short_name(after.assembly.parts[at].name)} first."
    return ""


#: N and m by which a hand's force and the CG's way outside the pad may rise without a word; common practice.
_FELT, _SEEN = 0.5, 0.0005


def _outside(analysis: Analysis) -> float:
    """Return how far (m) the CG lies outside the room that it has, 0 inside."""
    return analysis.equilibrium.outside if analysis.equilibrium is not None else 0.0


def _then(strategy: Strategy, analysis: Analysis, system: System) -> str:
    """Return what it would cause that is warned of, as a clause."""
    new = new_warnings(analysis, strategy.after)
    # Several parts may be warned of in the same words.
    words = list(
        dict.fromkeys(
            warning_words(strategy.after, finding) + ("" if finding in new else " (worse than now)")
            for finding in worse_warnings(analysis, strategy.after)
        )
    )
    if strategy.tires is not None:
        _, joint, several = JOINT_NAMES[strategy.tires.joint]
        was, then = (f"{100 * share:.0f} %" for share in (strategy.tires.before, strategy.tires.after))
        words.append(f"the {joint} {'carry' if several else 'carries'} {then} of their strength, not {was}")
    before, after = (_largest_hand(one) for one in (analysis, strategy.after))
    if before is not None and after is not None and after > before + _FELT:
        words.append(f"the larger hand holds {figure(after, Kind.FORCE, system)}")
    outside = [_outside(one) for one in (analysis, strategy.after)]
    if outside[1] > outside[0] + _SEEN:
        words.append(f"the CG lies {figure(outside[1], Kind.LENGTH, system)} outside {text_of(strategy.after).noun}")
    if len(words) > _TOLD:
        words[_TOLD - 1 :] = [f"{len(words) - _TOLD + 1} more figures get worse"]
    said = ", ".join(words[:-1])
    return f"but {said} and {words[-1]}" if said else f"but {words[0]}" if words else ""


def influence_words(influence: tuple[Influence, ...], analysis: Analysis, system: System) -> str:
    """Return whether weighing a part would change the advice, "" if none would."""
    if not influence:
        return ""
    first = influence[0]
    name = short_name(analysis.assembly.parts[first.part].name)
    shift = figure(first.shift, Kind.LENGTH, system)
    tail = ". It may then fall short, or reach level" if first.flips else ""
    return f"Weigh the {name} first. It can move the camera’s mark by ± {shift}{tail}."
