"""What is wrong on a rig is put right by hand: pulled off and put onto a face, or by keys through its places."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from unittest import mock

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest

from equilix.core.assembly.build import Build, Placed
from equilix.desktop.views.rooms import BUILD
from equilix.document.book import Book
from equilix.document.edits.builds import ApplyPlan
from equilix.document.typical_parts import guess_category, typical
from equilix.present.assembly.in_hand import HAND_OFF, NEXT_HOLDER, PUT_THERE
from equilix.present.assembly.side_panel import LIFT
from equilix.present.assembly.together import together
from tests.desktop.base import WindowTestCase

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
BAG = (
    "Documentary camera",
    "Zoom 20-120",
    "Base plate",
    "Shoulder pad",
    "V-lock plate",
    "Battery 98 Wh",
    "Video sender",
    "Top handle",
)


class PutRight(WindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        parts = tuple(typical(guess_category(name), f"p{k}", name, 0.5) for k, name in enumerate(BAG))
        self.workspace.open_book(replace(Book(), kit=parts, builds=(Build("b", "Rig"),)), None)
        w = self.workspace
        found = together(w.book, w.build, w.operator)
        w.apply(ApplyPlan(found.build, found.new_parts, "Put together"))
        self.window.go(BUILD)
        self.settle()
        self.view = self.window.build
        self.before = w.book

    def id_of(self, name: str) -> str:
        return next(p.id for p in self.workspace.build.parts if self.workspace.book.name_of(p) == name)

    def holder(self, name: str) -> str:
        placed = self.workspace.build.placed(self.id_of(name))
        return self.workspace.book.name_of(self.workspace.build.placed(placed.parent))

    def pixel(self, name: str, up: float = 0.0) -> QPoint:
        """Return the pixel of a part in the side view, `up` of its half height above its middle."""
        analysis, side = self.workspace.analysis(), self.view.drawn.side
        k = [placed.id for placed in analysis.build.parts].index(self.id_of(name))
        x, y = side.point(analysis.positions.centre[k])
        return QPoint(round(x), round(y - up * float(analysis.assembly.edges[k, 2]) * side.scale))

    def pull(self, name: str, to: QPoint, release: bool = True) -> None:
        start = self.spot(self.view.drawing, ("part", self.id_of(name)))
        QTest.mousePress(self.view.drawing, LEFT, NONE, start)
        self.assertEqual(self.view.drawing.held, ("part", self.id_of(name)))
        for place in (start + QPoint(0, -36), to):
            QTest.mouseMove(self.view.drawing, place)
            self.app.processEvents()
        if release:
            QTest.mouseRelease(self.view.drawing, LEFT, NONE, to)
            self.settle()

    @contextmanager
    def held(self, modifier: Qt.KeyboardModifier) -> Iterator[None]:
        with mock.patch.object(QGuiApplication, "keyboardModifiers", return_value=modifier):
            yield

    # By mouse

    def test_pulled_onto_a_face_it_is_joined_there_in_one_step(self) -> None:
        self.pull("Video sender", self.pixel("Zoom 20-120", 0.8))
        self.assertEqual(self.holder("Video sender"), "Zoom 20-120")
        analysis = self.workspace.analysis()
        sender, zoom = (
            next(k for k, p in enumerate(analysis.build.parts) if p.id == self.id_of(name))
            for name in ("Video sender", "Zoom 20-120")
        )
        bottom = analysis.positions.centre[sender, 2] - analysis.assembly.edges[sender, 2]
        self.assertAlmostEqual(bottom, analysis.positions.centre[zoom, 2] + analysis.assembly.edges[zoom, 2])
        self.workspace.undo()
        self.assertEqual(self.workspace.book, self.before)

    def test_what_hangs_on_it_comes_along(self) -> None:
        self.pull("V-lock plate", self.pixel("Base plate", -0.9))
        self.assertEqual(self.holder("V-lock plate"), "Base plate")
        self.assertEqual(self.holder("Battery 98 Wh"), "V-lock plate")

    def test_pulled_off_the_rig_it_is_loose_with_what_hangs_on_it(self) -> None:
        self.pull("V-lock plate", QPoint(20, 60))
        on_it = {self.workspace.book.name_of(placed) for placed in self.workspace.build.parts}
        self.assertEqual(set(BAG) - on_it, {"V-lock plate", "Battery 98 Wh"})
        self.workspace.undo()
        self.assertEqual(self.workspace.book, self.before)

    def test_let_go_over_itself_or_left_by_escape_nothing_changes(self) -> None:
        self.pull("Video sender", self.pixel("Video sender"))
        self.assertEqual(self.workspace.book, self.before)
        self.pull("Video sender", self.pixel("Zoom 20-120", 0.8), release=False)
        self.assertEqual(self.view.moves.target.words, "on top of zoom 20-120, screw")
        self.key(self.view.drawing, Qt.Key.Key_Escape)
        QTest.mouseRelease(self.view.drawing, LEFT, NONE, self.pixel("Zoom 20-120", 0.8))
        self.assertEqual(self.workspace.book, self.before)

    def test_a_slide_follows_the_mouse_until_it_is_pulled_off_and_then_stands_again(self) -> None:
        self.pull("Top handle", self.pixel("Zoom 20-120", 0.8))
        self.assertEqual(self.holder("Top handle"), "Zoom 20-120")
        self.workspace.undo()
        self.assertEqual(self.workspace.book, self.before)

    def test_with_control_a_copy_goes_there(self) -> None:
        with self.held(Qt.KeyboardModifier.ControlModifier):
            self.pull("Video sender", self.pixel("Zoom 20-120", 0.8))
        self.assertEqual(self.holder("Video sender"), "Documentary camera")
        self.assertEqual(self.holder("Video sender copy"), "Zoom 20-120")
        self.workspace.undo()
        self.assertEqual(self.workspace.book, self.before)

    def test_with_alt_no_mount_draws_it_to_itself(self) -> None:
        self.pull("Top handle", QPoint(20, 60))
        self.view.moves.lift_loose(next(p for p in self.workspace.book.kit if p.name == "Top handle"))
        at = self.pixel("Documentary camera", 0.95)
        self.key(self.view.drawing, Qt.Key.Key_Return)
        joined = self.workspace.build.placed(self.id_of("Top handle"))
        self.assertIsNone(joined.own)
        with self.held(Qt.KeyboardModifier.AltModifier):
            self.pull("Top handle", at)
        self.assertIsNotNone(self.workspace.build.placed(self.id_of("Top handle")).own)

    # By keys

    def test_by_keys_through_the_places_it_can_have(self) -> None:
        drawing = self.view.drawing
        drawing.setFocus()
        self.workspace.select(self.id_of("Video sender"))
        self.key(drawing, Qt.Key.Key_L)
        first = self.view.moves.target.place
        seen = {(first.onto, first.relation)}
        for _ in range(5):
            self.key(drawing, Qt.Key.Key_Right)
            place = self.view.moves.target.place
            seen.add((place.onto, place.relation))
        self.assertEqual(len(seen), 6)
        self.assertEqual(len({onto for onto, _ in seen}), 1)
        self.key(drawing, Qt.Key.Key_Left)
        self.key(drawing, Qt.Key.Key_Down)
        place = self.view.moves.target.place
        self.assertNotEqual(place.onto, first.onto)
        self.assertIs(self.workspace.book, self.before)
        self.key(drawing, Qt.Key.Key_Return)
        self.assertEqual(self.workspace.build.placed(self.id_of("Video sender")).parent, place.onto)

    def test_what_all_hangs_on_cannot_be_moved_and_says_so(self) -> None:
        w = self.workspace
        w.apply(ApplyPlan(replace(w.build, parts=(Placed("alone", "p0"),)), (), "One part"))
        w.select(w.build.parts[0].id)
        self.key(self.view.drawing, Qt.Key.Key_L)
        self.assertRegex(self.refusals[-1], r"^The whole rig hangs on Documentary camera\.")
        self.assertIsNone(self.view.moves.hand)

    def test_the_camera_moved_takes_its_lens_along(self) -> None:
        self.workspace.select(self.id_of("Documentary camera"))
        self.key(self.view.drawing, Qt.Key.Key_L)
        names = {self.workspace.book.name_of(one) for one in self.view.moves.hand.along}
        self.assertIn("Zoom 20-120", names)
        self.key(self.view.drawing, Qt.Key.Key_Return)
        self.assertEqual(len(self.workspace.build.parts), len(BAG))
        self.assertTrue(np.isfinite(self.workspace.analysis().positions.centre).all())

    def test_by_the_buttons_of_the_panel(self) -> None:
        panel = self.window.panel
        self.workspace.select(self.id_of("Video sender"))
        self.settle()
        self.click(panel.doers[(LIFT,)])
        self.wait_for(lambda: (PUT_THERE,) in panel.doers)
        self.click(panel.doers[(NEXT_HOLDER,)])
        self.settle()
        onto = self.view.moves.target.place.onto
        self.click(panel.doers[(PUT_THERE,)])
        self.wait_for(lambda: self.view.moves.hand is None)
        self.assertEqual(self.workspace.build.placed(self.id_of("Video sender")).parent, onto)
        self.click(panel.doers[(LIFT,)])
        self.wait_for(lambda: (HAND_OFF,) in panel.doers)
        self.click(panel.doers[(HAND_OFF,)])
        self.wait_for(lambda: len(self.workspace.build.parts) == len(BAG) - 1)
