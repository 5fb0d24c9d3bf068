"""A real window, offscreen, driven by mouse and keys."""

from __future__ import annotations

import os
import sys
import tempfile
import time
import unittest
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from itertools import pairwise
from pathlib import Path
from typing import Any, TypeVar
from unittest import mock

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QCoreApplication, QEvent, QPoint, QPointF, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMessageBox, QWidget

from equilix.desktop.app import make_app
from equilix.desktop.jobs.waiting import WaitingDialog
from equilix.desktop.looks.theme import Theme, set_text_scale
from equilix.desktop.views.rooms import BALANCE
from equilix.desktop.widgets.refusal import refusal_of
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.window import MainWindow
from equilix.desktop.workspace import Workspace
from equilix.document.book import Book
from equilix.io.preferences import Preferences
from equilix.io.shipped import demo_book
from equilix.present.balance.ways import Way

T = TypeVar("T")
#: s after which a dialog or menu that stands open is taken to wait for somebody who is not there.
STANDS = 60.0


class WindowTestCase(unittest.TestCase):
    """Opens a window on an empty book; preferences and recovery files go to a folder of its own."""

    book: Book | None = None
    #: The room that is open first: each costs its making.
    room = BALANCE

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME"):
            old = os.environ.get(name)
            os.environ[name] = str(self.folder / name)
            self.addCleanup(self._restore, name, old)
        # What fails inside a paint or mouse event never reaches the test by itself.
        self.faults: list[str] = []
        old_hook = sys.excepthook
        sys.excepthook = lambda kind, error, trace: self.faults.append(f"{kind.__name__}: {error}")
        self.addCleanup(lambda: self.assertEqual(self.faults, []))
        self.addCleanup(setattr, sys, "excepthook", old_hook)
        set_text_scale(1.0)
        self.app = make_app(Theme.LIGHT)
        self._open: tuple[QWidget | None, float] = (None, 0.0)
        self._watch = QTimer()
        self._watch.timeout.connect(self._close_what_stands_open)
        self._watch.start(1000)
        self.addCleanup(self._watch.stop)
        self.workspace = Workspace(Preferences())
        self.refusals: list[str] = []
        self.workspace.refused.connect(self.refusals.append)
        self.window = MainWindow(self.workspace)
        self.workspace.open_book(self.book or Book(), None)
        self.window.resize(1280, 800)
        if self.room != BALANCE:
            self.window.go(self.room)
        self.window.show()
        self.settle()
        self.addCleanup(self._close)

    @staticmethod
    def _restore(name: str, old: str | None) -> None:
        if old is None:
            os.environ.pop(name, None)
        else:
            os.environ[name] = old

    def _close(self) -> None:
        # What is left on it would be freed after the application.
        self.app.clipboard().clear()
        self.workspace.saved_book = self.workspace.history.present
        self.window.close()
        self.window.deleteLater()
        self.settle()
        # Without an event loop nothing is deleted by itself, and every theme change would style it all again.
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def _close_what_stands_open(self) -> None:
        """Fail, and let the rest go on, where a dialog or a menu that nobody expected would be waited for for ever."""
        now = QApplication.activeModalWidget() or QApplication.activePopupWidget()
        if now is None or now is not self._open[0]:
            self._open = (now, time.monotonic())
        elif time.monotonic() - self._open[1] > STANDS:
            said = now.text() if isinstance(now, QMessageBox) else now.accessibleName() or now.windowTitle()
            self.faults.append(f"{type(now).__name__} stood open: {said}")
            now.close()

    def settle(self) -> None:
        """Let the window do what it has put off."""
        for _ in range(3):
            self.app.processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def ways(self) -> tuple[Way, ...]:
        """Wait until the ways to balance are there; return them."""
        return self.wait_for(lambda: () if self.window.balance.finder.busy else self.window.balance.ways)

    def wait_for(self, ready: Callable[[], T], seconds: float = 90.0) -> T:
        """Let the window work until `ready` gives something true; return that."""
        end = time.monotonic() + seconds
        while not (found := ready()):
            if time.monotonic() > end:
                raise AssertionError("it never came")
            self.app.processEvents()
            # Work in another thread needs the interpreter too.
            time.sleep(0.002)
        self.settle()
        return found

    def doer(self, *key: str) -> Any:
        """Return the widget of the panel that does what the key says."""
        return self.window.panel.doers[key]

    def keys(self, widget: QWidget, text: str) -> None:
        """Type text."""
        QTest.keyClicks(widget, text)
        self.settle()

    def key(self, widget: QWidget, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        """Press one key."""
        QTest.keyClick(widget, key, modifier)
        self.settle()

    def click(self, widget: QWidget) -> None:
        """Click the middle of a widget."""
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton)
        self.settle()

    def spot(self, view: SceneView, key: tuple[str, ...]) -> QPoint:
        """Return a place in a drawing where the mouse meets `key`."""
        for region in reversed(view.scene.regions):
            if region.key != key:
                continue
            xs = [p[0] for p in region.polygon]
            ys = [p[1] for p in region.polygon]
            for i in range(1, 20):
                for j in range(1, 20):
                    x = min(xs) + (max(xs) - min(xs)) * i / 20
                    y = min(ys) + (max(ys) - min(ys)) * j / 20
                    if view.scene.hit(x, y) == key:
                        return QPointF(x, y).toPoint()
        raise AssertionError(f"{key} is nowhere to be met in the drawing")

    def press_at(self, view: SceneView, key: tuple[str, ...]) -> None:
        """Click on something in a drawing."""
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, self.spot(view, key))
        self.settle()

    def drag(self, view: SceneView, key: tuple[str, ...], by: int, steps: int = 5) -> None:
        """Drag something in a drawing sideways by `by` px."""
        start = self.spot(view, key)
        QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
        for step in range(1, steps + 1):
            QTest.mouseMove(view, start + QPoint(by * step // steps, 0))
            self.app.processEvents()
        end = start + QPoint(by, 0)
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end)
        self.settle()

    @contextmanager
    def answering(self, *answers: str) -> Iterator[list[str]]:
        """While it lasts, questions are answered with these words in turn; yields the questions that were asked."""
        asked: list[str] = []
        waiting = list(answers)

        def answer(box: QMessageBox) -> int:
            asked.append(box.text())
            wanted = waiting.pop(0)
            next(b for b in box.buttons() if b.text().replace("&&", "&") == wanted).click()
            return 0

        with mock.patch.object(QMessageBox, "exec", answer):
            yield asked
        self.assertEqual(waiting, [], "questions that were not asked")

    def stop_job(self, words: str = "") -> list[str]:
        """Press Stop as soon as the window says that it waits for what has `words`; return what gets what it said.

        On a slow machine jobs before it may be told too: they go on.
        """
        said: list[str] = []

        def look() -> None:
            dialog = QApplication.activeModalWidget()
            if isinstance(dialog, WaitingDialog) and words in dialog.accessibleName():
                said.append(dialog.accessibleName())
                dialog.stop.click()
            else:
                QTimer.singleShot(30, look)

        QTimer.singleShot(30, look)
        return said

    @contextmanager
    def alive(self) -> Iterator[None]:
        """Fail if the window's loop stands still for seconds while it lasts."""
        ticks: list[float] = []
        timer = QTimer()
        timer.timeout.connect(lambda: ticks.append(time.monotonic()))
        timer.start(20)
        yield
        timer.stop()
        self.assertLess(max(b - a for a, b in pairwise(ticks)), 2.0)

    def banner_button(self, words: str) -> QWidget:
        """Return the banner's button with these words."""
        return next(button for button in self.window.banner.buttons if button.text() == words)

    def at_field(self, window: QWidget | None = None) -> str:
        """Return what is said at a field that could not be read, "" if nothing is."""
        return refusal_of(window or self.window)

    def focus(self) -> QWidget | None:
        """Return the widget that has the keyboard."""
        return QApplication.focusWidget()


class DemoWindowTestCase(WindowTestCase):
    """The same on the demo data."""

    def setUp(self) -> None:
        self.book = demo_book()
        super().setUp()
