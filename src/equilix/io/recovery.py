"""Keeps a copy of unsaved work that outlives a crash.

Every session owns one snapshot file and holds a claim on it while it lives. A snapshot whose claim is
free belongs to a session that ended without tidying up: its work is offered at the next start, to one window only.

A snapshot is lines of JSON: where the book belongs, the whole book, and then for each state that followed the lists
that changed in it. So a slide that is dragged in a book of thousands of parts costs the disk some kilobytes, and a line
that a kill cut short costs that one state.
"""

from __future__ import annotations

import contextlib
import errno
import os
import threading
import time
from pathlib import Path

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.errors import FormatError
from equilix.document.book import Book
from equilix.io.claims import Claim, make_private
from equilix.io.files import Fingerprint, read_ordinary, why

#: s between two snapshots, after a failed one, and between two that are forced onto the disk.
_PAUSE, _RETRY, _SYNC = 0.02, 1.0, 3.0
#: s in which a book that was opened is drawn.
_DRAWN = 0.25
#: s that is waited for the thread to finish what it writes.
_TURN = 0.02
#: s between looks whether the snapshot is still there.
_LOOK = 1.0
#: Bytes that a snapshot may grow by before it is written anew.
_ROOM = 24_000_000
#: Things in a list that are written at once when one of them changes; s that this may take, also on a busy machine,
#: and for which it is then left to the thread.
_SMALL, _SLOW, _SLOW_FOR = 500, 0.25, 30.0


class _Note(Struct, frozen=True):
    """A snapshot's first line: the file that the book was opened from, what that was then, and when."""

    path: str | None
    time: float
    known: Fingerprint | None = None
    clean: bool = False  # nothing in it is unsaved


class Recovered(Struct, frozen=True, eq=False):
    """Work that a session left behind, claimed by this one; `book` is None if it can't be read, for a `reason`."""

    snapshot: Path
    claim: Claim
    time: float
    book: Book | None = None
    path: Path | None = None
    known: Fingerprint | None = None
    reason: str = ""

    def discard(self) -> None:
        """Delete the work."""
        for path in (self.snapshot, self.snapshot.with_suffix(".new")):
            with contextlib.suppress(OSError):
                path.unlink(missing_ok=True)
        self.claim.release()


class _Work(Struct, frozen=True):
    book: Book
    path: Path | None
    known: Fingerprint | None
    clean: bool = False


class Journal:
    """Writes the newest book of one session to its snapshot.

    A small change to what is on the disk already is added at once, by whoever makes it: so it is safe however busy all
    other threads are. What is long, or was slow, is left to a thread.

    Raises OSError when it is made if the folder can't be written.
    """

    def __init__(self, folder: Path) -> None:
        make_private(folder)
        self.snapshot = folder / f"{os.urandom(16).hex()}.snapshot"
        claim = Claim.take(self.snapshot.with_suffix(".lock"))
        if claim is None:  # nobody else draws the same 128 bits
            raise OSError("the snapshot is claimed")
        self._claim = claim
        self._ready = threading.Condition()
        self._wanted: _Work | None = None
        self._asked = 0  # numbers of what was asked for and of what was done last
        self._done = 0
        self._closing = False
        self._synced = 0.0
        # What the snapshot holds: each list with its JSON, and what else a state is made of.
        self._lists: dict[str, tuple[object, msgspec.Raw]] = {}
        self._head: object = None
        self._file = -1
        self._grown, self._room = 0, 0  # bytes
        self._looked = 0.0
        self._disk = threading.Lock()  # held by whoever writes
        self._slow_until = 0.0
        self.problem = ""
        self._thread = threading.Thread(target=self._run, name="journal", daemon=True)
        self._thread.start()

    def keep(self, book: Book, path: Path | None, known: Fingerprint | None = None) -> None:
        """Have `book` written, with the file it belongs to; only the newest counts."""
        self._keep(_Work(book, path, known))

    def settle(self, book: Book, path: Path | None, known: Fingerprint | None = None) -> None:
        """Note that `book` is saved, or not worth it: nothing is to be offered. What follows is added to it."""
        self._keep(_Work(book, path, known, clean=True))

    def forget(self) -> None:
        """Drop the snapshot soon."""
        self._ask(None)

    def _keep(self, work: _Work) -> None:
        if not self._add_at_once(work):
            self._ask(work)

    def _add_at_once(self, work: _Work) -> bool:
        """Add a small change to what is on the disk, or begin with a small book; return whether that was done."""
        if time.monotonic() < self._slow_until or not self._disk.acquire(timeout=_TURN):
            return False
        try:
            # The first edit of a book that was drawn before it was written must not wait for a thread either.
            begins = not self._lists and not work.clean
            if not (begins or self._goes_on(work)):
                return False
            from equilix.io.format import ITEMS

            if any(
                len(getattr(work.book, key)) > _SMALL
                and (key not in self._lists or getattr(work.book, key) is not self._lists[key][0])
                for key in ITEMS
            ):
                return False
            began = time.monotonic()
            if self._write(work):
                return False  # the thread tries again, and says why if it can't either
            if time.monotonic() - began > _SLOW:
                self._slow_until = time.monotonic() + _SLOW_FOR
            with self._ready:
                self._wanted, self.problem = work, ""
                self._asked += 1
                self._done = self._asked
                self._ready.notify_all()
            return True
        finally:
            self._disk.release()

    def _ask(self, work: _Work | None) -> None:
        with self._ready:
            self._wanted = work
            self._asked += 1
            self._ready.notify_all()

    @property
    def settled(self) -> bool:
        """Whether what was asked for last is on the disk."""
        with self._ready:
            return self._done == self._asked

    def wait(self, seconds: float) -> bool:
        """Wait until what was asked for last is on the disk, at most so long; return whether it is."""
        with self._ready:
            return self._ready.wait_for(lambda: self._done == self._asked, seconds)

    def close(self, keep: bool = False, seconds: float = 5.0) -> None:
        """End the session; with `keep`, leave the work for the next one to offer."""
        if not keep:
            self.forget()
        self.wait(seconds)
        with self._ready:
            self._closing = True
            self._ready.notify_all()
        self._thread.join(timeout=1.0)
        if keep:
            self._claim.leave()
        else:
            self._claim.release()

    def _run(self) -> None:
        while True:
            with self._ready:
                self._ready.wait_for(lambda: self._asked != self._done or self._closing)
                if not self._lists:
                    # A book that has just been opened: drawing it comes first, unless there is something to lose.
                    self._ready.wait_for(self._is_pressing, _DRAWN)
                if self._closing:
                    return
            with self._disk:
                with self._ready:
                    work, number = self._wanted, self._asked
                    if number == self._done:
                        continue  # it was added at once meanwhile
                problem = self._drop() if work is None else self._write(work)
                with self._ready:
                    self.problem = problem
                    if not problem:
                        # What came in meanwhile is newer; this one is on the disk all the same.
                        self._done = number
                        self._ready.notify_all()
            with self._ready:
                self._ready.wait_for(self._is_urgent, _PAUSE)
                if problem and self._asked == number:
                    # A new wish is reason to try again, and so is time.
                    self._ready.wait(_RETRY)

    def _is_pressing(self) -> bool:
        """Whether anything could be lost, or it is to end, or to drop the snapshot."""
        return self._closing or self._wanted is None or not self._wanted.clean

    def _is_urgent(self) -> bool:
        """Whether it is to end, or to drop the snapshot: neither waits for its turn."""
        return self._closing or (self._wanted is None and self._asked != self._done)

    def _drop(self) -> str:
        self._let_go()
        with contextlib.suppress(OSError):
            self.snapshot.unlink(missing_ok=True)
        return ""

    def _goes_on(self, work: _Work) -> bool:
        """Whether a state can be added to what is on the disk."""
        return bool(self._lists) and self._file >= 0 and self._grown < self._room

    def _write(self, work: _Work) -> str:
        from equilix.io.format import encoded_lists

        goes_on = self._goes_on(work)
        lists = encoded_lists(work.book, self._lists)
        before, self._lists = self._lists, {}  # not known to be on the disk until it is
        try:
            if goes_on:
                changed = {key: raw for key, (things, raw) in lists.items() if before[key][0] is not things}
                state: dict[str, object] = {"time": time.time(), "clean": work.clean, "title": work.book.title}
                if self._head != _head(work):  # it was saved, perhaps elsewhere
                    state |= {"note": _note(work), "currency": work.book.currency}
                line = msgspec.json.encode(state | changed) + b"\n"
                self._append(line)
            else:
                self._begin(work, {key: raw for key, (_, raw) in lists.items()})
        except (OSError, MemoryError) as error:
            self._let_go()
            reason = why(error) if isinstance(error, OSError) else "no memory is left"
            return f"Unsaved work is not kept safe: {reason}. Save now."
        self._lists, self._head = lists, _head(work)
        if time.monotonic() - self._synced > _SYNC:
            self._synced = time.monotonic()
            # A slow disk must not hold up the next state: what a kill could lose is in memory, not on the disk.
            threading.Thread(target=self._sync, name="journal sync", daemon=True).start()
        return ""

    def _begin(self, work: _Work, lists: dict[str, msgspec.Raw]) -> None:
        """Put a new snapshot in the place of the old one."""
        from equilix.io.format import encode_compact

        data = msgspec.json.encode(_note(work)) + b"\n" + encode_compact(work.book, lists) + b"\n"
        self._let_go()
        temporary = self.snapshot.with_suffix(".new")
        make_private(temporary.parent)
        try:
            write_private(temporary, data)
            os.replace(temporary, self.snapshot)
        except OSError:
            with contextlib.suppress(OSError):
                temporary.unlink(missing_ok=True)
            raise
        self._file = os.open(self.snapshot, os.O_WRONLY | os.O_APPEND | os.O_CLOEXEC)
        self._grown, self._room = 0, _ROOM

    def _append(self, line: bytes) -> None:
        """Add a state; one that does not fit any more leaves no trace, and a snapshot that was deleted is noticed."""
        # Seldom: each call to the system means to wait for the interpreter again, which a drag keeps busy.
        if time.monotonic() - self._looked > _LOOK:
            self._looked = time.monotonic()
            if os.fstat(self._file).st_nlink == 0:
                raise FileNotFoundError(errno.ENOENT, "the snapshot is gone")
        written = os.write(self._file, line)
        while written < len(line):
            written += os.write(self._file, memoryview(line)[written:])
        self._grown += len(line)

    def _let_go(self) -> None:
        """Forget what is on the disk; the next state is written whole."""
        self._lists = {}
        if self._file >= 0:
            os.close(self._file)
            self._file = -1

    def _sync(self) -> None:
        with contextlib.suppress(OSError):
            handle = os.open(self.snapshot, os.O_RDONLY | os.O_CLOEXEC)
            try:
                os.fsync(handle)
            finally:
                os.close(handle)


def write_private(path: Path, data: bytes) -> None:
    """Write a file that only its owner may read: people's names, mass and strength are in it."""
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC | os.O_CLOEXEC, 0o600)
    with os.fdopen(handle, "wb") as file:
        os.fchmod(handle, 0o600)
        file.write(data)


def _note(work: _Work) -> _Note:
    # A file's name is bytes, of any code.
    name = os.fsencode(work.path).decode("latin-1") if work.path is not None else None
    return _Note(name, time.time(), work.known, work.clean)


def _head(work: _Work) -> object:
    """Return what stays the same from state to state until the book is saved."""
    return (work.path, work.known, work.book.currency)


def left_behind(folder: Path) -> tuple[Recovered, ...]:
    """Claim and return the work of sessions that ended without tidying up, newest first; what else they left is tidied.

    Work that its file holds already was saved: it is tidied too.
    """
    found = []
    for snapshot in sorted(folder.glob("*.snapshot")):
        with contextlib.suppress(OSError):
            claim = Claim.take(snapshot.with_suffix(".lock"))
            if claim is None:
                continue
            work, clean = _read(snapshot, claim)
            if clean or (work.book is not None and _is_saved(work)):
                work.discard()
            else:
                found.append(work)
    claimed = {work.snapshot for work in found}
    for left in (*folder.glob("*.lock"), *folder.glob("*.new")):
        if left.with_suffix(".snapshot") in claimed:
            continue
        with contextlib.suppress(OSError):
            claim = Claim.take(left.with_suffix(".lock"))
            if claim is not None:
                if not left.with_suffix(".snapshot").exists():
                    left.with_suffix(".new").unlink(missing_ok=True)
                claim.release()
    return tuple(sorted(found, key=lambda work: -work.time))


def _read(snapshot: Path, claim: Claim) -> tuple[Recovered, bool]:
    """Return what a snapshot holds, and whether that is nothing unsaved."""
    from equilix.io.format import MAX_FILE, decode_book

    when = snapshot.stat().st_mtime
    try:
        data = read_ordinary(snapshot, MAX_FILE + 2 * _ROOM)
        note, content, when = _newest(data, when)
        if note.clean:
            return Recovered(snapshot, claim, when), True
        path = _path(note.path)
        book = decode_book(content, "the recovered work")
    except FormatError as error:
        return Recovered(snapshot, claim, when, reason=str(error)), False
    except (msgspec.DecodeError, UnicodeError, RecursionError, IndexError):
        return Recovered(snapshot, claim, when, reason="its first line is damaged"), False
    return Recovered(snapshot, claim, when, book, path, note.known), False


def _newest(data: bytes, when: float) -> tuple[_Note, bytes, float]:
    """Return a snapshot's note, the newest whole state in it as a book's JSON, and when that was."""
    lines = data.split(b"\n")
    note = msgspec.json.decode(lines[0], type=_Note)
    content: dict[str, msgspec.Raw] = {}
    with contextlib.suppress(msgspec.DecodeError, UnicodeError):
        content = msgspec.json.decode(lines[1], type=dict[str, msgspec.Raw])
    if not content:
        return note, lines[1], when
    when = note.time
    # What stands behind the last line's end was cut short.
    for line in lines[2:-1]:
        try:
            change = msgspec.json.decode(line, type=dict[str, msgspec.Raw])
            when = msgspec.json.decode(change.pop("time"), type=float)
            clean = msgspec.json.decode(change.pop("clean"), type=bool)
            if "note" in change:
                note = msgspec.json.decode(change.pop("note"), type=_Note)
        except (msgspec.DecodeError, UnicodeError, KeyError):
            break
        note = replace(note, clean=clean)
        content |= change
    return note, msgspec.json.encode(content), when


def _path(name: str | None) -> Path | None:
    return Path(os.fsdecode(name.encode("latin-1"))) if name else None


def _is_saved(work: Recovered) -> bool:
    """Whether the book's file holds this work: killed right after a save, a session leaves its snapshot."""
    from equilix.io.format import MAX_FILE, decode_book

    if work.path is None:
        return False
    try:
        data = read_ordinary(work.path, MAX_FILE)
        return decode_book(data, "") == work.book
    except FormatError:
        return False
