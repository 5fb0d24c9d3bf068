"""Nothing is cut off and no text lies on another, in any room, from the smallest window to a large screen."""

from __future__ import annotations

from itertools import combinations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetricsF
from PySide6.QtWidgets import QComboBox, QLabel, QPushButton, QStyle, QStyleOptionComboBox, QWidget

from equilix.desktop.looks.theme import Theme, apply_theme, font, set_text_scale, text_scale
from equilix.desktop.views.rooms import BALANCE, BUILD, CARRY, WEIGH
from equilix.desktop.widgets.balance_pages import BENCH, LENSES, OWN
from equilix.desktop.widgets.labels import OneLine, PlainLabel
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.window import MainWindow
from equilix.document.edits.sets import MakeSet
from equilix.present.drawing.scene import Anchor, TextItem
from tests.campaigns import campaign
from tests.desktop.base import DemoWindowTestCase

SIZES = ((1024, 700), (1280, 800), (1920, 1080), (2560, 1440))
ROOMS = {WEIGH: "Weigh", BUILD: "Build", BALANCE: "Balance", CARRY: "Carry"}


@campaign
class Sizes(DemoWindowTestCase):
    #: How large text is, and the smallest window that goes with it.
    scale, least = 1.0, (980, 640)
    maxDiff = None

    def setUp(self) -> None:
        super().setUp()
        if self.scale != 1.0:
            # Larger text is taken at the start: the window is made again.
            self._close()
            set_text_scale(self.scale)
            apply_theme(self.app, Theme.LIGHT)
            self.window = MainWindow(self.workspace)
            self.window.show()
            self.settle()

    def sizes(self, some: tuple[tuple[int, int], ...]) -> tuple[tuple[int, int], ...]:
        """Return the smallest window, and those of `some` that are larger."""
        self.assertEqual(self.window.minimumSize().toTuple(), self.least)
        return (self.least, *(size for size in some if size[0] > self.least[0] and size[1] > self.least[1]))

    def quiet(self, room: str) -> None:
        if room == BALANCE:
            self.ways()
        elif room == BUILD:
            self.wait_for(lambda: not self.window.build.advice.busy)
        elif room == CARRY:
            self.wait_for(lambda: self.window.carry.job is None)
        self.settle()

    def faults_in(self) -> list[str]:
        """Return what is cut off or overlaps in the room that is open."""
        found = [
            f"past the window's edge: {type(widget).__name__}"
            for widget in self.window.top.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly)
            if widget.isVisible() and widget.geometry().right() >= self.window.width()
        ]
        for widget in self.window.findChildren(QWidget):
            if not widget.isVisible() or widget.window() is not self.window:
                continue
            if isinstance(widget, QLabel) and widget.text():
                found += self._label(widget)
            elif isinstance(widget, QPushButton) and widget.text():
                text = widget.text().replace("&&", "&")
                if widget.fontMetrics().horizontalAdvance(text) > widget.width() + 1:
                    found.append(f"button cut: {text}")
            elif isinstance(widget, QComboBox) and not widget.toolTip():
                option = QStyleOptionComboBox()
                widget.initStyleOption(option)
                field = widget.style().subControlRect(
                    QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, widget
                )
                if widget.fontMetrics().horizontalAdvance(widget.currentText()) > field.width() + 1:
                    found.append(f"list cut: {widget.currentText()}")
            elif isinstance(widget, SceneView):
                found += self._scene(widget)
        return found

    @staticmethod
    def _label(widget: QLabel) -> list[str]:
        if isinstance(widget, OneLine):
            return []  # it ends in three dots, with the whole in its tip
        if isinstance(widget, PlainLabel):
            if widget.sizePolicy().hasHeightForWidth():
                cut = widget.heightForWidth(widget.width()) > widget.height() + 3
            else:
                cut = widget.sizeHint().width() > widget.width() + 1
            return [f"label cut: {widget.text()}"] if cut else []
        room = widget.contentsRect()
        if widget.wordWrap():
            needed = widget.fontMetrics().boundingRect(
                0, 0, room.width(), 10_000, Qt.TextFlag.TextWordWrap, widget.text()
            )
            return [f"label cut: {widget.text()}"] if needed.height() > room.height() + 3 else []
        needed_width = widget.fontMetrics().horizontalAdvance(widget.text())
        return [f"label cut: {widget.text()}"] if needed_width > room.width() + 1 else []

    @staticmethod
    def _rect(item: TextItem) -> QRectF:
        width = QFontMetricsF(font(item.size, item.weight)).horizontalAdvance(item.text) / text_scale()
        left = item.x - {Anchor.START: 0.0, Anchor.MIDDLE: width / 2.0, Anchor.END: width}[item.anchor]
        return QRectF(left, item.y - item.size * 0.72, width, item.size * 0.72)

    def _scene(self, view: SceneView) -> list[str]:
        found = []
        texts = [item for item in view.scene.items if isinstance(item, TextItem) and item.text.strip()]
        area = QRectF(-1.0, -1.0, view.width() / text_scale() + 2.0, view.height() / text_scale() + 2.0)
        rects = [self._rect(item) for item in texts]
        for item, rect in zip(texts, rects, strict=True):
            if not area.contains(rect):
                found.append(f"{view.accessibleName()}: cut: {item.text}")
        for (a, ra), (b, rb) in combinations(zip(texts, rects, strict=True), 2):
            if ra.adjusted(1, 1, -1, -1).intersects(rb.adjusted(1, 1, -1, -1)):
                found.append(f"{view.accessibleName()}: {a.text!r} on {b.text!r}")
        return found

    def test_nothing_is_cut_and_nothing_overlaps(self) -> None:
        for room, name in ROOMS.items():
            self.window.go(room)
            for width, height in self.sizes(SIZES):
                self.window.resize(width, height)
                self.settle()
                self.quiet(room)
                with self.subTest(room=name, size=(width, height), text=self.scale):
                    self.assertEqual(self.faults_in(), [])

    def test_rooms_of_a_rig_that_hangs_or_stands(self) -> None:
        for support in ("harness", "tripod", "gimbal", "vest"):
            self.window.acts.choose_support(support)
            for room in (BALANCE, CARRY):
                self.window.go(room)
                for width, height in self.sizes(((1024, 700), (1280, 800))):
                    self.window.resize(width, height)
                    self.settle()
                    self.quiet(room)
                    with self.subTest(support=support, room=ROOMS[room], size=(width, height), text=self.scale):
                        self.assertEqual(self.faults_in(), [])

    def test_what_gimbals_and_sleds_have_of_their_own(self) -> None:
        for build in ("gimbal-light", "gimbal-full", "sled-long", "sled-zoom"):
            self.workspace.choose_build(build)
            self.window.go(BALANCE)
            for tab in (OWN, BENCH, LENSES):
                self.window.balance.pages.show_tab(tab)
                for width, height in self.sizes(((1024, 700), (1280, 800))):
                    self.window.resize(width, height)
                    self.settle()
                    self.quiet(BALANCE)
                    with self.subTest(build=build, tab=tab, size=(width, height), text=self.scale):
                        self.assertEqual(self.faults_in(), [])

    def test_sets_and_what_belongs_to_one(self) -> None:
        build = self.workspace.build
        rods = next(p for p in build.parts if p.parent is not None and len(build.carried_by(p.id)) > 1)
        for name in ("Camera with everything that hangs on it", "Front"):
            self.workspace.apply(MakeSet(build.id, name, build.carried_by(rods.id)))
        self.workspace.select(rods.id)
        self.window.go(BUILD)
        for width, height in self.sizes(SIZES):
            self.window.resize(width, height)
            self.quiet(BUILD)
            with self.subTest(size=(width, height), text=self.scale):
                self.assertEqual(self.faults_in(), [])

    def test_the_same_by_night(self) -> None:
        self.window.set_theme(Theme.DARK)
        self.addCleanup(self.window.set_theme, Theme.LIGHT)
        self.window.resize(1280, 800)
        for room, name in ROOMS.items():
            self.window.go(room)
            self.quiet(room)
            with self.subTest(room=name, text=self.scale):
                self.assertEqual(self.faults_in(), [])


@campaign
class LargerText(Sizes):
    scale, least = 1.25, (1130, 720)


@campaign
class LargeText(Sizes):
    scale, least = 1.5, (1280, 800)


@campaign
class TwiceAsLargeText(Sizes):
    scale, least = 2.0, (1580, 960)
