"""Names are text everywhere: whatever a name holds, it is shown as it is and nothing in it is obeyed."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPoint
from PySide6.QtGui import QFontMetrics, QFontMetricsF
from PySide6.QtWidgets import QToolTip, QWidget

from equilix.present.drawing.scene import cut_to_fit

#: Characters of a tip; more than anybody reads in one.
_MOST = 1_000


class _HasTip(Protocol):
    def setToolTip(self, text: str, /) -> None: ...


def as_tip(text: str) -> str:
    """Return `text` for a tip: Qt would load an image or a pipe that a name speaks of, if it took it for markup."""
    if len(text) > _MOST:
        text = f"{text[:_MOST]}…"
    if "<" not in text:
        return text  # Qt takes nothing else for markup
    import html

    return f'<p style="white-space:pre-wrap">{html.escape(text)}</p>'


def set_tip(thing: _HasTip, text: str) -> None:
    """Give a widget, a table's cell or an action a tip."""
    thing.setToolTip(as_tip(text))


def show_tip(place: QPoint, text: str, widget: QWidget) -> None:
    """Show a tip at a place on the screen; none for an empty text."""
    QToolTip.showText(place, as_tip(text), widget)


def as_item(text: str) -> str:
    """Return `text` for a menu's entry or a button, where one & would mark a key."""
    return text.replace("&", "&&")


def as_title(text: str) -> str:
    """Return `text` for a window's title, where [*] would stand for the mark of changes."""
    return text.replace("[*]", "[*][*]")


def cut(text: str, metrics: QFontMetrics | QFontMetricsF, width: float) -> str:
    """Return `text`, with three dots where it is wider than `width` px, never cut in a figure or before its unit."""
    if metrics.horizontalAdvance(text) <= width:
        return text
    return cut_to_fit(text.replace("\u00a0", " "), lambda part: metrics.horizontalAdvance(part) <= width)
