"""Questions in a box of their own: what to do, in plain text whatever names it holds, and which file.

The boxes are loaded when the first is shown: few starts show one.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

if TYPE_CHECKING:
    from PySide6.QtWidgets import QMessageBox, QWidget


def ask(words: str, answers: tuple[str, ...], parent: QWidget | None) -> str:
    """Return which of the `answers` was chosen; the last one for Escape, the first one for Enter."""
    from PySide6.QtWidgets import QMessageBox

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
    from PySide6.QtWidgets import QMessageBox

    box = QMessageBox(parent)
    box.setWindowTitle("Equilix")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(words)
    return box


def ask_which(title: str, folder: str, kinds: str, parent: QWidget | None) -> str:
    """Return the path of the file that was chosen to be read, "" for none; `kinds` as "Name (*.a *.b);;Name (*)"."""
    from PySide6.QtWidgets import QFileDialog

    return QFileDialog.getOpenFileName(parent, title, folder, kinds)[0]


def ask_path(title: str, suggested: str, kinds: str, parent: QWidget | None) -> str:
    """Return the path that was chosen to be written to, "" for none."""
    from PySide6.QtWidgets import QFileDialog

    return QFileDialog.getSaveFileName(parent, title, suggested, kinds)[0]
