"""The Weigh view: the kit as a table, fast entry, and the chosen part drawn to scale."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from equilix.core.analyse import Analysis
from equilix.core.assembly.parts import HowKnown
from equilix.core.errors import EditError
from equilix.desktop.theme import colors, text_scale
from equilix.desktop.widgets.glyphs import paint_category
from equilix.desktop.widgets.kit_table import KitTable
from equilix.desktop.widgets.mount_table import MountTable
from equilix.desktop.widgets.panel import Rule, SidePanel, label
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.workspace import Workspace
from equilix.document.edits.kit import AddParts, DuplicatePart, RemoveParts
from equilix.document.part_shapes import guess_category
from equilix.present.balance import FigureRow, Verdict
from equilix.present.kit import new_part, paste, summary
from equilix.present.part_preview import draw_part_preview
from equilix.present.scene import Scene
from equilix.present.units import Kind, System, doubt, figure, unit_of


class _Share(QWidget):
    """A bar for a part's share of the doubt."""

    def __init__(self, share: float) -> None:
        super().__init__()
        self._share = share
        self.setFixedHeight(9)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        wide = self.width() * 0.55
        painter.fillRect(QRectF(0, 1, wide, 7), colors()["p1"])
        painter.fillRect(QRectF(0, 1, wide * self._share, 7), colors()["accent"])
        painter.end()


class WeighView(QWidget):
    """Lists the kit and takes new parts in."""

    catalogue_wanted = Signal()
    open_wanted = Signal()

    def __init__(self, workspace: Workspace, panel: SidePanel) -> None:
        super().__init__()
        self.workspace = workspace
        self.panel = panel
        self.table = KitTable(workspace)
        self.preview = SceneView("The part, to scale")
        self.mounts = MountTable(workspace)
        self.title_note = label("", 13, 400, "ink3")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a part   Ctrl F")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("Find a part")
        self.name_field = QLineEdit()
        self.mass_field = QLineEdit()
        self.size_field = QLineEdit()
        self.name_field.setPlaceholderText("New part: name")
        self.how_note = label("Enter adds; W, S or G after the mass", 12.5, 400, "ink3")
        for field, name in (
            (self.name_field, "Name of the new part"),
            (self.mass_field, "Its mass"),
            (self.size_field, "Its size"),
        ):
            field.setAccessibleName(name)
        self.part_title = label("", 16, 600)
        self.part_note = label("", 13, 400, "ink3")
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 0, 24, 0)
        layout.setSpacing(0)
        head = QHBoxLayout()
        head.setContentsMargins(0, 7, 0, 5)
        head.setSpacing(10)
        head.addWidget(label("Kit", 16, 600))
        head.addWidget(self.title_note, 1)
        self.filters = QButtonGroup(self)
        self.filter_buttons: dict[str, QPushButton] = {}
        for key, text in (("all", "All"), ("build", "In this build"), ("guessed", "Guessed")):
            button = QPushButton(text)
            button.setCheckable(True)
            button.setProperty("role", "flat")
            self.filters.addButton(button)
            self.filter_buttons[key] = button
            head.addWidget(button)
        self.filter_buttons["all"].setChecked(True)
        self.search.setMaximumWidth(round(190 * text_scale()))
        self.search.setMinimumWidth(90)
        head.addWidget(self.search)
        layout.addLayout(head)
        layout.addWidget(self.table, 58)
        layout.addWidget(Rule())
        entry = QHBoxLayout()
        entry.setContentsMargins(0, 5, 0, 6)
        entry.setSpacing(8)
        self.entry_glyph = _EntryGlyph(self.name_field)
        entry.addWidget(self.entry_glyph)
        for field, width, stretch in ((self.name_field, 220, 4), (self.mass_field, 120, 2), (self.size_field, 170, 3)):
            field.setMinimumWidth(60)
            field.setMaximumWidth(round(width * text_scale()))
            entry.addWidget(field, stretch)
        self.how_note.setMinimumWidth(0)
        entry.addWidget(self.how_note, 3)
        layout.addLayout(entry)
        layout.addWidget(Rule())
        title = QHBoxLayout()
        title.setContentsMargins(0, 8, 0, 4)
        title.setSpacing(10)
        title.addWidget(self.part_title)
        title.addWidget(self.part_note, 1)
        self.duplicate = QPushButton("Duplicate")
        self.duplicate.setToolTip("Ctrl+Shift+D")
        self.remove = QPushButton("Remove")
        self.remove.setToolTip("Delete")
        title.addWidget(self.duplicate)
        title.addWidget(self.remove)
        layout.addLayout(title)
        lower = QHBoxLayout()
        lower.setSpacing(16)
        lower.addWidget(self.preview, 3)
        side = QVBoxLayout()
        side.setSpacing(4)
        side.addWidget(self.mounts, 1)
        buttons = QHBoxLayout()
        buttons.setContentsMargins(0, 0, 0, 6)
        self.mount_buttons: list[QPushButton] = []
        for text, tip, slot in (
            ("+ needs", "Add a foot that holds the part", lambda: self.mounts.mount_model.add(False)),
            ("+ offers", "Add a mount for other parts", lambda: self.mounts.mount_model.add(True)),
            ("+ slide", "Add a mount along which parts slide", lambda: self.mounts.mount_model.add(True, True)),
            ("−", "Take the chosen row away", self._remove_mount),
        ):
            button = QPushButton(text)
            button.setToolTip(tip)
            button.clicked.connect(slot)
            self.mount_buttons.append(button)
            buttons.addWidget(button)
        side.addLayout(buttons)
        holder = QWidget()
        holder.setMaximumWidth(round(352 * text_scale()))
        self.preview.setMinimumWidth(150)
        side.setContentsMargins(0, 0, 0, 0)
        holder.setLayout(side)
        lower.addWidget(holder, 3)
        layout.addLayout(lower, 42)

    def _connect(self) -> None:
        self.search.textChanged.connect(self._filter)
        self.search.installEventFilter(self)
        self.filters.buttonClicked.connect(lambda _button: self._filter())
        self.table.entry_wanted.connect(self.focus_entry)
        self.table.pasted.connect(self.paste)
        self.table.selectionModel().currentRowChanged.connect(self._choose)
        self.preview.resized.connect(self._draw_preview)
        self.name_field.textChanged.connect(lambda _text: self.entry_glyph.update())
        for field in (self.name_field, self.mass_field, self.size_field):
            field.returnPressed.connect(self.add_entry)
        self.duplicate.clicked.connect(self._duplicate)
        self.remove.clicked.connect(self._remove)

    # Showing

    @property
    def main_widget(self) -> QWidget:
        """What takes the keyboard when the room is entered."""
        return self.table

    @property
    def dragging(self) -> bool:
        """Whether a part is being moved by the mouse."""
        return False

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.how_note.setVisible(self.width() >= 700 * text_scale())
        self.title_note.setVisible(self.width() >= 640 * text_scale())

    def refresh(self) -> None:
        """Show the book as it is now."""
        system = self.workspace.system
        unit = unit_of(Kind.LENGTH, system)
        self.mass_field.setPlaceholderText(f"mass, {unit_of(Kind.MASS, system)}")
        self.size_field.setPlaceholderText(f"L × W × H, {unit}")
        book = self.workspace.book
        self.title_note.setText(summary(book, system))
        self._counts()
        self.table.restyle()
        self.mounts.restyle()
        self._filter()
        self._show_part()
        self._fill_panel()

    def _counts(self) -> None:
        book, build = self.workspace.book, self.workspace.build
        guessed = sum(part.mass is None or part.mass_known is HowKnown.GUESSED for part in book.kit)
        for key, text, count in (
            ("all", "All", len(book.kit)),
            ("build", "In this build", len(build.parts) if build is not None else 0),
            ("guessed", "Guessed", guessed),
        ):
            button = self.filter_buttons[key]
            button.setText(f"{text} {count}")

    def _filter(self) -> None:
        model = self.table.kit_model
        model.words = self.search.text()
        model.filter = next((key for key, button in self.filter_buttons.items() if button.isChecked()), "all")
        for button in self.filter_buttons.values():
            chosen = button.isChecked()
            edge = f"border-bottom: 2px solid {colors().hex('accent')};" if chosen else ""
            tone = colors().hex("accent" if chosen else "ink2")
            button.setStyleSheet(f"color: {tone}; font-weight: {600 if chosen else 400}; border-radius: 0; {edge}")
        model.refresh()
        self._keep_row()
        self.table.viewport().update()

    def _keep_row(self) -> None:
        parts = self.table.kit_model.parts
        index = next((i for i, part in enumerate(parts) if part.id == self.workspace.kit_selected), None)
        if index is not None and self.table.currentIndex().row() != index:
            column = max(self.table.currentIndex().column(), 1)
            self.table.setCurrentIndex(self.table.kit_model.index(index, column))
        elif index is None and parts:
            self.table.setCurrentIndex(self.table.kit_model.index(0, 1))

    def _choose(self, *_ignored: object) -> None:
        row = self.table.currentIndex().row()
        parts = self.table.kit_model.parts
        self.workspace.kit_selected = parts[row].id if 0 <= row < len(parts) else ""
        self._show_part()

    def _show_part(self) -> None:
        part = self.workspace.book.parts.get(self.workspace.kit_selected)
        self.mounts.mount_model.show_part(part)
        has = part is not None
        for button in (self.duplicate, self.remove, *self.mount_buttons):
            button.setVisible(has)
        self.mounts.setVisible(has)
        if part is not None:
            self.part_title.setText(part.name)
            self.part_note.setText("to scale; square = held here" + (f" · {part.note}" if part.note else ""))
        else:
            self.part_title.setText("")
            self.part_note.setText("")
        self._draw_preview()

    def _draw_preview(self) -> None:
        part = self.workspace.book.parts.get(self.workspace.kit_selected)
        if part is None or self.preview.scene_width < 60:
            self.preview.show_scene(Scene())
            return
        size = (self.preview.scene_width, self.preview.scene_height)
        self.preview.show_scene(draw_part_preview(part, self.workspace.system, *size))

    def _fill_panel(self) -> None:
        panel, system = self.panel, self.workspace.system
        book = self.workspace.book
        panel.begin()
        analysis = self.workspace.analysis()
        ranked = _ranked(analysis)
        if not book.kit:
            panel.add_verdict(Verdict("The kit is empty.", "Type the first part, or take typical ones."))
            panel.add_text("Name, mass, Enter. The mass can be “2.4 kg”, “410 g” or “5 lb 3 oz”.", "ink", 14)
            holder = QVBoxLayout()
            holder.setContentsMargins(24, 6, 24, 6)
            holder.setSpacing(8)
            for words, signal in (
                ("Take typical parts…", self.catalogue_wanted),
                ("Open a kit book…", self.open_wanted),
            ):
                button = QPushButton(words)
                button.clicked.connect(signal)
                holder.addWidget(button)
            panel.rows.addLayout(holder)
        elif not ranked:
            panel.add_verdict(Verdict("Every figure is sure", "enough: nothing to weigh for this build."))
        else:
            name, share = ranked[0]
            build = self.workspace.build
            where = f" in {build.name.split(' ')[0]}" if build is not None else ""
            short = name.split(",")[0]
            panel.add_verdict(
                Verdict(f"Weigh the {short[:1].lower()}{short[1:]}.", f"It is {100 * share:.0f} % of the doubt{where}.")
            )
        panel.add_figures(self._figures(system))
        if ranked:
            panel.add_heading("Weigh this next", "most doubt first")
            for number, (name, share) in enumerate(ranked[:5], 1):
                box = QVBoxLayout()
                box.setContentsMargins(24, 6, 24, 6)
                box.setSpacing(2)
                row = QHBoxLayout()
                row.addWidget(label(f"{number}  {name}", 15, 600 if number == 1 else 500, "ink"), 1)
                row.addWidget(label(f"{100 * share:.0f} %", 15, 600))
                box.addLayout(row)
                box.addWidget(_Share(share))
                panel.rows.addLayout(box)
                panel.add_rule()
        panel.add_text(
            "± is about 95 %. A maker’s sheet counts as ± 4 %, a guess as ± 30 % of the mass: common practice. "
            "Type another ± if you know better.",
            "ink3",
        )
        panel.end()

    def _figures(self, system: System) -> tuple[FigureRow, ...]:
        kit = self.workspace.book.kit
        if not kit:
            return ()
        known = [part.mass_known for part in kit if part.mass is not None]
        rows = [
            FigureRow("Parts weighed", f"{known.count(HowKnown.WEIGHED)} of {len(kit)}", ""),
            FigureRow("By the maker’s sheet", str(known.count(HowKnown.SHEET)), "± 4 %"),
            FigureRow("Guessed", str(known.count(HowKnown.GUESSED)), "± 30 %"),
        ]
        without = len(kit) - len(known)
        if without:
            rows.append(FigureRow("Without mass", str(without), ""))
        analysis, build = self.workspace.analysis(), self.workspace.build
        if analysis is not None and analysis.body is not None and analysis.spread is not None and build is not None:
            rows.append(
                FigureRow(
                    "This build, mass",
                    figure(analysis.body.mass, Kind.MASS, system),
                    doubt(analysis.spread.mass, Kind.MASS, system),
                )
            )
            if analysis.shoulder is not None:
                rows.append(
                    FigureRow(
                        "CG ahead of pad",
                        figure(analysis.shoulder.rest.ahead, Kind.LENGTH, system, sign=True),
                        doubt(float(analysis.spread.cg[0]), Kind.LENGTH, system),
                    )
                )
        return tuple(rows)

    # Acting

    def focus_entry(self) -> None:
        """Put the cursor in the entry row."""
        self.name_field.setFocus()

    def add_entry(self) -> None:
        """Add the part in the entry row and begin the next; say what is wrong and keep it otherwise."""
        try:
            part = new_part(
                self.workspace.book,
                self.name_field.text(),
                self.mass_field.text(),
                self.size_field.text(),
                self.workspace.system,
            )
        except EditError as error:
            self.workspace.refused.emit(str(error))
            return
        if self.workspace.apply(AddParts((part,))):
            for field in (self.name_field, self.mass_field, self.size_field):
                field.clear()
            self.workspace.kit_selected = part.id
            self._keep_row()
            self.table.scrollToBottom()
            self.name_field.setFocus()

    def paste(self, text: str) -> None:
        """Add the parts in rows pasted from a spreadsheet; say which rows could not be read."""
        if not text.strip():
            return
        pasted = paste(self.workspace.book, text, self.workspace.system)
        if pasted.parts:
            self.workspace.apply(AddParts(pasted.parts))
            self.workspace.said.emit(f"Pasted {len(pasted.parts)} parts")
        if pasted.problems:
            more = f" And {len(pasted.problems) - 3} more rows." if len(pasted.problems) > 3 else ""
            self.workspace.refused.emit(" ".join(pasted.problems[:3]) + more)

    def _duplicate(self) -> None:
        if self.workspace.kit_selected:
            self.workspace.apply(DuplicatePart(self.workspace.kit_selected))

    def _remove(self) -> None:
        parts = self.table.selected_parts()
        if parts:
            QTimer.singleShot(0, lambda: self.workspace.apply(RemoveParts(tuple(part.id for part in parts))))

    def _remove_mount(self) -> None:
        row = self.mounts.currentIndex().row()
        if row >= 0:
            self.mounts.mount_model.replace_item(row, None)

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

    def __init__(self, field: QLineEdit) -> None:
        super().__init__()
        self._field = field
        self.setFixedSize(28, 24)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        words = self._field.text().strip()
        if words:
            paint_category(painter, guess_category(words), QRectF(0, 0, 28, 24), "accent")
        else:
            painter.setPen(colors()["accent"])
            painter.drawLine(8, 12, 20, 12)
            painter.drawLine(14, 6, 14, 18)
        painter.end()


def _ranked(analysis: Analysis | None) -> list[tuple[str, float]]:
    """Return the parts with more than 1 % of the doubt in the CG, most first."""
    if analysis is None or analysis.spread is None:
        return []
    shares = analysis.spread.share
    order = sorted(range(len(shares)), key=lambda i: -float(shares[i]))
    return [
        (analysis.assembly.parts[i].name, float(shares[i]))
        for i in order
        if float(shares[i]) > 0.01 and analysis.assembly.parts[i].mass_known is not HowKnown.WEIGHED
    ]
