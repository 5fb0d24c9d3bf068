"""The emptiest things in every room, and what a fault looks like where one happens all the same."""

from __future__ import annotations

import ast
import os
import sys
from pathlib import Path
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

import equilix.desktop
from equilix.core.assembly.build import Build, Placed
from equilix.core.keys import KEYS
from equilix.desktop.jobs.faults import hook_faults
from equilix.desktop.views.rooms import BALANCE, BUILD, CARRY, WEIGH
from equilix.desktop.widgets import scene_view
from equilix.desktop.widgets.balance_pages import BENCH, LEDGER, LENSES, OWN, TRADE, WEIGHT
from equilix.document.book import Book
from equilix.io.log import end_log, log_file
from equilix.io.shipped import catalogue
from tests.campaigns import campaign
from tests.desktop.base import WindowTestCase

PAGES = (LEDGER, TRADE, LENSES, WEIGHT, OWN, BENCH)


def emptiest() -> dict[str, Book]:
    """Return books in which next to nothing is known: no build, none but empty ones, one part with no figure at all."""
    kinds = ("pad", "body", "sled part")
    found = {"no build": Book(), "empty build": Book(builds=(Build("b", "Empty"),))}
    for kind in kinds:
        part = next(part for part in catalogue() if str(part.category) == kind)
        bare = replace(part, id="bare", mass=None, outline=None)
        for name, one in ((f"bare {kind}", bare), (f"a {kind} alone", replace(part, id="bare"))):
            found[name] = Book(kit=(one,), builds=(Build("b", name, (Placed("p1", "bare"),)),))
    return found


@campaign
class TheEmptiestCases(WindowTestCase):
    def walk_rooms(self, said: str) -> None:
        for room in (WEIGH, BUILD, BALANCE, CARRY):
            self.window.go(room)
            self.settle()
            self.assertEqual(self.faults, [], f"{said}, room {room}")
            if room == BALANCE:
                for page in PAGES:
                    if self.window.balance.pages.tabs.buttons[page].isVisibleTo(self.window):
                        self.window.balance.pages.show_tab(page)
                        self.settle()
                        self.assertEqual(self.faults, [], f"{said}, page {page}")

    def test_every_support_room_and_page_with_undo(self) -> None:
        for name, book in emptiest().items():
            with self.subTest(name):
                self.workspace.open_book(book, None)
                for key in KEYS:
                    self.window.acts.choose_support(key)
                    self.walk_rooms(f"{name}, {key}")
                while self.workspace.history.past:
                    self.workspace.undo()
                    self.settle()
                    self.assertEqual(self.faults, [], f"{name}, undone")
                self.assertEqual(self.workspace.book, book)

    def test_a_support_chosen_first_then_parts_put_on_and_all_undone(self) -> None:
        """The natural order: begin a build, say what carries it, put parts on."""
        for key in KEYS:
            with self.subTest(key):
                self.workspace.open_book(Book(kit=catalogue()[:6]), None)
                self.window.acts.new_build()
                self.window.acts.choose_support(key)
                self.walk_rooms(f"{key} first")
                self.window.go(BUILD)
                for _ in range(3):
                    self.key(self.window.build.drawing, Qt.Key.Key_Return)
                    self.settle()
                self.walk_rooms(f"{key}, parts put on")
                while self.workspace.history.past:
                    self.workspace.undo()
                    self.settle()
                self.walk_rooms(f"{key}, undone")


class AFaultIsShownOnce(WindowTestCase):
    book = Book(builds=(Build("b", "Empty"),))

    def setUp(self) -> None:
        super().setUp()
        self.said: list[str] = []
        old = sys.excepthook
        # Another test's log may still be open.
        end_log()
        hook_faults(self.said.append)
        self.addCleanup(setattr, sys, "excepthook", old)
        self.addCleanup(end_log)

    def test_in_a_paint_handler(self) -> None:
        def broken(painter: QPainter, *_rest: object) -> None:
            raise ArithmeticError("the hidden reason")

        with mock.patch.object(scene_view, "paint_scene", broken), mock.patch("sys.stderr"):
            for _ in range(20):
                self.window.balance.elevation.update()
                self.settle()
            self.window.refresh()
            self.settle()
        self.assertEqual(len(self.said), 1)
        self.assertIn(str(log_file()), self.said[0])
        told = log_file().read_text()
        self.assertEqual(told.count("Traceback"), 1)
        self.assertIn("the hidden reason", told)
        self.assertEqual(log_file().stat().st_mode & 0o077, 0)
        # What failed is shown again as soon as it can be.
        self.window.refresh()
        self.settle()
        self.assertEqual(len(self.said), 1)

    def test_in_a_room_that_can_not_be_shown(self) -> None:
        view = self.window.balance
        with (
            mock.patch.object(type(view), "refresh", side_effect=ArithmeticError("no")),
            mock.patch("sys.stderr"),
        ):
            self.window.refresh()
            self.window.acts.choose_support("vest")
            self.settle()
        self.assertEqual(len(self.said), 1)
        self.assertIn("can’t be shown", self.window.panel.head.text())
        self.window.go(BUILD)
        self.window.go(BALANCE)
        self.settle()
        self.assertNotIn("can’t be shown", self.window.panel.head.text())

    def test_the_log_tells_of_all_that_is_done_where_that_is_wanted(self) -> None:
        from equilix.io.log import begin_log

        with mock.patch.dict(os.environ, {"EQUILIX_LOG": "debug"}):
            self.assertTrue(begin_log())
        self.window.acts.choose_support("tripod")
        self.window.go(CARRY)
        end_log()
        told = log_file().read_text()
        self.assertIn("edit: ChangeBuild", told)
        self.assertIn("room carry", told)


class EveryHandlerThatQtCalls(WindowTestCase):
    def test_is_guarded(self) -> None:
        """A fault in one that is not would come again with every paint."""
        folder = Path(equilix.desktop.__file__).parent
        bare = []
        for path in sorted(folder.rglob("*.py")):
            for node in ast.walk(ast.parse(path.read_text("utf-8"))):
                if isinstance(node, ast.FunctionDef) and node.name in ("paintEvent", "resizeEvent"):
                    names = [one.id for one in node.decorator_list if isinstance(one, ast.Name)]
                    if "shown_once" not in names:
                        bare.append(f"{path.name}: {node.name}")
        self.assertEqual(bare, [])
