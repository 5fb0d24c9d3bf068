"""The widgets by themselves: what they paint where, and what they say to assistive tools."""

from __future__ import annotations

import threading
import weakref

from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QMenu, QWidget

from equilix.core.errors import EditError
from equilix.core.kit.parts import Category, HowKnown, MountKind
from equilix.desktop.jobs.job import Job, Latest, Progress, jobs_running, let_go_of_the_done
from equilix.desktop.looks.theme import Theme, colors, font
from equilix.desktop.views.rooms import BALANCE, BUILD, WEIGH
from equilix.desktop.widgets.glyphs import paint_category, paint_how, paint_mount, paint_state
from equilix.desktop.widgets.labels import LinkLabel, unbroken
from equilix.desktop.widgets.ledger import LedgerModel, number_columns
from equilix.desktop.widgets.plain import as_tip
from equilix.present.balance.elevation import support_line
from equilix.present.balance.panel import LedgerRow
from equilix.present.units import System
from tests.desktop.base import DemoWindowTestCase, WindowTestCase
from tests.rigs.results import shoulder_result


def near(image: QImage, x: int, y: int, color: QColor, slack: int = 40) -> bool:
    """Whether the pixel at a place has about that colour."""
    found = image.pixelColor(x, y)
    pairs = ((found.red(), color.red()), (found.green(), color.green()), (found.blue(), color.blue()))
    return all(abs(a - b) <= slack for a, b in pairs)


class OneLine(DemoWindowTestCase):
    """The support line runs from the pad through the ruler into the ledger, on one column of pixels."""

    def setUp(self) -> None:
        super().setUp()
        self.window.go(BALANCE)
        self.settle()
        self.view = self.window.balance

    def test_the_line_is_continuous_at_every_width(self) -> None:
        for width in (1100, 1280, 1500):
            self.window.resize(width, 800)
            self.settle()
            x = round(support_line(self.view.elevation.width()))
            image = self.view.grab().toImage()
            left = self.view.elevation.x()
            # In the elevation's last rows, through the ledger's head, its table and the net row.
            for widget, dy in (
                (self.view.elevation, self.view.elevation.height() - 4),
                (self.view.pages.ledger.head, 28),
                (self.view.pages.ledger.table, 60),
                (self.view.pages.ledger.net, 4),
            ):
                y = widget.mapTo(self.view, QPoint(0, dy)).y()
                shades = [image.pixelColor(left + x + d, y).lightness() for d in (-1, 0, 1)]
                self.assertLess(min(shades), 120, f"{type(widget).__name__} at {width}")

    def test_the_row_under_the_mouse_is_tinted(self) -> None:
        table = self.view.pages.ledger.table
        spot = QPoint(table.columnWidth(0) - 6, table.rowViewportPosition(2) + 3)

        def shade() -> QColor:
            return table.viewport().grab().toImage().pixelColor(spot)

        plain = shade()
        self.assertEqual(plain.name(), colors()["paper"].name())
        QTest.mouseMove(table.viewport(), spot - QPoint(40, 0))
        QTest.mouseMove(table.viewport(), spot)
        self.settle()
        self.assertNotEqual(shade().name(), plain.name())
        QApplication.sendEvent(table.viewport(), QEvent(QEvent.Type.Leave))
        self.assertEqual(shade().name(), plain.name())

    def test_bars_point_the_way_they_pull(self) -> None:
        ledger = self.view.pages.ledger
        rows = {row.placed_id: i for i, row in enumerate(ledger.rows.rows)}
        image = ledger.table.viewport().grab().toImage()
        line = round(support_line(ledger.width()))
        height = ledger.table.rowHeight(0)
        body, battery = (rows[name] * height + height // 2 for name in ("body", "battery"))
        self.assertTrue(near(image, line + 5, body, colors()["fwd"]))
        self.assertFalse(near(image, line - 5, body, colors()["fwd"]))
        left = [image.pixelColor(line - d, battery) for d in range(4, 30)]
        self.assertTrue(any(c.blue() > c.red() + 20 for c in left))

    def test_the_ledger_is_a_table_that_can_be_read_out(self) -> None:
        model = self.view.pages.ledger.rows
        self.assertEqual(model.rowCount(), len(self.workspace.build.parts))
        spoken = model.data(model.index(0, 0), Qt.ItemDataRole.AccessibleTextRole)
        self.assertIn("Base plate", spoken)
        self.assertIn("ahead of the pad", spoken)
        self.assertIn("N·m", spoken)

    def test_a_line_of_the_status_bar_that_has_no_room_says_the_rest_in_its_tip(self) -> None:
        line = self.window.status.context
        words = "Stills-shaped body is fixed: Camera plate, gimbal of the middle size slides, which carries it"
        line.setText(words)
        for width, tip in ((1000, words), (2400, "")):
            self.window.resize(width, 700)
            self.settle()
            line.grab()
            self.assertEqual(line.toolTip(), as_tip(tip), width)
            self.assertEqual(line.text(), words)

    def test_narrow_ledgers_drop_the_mass_first(self) -> None:
        self.assertEqual(number_columns(784), ("moment", "mass", "arm"))
        self.assertEqual(number_columns(500), ("moment", "arm"))

    def test_the_drawing_has_a_description_of_all_its_parts(self) -> None:
        text = self.view.elevation.accessibleDescription()
        for placed in self.workspace.build.parts:
            self.assertIn(self.workspace.book.name_of(placed), text)

    def test_the_selected_part_is_outlined_in_the_accent(self) -> None:
        self.workspace.select("lens")
        self.settle()
        strokes = {getattr(item, "stroke", None) for item in self.view.elevation.scene.items}
        self.assertIn("accent", strokes)


class Painting(DemoWindowTestCase):
    def painted(self, paint: object) -> int:
        """Return how many pixels something paints on an empty ground."""
        from PySide6.QtGui import QPainter

        image = QImage(40, 40, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        paint(painter)  # type: ignore[operator]
        painter.end()
        return sum(image.pixelColor(x, y).alpha() > 40 for x in range(40) for y in range(40))

    def test_every_glyph_paints_something_and_stays_small(self) -> None:
        from PySide6.QtCore import QRectF

        for category in Category:
            count = self.painted(lambda p, c=category: paint_category(p, c, QRectF(8, 8, 24, 24), "ink"))
            self.assertTrue(20 < count < 600, category)
        for how in HowKnown:
            self.assertGreater(self.painted(lambda p, h=how: paint_how(p, h, 20, 20)), 15)
        for kind in MountKind:
            self.assertGreater(self.painted(lambda p, k=kind: paint_mount(p, k, 20, 20)), 10)
        for state in ("settled", "part", "look", "none"):
            self.assertGreater(self.painted(lambda p, s=state: paint_state(p, s, 20, 20)), 8)

    def test_figures_have_one_width(self) -> None:
        from PySide6.QtGui import QFontMetricsF

        metrics = QFontMetricsF(font(13))
        self.assertEqual(len({round(metrics.horizontalAdvance(digit), 3) for digit in "0123456789"}), 1)

    def test_type_is_the_shipped_one(self) -> None:
        from PySide6.QtGui import QFontInfo

        for weight in (400, 500, 600):
            self.assertEqual(QFontInfo(font(14, weight)).family(), "Barlow")

    def test_no_label_in_the_window_is_smaller_than_12_px(self) -> None:
        for room in (WEIGH, BUILD, BALANCE):
            self.window.go(room)
            self.settle()
            for label in self.window.findChildren(QLabel):
                if label.isVisible() and label.text():
                    self.assertGreaterEqual(label.font().pixelSize(), 12, label.text())


class Panel(DemoWindowTestCase):
    def test_nothing_in_the_panel_is_wider_than_the_panel(self) -> None:
        self.workspace.choose_build("wide")
        for system in System:
            self.workspace.set_units(system)
            for room in (WEIGH, BUILD, BALANCE):
                self.window.go(room)
                self.settle()
                inner = self.window.panel._inner
                self.assertLessEqual(
                    inner.minimumSizeHint().width(), self.window.panel.viewport().width(), f"{room} {system}"
                )

    def test_numbers_and_units_stay_together(self) -> None:
        self.assertEqual(unbroken("about 14 kPa (± 5 mm)"), "about 14\u00a0kPa (±\u00a05\u00a0mm)")
        self.assertEqual(unbroken("3 parts"), "3\u00a0parts")

    def test_cards_are_chosen_and_applied_by_keys_alone(self) -> None:
        self.window.go(BALANCE)
        self.settle()
        self.ways()
        card = self.window.panel.cards[0]
        self.assertIn("Slide shoulder pad", card.accessibleName())
        QTest.keyClick(card, Qt.Key.Key_Return)
        self.settle()
        self.assertIsNotNone(self.workspace.chosen_way)
        QTest.keyClick(self.window.panel.cards[0], Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.workspace.history.undo_label, "Apply way")

    def test_links_answer_to_mouse_and_keys(self) -> None:
        link = LinkLabel("A meets B")
        heard: list[bool] = []
        link.clicked.connect(lambda: heard.append(True))
        QTest.mouseClick(link, Qt.MouseButton.LeftButton)
        QTest.keyClick(link, Qt.Key.Key_Space)
        self.assertEqual(heard, [True, True])

    def test_while_dragging_figures_follow_without_new_widgets(self) -> None:
        self.window.go(BALANCE)
        self.settle()
        view = self.window.balance
        before = self.window.panel.head
        start = self.spot(view.elevation, ("part", "plate"))
        QTest.mousePress(view.elevation, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
        label = self.window.panel._figures.cells[1][1]
        first = label.text()
        for step in range(1, 6):
            QTest.mouseMove(view.elevation, start - QPoint(12 * step, 0))
            self.app.processEvents()
        self.assertIsNotNone(before)
        self.assertNotEqual(self.window.panel._figures.cells[1][1].text(), first)
        self.assertTrue(view.dragging)
        QTest.mouseRelease(
            view.elevation, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start - QPoint(60, 0)
        )
        self.settle()
        self.assertFalse(view.dragging)


class Bars(DemoWindowTestCase):
    def test_the_whole_window_can_be_reached_by_tab(self) -> None:
        for room in (WEIGH, BUILD, BALANCE):
            self.window.go(room)
            self.settle()
            reached: list[QWidget] = []
            widget = self.window.focusWidget()
            for _ in range(3000):
                widget = widget.nextInFocusChain()
                if widget is self.window.focusWidget():
                    break
                if widget.focusPolicy() & Qt.FocusPolicy.TabFocus and widget.isVisible():
                    reached.append(widget)
            for wanted in (
                self.window.top.build,
                self.window.top.operator,
                *self.window.top.units.buttons.values(),
                *self.window.rail.buttons.values(),
            ):
                self.assertIn(wanted, reached)

    def test_rail_marks_are_said_in_words(self) -> None:
        self.assertEqual(self.window.rail.buttons[WEIGH].accessibleName(), "Weigh, partly done")
        self.assertEqual(self.window.rail.buttons[BALANCE].accessibleName(), "Balance, needs attention, open")

    def test_units_switch_by_mouse_and_space(self) -> None:
        switch = self.window.top.units
        self.click(switch.buttons[System.IMPERIAL])
        self.assertIs(self.workspace.system, System.IMPERIAL)
        QTest.keyClick(switch.buttons[System.METRIC], Qt.Key.Key_Space)
        self.assertIs(self.workspace.system, System.METRIC)

    def test_long_names_are_cut_and_kept_in_the_tooltip(self) -> None:
        long = "A build with a name that is far longer than any place in the bar could be"
        from msgspec.structs import replace

        from equilix.document.edits.builds import ChangeBuild

        build = replace(self.workspace.book.build("long-zoom"), name=long)
        self.workspace.apply(ChangeBuild(build, "name"))
        self.settle()
        self.assertIn(long, self.window.top.build.toolTip())
        self.assertFalse(self.window.top.grab().isNull())

    def test_builds_and_operators_are_chosen_from_their_lists(self) -> None:
        self.window.acts.choose_build()
        menu = next(m for m in self.window.findChildren(QMenu) if m.isVisible())
        next(a for a in menu.actions() if a.text() == "C · Wide body").trigger()
        menu.close()
        self.assertEqual(self.workspace.build.id, "wide")
        self.window.acts.choose_operator()
        menu = next(m for m in self.window.findChildren(QMenu) if m.isVisible())
        next(a for a in menu.actions() if a.text() == "Tove").trigger()
        menu.close()
        self.assertEqual(self.workspace.operator.name, "Tove")
        self.window.acts._duplicate_build()
        self.assertEqual(self.workspace.build.name, "C · Wide body, copy")
        self.window.acts._remove_build()
        self.assertEqual(len(self.workspace.book.builds), 7)

    def test_a_taller_operator_is_drawn_taller(self) -> None:
        self.window.go(BALANCE)
        self.settle()
        head = shoulder_result(self.workspace.analysis()).head
        self.workspace.choose_operator("tove")
        self.settle()
        taller = shoulder_result(self.workspace.analysis()).head
        self.assertGreater(taller.high - taller.low, head.high - head.low)

    def test_both_themes_paint_every_room(self) -> None:
        for theme in (Theme.DARK, Theme.LIGHT):
            self.window.set_theme(theme)
            for room in (WEIGH, BUILD, BALANCE):
                self.window.go(room)
                self.settle()
                image = self.window.grab().toImage()
                self.assertTrue(near(image, 130, 400, colors()["paper"], 6))


class LedgerRows(WindowTestCase):
    def test_rows_that_changed_are_said(self) -> None:
        def row(name: str, moment: float) -> LedgerRow:
            return LedgerRow(name, name, name, moment, f"{moment:.1f}", "1", "2", False, "")

        model = LedgerModel()
        model.show_rows(tuple(row(n, 1.0) for n in "ABCDE"))
        heard: list[tuple[int, int]] = []
        model.dataChanged.connect(lambda first, last: heard.append((first.row(), last.row())))
        model.show_rows((row("A", 1.0), row("B", 2.0), row("C", 3.0), row("D", 1.0 + 1e-12), row("E", 4.0)))
        self.assertEqual(heard, [(1, 1), (2, 2), (4, 4)])
        model.show_rows(model.rows)
        self.assertEqual(heard, [(1, 1), (2, 2), (4, 4)])
        self.assertEqual(model.rows[4].moment, 4.0)


class LatestWork(WindowTestCase):
    """`Latest`: one piece of work at a time."""

    def test_work_that_comes_to_nothing_is_over_and_heard_of(self) -> None:
        work = Latest(self.window)

        def refuses(_progress: object) -> object:
            raise EditError("it can't be done")

        def breaks(_progress: object) -> object:
            raise ZeroDivisionError("a fault")

        for what in (refuses, breaks):
            work.start(what)
            self.assertTrue(work.busy)
            self.wait_for(lambda: not work.busy)
        self.assertEqual(self.faults, ["ZeroDivisionError: a fault"])
        self.faults.clear()

    def test_only_the_newest_is_heard(self) -> None:
        heard: list[object] = []
        work = Latest(self.window)
        work.done.connect(heard.append)
        gate = threading.Event()

        def first(progress: Progress) -> object:
            gate.wait(5.0)
            return "first"

        work.start(first)
        self.settle()
        work.start(lambda progress: "second")
        gate.set()
        self.wait_for(lambda: not work.busy)
        self.wait_for(lambda: not jobs_running() or None)
        self.settle()
        self.assertEqual(heard, ["second"])

    def test_a_job_is_let_go_only_when_its_thread_has_ended(self) -> None:
        """What belongs to the window's thread and is destroyed in another has been seen to hang both."""
        go = threading.Event()
        lives = weakref.ref(Job(lambda _go_on: go.wait(20.0)).start())
        let_go_of_the_done()
        self.assertIsNotNone(lives())
        go.set()

        def gone() -> bool | None:
            let_go_of_the_done()
            return lives() is None or None

        self.wait_for(gone)

    def test_what_is_stopped_before_its_delay_never_begins(self) -> None:
        begun: list[int] = []
        work = Latest(self.window, delay=20)
        work.start(lambda progress: begun.append(1))
        self.assertTrue(work.busy)
        self.assertTrue(work.stop())
        self.assertFalse(work.stop())
        QTest.qWait(60)
        self.assertEqual((begun, work.busy), ([], False))
