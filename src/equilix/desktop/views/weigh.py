"""The Weigh view: the kit as a table, fast entry, and below it part, bench, weighings and how sure it all is."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QItemSelection, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QWidget,
)

from equilix.core.kit.parts import HowKnown
from equilix.core.measurement.advice import Advice, Task, weigh_next
from equilix.core.measurement.bench import Setup
from equilix.core.uncertainty.output_model import output_model
from equilix.desktop.jobs.waiting import run_job
from equilix.desktop.views.bench_session import BenchSession
from equilix.desktop.views.weigh_page import WeighPage
from equilix.desktop.widgets.panel import SidePanel
from equilix.desktop.workspace import Workspace
from equilix.document.edits.kit import AddParts
from equilix.io.files import Stopped
from equilix.present.kit.table import paste, summary
from equilix.present.panel import Key, PanelModel
from equilix.present.weigh.side_panel import advice_panel, no_kit_panel, odds_panel, weighings_panel

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


class WeighView(WeighPage):
    """Lists the kit, takes new parts in, and weighs them."""

    catalogue_wanted = Signal()
    open_wanted = Signal()
    import_wanted = Signal()
    scale_wanted = Signal(bool)
    starter_wanted = Signal(object)

    def __init__(self, workspace: Workspace, panel: SidePanel, session: BenchSession, parent: QWidget) -> None:
        super().__init__(workspace, session, parent)
        self.panel = panel
        self.found: tuple[Advice, ...] = ()
        self._connect()

    @cached_property
    def start_page(self) -> StartPage:
        """How to begin: made for the first empty book."""
        from equilix.desktop.widgets.start_page import StartPage

        page = StartPage(self.workspace.operator, self.workspace.system, self._upper)
        page.starter_chosen.connect(self.starter_wanted)
        page.import_wanted.connect(self.import_wanted)
        page.open_wanted.connect(self.open_wanted)
        page.catalogue_wanted.connect(self.catalogue_wanted)
        page.entry_wanted.connect(self.focus_entry)
        self._above.insertWidget(0, page, 1)
        return page

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
        self.entry.added.connect(self._after_adding)

    # Showing

    @property
    def main_widget(self) -> QWidget:
        """What takes the keyboard when the room is entered: the entry row of an empty book."""
        return self.entry.name_field if self.starting else self.table

    @property
    def starting(self) -> bool:
        """Whether the book is empty, so that the start page is shown."""
        return not self.workspace.book.kit and not self.workspace.book.builds

    @property
    def dragging(self) -> bool:
        """Whether a part is being moved by the mouse."""
        return False

    def show_tab(self, key: str) -> None:
        """Show part, bench, weighings or odds below the table."""
        self.tabs.choose(key)
        self.stack.setCurrentIndex((PART, BENCH, WEIGHINGS, ODDS).index(key))
        self._refresh_tab()
        self._fill_panel()

    def refresh(self) -> None:
        """Show the book as it is now."""
        system = self.workspace.system
        self.entry.refresh()
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
            self.start_page.set_system(system)
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
        self.panel.show_model(self._panel_model(), self._act)

    def _panel_model(self) -> PanelModel:
        w = self.workspace
        if self.tabs.key == WEIGHINGS and self.weighings.model is not None and w.book.measurements:
            return weighings_panel(self.weighings.model)
        if self.tabs.key == ODDS and self.odds.outputs is not None and self.odds.odds is not None:
            return odds_panel(self.odds.outputs, self.odds.odds[self.odds.output], w.system)
        if not w.book.kit:
            return no_kit_panel(self.starting)
        analysis = w.analysis()
        outputs = output_model(analysis) if analysis is not None else None
        output, self.found = w.output, ()
        if analysis is not None and outputs is not None:
            output = w.output if w.output in outputs.offered else outputs.offered[0]
            self.found = weigh_next(analysis, outputs, output, self.session.scale)
        return advice_panel(w.book, analysis, outputs, output, self.found, w.system)

    def _act(self, key: Key) -> None:
        """Do what was chosen in the panel."""
        match key:
            case ("advice", number):
                self.follow_advice(int(number))
            case ("output", number):
                analysis = self.workspace.analysis()
                outputs = output_model(analysis) if analysis is not None else None
                if outputs is not None:
                    self.workspace.choose_output(outputs.offered[int(number)])
            case ("typical",):
                self.catalogue_wanted.emit()
            case ("import",):
                self.import_wanted.emit()
            case ("open",):
                self.open_wanted.emit()

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
        advice, analysis = self.found[index], self.workspace.analysis()
        if analysis is None:
            return
        part_id = analysis.assembly.parts[advice.part].id if advice.part is not None else ""
        if part_id:
            self.list_kit("all", part_id)
        self.show_tab(BENCH)
        setup = _SETUP_OF[advice.task, advice.axis]
        self.bench.bring("part" if part_id else "rig", (part_id,) if part_id else (), setup)
        self.bench.main_widget.setFocus()

    def _after_storing(self) -> None:
        """Go on with the next part of the list."""
        if self.session.choice[0] == "part":
            row = self.table.currentIndex().row() + 1
            if row < self.table.kit_model.rowCount():
                self.table.setCurrentIndex(self.table.kit_model.index(row, self.table.currentIndex().column()))
        self._refresh_tab()

    def _after_adding(self, part_id: str) -> None:
        self.workspace.kit_selected = part_id
        self._keep_row()
        self.table.scrollToBottom()

    def focus_entry(self) -> None:
        """Put the cursor in the entry row."""
        self.entry.name_field.setFocus()

    def paste(self, text: str) -> None:
        """Add the parts in rows pasted from a spreadsheet; say which rows could not be read."""
        if not text.strip():
            return
        book, system = self.workspace.book, self.workspace.system
        try:
            pasted = run_job("Reading the copied rows", lambda _go_on: paste(book, text, system), self)
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
