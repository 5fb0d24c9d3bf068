"""The rooms of the window, a record each: rail, keys, marks, help and Tab order follow from this list."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct
from PySide6.QtWidgets import QWidget

from equilix.core.analysis import Analysis, FindingKind
from equilix.core.kit.parts import HowKnown
from equilix.core.registry import support_for
from equilix.core.support import case_of
from equilix.desktop.workspace import Workspace
from equilix.present.assembly.still_to_come import still_to_come
from equilix.present.supports import text_of

if TYPE_CHECKING:
    from equilix.desktop.window import MainWindow

WEIGH, BUILD, BALANCE, CARRY = "weigh", "build", "balance", "carry"


class RoomView(Protocol):
    """What the window asks of a room's widget."""

    #: What has the keyboard when the room is entered.
    main_widget: QWidget

    @property
    def dragging(self) -> bool:
        """Whether a part is being dragged, so that the bars wait."""

    def refresh(self) -> None:
        """Show the book as it is now."""


class Room(Struct, frozen=True):
    """A room: its name in the rail, what makes its widget, how it stands, and what its keys do.

    Widgets are made when a room is first entered: most of a start is spent on what isn't looked at. `mark` returns
    "settled", "part", "look" or "none"; one that `waits` takes so long that it is asked when nothing else is to do.
    """

    key: str
    name: str
    make: Callable[[MainWindow], QWidget]
    mark: Callable[[Workspace], str]
    help: str
    waits: bool = False


def _make_weigh(window: MainWindow) -> QWidget:
    from equilix.desktop.views.weigh import WeighView

    view = WeighView(window.workspace, window.panel, window.bench, window.rooms)
    view.catalogue_wanted.connect(window.acts.add_typical)
    view.open_wanted.connect(window.files.choose)
    view.import_wanted.connect(window.files.tables.import_kit)
    view.scale_wanted.connect(window.acts.edit_scale)
    view.starter_wanted.connect(window.acts.begin_with)
    return view


def _make_build(window: MainWindow) -> QWidget:
    from equilix.desktop.views.build import BuildView

    view = BuildView(window.workspace, window.panel, window.rooms)
    view.catalogue_wanted.connect(window.acts.add_typical)
    view.weigh_wanted.connect(window.acts.show_in_weigh)
    return view


def _make_balance(window: MainWindow) -> QWidget:
    from equilix.desktop.views.balance import BalanceView

    view = BalanceView(window.workspace, window.panel, window.rooms)
    view.build_wanted.connect(lambda: window.go(BUILD))
    view.open_wanted.connect(window.files.choose)
    view.weigh_wanted.connect(window.acts.show_in_weigh)
    return view


def _make_carry(window: MainWindow) -> QWidget:
    from equilix.desktop.views.carry import CarryView

    view = CarryView(window.workspace, window.panel, window.rooms)
    view.build_wanted.connect(lambda: window.go(BUILD))
    return view


def _mark_weigh(workspace: Workspace) -> str:
    kit = workspace.book.kit
    guessed = any(part.mass_known is not HowKnown.WEIGHED for part in kit)
    return "none" if not kit else "part" if guessed else "settled"


def _begun(workspace: Workspace) -> Analysis | None:
    """Return the analysis of a build that has a part."""
    analysis = workspace.analysis()
    return analysis if analysis is not None and analysis.build.parts else None


def _mark_build(workspace: Workspace) -> str:
    analysis = _begun(workspace)
    if analysis is None:
        return "none"
    look = any(f.kind in (FindingKind.CLASH, FindingKind.OUT_OF_TRAVEL) for f in analysis.findings)
    return "look" if look else "part" if still_to_come(analysis, workspace.book.parts) else "settled"


def _mark_balance(workspace: Workspace) -> str:
    """Return the worst that the room itself says."""
    analysis = _begun(workspace)
    if analysis is None:
        return "none"
    case = case_of(analysis)
    return text_of(analysis).mark(case) if case is not None else "part"


def _mark_carry(workspace: Workspace) -> str:
    """Return whether every take can be held, also when rests give little back."""
    from equilix.core.carry.carried import reserves
    from equilix.core.statics.pose import Hindrance

    build = workspace.build
    if build is None or not build.parts:
        return "none"
    carried = workspace.carried(support_for(build.support).carrier(build))
    if isinstance(carried, Hindrance):
        return "part"
    longest = max((take.length for take in build.takes), default=0.0)
    tires = any(run.fails_least is not None for run in reserves(carried, build.takes, 10.0))
    look = carried.to_the_end < max(longest, 1.0) or tires or carried.out_of_reach or carried.unwatched
    return "look" if look else "settled"


#: In the order of the rail; each has Alt and its number.
ROOMS = (
    Room(
        WEIGH,
        "Weigh",
        _make_weigh,
        _mark_weigh,
        "Kit: Insert new part. F2 edit. W, S, E how known. Ctrl+Shift+D duplicate. Ctrl+F find. Ctrl+I import\n"
        "Bench: B lays a part on it. Space or Ctrl+Enter reads. Backspace takes back. Enter stores",
    ),
    Room(
        BUILD,
        "Build",
        _make_build,
        _mark_build,
        "Enter puts the next part on, 1 to 9 the numbered one. A puts all together. J says how one is joined\n"
        "L moves a part: Left, Right other places, Up, Down other parts, Enter puts it there, Ctrl+Enter a copy\n"
        "[ and ]: mount. M types a mark. T turns. Delete takes off. S: sets\n"
        "While you drag along a slide: Esc puts back. Alt does not snap to level. Across it, the part comes off",
    ),
    Room(
        BALANCE,
        "Balance",
        _make_balance,
        _mark_balance,
        "Up, Down: part. Left, Right: slide 1 mm, with Shift 10 mm, with Ctrl+Shift 0.1 mm\n"
        "Digits type a mark. D times a drop, H types an angle\n"
        "P: next way. Enter applies what stands at the top. Esc drops it. X: the warning\n"
        "Ctrl+Shift+N: new empty build",
    ),
    Room(
        CARRY,
        "Carry",
        _make_carry,
        _mark_carry,
        "P: next way. Enter applies it. Left, Right: how it is carried. Up, Down: whose reserve\n"
        "F: forces, discs and strength, one level down",
        waits=True,
    ),
)
ROOM = {room.key: room for room in ROOMS}
