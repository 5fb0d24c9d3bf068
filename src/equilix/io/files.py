"""Files on disk: only ordinary ones are read, within bounds; they are written whole or not at all, and known again."""

from __future__ import annotations

import contextlib
import errno
import fcntl
import os
import re
import stat
import time
import unicodedata
from collections.abc import Callable
from enum import StrEnum
from pathlib import Path

from msgspec import Struct

from equilix.core.errors import EquilixError, FormatError, NotWritten
from equilix.core.limits import is_plain

#: Told how far the work is (0 to 1); returns whether to go on.
GoOn = Callable[[float], bool]
_PIECE = 1 << 20
#: What a book's file ends in.
SUFFIX = ".equilix"
#: s after which a leftover of a killed save is old enough to be tidied.
_STALE = 3600.0
#: Bytes of a file's name, on every usual file system.
_MAX_NAME = 255


class Stopped(EquilixError):
    """The user stopped the work."""


class ChangedOnDisk(FormatError):
    """The file isn't what it was when it was opened."""


def never_stop(_share: float) -> bool:
    """Go on."""
    return True


def go_on_or_stop(go_on: GoOn, share: float) -> None:
    """Raise Stopped if the work is no longer wanted."""
    if not go_on(share):
        raise Stopped("Stopped.")


def shown(path: Path) -> str:
    """Return a file's name as it may stand in a sentence: one line, printable, of a bearable length."""
    name = path.name or str(path)
    name = "".join(c if is_plain(c) else "?" for c in name)
    return name if len(name) <= 80 else f"{name[:50]}…{name[-20:]}"


_WHY = {
    errno.ENOSPC: "the disk is full",
    errno.EDQUOT: "your disk quota is used up",
    errno.EROFS: "the disk is write-protected",
    errno.EACCES: "its folder is write-protected",
    errno.EPERM: "its folder is write-protected",
    errno.ENOENT: "its folder does not exist",
    errno.ENOTDIR: "its folder does not exist",
    errno.EISDIR: "it is a folder",
    errno.EIO: "the disk reports an error",
    errno.ENAMETOOLONG: "its name is too long",
    errno.EFBIG: "it is larger than this disk takes",
    errno.ELOOP: "it is a link to itself",
    errno.ESTALE: "the network folder is gone",
    errno.ENOTCONN: "the network folder is gone",
    errno.EHOSTDOWN: "the network folder is gone",
}


def why(error: OSError) -> str:
    """Return what went wrong with a file in plain words."""
    return _WHY.get(error.errno or 0, (error.strerror or "it can't be reached").lower())


# Knowing a file again


class Fingerprint(Struct, frozen=True):
    """What a file was when it was last read or written; `digest` is BLAKE2 over its bytes, in hex."""

    size: int
    modified: int  # ns
    inode: int
    device: int
    digest: str
    changed: int = 0  # ns; nobody can put it back, as `modified` can be


def _fingerprint(status: os.stat_result, data: bytes) -> Fingerprint:
    return Fingerprint(
        status.st_size, status.st_mtime_ns, status.st_ino, status.st_dev, digest(data), status.st_ctime_ns
    )


def digest(data: bytes) -> str:
    """Return the BLAKE2 digest of `data`, in hex."""
    import hashlib

    return hashlib.blake2b(data, digest_size=20).hexdigest()


class Obstacle(StrEnum):
    """Why a file can't be replaced without a question."""

    CHANGED = "changed"
    GONE = "gone"
    PROTECTED = "protected"
    FOREIGN = "foreign"


def obstacle(path: Path, known: Fingerprint | None) -> Obstacle | None:
    """Return what stands in the way of replacing `path`, which was `known` when last seen (None: never seen)."""
    try:
        status = path.stat()
    except FileNotFoundError:
        return Obstacle.GONE if known is not None else None
    except OSError:
        return None  # writing will say why
    if known is not None and not is_still(path, known):
        return Obstacle.CHANGED
    if stat.S_ISREG(status.st_mode):
        # Root may write anything; the bits still say what somebody wanted.
        if not status.st_mode & 0o222 or not os.access(path, os.W_OK):
            return Obstacle.PROTECTED
        if status.st_uid != os.geteuid():
            return Obstacle.FOREIGN
    return None


def same_file(one: Path, other: Path) -> bool:
    """Whether two paths lead to the same file, however they are spelled and through whatever links."""
    try:
        return os.path.samefile(one, other)
    except (OSError, ValueError):
        return one == other


def is_still(path: Path, known: Fingerprint) -> bool:
    """Whether the file at `path` holds what it held when it was `known`; a file written anew with the same is."""
    try:
        status = path.stat()
        if (status.st_size, status.st_mtime_ns, status.st_ino, status.st_dev, status.st_ctime_ns) == (
            known.size,
            known.modified,
            known.inode,
            known.device,
            known.changed,
        ):
            return True
        return status.st_size == known.size and digest(read_ordinary(path, known.size)) == known.digest
    except (OSError, FormatError):
        return False


# Reading


def open_ordinary(path: Path) -> tuple[int, os.stat_result]:
    """Open a file for reading and return its descriptor and status.

    Raises
    ------
    FormatError
        If it is not there, may not be read, or is no ordinary file: a pipe or a device would never end.
    """
    name = shown(path)
    handle = -1
    try:
        _refuse_odd(path.stat(), name)
        # What it is may change between the look and the opening; then it must not wait either.
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_NOCTTY | os.O_CLOEXEC)
        status = os.fstat(handle)
        _refuse_odd(status, name)
    except FormatError:
        if handle >= 0:
            os.close(handle)
        raise
    except FileNotFoundError:
        raise FormatError(f"{name} does not exist. Check whether it was moved or renamed.") from None
    except PermissionError:
        raise FormatError(f"You may not read {name}. Check its permissions.") from None
    except ValueError:
        raise FormatError(f"{name} is not a file name. Type another.") from None
    except OSError as error:
        if error.errno == errno.ELOOP:
            raise FormatError(f"{name} is a link to itself. Choose a file.") from None
        raise FormatError(f"{name} cannot be read: {why(error)}.") from None
    return handle, status


def _refuse_odd(status: os.stat_result, name: str) -> None:
    if stat.S_ISDIR(status.st_mode):
        raise FormatError(f"{name} is a folder. Choose a file.")
    if not stat.S_ISREG(status.st_mode):
        raise FormatError(f"{name} is a pipe or a device. Choose a file.")


def read_known(path: Path, limit: int, go_on: GoOn = never_stop) -> tuple[bytes, Fingerprint]:
    """Return the bytes of an ordinary file, see `read_ordinary`, and what it is known by."""
    data, status = _read(path, limit, go_on)
    return data, _fingerprint(status, data)


def read_ordinary(path: Path, limit: int, go_on: GoOn = never_stop) -> bytes:
    """Return the bytes of an ordinary file.

    Raises
    ------
    FormatError
        If it can't be read, or holds more than `limit` bytes.
    Stopped
        If `go_on` says so.
    """
    return _read(path, limit, go_on)[0]


def _read(path: Path, limit: int, go_on: GoOn) -> tuple[bytes, os.stat_result]:
    handle, status = open_ordinary(path)
    with os.fdopen(handle, "rb", buffering=0) as file:
        too_large = FormatError(f"{shown(path)} is larger than {max(limit // 1000000, 1)} MB. Choose a smaller file.")
        if status.st_size > limit:
            raise too_large
        pieces = bytearray()
        while True:
            go_on_or_stop(go_on, min(len(pieces) / max(status.st_size, 1), 1.0))
            try:
                piece = file.read(_PIECE)
            except OSError as error:
                raise FormatError(f"{shown(path)} cannot be read: {why(error)}.") from None
            if not piece:
                break
            pieces += piece
            # It may grow while it is read.
            if len(pieces) > limit:
                raise too_large
    return bytes(pieces), status


# Writing


class Unchecked:
    """Stands for: replace whatever is there."""


UNCHECKED = Unchecked()


def write_whole(
    data: bytes, path: Path, known: Fingerprint | Unchecked | None = UNCHECKED, go_on: GoOn = never_stop
) -> Fingerprint:
    """Write `data` to `path` in one move and return what the new file is known by.

    With `known`, the file must still be that one (None: must not be there) at the moment it is replaced.

    Raises
    ------
    FormatError
        If it can't be written; the old file is untouched.
    ChangedOnDisk
        If the file is not `known` any more.
    Stopped
        If `go_on` says so before the old file is replaced.
    """
    temporary: Path | None = None
    handle = -1
    try:
        target = path.resolve()  # a link stays a link
        old = target.stat() if target.exists() else None
        if old is not None and not stat.S_ISREG(old.st_mode):
            kind = "a folder" if stat.S_ISDIR(old.st_mode) else "not an ordinary file"
            raise FormatError(f"{shown(path)} is {kind}. Choose another name.")
        go_on_or_stop(go_on, 0.0)
        handle, temporary = _nameless(target.parent)
        _write_all(handle, data, go_on)
        _take_after(handle, old)
        os.fsync(handle)
        go_on_or_stop(go_on, 1.0)
        if not isinstance(known, Unchecked):
            _check_known(target, known, path)
        if temporary is None:
            temporary = _give_name(handle, target.parent)
        os.replace(temporary, target)
        temporary = None
        # Its name is part of what is known of it.
        written = os.fstat(handle)
        _sync_folder(target.parent)
    except ValueError:
        raise FormatError(f"{shown(path)} is not a file name. Choose another.") from None
    except (OSError, RuntimeError) as error:  # resolve() tells of a circle by a RuntimeError
        reason = why(error) if isinstance(error, OSError) else _WHY[errno.ELOOP]
        raise NotWritten(f"{shown(path)} cannot be written: {reason}. Save a copy elsewhere.") from None
    finally:
        if handle >= 0:
            os.close(handle)
        if temporary is not None:
            with contextlib.suppress(OSError):
                temporary.unlink(missing_ok=True)
    return _fingerprint(written, data)


def _check_known(target: Path, known: Fingerprint | None, path: Path) -> None:
    there = target.exists()
    if known is None:
        if there:
            raise ChangedOnDisk(f"{shown(path)} was made by another program just now. Choose another name.")
    elif there and not is_still(target, known):
        raise ChangedOnDisk(f"Somebody else changed {shown(path)}.")


_OPEN_FILES = "/proc/self/fd"


def _nameless(folder: Path) -> tuple[int, Path | None]:
    """Return a file that vanishes with the process; where the disk knows none, one with a name that is tidied."""
    handle, name = -1, None
    with contextlib.suppress(OSError):
        if os.path.isdir(_OPEN_FILES):
            handle = os.open(folder, os.O_TMPFILE | os.O_RDWR | os.O_CLOEXEC, 0o600)
    if handle < 0:
        name = _temporary_name(folder)
        handle = os.open(name, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o600)
    # The lock ends with the process: so a leftover is told from a file that is being written.
    with contextlib.suppress(OSError):
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    return handle, name


def _give_name(handle: int, folder: Path) -> Path:
    """Give a nameless file a name, so that it can take another's place."""
    name = _temporary_name(folder)
    # Only with a folder's descriptor does Python follow the link that stands for the open file.
    open_files = os.open(_OPEN_FILES, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        os.link(str(handle), name, src_dir_fd=open_files, follow_symlinks=True)
    finally:
        os.close(open_files)
    return name


def _host() -> str:
    import hashlib
    import socket

    return hashlib.blake2b(socket.gethostname().encode(), digest_size=4).hexdigest()


def _temporary_name(folder: Path) -> Path:
    return folder / f".equilix-{_host()}-{os.getpid()}-{os.urandom(4).hex()}.saving"


def _write_all(handle: int, data: bytes, go_on: GoOn) -> None:
    view = memoryview(data)
    at = 0
    while at < len(view):
        at += os.write(handle, view[at : at + _PIECE])
        go_on_or_stop(go_on, 0.9 * at / len(view))


def _take_after(handle: int, old: os.stat_result | None) -> None:
    """Give the new file the permissions, and where that is allowed the owner, of the old one."""
    if old is None:
        os.fchmod(handle, 0o666 & ~_mask())
        return
    if (old.st_uid, old.st_gid) != (os.geteuid(), os.getegid()):
        with contextlib.suppress(OSError):
            os.fchown(handle, old.st_uid, old.st_gid)
    os.fchmod(handle, old.st_mode & 0o777)


def _mask() -> int:
    """Return the process's file mode mask without setting it, which would be seen by other threads."""
    with contextlib.suppress(OSError, ValueError, IndexError):
        status = Path("/proc/self/status").read_text()
        return int(status.split("Umask:", 1)[1].split(None, 1)[0], 8)
    return 0o022


def _sync_folder(folder: Path) -> None:
    """Make the new name outlive a power cut; not every disk can."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


# Tidying

_SAVING = re.compile(r"\.equilix-(?P<host>[0-9a-f]{8})-(?P<pid>\d+)-[0-9a-f]{8}\.saving")


def tidy(path: Path) -> None:
    """Remove what killed saves left beside the file at `path`: only our own, and only what nobody writes any more."""
    older = re.compile(rf"\.{re.escape(path.name)}\.[a-z0-9_]{{8}}")  # names of version 0.2, an hour old
    with contextlib.suppress(OSError):
        for entry in os.scandir(path.parent):
            mark = _SAVING.fullmatch(entry.name)
            if mark is None and older.fullmatch(entry.name) is None:
                continue
            if mark is not None and (mark["host"] != _host() or _lives(int(mark["pid"]))):
                continue
            status = entry.stat(follow_symlinks=False)
            if not stat.S_ISREG(status.st_mode) or status.st_uid != os.geteuid():
                continue
            age = time.time() - status.st_mtime
            if age > _STALE if mark is None else (status.st_size > 0 or age > _STALE) and _is_left(entry.path):
                os.unlink(entry.path)


def _is_left(path: str) -> bool:
    """Whether nobody holds the lock of a file that is being written; what can't be told counts as held."""
    with contextlib.suppress(OSError):
        handle = os.open(path, os.O_RDWR | os.O_NOFOLLOW | os.O_CLOEXEC)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        finally:
            os.close(handle)
        return True
    return False


def _lives(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


# Names


def offered_name(title: str, suffix: str) -> str:
    """Return a file's name made from a title: no path, no sign that a disk or a shell stumbles over, short enough."""
    text = unicodedata.normalize("NFC", title)
    text = "".join("-" if c in '/\\:*?"<>|' else c if is_plain(c) else " " for c in text)
    text = " ".join(text.split()).strip(" .-~")
    room = _MAX_NAME - len(suffix.encode())
    while len(text.encode("utf-8", "replace")) > room:
        text = text[:-1]
    return f"{text.rstrip(' .-') or 'book'}{suffix}"
