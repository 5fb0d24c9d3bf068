"""The ways to balance in words: what to change, to which marks, what is left, what hands and shoulder feel."""

from __future__ import annotations

import math
from collections.abc import Sequence

from equilix.core.analysis import Analysis, new_warnings, stays
from equilix.core.kit.uncertainty import Certainty
from equilix.core.rounding import negligible
from equilix.core.solver.changes import ChangeKind
from equilix.core.solver.plan import PROVEN_GAP, PlanStatus
from equilix.core.solver.ranking import (
    HAND,
    JOINT,
    OUTSIDE,
    REACH,
    Worsening,
    largest_hand,
    ordered,
    outside,
    worsenings,
)
from equilix.core.solver.relaxations import Relaxation
from equilix.core.solver.sensitivity import Influence
from equilix.core.solver.strategies import Strategy, StrategyKind
from equilix.core.solver.under_limit import over_limit
from equilix.core.support import case_of
from equilix.core.units import Kind
from equilix.present.balance.change_words import SaidChange, deed_of, effort_words, said_changes, title_of
from equilix.present.card import Card, Deed
from equilix.present.supports import text_of
from equilix.present.supports.text import index_of, own_scale_of, warning_words
from equilix.present.units import System, figure
from equilix.present.words import (
    JOINT_NAMES,
    MOST_SAID,
    added_text,
    minutes,
    number_mm,
    short_name,
    times,
)


class Way(Card, frozen=True, eq=False):
    """One way to balance."""

    kind: StrategyKind
    strategy: Strategy
    preview: Analysis
    deed: Deed
    effort: str
    then: str = ""

    @property
    def needed(self) -> bool:
        """Whether something is wrong that it mends: steadying is only worth having."""
        return self.kind is not StrategyKind.STEADY and bool(self.deed.cost)

    def stops(self, system: System) -> bool:
        """Whether the rig can't be used after it either."""
        case = case_of(self.preview)
        return case is not None and text_of(self.preview).verdict(case, system).stops

    @property
    def work(self) -> str:
        return self.effort

    @property
    def warns(self) -> str:
        return self.then


#: Of what a way would make worse, how much is told in words.
_TOLD = 4


def ways_of(strategies: tuple[Strategy, ...], analysis: Analysis, system: System) -> tuple[Way, ...]:
    """Return the ways in words, in the order in which they are shown: what does all of it for the least work first."""
    return tuple(_way(strategy, analysis, system) for strategy in ordered(strategies, analysis))


def _way(strategy: Strategy, analysis: Analysis, system: System) -> Way:
    ahead = analysis.equilibrium.ahead if analysis.equilibrium is not None else 0.0
    after = strategy.after.equilibrium.ahead if strategy.after.equilibrium is not None else 0.0
    changes = said_changes(strategy.changes, analysis, strategy.after, system)
    effort, added = effort_words(strategy.changes), added_text(strategy.plan.added_mass, system)
    nothing = strategy.plan.added_mass == 0.0
    return Way(
        title_of(changes, analysis, strategy.after, strategy.full, system),
        added,
        ahead,
        after,
        f"CG {number_mm(ahead, system)} to {figure(after, Kind.LENGTH, system, sign=True)}",
        tuple(line for line in (_done(changes), *_lines(strategy, analysis, system)) if line),
        strategy.kind,
        strategy,
        strategy.after,
        deed_of(changes, analysis, strategy.after, f"{'nothing added' if nothing else added}; {effort}", system),
        effort,
        _then(strategy, analysis, system),
    )


def _done(changes: Sequence[SaidChange]) -> str:
    """Return all that is done, with its marks; of one slide, which the title names, the mark alone."""
    if len(changes) == 1 and changes[0].where and changes[0].change.kind in (ChangeKind.SLIDE, ChangeKind.HOLDER):
        return changes[0].where[:1].upper() + changes[0].where[1:]
    words = "; ".join(one.says for one in changes)
    return words[:1].upper() + words[1:]


def _lines(strategy: Strategy, analysis: Analysis, system: System) -> list[str]:
    plan, lines = strategy.plan, list[str]()
    if strategy.kind is StrategyKind.STEADY:
        lines.append(f"Steadier in tilt: {times(strategy.steadier[1])}.")
    elif plan.dead_mass > 0.0:
        lines.append("It does no other job.")
    lines.append(_limit_words(strategy, analysis, system))
    lines.append(_effect(strategy, analysis, system))
    left = figure(abs(strategy.remaining), Kind.MOMENT, system, unit=False, extra=1)
    spread = figure(2.0 * strategy.remaining_u, Kind.MOMENT, system, extra=1)
    lines.append(f"{text_of(strategy.after).left_over} {left} ± {spread}. {_proof(strategy)}")
    lines.append(_aside(strategy.after, system))
    ended = _ended(strategy, system)
    if not strategy.full and ended:
        lines.append(ended)
    elif not strategy.full and not (lines[-1] and not strategy.relaxations):
        lines.append(_short(strategy.relaxations, strategy.after, system))
    lines.append(_binding(strategy))
    lines.append(_sureness(strategy.after))
    return lines


def _limit_words(strategy: Strategy, analysis: Analysis, system: System) -> str:
    """Return that a way gets it under a maker's limit, "" if it was under it."""
    over = over_limit(analysis)
    if over is None or over.limit is None or over_limit(strategy.after) is not None:
        return ""
    # What counts against a limit is not always the whole rig.
    then = figure(over.amount + strategy.plan.added_mass, Kind.MASS, system)
    return f"{then} then, within the maker’s {figure(over.limit, Kind.MASS, system)}."


def _proof(strategy: Strategy) -> str:
    """Return how sure it is that no other way of the kind is better."""
    plan = strategy.plan
    if not negligible(plan.gap, PROVEN_GAP):
        return f"Within {100 * plan.gap:.1f} % of the best." if math.isfinite(plan.gap) else "Best found."
    if plan.status is not PlanStatus.PROVEN:
        return "Best found."
    return "Proven: less work won’t do." if strategy.full else "Proven: more is not worth its work."


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
    hands = [largest_hand(a) for a in (analysis, strategy.after)]
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


def _then(strategy: Strategy, analysis: Analysis, system: System) -> str:
    """Return what it would make worse, as a clause."""
    # Several parts may be warned of in the same words.
    words = list(
        dict.fromkeys(
            filter(None, (worse_words(one, strategy, analysis, system) for one in worsenings(analysis, strategy)))
        )
    )
    if len(words) > _TOLD:
        words[_TOLD - 1 :] = [f"{len(words) - _TOLD + 1} more figures get worse"]
    said = ", ".join(words[:-1])
    return f"but {said} and {words[-1]}" if said else f"but {words[0]}" if words else ""


def worse_words(worse: Worsening, strategy: Strategy, analysis: Analysis, system: System) -> str:
    """Return one thing that a way makes worse in words, "" for what its title says."""
    after = strategy.after
    if worse.finding is not None:
        new = worse.finding in new_warnings(analysis, after)
        return warning_words(after, worse.finding) + ("" if new else " (worse than now)")
    if worse.kind == JOINT and strategy.tires is not None:
        _, joint, several = JOINT_NAMES[strategy.tires.joint]
        was, then = (f"{100 * share:.0f} %" for share in (strategy.tires.before, strategy.tires.after))
        carry, whose = ("carry", "their") if several else ("carries", "its")
        return f"the {joint} {carry} {then} of {whose} strength, not {was}"
    if worse.kind == REACH:
        return "a hand no longer reaches its grip"
    if worse.kind == HAND:
        return f"the larger hand holds {figure(largest_hand(after) or 0.0, Kind.FORCE, system)}"
    if worse.kind == OUTSIDE:
        return f"the CG lies {figure(outside(after), Kind.LENGTH, system)} outside {text_of(after).noun}"
    return ""


def influence_words(influence: tuple[Influence, ...], analysis: Analysis, system: System) -> str:
    """Return whether weighing a part would change the advice, "" if none would."""
    if not influence:
        return ""
    first = influence[0]
    name = short_name(analysis.assembly.parts[first.part].name)
    shift = figure(first.shift, Kind.LENGTH, system)
    tail = ". It may then fall short, or reach level" if first.flips else ""
    return f"Weigh the {name} first. It can move the camera’s mark by ± {shift}{tail}."
