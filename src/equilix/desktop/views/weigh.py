"""The Weigh view: the kit as a table, fast entry, and below it part, bench, weighings and how sure it all is."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QItemSelection, QObject, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QBoxLayout,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from equilix.core.analysis import Analysis
from equilix.core.doubt.gauges import gauges_of
from equilix.core.errors import EditError
from equilix.core.kit.kinds import odd_mass
from equilix.core.kit.parts import Category, HowKnown
from equilix.core.limits import MAX_MASS
from equilix.core.measurement.advice import Advice, Task, weigh_next
from equilix.core.measurement.bench import Setup
from equilix.core.units import Kind
from equilix.desktop.jobs.errand import run_errand
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, text_scale
from equilix.desktop.views.bench_session import BenchSession
from equilix.desktop.widgets.advice_card import AdviceCard
from equilix.desktop.widgets.bench_panel import BenchPanel
from equilix.desktop.widgets.glyphs import paint_category
from equilix.desktop.widgets.kit_table import KitTable
from equilix.desktop.widgets.odds_panel import OddsPanel
from equilix.desktop.widgets.panel import OneLine, Rule, SidePanel, label
from equilix.desktop.widgets.part_panel import PartPanel
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.widgets.tabs import WordRow
from equilix.desktop.widgets.weighings_panel import WeighingsPanel
from equilix.desktop.workspace import Workspace
from equilix.document.edits.kit import AddParts
from equilix.document.part_shapes import guess_category
from equilix.io.files import Stopped
from equilix.present.balance.advice import AdviceRow, advice_rows, after_words, gauge_words, weigh_verdict
from equilix.present.balance.odds_view import odds_figures, odds_verdict
from equilix.present.kit.table import kind_words, new_part, odd_words, parse_mass, paste, summary
from equilix.present.supports.text import FigureRow, Verdict
from equilix.present.units import System, doubt, figure, readable, unit_of

if TYPE_CHECKING:
    from equilix.desktop.widgets.start_page import StartPage

PART, BENCH, WEIGHINGS, ODDS = "part", "bench", "weighings", "odds"
_SETUP_OF = {
    (Task.PART_MASS, 0): Setup.WHOLE,
    (Task.RIG_MASS, 0): Setup.WHOLE,
    (Task.RIG_CG, 0): Setup.FORE_AFT,
    (Task.PART_CG, 0): Setup.FORE_AFT,
    (Task.PART_CG, 1): Setup.SIDEWAYS,
    (Task.PART_CG, 2): Setup.HEIGHT,
}


#: What a newcomer does, in the order of the work.
_THE_WAY = (
    "Weigh: list your parts. Name, mass, Enter.",
    "Build (Alt+2): Enter starts a build. Each further Enter puts the next part on.",
    "Balance (Alt+3): P shows the next way, Enter applies it.",
    "Carry (Alt+4) shows how long you can hold it.",
    "Print: Ctrl+P makes the build sheet.",
)


#: Of the height, what the table takes of the room until somebody pulls the line between.
_TABLE_SHARE = 0.6


class WeighView(QWidget):
    """Lists the kit, takes new parts in, and weighs them."""

    catalogue_wanted = Signal()
    open_wanted = Signal()
    import_wanted = Signal()
    scale_wanted = Signal(bool)
    starter_wanted = Signal(object)

    def __init__(self, workspace: Workspace, panel: SidePanel, session: BenchSession, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.panel = panel
        self.session = session
        self.head = QWidget(self)
        self.splitter = QSplitter(Qt.Orientation.Vertical, self)
        self._upper = QWidget(self.splitter)
        self.below = QWidget(self.splitter)
        self.stack = QStackedWidget(self.below)
        self.table = KitTable(workspace, self._upper)
        self.part_panel = PartPanel(workspace, self.stack)
        self.bench = BenchPanel(workspace, session, self.stack)
        self.weighings = WeighingsPanel(workspace, self.stack)
        self.odds = OddsPanel(workspace, self.stack)
        self.advice: tuple[AdviceRow, ...] = ()
        self.cards: list[AdviceCard] = []
        self.gauge_box: QComboBox | None = None
        self.title_note = OneLine("ink3")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a part   Ctrl F")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("Find a part")
        self.name_field = QLineEdit()
        self.mass_field = QLineEdit()
        self.size_field = QLineEdit()
        self.name_field.setPlaceholderText("New part: name")
        self.how_note = label(
            "Enter adds it. W, S or E after the mass: weighed, maker’s sheet, estimated", 12.5, 400, "ink3"
        )
        self.kind_box = QComboBox()
        self.kind_box.setAccessibleName("Its kind")
        self.kind_box.addItem("kind: from its name", None)
        for category in Category:
            self.kind_box.addItem(kind_words(category, ""), category.value)
        set_tip(self.kind_box, "The kind follows from the name. Choose another if it is wrong")
        self.problem = label("", 13, 500, "fwdT", wrap=True)
        self._asked: tuple[str, str, str] | None = None  # what was typed when it was asked about
        self.problem.hide()
        for field, name in (
            (self.name_field, "Name of the new part"),
            (self.mass_field, "Its mass"),
            (self.size_field, "Its size"),
        ):
            field.setAccessibleName(name)
        self._lay_out()
        self._connect()

    @cached_property
    def start_page(self) -> StartPage:
        """How to begin: made for the first empty book."""
        from equilix.desktop.widgets.start_page import StartPage

        page = StartPage(self._upper)
        page.starter_chosen.connect(self.starter_wanted)
        page.import_wanted.connect(self.import_wanted)
        page.open_wanted.connect(self.open_wanted)
        page.catalogue_wanted.connect(self.catalogue_wanted)
        page.entry_wanted.connect(self.focus_entry)
        self._above.insertWidget(0, page, 1)
        return page

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 0, 24, 0)
        layout.setSpacing(0)
        head = QHBoxLayout(self.head)
        head.setContentsMargins(0, 7, 0, 5)
        head.setSpacing(10)
        head.addWidget(label("Kit", 16, 600))
        head.addWidget(self.title_note, 1)
        self.filters = WordRow((("all", "All"), ("build", "On build"), ("guessed", "Estimated")), self.head)
        self.filter_buttons = self.filters.buttons
        head.addWidget(self.filters)
        self.search.setMaximumWidth(round(190 * text_scale()))
        self.search.setMinimumWidth(90)
        head.addWidget(self.search)
        layout.addWidget(self.head)
        self._above = above = QVBoxLayout(self._upper)
        above.setContentsMargins(0, 0, 0, 0)
        above.setSpacing(0)
        above.addWidget(self.table, 1)
        above.addWidget(Rule())
        above.addLayout(self._entry_row())
        self.problem.setContentsMargins(36, 0, 0, 6)
        above.addWidget(self.problem)
        below = QVBoxLayout(self.below)
        below.setContentsMargins(0, 0, 0, 0)
        below.setSpacing(4)
        below.addWidget(Rule())
        self.tab_row = tabs = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        tabs.setContentsMargins(0, 5, 0, 2)
        words = (("part", "Part"), ("bench", "Bench"), ("weighings", "Weighings"), ("odds", "How certain"))
        self.tabs = WordRow(words, self.below)
        self.tab_note = OneLine("ink3")
        tabs.addWidget(self.tabs)
        tabs.setSpacing(16)
        tabs.addWidget(self.tab_note, 1)
        tabs.addWidget(self.bench.bar, 100)
        below.addLayout(tabs)
        for widget in (self.part_panel, self.bench, self.weighings, self.odds):
            self.stack.addWidget(widget)
        below.addWidget(self.stack, 1)
        self.splitter.setChildrenCollapsible(False)
        self.splitter.setHandleWidth(3)
        self.splitter.setStretchFactor(0, 50)
        self.splitter.setStretchFactor(1, 50)
        self.divided_by_hand = False
        self.splitter.splitterMoved.connect(self._divide_by_hand)
        layout.addWidget(self.splitter, 1)

    def _entry_row(self) -> QHBoxLayout:
        entry = QHBoxLayout()
        entry.setContentsMargins(0, 5, 0, 6)
        entry.setSpacing(8)
        self.entry_glyph = _EntryGlyph(self)
        entry.addWidget(self.entry_glyph)
        for field, width, stretch in ((self.name_field, 220, 4), (self.mass_field, 120, 2), (self.size_field, 170, 3)):
            field.setMinimumWidth(60)
            field.setMaximumWidth(round(width * text_scale()))
            entry.addWidget(field, stretch)
        self.kind_box.setMinimumWidth(round(118 * text_scale()))
        entry.addWidget(self.kind_box)
        self.how_note.setMinimumWidth(0)
        entry.addWidget(self.how_note, 3)
        return entry

    def _connect(self) -> None:
        self.search.textChanged.connect(self._filter)
        self.search.installEventFilter(self)
        self.filters.chosen.connect(lambda _key: self._filter())
        self.table.entry_wanted.connect(self.focus_entry)
        self.table.pasted.connect(self.paste)
        self.table.bench_wanted.connect(self.to_bench)
        self.table.selectionModel().currentRowChanged.connect(self._choose)
        self.table.selectionModel().selectionChanged.connect(self._select)
        self.tabs.chosen.connect(self.show_tab)
        self.bench.scale_wanted.connect(self.scale_wanted)
        self.bench.stored.connect(self._after_storing)
        self.weighings.reconciled.connect(self._fill_panel)
        self.odds.changed.connect(self._fill_panel)
        self.name_field.textChanged.connect(self._propose_kind)
        self.kind_box.activated.connect(lambda _index: self.entry_glyph.update())
        for field in (self.name_field, self.mass_field, self.size_field):
            field.returnPressed.connect(self.add_entry)
            field.textChanged.connect(self._no_problem)

    # Showing

    @property
    def main_widget(self) -> QWidget:
        """What takes the keyboard when the room is entered: the entry row of an empty book."""
        return self.name_field if self.starting else self.table

    @property
    def starting(self) -> bool:
        """Whether the book is empty, so that the start page is shown."""
        return not self.workspace.book.kit and not self.workspace.book.builds

    @property
    def dragging(self) -> bool:
        """Whether a part is being moved by the mouse."""
        return False

    @property
    def preview(self) -> QWidget:
        """The drawing of the chosen part."""
        return self.part_panel.preview

    def _divide(self) -> None:
        """Give table and panes their shares of the height, unless somebody has."""
        if not self.divided_by_hand:
            table = round(_TABLE_SHARE * self.height())
            self.splitter.setSizes([table, self.height() - table])

    def _divide_by_hand(self, _at: int, _number: int) -> None:
        """Leave table and panes as they were pulled."""
        self.divided_by_hand = True

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.how_note.setVisible(self.width() >= 700 * text_scale())
        self.title_note.setVisible(self.width() >= 640 * text_scale())
        # Once the line between has its new height.
        QTimer.singleShot(0, self._divide)
        narrow = self.width() < 740 * text_scale()
        self.tab_row.setDirection(QBoxLayout.Direction.TopToBottom if narrow else QBoxLayout.Direction.LeftToRight)
        self.tab_row.setSpacing(2 if narrow else 16)

    def show_tab(self, key: str) -> None:
        """Show part, bench, weighings or odds below the table."""
        self.tabs.choose(key)
        self.stack.setCurrentIndex((PART, BENCH, WEIGHINGS, ODDS).index(key))
        self._refresh_tab()
        self._fill_panel()

    def refresh(self) -> None:
        """Show the book as it is now."""
        system = self.workspace.system
        unit = unit_of(Kind.LENGTH, system)
        self.mass_field.setPlaceholderText(f"mass, {unit_of(Kind.MASS, system)}")
        self.size_field.setPlaceholderText(f"L × W × H, {unit}")
        book = self.workspace.book
        self.title_note.setText(summary(book, system))
        begun = self.below.isHidden() and not self.starting
        for widget in (self.head, self.table, self.below):
            widget.setVisible(not self.starting)
        if begun:
            # Once they are laid out.
            QTimer.singleShot(0, self._divide)
        if self.starting or "start_page" in vars(self):
            self.start_page.setVisible(self.starting)
        self._counts()
        self.table.restyle()
        self._filter()
        self._refresh_tab()
        self._fill_panel()

    def _refresh_tab(self) -> None:
        if self.tabs.key == PART:
            self.part_panel.refresh()
        elif self.tabs.key == BENCH:
            self.bench.follow(self.table.selected_parts())
            self.bench.refresh()
        elif self.tabs.key == WEIGHINGS:
            self.weighings.refresh()
        else:
            self.odds.refresh()
        notes = {
            PART: "to scale. Square: held here",
            BENCH: "",
            WEIGHINGS: "what weighings together tell of each part",
            ODDS: "plain ± and simulated rigs",
        }
        self.tab_note.setText(notes[self.tabs.key])
        self.tab_note.setVisible(self.tabs.key != BENCH)
        self.bench.bar.setVisible(self.tabs.key == BENCH)

    def _counts(self) -> None:
        book, build = self.workspace.book, self.workspace.build
        guessed = sum(part.mass is None or part.mass_known is HowKnown.GUESSED for part in book.kit)
        for key, text, count in (
            ("all", "All", len(book.kit)),
            ("build", "On build", len(build.parts) if build is not None else 0),
            ("guessed", "Estimated", guessed),
        ):
            self.filter_buttons[key].setText(f"{text} {count}")
        count = len(book.measurements)
        self.tabs.buttons[WEIGHINGS].setText(f"Weighings {count}" if count else "Weighings")

    def _filter(self) -> None:
        model = self.table.kit_model
        model.words = self.search.text()
        model.filter = self.filters.key
        self.filters.restyle()
        self.tabs.restyle()
        model.refresh()
        self._keep_row()
        self.table.viewport().update()

    def _keep_row(self) -> None:
        parts = self.table.kit_model.parts
        index = self.table.kit_model.row_of(self.workspace.kit_selected)
        if index is not None and self.table.currentIndex().row() != index:
            column = max(self.table.currentIndex().column(), 1)
            self.table.setCurrentIndex(self.table.kit_model.index(index, column))
        elif index is None and parts:
            self.table.setCurrentIndex(self.table.kit_model.index(0, 1))

    def _choose(self, *_ignored: object) -> None:
        row = self.table.currentIndex().row()
        parts = self.table.kit_model.parts
        self.workspace.kit_selected = parts[row].id if 0 <= row < len(parts) else ""
        if self.tabs.key == PART:
            self.part_panel.refresh()

    def _select(self, _on: QItemSelection, _off: QItemSelection) -> None:
        if self.tabs.key == BENCH:
            self._refresh_tab()

    # The panel at the right

    def _fill_panel(self) -> None:
        self.panel.begin()
        self.cards = []
        self.gauge_box = None
        if self.tabs.key == WEIGHINGS and self.weighings.model is not None and self.workspace.book.measurements:
            model = self.weighings.model
            self.panel.add_verdict(model.verdict)
            self.panel.add_figures(model.rows)
            self.panel.add_heading("Cautions")
            for remark in model.remarks:
                self.panel.add_text(remark)
        elif self.tabs.key == ODDS and self.odds.gauges is not None and self.odds.odds is not None:
            odds = self.odds.odds[self.odds.gauge]
            self.panel.add_verdict(odds_verdict(self.odds.gauges, odds, self.workspace.system))
            self.panel.add_figures(odds_figures(self.odds.gauges, odds, self.workspace.system))
            self.panel.add_text(
                "Bars: simulated rigs, blue-green within 95 %. Dashed: plain ±. Method: JCGM 101:2008.",
                "ink3",
            )
        else:
            self._fill_advice()
        self.panel.end()

    def _fill_advice(self) -> None:
        panel, system = self.panel, self.workspace.system
        book, analysis = self.workspace.book, self.workspace.analysis()
        if not book.kit:
            self._fill_empty()
            return
        gauge, found = self._advice(analysis)
        self.advice = advice_rows(found, analysis, gauge, system) if analysis is not None else ()
        panel.add_verdict(weigh_verdict(found, analysis, gauge))
        panel.add_figures(self._figures(system))
        if self.advice and analysis is not None:
            panel.add_heading("Weigh this next", "most certainty a minute first")
            self._add_gauge_box(gauge)
            for number, row in enumerate(self.advice, 1):
                card = AdviceCard(number, row)
                card.chosen.connect(self.follow_advice)
                self.cards.append(card)
                panel.add_widget(card)
                panel.add_rule()
            panel.add_text(after_words(found, analysis, gauge, system), "ink2")
        panel.add_text(
            (
                "± is about 95 %. Common practice: ± 4 % of the mass by maker’s sheet, ± 30 % estimated. Type "
                "your own ± if you know better."
            ),
            "ink3",
        )

    def _advice(self, analysis: Analysis | None) -> tuple[str, tuple[Advice, ...]]:
        gauges = gauges_of(analysis) if analysis is not None else None
        if analysis is None or gauges is None:
            return self.workspace.gauge, ()
        gauge = self.workspace.gauge if self.workspace.gauge in gauges.offered else gauges.offered[0]
        return gauge, weigh_next(analysis, gauges, gauge, self.session.scale)

    def _add_gauge_box(self, gauge: str) -> None:
        """Add the list from which the figure is chosen whose doubt counts."""
        analysis = self.workspace.analysis()
        gauges = gauges_of(analysis) if analysis is not None else None
        if gauges is None:
            return
        box = QComboBox()
        box.setAccessibleName("Figure whose ± counts")
        box.addItems(list(gauges.offered))
        box.setCurrentIndex(gauges.offered.index(gauge))
        box.activated.connect(lambda index: self.workspace.choose_gauge(gauges.offered[index]))
        row = QHBoxLayout()
        row.setContentsMargins(24, 0, 24, 6)
        row.addWidget(label("for the", 13, 400, "ink2"))
        row.addWidget(box, 1)
        self.gauge_box = box
        self.panel.rows.addLayout(row)

    def _fill_empty(self) -> None:
        panel = self.panel
        panel.add_verdict(Verdict("The kit is empty.", "Add your first part, or typical ones."))
        panel.add_heading("The steps to a build sheet")
        for number, words in enumerate(_THE_WAY, 1):
            panel.add_text(f"{number}  {words}", "ink", 14)
        if self.starting:
            return
        holder = QVBoxLayout()
        holder.setContentsMargins(24, 6, 24, 6)
        holder.setSpacing(8)
        for words, signal in (
            ("Add typical parts…", self.catalogue_wanted),
            ("Import a table…", self.import_wanted),
            ("Open a book…", self.open_wanted),
        ):
            button = QPushButton(words)
            button.clicked.connect(signal)
            holder.addWidget(button)
        panel.rows.addLayout(holder)

    def _figures(self, system: System) -> tuple[FigureRow, ...]:
        kit = self.workspace.book.kit
        known = [part.mass_known for part in kit if part.mass is not None]
        rows = [
            FigureRow("Parts weighed", f"{known.count(HowKnown.WEIGHED)} of {len(kit)}", ""),
            FigureRow("From the maker’s sheet", str(known.count(HowKnown.SHEET)), "± 4 %"),
            FigureRow("Estimated", str(known.count(HowKnown.GUESSED)), "± 30 %"),
        ]
        without = len(kit) - len(known)
        if without:
            rows.append(FigureRow("Mass not known", str(without), ""))
        analysis = self.workspace.analysis()
        if analysis is not None and analysis.body is not None and analysis.spread is not None:
            rows.append(
                FigureRow(
                    "Mass of this build",
                    figure(analysis.body.mass, Kind.MASS, system),
                    doubt(analysis.spread.mass, Kind.MASS, system),
                )
            )
            rows += gauge_words(analysis, system)
        return tuple(rows)

    # Acting

    def to_bench(self) -> None:
        """Lay the chosen parts on the bench."""
        parts = self.table.selected_parts()
        if not parts:
            return
        self.show_tab(BENCH)
        self.bench.bring("part" if len(parts) == 1 else "parts", tuple(part.id for part in parts))
        self.bench.main_widget.setFocus()

    def list_kit(self, key: str, part_id: str = "") -> None:
        """List what of the kit the filter `key` lets through, whatever was sought, with the part `part_id` chosen."""
        if part_id:
            self.workspace.kit_selected = part_id
        self.filters.choose(key)
        self.search.clear()
        self._filter()

    def follow_advice(self, index: int) -> None:
        """Lay what an advice is of on the bench, ready to be measured in its way."""
        row = self.advice[index]
        if row.advice is None:
            return
        setup = _SETUP_OF[row.advice.task, row.advice.axis]
        if row.part_id:
            self.list_kit("all", row.part_id)
        self.show_tab(BENCH)
        self.bench.bring("part" if row.part_id else "rig", (row.part_id,) if row.part_id else (), setup)
        self.bench.main_widget.setFocus()

    def _after_storing(self) -> None:
        """Go on with the next part of the list."""
        if self.session.choice[0] == "part":
            row = self.table.currentIndex().row() + 1
            if row < self.table.kit_model.rowCount():
                self.table.setCurrentIndex(self.table.kit_model.index(row, self.table.currentIndex().column()))
        self._refresh_tab()

    def focus_entry(self) -> None:
        """Put the cursor in the entry row."""
        self.name_field.setFocus()

    @property
    def entry_kind(self) -> Category | None:
        """The kind chosen for the new part, None for the one that its name speaks of."""
        value = self.kind_box.currentData()
        return Category(value) if value is not None else None

    def _propose_kind(self, name: str) -> None:
        words = name.strip()
        said = kind_words(guess_category(words), words) if words else "from its name"
        self.kind_box.setItemText(0, f"kind: {said}")
        self.entry_glyph.update()

    def _no_problem(self) -> None:
        self.problem.hide()

    def add_entry(self) -> None:
        """Add the part in the entry row and begin the next; say what is wrong and keep it otherwise."""
        try:
            part = new_part(
                self.workspace.book,
                self.name_field.text(),
                self.mass_field.text(),
                self.size_field.text(),
                self.workspace.system,
                category=self.entry_kind,
            )
        except EditError as error:
            self._say_problem(readable(str(error), self.workspace.system))
            return
        question = odd_words(part, None, self.workspace.system)
        typed = (self.name_field.text(), self.mass_field.text(), self.size_field.text())
        if question and typed != self._asked:
            self._asked = typed
            self._say_problem(question, asks=part.mass is not None and odd_mass(part.category, part.mass))
            return
        self._asked = None
        if self.workspace.apply(AddParts((part,), self.workspace.stamp())):
            for field in (self.name_field, self.mass_field, self.size_field):
                field.clear()
            self.kind_box.setCurrentIndex(0)
            self.workspace.kit_selected = part.id
            self._keep_row()
            self.table.scrollToBottom()
            self.name_field.setFocus()

    def _say_problem(self, words: str, asks: bool = False) -> None:
        """Say below the entry row what is wrong, and put the cursor in the field that it is about."""
        self.problem.setText(words)
        self.problem.show()
        name, mass, size = self.name_field, self.mass_field, self.size_field
        wrong = size if size.text().strip() and name.text().strip() else name
        try:
            value, _ = parse_mass(mass.text(), self.workspace.system)
        except EditError:
            wrong = mass
        else:
            # A mass that can be read may be one that no part has, or an odd one that is asked about.
            if value is not None and (asks or not 0.0 < value <= MAX_MASS):
                wrong = mass
        wrong.setFocus()
        wrong.selectAll()

    def paste(self, text: str) -> None:
        """Add the parts in rows pasted from a spreadsheet; say which rows could not be read."""
        if not text.strip():
            return
        book, system = self.workspace.book, self.workspace.system
        try:
            pasted = run_errand("Reading the copied rows", lambda _go_on: paste(book, text, system), self)
        except Stopped:
            return
        if pasted.parts:
            self.workspace.apply(AddParts(pasted.parts, self.workspace.stamp()))
            self.workspace.said.emit(f"Pasted {len(pasted.parts)} parts")
        if pasted.problems:
            more = f" {len(pasted.problems) - 3} more rows could not be read." if len(pasted.problems) > 3 else ""
            self.workspace.refused.emit(" ".join(pasted.problems[:3]) + more)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.search and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() == Qt.Key.Key_Down:
                self.table.setFocus()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.search.clear()
                self.table.setFocus()
                return True
        return False


class _EntryGlyph(QWidget):
    """A plus, or the glyph of the kind that the typed name speaks of."""

    def __init__(self, view: WeighView) -> None:
        super().__init__()
        self._view = view
        self.setFixedSize(28, 24)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        words = self._view.name_field.text().strip()
        if words:
            kind = self._view.entry_kind or guess_category(words)
            paint_category(painter, kind, QRectF(0, 0, 28, 24), "accent")
        else:
            painter.setPen(colors()["accent"])
            painter.drawLine(8, 12, 20, 12)
            painter.drawLine(14, 6, 14, 18)
        painter.end()
