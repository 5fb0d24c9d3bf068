"""Unsaved work outlives the process."""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import subprocess
import tempfile
import threading
import time
import unittest
from pathlib import Path
from unittest import mock

from msgspec.structs import replace

from equilix.document.book import Book
from equilix.document.edits.builds import SetSlide
from equilix.io.format import write_book
from equilix.io.recovery import Journal, left_behind
from equilix.io.salvage import salvage
from equilix.io.shipped import demo_book
from tests.children import child

#: Opens the real window, edits every 20 ms and tells when each edit was made.
EDITOR = """
import sys, time
from pathlib import Path
from PySide6.QtCore import QTimer
from equilix.desktop.app import make_app
from equilix.desktop.window import MainWindow
from equilix.desktop.looks.theme import Theme
from equilix.desktop.workspace import Workspace
from equilix.document.edits.book import RenameBook
from equilix.io.shipped import demo_book
from equilix.io.preferences import Preferences, recovery_folder
from equilix.io.recovery import Journal
app = make_app(Theme.LIGHT)
workspace = Workspace(Preferences(), Journal(recovery_folder()))
window = MainWindow(workspace)
workspace.open_book(demo_book(), None)
window.show()
count = 0
def edit():
    global count
    count += 1
    workspace.apply(RenameBook(f"Edit {count}"))
    print(count, time.time(), flush=True)
timer = QTimer()
timer.timeout.connect(edit)
timer.start(20)
app.exec()
"""


#: The same without a window, on a book of 5,000 parts, editing without a pause as a drag does.
DRAGGER = """
import sys, time
from msgspec.structs import replace
from pathlib import Path
from equilix.document.history import History
from equilix.document.edits.builds import SetSlide
from equilix.io.shipped import demo_book
from equilix.io.recovery import Journal
book = demo_book()
more = tuple(replace(p, id=f"x{i}-{p.id}", name=f"{p.name} {i}") for i in range(119) for p in book.kit)
history = History(replace(book, kit=book.kit + more))
journal = Journal(Path(sys.argv[1]))
n = 0
while True:
    n += 1
    history = history.push(SetSlide("long-zoom", "plate", 0.0001 * (n % 1000)))
    journal.keep(history.present, None)
    print(history.present.builds[0].placed("plate").setting, time.time(), flush=True)
    time.sleep(0.004)
"""


class Recovery(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def killed_after(self, process: subprocess.Popen[str], edits: int) -> tuple[list[tuple[str, float]], float]:
        """Kill an editor after so many edits; return what it did and when, and when it was killed."""
        made: list[tuple[str, float]] = []
        with process:
            for line in process.stdout:
                what, when = line.split()
                made.append((what, float(when)))
                if len(made) >= edits:
                    break
            killed = time.time()
            process.send_signal(signal.SIGKILL)
            for line in process.stdout:
                with contextlib.suppress(ValueError):
                    what, when = line.split()
                    made.append((what, float(when)))
        return made, killed

    def test_an_opened_book_is_drawn_before_it_is_written_and_an_edit_is_not_kept_waiting(self) -> None:
        journal = Journal(self.folder)
        self.addCleanup(journal.close)
        book = demo_book()
        began = time.monotonic()
        journal.settle(book, None)
        self.assertTrue(journal.wait(20.0))
        self.assertGreater(time.monotonic() - began, 0.2)  # s: no other thread takes turns with the first picture
        other = Journal(self.folder)
        self.addCleanup(other.close)
        other.settle(book, None)
        other.keep(replace(book, title="Edited"), None)
        # By the thread that edits: no other has to come to its turn.
        self.assertIn(b"Edited", other.snapshot.read_bytes())
        self.assertTrue(other.settled)

    def test_killed_in_the_middle_of_edits_it_loses_less_than_a_quarter_of_a_second(self) -> None:
        made, killed = self.killed_after(child("-c", EDITOR, folder=self.folder), 40)
        found = left_behind(self.folder / "equilix" / "recovery")
        self.assertEqual(len(found), 1)
        recovered = int(found[0].book.title.removeprefix("Edit "))
        old_enough = [int(number) for number, when in made if when < killed - 0.25]
        self.assertGreater(len(old_enough), 5)
        self.assertGreaterEqual(recovered, max(old_enough))
        self.assertEqual(found[0].book.kit, demo_book().kit)

    def test_a_long_drag_on_a_book_of_5000_parts_does_not_starve_it(self) -> None:
        made, killed = self.killed_after(child("-c", DRAGGER, str(self.folder)), 300)
        found = left_behind(self.folder)
        self.assertEqual(len(found), 1)
        self.assertGreater(len(found[0].book.kit), 5000)
        setting = str(found[0].book.builds[0].placed("plate").setting)
        kept = max(i for i, (what, _) in enumerate(made) if what == setting)
        newer = [when for _, when in made[kept + 1 :]]
        self.assertLess(killed - min(newer, default=killed), 0.25)

    def wait_for(self, journal: Journal) -> None:
        self.assertTrue(journal.wait(10.0), "nothing was written in two seconds")

    def leave(self, book: Book, path: Path | None = None) -> Path:
        """Leave unsaved work as a session that was killed would; return its snapshot."""
        journal = Journal(self.folder)
        journal.keep(book, path)
        journal.close(keep=True)
        return journal.snapshot

    def test_a_living_session_is_left_alone_and_a_tidy_end_leaves_nothing(self) -> None:
        journal = Journal(self.folder)
        journal.keep(demo_book(), None)
        self.wait_for(journal)
        self.assertEqual(left_behind(self.folder), ())
        journal.close()
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_a_small_change_is_on_the_disk_when_the_call_returns(self) -> None:
        journal = Journal(self.folder)
        self.addCleanup(journal.close)
        book = demo_book()
        journal.settle(book, None)
        self.wait_for(journal)
        for number in range(50):
            book = SetSlide("long-zoom", "plate", 0.0005 * number).apply(book)
            journal.keep(book, None)
            self.assertTrue(journal.settled)
        journal.close(keep=True)
        self.assertEqual([work.book for work in left_behind(self.folder)], [book])

    def test_a_disk_that_was_slow_does_not_hold_up_the_caller_again(self) -> None:
        journal = Journal(self.folder)
        self.addCleanup(journal.close)
        book = demo_book()
        journal.settle(book, None)
        self.wait_for(journal)
        real, later, release = os.write, threading.Event(), threading.Event()
        self.addCleanup(release.set)
        ended: list[bool] = []

        def slow(handle: int, data: bytes) -> int:
            if later.is_set():
                ended.append(release.wait(60.0))
            else:
                time.sleep(0.4)
            return real(handle, data)

        with mock.patch("os.write", slow):
            journal.keep(replace(book, title="A"), None)
            later.set()
            for title in ("B", "C", "D"):
                journal.keep(replace(book, title=title), None)
            # The disk has not ended a write since: nobody waited for it.
            self.assertEqual(ended, [])
            release.set()
            self.wait_for(journal)
        journal.close(keep=True)
        self.assertEqual([work.book.title for work in left_behind(self.folder)], ["D"])

    def test_a_book_that_is_open_and_saved_leaves_nothing_to_offer(self) -> None:
        journal = Journal(self.folder)
        journal.settle(demo_book(), None)
        self.wait_for(journal)
        journal.keep(replace(demo_book(), title="Edited"), None)
        journal.settle(demo_book(), None)  # undone
        journal.close(keep=True)
        self.assertEqual(left_behind(self.folder), ())
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_where_it_was_saved_last_goes_along_and_a_long_log_is_written_anew(self) -> None:
        journal = Journal(self.folder)
        path, known = self.folder / "b.equilix", write_book(demo_book(), self.folder / "b.equilix")
        journal.settle(demo_book(), None)
        self.wait_for(journal)
        journal.settle(replace(demo_book(), title="Saved"), path, known)
        with mock.patch("equilix.io.recovery._ROOM", 100_000):
            for number in range(60):
                journal.keep(SetSlide("long-zoom", "plate", 0.001 * number).apply(demo_book()), path, known)
                self.wait_for(journal)
        journal.keep(replace(demo_book(), currency="$"), path, known)
        self.wait_for(journal)
        journal.close(keep=True)
        found = left_behind(self.folder)[0]
        self.assertEqual((found.book.currency, found.path, found.known), ("$", path, known))

    def test_a_state_that_was_cut_short_costs_that_state_alone(self) -> None:
        journal = Journal(self.folder)
        for title in ("A", "B", "C"):
            journal.keep(replace(demo_book(), title=title), None)
            self.wait_for(journal)
        journal.close(keep=True)
        whole = journal.snapshot.read_bytes()
        journal.snapshot.write_bytes(whole[:-10])
        self.assertEqual([work.book.title for work in left_behind(self.folder)], ["B"])

    def test_saved_work_is_forgotten_also_while_it_is_being_written(self) -> None:
        journal = Journal(self.folder)
        self.addCleanup(journal.close)
        for number in range(30):
            journal.keep(Book(title=f"A{number}"), Path("/somewhere/a.equilix"))
            time.sleep(0.001 * (number % 4))
            journal.forget()
            self.assertTrue(journal.wait(10.0))
            self.assertFalse(journal.snapshot.exists())

    def test_work_that_its_file_holds_already_is_not_offered(self) -> None:
        """Killed between the end of a save and the snapshot's removal."""
        path = self.folder / "ferry.equilix"
        write_book(demo_book(), path)
        self.leave(demo_book(), path)
        self.assertEqual(left_behind(self.folder), ())
        self.assertEqual([p.name for p in self.folder.iterdir()], ["ferry.equilix"])
        self.leave(replace(demo_book(), title="Later"), path)
        self.assertEqual([r.book.title for r in left_behind(self.folder)], ["Later"])

    def test_what_can_not_be_read_is_told_and_goes_only_when_thrown_away(self) -> None:
        self.leave(Book(title="Kept"), Path("/somewhere/a.equilix"))
        bad = self.leave(demo_book())
        bad.write_bytes(bad.read_bytes()[:20_000])
        (self.folder / "worse.snapshot").write_bytes(b"{}\nnonsense")
        found = left_behind(self.folder)
        self.assertEqual([(r.book.title, r.path) for r in found if r.book], [("Kept", Path("/somewhere/a.equilix"))])
        reasons = {r.snapshot.name: r.reason for r in found if r.book is None}
        self.assertIn("ends early", reasons[bad.name])
        self.assertIn("damaged", reasons["worse.snapshot"])
        self.assertGreater(len(salvage(bad).book.kit), 1)
        for left in found:
            left.discard()
        self.assertEqual(left_behind(self.folder), ())
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_it_is_offered_to_one_session_only_until_that_ends(self) -> None:
        self.leave(Book(title="Once"))
        first = left_behind(self.folder)
        self.assertEqual([r.book.title for r in first], ["Once"])
        self.assertEqual(left_behind(self.folder), ())
        first[0].claim.leave()
        self.assertEqual([r.book.title for r in left_behind(self.folder)], ["Once"])

    def test_leftovers_of_killed_sessions_are_tidied_and_living_ones_kept(self) -> None:
        living = Journal(self.folder)
        self.addCleanup(living.close)
        for name in ("a.lock", "b.lock", "b.new", "c.new"):
            (self.folder / name).write_text("")
        self.assertEqual(left_behind(self.folder), ())
        self.assertEqual([p.name for p in self.folder.iterdir()], [living.snapshot.with_suffix(".lock").name])

    def test_a_full_disk_is_told_and_tried_again(self) -> None:
        journal = Journal(self.folder)
        self.addCleanup(journal.close)
        with mock.patch("equilix.io.recovery.write_private", side_effect=OSError(28, "No space left on device")):
            journal.keep(demo_book(), None)
            self.assertFalse(journal.wait(0.3))
            self.assertEqual(journal.problem, "Unsaved work is not kept safe: the disk is full. Save now.")
        self.assertTrue(journal.wait(15.0))
        self.assertEqual(journal.problem, "")
        self.assertTrue(journal.snapshot.exists())

    def test_a_folder_that_is_gone_is_made_again(self) -> None:
        folder = self.folder / "recovery"
        journal = Journal(folder)
        shutil.rmtree(folder)
        journal.keep(demo_book(), None)
        self.assertTrue(journal.wait(15.0))
        self.assertTrue(journal.snapshot.exists())
        journal.close()

    def test_names_of_files_in_any_code_come_back(self) -> None:
        path = Path(os.fsdecode(b"/somewhere/k\xe4se/\xc3\xa4.equilix"))
        self.leave(Book(title="Odd"), path)
        self.assertEqual(left_behind(self.folder)[0].path, path)


if __name__ == "__main__":
    unittest.main()
