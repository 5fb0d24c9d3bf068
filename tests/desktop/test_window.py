"""What belongs to no single room: files, exports, recovery, themes, prompts, pictures."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QImage, QPalette
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QLabel, QMessageBox

from equilix.core.assembly.build import Operator, Side
from equilix.desktop.app import make_app
from equilix.desktop.dialogs.forms import BuildDialog, CatalogueDialog, NameDialog, OperatorDialog
from equilix.desktop.looks.theme import Theme, colors, set_text_scale, text_scale
from equilix.desktop.views.rooms import BALANCE, BUILD, CARRY, ROOMS, WEIGH
from equilix.desktop.window import MainWindow
from equilix.document.edits.book import RenameBook
from equilix.io.format import read_book, write_book
from equilix.io.preferences import Preferences, load_preferences
from equilix.io.shipped import demo_book
from equilix.present.units import System
from equilix.supports.shoulder import mechanics as shoulder
from tests.campaigns import campaign
from tests.desktop.base import DemoWindowTestCase, WindowTestCase


class Files(DemoWindowTestCase):
    def save_as(self, path: Path) -> None:
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            self.window.menu.named["save_as"].trigger()

    def test_a_file_that_cannot_be_read_leaves_what_is_open(self) -> None:
        bad = self.folder / "bad.equilix"
        bad.write_text("nonsense")
        book = self.workspace.book
        self.window.files.open(bad)
        self.assertIs(self.workspace.book, book)
        self.assertTrue(self.window.banner.isVisible())
        self.assertIn("bad.equilix is not an Equilix book", self.window.banner.text.text())

    def test_saving_adds_the_suffix_and_remembers_the_file(self) -> None:
        self.save_as(self.folder / "ferry")
        path = self.folder / "ferry.equilix"
        self.assertEqual(read_book(path), self.workspace.book)
        self.assertEqual(load_preferences().recent, (str(path.resolve()),))
        self.assertTrue(self.window.status.saved.text().startswith("Saved"))
        self.workspace.apply(RenameBook("Other"))
        self.assertEqual(self.window.status.saved.text(), "Not saved yet")
        self.workspace.undo()
        self.assertFalse(self.workspace.unsaved)

    def test_a_save_that_fails_says_why_and_offers_a_copy(self) -> None:
        self.workspace.path = self.folder / "gone" / "book.equilix"
        self.workspace.apply(RenameBook("Other"))
        self.assertFalse(self.window.files.save())
        self.assertIn("cannot be written", self.window.banner.text.text())
        self.assertEqual(self.window.banner.buttons[0].text(), "Save a copy…")
        self.assertTrue(self.workspace.unsaved)

    def test_recent_files_open_from_the_menu(self) -> None:
        path = self.folder / "other.equilix"
        write_book(replace(demo_book(), title="Other"), path)
        self.workspace.set_preferences(self.workspace.preferences.with_recent(path))
        self.window.menu.aboutToShow.emit()
        self.window.menu.recent.actions()[0].trigger()
        self.assertEqual(self.workspace.book.title, "Other")

    def test_exports_write_what_they_say(self) -> None:
        for name, suffix, head in (
            ("pdf", ".pdf", b"%PDF"),
            ("csv", ".csv", b'"name","mass_kg"'),
            ("json", ".json", b"{"),
        ):
            path = self.folder / f"out{suffix}"
            with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
                self.window.menu.named[name].trigger()
            self.assertTrue(path.read_bytes().startswith(head), name)

    def test_closing_asks_about_unsaved_work(self) -> None:
        self.workspace.apply(RenameBook("Other"))
        for wanted, closes in (("Cancel", False), ("Discard", True)):

            def answer(box: QMessageBox, wanted: str = wanted) -> int:
                button = next(b for b in box.buttons() if b.text() == wanted)
                button.click()
                return 0

            with mock.patch.object(QMessageBox, "exec", answer):
                self.assertEqual(self.window.close(), closes)


def ink_of(label: QLabel) -> QColor:
    """Return the colour of a label's words."""
    return label.palette().color(QPalette.ColorRole.WindowText)


@campaign
class Looks(DemoWindowTestCase):
    def test_night_theme_and_back(self) -> None:
        self.window.menu.named["theme"].trigger()
        self.assertIs(colors().theme, Theme.DARK)
        self.assertEqual(load_preferences().theme, "dark")
        self.assertEqual(self.window.grab().toImage().pixelColor(700, 20), colors()["paper"])
        self.window.go(WEIGH)
        self.settle()
        self.assertEqual(ink_of(self.window.weigh.bench.far_note), colors()["fwdT"])
        self.window.menu.named["theme"].trigger()
        self.assertIs(colors().theme, Theme.LIGHT)
        self.assertEqual(ink_of(self.window.weigh.bench.far_note), colors()["fwdT"])

    def test_night_reaches_a_room_that_was_visited_by_day(self) -> None:
        self.window.go(CARRY)
        self.settle()
        self.window.menu.named["theme"].trigger()
        self.settle()
        for label in self.window.carry.findChildren(QLabel):
            if label.isVisible() and label.text():
                self.assertNotEqual(ink_of(label).name(), "#1c2329")  # the day's ink
        self.window.menu.named["theme"].trigger()

    def test_the_title_names_the_book_and_its_file(self) -> None:
        path = self.folder / "ferry.equilix"
        write_book(demo_book(), path)
        self.window.files.open(path)
        self.assertEqual(self.window.windowTitle(), "Harbour ferry – ferry.equilix – Equilix")

    def test_the_window_fits_the_screen_that_it_is_given(self) -> None:
        small = mock.Mock()
        small.availableSize.return_value = QSize(1280, 800)
        with mock.patch.object(QApplication, "primaryScreen", return_value=small):
            window = MainWindow(self.workspace)
        self.addCleanup(window.deleteLater)
        self.assertEqual((window.width(), window.height()), (1280, 760))

    def test_text_is_as_large_as_the_desktop_says_while_the_screen_has_room_for_it(self) -> None:
        self.addCleanup(set_text_scale, 1.0)
        for width, height, dots, scale, least in (
            (1920, 1080, 96.0, 1.0, (980, 640)),
            (1920, 1080, 144.0, 1.5, (1280, 800)),
            (1920, 1080, 192.0, 2.0, (1580, 960)),
            (3840, 2160, 288.0, 2.0, (1580, 960)),  # 200 % is the largest
            (1280, 760, 144.0, 1.25, (1130, 720)),
            (1024, 700, 144.0, 1.0625, (1018, 660)),
        ):
            screen = mock.Mock()
            screen.availableSize.return_value = QSize(width, height)
            screen.logicalDotsPerInch.return_value = dots
            with self.subTest(screen=(width, height), dots=dots):
                with mock.patch.object(QApplication, "primaryScreen", return_value=screen):
                    make_app(Theme.LIGHT)
                    window = MainWindow(self.workspace)
                self.addCleanup(window.deleteLater)
                self.assertAlmostEqual(text_scale(), scale)
                self.assertEqual(window.minimumSize().toTuple(), least)
                self.assertLessEqual(window.minimumHeight() + 40, height)  # px of a title bar, common practice

    def test_every_room_at_every_size_without_a_fault(self) -> None:
        for width, height in ((1024, 700), (1600, 1000)):
            self.window.resize(width, height)
            for number in range(len(ROOMS)):
                self.key(self.window, Qt.Key(Qt.Key.Key_1 + number), Qt.KeyboardModifier.AltModifier)
                self.settle()
                self.assertFalse(self.window.grab().isNull())

    def test_text_pairs_have_contrast(self) -> None:
        """AA: at least 4.5 to 1 for text, WCAG 2.2, success criterion 1.4.3."""

        def luminance(token: str) -> float:
            color = colors()[token]
            shares = (color.redF(), color.greenF(), color.blueF())
            parts = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in shares]
            return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

        for theme in Theme:
            self.window.set_theme(theme)
            for text in ("ink", "ink2", "ink3", "accent", "fwdT", "backT"):
                for ground in ("paper", "panel", "tint"):
                    a, b = sorted((luminance(text), luminance(ground)))
                    self.assertGreaterEqual((b + 0.05) / (a + 0.05), 4.5, f"{text} on {ground}, {theme}")
        self.window.set_theme(Theme.LIGHT)

    def test_units_are_remembered(self) -> None:
        self.window.top.units.chosen.emit("imperial")
        self.assertIs(self.workspace.system, System.IMPERIAL)
        self.assertEqual(load_preferences().units, "imperial")

    def test_single_letters_can_be_turned_off(self) -> None:
        self.window.menu.named["single"].trigger()
        self.keys(self.window.balance.elevation, "u")
        self.assertIs(self.workspace.system, System.METRIC)

    def test_guesses_lead_from_the_status_bar_to_the_kit(self) -> None:
        self.window.go(BALANCE)
        self.settle()
        self.click(self.window.status.link)
        self.assertEqual(self.window.room, WEIGH)
        self.assertTrue(self.window.weigh.filter_buttons["guessed"].isChecked())


class LargeText(DemoWindowTestCase):
    def test_mouse_and_drawing_agree_at_150_percent(self) -> None:
        set_text_scale(1.5)
        self.addCleanup(set_text_scale, 1.0)
        self.window.go(BUILD)
        self.window.go(BALANCE)
        self.settle()
        view = self.window.balance.elevation
        self.window.balance.draw()
        spot = self.spot(view, ("part", "battery")) * 1.5
        from PySide6.QtTest import QTest

        QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
        self.settle()
        self.assertEqual(self.workspace.selected, "battery")


class Dialogs(WindowTestCase):
    def test_operator_figures_in_any_unit_and_refusals_in_place(self) -> None:
        dialog = OperatorDialog(Operator("o", "Someone"), System.METRIC)
        dialog.name.setText("Tove")
        dialog.stature.setText("5 ft 11 in")
        dialog.body_mass.setText("180 lb")
        dialog.side.setCurrentIndex(1)
        dialog.accept()
        found = dialog.result_operator
        self.assertEqual((found.name, found.shoulder), ("Tove", Side.LEFT))
        self.assertAlmostEqual(found.stature, 1.8034)
        self.assertAlmostEqual(found.body_mass, 81.6466266)
        dialog.stature.setText("17 m")
        dialog.setResult(QDialog.DialogCode.Rejected)
        dialog.accept()
        self.assertIn("Height must be", dialog.problem.text())
        self.assertEqual(dialog.result(), QDialog.DialogCode.Rejected)

    def test_pad_and_note_of_a_build(self) -> None:
        build = demo_book().builds[0]
        dialog = BuildDialog(build, self.workspace.book.parts, System.METRIC)
        for field, text in (
            (dialog.note, "Night, quay"),
            (dialog.fields["span_x"], "4 in"),
            (dialog.fields["span_y"], "75 mm"),
            (dialog.fields["friction"], "0,6"),
            (dialog.fields["slope"], "18°"),
        ):
            field.setText(text)
        dialog.accept()
        found = dialog.result_build
        self.assertEqual(
            (found.note, shoulder.SUPPORT.settings(found).span_x, shoulder.SUPPORT.settings(found).span_y),
            ("Night, quay", 0.1016, 0.075),
        )
        self.assertEqual(shoulder.SUPPORT.settings(found).friction, 0.6)
        self.assertAlmostEqual(shoulder.SUPPORT.settings(found).slope, 0.3141592653589793)
        for field, text, words in (
            (dialog.fields["span_x"], "9 m", "span fore and aft must be"),
            (dialog.fields["friction"], "rough", "is not a number for “Pad’s friction"),
            (dialog.fields["slope"], "steep", "is not a number for “Slope"),
            (dialog.name, " ", "name is empty"),
        ):
            old = field.text()
            field.setText(text)
            dialog.accept()
            self.assertIn(words, dialog.problem.text())
            field.setText(old)
        self.assertEqual(dialog.result_build, found)

    def test_a_longer_pad_gives_more_margin(self) -> None:
        self.workspace.open_book(demo_book(), None)
        self.settle()
        before = self.workspace.analysis().equilibrium.margins[0]

        def lengthen(dialog: BuildDialog) -> int:
            dialog.fields["span_x"].setText("100 mm")
            dialog.accept()
            return QDialog.DialogCode.Accepted

        with mock.patch.object(BuildDialog, "exec", lengthen):
            self.window.acts._edit_build()
        self.assertAlmostEqual(self.workspace.analysis().equilibrium.margins[0], before + 0.020)
        self.assertEqual(self.workspace.history.undo_label, "Change build and pad")
        self.workspace.undo()
        self.assertAlmostEqual(self.workspace.analysis().equilibrium.margins[0], before)

    def test_an_empty_name_is_refused(self) -> None:
        dialog = NameDialog("Build", "A")
        dialog.name.setText("  ")
        dialog.accept()
        self.assertIn("The name is empty", dialog.problem.text())

    def test_typical_parts_are_ticked_searched_and_added_once(self) -> None:
        def choose(dialog: CatalogueDialog) -> int:
            dialog.search.setText("battery 98")
            dialog.tick("c-battery-98")
            return QDialog.DialogCode.Accepted

        with mock.patch.object(CatalogueDialog, "exec", choose):
            self.window.menu.named["typical"].trigger()
        self.assertEqual([part.id for part in self.workspace.book.kit], ["c-battery-98"])
        again = CatalogueDialog(self.workspace.book, System.METRIC)
        self.assertTrue(next(item for item, part in again._items if part.id == "c-battery-98").isDisabled())

    def test_enter_in_the_search_finds_and_adds_nothing_and_the_button_counts(self) -> None:
        dialog = CatalogueDialog(self.workspace.book, System.METRIC, self.window)
        self.addCleanup(dialog.deleteLater)
        dialog.show()
        self.settle()
        self.assertFalse(dialog.add.isEnabled())
        dialog.search.setFocus()
        self.keys(dialog.search, "battery 98")
        self.key(dialog.search, Qt.Key.Key_Return)
        self.assertTrue(dialog.isVisible())
        self.assertIn("98", dialog.tree.currentItem().text(0))
        self.key(dialog.tree, Qt.Key.Key_Space)
        self.assertEqual(dialog.add.text(), "Put 1 part in the kit")
        self.assertTrue(dialog.add.isEnabled())

    def test_a_refusal_goes_once_something_was_done_after_it(self) -> None:
        self.workspace.apply(RenameBook(""))
        self.assertTrue(self.window.banner.isVisible())
        self.workspace.apply(RenameBook("Good"))
        self.assertFalse(self.window.banner.isVisible())


class Pictures(unittest.TestCase):
    def test_shots_are_one_picture_of_each_view(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            command = [sys.executable, "-m", "equilix", "--demo", "--shots", folder, "--theme", "dark"]
            bare = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
            done = subprocess.run(command, capture_output=True, text=True, env=bare)
            self.assertEqual((done.returncode, done.stdout), (0, ""), done.stderr)
            names = sorted(path.name for path in Path(folder).iterdir())
            self.assertEqual(
                names,
                [
                    "balance-dark.png",
                    "balance-gimbal-dark.png",
                    "balance-sled-dark.png",
                ],
            )
            for name in names:
                image = QImage(str(Path(folder) / name))
                self.assertEqual((image.width(), image.height()), (1280, 800))

    def test_preferences_survive_nonsense(self) -> None:
        with tempfile.TemporaryDirectory() as folder, mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": folder}):
            target = Path(folder) / "equilix" / "preferences.json"
            target.parent.mkdir()
            target.write_text("{nonsense")
            self.assertEqual(load_preferences(), Preferences())
            target.write_text(
                '{"units": "cubits", "theme": "sepia", "tolerance": -3, "by": "a\\u0000", "recent": ["/a", "b\\n"]}'
            )
            found = load_preferences()
            self.assertEqual((found.units, found.theme, found.tolerance, found.by), ("metric", "light", 0.1, ""))
            self.assertEqual(found.recent, ("/a",))
            target.unlink()
            os.mkfifo(target)
            self.assertEqual(load_preferences(), Preferences())

    def test_a_file_with_a_name_in_another_code_is_opened_and_not_remembered(self) -> None:
        odd = Path(os.fsdecode(b"/somewhere/k\xe4se.equilix"))
        self.assertEqual(Preferences().with_recent(odd), Preferences())
