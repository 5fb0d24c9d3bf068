"""The row in which a new part is typed: name, mass, size and kind."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from equilix.core.errors import EditError
from equilix.core.kit.kinds import odd_mass
from equilix.core.kit.parts import Category
from equilix.core.limits import MAX_MASS
from equilix.core.units import Kind
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, text_scale
from equilix.desktop.widgets.glyphs import paint_category
from equilix.desktop.widgets.kind_box import KindBox
from equilix.desktop.widgets.labels import OneLine, label
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.workspace import Workspace
from equilix.document.edits.kit import AddParts
from equilix.document.kinds.naming import read_name
from equilix.document.kinds.records import PartKind
from equilix.present.kit.kind_words import kind_words
from equilix.present.kit.table import new_part, odd_words, parse_mass
from equilix.present.units import readable, unit_of


class EntryRow(QWidget):
    """Adds what is typed to the kit; says below what is wrong and keeps it otherwise. `added` tells its id."""

    added = Signal(str)

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.name_field = QLineEdit()
        self.mass_field = QLineEdit()
        self.size_field = QLineEdit()
        self.name_field.setPlaceholderText("New part: name")
        self.how_note = OneLine("ink3", 12.5)
        self.how_note.setText("W, S, E: how known")
        self.how_note.tell("After the mass W, S or E says how it is known: weighed, maker’s sheet, estimated")
        self.kind_box = KindBox(first="kind: from its name")
        set_tip(self.kind_box, "The kind follows from the name. Choose or type another if it is wrong")
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
        self.name_field.textChanged.connect(self._propose_kind)
        self.kind_box.editTextChanged.connect(lambda _text: self.glyph.update())
        line = self.kind_box.lineEdit()
        if line is not None:
            line.returnPressed.connect(self.add)
        for field in (self.name_field, self.mass_field, self.size_field):
            field.returnPressed.connect(self.add)
            field.textChanged.connect(self._no_problem)

    def refresh(self) -> None:
        """Name the units in force."""
        system = self.workspace.system
        self.kind_box.offer(self.workspace.book.known_kinds)
        self.mass_field.setPlaceholderText(f"mass, {unit_of(Kind.MASS, system)}")
        self.size_field.setPlaceholderText(f"L × W × H, {unit_of(Kind.LENGTH, system)}")

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        entry = QHBoxLayout()
        entry.setContentsMargins(0, 5, 0, 6)
        entry.setSpacing(8)
        self.glyph = _EntryGlyph(self)
        entry.addWidget(self.glyph)
        for field, least, width, stretch in (
            (self.name_field, 118, 220, 4),
            (self.mass_field, 80, 120, 2),
            (self.size_field, 112, 170, 3),
        ):
            field.setMinimumWidth(round(least * text_scale()))
            field.setMaximumWidth(round(width * text_scale()))
            entry.addWidget(field, stretch)
        entry.addWidget(self.kind_box)
        self.how_note.setMinimumWidth(0)
        entry.addWidget(self.how_note, 3)
        column.addLayout(entry)
        self.problem.setContentsMargins(36, 0, 0, 6)
        column.addWidget(self.problem)

    @property
    def kind(self) -> PartKind | None:
        """The kind chosen for the new part, None for the one that its name speaks of; EditError if it is none."""
        return self.kind_box.kind(self.workspace.book.known_kinds)

    @property
    def glyph_of(self) -> Category:
        """What the part counts as, as far as it can be read."""
        kinds = self.workspace.book.known_kinds
        try:
            kind = self.kind
        except EditError:
            kind = None
        found = kind or read_name(self.name_field.text().strip(), kinds).kind
        return found.counts if found is not None else Category.OTHER

    def _propose_kind(self, name: str) -> None:
        words = name.strip()
        said = kind_words(read_name(words, self.workspace.book.known_kinds)) if words else "from its name"
        self.kind_box.say_first(f"kind: {said}")
        self.glyph.update()

    def _no_problem(self) -> None:
        self.problem.hide()

    def add(self) -> None:
        """Add the part in the entry row and begin the next; say what is wrong and keep it otherwise."""
        try:
            part = new_part(
                self.workspace.book,
                self.name_field.text(),
                self.mass_field.text(),
                self.size_field.text(),
                self.workspace.system,
                kind=self.kind,
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
            self.added.emit(part.id)
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


class _EntryGlyph(QWidget):
    """A plus, or the glyph of the kind that the typed name speaks of."""

    def __init__(self, row: EntryRow) -> None:
        super().__init__()
        self._entry = row
        self.setFixedSize(28, 24)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        words = self._entry.name_field.text().strip()
        if words:
            paint_category(painter, self._entry.glyph_of, QRectF(0, 0, 28, 24), "accent")
        else:
            painter.setPen(colors()["accent"])
            painter.drawLine(8, 12, 20, 12)
            painter.drawLine(14, 6, 14, 18)
        painter.end()
