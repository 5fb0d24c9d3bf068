"""What a way changes in words, each change and all of them in a title: what moves, which way in the hand, how far."""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.assembly.mounts import FreeMount, mount_of
from equilix.core.kit.parts import Category
from equilix.core.solver.changes import Change, ChangeKind
from equilix.core.support import case_of
from equilix.core.units import Kind
from equilix.present.card import Deed
from equilix.present.supports import text_of
from equilix.present.supports.text import index_of
from equilix.present.units import System, figure, number
from equilix.present.words import Move, added_text, mid_sentence, minutes, mount_name, short_name, slider_of

#: Changes that a title names.
_NAMED = 2


class SaidChange(Struct, frozen=True):
    """One change: what it `says` in full, and in a title: `short`, after the verb.

    Large and in parts, that is `what` is done and by what `amount`, and `where`: from mark to mark, on what, past what.
    """

    change: Change
    says: str
    verb: str = ""
    short: str = ""
    what: str = ""
    amount: str = ""
    where: str = ""


def said_changes(
    changes: Sequence[Change], before: Analysis, after: Analysis, system: System
) -> tuple[SaidChange, ...]:
    """Return the changes of a way in the order in which they are done: what goes on or off first, then slides.

    As people work, where a support has an order of work; else the longest slide first.
    """
    here = case_of(before)
    order = before.support.working_order(here) if here is not None else ()

    def rank(change: Change) -> tuple[float, ...]:
        if change.kind not in (ChangeKind.SLIDE, ChangeKind.TURN):
            return (0.0 if change.kind is not ChangeKind.HOLDER else 1.0,)
        if order:
            return (2.0, order.index(change.placed_id) if change.placed_id in order else len(order))
        return (2.0, -round(abs(change.end - change.start), 3))

    found = []
    for change in sorted(changes, key=rank):
        found.append(_said(change, before, after, system))
        found += [
            SaidChange(change, move_of(one, after.build.placed(one).setting, before, system).says)
            for one in change.along
        ]
    return tuple(found)


def _said(change: Change, before: Analysis, after: Analysis, system: System) -> SaidChange:
    kit = after.assembly.kit
    match change.kind:
        case ChangeKind.HOLDER:
            here, then = case_of(before), case_of(after)
            move = text_of(before).slid(here, then, system) if here is not None and then is not None else None
            return _slid(change, move) if move is not None else SaidChange(change, "")
        case ChangeKind.SLIDE:
            said = _slid(change, move_of(change.placed_id, change.end, before, system))
            return said if not change.past else _past(said, before)
        case ChangeKind.TURN:
            name, way, by = _turn_words(change, before, after)
            return SaidChange(change, f"{name} turned {way} by {by}", "Turn", f"{name} {way} by {by}", way, by)
        case ChangeKind.TAKE_OFF:
            part = kit[before.build.placed(change.placed_id).part_id]
            name = short_name(part.name)
            mass = added_text(-(part.mass or 0.0), system)
            return SaidChange(change, f"{name} off", "Leave off", f"the {name}", f"the {name}", mass)
        case ChangeKind.SWAP:
            new, old = (kit[one.build.placed(change.placed_id).part_id] for one in (after, before))
            name, instead = mid_sentence(new.name), f"instead of {mid_sentence(old.name)}"
            mass = added_text((new.mass or 0.0) - (old.mass or 0.0), system)
            return SaidChange(change, f"{name} {instead}", "Take", f"the {name}", f"the {name}", mass, instead)
        case _:
            return _placed(change, before, after, system)


def _past(said: SaidChange, before: Analysis) -> SaidChange:
    """Return a slide past other parts as that: taken off its rods and put on again."""
    names = [short_name(before.assembly.parts[index_of(before, one)].name) for one in said.change.past]
    listed = ", the ".join(names[:-1]) + (" and the " if len(names) > 1 else "") + names[-1]
    name = short_name(before.assembly.parts[index_of(before, said.change.placed_id)].name)
    says = f"{name} off and on again past the {listed}: {said.says}"
    past = f"the {names[0]}" if len(names) == 1 else f"{len(names)} parts"
    short = f"the {name} on past {past}"
    return SaidChange(said.change, says, "Put", short, short, said.amount, said.where)


def _slid(change: Change, move: Move) -> SaidChange:
    return SaidChange(
        change,
        move.says,
        "Set" if "slide" in move.what else "Slide",
        move.short,
        f"the {move.what} {move.way}",
        move.far,
        f"mark {move.since} → {move.to}",
    )


def _placed(change: Change, before: Analysis, after: Analysis, system: System) -> SaidChange:
    build, kit = after.build, after.assembly.kit
    placed = build.placed(change.placed_id)
    part = kit[placed.part_id]
    where = _where(placed, build, kit)
    if change.kind is ChangeKind.MOVE:
        name = short_name(part.name)
        short = f"the {name} elsewhere"
        return SaidChange(change, f"{name} to {where}", "Hang", short, short, "", f"to {where}")
    if _is_block(change, before, after):
        mass = figure(part.mass or 0.0, Kind.MASS, system)
        short = f"{mass} of counterweight"
        return SaidChange(change, f"{short} on {where}", "Add", short, "counterweight", mass, f"on {where}")
    on_it = [kit[build.placed(one).part_id] for one in build.carried_by(change.placed_id) if one != change.placed_id]
    name = short_name(part.name) + (f" with {' and '.join(mid_sentence(one.name) for one in on_it)}" if on_it else "")
    heavy = next((one for one in on_it if one.category is Category.BATTERY), part)
    short = f"the {mid_sentence(heavy.name)}"
    mass = added_text(sum(one.mass or 0.0 for one in (part, *on_it)), system)
    return SaidChange(change, f"{name} on {where}", "Add", short, short, mass, f"on {where}")


def _is_block(change: Change, before: Analysis, after: Analysis) -> bool:
    """Whether a change puts on a block of counterweight that has to be found: no part of the kit."""
    return change.kind is ChangeKind.PUT_ON and after.build.placed(change.placed_id).part_id not in before.assembly.kit


def _where(placed: Placed, build: Build, kit: Kit) -> str:
    mount = mount_of(placed, build, kit)
    if placed.parent is None or mount is None:
        return "the body"
    return mid_sentence(mount_name(FreeMount(placed.parent, mount), build, kit))


def move_of(placed_id: str, setting: float, analysis: Analysis, system: System) -> Move:
    """Return a slide's move in words."""
    slider, now = slider_of(analysis, placed_id), analysis.build.placed(placed_id).setting
    since = figure(now - slider.low, Kind.LENGTH, system, unit=False)
    to = figure(setting - slider.low, Kind.LENGTH, system)
    far = figure(abs(setting - now), Kind.LENGTH, system)
    return Move(slider.name, slider.way(setting - now), far, since, to)


def _turn_words(change: Change, before: Analysis, after: Analysis) -> tuple[str, str, str]:
    """Return what is turned, which way its middle goes and how far: "back", "30°"."""
    at = [float(one.positions.centre[index_of(one, change.placed_id), 0]) for one in (before, after)]
    name = short_name(before.assembly.parts[index_of(before, change.placed_id)].name)
    by = number(math.degrees(abs(change.end - change.start)), 0)
    return name, "forward" if at[1] > at[0] else "back", f"{by}°"


# All together


def title_of(said: Sequence[SaidChange], before: Analysis, after: Analysis, full: bool, system: System) -> str:
    """Return what a way is called: at most two of its changes, then how many more.

    Blocks of counterweight are one sum. What goes along with another is not named.
    """
    phrases = phrases_of(said, before, after, system)
    if not phrases:
        return "Nothing to change"
    slides = [one.change.placed_id for one in phrases if one.change.kind is ChangeKind.SLIDE]
    only_slides = len(slides) == len(phrases)
    own = text_of(after).slides_title(len(slides)) if only_slides and full else ""
    if own and _all_scales(after, slides):
        return own
    verb = phrases[0].verb
    words = [phrases[0].short]
    words += [one.short if one.verb == verb else f"{one.verb.lower()} {one.short}" for one in phrases[1:_NAMED]]
    more = len(phrases) - len(words)
    all_words = " and ".join(words) + (f" and {more} more" if more else "")
    if only_slides and after.support.in_hands and all(_carries_hands(after, one) for one in slides):
        return f"{text_of(after).moves_title(after)}: {all_words}"
    return f"{verb} {all_words}"


#: What is hung elsewhere so that the screen is seen.
_OF_THE_SCREEN = frozenset({Category.MONITOR, Category.ARM, Category.HANDLE})


def _for_the_eye(change: Change, after: Analysis) -> bool:
    kit, build = after.assembly.kit, after.build
    return change.kind is ChangeKind.MOVE and kit[build.placed(change.placed_id).part_id].category in _OF_THE_SCREEN


def phrases_of(said: Sequence[SaidChange], before: Analysis, after: Analysis, system: System) -> tuple[SaidChange, ...]:
    """Return what is done, each thing once, the weightiest first.

    Blocks of counterweight are one sum, grips that are turned alike are one; what goes along with another is left out.
    """
    blocks = [one for one in said if _is_block(one.change, before, after)]
    rest = [one for one in said if one not in blocks and one.verb]
    found = blocks[:1]
    if len(blocks) > 1:
        parts = [after.assembly.kit[after.build.placed(one.change.placed_id).part_id] for one in blocks]
        total = figure(sum(part.mass or 0.0 for part in parts), Kind.MASS, system)
        where = f"in {len(blocks)} places"
        short = f"{total} of counterweight {where}"
        found[0] = replace(blocks[0], says=short, short=short, amount=total, where=where)
    turned: dict[tuple[str, str], list[SaidChange]] = {}
    for one in rest:
        if one.change.kind is ChangeKind.TURN:
            turned.setdefault((one.what, one.amount), []).append(one)
    # What goes elsewhere for the screen's sake is not what the way is about.
    for one in sorted(rest, key=lambda one: _for_the_eye(one.change, after)):
        alike = turned.get((one.what, one.amount), []) if one.change.kind is ChangeKind.TURN else []
        if len(alike) < 2:
            found.append(replace(one, what=f"the {one.short.partition(' by ')[0]}") if alike else one)
        elif alike[0] is one:
            grips = "both grips" if len(alike) == 2 else "the grips"
            says, short = f"{grips} turned {one.what} by {one.amount}", f"{grips} {one.what} by {one.amount}"
            found.append(replace(one, says=says, short=short, what=f"{grips} {one.what}"))
    return tuple(found)


def deed_of(said: Sequence[SaidChange], before: Analysis, after: Analysis, cost: str, system: System) -> Deed:
    """Return a way at a glance; `cost` says how long it takes and what it adds."""
    phrases = phrases_of(said, before, after, system)
    if not phrases:
        return Deed("Nothing to change", "", "", "")
    first, then = phrases[0], phrases[1:]
    return Deed(f"{first.verb} {first.what}", first.amount, first.where, cost, tuple(one.says for one in then))


def _all_scales(after: Analysis, slides: Sequence[str]) -> bool:
    """Whether all that slides are scales of the support itself."""
    case = case_of(after)
    own = (after.support.scales(case) if case is not None else None) or frozenset()
    return set(slides) <= own


def _carries_hands(after: Analysis, placed_id: str) -> bool:
    """Whether a slide carries what the rig is held by, a hand or the pad, and not the camera."""
    equilibrium, assembly = after.equilibrium, after.assembly
    if equilibrium is None:
        return False
    holds = [equilibrium.holder, *(place.part for place in equilibrium.pose.places)]
    j = next((j for j, i in enumerate(assembly.slide_parts) if after.build.parts[i].id == placed_id), None)
    camera = assembly.sensor is not None and j is not None and assembly.carries(j, assembly.sensor)
    return j is not None and not camera and any(assembly.carries(j, part) for part in holds)


def effort_words(changes: Sequence[Change]) -> str:
    """Return how much work a way is: "3 slides, 45 s"."""
    slides = all(one.kind is ChangeKind.SLIDE for one in changes)
    count = len(changes)
    what = "slide" if slides else "change"
    seconds = 5 * math.ceil(sum(one.seconds for one in changes) / 5.0 - 1e-9)
    time = f"{seconds} s" if seconds < 115 else minutes(seconds)
    return f"{count} {what}{'s' if count != 1 else ''}, {time}"
