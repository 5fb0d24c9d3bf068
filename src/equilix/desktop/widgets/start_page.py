"""What an empty book opens on: three ways to begin."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from equilix.core.assembly.build import Build
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.figure_grid import Rule
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain import as_item
from equilix.io.shipped import starters


class StartPage(QWidget):
    """Begins with a typical build, with a table or book, or with the first part, typed below."""

    starter_chosen = Signal(object)
    import_wanted = Signal()
    open_wanted = Signal()
    catalogue_wanted = Signal()
    entry_wanted = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 12, 0, 8)
        column.setSpacing(6)
        column.addWidget(label("How would you like to begin?", 24, 600))
        about = "You can undo each way. All lead to your own rig, balanced, on a build sheet."
        column.addWidget(label(about, 14, 400, "ink2", wrap=True))
        columns = QHBoxLayout()
        columns.setContentsMargins(0, 14, 0, 0)
        columns.setSpacing(24)
        self.starters: list[QPushButton] = []
        columns.addLayout(self._typical(), 5)
        columns.addLayout(self._from_table(), 4)
        columns.addLayout(self._first_part(), 4)
        column.addLayout(columns)
        column.addStretch(1)
        column.addWidget(Rule())

    def _column(self, number: int, title: str, words: str) -> QVBoxLayout:
        made = QVBoxLayout()
        made.setSpacing(4)
        made.setAlignment(Qt.AlignmentFlag.AlignTop)
        made.addWidget(Rule())
        made.addWidget(label(f"{number}  {title}", 16, 600))
        made.addWidget(label(words, 13, 400, "ink2", wrap=True))
        return made

    def _button(self, text: str) -> QPushButton:
        button = QPushButton(as_item(text))
        button.setMinimumHeight(round(28 * text_scale()))
        button.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        return button

    def _typical(self) -> QVBoxLayout:
        made = self._column(1, "From a typical build", "All figures are estimated, marked ≈, until you weigh.")
        for build in starters():
            button = self._button(build.name)
            button.clicked.connect(lambda _checked=False, one=build: self._start(one))
            made.addWidget(button)
            made.addWidget(label(build.note, 13, 400, "ink3", wrap=True))
            self.starters.append(button)
        return made

    def _start(self, build: Build) -> None:
        self.starter_chosen.emit(build)

    def _from_table(self) -> QVBoxLayout:
        made = self._column(2, "From a table or a book", "CSV, XLSX, XLS or ODS. Or drop a file on the window.")
        self.import_button = self._button("Import a table…")
        self.open_button = self._button("Open a book…")
        self.import_button.clicked.connect(self.import_wanted)
        self.open_button.clicked.connect(self.open_wanted)
        made.addWidget(self.import_button)
        made.addWidget(self.open_button)
        made.addWidget(label("You can also paste rows from a spreadsheet.", 13, 400, "ink3", wrap=True))
        return made

    def _first_part(self) -> QVBoxLayout:
        made = self._column(3, "From your first part", "Type name and mass in the row below, then Enter.")
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
