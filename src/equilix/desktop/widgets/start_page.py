"""What an empty book opens on: a drawn rig for each support, a table or book, or the first part."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from equilix.core.assembly.build import Build, Operator
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.figure_grid import Rule
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.picture_button import PictureButton
from equilix.desktop.widgets.plain import as_item, set_tip
from equilix.io.shipped import catalogue
from equilix.present.drawing.scene import Scene
from equilix.present.supports.labels import label_for
from equilix.present.units import System


class StartPage(QWidget):
    """Begins with a typical rig, with a table or book, or with the first part, typed below."""

    starter_chosen = Signal(object)
    import_wanted = Signal()
    open_wanted = Signal()
    catalogue_wanted = Signal()
    entry_wanted = Signal()

    def __init__(self, operator: Operator, system: System, parent: QWidget) -> None:
        super().__init__(parent)
        self.operator, self.system = operator, system
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 12, 0, 8)
        column.setSpacing(6)
        column.addWidget(label("Begin with a rig, or with your bag", 24, 600))
        about = "A typical rig is complete, and marked ≈ until you weigh it. You can undo all of it."
        column.addWidget(label(about, 14, 400, "ink2", wrap=True))
        self.starters: list[PictureButton] = []
        column.addLayout(self._rigs())
        columns = QHBoxLayout()
        columns.setContentsMargins(0, 8, 0, 0)
        columns.setSpacing(24)
        columns.addLayout(self._from_table(), 4)
        columns.addLayout(self._first_part(), 4)
        column.addLayout(columns)
        column.addStretch(1)
        column.addWidget(Rule())

    def _column(self, title: str, words: str) -> QVBoxLayout:
        made = QVBoxLayout()
        made.setSpacing(4)
        made.setAlignment(Qt.AlignmentFlag.AlignTop)
        made.addWidget(Rule())
        made.addWidget(label(title, 16, 600))
        made.addWidget(label(words, 13, 400, "ink2", wrap=True))
        return made

    def _button(self, text: str) -> QPushButton:
        button = QPushButton(as_item(text))
        button.setMinimumHeight(round(28 * text_scale()))
        button.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        return button

    def _rigs(self) -> QGridLayout:
        """Return the rigs to begin from as pictures, one a support."""
        from equilix.present.assembly.start_pictures import HEIGHT, WIDTH, first_rigs

        grid = QGridLayout()
        grid.setContentsMargins(0, 10, 0, 0)
        grid.setSpacing(8)
        for number, build in enumerate(first_rigs()):
            button = PictureButton(Scene(), label_for(build.support).name, False, (WIDTH, HEIGHT))
            button.clicked.connect(lambda _checked=False, one=build: self._start(one))
            set_tip(button, build.name)
            self.starters.append(button)
            grid.addWidget(button, number // 3, number % 3)
        grid.setColumnStretch(3, 1)
        self._say_masses()
        # The window first: each picture is of a rig that is worked out.
        QTimer.singleShot(0, self, lambda: self._draw(0))
        return grid

    def set_system(self, system: System) -> None:
        """Say the masses in other units."""
        if system is not self.system:
            self.system = system
            self._say_masses()

    def _say_masses(self) -> None:
        from equilix.present.assembly.start_pictures import first_rigs, mass_words

        kit = {part.id: part for part in catalogue()}
        for button, build in zip(self.starters, first_rigs(), strict=True):
            words = f"{label_for(build.support).name}   {mass_words(build, kit, self.system)}"
            button.setText(words)
            button.setAccessibleName(words)

    def _draw(self, number: int) -> None:
        """Draw one rig, then let the next one be drawn."""
        from equilix.present.assembly.start_pictures import first_rigs, start_picture

        kit = {part.id: part for part in catalogue()}
        self.starters[number].show_scene(start_picture(first_rigs()[number], kit, self.operator))
        if number + 1 < len(self.starters):
            QTimer.singleShot(0, self, lambda: self._draw(number + 1))

    def _start(self, build: Build) -> None:
        self.starter_chosen.emit(build)

    def _from_table(self) -> QVBoxLayout:
        made = self._column("Or from a table or a book", "CSV, XLSX, XLS or ODS. Or drop a file on the window.")
        self.import_button = self._button("Import a table…")
        self.open_button = self._button("Open a book…")
        self.import_button.clicked.connect(self.import_wanted)
        self.open_button.clicked.connect(self.open_wanted)
        made.addWidget(self.import_button)
        made.addWidget(self.open_button)
        made.addWidget(label("You can also paste rows from a spreadsheet.", 13, 400, "ink3", wrap=True))
        return made

    def _first_part(self) -> QVBoxLayout:
        made = self._column("Or from your first part", "Type name and mass in the row below, then Enter.")
        self.entry_button = self._button("Type the first part")
        self.catalogue_button = self._button("Add typical parts…")
        self.entry_button.clicked.connect(self.entry_wanted)
        self.catalogue_button.clicked.connect(self.catalogue_wanted)
        made.addWidget(self.entry_button)
        made.addWidget(self.catalogue_button)
        made.addWidget(
            label(
                "Units as they come: “2.4 kg”, “410 g” or “5 lb 3 oz”, “180 mm” or “7 in”.", 13, 400, "ink3", wrap=True
            )
        )
        return made
