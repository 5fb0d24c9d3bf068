"""The window: bars around the rooms, and the actions that belong to no single room."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QByteArray, QMimeData, QSize, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from equilix.core.keys import KEYS
from equilix.desktop.dialogs.book_acts import BookActs
from equilix.desktop.files.book_files import BookFiles
from equilix.desktop.jobs.faults import another_state, report_fault, shown_once
from equilix.desktop.jobs.job import stop_all
from equilix.desktop.looks.theme import Theme, apply_theme, least_window, room_on_screen, text_scale
from equilix.desktop.views.rooms import BALANCE, BUILD, CARRY, ROOM, ROOMS, WEIGH, RoomView
from equilix.desktop.widgets.banner import Banner
from equilix.desktop.widgets.bars import Rail, StatusBar, TopBar
from equilix.desktop.widgets.main_menu import MainMenu
from equilix.desktop.widgets.panel import SidePanel
from equilix.desktop.widgets.plain import as_title
from equilix.desktop.workspace import Workspace
from equilix.io.files import shown
from equilix.io.log import LOG
from equilix.present.balance.panel import Cause
from equilix.present.panel import PanelModel
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
#: px of width from which a screen is large.
_LARGE = 1600
#: px of the window at first, where the screen has room for it.
_USUAL = QSize(1280, 800)


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
        self._fit_panel()
        self.status = StatusBar()
        self.rooms = QStackedWidget()
        self._views: dict[str, QWidget] = {}
        self.files = BookFiles(self)
        self.acts = BookActs(self)
        self._lay_out()
        self.menu = MainMenu(self)
        self._connect()
        self._stale = True
        self._ended = False
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

    def _fit_panel(self) -> None:
        """Give the panel its width: a large screen has room for larger words."""
        usual = SidePanel.LARGE if self.width() >= _LARGE * text_scale() else SidePanel.WIDTH
        self.panel.setFixedWidth(round(usual * (1.0 + (text_scale() - 1.0) * 0.7)))

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_panel()

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
        w.book_changed.connect(self.banner.went_on)
        w.view_changed.connect(self.refresh)
        w.refused.connect(self.refuse)
        w.not_saved.connect(lambda text: self.refuse(text, saves_elsewhere=True))
        w.said.connect(self.say)
        self.panel.focus_lost.connect(lambda: self.view.main_widget.setFocus())
        self.rail.chosen.connect(self.go)
        self.top.brand.clicked.connect(self.open_menu)
        self.top.book.clicked.connect(self.acts.rename_book)
        self.top.build.clicked.connect(self.acts.choose_build)
        self.top.operator.clicked.connect(self.acts.choose_operator)
        self.top.support.chosen.connect(self.acts.choose_support)
        self.top.units.chosen.connect(lambda name: w.set_units(System(name)))
        self.status.link.clicked.connect(self._cure_uncertainty)

    # Actions

    def open_menu(self) -> None:
        """Open the menu below the brand."""
        self.menu.popup(self.top.brand.mapToGlobal(self.top.brand.rect().bottomLeft()))

    # Showing

    def go(self, room: str) -> None:
        """Show a room."""
        if room != self.room:
            self.banner.went_on()  # a refusal belongs to the room in which it was met
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
            report_fault(error)
            self._say_that_it_failed()
        if self.view.dragging:
            self.menu.show_undo()
            self.show_saved()
            return
        self.show_bars()

    def _say_that_it_failed(self) -> None:
        """Say in the panel that the room can't be shown, in place of figures of another state."""
        words = "Your work is kept. Undo the last change, or go on in another room."
        self.panel.show_model(PanelModel(Verdict("This room can’t be shown.", words)), lambda _key: None)

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
        self.top.show_operator(w.operator, w.system)
        self.top.units.show_system(w.system)
        self.menu.refresh()
        self._show_marks()
        self._show_status()
        file = f" – {shown(w.path)}" if w.path is not None else ""
        self.setWindowTitle(as_title(f"{w.book.title}{' *' if w.unsaved else ''}{file} – Equilix"))

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
        """Say whether all is saved."""
        self.status.show_saved(self.workspace, self.files.trouble, self.files.saved_at)

    def refuse(self, text: str, saves_elsewhere: bool = False) -> None:
        """Say what could not be done; offer to save a copy where that is what is left to do."""
        buttons: tuple[tuple[str, object], ...] = ()
        if saves_elsewhere:
            buttons = (("Save a copy…", self.files.save_as),)
        # One with a button waits for its answer.
        self.banner.say(readable(text, self.workspace.system), buttons, passing=not buttons)

    def offer(self, text: str, buttons: tuple[tuple[str, object], ...]) -> None:
        """Say what was done and offer what comes next; it goes with the next edit."""
        self.banner.say(text, buttons, passing=True)
        self.say(text)

    def say(self, text: str) -> None:
        self.status.context.setText(text)

    # Book and builds

    def find_part(self) -> None:
        """Go to the kit's search."""
        self.go(WEIGH)
        self.weigh.search.setFocus()

    def _cure_uncertainty(self) -> None:
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

    def keyPressEvent(self, event: QKeyEvent) -> None:
        typing = isinstance(self.focusWidget(), QLineEdit)
        if event.text().casefold() == "u" and not typing and self.workspace.preferences.single_keys:
            self.menu.switch_units()
            return
        button = self.focusWidget()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and isinstance(button, QAbstractButton):
            button.click()  # as in dialogs
            return
        super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if _dropped(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        path = _dropped(event.mimeData())
        if path is None:
            return
        event.acceptProposedAction()
        # The program that the file comes from waits until this one has taken it.
        QTimer.singleShot(0, lambda: self.files.take(path))

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

    def restore_place(self) -> None:
        """Stand where the window stood last, as large as it was, if that is still on a screen."""
        place = self.workspace.preferences.place
        if place:
            self.restoreGeometry(QByteArray.fromBase64(QByteArray(place.encode("ascii", "ignore"))))

    def _let_go(self, keep_work: bool) -> None:
        self._ended = True
        place = bytes(self.saveGeometry().toBase64().data()).decode("ascii")
        self.workspace.keep_place(place, self.room)
        stop_all()
        if "bench" in self.__dict__:
            self.bench.close()
        self.files.close()
        if self.workspace.journal is not None:
            self.workspace.journal.close(keep=keep_work)
            self.workspace.journal = None


def _dropped(data: QMimeData) -> Path | None:
    """Return the one file that is being dropped, None if it is anything else."""
    paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    return paths[0] if len(paths) == 1 else None
