"""Files: only ordinary ones are read, they are written whole, known again, and nothing of a killed save stays."""

from __future__ import annotations

import fcntl
import os
import resource
import signal
import socket
import stat
import tempfile
import threading
import time
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from equilix.core.errors import FormatError
from equilix.io.files import (
    ChangedOnDisk,
    Obstacle,
    Stopped,
    is_still,
    obstacle,
    offered_name,
    read_ordinary,
    shown,
    tidy,
    write_whole,
)
from equilix.io.format import open_book
from equilix.io.parts_table import read_parts_table
from equilix.io.tables import read_table
from tests.children import child
from tests.rigs.progress import kept


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.path = self.folder / "book.equilix"


class Reading(Folder):
    def odd_things(self) -> dict[Path, str]:
        pipe, loop, ear = (self.folder / name for name in ("pipe.csv", "loop.csv", "ear.csv"))
        os.mkfifo(pipe)
        loop.symlink_to(loop)
        server = socket.socket(socket.AF_UNIX)
        self.addCleanup(server.close)
        server.bind(str(ear))
        zero = self.folder / "zero.csv"
        zero.symlink_to("/dev/zero")
        return {
            pipe: "is a pipe or a device",
            loop: "is a link to itself",
            ear: "is a pipe or a device",
            zero: "is a pipe or a device",
            self.folder: "is a folder",
            self.folder / "gone.csv": "does not exist",
            self.folder / ("x" * 300): "name is too long",
            Path("a\0b"): "is not a file name. Type another",
        }

    def test_what_is_no_ordinary_file_is_refused_at_once_by_every_reader(self) -> None:
        for path, words in self.odd_things().items():
            for read in (lambda p: read_ordinary(p, 100), open_book, read_table, read_parts_table):
                with self.subTest(path=path.name, read=read):
                    # A reader that began with a pipe or an endless file would never come back.
                    with self.assertRaisesRegex(FormatError, words):
                        read(path)

    def test_a_pipe_that_takes_the_files_place_after_the_look_does_not_hang(self) -> None:
        os.mkfifo(self.path)
        real = os.stat(self.folder / ".")
        ordinary = mock.Mock(st_mode=stat.S_IFREG, st_size=real.st_size)
        with (
            mock.patch.object(Path, "stat", return_value=ordinary),
            self.assertRaisesRegex(FormatError, "is a pipe or a device"),
        ):
            read_ordinary(self.path, 100)

    def test_a_file_that_grows_while_it_is_read_is_bounded(self) -> None:
        self.path.write_bytes(b"x" * 10)
        with self.path.open("ab") as more:
            grown = False

            def grow(_share: float) -> bool:
                nonlocal grown
                if not grown:
                    more.write(b"y" * 5_000_000)
                    more.flush()
                    grown = True
                return True

            with self.assertRaisesRegex(FormatError, "larger than"):
                read_ordinary(self.path, 1_000_000, grow)

    def test_reading_stops_when_told(self) -> None:
        self.path.write_bytes(b"x" * 3_000_000)
        shares: list[float] = []
        with self.assertRaises(Stopped):
            read_ordinary(self.path, 10_000_000, kept(shares, 2))
        self.assertGreater(shares[1], shares[0])

    def test_names_are_said_in_one_printable_line(self) -> None:
        self.assertEqual(shown(Path("/a/b\n\x1b[31mc.equilix")), "b??[31mc.equilix")
        self.assertEqual(shown(Path(os.fsdecode(b"/a/k\xe4se.csv"))), "k?se.csv")
        self.assertLessEqual(len(shown(Path("x" * 250))), 80)


class Writing(Folder):
    def test_the_file_is_known_again_by_what_it_holds(self) -> None:
        known = write_whole(b"one", self.path)
        self.assertTrue(is_still(self.path, known))
        self.path.write_bytes(b"one")  # a sync client writes the same anew
        self.assertTrue(is_still(self.path, known))
        self.path.write_bytes(b"two")
        self.assertFalse(is_still(self.path, known))
        self.path.unlink()
        self.assertFalse(is_still(self.path, known))

    def test_a_file_that_changed_is_not_replaced(self) -> None:
        known = write_whole(b"mine", self.path)
        self.path.write_bytes(b"theirs")
        with self.assertRaises(ChangedOnDisk):
            write_whole(b"mine too", self.path, known)
        self.assertEqual(self.path.read_bytes(), b"theirs")
        with self.assertRaises(ChangedOnDisk):
            write_whole(b"mine", self.path, None)
        self.assertEqual(os.listdir(self.folder), ["book.equilix"])

    def test_what_stands_in_the_way(self) -> None:
        self.assertIsNone(obstacle(self.path, None))
        known = write_whole(b"x", self.path)
        self.assertIsNone(obstacle(self.path, known))
        self.path.write_bytes(b"y")
        self.assertIs(obstacle(self.path, known), Obstacle.CHANGED)
        known = write_whole(b"x", self.path)
        os.chmod(self.path, 0o444)
        self.assertIs(obstacle(self.path, known), Obstacle.PROTECTED)
        os.chmod(self.path, 0o644)
        with mock.patch("os.geteuid", return_value=os.geteuid() + 1):
            self.assertIs(obstacle(self.path, known), Obstacle.FOREIGN)
        self.path.unlink()
        self.assertIs(obstacle(self.path, known), Obstacle.GONE)

    def test_stopped_before_the_end_nothing_is_changed(self) -> None:
        write_whole(b"old", self.path)
        with self.assertRaises(Stopped):
            write_whole(b"new", self.path, go_on=lambda share: share < 0.95)
        self.assertEqual(self.path.read_bytes(), b"old")
        self.assertEqual(os.listdir(self.folder), ["book.equilix"])

    def test_a_disk_that_knows_no_nameless_files_is_written_all_the_same(self) -> None:
        real = os.open

        def refuse(path: Any, flags: int, *rest: Any, **more: Any) -> int:
            if flags & os.O_TMPFILE == os.O_TMPFILE:
                raise OSError(95, "Operation not supported")
            return real(path, flags, *rest, **more)

        with mock.patch("os.open", refuse):
            write_whole(b"x", self.path)
            with self.assertRaises(Stopped):
                write_whole(b"y", self.path, go_on=lambda share: share < 0.95)
        self.assertEqual(self.path.read_bytes(), b"x")
        self.assertEqual(os.listdir(self.folder), ["book.equilix"])

    def test_a_full_disk_leaves_the_old_file_and_says_so(self) -> None:
        """A small limit on the size of files stands for a full disk: setrlimit(2), RLIMIT_FSIZE."""
        write_whole(b"old", self.path)
        old_handler = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        old = resource.getrlimit(resource.RLIMIT_FSIZE)
        resource.setrlimit(resource.RLIMIT_FSIZE, (100_000, old[1]))
        try:
            with self.assertRaisesRegex(FormatError, "book.equilix cannot be written: .*Save a copy elsewhere"):
                write_whole(b"x" * 1_000_000, self.path)
        finally:
            resource.setrlimit(resource.RLIMIT_FSIZE, old)
            signal.signal(signal.SIGXFSZ, old_handler)
        self.assertEqual(self.path.read_bytes(), b"old")
        self.assertEqual(os.listdir(self.folder), ["book.equilix"])

    def test_the_mask_for_new_files_is_kept_and_never_set(self) -> None:
        old = os.umask(0o027)
        try:
            with mock.patch("os.umask", side_effect=AssertionError("other threads would see it")):
                write_whole(b"x", self.path)
        finally:
            os.umask(old)
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o640)


class Leftovers(Folder):
    def test_killed_while_saving_nothing_stays_and_the_file_is_whole(self) -> None:
        script = (
            "import sys\nfrom pathlib import Path\nfrom equilix.io.files import write_whole\n"
            "print('ready', flush=True)\nn = 0\n"
            "while True:\n n += 1; write_whole(str(n % 10).encode() * 3_000_000, Path(sys.argv[1]))\n"
        )
        for wait in (0.05, 0.11, 0.17):
            with child("-c", script, str(self.path)) as writer:
                writer.stdout.readline()
                while not self.path.exists():
                    time.sleep(0.01)
                time.sleep(wait)
                writer.kill()
            data = self.path.read_bytes() if self.path.exists() else b""
            self.assertLessEqual(len(set(data)), 1)
        # In the instant between a new file's naming and its taking the old one's place a name may be left.
        tidy(self.path)
        self.assertEqual(os.listdir(self.folder), ["book.equilix"])

    def test_only_our_own_leftovers_of_processes_that_are_gone_are_tidied(self) -> None:
        from equilix.io import files

        gone = child("-c", "")
        gone.wait()
        gone.stdout.close()
        host = files._host()
        mine = self.folder / f".equilix-{host}-{gone.pid}-0123abcd.saving"
        held = self.folder / f".equilix-{host}-{gone.pid}-89abcdef.saving"  # as of another container on this machine
        begun = self.folder / f".equilix-{host}-{gone.pid}-01234567.saving"
        others = (
            self.folder / f".equilix-{host}-{os.getpid()}-0123abcd.saving",
            self.folder / f".equilix-00000000-{gone.pid}-0123abcd.saving",
            self.folder / ".equilix-notes",
            self.folder / ".other.equilix.abcdefgh",
        )
        older = self.folder / ".book.equilix.abcd_012"
        long_ago = time.time() - 7200
        for path in (mine, older, *others):
            path.write_text("x")
            os.utime(path, (long_ago, long_ago))
        held.write_text("x")
        begun.write_text("")
        with held.open() as file:
            fcntl.flock(file, fcntl.LOCK_EX)
            tidy(self.path)
        self.assertEqual(set(self.folder.iterdir()), {*others, held, begun})


class OfferedNames(unittest.TestCase):
    def test_they_are_names_and_no_paths(self) -> None:
        for title, name in (
            ("../../etc/passwd", "etc-passwd.equilix"),
            ("a/b", "a-b.equilix"),
            ("Ferry: day 1?", "Ferry- day 1.equilix"),
            (" . ", "book.equilix"),
            ("👩‍🚀", "👩‍🚀.equilix"),
        ):
            self.assertEqual(offered_name(title, ".equilix"), name)
        long = offered_name("ß" * 200, ".equilix")
        self.assertLessEqual(len(long.encode()), 255)
        self.assertTrue(long.endswith("ß.equilix"))

    def test_any_of_them_can_be_written(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for title in ("x" * 250, "\x7f\n", "-rf", "con", "a\\b", "ü" * 130):
                path = Path(folder) / offered_name(title, ".pdf")
                self.assertEqual(path.parent, Path(folder))
                write_whole(b"x", path)


class Threads(Folder):
    def test_two_that_save_at_once_leave_one_whole_file(self) -> None:
        def save(sign: bytes) -> None:
            for _ in range(20):
                write_whole(sign * 50_000, self.path)

        threads = [threading.Thread(target=save, args=(sign,)) for sign in (b"a", b"b")]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(set(self.path.read_bytes())), 1)
        self.assertEqual(os.listdir(self.folder), ["book.equilix"])


if __name__ == "__main__":
    unittest.main()
