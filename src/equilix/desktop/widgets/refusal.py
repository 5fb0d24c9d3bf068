"""A sentence at the field that can't be read; what was typed stays, and the sentence goes once it is changed."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtWidgets import QLabel, QLineEdit, QWidget

from equilix.desktop.looks.theme import colors, font, text_scale

_WIDTH = 340.0


class Refusal(QLabel):
    """Lies below the field that it is about, in the field's window."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.field: QLineEdit | None = None
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.hide()

    def show_at(self, field: QLineEdit, words: str) -> None:
        """Say `words` below `field`, above it if there is no room."""
        self._leave()
        self.field = field
        field.textEdited.connect(self._leave)
        field.installEventFilter(self)
        field.setAccessibleDescription(words)
        hexes = colors()
        self.setFont(font(13, 500))
        self.setStyleSheet(
            f"color: {hexes.hex('fwdT')}; background: {hexes.hex('panel')}; "
            f"border: 1px solid {hexes.hex('fwdT')}; border-radius: 4px; padding: 5px 8px;"
        )
        self.setText(words)
        self.setFixedWidth(round(_WIDTH * text_scale()))
        self.adjustSize()
        window = field.window()
        place = field.mapTo(window, QPoint(0, field.height() + 3))
        x = max(4, min(place.x(), window.width() - self.width() - 4))
        y = place.y()
        if y + self.height() > window.height() - 4:
            y = field.mapTo(window, QPoint(0, -3)).y() - self.height()
        self.move(x, y)
        self.show()
        self.raise_()

    def _leave(self, _text: str = "") -> None:
        field, self.field = self.field, None
        self.hide()
        if field is not None:
            field.setAccessibleDescription("")
            field.textEdited.disconnect(self._leave)
            field.removeEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.field and event.type() in (QEvent.Type.Hide, QEvent.Type.DeferredDelete):
            self._leave()
        return False


def refuse_at(field: QLineEdit, words: str) -> None:
    """Keep what was typed in `field` and say below it why it can't be taken."""
    window = field.window()
    notes = window.findChildren(Refusal, options=Qt.FindChildOption.FindDirectChildrenOnly)
    note = notes[0] if notes else Refusal(window)
    note.show_at(field, words)


def refusal_of(window: QWidget) -> str:
    """Return what is said at a field of `window` now, "" if nothing is."""
    notes = window.findChildren(Refusal, options=Qt.FindChildOption.FindDirectChildrenOnly)
    return notes[0].text() if notes and notes[0].isVisible() else ""
