"""Tables and sheets of the window: importing a kit, exporting kit, build, sheet and book."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject

from equilix.core.errors import EquilixError
from equilix.desktop.dialogs.ask import ask_which
from equilix.desktop.jobs.waiting import run_job
from equilix.io.claims import is_claimed
from equilix.io.files import same_file, shown
from equilix.io.preferences import claims_folder

if TYPE_CHECKING:
    from equilix.desktop.files.book_files import BookFiles

TABLE_SUFFIXES = (".csv", ".tsv", ".txt", ".xlsx", ".xlsm", ".xls", ".ods")
_TABLES = f"Tables ({' '.join(f'*{suffix}' for suffix in TABLE_SUFFIXES)});;All files (*)"


def _show_outside(path: Path) -> None:
    """Open a file or folder with the program that the desktop has for it."""
    from PySide6.QtCore import QUrl
    from PySide6.QtGui import QDesktopServices

    QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))


class Tables(QObject):
    """Imports and exports for one window."""

    def __init__(self, files: BookFiles) -> None:
        super().__init__(files)
        self._files = files
        self.window = files.window
        self.workspace = files.workspace

    def import_kit(self) -> None:
        """Ask for a table of parts and take it in."""
        name = ask_which("Import a kit", self._files.folder(), _TABLES, self.window)
        if name:
            self.import_path(Path(name))

    def import_path(self, path: Path) -> None:
        """Show what the table at `path` would change, and do it if that is wanted."""
        from equilix.core.kit.records import Method
        from equilix.desktop.dialogs.import_table import ImportDialog
        from equilix.document.edits.kit import MergeParts

        w = self.workspace
        try:
            dialog = ImportDialog(path, w.book, self.window)
        except EquilixError as error:
            self.window.refuse(str(error))
            return
        if dialog.exec() == dialog.DialogCode.Accepted:
            stamp = replace(w.stamp(), method=Method.IMPORTED, instrument=shown(path))
            edit = MergeParts(dialog.chosen_new, dialog.chosen_changed, stamp)
            if w.apply(edit):
                self.window.say(edit.done)
        dialog.deleteLater()

    def export_kit(self, suffix: str) -> None:
        """Export the kit as a table."""
        book = self.workspace.book

        def write(path: Path) -> None:
            from equilix.exports.kit_table import write_kit

            write_kit(book, path)

        self.export("Export the kit", suffix, write, book.title)

    def export_sheet(self) -> None:
        """Export the build sheet."""
        w = self.workspace
        analysis, book, operator, system, date = w.analysis(), w.book, w.operator, w.system, w.date
        if analysis is None:
            return

        def write(path: Path) -> None:
            from equilix.exports.sheet_pdf import write_build_sheet

            write_build_sheet(path, book, analysis, operator, system, date)

        self.export("Save the build sheet", ".pdf", write, analysis.build.name)

    def export_build(self) -> None:
        """Export the build as the parts table that `equilix analyse` reads."""
        analysis = self.workspace.analysis()
        if analysis is None:
            return

        def write(path: Path) -> None:
            from equilix.exports.build_csv import write_build_csv

            write_build_csv(path, analysis)

        self.export("Export the build", ".csv", write, analysis.build.name)

    def export_json(self) -> None:
        """Export the whole book as JSON."""
        book = self.workspace.book

        def write(path: Path) -> None:
            from equilix.io.format import write_book

            write_book(book, path)

        self.export("Export the whole book", ".json", write, book.title)

    def export(self, title: str, suffix: str, write: Callable[[Path], None], stem: str) -> None:
        """Ask for a file and have it written."""
        path = self._files.ask_where(title, stem, suffix, f"*{suffix}")
        while path is not None:
            if self._is_a_book_in_use(path):
                return
            found = self._files.may_replace(path, None)
            if not isinstance(found, Path):
                break
            path = found
        if path is None or found is False:
            return
        there = path
        try:
            run_job(f"Writing {shown(path)}", lambda _go_on: write(there))
        except EquilixError as error:
            self.window.refuse(str(error))
            return
        self.window.offer(
            f"Exported {shown(path)} to {path.parent}",
            (("Open it", partial(_show_outside, path)), ("Show the folder", partial(_show_outside, path.parent))),
        )

    def _is_a_book_in_use(self, path: Path) -> bool:
        """Whether `path` is, by whatever name, a book that is open here or in another window; then say so."""
        own = self.workspace.path
        if own is not None and same_file(path, own):
            self.window.refuse(f"{shown(path)} is the open book. Export to another file.")
            return True
        if path.exists() and is_claimed(claims_folder(), path):
            self.window.refuse(f"{shown(path)} is open in another window. Export to another file.")
            return True
        return False
