"""Unsaved work outlives the process."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

from equilix.document.book import Book
from equilix.io.demo import demo_book
from equilix.io.recovery import Journal, discard, left_behind

#: Opens the real window, edits every 20 ms and tells when each edit was made.
EDITOR = """
import sys, time
from pathlib import Path
from PySide6.QtCore import QTimer
from equilix.desktop.app import make_app
from equilix.desktop.main_window import MainWindow
from equilix.desktop.theme import Theme
from equilix.desktop.workspace import Workspace
from equilix.document.edits.book import RenameBook
from equilix.io.demo import demo_book
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


class Recovery(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_killed_in_the_middle_of_edits_it_loses_less_than_a_quarter_of_a_second(self) -> None:
        environment = {**os.environ, "XDG_STATE_HOME": str(self.folder), "XDG_CONFIG_HOME": str(self.folder)}
        environment["QT_QPA_PLATFORM"] = "offscreen"
        with subprocess.Popen(
            [sys.executable, "-c", EDITOR], stdout=subprocess.PIPE, text=True, env=environment
        ) as process:
            made: list[tuple[int, float]] = []
            for line in process.stdout:
                number, when = line.split()
                made.append((int(number), float(when)))
                if len(made) >= 40:
                    break
            killed = time.time()
            process.send_signal(signal.SIGKILL)
            for line in process.stdout:
                number, when = line.split()
                made.append((int(number), float(when)))
        found = left_behind(self.folder / "equilix" / "recovery")
        self.assertEqual(len(found), 1)
        recovered = int(found[0].book.title.removeprefix("Edit "))
        old_enough = [number for number, when in made if when < killed - 0.25]
        self.assertGreater(len(old_enough), 5)
        self.assertGreaterEqual(recovered, max(old_enough))
        self.assertEqual(found[0].book.kit, demo_book().kit)

    def wait_for(self, journal: Journal) -> None:
        for _ in range(200):
            if journal.snapshot.exists():
                return
            time.sleep(0.01)
        self.fail("nothing was written in two seconds")

    def test_a_living_session_is_left_alone_and_a_tidy_end_leaves_nothing(self) -> None:
        journal = Journal(self.folder)
        journal.keep(demo_book(), None)
        self.wait_for(journal)
        self.assertEqual(left_behind(self.folder), ())
        journal.close()
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_saved_work_is_forgotten(self) -> None:
        journal = Journal(self.folder)
        self.addCleanup(journal.close)
        journal.keep(Book(title="A"), Path("/somewhere/a.equilix"))
        self.wait_for(journal)
        journal.forget()
        self.assertFalse(journal.snapshot.exists())

    def test_damaged_snapshots_are_passed_over_and_good_ones_can_be_thrown_away(self) -> None:
        journal = Journal(self.folder)
        journal.keep(Book(title="Kept"), Path("/somewhere/a.equilix"))
        self.wait_for(journal)
        journal._lock.close()  # as if the process had died
        (self.folder / "bad.snapshot").write_bytes(b"{}\nnonsense")
        found = left_behind(self.folder)
        self.assertEqual([(r.book.title, r.path) for r in found], [("Kept", Path("/somewhere/a.equilix"))])
        discard(found[0])
        self.assertEqual(left_behind(self.folder), ())
