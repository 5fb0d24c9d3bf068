"""What the panel says beside the Build view."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build
from equilix.core.kit.parts import Part
from equilix.core.solver.growth import RodOrder, Suggestion
from equilix.document.book import Book
from equilix.present.assembly.build_view import BuildModel
from equilix.present.assembly.clear_view import ClearWay
from equilix.present.assembly.drawing import MOST_SHOWN
from equilix.present.assembly.pieces import LooseParts, cg_change
from equilix.present.assembly.sets_view import SetRow, belongs_to
from equilix.present.assembly.together import Together
from equilix.present.panel import (
    Act,
    Block,
    Buttons,
    Figures,
    Heading,
    Link,
    PanelModel,
    Pictures,
    Search,
    Tick,
    Ways,
    Words,
)
from equilix.present.supports.text import Verdict, index_of
from equilix.present.units import System
from equilix.present.words import capitalised, mid_sentence, short_name

EMPTY, STARTER, TYPICAL, SELECT, JOIN, SET, REORDER = "empty", "starter", "typical", "select", "join", "set", "reorder"
TAKE_OFF, TURN, MARK, SETS = "take off", "turn", "mark", "sets"
TOGETHER, PUT_ALL, LEAVE, ANSWER, ELSEWHERE, TICK = "together", "put all", "leave", "answer", "elsewhere", "tick"
LIFT = "lift"


class Advice(Struct, frozen=True, eq=False):
    """What is advised: ways to clear the clash of a `pair`, what goes on next, and the order on the rods.

    `sought` says whether all ways were, `busy` whether they still are.
    """

    pair: tuple[str, str] | None = None
    ways: tuple[ClearWay, ...] = ()
    chosen: int | None = None
    busy: bool = False
    sought: bool = False
    next: tuple[Suggestion, ...] = ()
    orders: tuple[RodOrder, ...] = ()


#: Loose parts that are listed at once.
_MOST_LOOSE = 8
_MOST_SPARE = 3


def build_panel(
    model: BuildModel,
    analysis: Analysis,
    book: Book,
    advice: Advice,
    sets: tuple[SetRow, ...],
    selected: str,
    system: System,
    proposed: Together | None = None,
    in_hand: Sequence[Block] = (),
) -> PanelModel:
    """Return the panel; `selected` is the chosen part's id or "".

    `proposed` is how the loose parts would go on, while that is shown; `in_hand` is said of what is in the hand.
    """
    blocks: list[Block] = [Figures(model.figures), *in_hand]
    on_build = {placed.part_id for placed in analysis.build.parts}
    if not analysis.build.parts and not book.kit:
        blocks.append(Words("The kit is empty. List your parts in Weigh, or add typical ones:", "ink"))
        blocks.append(Buttons((Act((TYPICAL,), "Add typical parts"),)))
    blocks += _problems(model)
    if proposed is not None:
        blocks += _together(proposed)
    elif sum(part.id not in on_build for part in book.kit) > 1:
        tip = "Shows how the loose parts of the kit would go on (A)"
        blocks.append(Buttons((Act((TOGETHER,), "Put together what is loose", tip),)))
    if proposed is None and analysis.build.parts:
        effects = {one.placed.part_id: words for one in advice.next if (words := _effect(one, system))}
        blocks += _loose(model.loose, sum(part.id not in on_build for part in book.kit), effects)
    if advice.pair is not None or advice.ways:
        blocks += _clearing(advice, analysis)
    blocks += _orders(advice.orders, analysis)
    if sets:
        blocks.append(Heading("Sets", "Sets of parts (S)"))
        for place, one in enumerate(sets):
            blocks.append(Link(Act((SET, str(place)), one.choice.words, "One step. Ctrl+Z undoes it", one.note)))
    blocks.append(Heading("Selected part"))
    blocks += _selected(analysis.build, selected, book)
    blocks.append(Words("Clashes are judged by boxes of the kit’s sizes. Check on the rig itself.", "ink3"))
    return PanelModel(_proposal_verdict(proposed) if proposed is not None else model.verdict, tuple(blocks))


def _proposal_verdict(proposed: Together) -> Verdict:
    """Return the sentence that leads while it is shown how loose parts would go on."""
    count, asked = len(proposed.added), len(proposed.questions)
    if not count:
        several = f"{asked} part{'s are' if asked != 1 else ' is'} asked about."
        how = "Enter takes the first place, 2 or 3 another, Esc leaves it off." if asked else ""
        return Verdict(several if asked else "No part has a sure place.", how)
    head = f"{count} part{'s have' if count != 1 else ' has'} a place."
    note = f"{asked} more {'are' if asked != 1 else 'is'} asked about." if asked else ""
    return Verdict(head, "Enter puts them on, Esc leaves it.", note=note)


def no_build_panel(starters: tuple[Build, ...]) -> PanelModel:
    """Return the panel where there is no build: what to start from."""
    acts = [Act((EMPTY,), "Empty build", note="First the foundation, then part by part from your kit.")]
    acts += [Act((STARTER, build.id), build.name, note=build.note) for build in starters]
    blocks = (Heading("Start", "estimated until you weigh"), Buttons(tuple(acts), stacked=True))
    return PanelModel(Verdict("No build yet.", "Start empty or from a typical build."), blocks)


def _together(proposed: Together) -> list[Block]:
    """Return what is proposed of the loose parts: where they go, what is asked, what stays off."""
    count = len(proposed.added)
    blocks: list[Block] = []
    if count:
        blocks.append(Heading("Put together", f"{count} part{'s' if count != 1 else ''}, dashed"))
        acts: tuple[Act, ...] = (
            Act((PUT_ALL,), "Put all on", "One step. Ctrl+Z undoes it (Enter)"),
            Act((LEAVE,), "Leave it", "Esc"),
        )
        blocks.append(Buttons(acts))
        tip = "Whether it is for this rig"
        for row in proposed.rows:
            blocks.append(Tick(Act((TICK, row.part_id), row.words, tip), True) if row.part_id else Words(row.words))
    elif not proposed.questions:
        blocks.append(Words("Nothing of the kit has a place on this rig. Put parts on by hand."))
    for number, question in enumerate(proposed.questions):
        blocks.append(Heading(question.name))
        blocks.append(Words(question.asks))
        ways = (Act((ANSWER, str(number), str(k)), f"{k + 1}  {one.words}") for k, one in enumerate(question.answers))
        if question.answers:
            blocks.append(Pictures(tuple(zip(ways, question.pictures, strict=True))))
        acts = (Act((ELSEWHERE, question.part_id), "Somewhere else…", "Say how it is joined, or drag it there (J)"),)
        blocks.append(Buttons(acts))
    for part in proposed.unticked:
        blocks.append(Tick(Act((TICK, part.id), part.name, "Whether it is for this rig"), False))
    if proposed.spare:
        blocks.append(Heading("Stays off"))
        blocks += [Words(words) for words in proposed.spare]
    return blocks


def _effect(one: Suggestion, system: System) -> str:
    """Return what a part does to the CG: "CG +61 → +39 mm"; nothing without a support that it is measured from."""
    if one.before is None or one.after is None:
        return ""
    return cg_change(one.before, one.after, system)


def _loose(loose: LooseParts, count: int, effects: dict[str, str]) -> list[Block]:
    """Return what is loose: where each part goes that can go on now, what nothing takes, and what is spare.

    `effects` are words by part: what the first ones do to the CG.
    """
    rows = [
        (one.part, one.asks or ". ".join(filter(None, (capitalised(one.words), effects.get(one.part.id, "")))))
        for one in loose.pieces
    ]
    rows += [(one.part, capitalised(one.why)) for one in loose.off if one.wanted]
    spare = [one.part for one in loose.off if not one.wanted]
    if not rows:
        return _spare(spare)
    tip = "Puts it there, or asks. Drag it onto a face of another part, or press J to say how"
    blocks: list[Block] = [Heading("Loose parts", "Enter puts on the first")]
    for part, note in rows[:_MOST_LOOSE]:
        blocks.append(Link(Act((JOIN, part.id), part.name, tip, note), drags=part.id))
    more = count - len(spare) - min(len(rows), _MOST_LOOSE)
    if more > 0:
        blocks.append(Words(f"{more} more {'wait' if more > 1 else 'waits'} for these.", "ink3"))
    return blocks + _spare(spare)


def _spare(parts: list[Part]) -> list[Block]:
    """Return what of the kit this rig does not want."""
    if not parts:
        return []
    names = [mid_sentence(short_name(part.name)) for part in parts[:_MOST_SPARE]]
    more = len(parts) - len(names)
    return [Words(f"Spare on this rig: {', '.join(names)}{f' and {more} more' if more else ''}.", "ink3")]


def _problems(model: BuildModel) -> list[Block]:
    if not model.problems:
        return []
    blocks: list[Block] = [Heading("Clashes", "deepest first")]
    for title, words, placed_id in model.problems[:MOST_SHOWN]:
        blocks.append(Link(Act((SELECT, placed_id), title, "Selects the part in the drawing", words), ruled=True))
    more = len(model.problems) - MOST_SHOWN
    if more > 0:
        blocks.append(Words(f"{more} smaller clashes. Select a part to see its own."))
    return blocks


def _clearing(advice: Advice, analysis: Analysis) -> list[Block]:
    blocks: list[Block] = [Heading("Ways to clear the clash", "" if advice.busy else "smallest change first")]
    if advice.busy:
        blocks.append(Search("searching"))
    if advice.pair is not None:
        names = [short_name(analysis.assembly.parts[index_of(analysis, placed)].name) for placed in advice.pair]
        blocks.append(Words(f"Hit: {names[0]} and {names[1]}. Select another part for its own clash."))
    blocks.append(Ways(advice.ways, advice.chosen))
    if not advice.ways and not advice.busy:
        none = "No single slide, turn, mount or swap clears it. Take one part off, or change two."
        blocks.append(Words(none if advice.sought else "Stopped. Any change starts a new search."))
    return blocks


def _orders(orders: tuple[RodOrder, ...], analysis: Analysis) -> list[Block]:
    wrong = [(place, order) for place, order in enumerate(orders) if not order.as_wanted]
    if not wrong:
        return []
    blocks: list[Block] = [Heading("Order on the rods", "from the camera forward or back")]
    tip = "Common practice: the grips' clamp next to the camera, then what is set to the lens, the matte box last"
    for place, order in wrong:
        names = [short_name(analysis.assembly.parts[index_of(analysis, i)].name) for i in order.better]
        holder = short_name(analysis.assembly.parts[index_of(analysis, order.holder)].name)
        words = f"{holder}: {', '.join(names)}"
        act = Act((REORDER, str(place)), "Reorder", tip)
        blocks.append(Buttons((act,), before=words[:1].upper() + words[1:]))
    return blocks


def _selected(build: Build, selected: str, book: Book) -> list[Block]:
    if not selected:
        return [Words("Click a part, or step with Up and Down.")]
    placed = build.placed(selected)
    acts = (
        Act((TAKE_OFF,), "Take off", "Takes the part off, with what sits on it (Delete)"),
        Act((LIFT,), "Move…", "To another place: arrows go through what it can have (L)"),
        Act((TURN,), "Turn", "A quarter turn to the left (T)"),
        Act((MARK,), "Mark", "Type its mark or its angle (M)"),
        Act((SETS,), "Sets…", "Sets of parts that go on and come off together (S)"),
    )
    return [
        Words(book.name_of(placed), "ink", 15.0),
        Buttons(acts),
        Words(belongs_to(placed)),
        Words("Left and Right slide it 1 mm, with Shift 10 mm.", "ink3"),
    ]
