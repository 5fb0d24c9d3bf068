"""What the panel says beside the Carry view."""

from __future__ import annotations

from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Take
from equilix.core.carry.arrangements import CarryUncertainties
from equilix.core.carry.carried import Carry
from equilix.core.operator.strength import BodyJoint
from equilix.core.statics.pose import Hindrance
from equilix.present.carry.carry_view import cautions, changed_figures, figures, more_figures, verdict
from equilix.present.carry.light_ways import LightWay
from equilix.present.panel import Act, Block, Buttons, Figures, Heading, Link, PanelModel, Search, Ways, Words
from equilix.present.supports.text import Verdict
from equilix.present.units import System

BUILD, STRENGTH = "build", "strength"


class Carried(Struct, frozen=True, eq=False):
    """What a panel is about: as it is `now`, as it is `shown` with the chosen way, and the takes of both.

    `strength` if shares of strength, moments and forces are shown too.
    """

    now: Carry | Hindrance
    shown: Carry | Hindrance
    takes: tuple[Take, ...]
    shown_takes: tuple[Take, ...]
    sure: CarryUncertainties | None
    joint: BodyJoint | None
    strength: bool = False


def carry_panel(
    of: Carried, analysis: Analysis | None, ways: tuple[LightWay, ...], chosen: int | None, busy: bool, system: System
) -> PanelModel:
    """Return the panel; `busy` while more ways are sought."""
    said = verdict(of.shown, previewed=chosen is not None, takes=of.shown_takes)
    if not isinstance(of.now, Carry) or not isinstance(of.shown, Carry) or analysis is None:
        return PanelModel(said)
    rows = figures(of.shown, of.shown_takes, system, of.sure)
    more = more_figures(of.shown, system, of.sure)
    if chosen is not None:
        rows = changed_figures(figures(of.now, of.takes, system), rows)
        more = changed_figures(more_figures(of.now, system), more)
    inner = "the reserve alone" if of.strength else "forces, discs and strength"
    blocks: list[Block] = [
        Figures(rows),
        Link(Act((STRENGTH,), inner, "One level down and up again (F)")),
        Heading("Ways to lighten", "" if busy else "longest safe take first"),
    ]
    if busy:
        blocks.append(Search("trying grips, holds, braces and screens"))
    blocks.append(Ways(ways, chosen, shares=True, shown="shown in the drawing"))
    if not ways and not busy:
        blocks.append(Words("No other place for the grips, and no other hold, lets takes last 5 % longer."))
    blocks += [Heading("More figures"), Figures(more), Heading("Cautions")]
    blocks += map(Words, cautions(of.shown, analysis, of.joint, system))
    return PanelModel(said, tuple(blocks))


def no_build_panel() -> PanelModel:
    """Return the panel where there is no build."""
    said = Verdict("No parts yet.", "Put a build together.", known=False)
    return PanelModel(said, (Buttons((Act((BUILD,), "Start a build"),)),))
