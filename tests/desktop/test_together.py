"""A bag becomes a rig in the real window: one key shows it, one takes it, what is asked is answered by mouse."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt

from equilix.core.assembly.build import Build
from equilix.desktop.views.rooms import BUILD
from equilix.document.book import Book
from equilix.document.edits.builds import ChangeBuild
from equilix.document.typical_parts import guess_category, typical
from equilix.present.assembly.side_panel import ANSWER, LEAVE, PUT_ALL, TOGETHER
from tests.desktop.base import WindowTestCase

BAG = ("Kamera", "Käfig", "Objektiv", "Topgriff", "Mikrofon", "gunstock", "thing")


class FromABag(WindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        parts = tuple(typical(guess_category(name), f"p{k}", name, 0.5) for k, name in enumerate(BAG))
        self.workspace.open_book(replace(Book(), kit=parts, builds=(Build("b", "Rig"),)), None)
        self.window.go(BUILD)
        self.settle()
        self.view = self.window.build

    def on_it(self) -> set[str]:
        return {self.workspace.book.name_of(placed) for placed in self.workspace.build.parts}

    def proposed(self) -> None:
        self.view.drawing.setFocus()
        self.key(self.view.drawing, Qt.Key.Key_A)
        self.wait_for(lambda: self.view.together.proposed)

    def test_by_keys_in_two_presses_and_one_step(self) -> None:
        before = self.workspace.book
        self.proposed()
        self.assertEqual(self.window.panel.head.text().replace("\xa0", " "), "5 parts have a place.")
        self.assertIs(self.workspace.book, before)
        self.key(self.view.drawing, Qt.Key.Key_Return)
        self.wait_for(lambda: self.workspace.build.parts)
        self.assertEqual(self.on_it(), set(BAG[:5]))
        self.assertEqual(self.workspace.analysis().findings, ())
        self.workspace.undo()
        self.assertIs(self.workspace.book, before)

    def test_escape_leaves_everything_as_it_was(self) -> None:
        before = self.workspace.book
        self.proposed()
        self.key(self.view.drawing, Qt.Key.Key_Escape)
        self.assertIsNone(self.view.together.proposed)
        self.assertIs(self.workspace.book, before)
        self.assertIn((TOGETHER,), self.window.panel.doers)

    def test_by_mouse_with_an_answer(self) -> None:
        self.click(self.doer(TOGETHER))
        self.wait_for(lambda: self.view.together.proposed)
        self.assertIn((LEAVE,), self.window.panel.doers)
        self.click(self.doer(PUT_ALL))
        self.wait_for(lambda: self.view.together.proposed)
        self.assertEqual(self.window.panel.head.text().replace("\xa0", " "), "2 parts are asked about.")
        names = [question.name for question in self.view.together.proposed.questions]
        self.assertEqual(names, ["gunstock", "thing"])
        self.click(self.doer(ANSWER, "1", "0"))
        self.wait_for(lambda: "thing" in self.on_it())
        self.wait_for(lambda: self.view.together.proposed)
        self.assertEqual([one.name for one in self.view.together.proposed.questions], ["gunstock"])

    def test_a_proposal_ends_with_the_build_that_it_was_made_for(self) -> None:
        self.proposed()
        self.workspace.apply(ChangeBuild(replace(self.workspace.build, name="Other"), "name"))
        self.settle()
        self.assertIsNone(self.view.together.proposed)
