"""What the panel says beside the Weigh view."""

from __future__ import annotations

from equilix.core.analysis import Analysis
from equilix.core.kit.parts import HowKnown
from equilix.core.measurement.advice import Advice
from equilix.core.uncertainty.montecarlo import Odds
from equilix.core.uncertainty.output_model import OutputModel
from equilix.core.units import Kind
from equilix.document.book import Book
from equilix.present.balance.advice import advice_rows, after_words, output_words, weigh_verdict
from equilix.present.balance.odds_view import odds_figures, odds_verdict
from equilix.present.panel import Act, Advised, Block, Buttons, Choice, Figures, Heading, PanelModel, Words
from equilix.present.supports.text import FigureRow, Verdict
from equilix.present.units import System, figure, uncertainty
from equilix.present.weigh.weighings import WeighingsModel

OUTPUT, TYPICAL, IMPORT, OPEN = "output", "typical", "import", "open"
#: What a newcomer does, in the order of the work.
_STEPS = (
    "Weigh: list your parts. Name, mass, Enter.",
    "Build (Alt+2): Enter starts a build. Each further Enter puts the next part on.",
    "Balance (Alt+3): P shows the next way, Enter applies it.",
    "Carry (Alt+4) shows how long you can hold it.",
    "Print: Ctrl+P makes the build sheet.",
)


def weighings_panel(model: WeighingsModel) -> PanelModel:
    """Return the panel of what weighings together tell."""
    return PanelModel(model.verdict, (Figures(model.rows), Heading("Cautions"), *map(Words, model.remarks)))


def odds_panel(outputs: OutputModel, odds: Odds, system: System) -> PanelModel:
    """Return the panel of simulated rigs."""
    words = "Bars: simulated rigs, blue-green within 95 %. Dashed: plain ±. Method: JCGM 101:2008."
    blocks = (Figures(odds_figures(outputs, odds, system)), Words(words, "ink3"))
    return PanelModel(odds_verdict(outputs, odds, system), blocks)


def no_kit_panel(starting: bool) -> PanelModel:
    """Return the panel of an empty kit; `starting` where the start page offers what to do."""
    blocks: list[Block] = [Heading("The steps to a build sheet")]
    blocks += [Words(f"{number}  {words}", "ink", 14.0) for number, words in enumerate(_STEPS, 1)]
    if not starting:
        acts = (((TYPICAL,), "Add typical parts…"), ((IMPORT,), "Import a table…"), ((OPEN,), "Open a book…"))
        blocks.append(Buttons(tuple(Act(key, words) for key, words in acts), stacked=True))
    return PanelModel(Verdict("The kit is empty.", "Add your first part, or typical ones."), tuple(blocks))


def advice_panel(
    book: Book,
    analysis: Analysis | None,
    outputs: OutputModel | None,
    output: str,
    found: tuple[Advice, ...],
    system: System,
) -> PanelModel:
    """Return the panel of what to weigh next, for the `output` whose uncertainty counts."""
    blocks: list[Block] = [Figures(_figures(book, analysis, system))]
    if found and analysis is not None and outputs is not None:
        blocks += [
            Heading("Weigh this next", "most certainty a minute first"),
            Choice((OUTPUT,), "for the", outputs.offered, outputs.offered.index(output), "Figure whose ± counts"),
            Advised(advice_rows(found, analysis, output, system), "Lay it on the bench"),
            Words(after_words(found, analysis, output, system)),
        ]
    words = (
        "± is about 95 %. Common practice: ± 4 % of the mass by maker’s sheet, ± 30 % estimated. Type your own ± if "
        "you know better."
    )
    blocks.append(Words(words, "ink3"))
    return PanelModel(weigh_verdict(found, analysis, output), tuple(blocks))


def _figures(book: Book, analysis: Analysis | None, system: System) -> tuple[FigureRow, ...]:
    known = [part.mass_known for part in book.kit if part.mass is not None]
    rows = [
        FigureRow("Parts weighed", f"{known.count(HowKnown.WEIGHED)} of {len(book.kit)}", ""),
        FigureRow("From the maker’s sheet", str(known.count(HowKnown.SHEET)), "± 4 %"),
        FigureRow("Estimated", str(known.count(HowKnown.GUESSED)), "± 30 %"),
    ]
    without = len(book.kit) - len(known)
    if without:
        rows.append(FigureRow("Mass not known", str(without), ""))
    if analysis is not None and analysis.body is not None and analysis.spread is not None:
        mass, pm = figure(analysis.body.mass, Kind.MASS, system), uncertainty(analysis.spread.mass, Kind.MASS, system)
        rows += [FigureRow("Mass of this build", mass, pm), *output_words(analysis, system)]
    return tuple(rows)
