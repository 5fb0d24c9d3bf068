"""Claims on things that only one window at a time may have; they end with the process, however it ends."""

from __future__ import annotations

import contextlib
import fcntl
import os
from pathlib import Path

import msgspec

from equilix.io.files import digest


def make_private(folder: Path) -> None:
    """Make a folder that only its owner may look into. OSError if it can't be made."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    with contextlib.suppress(OSError):
        if folder.stat().st_mode & 0o077:
            folder.chmod(0o700)


class Claim:
    """A lock on a small file of its own. What the file says is for the others to read."""

    def __init__(self, path: Path, handle: int) -> None:
        self.path = path
        self._handle = handle

    @classmethod
    def take(cls, path: Path) -> Claim | None:
        """Return the claim, None if somebody else has it. OSError if the folder can't be written."""
        make_private(path.parent)
        while True:
            handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NOFOLLOW, 0o600)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                # Its last owner may have removed the file between our opening and our locking it.
                if os.fstat(handle).st_ino == os.stat(path).st_ino:
                    return cls(path, handle)
            except FileNotFoundError:
                pass
            except BlockingIOError:
                os.close(handle)
                return None
            except BaseException:
                os.close(handle)
                raise
            os.close(handle)

    def say(self, text: bytes) -> None:
        """Leave a word for those who find it taken."""
        with contextlib.suppress(OSError):
            os.ftruncate(self._handle, 0)
            os.pwrite(self._handle, text, 0)

    def release(self) -> None:
        """Give it up and remove the file; harmless if it was given up before."""
        if self._handle < 0:
            return
        with contextlib.suppress(OSError):
            self.path.unlink()
        os.close(self._handle)
        self._handle = -1

    def leave(self) -> None:
        """Give it up but leave the file, as the end of the process would."""
        if self._handle >= 0:
            os.close(self._handle)
            self._handle = -1


def claim_book(folder: Path, book: Path, since: str) -> Claim | str | None:
    """Claim the book at the path `book` for this window, with claims kept in `folder`.

    Returns the claim; or since when another window has the book, in its own words; or None where no claims can be kept.
    """
    try:
        lock = folder / f"{digest(os.fsencode(book.resolve()))}.lock"
        claim = Claim.take(lock)
    except (OSError, RuntimeError):
        return None
    if claim is not None:
        claim.say(msgspec.json.encode({"since": since}))
        return claim
    with contextlib.suppress(OSError, msgspec.DecodeError):
        said = msgspec.json.decode(lock.read_bytes()[:1000])
        if isinstance(said, dict) and isinstance(said.get("since"), str):
            return "".join(sign for sign in str(said["since"])[:40] if sign.isprintable())
    return ""


def is_claimed(folder: Path, book: Path) -> bool:
    """Whether a window, this one or another, has the book at the path `book`."""
    found = claim_book(folder, book, "")
    if isinstance(found, Claim):
        found.release()
    return isinstance(found, str)


def tidy_claims(folder: Path) -> None:
    """Remove the claims of processes that are gone."""
    with contextlib.suppress(OSError):
        for path in folder.glob("*.lock"):
            with contextlib.suppress(OSError):
                claim = Claim.take(path)
                if claim is not None:
                    claim.release()
