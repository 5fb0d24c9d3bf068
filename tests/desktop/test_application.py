"""The application from its start: on a file, on the demo, beside left work, and when something in it fails."""

from __future__ import annotations

import logging
import os
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import shiboken6
from PySide6.QtCore import QCoreApplication, QEvent, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from equilix.desktop import app as application
from equilix.desktop.files.left_work import LeftWork
from equilix.desktop.looks.theme import Theme
from equilix.desktop.views.rooms import BALANCE, WEIGH
from equilix.desktop.window import MainWindow
from equilix.document.book import Book
from equilix.io.format import write_book
from equilix.io.recovery import Journal
from equilix.io.shipped import demo_book
from tests.desktop import base  # noqa: F401 - sets the offscreen platform first


class Start(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        names = {name: str(self.folder / name) for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME")}
        patch = mock.patch.dict(os.environ, names)
        patch.start()
        self.addCleanup(patch.stop)
        hook = sys.excepthook
        self.addCleanup(setattr, sys, "excepthook", hook)
        self.window: MainWindow | None = None

    def open(self, file: Path | None = None, demo: bool = False) -> MainWindow:
        """Open the window as the program does, without its endless loop; let it look for left work."""
        looked: list[object] = []
        offer = LeftWork.offer_recovered

        def offered(files: LeftWork, left: Any) -> None:
            offer(files, left)
            looked.append(left)

        patch = mock.patch.object(LeftWork, "offer_recovered", offered)
        patch.start()
        self.addCleanup(patch.stop)
        before = set(QApplication.topLevelWidgets()) if QApplication.instance() else set()
        with mock.patch.object(QApplication, "exec", return_value=0):
            self.assertEqual(application.open_window(file, demo=demo), 0)
        found = [w for w in QApplication.topLevelWidgets() if isinstance(w, MainWindow) and w not in before]
        self.assertEqual(len(found), 1)
        self.window = found[0]
        self.addCleanup(self._close, found[0])
        for _ in range(1500):
            if looked:
                break
            QTest.qWait(20)
        self.assertTrue(looked)
        self.settle()
        return found[0]

    @staticmethod
    def settle() -> None:
        for _ in range(3):
            QCoreApplication.processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def _close(self, window: MainWindow) -> None:
        if not shiboken6.isValid(window):
            return
        window.workspace.saved_book = window.workspace.history.present
        window.close()
        if window.workspace.journal is not None:
            window.workspace.journal.close()
        window.deleteLater()
        self.settle()

    def test_empty_it_begins_with_weighing(self) -> None:
        window = self.open()
        self.assertEqual(window.room, WEIGH)
        self.assertEqual(window.workspace.book, Book())
        self.assertFalse(window.banner.isVisible())

    def test_the_demo_opens_on_its_verdict(self) -> None:
        window = self.open(demo=True)
        self.assertEqual(window.room, BALANCE)
        self.assertEqual(window.workspace.book.title, "Harbour ferry")
        self.assertIn("Tips", window.panel.head.text() + window.panel.sentence.text())

    def test_a_file_opens_and_one_that_is_gone_is_said(self) -> None:
        path = self.folder / "ferry.equilix"
        write_book(demo_book(), path)
        window = self.open(path)
        self.assertEqual(window.workspace.path, path)
        self.assertEqual(window.room, BALANCE)
        self._close(window)
        other = self.open(self.folder / "gone.equilix")
        self.assertIsNone(other.workspace.path)
        self.assertEqual(other.room, WEIGH)
        self.assertEqual(other.workspace.book, Book())

    def left_behind(self) -> None:
        """Leave unsaved work as a session that was killed would."""
        from equilix.io.preferences import recovery_folder

        journal = Journal(recovery_folder())
        journal.keep(demo_book(), None)
        for _ in range(500):
            if journal.snapshot.exists():
                break
            QTest.qWait(10)
        self.assertTrue(journal.snapshot.exists())
        # The lock goes with the process; the snapshot stays.
        journal._claim.leave()

    def test_left_work_is_offered_and_restored(self) -> None:
        application.make_app(Theme.LIGHT)
        self.left_behind()
        window = self.open()
        self.assertIn("“Harbour ferry” was not saved when Equilix ended", window.banner.text.text())
        restore = next(b for b in window.banner.buttons if b.text() == "Restore")
        QTest.mouseClick(restore, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertEqual(window.workspace.book, demo_book())
        self.assertTrue(window.workspace.unsaved)
        self.assertFalse(window.banner.isVisible())

    def test_left_work_can_be_thrown_away(self) -> None:
        application.make_app(Theme.LIGHT)
        self.left_behind()
        window = self.open()
        away = next(b for b in window.banner.buttons if b.text() == "Discard it")
        QTest.mouseClick(away, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertEqual(window.workspace.book, Book())
        self._close(window)
        self.assertFalse(self.open().banner.isVisible())

    def test_a_state_folder_that_can_not_be_written_is_said(self) -> None:
        (self.folder / "XDG_STATE_HOME").write_text("a file where a folder should be")
        window = self.open()
        self.assertIn("Unsaved work is not kept safe here", window.banner.text.text())

    def test_a_fault_is_logged_and_said_and_the_window_lives(self) -> None:
        window = self.open(demo=True)
        with self.assertLogs("equilix", logging.ERROR) as log:
            try:
                raise ZeroDivisionError("a fault")
            except ZeroDivisionError as error:
                sys.excepthook(type(error), error, error.__traceback__)
        self.assertIn("ZeroDivisionError: a fault", log.output[0])
        self.settle()
        self.assertIn("Something in Equilix failed. Your work is kept", window.banner.text.text())
        self.assertEqual(window.workspace.book, demo_book())


if __name__ == "__main__":
    unittest.main()
