"""A question in a box of its own, in plain text whatever names it holds."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMessageBox, QWidget


def ask(words: str, answers: tuple[str, ...], parent: QWidget | None) -> str:
    """Return which of the `answers` was chosen; the last one for Escape, the first one for Enter."""
    box = plain_box(words, parent)
    roles = QMessageBox.ButtonRole
    buttons = {}
    for number, answer in enumerate(answers):
        last = number == len(answers) - 1
        role = roles.AcceptRole if number == 0 else roles.RejectRole if last else roles.DestructiveRole
        buttons[answer] = box.addButton(answer, role)
    box.setDefaultButton(buttons[answers[0]])
    box.setEscapeButton(buttons[answers[-1]])
    box.exec()
    return next((answer for answer, button in buttons.items() if box.clickedButton() is button), answers[-1])


def plain_box(words: str, parent: QWidget | None) -> QMessageBox:
    """Return a box that shows `words` as they are."""
    box = QMessageBox(parent)
    box.setWindowTitle("Equilix")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(words)
    return box
