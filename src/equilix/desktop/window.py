"""The window: bars around the rooms, and the actions that belong to no single room."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from msgspec.structs import replace
from PySide6.QtCore import QMimeData, QSize, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence, QShowEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QMenu,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from equilix.core.assembly.build import Build, Operator
from equilix.core.keys import KEYS
from equilix.core.limits import shortened
from equilix.core.records import fields_of
from equilix.desktop.dialogs.ask import plain_box
from equilix.desktop.files.book_files import BookFiles
from equilix.desktop.jobs.faults import another_state, report
from equilix.desktop.jobs.job import stop_all
from equilix.desktop.looks.theme import Theme, apply_theme, least_window, room_on_screen, text_scale
from equilix.desktop.views.rooms import BALANCE, BUILD, CARRY, ROOM, ROOMS, WEIGH, RoomView
from equilix.desktop.widgets.bars import Banner, Rail, StatusBar, TopBar
from equilix.desktop.widgets.panel import SidePanel
from equilix.desktop.widgets.plain import as_item, as_title
from equilix.desktop.workspace import Workspace
from equilix.document.book import new_id
from equilix.io.files import Obstacle, shown
from equilix.io.log import LOG
from equilix.present.balance.panel import Cause
from equilix.present.supports import text_for
from equilix.present.supports.labels import label_for
from equilix.present.supports.text import Verdict
from equilix.present.units import System, readable

if TYPE_CHECKING:
    from equilix.desktop.views.balance import BalanceView
    from equilix.desktop.views.bench_session import BenchSession
    from equilix.desktop.views.build import BuildView
    from equilix.desktop.views.carry import CarryView
    from equilix.desktop.views.weigh import WeighView

#: ms.
_MARK_DELAY = 60
#: px of the window at first, where the screen has room for it.
_USUAL = QSize(1280, 800)


def build_form_words(support: str) -> str:
    """Return what the menu calls the form of a build on a support."""
    view = text_for(support)
    has_form = bool(fields_of(view.support.usual))
    return f"Name, note and {view.label}…" if has_form else "Name and note…"


class MainWindow(QMainWindow):
    """One window on one book."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.setMinimumSize(least_window())
        self.setAcceptDrops(True)
        room = room_on_screen()
        self.resize(_USUAL if room is None else _USUAL.boundedTo(room))
        self.top = TopBar()
        self.rail = Rail({room.key: room.name for room in ROOMS})
        self.banner = Banner()
        self.panel = SidePanel()
        self.panel.setFixedWidth(round(SidePanel.WIDTH * (1.0 + (text_scale() - 1.0) * 0.7)))
        self.status = StatusBar()
        self.rooms = QStackedWidget()
        self._views: dict[str, QWidget] = {}
        self.files = BookFiles(self)
        self._lay_out()
        self.actions_by_name: dict[str, QAction] = {}
        self.menu = self._make_menu()
        self._connect()
        self._stale = True
        self._ended = False
        self._refusal = ""
        self.room = BALANCE
        self.rail.buttons[BALANCE].setChecked(True)
        # The body takes longer than all other marks: not at the start, nor while a key slides a part.
        self._late_marks = QTimer(self)
        self._late_marks.setSingleShot(True)
        self._late_marks.setInterval(_MARK_DELAY)
        self._late_marks.timeout.connect(lambda: self._show_marks(waits=True))

    @cached_property
    def bench(self) -> BenchSession:
        """The bench: keeps its readings while rooms change."""
        from equilix.desktop.views.bench_session import BenchSession

        return BenchSession(self.workspace)

    def view_of(self, room: str) -> QWidget:
        """Return a room's widget, made when it is first asked for.

        Each is made in its place: the style sheet is asked anew for all that is in a widget that moves into another.
        """
        if room not in self._views:
            self._views[room] = ROOM[room].make(self)
            self.rooms.addWidget(self._views[room])
        return self._views[room]

    @property
    def weigh(self) -> WeighView:
        """The kit."""
        return cast("WeighView", self.view_of(WEIGH))

    @property
    def build(self) -> BuildView:
        """The build and its mounts."""
        return cast("BuildView", self.view_of(BUILD))

    @property
    def balance(self) -> BalanceView:
        """The balance on the support."""
        return cast("BalanceView", self.view_of(BALANCE))

    @property
    def carry(self) -> CarryView:
        """What it costs the body."""
        return cast("CarryView", self.view_of(CARRY))

    @property
    def view(self) -> RoomView:
        """The room that is open."""
        return cast("RoomView", self.view_of(self.room))

    def _lay_out(self) -> None:
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.rail)
        middle.addWidget(self.rooms, 1)
        middle.addWidget(self.panel)
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.top)
        column.addWidget(self.banner)
        column.addLayout(middle, 1)
        column.addWidget(self.status)
        centre = QWidget()
        centre.setLayout(column)
        self.setCentralWidget(centre)

    def _connect(self) -> None:
        w = self.workspace
        w.book_changed.connect(self.refresh)
        w.book_changed.connect(self._mended)
        w.view_changed.connect(self.refresh)
        w.refused.connect(self.refuse)
        w.not_saved.connect(lambda text: self.refuse(text, saves_elsewhere=True))
        w.said.connect(self.say)
        self.panel.focus_lost.connect(lambda: self.view.main_widget.setFocus())
        self.rail.chosen.connect(self.go)
        self.top.brand.clicked.connect(self.open_menu)
        self.top.book.clicked.connect(self.rename_book)
        self.top.build.clicked.connect(self._choose_build)
        self.top.operator.clicked.connect(self._choose_operator)
        self.top.support.chosen.connect(self.choose_support)
        self.top.units.chosen.connect(lambda name: w.set_units(System(name)))
        self.status.link.clicked.connect(self._cure_doubt)

    # Actions

    def _action(
        self, name: str, text: str, keys: QKeySequence | QKeySequence.StandardKey | str, slot: Callable[[], object]
    ) -> QAction:
        action = QAction(self)
        action.setText(text)  # not with the window: that could be an icon too, and brings all names of icons
        action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda _checked=False: slot())
        self.addAction(action)
        self.actions_by_name[name] = action
        return action

    def _make_menu(self) -> QMenu:
        menu = QMenu(self)
        key = QKeySequence.StandardKey
        menu.addAction(self._action("new", "&New book", key.New, self.files.new))
        menu.addAction(self._action("open", "&Open…", key.Open, self.files.choose))
        self.recent_menu = menu.addMenu("Open &recent")
        menu.addAction(self._action("left", "Unsa&ved work…", "", self.files.offer_again))
        menu.addAction(self._action("new_build", "New empty &build", "Ctrl+Shift+N", self._new_build))
        menu.addAction(self._action("save", "&Save", key.Save, self.files.save))
        menu.addAction(self._action("save_as", "Save &as…", "Ctrl+Shift+S", self.files.save_as))
        menu.addSeparator()
        export = menu.addMenu("&Export")
        export.addAction(self._action("pdf", "Build &sheet (PDF)…", "Ctrl+P", self.files.export_sheet))
        export.addAction(self._action("csv", "Build as a &table (CSV)…", "", self.files.export_build))
        export.addAction(self._action("kit_xlsx", "Kit (&XLSX)…", "", lambda: self.files.export_kit(".xlsx")))
        export.addAction(self._action("kit_ods", "Kit (&ODS)…", "", lambda: self.files.export_kit(".ods")))
        export.addAction(self._action("kit_csv", "Kit (&CSV)…", "", lambda: self.files.export_kit(".csv")))
        export.addAction(self._action("json", "Whole book (&JSON)…", "", self.files.export_json))
        menu.addAction(self._action("import", "&Import a kit…", "Ctrl+I", self.files.import_kit))
        menu.addSeparator()
        menu.addAction(self._action("undo", "&Undo", key.Undo, self.workspace.undo))
        redo = self._action("redo", "Re&do", "Ctrl+Shift+Z", self.workspace.redo)
        redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        menu.addAction(redo)
        menu.addSeparator()
        supports = menu.addMenu("Su&pport")
        self.support_actions: dict[str, QAction] = {}
        for number, kind in enumerate(KEYS, 1):
            known = label_for(kind)
            action = self._action(f"support{number}", known.name, f"Ctrl+{number}", partial(self.choose_support, kind))
            action.setCheckable(True)
            supports.addAction(action)
            self.support_actions[kind] = action
        menu.addAction(self._action("find", "&Find a part", key.Find, self.find_part))
        menu.addAction(self._action("typical", "Add &typical parts…", "Ctrl+T", self.add_typical))
        menu.addSeparator()
        menu.addAction(self._action("theme", "Dark the&me", "Ctrl+D", self.switch_theme))
        menu.addAction(self._action("units", "S&witch to the other units", "", self.switch_units))
        self.single_keys = self._action("single", "Single-letter ke&ys", "", self.switch_single_keys)
        self.single_keys.setCheckable(True)
        menu.addAction(self.single_keys)
        menu.addAction(self._action("full", "Fu&ll screen", "F11", self.switch_full_screen))
        menu.addAction(self._action("keys", "&Keys", "F1", self.show_keys))
        menu.addSeparator()
        menu.addAction(self._action("quit", "&Quit", key.Quit, self.close))
        self._action("menu", "Menu", "F10", self.open_menu)
        for number, room in enumerate(ROOMS, 1):
            self._action(f"room-{room.key}", room.name, f"Alt+{number}", partial(self.go, room.key))
        menu.aboutToShow.connect(self._fill_recent)
        return menu

    def open_menu(self) -> None:
        """Open the menu below the brand."""
        self.menu.popup(self.top.brand.mapToGlobal(self.top.brand.rect().bottomLeft()))

    def _fill_recent(self) -> None:
        self.recent_menu.clear()
        for name in self.workspace.preferences.recent:
            path = Path(name)
            action = self.recent_menu.addAction(as_item(f"{path.name}   {path.parent}"))
            action.triggered.connect(lambda _checked=False, p=path: self.files.open(p))
        self.recent_menu.setEnabled(bool(self.workspace.preferences.recent))
        self.actions_by_name["left"].setVisible(bool(self.files.left))

    # Showing

    def go(self, room: str) -> None:
        """Show a room."""
        if room != self.room:
            self._mended()  # a refusal belongs to the room in which it was met
        LOG.debug("room %s", room)
        self.room = room
        self.rooms.setCurrentWidget(self.view_of(room))
        self.rail.buttons[room].setChecked(True)
        self.refresh()
        self.view.main_widget.setFocus()

    def refresh(self) -> None:
        """Show the book as it is now in the bars and in the room that is open; later if nobody sees it yet."""
        if not self.isVisible():
            self._stale = True
            return
        self._stale = False
        another_state()
        try:
            self.view.refresh()
        except Exception as error:  # noqa: BLE001 - whatever fails in a room, the bars must stay usable
            report(error)
            self._say_that_it_failed()
        if self.view.dragging:
            self._show_undo()
            self.show_saved()
            return
        self.show_bars()

    def _say_that_it_failed(self) -> None:
        """Say in the panel that the room can't be shown, in place of figures of another state."""
        self.panel.begin()
        self.panel.add_verdict(
            Verdict("This room can’t be shown.", "Your work is kept. Undo the last change, or go on in another room.")
        )
        self.panel.end()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._stale:
            self.refresh()

    def show_bars(self) -> None:
        w = self.workspace
        self.top.book.show_value(w.book.title)
        build = w.build
        self.top.build.show_value(build.name if build is not None else "no book opened yet")
        support = build.support if build is not None else KEYS[0]
        self.top.support.show_support(support, build is not None)
        for kind, action in self.support_actions.items():
            action.setEnabled(build is not None)
            action.setChecked(kind is support)
        self.top.show_operator(w.operator, w.system)
        self.top.units.show_system(w.system)
        self._show_undo()
        for name in ("pdf", "csv"):
            self.actions_by_name[name].setEnabled(build is not None and bool(build.parts))
        dark = w.preferences.theme == Theme.DARK
        self.actions_by_name["theme"].setText("Light t&heme" if dark else "Dark the&me")
        self.single_keys.setChecked(w.preferences.single_keys)
        self._show_marks()
        self._show_status()
        file = f" – {shown(w.path)}" if w.path is not None else ""
        self.setWindowTitle(as_title(f"{w.book.title}{' *' if w.unsaved else ''}{file} – Equilix"))

    def _show_undo(self) -> None:
        history = self.workspace.history
        for name, label in (("undo", history.undo_label), ("redo", history.redo_label)):
            action = self.actions_by_name[name]
            action.setEnabled(bool(label))
            word = {"undo": "&Undo", "redo": "Re&do"}[name]
            action.setText(f"{word}: {as_item(label)}" if label else word)

    def _show_marks(self, waits: bool = False) -> None:
        """Show how the rooms stand; those whose mark takes long a little later."""
        build = self.workspace.build
        empty = build is None or not build.parts
        for room in ROOMS:
            if room.waits is waits or (room.waits and empty):
                self.rail.buttons[room.key].show_mark(room.mark(self.workspace))
        if not waits and not empty:
            self._late_marks.start()

    def _show_status(self) -> None:
        self.status.restyle()
        model = self.balance.model if self.room == BALANCE else None
        self.status.say(model.cause if model is not None else Cause())
        build = self.workspace.build
        self.status.context.setText(build.note if build is not None else "")
        self.show_saved()

    def show_saved(self) -> None:
        w = self.workspace
        if w.journal is not None and w.journal.problem:
            self.status.saved.setText(w.journal.problem)
        elif w.reading:
            self.status.saved.setText("Read only")
        elif self.files.trouble is Obstacle.CHANGED:
            self.status.saved.setText("Changed by somebody else")
        elif self.files.trouble is Obstacle.GONE:
            self.status.saved.setText("The file is gone")
        elif w.unsaved:
            self.status.saved.setText("Not saved yet")
        elif w.path is not None:
            self.status.saved.setText(f"Saved {self.files.saved_at}".strip())
        else:
            self.status.saved.setText("No changes")

    def refuse(self, text: str, saves_elsewhere: bool = False) -> None:
        """Say what could not be done; offer to save a copy where that is what is left to do."""
        buttons: tuple[tuple[str, object], ...] = ()
        if saves_elsewhere:
            buttons = (("Save a copy…", self.files.save_as),)
        text = readable(text, self.workspace.system)
        self.banner.say(text, buttons)
        # One with a button waits for its answer.
        self._refusal = "" if buttons else text

    def offer(self, text: str, buttons: tuple[tuple[str, object], ...]) -> None:
        """Say what was done and offer what comes next; it goes with the next edit."""
        self.banner.say(text, buttons)
        self._refusal = text
        self.say(text)

    def _mended(self) -> None:
        """Take a refusal away once something was done after it."""
        if self._refusal and self.banner.text.text() == self._refusal:
            self.banner.clear()
        self._refusal = ""

    def say(self, text: str) -> None:
        self.status.context.setText(text)

    # Book and builds

    def rename_book(self) -> None:
        """Ask for another title."""
        from equilix.document.edits.book import RenameBook

        title = ask_name("Book", self.workspace.book.title, self)
        if title is not None:
            self.workspace.apply(RenameBook(title))

    def _choose_build(self) -> None:
        menu = QMenu(self)
        w = self.workspace
        for build in w.book.builds:
            action = menu.addAction(as_item(build.name))
            action.setCheckable(True)
            action.setChecked(build is w.build)
            action.triggered.connect(lambda _checked=False, b=build.id: w.choose_build(b))
        menu.addSeparator()
        menu.addAction("New empty build").triggered.connect(lambda _c=False: self._new_build())
        starters = menu.addMenu("New build from a typical one")
        from equilix.io.shipped import starters as starting_builds

        for starter in starting_builds():
            starters.addAction(as_item(starter.name)).triggered.connect(lambda _c=False, s=starter: self._start_from(s))
        if w.build is not None:
            menu.addAction("Duplicate this build").triggered.connect(lambda _c=False: self._duplicate_build())
            menu.addAction(build_form_words(w.build.support)).triggered.connect(lambda _c=False: self._edit_build())
            menu.addAction("Remove this build").triggered.connect(lambda _c=False: self._remove_build())
        menu.popup(self.top.build.mapToGlobal(self.top.build.rect().bottomLeft()))

    def _new_build(self) -> None:
        self.build.begin_empty()
        self.go(BUILD)

    def _start_from(self, starter: Build) -> None:
        self.build.begin_with(starter)
        self.go(BUILD)

    def begin_with(self, starter: Build) -> None:
        """Begin an empty book with a typical build, and show at once how it balances."""
        self.build.begin_with(starter)
        self.go(BALANCE)

    def _duplicate_build(self) -> None:
        from equilix.document.edits.builds import DuplicateBuild

        build = self.workspace.build
        if build is not None and self.workspace.apply(DuplicateBuild(build.id, shortened(build.name, ", copy"))):
            builds = self.workspace.book.builds
            at = next(i for i, b in enumerate(builds) if b.id == build.id)
            self.workspace.choose_build(builds[at + 1].id)

    def choose_support(self, support: str) -> None:
        """Let something else carry the build."""
        from equilix.document.edits.builds import ChangeBuild

        build = self.workspace.build
        if build is not None and build.support != support:
            self.workspace.apply(ChangeBuild(replace(build, support=support), "support"))
        self.show_bars()

    def _edit_build(self) -> None:
        from equilix.desktop.dialogs.forms import BuildDialog
        from equilix.document.edits.builds import ChangeBuild

        build = self.workspace.build
        if build is not None:
            dialog = BuildDialog(build, self.workspace.book.parts, self.workspace.system, self)
            if dialog.exec() == QDialog.DialogCode.Accepted:
                self.workspace.apply(ChangeBuild(dialog.result_build, "build and pad"))

    def _remove_build(self) -> None:
        from equilix.document.edits.builds import RemoveBuild

        build = self.workspace.build
        if build is not None:
            self.workspace.apply(RemoveBuild(build.id))

    def _choose_operator(self) -> None:
        menu = QMenu(self)
        w = self.workspace
        for operator in w.book.operators:
            action = menu.addAction(as_item(operator.name))
            action.setCheckable(True)
            action.setChecked(operator is w.operator)
            action.triggered.connect(lambda _c=False, o=operator.id: w.choose_operator(o))
        menu.addSeparator()
        menu.addAction("Change…").triggered.connect(lambda _c=False: self._edit_operator(w.operator))
        ids = {operator.id for operator in w.book.operators}
        fresh = Operator(new_id("op", ids), "Add operator…")
        menu.addAction("Add operator…").triggered.connect(lambda _c=False: self._edit_operator(fresh))
        menu.popup(self.top.operator.mapToGlobal(self.top.operator.rect().bottomLeft()))

    def _edit_operator(self, operator: Operator) -> None:
        from equilix.desktop.dialogs.forms import OperatorDialog
        from equilix.document.edits.book import PutOperator, RemoveOperator

        w = self.workspace
        known = any(operator.id == other.id for other in w.book.operators)
        dialog = OperatorDialog(operator, w.system, self, removable=known)
        if dialog.exec() != QDialog.DialogCode.Accepted:
            return
        if dialog.removed:
            if w.apply(RemoveOperator(operator.id)):
                w.choose_operator(w.book.operators[0].id)
        elif w.apply(PutOperator(dialog.result_operator)):
            w.choose_operator(dialog.result_operator.id)

    def add_typical(self) -> None:
        """Let typical parts be chosen from the catalogue."""
        from equilix.desktop.dialogs.forms import CatalogueDialog
        from equilix.document.edits.kit import AddParts

        dialog = CatalogueDialog(self.workspace.book, self.workspace.system, self)
        if dialog.exec() == QDialog.DialogCode.Accepted and dialog.chosen_parts:
            self.workspace.apply(AddParts(dialog.chosen_parts))

    def edit_scale(self, change: bool) -> None:
        """Change the scale in use, or add one."""
        from equilix.core.kit.records import Instrument
        from equilix.desktop.dialogs.forms import InstrumentDialog
        from equilix.document.edits.measure import PutInstrument, RemoveInstrument

        w = self.workspace
        scale = self.bench.scale
        known = change and scale.id in w.book.scales
        if not known:
            scale = Instrument(new_id("scale", set(w.book.scales)), "Hanging scale")
        dialog = InstrumentDialog(scale, w.system, self, removable=known)
        if dialog.exec() != QDialog.DialogCode.Accepted:
            return
        if dialog.removed:
            self.bench.disconnect_scale()
            if w.apply(RemoveInstrument(scale.id)):
                self.bench.choose_scale(next(iter(w.book.scales), "eye"))
        elif w.apply(PutInstrument(dialog.result_instrument)):
            self.bench.choose_scale(dialog.result_instrument.id)

    def find_part(self) -> None:
        """Go to the kit's search."""
        self.go(WEIGH)
        self.weigh.search.setFocus()

    def _cure_doubt(self) -> None:
        self.weigh.list_kit("all" if self.status.part_id else "guessed", self.status.part_id)
        self.go(WEIGH)

    # Looks

    def set_theme(self, theme: Theme) -> None:
        """Put a theme in force."""
        app = QApplication.instance()
        if isinstance(app, QApplication):
            apply_theme(app, theme)
        # Labels carry their colours, so the rooms are made afresh.
        while self._views:
            _, old = self._views.popitem()
            self.rooms.removeWidget(old)
            old.deleteLater()
        self.go(self.room)
        for widget in self.findChildren(QWidget):
            widget.update()

    def switch_theme(self) -> None:
        """Change between day and night."""
        now = self.workspace.preferences.theme
        theme = Theme.DARK if now == Theme.LIGHT else Theme.LIGHT
        self.workspace.set_preferences(replace(self.workspace.preferences, theme=theme.value))
        self.set_theme(theme)

    def switch_units(self) -> None:
        """Change between metric and imperial."""
        other = System.IMPERIAL if self.workspace.system is System.METRIC else System.METRIC
        self.workspace.set_units(other)

    def switch_single_keys(self) -> None:
        """Turn single-letter keys on or off."""
        preferences = self.workspace.preferences
        self.workspace.set_preferences(replace(preferences, single_keys=not preferences.single_keys))

    def switch_full_screen(self) -> None:
        """Fill the screen, or stop doing so."""
        if self.isFullScreen():
            self.showNormal()
        else:
            self.showFullScreen()

    def show_keys(self) -> None:
        """Show the keys in a window."""
        plain_box(keyboard_help(), self).exec()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        typing = isinstance(self.focusWidget(), QLineEdit)
        if event.text().casefold() == "u" and not typing and self.workspace.preferences.single_keys:
            self.switch_units()
            return
        button = self.focusWidget()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and isinstance(button, QAbstractButton):
            button.click()  # as in dialogs
            return
        super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if self._dropped(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        path = self._dropped(event.mimeData())
        if path is None:
            return
        event.acceptProposedAction()
        # The program that the file comes from waits until this one has taken it.
        QTimer.singleShot(0, lambda: self.files.take(path))

    @staticmethod
    def _dropped(data: QMimeData) -> Path | None:
        """Return the one file that is being dropped, None if it is anything else."""
        paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
        return paths[0] if len(paths) == 1 else None

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._ended:
            if not self.files.may_drop_work():
                event.ignore()
                return
            self._let_go(keep_work=False)
        event.accept()

    def end_at_once(self) -> None:
        """Let go of everything without a question; unsaved work is left for the next start to offer."""
        if not self._ended:
            self._let_go(keep_work=self.workspace.unsaved)

    def _let_go(self, keep_work: bool) -> None:
        self._ended = True
        stop_all()
        if "bench" in self.__dict__:
            self.bench.close()
        self.files.close()
        if self.workspace.journal is not None:
            self.workspace.journal.close(keep=keep_work)
            self.workspace.journal = None


def ask_name(title: str, now: str, parent: QWidget) -> str | None:
    """Return the name typed in a small window, None if it was cancelled."""
    from equilix.desktop.dialogs.forms import NameDialog

    dialog = NameDialog(title, now, parent)
    return dialog.name.text().strip() if dialog.exec() == QDialog.DialogCode.Accepted else None


def keyboard_help() -> str:
    """Return what the keys do: those of the window, then those of each room."""
    rooms, supports = ", ".join(room.name for room in ROOMS), ", ".join(label_for(key).name.lower() for key in KEYS)
    return "\n".join(
        (
            f"Alt+1 to {len(ROOMS)}: {rooms}. Ctrl+1 to {len(KEYS)}: {supports}",
            *(room.help for room in ROOMS),
            "U: units. Ctrl+D: dark theme. F10: menu. Ctrl+Z undo. Ctrl+Shift+Z or Ctrl+Y redo",
        )
    )
