"""Keeps a copy of unsaved work that outlives a crash.

Every session owns one snapshot file and holds a lock on it while it lives. A snapshot whose lock is
free belongs to a session that ended without tidying up: its work is offered at the next start.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import threading
import time
from dataclasses import dataclass
from pathlib import Path

import msgspec

from equilix.core.errors import FormatError
from equilix.document.book import Book
from equilix.io.format import decode_book, encode_book


@dataclass(frozen=True)
class _Note:
    """The snapshot's first line: the file that the book was opened from, and when."""

    path: str | None
    time: float


@dataclass(frozen=True, slots=True)
class Recovered:
    """Work that a session left behind."""

    snapshot: Path
    book: Book
    path: Path | None
    time: float


class Journal:
    """Writes the newest book of one session to its snapshot, in a thread of its own."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.snapshot = folder / f"{os.urandom(16).hex()}.snapshot"
        self._lock_path = self.snapshot.with_suffix(".lock")
        self._lock = self._lock_path.open("w")
        fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        self._wanted: tuple[Book, Path | None] | None = None
        self._ready = threading.Condition()
        self._closing = False
        self.problem = ""
        self._thread = threading.Thread(target=self._run, name="journal", daemon=True)
        self._thread.start()

    def keep(self, book: Book, path: Path | None) -> None:
        """Have `book` written soon; only the newest counts."""
        with self._ready:
            self._wanted = (book, path)
            self._ready.notify()

    def forget(self) -> None:
        """Drop the snapshot: the work is saved or not wanted."""
        with self._ready:
            self._wanted = None
            with contextlib.suppress(OSError):
                self.snapshot.unlink(missing_ok=True)

    def close(self) -> None:
        """End the session tidily."""
        with self._ready:
            self._closing = True
            self._ready.notify()
        self._thread.join(timeout=5.0)
        self.forget()
        self._lock.close()
        self._lock_path.unlink(missing_ok=True)

    def _run(self) -> None:
        while True:
            with self._ready:
                while self._wanted is None and not self._closing:
                    self._ready.wait()
                if self._closing:
                    return
                wanted = self._wanted
                self._wanted = None
            if wanted is None:
                continue
            book, path = wanted
            note = msgspec.json.encode(_Note(str(path) if path is not None else None, time.time()))
            data = note + b"\n" + encode_book(book)
            with self._ready:
                if self._wanted is not None or self._closing:
                    continue
                self._write(data)

    def _write(self, data: bytes) -> None:
        temporary = self.snapshot.with_suffix(".new")
        try:
            temporary.write_bytes(data)
            os.replace(temporary, self.snapshot)
            self.problem = ""
        except OSError as error:
            self.problem = f"Unsaved work is not being kept safe: {error.strerror}."


def left_behind(folder: Path) -> tuple[Recovered, ...]:
    """Return the work of sessions that ended without tidying up, newest first."""
    found = []
    for snapshot in folder.glob("*.snapshot"):
        if _is_held(snapshot.with_suffix(".lock")):
            continue
        with contextlib.suppress(OSError, FormatError, msgspec.DecodeError):
            head, _, body = snapshot.read_bytes().partition(b"\n")
            note = msgspec.json.decode(head, type=_Note)
            book = decode_book(body, "The recovered work")
            found.append(Recovered(snapshot, book, Path(note.path) if note.path else None, note.time))
    return tuple(sorted(found, key=lambda recovered: -recovered.time))


def discard(recovered: Recovered) -> None:
    """Delete the work that a session left behind."""
    for suffix in (".snapshot", ".lock", ".new"):
        recovered.snapshot.with_suffix(suffix).unlink(missing_ok=True)


def _is_held(lock: Path) -> bool:
    try:
        with lock.open("r+") as file:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except FileNotFoundError:
        return False
    except OSError:
        return True
    return False
