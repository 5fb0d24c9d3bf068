"""Ways to clear a clash, in words."""

from __future__ import annotations

import math

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.assembly.mounts import FreeMount, mount_of
from equilix.core.solver.clearing import Clearing, ClearingKind
from equilix.core.units import Kind
from equilix.present.balance.change_words import move_of
from equilix.present.card import Card
from equilix.present.supports.text import index_of
from equilix.present.units import System, figure
from equilix.present.words import added_text, mid_sentence, mount_name, number_mm, short_name


class ClearWay(Card, frozen=True, eq=False):
    """One way to clear it; `build` is the changed one and `moved` what differs."""

    kind: ClearingKind
    build: Build
    moved: tuple[str, ...]
    preview: Analysis


def clear_ways(
    found: tuple[Clearing, ...], analysis: Analysis, kit: Kit, operator: Operator, system: System
) -> tuple[ClearWay, ...]:
    """Return the cards for the ways found, in their order."""
    return tuple(_way(clearing, analysis, kit, operator, system) for clearing in found)


def _way(clearing: Clearing, analysis: Analysis, kit: Kit, operator: Operator, system: System) -> ClearWay:
    after = analyse(clearing.build, kit, operator)
    ahead = [a.equilibrium.ahead if a.equilibrium is not None else 0.0 for a in (analysis, after)]
    moves = [_move(clearing, placed_id, analysis, kit, system) for placed_id in clearing.moved]
    title = moves[0] if moves else ""
    cost = ""
    if after.body is not None and analysis.body is not None:
        added = after.body.mass - analysis.body.mass
        cost = added_text(added, system) if abs(added) > 5e-4 else ""
    lines = [text[:1].upper() + text[1:] for text in moves[1:]]
    words = f"CG {number_mm(ahead[0], system)} to {figure(ahead[1], Kind.LENGTH, system, sign=True)}"
    return ClearWay(
        title[:1].upper() + title[1:],
        cost,
        ahead[0],
        ahead[1],
        words if analysis.equilibrium is not None else "",
        tuple(lines) or (_why(clearing.kind),),
        clearing.kind,
        clearing.build,
        clearing.moved,
        after,
    )


def _why(kind: ClearingKind) -> str:
    return {
        ClearingKind.SLIDE: "The shortest way that touches nothing else.",
        ClearingKind.TURN: "The smallest turn that touches nothing else.",
        ClearingKind.HANG: "The nearest free mount on which it touches nothing.",
        ClearingKind.SWAP: "The one of the kit that is nearest in mass and touches nothing.",
    }[kind]


def _move(clearing: Clearing, placed_id: str, analysis: Analysis, kit: Kit, system: System) -> str:
    i = index_of(analysis, placed_id)
    old, new = analysis.build.parts[i], clearing.build.placed(placed_id)
    name = short_name(analysis.assembly.parts[i].name)
    if new.part_id != old.part_id:
        return f"{mid_sentence(kit[new.part_id].name)} instead of {mid_sentence(kit[old.part_id].name)}"
    mount = mount_of(new, clearing.build, kit)
    if (new.parent, new.mount) != (old.parent, old.mount):
        where = mount_name(FreeMount(new.parent or "", mount), clearing.build, kit) if mount is not None else ""
        return f"hang {name} on {mid_sentence(where)}"
    if new.quarter_turns != old.quarter_turns:
        return f"turn {name} by {90 * ((new.quarter_turns - old.quarter_turns) % 4)}° to the left"
    if clearing.kind is ClearingKind.TURN:
        way = math.degrees(new.setting - old.setting)
        return f"turn {name} by {abs(way):.0f}° {'down' if way > 0.0 else 'up'}"
    return move_of(placed_id, new.setting, analysis, system).says
