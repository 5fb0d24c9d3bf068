"""What a part is, and what its book remembers of it."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget

from equilix.core.errors import EquilixError
from equilix.core.kit.parts import Part
from equilix.desktop.dialogs.forms import FormDialog
from equilix.desktop.widgets.kind_box import KindBox
from equilix.desktop.widgets.plain import as_title
from equilix.document.book import Book
from equilix.document.edits.kinds import ForgetKind, SayKind, new_kind_id
from equilix.document.history import Edit
from equilix.document.kinds.of_part import kind_of_part, reading_of
from equilix.document.kinds.own import OwnKind, kinds_with
from equilix.present.kit.kind_words import with_kind

#: What is remembered, in the order of the list.
_NOTHING, _WORDS, _FIGURES = range(3)


class KindDialog(FormDialog):
    """Asks what kind `part` is; `edit` is the answer once it was accepted."""

    def __init__(self, part: Part, book: Book, parent: QWidget | None = None) -> None:
        kinds = book.known_kinds
        now = kind_of_part(part, kinds)
        super().__init__(as_title(f"Kind of {part.name}"), parent, removable=bool(now.like))
        self.edit: Edit | None = None
        self._part, self._book, self._now = part, book, now
        self.kind_box = KindBox()
        self.kind_box.offer(kinds)
        self.kind_box.setCurrentText(now.title if reading_of(part, kinds).kind is not None else "")
        self.remembers = QComboBox()
        self.remembers.addItems(
            ["this part only", "parts called so, in this book", "parts called so, with its mass and size"]
        )
        self.words = QLineEdit(", ".join(now.words) if now.like else part.name)
        self.words.setPlaceholderText("words with commas between")
        for words, field in (("It is a", self.kind_box), ("Counts for", self.remembers), ("Called", self.words)):
            self.form.addRow(words, field)
            field.setAccessibleName(words)
        self.remembers.currentIndexChanged.connect(self._follow)
        self._follow()

    def _follow(self, *_ignored: object) -> None:
        self.words.setEnabled(self.remembers.currentIndex() != _NOTHING)

    def accept(self) -> None:
        try:
            self.edit = self._said()
        except EquilixError as error:
            self.problem.setText(str(error))
            return
        super().accept()

    def _said(self) -> Edit:
        book, part, much = self._book, self._part, self.remembers.currentIndex()
        kind = self.kind_box.kind(book.known_kinds)
        assert kind is not None
        if much == _NOTHING:
            return SayKind(with_kind(part, kind, book.known_kinds))
        words = tuple(word for text in self.words.text().split(",") if (word := text.strip()))
        mass, size = (part.mass, part.outline.size) if much == _FIGURES and part.outline is not None else (None, None)
        own = OwnKind(new_kind_id(book), words, kind.base, mass, size)
        kinds = kinds_with((own, *book.kinds))
        return SayKind(with_kind(part, kinds.kind(own.id), kinds), own)

    def forgetting(self) -> Edit:
        """Return the edit that takes the kind, which is the book's own, out of the book."""
        return ForgetKind(self._now.key)
