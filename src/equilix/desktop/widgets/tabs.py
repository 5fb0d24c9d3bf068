"""A row of words of which one is chosen, underlined: filters and lower views alike."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from equilix.desktop.looks.theme import font
from equilix.desktop.widgets.plain import set_tip

#: px between two words.
_GAP = 10


class WordRow(QWidget):
    """Words by key; `chosen` carries the key of the one clicked."""

    chosen = Signal(str)

    def __init__(self, words: tuple[tuple[str, str], ...], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.buttons: dict[str, QPushButton] = {}
        self._whole: dict[str, str] = dict(words)
        self._fitted: tuple[int, dict[str, str]] | None = None  # the width and words that room was made for
        self._group = QButtonGroup(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(_GAP)
        for key, text in words:
            button = QPushButton(self)
            button.setText(text)  # not with the row: that could be an icon too, and brings all names of icons
            button.setCheckable(True)
            button.setProperty("role", "word")
            button.clicked.connect(lambda _checked=False, k=key: self._choose(k))
            self._group.addButton(button)
            self.buttons[key] = button
            row.addWidget(button)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.buttons[words[0][0]].setChecked(True)
        self.restyle()

    @property
    def key(self) -> str:
        """The key of the chosen word."""
        return next(key for key, button in self.buttons.items() if button.isChecked())

    def show_word(self, key: str, text: str) -> None:
        """Show another word for a key, or none; with none the first is chosen in its place."""
        button = self.buttons[key]
        if self._whole[key] != text:
            self._whole[key] = text
            button.setText(text)
        button.setVisible(bool(text))
        if not text and button.isChecked():
            self.choose(next(iter(self.buttons)))

    def make_room(self, width: int) -> None:
        """Show only the first word of each where all of them need more than `width` px."""
        if self._fitted == (width, self._whole):
            return
        self._fitted = (width, dict(self._whole))
        for short in (False, True):
            for key, button in self.buttons.items():
                whole = self._whole[key]
                button.setText(whole.partition(" ")[0] if short else whole)
                set_tip(button, whole if button.text() != whole else "")
            shown = [button.sizeHint().width() for key, button in self.buttons.items() if self._whole[key]]
            if sum(shown) + _GAP * (len(shown) - 1) <= width:
                return

    def choose(self, key: str) -> None:
        """Choose a word without saying so."""
        self.buttons[key].setChecked(True)
        self.restyle()

    def _choose(self, key: str) -> None:
        self.restyle()
        self.chosen.emit(key)

    def restyle(self) -> None:
        """Make the chosen word strong."""
        for button in self.buttons.values():
            button.setFont(font(14, 600 if button.isChecked() else 400))
