"""A rig in the hands in every room of the real window, by keys: no word of a pad, ways that help, its own sheet."""

from __future__ import annotations

import re

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QWidget

from equilix.desktop.dialogs.forms import BuildDialog
from equilix.desktop.views.rooms import BALANCE, BUILD, CARRY, WEIGH
from equilix.desktop.widgets.scene_view import SceneView
from equilix.document.edits.builds import ApplyPlan
from equilix.io.shipped import demo_book
from equilix.present.drawing.scene import TextItem
from equilix.present.sheet import sheet_model
from tests.campaigns import campaign
from tests.desktop.base import DemoWindowTestCase

CTRL = Qt.KeyboardModifier.ControlModifier
#: Words of the shoulder; names of parts that say them are taken out first.
_OF_THE_SHOULDER = re.compile(r"\bpad\b|pad line|on the shoulder, rig|hands-off", re.IGNORECASE)


@campaign
class HandheldSupport(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        QTest.keyClick(self.window, Qt.Key.Key_2, CTRL)
        self.settle()
        self.names = sorted((part.name for part in self.workspace.book.kit), key=len, reverse=True)

    def said(self, widget: QWidget) -> list[str]:
        """Return every text that is seen in a widget, parts' names taken out."""
        found = [label.text() for label in widget.findChildren(QLabel) if label.isVisible()]
        for view in widget.findChildren(SceneView):
            if view.isVisible() and view.scene is not None:
                found += [item.text for item in view.scene.items if isinstance(item, TextItem)]
        clean = []
        for text in found:
            for name in self.names:
                text = re.sub(re.escape(name.split(",")[0]), "", text, flags=re.IGNORECASE)
            clean.append(text)
        return clean

    def test_ctrl_2_balances_it_in_the_hands_and_no_room_speaks_of_a_pad(self) -> None:
        self.assertEqual(self.workspace.build.support, "handheld")
        self.assertIn("wrists hold", self.window.balance.model.verdict.body)
        self.ways()
        for room in (BALANCE, BUILD, CARRY, WEIGH):
            self.window.go(room)
            self.settle()
            central = self.window.centralWidget()
            for text in self.said(central):
                self.assertIsNone(_OF_THE_SHOULDER.search(text), (room, text))

    def test_the_form_of_a_build_asks_what_its_support_needs(self) -> None:
        build = self.workspace.build
        for support, asked in (("handheld", False), ("shoulder", True)):
            w = self.workspace
            dialog = BuildDialog(replace(build, support=support), w.book.parts, w.system, self.window)
            dialog.show()
            words = " ".join(self.said(dialog))
            self.assertIs(_OF_THE_SHOULDER.search(words) is not None, asked, words)
            dialog.close()

    def test_every_tab_below_the_elevation_works(self) -> None:
        view = self.window.balance
        view.pages.show_tab("lenses")
        model = self.wait_for(lambda: view.pages.lenses.model)
        self.assertIn("No lens", [row.cells[0] for row in model.rows])
        view.pages.show_tab("trade")
        self.wait_for(lambda: view.pages.trade.curves is not None)
        view.pages.show_tab("weight")
        self.settle()
        self.assertIsNotNone(view.pages.weight.lever)

    def test_the_first_way_is_shown_and_applied_by_keys_and_lessens_the_see_saw(self) -> None:
        before = abs(self.workspace.analysis().equilibrium.tip_moment)
        self.ways()
        elevation = self.window.balance.elevation
        elevation.setFocus()
        self.key(elevation, Qt.Key.Key_P)
        promised = self.workspace.chosen_way.strategy.remaining
        self.key(elevation, Qt.Key.Key_Return)
        self.wait_for(lambda: abs(self.workspace.analysis().equilibrium.tip_moment) < before)
        self.assertAlmostEqual(self.workspace.analysis().equilibrium.tip_moment, promised, places=6)
        QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.settle()
        self.assertAlmostEqual(abs(self.workspace.analysis().equilibrium.tip_moment), before, places=9)

    def test_switching_there_and_back_loses_nothing(self) -> None:
        QTest.keyClick(self.window, Qt.Key.Key_1, CTRL)
        self.settle()
        self.assertEqual(self.workspace.build, demo_book().builds[0])
        self.assertIn("Tips forward", self.window.balance.model.verdict.head)

    def test_its_sheet_is_about_the_hands(self) -> None:
        w = self.workspace
        sheet = sheet_model(w.book, w.analysis(), w.operator, w.system)
        texts = [sheet.balance.verdict.body, *sheet.cautions, *(row.label for row in sheet.balance.figures)]
        self.assertIn("See-saw", texts)
        for text in texts:
            for name in self.names:
                text = re.sub(re.escape(name.split(",")[0]), "", text, flags=re.IGNORECASE)
            self.assertIsNone(_OF_THE_SHOULDER.search(text), text)

    def test_without_anything_to_hold_it_says_what_is_needed(self) -> None:
        build = self.workspace.build
        base = replace(build, parts=build.parts[:1])
        self.workspace.apply(ApplyPlan(base))
        self.settle()
        self.assertIn("something to hold", self.window.balance.model.verdict.body)
