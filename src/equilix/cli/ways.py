"""The ways to better a build on the command line: listed, one of them done, or some of its changes."""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, FindingKind
from equilix.core.assembly.build import Operator
from equilix.core.errors import AssemblyError, EquilixError
from equilix.core.rounding import negligible
from equilix.core.solver.changes import Change, ChangeKind, changes_of, effort, with_changes
from equilix.core.solver.plan import NOTHING, PlanStatus
from equilix.core.solver.ranking import worsenings
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.core.solver.targets import beyond_now, target_of
from equilix.core.support import case_of
from equilix.document.book import Book
from equilix.document.edits.builds import ApplyPlan
from equilix.present.balance.change_words import said_changes
from equilix.present.balance.ways import ways_of, worse_words
from equilix.present.units import System


class ListedWay(Struct, frozen=True, eq=False):
    """A way: its `name` and `steps` in words, its `aim`, whether it is `full` and `proven`, and the rig `after` it.

    `changes` in the order in which they are done; `worse` what it makes worse, as the report has it.
    """

    name: str
    steps: tuple[str, ...]
    aim: str
    full: bool
    proven: bool
    after: Analysis
    changes: tuple[Change, ...]
    worse: tuple[dict[str, object], ...] = ()


def listed_ways(analysis: Analysis, book: Book, operator: Operator, key: str) -> list[ListedWay]:
    """Return the ways to better a build on the support called `key`, in the order in which they are shown."""
    found = []
    for way in ways_of(find_strategies(analysis, book.parts, operator), analysis, System.METRIC):
        strategy = way.strategy
        said = said_changes(strategy.changes, analysis, way.preview, System.METRIC)
        worse = tuple(
            {
                "kind": one.kind,
                "serious": one.serious,
                "says": worse_words(one, strategy, analysis, System.METRIC) or way.title,
            }
            for one in worsenings(analysis, strategy)
        )
        aim = "steadier" if strategy.kind is StrategyKind.STEADY else "balance"
        changes = tuple(one.change for one in said if one.verb)
        steps = tuple(one.says for one in said)
        found.append(
            ListedWay(
                way.said,
                steps,
                aim,
                strategy.full,
                strategy.plan.status is PlanStatus.PROVEN,
                way.preview,
                changes,
                worse,
            )
        )
    return found + _clearing(analysis, book, operator) + _lighter(analysis, book, operator, key)


def _clearing(analysis: Analysis, book: Book, operator: Operator) -> list[ListedWay]:
    """Return the ways to take apart what meets, the deepest pair first, as Build shows them."""
    from equilix.core.solver.clearing import clearings
    from equilix.present.assembly.clear_view import clear_ways

    found = []
    for clash in (one for one in analysis.findings if one.kind is FindingKind.CLASH):
        pair = (clash.placed_ids[0], clash.placed_ids[1])
        apart = clearings(analysis, book.parts, pair)
        for card in clear_ways(apart, analysis, book.parts, operator, System.METRIC):
            after = card.preview
            changes = changes_of(analysis, after.build, after.assembly.kit)
            steps = (card.title, *card.lines)
            found.append(ListedWay(card.title, steps, "clear", is_full(after), False, after, changes))
    return found


def _lighter(analysis: Analysis, book: Book, operator: Operator, key: str) -> list[ListedWay]:
    from equilix.core.carry.carried import Carry, carry
    from equilix.core.solver.lighten import ways_to_lighten
    from equilix.present.carry.light_ways import light_ways

    now = carry(analysis, operator, key)
    if not isinstance(now, Carry):
        return []
    found = []
    for card in light_ways(
        ways_to_lighten(analysis, book.parts, operator, key, analysis.build.takes), now, analysis, System.METRIC
    ):
        after = card.way.after
        if after is not None:
            changes = changes_of(analysis, after.build, after.assembly.kit)
            full = is_full(after)
            found.append(ListedWay(card.title, (card.title, *card.lines), "lighten", full, False, after, changes))
    return found


def is_full(after: Analysis) -> bool:
    """Whether nothing lies beyond the tolerances."""
    target = target_of(after)
    return target is not None and beyond_now(after, target) <= NOTHING


def change_report(change: Change, before: Analysis, after: Analysis) -> dict[str, object]:
    """Return one change: what is done with which part, from and to where along its slide (mm; degrees of a turn)."""
    said = said_changes((change,), before, after, System.METRIC)[0]
    build = before.build if change.kind is ChangeKind.TAKE_OFF else after.build
    part = after.assembly.kit[build.placed(change.placed_id).part_id].name if change.placed_id else None
    slides = change.kind in (ChangeKind.SLIDE, ChangeKind.TURN)
    scale = math.degrees(1.0) if change.kind is ChangeKind.TURN else 1e3
    return {
        "do": str(change.kind),
        "part": part,
        "from_mm": scale * change.start if slides else None,
        "to_mm": scale * change.end if slides else None,
        "says": said.says,
    }


def way_report(way: ListedWay, before: Analysis) -> dict[str, object]:
    """Return what a way is, costs and makes worse; what it promises stands beside it."""
    masses = [one.body.mass if one.body is not None else 0.0 for one in (before, way.after)]
    added = masses[1] - masses[0]
    case = case_of(way.after)
    short = way.after.support.missed(case) if case is not None else None
    return {
        "name": way.name,
        "aim": way.aim,
        "full": way.full,
        "effort_s": effort(way.changes),
        "added_kg": 0.0 if negligible(added) else added,
        "worse": list(way.worse),
        "changes": [change_report(one, before, way.after) for one in way.changes],
        "steps": list(way.steps),
        "proven": way.proven,
        **({} if short is None else {"short": short}),
    }


def after_way(
    analysis: Analysis, book: Book, operator: Operator, key: str, number: int, only: Sequence[int] | None
) -> Analysis:
    """Return the rig after way `number`, or after `only` those of its changes, counted from 1.

    Raises
    ------
    EquilixError
        If there is no such way or change, or a change does not go without another.
    """
    ways = listed_ways(analysis, book, operator, key)
    if not 1 <= number <= len(ways):
        many = f"There are {len(ways)} ways" if len(ways) != 1 else "There is one way"
        raise EquilixError(f"{many} for {analysis.build.name}, so --way {number} is none of them. See --ways.")
    way = ways[number - 1]
    if only is None:
        return way.after
    wrong = next((one for one in only if not 1 <= one <= len(way.changes)), None)
    if wrong is not None:
        raise EquilixError(f"Way {number} has {len(way.changes)} changes, so there is no change {wrong}. See --ways.")
    try:
        build = with_changes(analysis.build, way.after.build, [way.changes[one - 1] for one in only])
        return analyse(build, way.after.assembly.kit, operator)
    except AssemblyError as error:
        raise EquilixError(f"Those changes of way {number} do not go without the others: {error}") from None


def kept(book: Book, after: Analysis) -> Book:
    """Return the book with a build as it is after a way."""
    used = {placed.part_id for placed in after.build.parts}
    new = tuple(part for part in after.assembly.kit.values() if part.id in used and part.id not in book.parts)
    return ApplyPlan(after.build, new).apply(book)
