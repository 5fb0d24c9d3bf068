"""Takes one picture of every main view, for the documentation."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtWidgets import QApplication

from equilix.core.assembly.build import Build
from equilix.core.errors import FormatError
from equilix.core.measurement.bench import Setup
from equilix.core.support import with_values
from equilix.desktop.app import make_app
from equilix.desktop.looks.theme import Theme
from equilix.desktop.views.bench_session import show_still
from equilix.desktop.views.rooms import BALANCE, BUILD, CARRY, WEIGH
from equilix.desktop.window import MainWindow
from equilix.desktop.workspace import Workspace
from equilix.document.book import Book
from equilix.document.edits.book import RenameBook
from equilix.document.edits.builds import ChangeBuild
from equilix.io.format import read_book, write_book
from equilix.io.preferences import Preferences
from equilix.io.shipped import demo_book
from equilix.present.supports import text_for


def take_shots(folder: Path, theme: str, demo: bool, file: Path | None) -> int:
    """Write 1280x800 PNGs of every main view to `folder`; return the exit code."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FormatError(f"{folder} cannot be made: {error.strerror}.") from None
    app = make_app(Theme(theme))
    workspace = Workspace(Preferences(theme=theme))
    window = MainWindow(workspace)
    book = read_book(file) if file is not None else (demo_book() if demo else Book())
    workspace.open_book(book, None)
    window.resize(1280, 800)
    window.show()
    suffix = "" if theme == "light" else "-dark"

    def shot(name: str, both: bool = True) -> None:
        if not both and suffix:
            return
        # A panel that was just filled is laid out in turns.
        for _ in range(5):
            app.processEvents()
        path = folder / f"{name}{suffix}.png"
        if not window.grab().save(str(path)):
            raise FormatError(f"{path} cannot be written. Check the folder.")

    workspace.open_book(Book(), None)
    window.go(WEIGH)
    shot("start", both=False)
    workspace.open_book(book, None)
    workspace.kit_selected = "zoom"
    window.go(WEIGH)
    shot("weigh", both=False)
    _bench_shots(window, shot)
    window.go(BALANCE)
    balance = window.balance
    _wait(app, lambda: not balance.finder.busy)
    if balance.ways:
        workspace.choose_way(balance.ways[0])
    shot("balance")
    workspace.choose_way(None)
    # All pictures stay under twenty: the curve of mass against moment says least and makes room.
    balance.pages.show_tab("lenses")
    _wait(app, lambda: balance.pages.lenses.job is None)
    shot("balance-lenses", both=False)
    balance.pages.show_tab("ledger")
    if len(book.builds) > 2:
        workspace.choose_build(book.builds[2].id)
        _carry_shots(window, shot)
        _other_supports(window, shot)
        _bench_of(window, shot, "balance-gimbal", 0, bool(suffix))
        _bench_of(window, shot, "balance-sled", 1, bool(suffix))
        window.go(BALANCE)
    workspace.select("motor")
    window.go(BUILD)
    _wait(app, lambda: not window.build.advice.busy)
    window.build.choose_spot(("mount", "front", "rods"))
    window.build.advice.next_way()
    shot("build", both=False)
    if not suffix:
        _together_shot(window, book, shot)
        _file_shot(window, book, shot)
    return 0


def _carry_shots(window: MainWindow, shot: Callable[..., None]) -> None:
    """Take the first build on the shoulder, then the third in the hands."""
    workspace = window.workspace
    workspace.choose_build(workspace.book.builds[0].id)
    window.go(CARRY)
    carry, app = window.carry, QApplication.instance()
    assert isinstance(app, QApplication)
    _wait(app, lambda: carry.job is None)
    shot("carry", both=False)
    workspace.choose_build(workspace.book.builds[2].id)
    carry.choose_support("handheld")
    _wait(app, lambda: carry.job is None)
    carry.choose_way(0)
    workspace.choose_way(None)
    window.go(BALANCE)
    _wait(app, lambda: not window.balance.finder.busy)
    if window.balance.ways:
        workspace.choose_way(window.balance.ways[0])
    shot("balance-handheld", both=False)
    workspace.choose_way(None)
    workspace.undo()


def _other_supports(window: MainWindow, shot: Callable[..., None]) -> None:
    """Take the last build on a harness with its limits, then on a tripod with its counterbalance."""
    workspace, balance, app = window.workspace, window.balance, QApplication.instance()
    assert isinstance(app, QApplication)
    window.go(BALANCE)
    for key, values in (("harness", {"least": 5.0, "most": 10.0}), ("tripod", {"counter": 20.0, "steps": 10.0})):
        build = workspace.build
        assert build is not None
        workspace.apply(ChangeBuild(replace(with_values(build, key, values), support=key), key))
        balance.pages.show_tab("own")
        _wait(app, lambda: not balance.finder.busy)
        # All pictures stay under twenty.
        shot(f"balance-{key}", both=False)
        workspace.undo()
    balance.pages.show_tab("ledger")


def _bench_of(window: MainWindow, shot: Callable[..., None], name: str, number: int, dark: bool) -> None:
    """Take the first build on a support with a bench, of all such the `number`th, with its page, by night the bench.

    A coach is shown after three releases, a stopwatch after two drops.
    """
    workspace, balance, app = window.workspace, window.balance, QApplication.instance()
    assert isinstance(app, QApplication)
    benched = list(dict.fromkeys(one.support for one in workspace.book.builds if text_for(one.support).bench))
    build = next((one for one in workspace.book.builds if one.support in benched[number : number + 1]), None)
    if build is None:
        return
    before = workspace.build
    workspace.choose_build(build.id)
    window.go(BALANCE)
    balance.pages.show_tab("bench" if dark else "own")
    _wait(app, lambda: not balance.finder.busy)
    bench = balance.pages.benches.get(build.support)
    answer, tries = getattr(bench, "answer", None), getattr(bench, "tries", None)
    if callable(answer):
        for seen in (0, 0, 2):
            answer(seen)
    again = getattr(bench, "refresh", None)
    if isinstance(tries, dict) and callable(again):
        tries[build.id] = [1.13, 1.08]
        again()
    shot(name)
    balance.pages.show_tab("ledger")
    if before is not None:
        workspace.choose_build(before.id)


def _together_shot(window: MainWindow, book: Book, shot: Callable[..., None]) -> None:
    """Take the parts of the first build as a bag that is put together."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    first = book.builds[0]
    bag = tuple(part for part in book.kit if any(placed.part_id == part.id for placed in first.parts))
    bagged = replace(book, kit=bag, builds=(Build("bag", "From a bag"),), sets=(), measurements=())
    window.workspace.open_book(bagged, None)
    window.go(BUILD)
    window.build.together.propose()
    _wait(app, lambda: window.build.together.proposed is not None)
    shot("build-together", both=False)


def _wait(app: QApplication, ready: Callable[[], bool]) -> None:
    """Let the window work until `ready`; gives up after a minute."""
    end = time.monotonic() + 60.0
    app.processEvents()
    while not ready() and time.monotonic() < end:
        app.processEvents()
        time.sleep(0.002)  # the work in another thread needs the interpreter too


def _file_shot(window: MainWindow, book: Book, shot: Callable[..., None]) -> None:
    """Take what is said when somebody else changes the file of a book that is open."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "harbour-ferry.equilix"
        write_book(book, path)
        window.files.load(path)
        window.workspace.apply(RenameBook("Harbour ferry, my changes"))
        write_book(replace(book, title="Harbour ferry, day 2"), path)
        window.go(BALANCE)
        window.files.watch.look()
        _wait(app, lambda: window.banner.isVisible() and not window.balance.finder.busy)
        shot("changed-by-others")
        window.end_at_once()


def _bench_shots(window: MainWindow, shot: Callable[..., None]) -> None:
    """Take the views below the kit: bench, weighings and odds."""
    weigh = window.weigh
    weigh.show_tab("bench")
    weigh.bench.bring("part", ("matte",), Setup.FORE_AFT)
    for reading in ("0.462", "0.208"):
        window.bench.type_reading(reading)
    # A scale that has just come to rest, as a connected one would show it.
    show_still(window.bench, 0.254)
    shot("weigh-bench", both=False)
    window.bench.clear()
    weigh.show_tab("weighings")
    shot("weigh-weighings", both=False)
    weigh.show_tab("odds")
    weigh.odds.draw_now()
    shot("weigh-odds", both=False)
    weigh.show_tab("part")
