"""How a loose part is joined to the build: over typical pieces that are missing, or as the user says."""

from __future__ import annotations

import math

from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from equilix.core.assembly.build import Build
from equilix.core.errors import EditError, EquilixError
from equilix.core.kit.parts import Part
from equilix.core.units import Kind
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain import as_item, as_title
from equilix.desktop.workspace import Workspace
from equilix.document.edits.builds import JoinOwn
from equilix.document.history import Edit
from equilix.present.assembly.joining import Face, Moves, own_connection, usual_face
from equilix.present.assembly.pieces import Piece
from equilix.present.units import figure, parse
from equilix.present.words import capitalised, mid_sentence


class JoinDialog(QDialog):
    """Asks how `part` is joined; `edit` is the answer once it was accepted."""

    def __init__(
        self, part: Part, piece: Piece | None, build: Build, workspace: Workspace, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.part = part
        self.edit: Edit | None = None
        self._piece, self._build, self._workspace = piece, build, workspace
        self.setWindowTitle(as_title(f"Put on {part.name}"))
        self.setMinimumWidth(round(520 * text_scale()))
        column = QVBoxLayout(self)
        column.setSpacing(8)
        column.addWidget(label(part.name, 16, 600))
        words = "Nothing here takes this part. Say where it goes."
        if piece is not None:
            words = f"Goes {piece.words}." if not piece.asks else piece.asks
        column.addWidget(label(words, 14, 400, "ink2", wrap=True))
        self.over = QRadioButton(self._over_words())
        self.own = QRadioButton("With a connection of my own:")
        self.choice = QButtonGroup(self)
        for button in (self.over, self.own):
            self.choice.addButton(button)
            column.addWidget(button)
        self.over.setVisible(piece is not None)
        (self.over if piece is not None else self.own).setChecked(True)
        self._add_own(column)
        self.problem: QLabel = label("", 13, 500, "fwdT", wrap=True)
        column.addWidget(self.problem)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        join = buttons.button(QDialogButtonBox.StandardButton.Ok)
        join.setText("&Join")
        join.setProperty("role", "apply")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.choice.buttonToggled.connect(self._follow)
        self._follow()

    def _over_words(self) -> str:
        if self._piece is None:
            return ""
        new = " and ".join(mid_sentence(part.name) for part in self._piece.new_parts)
        return as_item(f"{capitalised(self._piece.words)}{f', with {new} between' if new else ''}")

    def _add_own(self, column: QVBoxLayout) -> None:
        system = self._workspace.system
        kit = self._workspace.book.parts
        self.face = QComboBox()
        self.face.addItems([face.value for face in Face])
        self.holder = QComboBox()
        for placed in self._build.parts:
            self.holder.addItem(as_item(kit[placed.part_id].name), placed.id)
        chosen = self.holder.findData(self._workspace.selected)
        self.holder.setCurrentIndex(max(chosen, 0))
        self.moves = QComboBox()
        self.moves.addItems([moves.value for moves in Moves])
        self.shift = [QLineEdit(figure(0.0, Kind.LENGTH, system)) for _ in range(3)]
        self.reach = QLineEdit(figure(0.040, Kind.LENGTH, system))
        self._reach_turns = False
        self.words = QLineEdit()
        self.words.setPlaceholderText("screwed to the wood, clamped, tied …")
        self.words.setMaxLength(100)
        grid = QGridLayout()
        grid.setContentsMargins(22, 0, 0, 0)
        grid.setHorizontalSpacing(10)
        rows: tuple[tuple[str, QWidget, str], ...] = (
            ("It &sits", self.face, "Where it sits"),
            ("this &part", self.holder, "The part it touches"),
            ("Moved &forward", self.shift[0], "Forward of the middle, by"),
            ("Moved to the &left", self.shift[1], "Left of the middle, by"),
            ("Moved &up", self.shift[2], "Moved up from where they touch"),
            ("It &moves", self.moves, "Whether it slides or turns"),
            ("Travel each &way", self.reach, "Travel each way"),
            ("In &words", self.words, "Your words for the connection"),
        )
        for line, (words, field, name) in enumerate(rows):
            caption = QLabel(words)
            caption.setBuddy(field)
            field.setAccessibleName(name)
            grid.addWidget(caption, line, 0)
            grid.addWidget(field, line, 1)
        self.own_fields = [field for _, field, _ in rows]
        column.addLayout(grid)
        self.moves.currentIndexChanged.connect(self._follow)
        self.holder.currentIndexChanged.connect(self._guess_face)
        self._guess_face()

    def _holder(self) -> Part:
        placed = self._build.placed(self.holder.currentData())
        return self._workspace.book.part(placed.part_id)

    def _guess_face(self) -> None:
        self.face.setCurrentIndex(
            list(Face).index(usual_face(self._holder(), self.part, self._workspace.book.known_kinds))
        )

    def _follow(self, *_ignored: object) -> None:
        own = self.own.isChecked()
        for field in self.own_fields:
            field.setEnabled(own)
        moves = list(Moves)[self.moves.currentIndex()]
        self.reach.setEnabled(own and moves is not Moves.FIXED)
        turns = moves.turns
        if turns != self._reach_turns:
            self._reach_turns = turns
            usual = "30°" if moves is Moves.TILTS else "135°"
            self.reach.setText(usual if turns else figure(0.040, Kind.LENGTH, self._workspace.system))

    def accept(self) -> None:
        try:
            own = self.own.isChecked() or self._piece is None
            self.edit = self._own_edit() if own or self._piece is None else self._piece.put_on(self._build)
        except EquilixError as error:
            self.problem.setText(str(error))
            return
        super().accept()

    def _own_edit(self) -> Edit:
        system = self._workspace.system
        shift = [parse(field.text(), Kind.LENGTH, system) for field in self.shift]
        moves = list(Moves)[self.moves.currentIndex()]
        reach = 0.0
        if moves.turns:
            reach = self._angle(self.reach.text())
        elif moves is not Moves.FIXED:
            reach = abs(parse(self.reach.text(), Kind.LENGTH, system))
        mount, foot = own_connection(
            self._holder(),
            self.part,
            list(Face)[self.face.currentIndex()],
            moves,
            (shift[0], shift[1], shift[2]),
            reach,
            self.words.text().strip(),
        )
        return JoinOwn(self._build.id, self.part.id, self.holder.currentData(), mount, foot)

    @staticmethod
    def _angle(text: str) -> float:
        try:
            return math.radians(abs(float(text.strip().rstrip("°").replace(",", "."))))
        except ValueError:
            raise EditError(f'"{text[:30]}" is not an angle. Type degrees, such as 30.') from None
