"""The window and its file: others that change it, two windows on one book, questions, left work, long waits."""

from __future__ import annotations

import os
import threading
import time
from pathlib import Path
from typing import Any, cast
from unittest import mock

import shiboken6
from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog

from equilix.desktop.dialogs import import_table as imports
from equilix.desktop.dialogs.differences import DifferencesDialog
from equilix.desktop.dialogs.import_table import ImportDialog
from equilix.desktop.files.book_watch import BookWatch
from equilix.desktop.jobs import waiting
from equilix.desktop.jobs.waiting import WaitingDialog, run_job
from equilix.desktop.window import MainWindow
from equilix.desktop.workspace import Workspace
from equilix.document.book import Book
from equilix.document.edits.book import RenameBook
from equilix.document.edits.builds import SetSlide
from equilix.document.edits.kit import AddParts
from equilix.io import recovery
from equilix.io.claims import Claim, claim_book
from equilix.io.files import Stopped
from equilix.io.format import encode_book, read_book, write_book
from equilix.io.preferences import Preferences, claims_folder
from equilix.io.recovery import Journal, Recovered, left_behind
from equilix.io.shipped import demo_book
from tests.campaigns import campaign
from tests.children import child
from tests.desktop.base import DemoWindowTestCase

#: Opens the real window on a file and keeps it open until it is ended.
WINDOW = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from equilix.desktop import app
real = app.MainWindow
class Told(real):
    def showEvent(self, event):
        super().showEvent(event)
        QTimer.singleShot(300, lambda: print("ready", flush=True))
app.MainWindow = Told
sys.exit(app.open_window(Path(sys.argv[1])))
"""


class FileTestCase(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "ferry.equilix"
        write_book(demo_book(), self.path)
        self.window.files.open(self.path)
        self.settle()
        self.assertEqual(self.workspace.path, self.path)

    def edit(self, title: str = "Mine") -> None:
        self.assertTrue(self.workspace.apply(RenameBook(title)))

    def others_save(self, title: str = "Theirs") -> Book:
        theirs = replace(demo_book(), title=title)
        write_book(theirs, self.path)
        return theirs

    def chosen(self, name: str | Path) -> Any:
        return mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(name), ""))


@campaign
class ChangedByOthers(FileTestCase):
    def test_it_is_told_when_it_happens_and_the_status_no_longer_says_saved(self) -> None:
        self.others_save()
        self.wait_for(lambda: "Somebody else changed" in self.window.banner.text.text())
        self.assertEqual(self.window.status.saved.text(), "Changed by somebody else")
        self.click(self.banner_button("Load their version"))
        self.assertEqual(self.workspace.book.title, "Theirs")
        self.assertFalse(self.workspace.unsaved)
        self.key(self.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.workspace.book.title, "Harbour ferry")
        self.assertTrue(self.workspace.unsaved)

    def test_saving_over_it_asks_and_cancel_keeps_both(self) -> None:
        self.edit()
        self.others_save()
        with self.answering("Cancel") as asked:
            self.key(self.window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
        self.assertIn("after you opened it. Saving overwrites that", asked[0])
        self.assertEqual(read_book(self.path).title, "Theirs")
        self.assertEqual(self.workspace.book.title, "Mine")
        self.assertTrue(self.workspace.unsaved)

    def test_take_theirs_can_be_undone_and_then_saved_over(self) -> None:
        self.edit()
        self.others_save()
        with self.answering("Load their version"):
            self.assertTrue(self.window.files.save())
        self.assertEqual(self.workspace.book.title, "Theirs")
        self.workspace.undo()
        self.assertEqual(self.workspace.book.title, "Mine")
        self.assertTrue(self.window.files.save())
        self.assertEqual(read_book(self.path).title, "Mine")

    def test_mine_can_be_saved_elsewhere_so_that_both_are_kept(self) -> None:
        self.edit()
        self.others_save()
        other = self.folder / "mine.equilix"
        with self.answering("Save mine as…"), self.chosen(other):
            self.assertTrue(self.window.files.save())
        self.assertEqual((read_book(self.path).title, read_book(other).title), ("Theirs", "Mine"))

    def test_what_differs_is_shown_before_it_is_decided(self) -> None:
        self.workspace.apply(SetSlide("long-zoom", "plate", 0.02))
        self.others_save()
        shown: list[list[str]] = []

        def look(dialog: Any) -> int:
            if isinstance(dialog, DifferencesDialog):
                table = dialog.table
                shown.extend([table.item(row, column).text() for column in range(3)] for row in range(table.rowCount()))
            return 0

        with self.answering("Show differences", "Overwrite theirs"), mock.patch.object(QDialog, "exec", look):
            self.assertTrue(self.window.files.save())
        self.assertIn(["Title", "Harbour ferry", "Theirs"], shown)
        self.assertTrue(any(row[0] == "Build A · Long zoom" and "in another place" in row[2] for row in shown), shown)
        self.assertEqual(read_book(self.path), self.workspace.book)

    def test_changed_in_the_last_instant_it_is_still_not_overwritten(self) -> None:
        self.edit()
        real = os.fsync
        done = False

        def others_are_quick(handle: int) -> None:
            nonlocal done
            real(handle)
            if not done:
                done = True
                self.path.write_bytes(encode_book(replace(demo_book(), title="Quick")))

        with mock.patch("os.fsync", others_are_quick), self.answering("Cancel") as asked:
            self.assertFalse(self.window.files.save())
        self.assertEqual(len(asked), 1)
        self.assertEqual(read_book(self.path).title, "Quick")

    def test_the_same_content_written_anew_is_no_change(self) -> None:
        write_book(demo_book(), self.path)
        self.edit()
        with self.answering():
            self.assertTrue(self.window.files.save())

    def test_saving_again_and_again_never_asks(self) -> None:
        for title in ("a", "b", "c"):
            self.edit(title)
            with self.answering():
                self.assertTrue(self.window.files.save())
        self.assertEqual(read_book(self.path).title, "c")

    def test_a_file_that_is_gone_is_told_and_asked_about(self) -> None:
        self.path.unlink()
        self.wait_for(lambda: "is gone:" in self.window.banner.text.text())
        self.assertEqual(self.window.status.saved.text(), "The file is gone")
        with self.answering("Cancel"):
            self.assertFalse(self.window.files.save())
        self.assertFalse(self.path.exists())
        with self.answering("Save it again"):
            self.assertTrue(self.window.files.save())
        self.assertEqual(read_book(self.path), self.workspace.book)

    def test_a_write_protected_book_is_replaced_only_when_agreed_and_asked_once(self) -> None:
        self.edit()
        os.chmod(self.path, 0o444)
        with self.answering("Cancel") as asked:
            self.assertFalse(self.window.files.save())
        self.assertIn("is write-protected", asked[0])
        self.assertEqual(read_book(self.path).title, "Harbour ferry")
        with self.answering("Replace it"):
            self.assertTrue(self.window.files.save())
        self.edit("Again")
        with self.answering():
            self.assertTrue(self.window.files.save())
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o444)

    def test_a_book_of_another_owner_is_asked_about(self) -> None:
        self.edit()
        with mock.patch("os.geteuid", return_value=os.geteuid() + 7), self.answering("Choose another name") as asked:
            with self.chosen(""):
                self.assertFalse(self.window.files.save())
        self.assertIn("belongs to another user", asked[0])


class TwoWindows(FileTestCase):
    def second(self) -> tuple[Workspace, MainWindow]:
        workspace = Workspace(Preferences())
        window = MainWindow(workspace)
        window.show()
        self.addCleanup(window.deleteLater)
        self.addCleanup(window.end_at_once)
        window.files.open(self.path)
        self.settle()
        return workspace, window

    def test_the_second_is_told_and_may_read(self) -> None:
        workspace, window = self.second()
        self.assertIn("is open in another window since", window.banner.text.text())
        self.assertEqual(workspace.book, self.workspace.book)
        self.assertFalse(workspace.apply(RenameBook("Second")))
        self.assertEqual(workspace.book.title, "Harbour ferry")
        self.assertIn("save a copy", window.banner.text.text())
        self.assertEqual(window.status.saved.text(), "Read only")

    def test_a_copy_of_it_can_be_changed(self) -> None:
        workspace, window = self.second()
        with self.chosen(self.folder / "copy"):
            self.assertTrue(window.files.save())
        self.assertEqual(workspace.path, self.folder / "copy.equilix")
        self.assertTrue(workspace.apply(RenameBook("Second")))
        self.assertTrue(window.files.save())
        self.assertEqual(read_book(self.path).title, "Harbour ferry")

    def test_nobody_saves_as_the_book_of_another_window(self) -> None:
        workspace, window = self.second()
        workspace.open_book(demo_book(), None)
        with self.chosen(self.path):
            self.assertFalse(window.files.save())
        self.assertIn("is open in another window", window.banner.text.text())

    def test_it_sees_what_the_first_saves_and_may_have_it_when_that_is_closed(self) -> None:
        workspace, window = self.second()
        self.edit()
        self.assertTrue(self.window.files.save())
        self.wait_for(lambda: "Somebody else changed" in window.banner.text.text())
        self.workspace.open_book(Book(), None)
        window.files.opened()
        self.click(next(b for b in window.banner.buttons if b.text() == "Try again"))
        self.assertFalse(workspace.reading)
        self.assertEqual(workspace.book.title, "Mine")
        self.assertTrue(workspace.apply(RenameBook("Second")))

    def test_a_killed_window_of_another_process_gives_the_book_free(self) -> None:
        self.workspace.open_book(Book(), None)
        with child("-c", WINDOW, str(self.path), env=dict(os.environ)) as other:
            self.assertEqual(other.stdout.readline(), "ready\n")
            self.window.files.open(self.path)
            self.assertTrue(self.workspace.reading)
            other.kill()
        self.workspace.open_book(Book(), None)
        self.window.files.open(self.path)
        self.assertFalse(self.workspace.reading)


class Damaged(FileTestCase):
    def test_what_can_be_read_of_a_cut_off_book_is_offered_as_a_copy(self) -> None:
        data = self.path.read_bytes()
        bad = self.folder / "cut.equilix"
        bad.write_bytes(data[: 2 * len(data) // 3])
        before = self.workspace.book
        self.window.files.open(bad)
        self.assertIs(self.workspace.book, before)
        self.assertIn("cut.equilix ends early", self.window.banner.text.text())
        self.click(self.banner_button("Open the readable part"))
        self.assertIsNone(self.workspace.path)
        self.assertTrue(self.workspace.unsaved)
        self.assertGreater(len(self.workspace.book.kit), 20)
        self.assertIn("The file is unchanged", self.window.banner.text.text())
        self.assertEqual(bad.read_bytes(), data[: 2 * len(data) // 3])

    def test_what_is_put_right_is_said(self) -> None:
        book = replace(demo_book(), instruments=())
        self.path.write_bytes(encode_book(book))
        self.window.files.load(self.path)
        self.assertIn("Equilix repaired", self.window.banner.text.text())


class NothingIsReplacedUnasked(FileTestCase):
    """The file dialog asks for the name that it was given: an ending that is added afterwards it has not seen."""

    def setUp(self) -> None:
        super().setUp()
        self.other = self.folder / "other.equilix"
        write_book(replace(demo_book(), title="Other"), self.other)

    def test_save_as_without_its_ending(self) -> None:
        self.edit()
        with self.chosen(self.folder / "other"), self.answering("Cancel") as asked:
            self.assertFalse(self.window.files.save_as())
        self.assertIn("other.equilix is there already", asked[0])
        self.assertEqual(read_book(self.other).title, "Other")
        with self.chosen(self.folder / "other"), self.answering("Replace it"):
            self.assertTrue(self.window.files.save_as())
        self.assertEqual(read_book(self.other).title, "Mine")

    def test_exports_without_their_ending(self) -> None:
        for suffix, export in (
            (".json", self.window.files.tables.export_json),
            (".csv", self.window.files.tables.export_build),
            (".xlsx", lambda: self.window.files.tables.export_kit(".xlsx")),
            (".pdf", self.window.files.tables.export_sheet),
        ):
            there = (self.folder / "out").with_suffix(suffix)
            there.write_text("keep me")
            with self.chosen(self.folder / "out"), self.answering("Cancel") as asked:
                export()
            self.assertEqual((there.read_text(), len(asked)), ("keep me", 1), suffix)
            self.settle()

    def test_the_book_itself_by_any_name(self) -> None:
        link, hard = self.folder / "link.json", self.folder / "hard.json"
        link.symlink_to(self.path)
        os.link(self.path, hard)
        before = self.path.read_bytes()
        self.edit()
        for name in (self.path, link, hard, self.folder / "." / "x" / ".." / "ferry.equilix"):
            (self.folder / "x").mkdir(exist_ok=True)
            with self.chosen(name):
                self.window.files.tables.export_json()
            self.assertIn("is the open book", self.window.banner.text.text(), name)
            self.assertEqual(self.path.read_bytes(), before, name)

    def test_save_as_onto_a_link_to_the_own_file_saves_it(self) -> None:
        link = self.folder / "link.equilix"
        link.symlink_to(self.path)
        self.edit()
        with self.chosen(link):
            self.assertTrue(self.window.files.save_as())
        self.assertEqual(read_book(self.path).title, "Mine")
        self.assertTrue(link.is_symlink())
        self.assertEqual(self.workspace.path, self.path)

    def test_a_book_that_another_window_has(self) -> None:
        claim = claim_book(claims_folder(), self.other, "10:00")
        assert isinstance(claim, Claim)
        self.addCleanup(claim.release)
        before = self.other.read_bytes()
        with self.chosen(self.other):
            self.window.files.tables.export_json()
        self.assertIn("open in another window", self.window.banner.text.text())
        self.assertEqual(self.other.read_bytes(), before)

    def test_what_is_write_protected_is_asked_about(self) -> None:
        there = self.folder / "out.json"
        there.write_text("keep me")
        there.chmod(0o444)
        with self.chosen(there), self.answering("Cancel") as asked:
            self.window.files.tables.export_json()
        self.assertIn("write-protected", asked[0])
        self.assertEqual(there.read_text(), "keep me")
        other = self.folder / "elsewhere.json"
        with self.chosen(there), self.answering("Choose another name"):
            names = iter([str(there), str(other)])
            with mock.patch.object(QFileDialog, "getSaveFileName", side_effect=lambda *_a: (next(names), "")):
                self.window.files.tables.export_json()
        self.assertEqual(there.read_text(), "keep me")
        self.assertTrue(other.exists())

    def test_a_change_in_place_with_size_and_time_put_back_is_seen(self) -> None:
        status = self.path.stat()
        data = self.path.read_bytes()
        with open(self.path, "r+b") as file:
            file.write(data.replace(b"Harbour ferry", b"harbour Ferry"))
        os.utime(self.path, ns=(status.st_atime_ns, status.st_mtime_ns))
        self.edit()
        with self.answering("Cancel") as asked:
            self.assertFalse(self.window.files.save())
        self.assertIn("Somebody else changed", asked[0])


@campaign
class LeftWork(FileTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.state = self.folder / "recovery"
        self.journal = Journal(self.state)
        self.workspace.journal = self.journal
        earlier = Journal(self.state)
        earlier.keep(replace(demo_book(), title="Left behind"), self.path, self.workspace.known)
        earlier.close(keep=True)
        self.left = left_behind(self.state)
        self.assertEqual([work.book.title for work in self.left], ["Left behind"])

    def kept(self) -> list[str]:
        for work in (found := left_behind(self.state)):
            work.claim.leave()
        return [work.book.title if work.book else "?" for work in found]

    def offer(self, words: str) -> None:
        self.window.files.left_work.offer_recovered(self.left)
        self.click(self.banner_button(words))

    def test_it_is_restored_as_unsaved_and_the_old_snapshot_goes_when_the_new_one_is_on_the_disk(self) -> None:
        self.offer("Restore")
        self.assertEqual(self.workspace.book.title, "Left behind")
        self.assertTrue(self.workspace.unsaved)
        self.assertEqual(self.workspace.path, self.path)
        self.wait_for(lambda: not self.left[0].snapshot.exists())
        self.assertTrue(self.journal.snapshot.exists())

    def test_on_a_full_disk_the_only_copy_stays(self) -> None:
        with mock.patch.object(recovery, "write_private", side_effect=OSError(28, "No space left on device")):
            self.offer("Restore")
            self.wait_for(lambda: self.journal.problem)
            self.wait_for(lambda: "the disk is full" in self.window.status.saved.text())
            self.assertTrue(self.left[0].snapshot.exists())
        self.wait_for(lambda: not self.left[0].snapshot.exists())

    def test_restoring_asks_before_what_is_open_and_unsaved_goes(self) -> None:
        self.edit("Open and unsaved")
        with self.answering("Cancel"):
            self.offer("Restore")
        self.assertEqual(self.workspace.book.title, "Open and unsaved")
        self.assertTrue(self.left[0].snapshot.exists())
        self.assertIn("Left behind", self.window.banner.text.text())
        with self.answering("Discard"):
            self.click(self.banner_button("Restore"))
        self.assertEqual(self.workspace.book.title, "Left behind")

    def test_restored_work_does_not_overwrite_what_others_saved_meanwhile(self) -> None:
        self.others_save()
        self.offer("Restore")
        with self.answering("Cancel") as asked:
            self.assertFalse(self.window.files.save())
        self.assertIn("Somebody else changed", asked[0])
        self.assertEqual(read_book(self.path).title, "Theirs")

    def test_a_window_that_answers_nothing_leaves_it_to_the_next(self) -> None:
        self.window.files.left_work.offer_recovered(self.left)
        self.assertEqual(self.kept(), [])
        self.left[0].claim.leave()
        self.assertEqual(self.kept(), ["Left behind"])

    def test_thrown_away_it_is_gone(self) -> None:
        self.offer("Discard it")
        self.assertEqual(self.kept(), [])
        self.assertFalse(self.left[0].snapshot.exists())

    def test_what_can_not_be_read_is_named_and_what_is_left_of_it_opened(self) -> None:
        snapshot = self.left[0].snapshot
        snapshot.write_bytes(snapshot.read_bytes()[:40_000])
        self.left[0].claim.leave()
        self.left = left_behind(self.state)
        self.assertIsNone(self.left[0].book)
        self.window.files.left_work.offer_recovered(self.left)
        self.assertRegex(self.window.banner.text.text(), r"^The unsaved work of .* cannot be read: .*ends early")
        self.click(self.banner_button("Open the readable part"))
        self.assertGreater(len(self.workspace.book.kit), 3)
        self.assertIsNone(self.workspace.path)

    def test_it_stays_on_offer_until_it_is_answered(self) -> None:
        self.window.files.left_work.offer_recovered(self.left)
        self.window.refuse("Something else.")
        self.assertEqual(self.window.banner.text.text(), "Something else.")
        self.click(self.banner_button("Close"))
        self.assertIn("Left behind", self.window.banner.text.text())
        self.edit()
        self.assertIn("Left behind", self.window.banner.text.text())
        self.click(self.banner_button("Later"))
        self.assertFalse(self.window.banner.isVisible())
        self.window.menu.named["left"].trigger()
        self.assertIn("Left behind", self.window.banner.text.text())
        self.click(self.banner_button("Discard it"))
        self.settle()
        self.assertFalse(self.window.banner.isVisible())
        self.assertEqual(self.window.files.left_work.left, ())

    def test_snapshots_are_their_owner_s_alone(self) -> None:
        """They hold people's names, mass and strength, also of a book that nobody else may read."""
        self.edit()
        self.assertTrue(self.journal.wait(30.0))
        for path in self.state.iterdir():
            self.assertEqual(path.stat().st_mode & 0o077, 0, path.name)
        self.assertEqual(self.state.stat().st_mode & 0o077, 0)

    def test_older_work_waits_its_turn(self) -> None:
        claim = self.left[0].claim
        older = Recovered(self.state / "o.snapshot", claim, 0.0, replace(demo_book(), title="Older"))
        self.left = (*self.left, older)
        self.window.files.left_work.offer_recovered(self.left)
        self.assertIn("1 older one waits too", self.window.banner.text.text())
        self.click(self.banner_button("Discard it"))
        self.wait_for(lambda: "Older" in self.window.banner.text.text())


class Waiting(DemoWindowTestCase):
    def test_the_window_lives_while_a_disk_is_slow_and_stop_stops(self) -> None:
        release = threading.Event()
        self.addCleanup(release.set)
        said = self.stop_job()
        ended: list[bool] = []

        def slow(*_: Any) -> None:
            ended.append(release.wait(60))

        with mock.patch("equilix.io.format.open_book", side_effect=slow), self.alive():
            self.assertFalse(self.workspace.load(Path("/slow.equilix")))
        # The disk is still at it: nobody waited for it.
        self.assertEqual(ended, [])
        self.assertEqual(said, ["Opening slow.equilix"])
        self.assertEqual(self.workspace.book, demo_book())

    def test_what_is_quick_shows_nothing_and_what_fails_is_raised_here(self) -> None:
        shown = mock.patch.object(WaitingDialog, "exec", side_effect=AssertionError("shown"))
        with shown, mock.patch.object(waiting, "SHOWN_AFTER", 30.0):
            self.assertIsNot(run_job("x", lambda _go_on: threading.current_thread()), threading.main_thread())
            with self.assertRaises(ZeroDivisionError):
                run_job("x", lambda _go_on: 1 / 0)

    def test_a_watch_that_is_gone_hears_no_more_of_a_slow_disk(self) -> None:
        """A look at the file that ends after its window has: nothing of the window is touched."""
        release = threading.Event()
        self.addCleanup(release.set)
        for gone in (False, True):
            release.clear()
            watch = BookWatch(self.workspace, self.window)
            self.workspace.path, self.workspace.known = Path("/slow.equilix"), cast(Any, object())
            with mock.patch(
                "equilix.desktop.files.book_watch.obstacle", side_effect=lambda *_: release.wait(30) and None
            ):
                watch.look()
                job = watch._job
                heard = mock.patch.object(BookWatch, "follow")
                with heard as followed:
                    if gone:
                        shiboken6.delete(watch)
                    release.set()
                    self.wait_for(job.over.is_set)
                    self.settle()
                    self.assertEqual(followed.called, not gone)
        self.workspace.path = self.workspace.known = None

    def test_progress_is_shown_and_the_keyboard_is_given_back(self) -> None:
        seen: list[int] = []
        shown = threading.Semaphore(0)

        def work(go_on: Any) -> None:
            for share in (0.25, 0.5, 0.75):
                self.assertTrue(shown.acquire(timeout=60))
                go_on(share)
            self.assertTrue(shown.acquire(timeout=60))

        def look() -> None:
            dialog = QApplication.activeModalWidget()
            if isinstance(dialog, WaitingDialog) and dialog.bar.value() > max([-2, *seen]):
                seen.append(dialog.bar.value())
                shown.release()

        timer = QTimer()
        timer.timeout.connect(look)
        timer.start(10)
        self.window.activateWindow()
        had = self.app.focusWidget()
        self.assertIsNotNone(had)
        with mock.patch.object(waiting, "SHOWN_AFTER", 0.0):
            run_job("x", work)
        self.settle()
        self.assertEqual(seen, [-1, 250, 500, 750])
        self.assertIs(self.app.focusWidget(), had)

    def test_a_stopped_write_never_replaces_the_file_later(self) -> None:
        path = self.folder / "book.equilix"
        write_book(Book(), path)
        self.workspace.open_book(Book(), path)
        release = threading.Event()
        ended = threading.Event()
        real = os.fsync

        def slow(handle: int) -> None:
            release.wait(30)
            real(handle)
            ended.set()

        self.stop_job()
        with mock.patch("os.fsync", slow):
            self.workspace.apply(AddParts(demo_book().kit[:3]))
            self.assertFalse(self.workspace.save(path, replace_it=True))
            release.set()
            self.assertTrue(ended.wait(20.0))
            time.sleep(0.1)
        self.assertEqual(read_book(path), Book())

    def test_ten_thousand_rows_are_read_while_the_window_lives_and_can_be_stopped(self) -> None:
        table = self.folder / "long.csv"
        rows = "".join(f"Clamp {n},clamp,0.12,100,20,20\n" for n in range(9_990))
        table.write_text("name,kind,mass kg,length mm,width mm,height mm\n" + rows)

        said = self.stop_job(" rows")
        read: Any = cast(Any, imports).read_rows

        def slowly(*given: object) -> object:
            """Read once the window has said what it waits for, however fast the machine is."""
            until = time.monotonic() + 30.0
            while not said and time.monotonic() < until:
                time.sleep(0.01)
            return read(*given)

        with mock.patch.object(imports, "read_rows", slowly):
            dialog = ImportDialog(table, self.workspace.book)
        self.addCleanup(dialog.deleteLater)
        self.assertTrue(said)
        self.assertEqual(dialog.rows, ())

    def test_import_reads_in_another_thread_and_can_be_stopped(self) -> None:
        with mock.patch("equilix.desktop.dialogs.import_table.read_table", side_effect=Stopped("Stopped.")):
            with self.assertRaises(Stopped):
                ImportDialog(Path("/x.csv"), self.workspace.book)
