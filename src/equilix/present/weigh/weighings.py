"""Weighings and what they say of the parts, in words and table cells."""

from __future__ import annotations

from msgspec import Struct

from equilix.core.kit.records import Measurement, Method, Quantity, Sensed
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.measurement.reconcile import SUSPICIOUS, Adjusted, Agreement, Fit, Reconciled
from equilix.core.units import Kind
from equilix.document.book import Book
from equilix.present.supports.text import FigureRow, Verdict
from equilix.present.units import System, number, unit_of
from equilix.present.weigh.bench_view import QUANTITY_WORDS, exact, plus_minus
from equilix.present.words import mid_sentence

#: What may be on a part that its sheet does not count, by kind of part; common practice.
_FORGOTTEN = {
    "lens": "was an adapter, hood or cap not counted?",
    "body": "was a card, battery or cable not counted?",
    "battery": "was a plate not counted?",
    "battery plate": "was a clamp or cable not counted?",
    "monitor": "was a battery or bracket not counted?",
    "matte box": "was a filter or flag not counted?",
}


class WeighingRow(Struct, frozen=True):
    """One measurement: what was on the scale, its value, and how it fits."""

    measurement_id: str
    what: str
    how: str
    value: str
    fit: str
    used: bool
    suspect: bool
    spoken: str


class FigureLine(Struct, frozen=True):
    """One figure of a part: number in the reconciled list, and its cells."""

    index: int
    part_id: str
    name: str
    quantity: str
    belief: str
    measured: str
    value: str
    suspect: bool
    changes: bool


class WeighingsModel(Struct, frozen=True):
    """All that the list of weighings shows."""

    verdict: Verdict
    weighings: tuple[WeighingRow, ...]
    figures: tuple[FigureLine, ...]
    rows: tuple[FigureRow, ...]
    remarks: tuple[str, ...]


def _kind(quantity: Quantity) -> Kind:
    return Kind.MASS if quantity is Quantity.MASS else Kind.LENGTH


def _with_uncertainty(value: float, u: float, kind: Kind, system: System) -> str:
    return f"{exact(value, kind, system, unit=False)} {plus_minus(u, kind, system)}"


def change_words(amount: float, kind: Kind, system: System) -> str:
    """Return the size of a difference as people say it: grams rather than kilograms."""
    if kind is Kind.MASS and system is System.METRIC:
        return f"{number(abs(amount) * 1000.0, 0)} g"
    return exact(abs(amount), kind, system)


def what_words(measurement: Measurement, book: Book) -> str:
    """Return the parts that were on the scale, or how many."""
    names = [book.part(part_id).name for part_id in measurement.part_ids]
    if len(names) <= 2:
        return " + ".join(names)
    for build in book.builds:
        if {placed.part_id for placed in build.parts} == set(measurement.part_ids):
            return f"Whole build {build.name}"
    return f"{names[0]} + {len(names) - 1} more"


def weighings_model(book: Book, found: Reconciled, system: System) -> WeighingsModel:
    """Return the tables and the verdict for the book's measurements."""
    b = len(found.figures)
    fits = {fit.measurement.id: (i, fit) for i, fit in enumerate(found.fits)}
    weighings = tuple(
        _weighing(m, book, fits[m.id][1] if m.id in fits else None, fits.get(m.id, (-1, None))[0] + b, found, system)
        for m in book.measurements
    )
    figures = tuple(_figure(i, adjusted, book, found, system) for i, adjusted in enumerate(found.figures))
    return WeighingsModel(
        _verdict(book, found, system), weighings, figures, _rows(book, found), _remarks(book, found, system)
    )


def _weighing(
    m: Measurement, book: Book, fit: Fit | None, index: int, found: Reconciled, system: System
) -> WeighingRow:
    kind = Kind.MASS if m.sensed is Sensed.MASS else Kind.LENGTH
    value = f"{exact(m.value, kind, system)}"
    if fit is None:
        words = "left out"
    elif abs(fit.normalised) >= SUSPICIOUS and abs(m.value - fit.expected) > COVERAGE * max(m.u, 1e-4):
        words = f"{change_words(m.value - fit.expected, kind, system)} {'more' if m.value > fit.expected else 'less'}"
    else:
        words = "fits"
    what = what_words(m, book)
    method = m.method.value if m.sensed is Sensed.MASS else f"CG, {m.method.value}"
    how = " · ".join(t for t in (method, m.date[5:] if m.date else "") if t)
    return WeighingRow(
        m.id,
        what,
        how,
        value,
        words,
        m.used,
        found.agreement is not Agreement.AGREES and index in found.suspects[:1],
        f"{what}, {value}, {method}, {words}",
    )


def _figure(i: int, adjusted: Adjusted, book: Book, found: Reconciled, system: System) -> FigureLine:
    belief = adjusted.belief
    kind = _kind(belief.quantity)
    part = book.part(belief.part_id)
    measured = "–"
    if adjusted.measured is not None:
        measured = exact(adjusted.measured[0], kind, system, unit=False)
    now = part.mass if belief.quantity is Quantity.MASS else None
    changes = now is None or abs(now - adjusted.value) > 0.02 * adjusted.u
    return FigureLine(
        i,
        part.id,
        part.name,
        "" if belief.quantity is Quantity.MASS else QUANTITY_WORDS[belief.quantity],
        _with_uncertainty(belief.value, belief.u, kind, system),
        measured,
        f"{_with_uncertainty(adjusted.value, adjusted.u, kind, system)} {unit_of(kind, system)}",
        i in found.suspects and found.agreement in (Agreement.DISAGREES, Agreement.CANNOT_TELL_WHICH),
        changes,
    )


def _verdict(book: Book, found: Reconciled, system: System) -> Verdict:
    match found.agreement:
        case Agreement.NOTHING:
            return Verdict("Nothing weighed yet.", "Put a part or the whole rig on the bench.")
        case Agreement.AGREES:
            count = len(found.fits)
            words = "One weighing" if count == 1 else f"All {count} weighings"
            return Verdict("It fits together.", f"{words} and the expected values agree within ±.")
        case Agreement.CANNOT_TELL_WHICH:
            return Verdict("Something is off.", _cannot_tell(book, found, system))
        case _:
            return _suspect_verdict(book, found, system)


def _suspect_verdict(book: Book, found: Reconciled, system: System) -> Verdict:
    first = found.suspects[0]
    if first >= len(found.figures):
        fit = found.fits[first - len(found.figures)]
        kind = Kind.MASS if fit.measurement.sensed is Sensed.MASS else Kind.LENGTH
        by = change_words(fit.error, kind, system)
        side = "high" if fit.error > 0.0 else "low"
        what = what_words(fit.measurement, book)
        return Verdict("A reading looks wrong.", f"{what}: probably {by} too {side}. Repeat it.")
    adjusted = found.figures[first]
    part = book.part(adjusted.belief.part_id)
    kind = _kind(adjusted.belief.quantity)
    by = change_words(adjusted.error, kind, system)
    name = mid_sentence(part.name.split(",")[0])
    if adjusted.belief.quantity is not Quantity.MASS:
        way = {
            Quantity.CG_X: ("further forward", "further back"),
            Quantity.CG_Y: ("more to the left", "more to the right"),
        }
        more, less = way.get(adjusted.belief.quantity, ("higher", "lower"))
        return Verdict(f"Check the {name}.", f"Its CG is probably {by} {more if adjusted.error > 0 else less}.")
    heavier = "heavier" if adjusted.error > 0.0 else "lighter"
    hint = _FORGOTTEN.get(part.category.value, "was something on it not counted?") if adjusted.error > 0.0 else ""
    hint = hint[:1].upper() + hint[1:]
    return Verdict(
        f"Check the {name}.", f"It is probably {by} {heavier} than {_source(adjusted, book)}. {hint}".strip()
    )


def _source(adjusted: Adjusted, book: Book) -> str:
    part = book.part(adjusted.belief.part_id)
    records = [r for r in part.records if r.quantity is adjusted.belief.quantity and r.value == adjusted.belief.value]
    known = records[-1].known if records else part.mass_known
    return {"sheet": "the maker’s sheet says", "guessed": "estimated", "weighed": "weighed before"}[known.value]


def _cannot_tell(book: Book, found: Reconciled, system: System) -> str:
    names = []
    for i in found.suspects:
        if i < len(found.figures):
            name = book.part(found.figures[i].belief.part_id).name.split(",")[0]
            if mid_sentence(name) not in names:
                names.append(mid_sentence(name))
    shown = ", ".join(names[:3]) + (f" or {len(names) - 3} others" if len(names) > 3 else "")
    first = found.suspects[0]
    error = found.figures[first].error if first < len(found.figures) else 0.0
    by = change_words(error, _kind(found.figures[first].belief.quantity), system) if error else ""
    return f"One of {shown} is {by} off. They were only weighed together. Weigh one alone.".strip()


def _rows(book: Book, found: Reconciled) -> tuple[FigureRow, ...]:
    if found.agreement is Agreement.NOTHING:
        return ()
    rows = [
        FigureRow("Weighings counted", str(len(found.fits)), ""),
        FigureRow("Misfit, χ²", number(found.chi_square, 1), "", f"{found.redundancy} is usual"),
        FigureRow("Chance of a misfit this large", _chance(found.chance), ""),
    ]
    for scale_id, (gain, u) in found.gains.items():
        sign = "high" if gain > 0.0 else "low"
        rows.append(
            FigureRow(
                f"{book.scales[scale_id].name}",
                f"{abs(gain) * 100.0:.2f} % {sign}",
                f"± {200.0 * u:.2f} %",
            )
        )
    return tuple(rows)


def _chance(chance: float) -> str:
    if chance < 0.001:
        return "under 1 in 1000"
    if chance < 0.1:
        return f"1 in {round(1.0 / chance)}"
    return f"{100.0 * chance:.0f} %"


def _remarks(book: Book, found: Reconciled, system: System) -> tuple[str, ...]:
    """Return what could hide: the figures in which an error would go unseen the longest."""
    if found.agreement is Agreement.NOTHING:
        return ()
    masses = [f for f in found.figures if f.belief.quantity is Quantity.MASS and f.hidden < 1e6]
    remarks = []
    blind = [f for f in found.figures if f.belief.quantity is Quantity.MASS and not f.hidden < 1e6]
    if masses:
        worst = max(masses, key=lambda f: f.hidden)
        name = mid_sentence(book.part(worst.belief.part_id).name.split(",")[0])
        remarks.append(f"An error below {change_words(worst.hidden, Kind.MASS, system)} in the {name} would not show.")
    if blind:
        remarks.append(f"{len(blind)} masses can’t be tested. Only these weighings give them.")
    direct = [fit for fit in found.fits if fit.measurement.method is Method.RECONCILED]
    if direct:
        remarks.append("Values reconciled before count as expected.")
    remarks.append("Accept sets the part to the reconciled value. Ctrl+Z takes it back.")
    return tuple(remarks)
