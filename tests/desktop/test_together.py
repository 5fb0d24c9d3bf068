"""A bag becomes a rig in the real window: one key shows it, one takes it, what is asked is answered by mouse."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QMimeData, QPointF, Qt
from PySide6.QtGui import QDropEvent

from equilix.core.assembly.build import Build, Placed
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.views.rooms import BUILD
from equilix.desktop.widgets.mime import MIME
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


class PutRightByHand(WindowTestCase):
    """Common practice: a part goes where it is dropped, joined as people join such parts."""

    def setUp(self) -> None:
        super().setUp()
        names = ("Camera", "Top plate", "Monitor mount", "gunstock", "Side panel")
        parts = tuple(typical(guess_category(name), f"k{k}", name, 0.5) for k, name in enumerate(names))
        camera = Build("b", "Rig", (Placed("camera", "k0"),))
        self.workspace.open_book(replace(Book(), kit=parts, builds=(camera,)), None)
        self.window.go(BUILD)
        self.settle()
        self.view = self.window.build

    def drop(self, part_id: str, x: float, y: float) -> None:
        data = QMimeData()
        data.setData(MIME, part_id.encode())
        place = QPointF(x * text_scale(), y * text_scale())
        copy, button = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
        self.view.drawing.dropEvent(QDropEvent(place, copy, data, button, Qt.KeyboardModifier.NoModifier))
        self.settle()

    def place(self, *at: float) -> tuple[float, float]:
        """Return the pixel of a point of the camera in fractions of its half size: ahead and up, in the side view."""
        analysis, drawn = self.workspace.analysis(), self.view.drawn
        middle, half = analysis.positions.centre[0], analysis.assembly.edges[0]
        return drawn.side.x(middle[0] + at[0] * half[0]), drawn.side.y(middle[2] + at[1] * half[2])

    def lies(self, part_id: str) -> np.ndarray:
        analysis = self.workspace.analysis()
        k = next(k for k, placed in enumerate(analysis.build.parts) if placed.part_id == part_id)
        away = analysis.positions.centre[k] - analysis.positions.centre[0]
        result: np.ndarray = away / (analysis.assembly.edges[0] + analysis.assembly.edges[k])
        return result

    def test_the_face_it_is_dropped_nearest_to_takes_it(self) -> None:
        for part_id, at, axis, sign in (
            ("k1", (0.5, 0.93), 2, 1.0),
            ("k3", (-0.93, 0.3), 0, -1.0),
            ("k2", (0.93, -0.4), 0, 1.0),
        ):
            with self.subTest(part_id):
                self.drop(part_id, *self.place(*at))
                self.assertAlmostEqual(float(self.lies(part_id)[axis]), sign, places=6)
        self.assertEqual(len(self.workspace.build.parts), 4)
        self.workspace.undo()
        self.assertEqual(len(self.workspace.build.parts), 3)

    def test_the_joint_says_how_and_lies_where_it_was_dropped(self) -> None:
        self.drop("k3", *self.place(-0.93, 0.3))
        placed = next(placed for placed in self.workspace.build.parts if placed.part_id == "k3")
        own = placed.own
        # The back of a camera takes no screw.
        self.assertEqual(own.name, "fixed on")
        outline = self.workspace.book.part("k0").outline
        self.assertAlmostEqual(own.at[2], outline.centre[2] + 0.15 * outline.size[2], delta=0.002)
        self.assertAlmostEqual(own.at[0], outline.centre[0] - outline.size[0] / 2.0)

    def test_enter_asks_about_what_nobody_knows(self) -> None:
        """A stick of no known kind has a screw; it goes on no screw in silence."""
        thing = typical(guess_category("thing"), "k0b", "thing", 0.2)
        build = replace(self.workspace.build, parts=self.workspace.build.parts[:1])
        self.workspace.open_book(
            replace(self.workspace.book, kit=(self.workspace.book.kit[0], thing), builds=(build,)), None
        )
        self.settle()
        self.view.drawing.setFocus()
        self.key(self.view.drawing, Qt.Key.Key_Return)
        self.assertEqual([one.name for one in self.view.together.proposed.questions], ["thing"])
        self.assertEqual(len(self.workspace.build.parts), 1)
        # Esc leaves it off, and Enter does not ask again; J still says how.
        self.key(self.view.drawing, Qt.Key.Key_Escape)
        self.key(self.view.drawing, Qt.Key.Key_Return)
        self.assertIsNone(self.view.together.proposed)
        self.assertEqual(len(self.workspace.build.parts), 1)

    def test_a_number_takes_another_place(self) -> None:
        self.key(self.view.drawing, Qt.Key.Key_Return)
        while self.view.together.proposed is None:
            self.key(self.view.drawing, Qt.Key.Key_Return)
        before = len(self.workspace.build.parts)
        (question,) = self.view.together.proposed.questions
        wanted = question.answers[1].build.parts[-1]
        self.key(self.view.drawing, Qt.Key.Key_2)
        placed = self.workspace.build.parts[-1]
        self.assertEqual(len(self.workspace.build.parts), before + 1)
        self.assertEqual((placed.parent, placed.own), (wanted.parent, wanted.own))
