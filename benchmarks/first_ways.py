"""Follows the first way that is offered for many builds made at random from the catalogue, and tells what got worse.

    .venv/bin/python benchmarks/first_ways.py --seed 2026 --count 60

Prints one line of JSON: `builds` made, `ways` that were followed, `worse` (warnings, limits, joints or figures of the
application's own that the first way made worse without its title saying so), `unproven`, `mark_clashes` (lens marks
at which parts meet that do not meet now), and `cases`, what they were.
"""

from __future__ import annotations

import argparse
import json
import os
import random

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, FindingKind, new_warnings, worse_warnings
from equilix.core.assembly.build import Build, Operator
from equilix.core.carry.carried import Carry, carry
from equilix.core.errors import AssemblyError
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category, Part
from equilix.core.solver.choices import with_lens, without_lens
from equilix.core.solver.lenses import lens_table
from equilix.core.solver.search_space import set_to_lens
from equilix.core.solver.strategies import find_strategies
from equilix.document.kinds.assemble import assemble
from equilix.document.kinds.of_part import kind_of_part, reading_of
from equilix.document.kinds.places import Loose
from equilix.document.kinds.records import shipped_kinds
from equilix.io.shipped import catalogue
from equilix.present.balance.ways import ways_of
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


def random_build(rng: random.Random, number: int) -> tuple[Build, dict[str, Part]]:
    """Return a build of catalogue parts put on one after another where people would, and its kit with some spares."""
    stock = list(catalogue())
    kit: dict[str, Part] = {}
    build = Build(f"b{number}", f"Random {number}")
    for k, (category, often) in enumerate(_WANTED):
        if rng.random() > often:
            continue
        words = "Base plate" if k == 0 else "Camera plate" if k == 1 else ""
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
    return build, kit


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
    for number in range(chosen.count):
        build, kit = random_build(rng, number)
        build = replace(build, support=chosen.support)
        operator = Operator("op", "Operator", rng.uniform(1.55, 1.95), rng.uniform(52.0, 98.0))
        before = analyse(build, kit, operator)
        ways = ways_of(find_strategies(before, kit, operator), before, kit, System.METRIC)
        met = [*mark_clashes(before, kit, operator), *scale_clashes(before, kit, operator)]
        clashes += len(met)
        cases += [f"{build.name}: {words}" for words in met]
        if not ways:
            continue
        first = ways[0]
        followed += 1
        after = first.preview
        if after is None or first.strategy is None:
            continue
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
        "cases": cases,
    }
    os.write(out, (json.dumps(line) + "\n").encode())


if __name__ == "__main__":
    main()
