"""The window's dealings with files: opening, saving, exporting, importing, and what others do to the book's file."""

from __future__ import annotations

import os
import time
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from PySide6.QtCore import QObject

from equilix.core.errors import EquilixError
from equilix.desktop.dialogs.ask import ask, ask_path, ask_which
from equilix.desktop.files.book_watch import BookWatch
from equilix.desktop.files.left_work import LeftWork
from equilix.desktop.files.tables import TABLE_SUFFIXES, Tables
from equilix.desktop.jobs.waiting import run_job
from equilix.desktop.views.rooms import WEIGH
from equilix.document.book import Book
from equilix.io.files import SUFFIX, Fingerprint, Obstacle, Stopped, obstacle, offered_name, same_file, shown

if TYPE_CHECKING:
    from equilix.desktop.window import MainWindow
    from equilix.io.format import Opened

_FILTER = f"Equilix books (*{SUFFIX});;All files (*)"


#: The answers to what is asked, each written once.
_SAVE = "Save"
_DISCARD = "Discard"
_CANCEL = "Cancel"
_ANOTHER_NAME = "Choose another name"
_REPLACE = "Replace it"
_SAVE_AGAIN = "Save it again"
_REPLACE_ANYWAY = "Replace it"
_SAVE_MINE_AS = "Save mine as…"
_TAKE_THEIRS = "Load their version"
_DIFFERENCES = "Show differences"
_OVERWRITE = "Overwrite theirs"


class BookFiles(QObject):
    """Opens, saves and exports for one window; asks before anybody's work would be lost."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window = window
        self.workspace = window.workspace
        self.saved_at = ""
        self.tables = Tables(self)
        self.left_work = LeftWork(self)
        self.trouble: Obstacle | None = None  # what others did to the file since it was last read or written
        self._agreed: set[tuple[Path, Obstacle]] = set()
        self.watch = BookWatch(self.workspace, self)
        self.watch.found.connect(self._tell)
        self.workspace.overtaken.connect(self._ask_whose)
        self.workspace.damaged.connect(self._offer_remains)

    # Opening

    def may_drop_work(self) -> bool:
        """Ask what to do with unsaved work; return whether to go on."""
        if not self.workspace.unsaved:
            return True
        answer = ask(
            f"Save the changes to “{self.workspace.book.title}”?",
            (_SAVE, _DISCARD, _CANCEL),
            self.window,
        )
        return self.save() if answer == _SAVE else answer == _DISCARD

    def new(self) -> None:
        """Begin an empty book."""
        if self.may_drop_work():
            self.workspace.open_book(Book(), None)
            self.opened()
            self.window.go(WEIGH)

    def choose(self) -> None:
        """Ask for a file and open it."""
        name = ask_which("Open", self.folder(), _FILTER, self.window)
        if name:
            self.open(Path(name))

    def open(self, path: Path) -> None:
        """Open the file at `path`, unless it can't be read; then what is open stays."""
        if self.may_drop_work() and self.load(path):
            self.window.show_bars()

    def take(self, path: Path) -> None:
        """Take a file that was dropped on the window: a book is opened, a table of parts imported."""
        if path.suffix.casefold() in TABLE_SUFFIXES:
            self.tables.import_path(path)
        else:
            self.open(path)

    def load(self, path: Path) -> bool:
        """Open the file at `path` without a question; return whether it could be read."""
        self.window.banner.clear()
        if not self.workspace.load(path):
            return False
        self.opened()
        return True

    def opened(self) -> None:
        """Take note that another book is open."""
        self.saved_at, self.trouble = "", None
        self.watch.follow()
        if self.workspace.reading:
            self.window.banner.say(
                self.workspace.reading_words, (("Try again", self._claim_again), ("Save a copy…", self.save_as))
            )

    def _claim_again(self) -> None:
        self.workspace.claim_again()
        self.opened()
        self.window.show_bars()

    def _offer_remains(self, path: Path, words: str) -> None:
        self.window.banner.say(words, (("Open the readable part", lambda: self.open_remains(path)),))

    def open_remains(self, path: Path) -> None:
        """Open what can be read of a damaged book, as a copy that has no file yet."""
        from equilix.io.salvage import salvage

        if not self.may_drop_work():
            return
        try:
            found = run_job(f"Reading the readable part of {shown(path)}", lambda go_on: salvage(path, go_on))
        except EquilixError as error:
            self.window.refuse(str(error))
            return
        self.workspace.open_book(found.book, None, unsaved=True)
        self.opened()
        lost = f" Lost: {', '.join(found.lost)}." if found.lost else " Nothing is lost."
        self.window.banner.say(f"A copy of the readable part of {shown(path)} is open.{lost} The file is unchanged.")

    # Saving

    def save(self) -> bool:
        """Save to the book's file; ask for one if it has none. Return whether it is saved."""
        path = self.workspace.path
        if path is None or self.workspace.reading:
            return self.save_as()
        return self.save_to(path)

    def save_as(self) -> bool:
        """Ask for a file and save to it. Return whether it is saved."""
        path = self.ask_where("Save as", self.workspace.book.title, SUFFIX, _FILTER)
        return path is not None and self.save_to(path)

    def ask_where(self, title: str, stem: str, suffix: str, kinds: str) -> Path | None:
        """Ask for a file to write to; return its path, with an ending, or None.

        The dialog asks before it replaces what it was given, not what becomes of that with an ending.
        """
        while True:
            suggested = str(Path(self.folder()) / offered_name(stem, suffix))
            name = ask_path(title, suggested, kinds, self.window)
            if not name:
                return None
            path = Path(name)
            if path.suffix:
                return path
            path = path.with_name(path.name + suffix)
            if not os.path.lexists(path):
                return path
            answer = ask(f"{shown(path)} is there already.", (_ANOTHER_NAME, _REPLACE, _CANCEL), self.window)
            if answer != _ANOTHER_NAME:
                return path if answer == _REPLACE else None

    def save_to(self, path: Path) -> bool:
        """Save to `path`; ask where that would replace what is not ours to replace. Return whether it is saved."""
        own = self.workspace.path
        # By another spelling, or through a link, it is the book's own file all the same.
        if own is not None and path != own and same_file(path, own):
            path = own
        found = self.may_replace(path, self.workspace.known if path == own else None)
        if isinstance(found, Path):
            return self.save_to(found)
        if found is Obstacle.CHANGED:
            return self._ask_whose()
        return found is not False and self._write(path, replace_it=found is not None)

    def may_replace(self, path: Path, known: Fingerprint | None) -> Obstacle | Path | Literal[False] | None:
        """Ask before what is not ours to replace is replaced.

        Returns what stands in the way but may be replaced, None where nothing does; Obstacle.CHANGED unasked; another
        path if one was chosen; False if nothing is to be written.
        """
        try:
            found = run_job(f"Checking {shown(path)}", lambda _go_on: obstacle(path, known))
        except Stopped:
            return False
        if found in (None, Obstacle.CHANGED) or (path, found) in self._agreed:
            return found
        assert found is not None
        words = {
            Obstacle.GONE: f"{shown(path)} is gone: moved, renamed or deleted. Save it again?",
            Obstacle.PROTECTED: f"{shown(path)} is write-protected. Save under another name?",
            Obstacle.FOREIGN: f"{shown(path)} belongs to another user. Replace it, or save under another name?",
        }[found]
        again = _SAVE_AGAIN if found is Obstacle.GONE else _REPLACE_ANYWAY
        answer = ask(words, (again, _ANOTHER_NAME, _CANCEL), self.window)
        if answer == again:
            if found is not Obstacle.GONE:
                self._agreed.add((path, found))
            return found
        if answer == _CANCEL:
            return False
        suffix = path.suffix or SUFFIX
        kinds = _FILTER if suffix == SUFFIX else f"*{suffix}"
        other = self.ask_where("Save as", self.workspace.book.title, suffix, kinds)
        return False if other is None else other

    def _write(self, path: Path, replace_it: bool = False) -> bool:
        if not self.workspace.save(path, replace_it):
            return False
        self.saved_at, self.trouble = time.strftime("%H:%M"), None
        self.watch.follow()
        self.window.banner.clear()
        self.window.show_bars()
        return True

    # What others do to the file

    def _tell(self, found: Obstacle) -> None:
        """Say at once that somebody changed the file."""
        path = self.workspace.path
        if path is None:
            return
        self.trouble = found
        if found is Obstacle.GONE:
            self.window.banner.say(
                f"{shown(path)} is gone: moved, renamed or deleted. Your work is still open here.",
                ((_SAVE_AGAIN, self.save), ("Save as…", self.save_as)),
            )
        elif not self.workspace.unsaved:
            self.window.banner.say(
                f"Somebody else changed {shown(path)}.",
                ((_TAKE_THEIRS, self.take_theirs), (_DIFFERENCES, self.show_differences)),
            )
        else:
            self.window.banner.say(
                f"Somebody else changed {shown(path)}. Your changes are here, theirs are in the file.",
                (
                    (_DIFFERENCES, self.show_differences),
                    (_TAKE_THEIRS, self.take_theirs),
                    (_SAVE_MINE_AS, self.save_as),
                ),
            )
        self.window.show_saved()

    def _ask_whose(self) -> bool:
        """Ask whose state the file is to hold; return whether the book is saved."""
        path = self.workspace.path
        if path is None:
            return False
        self.trouble = Obstacle.CHANGED
        while True:
            answer = ask(
                f"Somebody else changed {shown(path)} after you opened it. Saving overwrites that.",
                (_SAVE_MINE_AS, _TAKE_THEIRS, _DIFFERENCES, _OVERWRITE, _CANCEL),
                self.window,
            )
            if answer != _DIFFERENCES:
                break
            self.show_differences()
        if answer == _SAVE_MINE_AS:
            return self.save_as()
        if answer == _TAKE_THEIRS:
            return self.take_theirs()
        return answer == _OVERWRITE and self._write(path, replace_it=True)

    def take_theirs(self) -> bool:
        """Show the file's present state; undo brings this window's back. Return whether it could be read."""
        theirs = self._theirs()
        if theirs is None:
            return False
        self.trouble = None
        self.workspace.take_theirs(theirs)
        self.watch.follow()
        self.window.show_bars()
        self.window.say("Loaded the file’s version. Ctrl+Z brings yours back")
        return True

    def show_differences(self) -> None:
        """Show in what the file differs from the book."""
        from equilix.desktop.dialogs.differences import DifferencesDialog
        from equilix.present.book_compare import differences

        theirs = self._theirs()
        if theirs is not None:
            rows = differences(self.workspace.book, theirs.book)
            DifferencesDialog(rows, self.window).exec()

    def _theirs(self) -> Opened | None:
        from equilix.io.format import open_book

        path = self.workspace.path
        if path is None:
            return None
        try:
            return run_job(f"Reading {shown(path)}", lambda go_on: open_book(path, go_on))
        except EquilixError as error:
            self.window.refuse(str(error))
            return None

    def folder(self) -> str:
        """Return the folder that files are first looked for in."""
        return str(self.workspace.path.parent if self.workspace.path is not None else Path.home())

    def close(self) -> None:
        """Let go of the file."""
        self.watch.close()
        self.workspace.hold.give_up()
