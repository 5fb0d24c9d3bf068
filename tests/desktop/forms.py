"""Fills the form of a build."""

from __future__ import annotations

from typing import Any
from unittest import mock

from PySide6.QtWidgets import QDialog

from equilix.desktop.dialogs.forms import BuildDialog


def fill(values: dict[str, str], place: int | None = None) -> Any:
    """Return what fills in the form of a build and accepts it."""

    def execute(dialog: BuildDialog) -> int:
        for name, text in values.items():
            dialog.fields[name].setText(text)
        if place is not None:
            dialog.place.setCurrentIndex(place)
        dialog.accept()
        return QDialog.DialogCode.Accepted if not dialog.problem.text() else QDialog.DialogCode.Rejected

    return mock.patch.object(BuildDialog, "exec", execute)
