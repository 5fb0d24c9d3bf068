"""The tray of parts that fit, with what it is about above it, and why the others don't."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from equilix.core.assembly.fit import Misfit
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.labels import OneLine
from equilix.desktop.widgets.plain import as_item
from equilix.desktop.widgets.tray import Tray
from equilix.present.assembly.build_view import Offer

#: Parts that do not fit of which it is told why.
_MOST_WHY = 40


class OfferTray(QWidget):
    """`wanted` tells the number (from 0) of the offer that is put on."""

    wanted = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.parts = Tray()
        self.title = OneLine("ink", 16, 600, least=round(150 * text_scale()))
        self.note = OneLine("ink3")
        self.why = QPushButton("Show why")
        self.why.setProperty("role", "link")
        self.misfits: tuple[Misfit, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        head = QHBoxLayout()
        head.setContentsMargins(0, 4, 0, 2)
        head.setSpacing(12)
        head.addWidget(self.title)
        head.addWidget(self.note, 1)
        head.addWidget(self.why)
        column.addLayout(head)
        column.addWidget(self.parts)
        self.parts.wanted.connect(self.wanted)
        self.why.clicked.connect(self._show_why)

    def show_offers(self, title: str, note: str, offers: tuple[Offer, ...], misfits: tuple[Misfit, ...]) -> None:
        """Show what fits, under a title with a note, and offer to say why the others don't."""
        self.title.setText(title)
        self.note.setText(note)
        self.misfits = misfits
        others = len(misfits)
        self.why.setVisible(others > 0)
        self.why.setText(f"{others} {'does' if others == 1 else 'do'} not fit. Show why")
        if title:
            self.parts.setFixedHeight(round(96 * text_scale()))
        self.parts.show_offers(offers)

    def _show_why(self) -> None:
        menu = QMenu(self)
        for misfit in self.misfits[:_MOST_WHY]:
            action = menu.addAction(as_item(f"{misfit.part.name} {misfit.reason}"))
            action.setEnabled(False)
        menu.exec(self.why.mapToGlobal(self.why.rect().topLeft()))
