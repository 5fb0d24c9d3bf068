"""Faults in the window: logged, told once in the banner, and shown in words where something can't be drawn."""

from __future__ import annotations

import sys
import traceback
from collections.abc import Callable
from functools import wraps
from types import TracebackType
from typing import Any, TypeVar

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QWidget

from equilix.desktop.looks.theme import colors, fill, font
from equilix.io.log import Faults, log_file

#: What stands in the place of a drawing that failed.
CANNOT_BE_SHOWN = "This can’t be shown. Your work is kept."

_Widget = TypeVar("_Widget", bound=QWidget)
_Event = TypeVar("_Event", bound=QEvent)
_faults = Faults()
_tell: list[Callable[[str], object]] = []
#: Counts the states that were shown: what failed is tried again with the next one, not before.
_shown = [0]


def words_of_fault() -> str:
    """Return what the window says after a fault."""
    return (
        "Something in Equilix failed. Your work is kept; save it now and start again. "
        f"What happened is written in {log_file()}."
    )


def hook_faults(tell: Callable[[str], object]) -> None:
    """Have every fault logged, and each told once by `tell`."""
    _tell[:] = [tell]
    sys.excepthook = _met


def _met(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    if _faults.write(kind, error, trace):
        for tell in _tell:
            tell(words_of_fault())


def report_fault(error: BaseException) -> None:
    """Report a fault that was caught, as one that wasn't would be; what its frames hold is let go."""
    sys.excepthook(type(error), error, error.__traceback__)
    # A painter that is still at work would keep its widget from being painted.
    traceback.clear_frames(error.__traceback__)


def another_state() -> None:
    """Note that something else is shown from now on: what failed may be tried again."""
    _shown[0] += 1


def shown_once(handler: Callable[[_Widget, _Event], None]) -> Callable[[_Widget, _Event], None]:
    """Return a handler of paint or resize events that says in words, in its place, that it failed.

    Qt calls such a handler whenever it likes: one that fails is not called again until something else is shown.
    """
    failed = f"_{handler.__name__}_failed"

    @wraps(handler)
    def guarded(self: _Widget, event: _Event) -> None:
        if getattr(self, failed, None) != _shown[0]:
            try:
                handler(self, event)
            except Exception as error:  # noqa: BLE001 - whatever it is, the window must stay usable
                setattr(self, failed, _shown[0])
                report_fault(error)
            else:
                return
        if event.type() == QEvent.Type.Paint:
            _paint_words(self)

    guarded.shown_once = True  # type: ignore[attr-defined]
    return guarded


def _paint_words(widget: QWidget) -> None:
    painter = QPainter(widget)
    fill(painter, widget.rect(), "paper")
    painter.setPen(QColor(colors()["ink2"]))
    painter.setFont(font(14, 400))
    flags: Any = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
    painter.drawText(widget.rect(), flags, CANNOT_BE_SHOWN)
    painter.end()
