"""A list of all kinds of parts, in which typing a word finds one."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QWidget

from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.plain import as_item
from equilix.document.kinds.records import Kinds, PartKind
from equilix.present.kit.kind_words import read_kind, titles_of


class KindBox(QComboBox):
    """Kinds by what they are called; what is typed may be any word for one. `first` is said before them, for none."""

    def __init__(self, parent: QWidget | None = None, first: str = "") -> None:
        super().__init__(parent)
        self._first = first
        self.setEditable(True)
        self.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.setMinimumWidth(round(118 * text_scale()))
        self.setAccessibleName("Its kind")
        self._offered: Kinds | None = None

    def offer(self, kinds: Kinds) -> None:
        """List these kinds."""
        if kinds is self._offered:
            return
        self._offered = kinds
        self.clear()
        if self._first:
            self.addItem(self._first, "")
        for title, key in titles_of(kinds):
            self.addItem(as_item(title), key)

    def say_first(self, words: str) -> None:
        """Say other words for none."""
        self.setItemText(0, words)
        if self.currentIndex() == 0:
            self.setEditText(words)

    def kind(self, kinds: Kinds) -> PartKind | None:
        """Return the kind that was chosen or typed, None for none; EditError if what was typed is none."""
        text = self.currentText().strip()
        if self._first and (not text or text == self.itemText(0)):
            return None
        return read_kind(text, kinds)
