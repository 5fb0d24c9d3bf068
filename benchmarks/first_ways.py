"""Follows the first way that is offered for many builds made at random from the catalogue, and tells what got worse.

    .venv/bin/python benchmarks/first_ways.py --seed 2026 --count 60

Prints one line of JSON: `builds` made, `ways` that were followed, `idle` ways with a change that could stay undone,
`contrary` ones with two that work against each other, `misnamed` ones; `first_full` first ways that do all of it, of
`any_full` builds with one that does so without a serious worsening, `not_first` where that stands behind another,
`first_serious` where the first is serious though nothing is full without; `worse` (warnings, limits, joints or figures
of the application's own that the first way made worse without its title saying so), `unproven`, `mark_clashes` (lens
marks at which parts meet that do not meet now), and `cases`, what they were.
"""

from __future__ import annotations

import argparse
import itertools
import json
import math
import os
import random
import re
from collections.abc import Sequence

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, FindingKind, new_warnings, worse_warnings
from equilix.core.assembly.build import Build, Operator
from equilix.core.assembly.resolve import prepare
from equilix.core.carry.carried import Carry, carry
from equilix.core.errors import AssemblyError
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category, Connection, Part
from equilix.core.solver.changes import Change, ChangeKind, with_changes
from equilix.core.solver.choices import holds_together, with_lens, without_lens
from equilix.core.solver.effort import STEP
from equilix.core.solver.lenses import lens_table
from equilix.core.solver.plan import NOTHING, PRICE_SHARE, PRICE_STEPS
from equilix.core.solver.ranking import worsenings
from equilix.core.solver.search_space import lens_followers, set_to_lens
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.core.solver.targets import form_value, target_of
from equilix.document.kinds.assemble import assemble
from equilix.document.kinds.of_part import kind_of_part, reading_of
from equilix.document.kinds.places import Loose
from equilix.document.kinds.records import shipped_kinds
from equilix.io.shipped import catalogue, starter_parts, starters
from equilix.present.balance.ways import Way, ways_of
from equilix.present.units import System
from equilix.supports.gimbal import mechanics as gimbal
from equilix.supports.vest import mechanics as vest

#: What a build is made of, in the order of the work; how often each comes.
_WANTED: tuple[tuple[Category, float], ...] = (
    (Category.PLATE, 1.0),
    (Category.PLATE, 1.0),
    (Category.BODY, 1.0),
    (Category.PAD, 1.0),
    (Category.RODS, 1.0),
    (Category.RODS, 0.9),
    (Category.BATTERY_PLATE, 0.9),
    (Category.BATTERY, 0.9),
    (Category.HANDLE, 0.8),
    (Category.ARM, 0.7),
    (Category.MONITOR, 0.7),
    (Category.LENS, 1.0),
    (Category.LENS_SUPPORT, 0.4),
    (Category.FOCUS, 0.4),
    (Category.MATTE_BOX, 0.5),
    (Category.CLAMP, 1.0),
    (Category.GRIP, 1.0),
    (Category.GRIP, 1.0),
)


#: Supports of which a rig is a gimbal's or a sled's, and what varies on it, how often.
_OWN_PIECES = ("gimbal", "vest")
_ON_IT: tuple[tuple[Category, float], ...] = (
    (Category.BODY, 1.0),
    (Category.LENS, 1.0),
    (Category.BATTERY, 0.8),
    (Category.MATTE_BOX, 0.3),
    (Category.SENDER, 0.4),
    (Category.MONITOR, 0.5),
)


def random_build(rng: random.Random, number: int, support: str = "shoulder") -> tuple[Build, dict[str, Part]]:
    """Return a build of catalogue parts put on one after another where people would, and its kit with some spares.

    A gimbal and a sled are of one size, with a camera that varies.
    """
    if support in _OWN_PIECES:
        return _on_pieces(rng, number, support)
    stock = list(catalogue())
    kit: dict[str, Part] = {}
    build = Build(f"b{number}", f"Random {number}")
    for k, (category, often) in enumerate(_WANTED):
        if rng.random() > often:
            continue
        words = {0: "Base plate", 1: "Camera plate", len(_WANTED) - 2: "left", len(_WANTED) - 1: "right"}.get(k, "")
        choices = [p for p in stock if p.category is category and words in p.name and p.id not in kit]
        part = rng.choice(choices)
        tried = {**kit, part.id: part}
        known = {placed.id: kind_of_part(kit[placed.part_id], shipped_kinds()) for placed in build.parts}
        found = assemble(build, tried, [Loose(part, reading_of(part, shipped_kinds()))], known=known)
        if len(found.build.parts) != len(build.parts) + 1:
            continue
        kit = tried
        build = replace(build, parts=(*build.parts, replace(found.build.parts[-1], id=f"p{k}")))
    for part in rng.sample(stock, 12):
        kit.setdefault(part.id, part)
    return replace(build, support=support), kit


def _on_pieces(rng: random.Random, number: int, support: str) -> tuple[Build, dict[str, Part]]:
    """Return one of the first builds on a support with another camera, lens and what else varies on it."""
    stock = list(catalogue())
    first = rng.choice([build for build in starters() if build.support == support])
    kit = {part.id: part for part in starter_parts(first)}
    build = replace(first, id=f"b{number}", name=f"Random {number}")
    for category, often in _ON_IT:
        there = [placed for placed in build.parts if kit[placed.part_id].category is category]
        old = kit[there[0].part_id] if there else None
        spare = [part for part in stock if part.category is category and part.id not in kit and _alike(part, old)]
        rng.shuffle(spare)
        if there and rng.random() < often:
            for part in spare:
                swapped = build.with_placed(replace(there[0], part_id=part.id))
                if holds_together(swapped, {**kit, part.id: part}):
                    build, kit = swapped, {**kit, part.id: part}
                    break
    # Nobody has set the slides yet.
    assembly = prepare(build, kit)
    for j, i in enumerate(assembly.slide_parts):
        mount, placed = assembly.slide_mounts[j], build.parts[i]
        if mount.joint is Connection.SLIDE and mount.goes:
            by = 0.3 * (mount.high - mount.low) * (rng.random() - 0.5)
            build = build.with_placed(replace(placed, setting=mount.snap(placed.setting + by)))
    for part in rng.sample(stock, 12):
        kit.setdefault(part.id, part)
    return build, kit


def _alike(part: Part, old: Part | None) -> bool:
    """Whether somebody would put a part where another was: of its size, not much heavier."""
    if old is None or part.outline is None or old.outline is None:
        return False
    fits = all(new <= 1.2 * was for new, was in zip(part.outline.size, old.outline.size, strict=True))
    return fits and 0.5 <= (part.mass or 0.0) / max(old.mass or 0.0, 0.01) <= 1.5


def _figures(analysis: Analysis, operator: Operator) -> dict[str, float]:
    """Return figures of the application's own of which less is better."""
    equilibrium = analysis.equilibrium
    found: dict[str, float] = {}
    if equilibrium is not None and equilibrium.holding is not None:
        found["larger hand, N"] = equilibrium.holding.larger
        found["tip moment, N m"] = abs(equilibrium.tip_moment)
        found["outside its room, mm"] = 1000.0 * equilibrium.outside
    carried = carry(analysis, operator, analysis.build.support)
    if isinstance(carried, Carry):
        found["worst share, %"] = 100.0 * carried.worst.share
        found["out of reach"] = float(bool(carried.out_of_reach))
    return found


#: By how much a figure may rise before it counts as worse: what nobody feels.
_SMALL = {
    "larger hand, N": 0.5,
    "tip moment, N m": 0.1,
    "outside its room, mm": 0.5,
    "worst share, %": 1.0,
    "out of reach": 0.5,
}


class Judged:
    """Ways judged by what they come to when their changes are done by hand: all, and all but some."""

    def __init__(self, before: Analysis, kit: dict[str, Part], operator: Operator) -> None:
        self.before, self.kit, self.operator = before, kit, operator
        target = target_of(before)
        assert target is not None
        self.tolerance, self.wrong, self.closely = target.tolerance, self.left(before), target.closely

    def left(self, one: Analysis, closely: bool = False) -> float:
        """Return what lies beyond all tolerances (kg m), each form by its weight; `closely` all that is left."""
        target = target_of(one)
        if target is None:
            return math.inf
        free = [form for form in target.forms if form.within is None]
        slack = 0.0 if closely else 1.0
        return sum(f.weight * max(abs(form_value(one, target, f)) - slack * target.allowed(f), 0.0) for f in free)

    def keeps(self, way: Way, rest: Sequence[Change], seconds: float) -> bool:
        """Whether a way does what it promises with the `rest` of its changes, or loses less than the work is worth."""
        assert way.strategy is not None
        assert way.preview is not None
        build = self.before.build
        whole = {**self.kit, **way.strategy.plan.kit}
        try:
            without = with_changes(build, way.strategy.plan.build, rest)
            after = analyse(without, whole, self.operator)
        except AssemblyError:
            return False
        if new_warnings(way.preview, after) or not self._lens_keeps(without):
            return False
        if self.closely and way.kind is StrategyKind.SLIDES:
            # The order of work of a gimbal or a sled: it leaves nothing, so each slide must take something off.
            return self.left(after, closely=True) - self.left(way.preview, closely=True) < 1e-4 * self.tolerance
        if way.strategy.full:
            return self.left(after) <= NOTHING
        loses = self.left(after) - self.left(way.preview)
        return loses < 0.99 * max(self.tolerance, PRICE_SHARE * self.wrong) * seconds / (PRICE_STEPS * STEP)

    def _lens_keeps(self, build: Build) -> bool:
        """Whether what is set to the lens still is."""
        here, there = ({placed.id: placed.setting for placed in one.parts} for one in (self.before.build, build))
        for one in lens_followers(self.before):
            if one.leader in there and one.follower in there:
                by = (there[one.follower] - here[one.follower]) - (there[one.leader] - here[one.leader])
                if not one.back - 1e-4 <= by <= one.ahead + 1e-4:
                    return False
        return True

    def idle(self, way: Way) -> list[Change]:
        """Return the changes of a way that could stay undone."""
        changes = way.strategy.changes if way.strategy is not None else ()
        if way.kind is StrategyKind.STEADY or len(changes) < 2:
            return []
        return [one for one in changes if self.keeps(way, [c for c in changes if c is not one], one.seconds)]

    def contrary(self, way: Way) -> list[tuple[Change, Change]]:
        """Return the pairs of changes of a way that could both stay undone: they work against each other."""
        changes = way.strategy.changes if way.strategy is not None else ()
        if way.kind is StrategyKind.STEADY or len(changes) < 3:
            return []
        found = []
        for pair in itertools.combinations(changes, 2):
            rest = [c for c in changes if c not in pair]
            if self.keeps(way, rest, pair[0].seconds + pair[1].seconds):
                found.append(pair)
        return found

    def serious(self, way: Way) -> bool:
        """Whether a way makes something seriously worse."""
        return any(one.serious for one in worsenings(self.before, way.strategy))

    def misnamed(self, way: Way) -> bool:
        """Whether a title counts more or fewer changes than there are, or another mass than is added."""
        strategy = way.strategy
        added = re.match(r"Add ([\d.]+) kg of counterweight", way.title)
        there = {placed.part_id for placed in strategy.after.build.parts}
        dead = sum(part.mass or 0.0 for part in strategy.plan.kit.values() if part.id in there)
        if added is not None and abs(float(added[1]) - dead) > 0.006:
            return True
        more = re.search(r" and (\d+) more$", way.title)
        blocks = sum(1 for one in strategy.after.build.parts if one.part_id in strategy.plan.kit)
        turns = sum(one.kind is ChangeKind.TURN for one in strategy.changes)
        phrases = len(strategy.changes) - max(blocks - 1, 0) - (max(turns - 1, 0) if " grips " in way.title else 0)
        if re.match(r"Set (the )?\d+ ", way.title):
            return not re.search(rf"\b{len(strategy.changes)}\b", way.title)
        return phrases > 2 and (more is None or int(more[1]) != phrases - 2)


def scale_clashes(analysis: Analysis, kit: dict[str, Part], operator: Operator) -> list[str]:
    """Return for which lenses parts meet with all scales at their marks that don't now, without a word, in words."""
    marks_of = {"gimbal": gimbal.lens_marks, "vest": vest.lens_marks}.get(analysis.build.support)
    lens = next((p for p in analysis.build.parts if kit[p.part_id].category is Category.LENS), None)
    if marks_of is None or lens is None:
        return []
    found = []
    for row in marks_of(analysis, kit):
        part = next(part for part in kit.values() if part.name == row.lens)
        if row.reason or row.meets:
            continue
        moved = with_lens(analysis.build, kit, lens, part, True)
        before = analyse(moved, kit, operator)
        for step in row.steps:
            if step.placed_id:
                moved = moved.with_placed(replace(moved.placed(step.placed_id), setting=step.to))
        after = analyse(moved, kit, operator)
        number = {placed.id: i for i, placed in enumerate(moved.parts)}
        for finding in new_warnings(before, after):
            # What is set to the lens is set to it again.
            follows = not set_to_lens(before).isdisjoint(number[placed_id] for placed_id in finding.placed_ids)
            if finding.kind is FindingKind.CLASH and not follows:
                found.append(f"{row.lens}: {' and '.join(finding.placed_ids)} meet at its marks")
    return found


def mark_clashes(analysis: Analysis, kit: dict[str, Part], operator: Operator) -> list[str]:
    """Return the lens marks at which parts meet that do not meet with that lens now, in words."""
    table = lens_table(analysis, kit, operator)
    lens = next((p for p in analysis.build.parts if kit[p.part_id].category is Category.LENS), None)
    if table is None or lens is None:
        return []
    found: list[str] = []
    for row in table.rows:
        try:
            build = analysis.build
            variant = without_lens(build, lens) if row.part is None else with_lens(build, kit, lens, row.part, True)
        except AssemblyError:
            continue
        before = analyse(variant, kit, operator)
        camera = variant.placed(table.placed_id)
        moved = variant.with_placed(replace(camera, setting=row.stop))
        for placed_id, setting in row.along:
            if any(placed.id == placed_id for placed in moved.parts):
                moved = moved.with_placed(replace(moved.placed(placed_id), setting=setting))
        after = analyse(moved, kit, operator)
        for finding in new_warnings(before, after):
            if finding.kind is FindingKind.CLASH:
                names = [kit[after.build.placed(i).part_id].name for i in finding.placed_ids]
                which = row.part.name if row.part is not None else "no lens"
                found.append(f"{which} at its mark: {' meets '.join(names)}, {1000 * finding.amount:.1f} mm")
                break
    return found


def main() -> None:
    """Follow the first ways and print the line."""
    # The solver now and then writes a line of its own; the answer alone goes to the output.
    out = os.dup(1)
    os.dup2(2, 1)
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seed", type=int, default=2026)
    parser.add_argument("--count", type=int, default=60)
    parser.add_argument("--support", choices=KEYS, default="shoulder")
    chosen = parser.parse_args()
    rng = random.Random(chosen.seed)
    followed = worse = unproven = clashes = 0
    cases: list[str] = []
    counts = dict.fromkeys(("idle", "contrary", "misnamed", "first_full", "any_full", "not_first", "first_serious"), 0)
    for number in range(chosen.count):
        build, kit = random_build(rng, number, chosen.support)
        operator = Operator("op", "Operator", rng.uniform(1.55, 1.95), rng.uniform(52.0, 98.0))
        before = analyse(build, kit, operator)
        if target_of(before) is None:
            continue
        ways = ways_of(find_strategies(before, kit, operator), before, System.METRIC)
        judged = Judged(before, kit, operator)
        for way in ways:
            tests = (("idle", judged.idle), ("contrary", judged.contrary), ("misnamed", judged.misnamed))
            for name, wrong in tests:
                if wrong(way):
                    counts[name] += 1
                    cases.append(f"{build.name}: {way.title}: {name}")
        does = [way for way in ways if way.kind is not StrategyKind.STEADY]
        full = [way for way in does if way.strategy.full and not judged.serious(way)]
        counts["first_full"] += bool(ways) and ways[0].strategy.full
        counts["any_full"] += bool(full)
        counts["not_first"] += bool(full) and ways[0] not in full
        counts["first_serious"] += bool(ways) and not full and judged.serious(ways[0])
        met = [*mark_clashes(before, kit, operator), *scale_clashes(before, kit, operator)]
        clashes += len(met)
        cases += [f"{build.name}: {words}" for words in met]
        if not ways:
            continue
        first = ways[0]
        followed += 1
        after = first.preview
        unproven += first.strategy.plan.gap > 1e-6
        told = bool(first.warns)
        causes = [str(finding.kind) for finding in worse_warnings(before, after)]
        figures, then = _figures(before, operator), _figures(after, operator)
        causes += [name for name in figures if then.get(name, 0.0) > figures[name] + _SMALL[name]]
        if causes and not told:
            worse += 1
            cases.append(f"{build.name}: {first.title}: {', '.join(causes)}")
    line = {
        "builds": chosen.count,
        "ways": followed,
        "worse": worse,
        "unproven": unproven,
        "mark_clashes": clashes,
        **counts,
        "cases": cases,
    }
    os.write(out, (json.dumps(line) + "\n").encode())


if __name__ == "__main__":
    main()
