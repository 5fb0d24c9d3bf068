"""What the panel says beside the Balance view."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Operator
from equilix.core.assembly.wish import Wish
from equilix.core.solver.effort import DEAD_KG
from equilix.core.support import case_of
from equilix.document.book import Book
from equilix.present.balance.lens_view import tolerance_words
from equilix.present.balance.panel import BalanceModel
from equilix.present.panel import (
    Act,
    Block,
    Buttons,
    Choice,
    Doing,
    Entry,
    Figures,
    Heading,
    PanelModel,
    Search,
    Strip,
    Ways,
    Words,
)
from equilix.present.supports import text_of
from equilix.present.supports.text import Verdict
from equilix.present.units import System
from equilix.present.words import minutes

if TYPE_CHECKING:
    from equilix.present.balance.ways import Way

#: Of other builds of the same camera, how many are set beside it.
_MOST_BESIDE = 3
TOLERANCE, OFFER, BUILD, OPEN, WISH = "tolerance", "offer", "build", "open", "wish"
WAYS, CAUTIONS = "Ways to balance", "Cautions"


#: What ways are ordered by, and why people want that, in one line.
_WISHES = {
    Wish.NONE: ("least work", f"The quickest first. 1 kg of counterweight counts as {minutes(DEAD_KG)} of work."),
    Wish.NO_MASS: ("no added mass", "Every gram is carried all day: slide and turn before you add."),
    Wish.STEADY: ("steadiness", "Mass far from the middle steadies the picture. The arms must bear it."),
    Wish.LIGHTER: ("lightness", "Less mass tires less: leave parts off before you move others."),
}


class Sought(Struct, frozen=True, eq=False):
    """The ways that are known by now, whether more are sought, and what is to be said of them."""

    ways: tuple[Way, ...]
    busy: bool
    possible: bool
    note: str
    influence: str
    chosen: int | None

    def on_top(self, verdict: Verdict, system: System) -> int | None:
        """Return which way stands at the top and is applied by Enter: the chosen one, else the first that is needed.

        None below words that stop the work, unless it cures that; nor is steadying needed, which nothing wrong asks
        for.
        """
        if self.chosen is not None or not self.ways:
            return self.chosen
        first = self.ways[0]
        return None if not first.needed or (verdict.stops and first.stops(system)) else 0


def doing_of(sought: Sought, verdict: Verdict, system: System) -> Doing | None:
    """Return what is to be done at a glance, None where nothing is known that would do, or nothing is to be done."""
    place = sought.on_top(verdict, system)
    if place is None:
        return None
    deed, count = sought.ways[place].deed, len(sought.ways)
    others = ""
    if count > 1:
        others = f"P  next, {place + 1} of {count}" if sought.chosen is not None else f"P  shows it, 1 of {count}"
    return Doing(
        deed,
        "Apply all" if deed.then else "Apply",
        "best so far" if sought.busy and sought.chosen is None else others,
        "shown dashed at left" if sought.chosen is not None else "",
    )


def balance_panel(
    model: BalanceModel,
    analysis: Analysis,
    sought: Sought,
    beside: tuple[str, ...],
    tolerance: float,
    system: System,
) -> PanelModel:
    """Return the panel; `beside` is what other builds carry, `tolerance` (N m) what counts as level."""
    verdict = model.verdict
    doing = doing_of(sought, verdict, system)
    blocks: list[Block] = []
    if doing is not None:
        # What the words said of hands and of what stays is in the figures, and on the cards.
        verdict = replace(verdict, body=doing.deed.act, note="")
        blocks.append(doing)
    if verdict.matter and not verdict.leads:
        blocks.append(Strip(verdict.matter))
    blocks.append(Figures(model.figures))
    offer = offer_of(analysis, system)
    if offer is not None:
        blocks.append(Buttons((Act((OFFER,), offer[0]),)))
    if sought.possible:
        wish = analysis.build.wish
        blocks.append(Heading(WAYS, "" if sought.busy else f"{_WISHES[wish][0]} first"))
        if sought.busy:
            count = len(sought.ways)
            blocks.append(Search(f"{count} ways so far, still searching" if count else "seeking"))
        blocks.append(Ways(sought.ways, sought.chosen, shown=""))
        if sought.note:
            blocks.append(Words(sought.note))
        names = tuple(_WISHES[one][0] for one in Wish)
        blocks.append(Choice((WISH,), "rather", names, list(Wish).index(wish), "What ways are ordered by"))
        blocks.append(Words(_WISHES[wish][1], "ink3"))
        if text_of(analysis).tolerant:
            blocks.append(
                Entry(
                    (TOLERANCE,),
                    "counts as level below",
                    tolerance_words(tolerance, system),
                    "Moment that counts as level",
                    "Nobody feels a tipping moment below this. Common practice: 0.1 N·m",
                )
            )
    if beside:
        blocks += [Heading("Compared with it"), *map(Words, beside)]
    blocks.append(Heading(CAUTIONS))
    if sought.influence:
        blocks.append(Words(sought.influence))
    blocks += map(Words, model.cautions)
    return PanelModel(verdict, tuple(blocks))


def no_build_panel() -> PanelModel:
    """Return the panel where there is no build."""
    acts = (Act((BUILD,), "Start a build"), Act((OPEN,), "Open a book…"))
    return PanelModel(
        Verdict("No parts yet.", "Add a part or open a book.", known=False), (Buttons(acts, stacked=True),)
    )


def offer_of(analysis: Analysis, system: System) -> tuple[str, Build] | None:
    """Return what cures it without a hand on the rig, as sliding a plate in its clamp."""
    case = case_of(analysis)
    return text_of(analysis).offer(case, system) if case is not None else None


def beside_words(analysis: Analysis, book: Book, operator: Operator, system: System) -> tuple[str, ...]:
    """Return what other builds of the same camera on the same support carry besides."""
    case = case_of(analysis)
    if case is None or not text_of(analysis).compares or analysis.assembly.sensor is None:
        return ()
    camera = analysis.assembly.parts[analysis.assembly.sensor].id
    others = [
        build
        for build in book.builds
        if build.id != analysis.build.id
        and build.support == analysis.build.support
        and any(placed.part_id == camera for placed in build.parts)
    ]
    words = text_of(analysis)
    return tuple(words.beside(case, analyse(build, book.parts, operator), system) for build in others[:_MOST_BESIDE])
