"""What the printed build sheet says."""

from __future__ import annotations

from msgspec import Struct

from equilix.core.analysis import Analysis, FindingKind
from equilix.core.assembly.build import Operator
from equilix.core.assembly.fit import step_of
from equilix.core.assembly.mounts import mount_of
from equilix.core.kit.parts import Connection
from equilix.core.kit.records import HowKnown, Quantity
from equilix.core.kit.uncertainty import whole_mass_uncertainty
from equilix.core.units import Kind
from equilix.document.book import Book
from equilix.document.provenance import latest
from equilix.present.assembly.build_view import build_model
from equilix.present.balance.panel import BalanceModel, balance_model
from equilix.present.cautions import cautions_of
from equilix.present.drawing.rig_drawing import letter
from equilix.present.drawing.scales import SlideScale, scale_words
from equilix.present.kit.table import HOW_WORDS
from equilix.present.lens_marks import LensSheet, lens_sheet
from equilix.present.supports import text_of
from equilix.present.supports.text import own_scale_of
from equilix.present.units import System, figure, uncertainty
from equilix.present.words import slider_of

#: What the part sits on that all others hang on.
_FIRST = "–"


class SheetRow(Struct, frozen=True):
    """One part: letter, name, mass with its U, how known, what it sits on and its mark there; `where` in a sentence.

    `datum` says from which end of its way the mark counts, "" for a turn or a joint that does not slide.
    """

    letter: str
    name: str
    mass: str
    uncertainty: str
    how: str
    sits_on: str
    mark: str
    where: str = ""
    datum: str = ""


class SheetModel(Struct, frozen=True):
    """All text of the build sheet."""

    title: str
    subtitle: str
    balance: BalanceModel
    rows: tuple[SheetRow, ...]
    steps: tuple[tuple[str, tuple[str, ...], str], ...]  # name, what to do, balance so far
    cautions: tuple[str, ...]
    guesses: str
    lenses: LensSheet | None


#: Cautions that stand on every sheet; common practice and the rules that come first.
STANDING_CAUTIONS = (
    ("Before you let go: one hand near the rig, feet apart, nobody below. Lock every clamp and tug at it."),
    "The limits of makers, work safety and battery carriers come first.",
    "Body figures are estimates for planning, not medical advice. Stop when it hurts.",
)


def sheet_model(book: Book, analysis: Analysis, operator: Operator, system: System) -> SheetModel:
    """Return the sheet for one analysed build worn by `operator`."""
    balance = balance_model(analysis, operator, system)
    build = analysis.build
    model = build_model(analysis, book, system)
    rows = tuple(_row(book, analysis, i, system) for i in range(len(build.parts)))
    used = set(_steps_of(analysis).values())
    noun = text_of(analysis).noun
    steps = tuple(
        (
            step.name,
            tuple(_doings(book, analysis, number, system)),
            step.mass_text + (f", CG {step.ahead_text} from {noun}" if step.ahead_text else ""),
        )
        for number, step in enumerate(model.steps)
        if number in used
    )
    # What slides on the support itself is set last, with all that it holds.
    scale = own_scale_of(analysis)
    if scale is not None and steps:
        name, doings, so_far = steps[-1]
        mark = f"{scale.name} to mark {figure(scale.setting, Kind.LENGTH, system, sign=True)}"
        steps = (*steps[:-1], (name, (*doings, mark), so_far))
    parts = analysis.assembly.parts
    guessed = [letter(i) for i, p in enumerate(parts) if p.mass is not None and p.mass_known is HowKnown.GUESSED]
    missing = [letter(i) for i, p in enumerate(parts) if p.mass is None]
    words = f"Estimated, weigh first: {', '.join(guessed)}." if guessed else ""
    if not guessed and not missing:
        words = "Every mass is weighed or from a maker’s sheet."
    words += _weighed_words(analysis)
    if missing:
        words += f" Left out, mass not known: {', '.join(missing)}."
    clashes = tuple(f"{title}: {words}" for title, words, _ in model.problems if title)
    found = cautions_of(analysis, operator, system)
    first = tuple(one.says for one in found if one.leads)
    # Clashes and slides past their ends are told with all that Build knows of them.
    in_build = (FindingKind.CLASH, FindingKind.OUT_OF_TRAVEL)
    others = tuple(one.says for one in found if not one.leads and one.kind not in in_build)
    return SheetModel(
        build.name,
        " · ".join(text for text in (book.title, build.note, f"operator: {operator.name}") if text),
        balance,
        rows,
        steps,
        (*first, *clashes, *others, text_of(analysis).closing, *STANDING_CAUTIONS),
        words.strip(),
        lens_sheet(analysis, book.parts, operator, system),
    )


def _weighed_words(analysis: Analysis) -> str:
    """Return when and by whom the parts were weighed last."""
    stamps = []
    for part in analysis.assembly.parts:
        record = latest(part, Quantity.MASS)
        if part.mass_known is HowKnown.WEIGHED and record is not None and record.stamp.date:
            stamps.append(record.stamp)
    if not stamps:
        return ""
    last = max(stamps, key=lambda stamp: stamp.date)
    by = f" by {last.by}" if last.by else ""
    return f" Last weighed {last.date}{by}."


def _row(book: Book, analysis: Analysis, i: int, system: System) -> SheetRow:
    part, placed = analysis.assembly.parts[i], analysis.build.parts[i]
    mount = mount_of(placed, analysis.build, book.parts)
    sits_on, mark, where, datum = _FIRST, "", "first", ""
    if placed.parent is not None and mount is not None:
        index = next(k for k, p in enumerate(analysis.build.parts) if p.id == placed.parent)
        place = f"{letter(index)}, {mount.name or mount.kind}"
        sits_on = f"under {place}" if placed.reversed else place
        where = sits_on if placed.reversed else f"on {place}"
        if mount.joint is not Connection.FIXED and mount.goes:
            turns = mount.joint is Connection.TURN
            scale = SlideScale(placed.id, "", 0, 1, 0, mount.low, mount.high, placed.setting, None, turns)
            mark = scale_words(scale, system)
            datum = "" if turns else f"from the {slider_of(analysis, placed.id).zero}"
    return SheetRow(
        letter(i),
        part.name,
        "mass not known" if part.mass is None else figure(part.mass, Kind.MASS, system),
        "" if part.mass is None else uncertainty(whole_mass_uncertainty(part), Kind.MASS, system),
        "" if part.mass is None else HOW_WORDS[part.mass_known],
        sits_on,
        mark,
        where,
        datum,
    )


def _steps_of(analysis: Analysis) -> dict[int, int]:
    """Return the step at which each part can go on: its own in the order of work, or that of what it sits on."""
    number = {placed.id: i for i, placed in enumerate(analysis.build.parts)}
    found: dict[int, int] = {}
    for i in analysis.build.from_root():
        parent = analysis.build.parts[i].parent
        own = step_of(analysis.assembly.parts[i].category)
        found[i] = own if parent is None else max(own, found[number[parent]])
    return found


def _doings(book: Book, analysis: Analysis, step: int, system: System) -> list[str]:
    doings = []
    steps = _steps_of(analysis)
    # Each after what it sits on, so that it can be followed with the parts in hand.
    for i in analysis.build.from_root():
        if steps[i] != step:
            continue
        row = _row(book, analysis, i, system)
        mark = f", mark {row.mark} {row.datum}".rstrip() if row.mark else ""
        doings.append(f"{row.letter} {row.name} {row.where}{mark}")
    return doings
