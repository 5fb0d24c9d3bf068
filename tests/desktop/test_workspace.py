"""The workspace: what is open, what is looked at, what is kept."""

from __future__ import annotations

import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from equilix.desktop.workspace import Workspace
from equilix.document.book import Book
from equilix.document.edits.book import RenameBook
from equilix.document.edits.builds import RemoveBuild, SetSlide, TakeOff
from equilix.document.edits.kit import RemoveParts
from equilix.io.preferences import Preferences
from equilix.io.shipped import demo_book
from equilix.present.units import System


class FakeJournal:
    """Notes what it is asked to keep."""

    def __init__(self) -> None:
        self.calls: list[str] = []
        self.problem = ""

    def keep(self, book: Book, path: Path | None, known: object = None) -> None:
        self.calls.append(f"keep {book.title}")

    def settle(self, book: Book, path: Path | None, known: object = None) -> None:
        self.calls.append("settle")


class WorkspaceTests(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patch = mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": folder.name})
        patch.start()
        self.addCleanup(patch.stop)
        self.journal = FakeJournal()
        self.workspace = Workspace(Preferences(), self.journal)  # type: ignore[arg-type]
        self.workspace.open_book(demo_book(), None)
        self.heard: list[str] = []
        self.workspace.book_changed.connect(lambda: self.heard.append("book"))
        self.workspace.view_changed.connect(lambda: self.heard.append("view"))
        self.workspace.refused.connect(self.heard.append)

    def test_an_edit_is_told_once_and_kept(self) -> None:
        self.assertTrue(self.workspace.apply(RenameBook("A")))
        self.assertEqual(self.heard, ["book"])
        self.assertEqual(self.journal.calls[-1], "keep A")
        self.assertTrue(self.workspace.unsaved)

    def test_an_edit_that_changes_nothing_is_not_told(self) -> None:
        self.assertTrue(self.workspace.apply(RenameBook("Harbour ferry")))
        self.assertEqual(self.heard, [])

    def test_an_edit_that_cannot_be_done_is_told_in_words(self) -> None:
        self.assertFalse(self.workspace.apply(RemoveParts(("zoom",))))
        self.assertIn(". Take it off there first", self.heard[0])

    def test_undoing_all_is_saved_again_and_forgotten(self) -> None:
        self.workspace.apply(RenameBook("A"))
        self.workspace.undo()
        self.assertFalse(self.workspace.unsaved)
        self.assertEqual(self.journal.calls[-1], "settle")
        self.workspace.undo()
        self.workspace.redo()
        self.assertEqual(self.workspace.book.title, "A")

    def test_the_analysis_is_worked_out_once_for_each_book(self) -> None:
        first = self.workspace.analysis()
        self.assertIs(self.workspace.analysis(), first)
        self.workspace.apply(SetSlide("long-zoom", "plate", 0.04))
        second = self.workspace.analysis()
        self.assertIsNot(second, first)
        self.assertIs(second.assembly, first.assembly)

    def test_what_was_looked_at_goes_with_what_is_gone(self) -> None:
        self.workspace.select("monitor")
        self.workspace.apply(TakeOff("long-zoom", "handle"))
        self.assertEqual(self.workspace.selected, "")
        self.workspace.choose_build("wide")
        self.workspace.apply(RemoveBuild("wide"))
        self.assertEqual(self.workspace.build.id, "long-zoom")

    def test_looking_is_not_an_edit(self) -> None:
        self.workspace.select("lens")
        self.workspace.choose_build("trimmed")
        self.workspace.choose_operator("tove")
        self.workspace.set_units(System.IMPERIAL)
        self.assertEqual(set(self.heard), {"view"})
        self.assertFalse(self.workspace.unsaved)
        self.assertEqual(self.workspace.history.past, ())

    def test_save_load_and_what_fails(self) -> None:
        path = self.folder / "a.equilix"
        self.workspace.apply(RenameBook("A"))
        self.assertTrue(self.workspace.save(path))
        self.assertFalse(self.workspace.unsaved)
        self.workspace.open_book(Book(), None)
        self.assertTrue(self.workspace.load(path))
        self.assertEqual(self.workspace.book.title, "A")
        book = self.workspace.book
        self.assertFalse(self.workspace.load(self.folder / "gone.equilix"))
        self.assertIs(self.workspace.book, book)
        self.assertIn("gone.equilix does not exist", self.heard[-1])
        self.assertFalse(self.workspace.save(self.folder))

    def test_two_drags_of_two_parts_are_two_steps(self) -> None:
        for travel in (0.01, 0.02):
            self.workspace.apply(SetSlide("long-zoom", "plate", travel))
        self.workspace.select("vplate")
        for travel in (0.0, 0.01):
            self.workspace.apply(SetSlide("long-zoom", "vplate", travel))
        self.assertEqual(len(self.workspace.history.past), 2)
