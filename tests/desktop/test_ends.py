"""How it starts, and how it ends: Ctrl+C, a signal, a search under way, a kill; and that nothing of it stays."""

from __future__ import annotations

import os
import signal
import subprocess
import tempfile
import time
import unittest
from pathlib import Path

from equilix.io.recovery import left_behind
from tests.children import child

#: Opens the demo in the real window; edits, starts what it is told to and says when.
PROGRAM = """
import sys
from PySide6.QtCore import QTimer
from equilix.desktop import app
from equilix.desktop.window import BALANCE, WEIGH
from equilix.document.edits.book import RenameBook
what = sys.argv[1]
made = []
real = app.MainWindow
class Window(real):
    def __init__(self, workspace):
        super().__init__(workspace)
        made.append(self)
        QTimer.singleShot(200, begin)
app.MainWindow = Window
def begin():
    window = made[0]
    if what == "edit":
        window.workspace.apply(RenameBook("Unsaved"))
        QTimer.singleShot(400, lambda: print("ready", flush=True))
    elif what == "search":
        window.go(BALANCE)
        def look():
            from equilix.desktop.jobs.job import jobs_running
            if jobs_running() and "scipy.optimize._highspy._highs_wrapper" in sys.modules:
                print("ready", flush=True)
                window.close()
            else:
                QTimer.singleShot(1, look)
        look()
        QTimer.singleShot(15000, lambda: print("late", flush=True))
    elif what == "scale":
        window.go(WEIGH)
        scale = next(s for s in window.workspace.book.instruments if s.port)
        window.bench.choose_scale(scale.id)
        window.bench.connect_scale()
        print(window.bench.port._program.pid, flush=True)
sys.exit(app.end(app.open_window(None, demo=True)))
"""


#: Starts the demo as the command line does, and tells once it is painted what came after the binding that draws.
STARTER = """
import sys
from equilix.cli import display
lay_groundwork = display.lay_groundwork
def then_look(*opened):
    lay_groundwork(*opened)
    before = set(sys.modules)
    from PySide6.QtWidgets import QApplication
    from equilix.desktop import app, window as main
    from equilix.desktop.jobs import ways_finder
    from equilix.io import recovery
    # On a busy machine even this start may take longer than what waits for the first picture.
    ways_finder.SETTLED = app._WINDOW_FIRST = main._MARK_DELAY = 600_000
    recovery._DRAWN = 600.0
    def once(*ignored):
        window = next(w for w in QApplication.topLevelWidgets() if w.isVisible())
        while window.balance.elevation.scene.items == [] or not window.windowHandle().isExposed():
            QApplication.processEvents()
        rooms = {name.split(".")[1] for name in set(sys.modules) - before if name.startswith("equilix.")}
        print(*sorted(rooms), flush=True)
        return 0
    QApplication.exec = once
display.lay_groundwork = then_look
display.open_it(None, demo=True, theme=None)
"""


class Starts(unittest.TestCase):
    def test_what_draws_nothing_is_there_before_the_binding(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            program = child("-c", STARTER, folder=Path(folder), stderr=subprocess.PIPE)
            said, problems = program.communicate(timeout=60)
        self.assertEqual((said.split(), problems), (["desktop", "supports"], ""))


class Ends(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def start(self, what: str) -> tuple[subprocess.Popen[str], str]:
        program = child("-c", PROGRAM, what, folder=self.folder, stderr=subprocess.PIPE)
        self.addCleanup(program.stdout.close)
        self.addCleanup(program.stderr.close)
        self.addCleanup(program.wait)
        self.addCleanup(program.kill)
        return program, program.stdout.readline().strip()

    def test_ctrl_c_and_other_signals_close_the_window_and_keep_the_work(self) -> None:
        started = {number: self.start("edit") for number in (signal.SIGINT, signal.SIGTERM)}
        for number, (program, said) in started.items():
            with self.subTest(number.name):
                self.assertEqual(said, "ready")
                program.send_signal(number)
                self.assertEqual(program.wait(20.0), 128 + number)
                self.assertNotIn("Traceback", program.stderr.read())
                left = left_behind(self.folder / "equilix" / "recovery")
                self.assertEqual([work.book.title for work in left], ["Unsaved"])
                for work in left:
                    work.discard()
        self.assertEqual(os.listdir(self.folder / "equilix" / "recovery"), [])

    def test_closed_in_the_midst_of_a_search_it_ends_at_once(self) -> None:
        program, said = self.start("search")
        self.assertEqual(said, "ready")
        # A search that was waited for would take minutes.
        self.assertEqual(program.wait(60.0), 0)
        self.assertEqual([line for line in program.stderr.read().splitlines() if "Error" in line], [])

    def test_a_killed_window_takes_its_simulated_scale_along(self) -> None:
        program, said = self.start("scale")
        scale = int(said)
        os.kill(scale, 0)
        program.kill()
        program.wait()
        end = time.monotonic() + 15.0
        while time.monotonic() < end:
            state = Path(f"/proc/{scale}/stat")
            # One that nobody waits for any more stays as a name only.
            if not state.exists() or state.read_text().rsplit(")", 1)[1].split()[0] == "Z":
                return
            time.sleep(0.02)
        self.fail("the simulated scale lives on")


if __name__ == "__main__":
    unittest.main()
