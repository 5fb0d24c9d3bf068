"""The Carry view: what the build costs the body, along the takes, and what would make it lighter."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QScrollArea, QVBoxLayout, QWidget

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Grasp, Hold, Operator, Take
from equilix.core.carry.arrangements import CarryUncertainties, Stagger, carry_uncertainties, staggers
from equilix.core.carry.carried import Carry, carry
from equilix.core.chosen import hold_of, with_hold
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category
from equilix.core.operator.strength import BodyJoint
from equilix.core.registry import support_for
from equilix.core.solver.lighten import Lighter, LighterKind, ways_to_lighten
from equilix.core.statics.grasps import hands_at, places, thickness_of
from equilix.core.statics.pose import Hindrance, usual_hold
from equilix.core.units import Kind
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.jobs.job import Job, Latest, Progress
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.hold_row import HoldRow
from equilix.desktop.widgets.panel import SidePanel
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.widgets.takes_row import TakesRow
from equilix.desktop.workspace import Workspace
from equilix.document.book import Book
from equilix.document.edits.builds import ChangeBuild
from equilix.present.balance.elevation import draw_nothing_yet
from equilix.present.carry.carry_drawing import STACKED, draw_load, draw_standing, load_height
from equilix.present.carry.carry_view import (
    ONE_TAKE,
    reserve_story,
    spoken,
    verdict,
)
from equilix.present.carry.grip_plan import draw_grip_plan, place_name
from equilix.present.carry.light_ways import LightWay, light_ways
from equilix.present.carry.others_drawing import draw_others, others_height
from equilix.present.carry.reserve_drawing import draw_reserve
from equilix.present.carry.side_panel import Carried, carry_panel, no_build_panel
from equilix.present.drawing.scene import Scene
from equilix.present.panel import Key
from equilix.present.units import figure

#: What each way changes, for undo.
_CHANGED = {
    LighterKind.GRIPS: "grips",
    LighterKind.HOLD: "hold",
    LighterKind.BRACE: "brace",
    LighterKind.SCREEN: "place of the screen",
    LighterKind.SPLIT: "takes",
    LighterKind.STEADIER: "mass that steadies",
}


def _carrying() -> tuple[str, ...]:
    """Return the supports on which somebody carries the rig."""
    return tuple(key for key in KEYS if support_for(key).carried)


class CarryView(QWidget):
    """Shows the operator with the rig, the joints, the reserve over the takes, and the other supports."""

    build_wanted = Signal()

    def __init__(self, workspace: Workspace, panel: SidePanel, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.panel = panel
        self.load = SceneView("Load on the operator")
        self.reserve = SceneView("Strength left over the takes")
        self.plan = SceneView("Hands, from above")
        self.hold = HoldRow()
        self.takes = TakesRow()
        self.others = SceneView("This build, carried another way")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        self.scroller = QScrollArea()
        self.scroller.setWidgetResizable(True)
        self.scroller.setFrameShape(QScrollArea.Shape.NoFrame)
        self.scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scroller.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        whole.addWidget(self.scroller)
        inner = QWidget()
        self.scroller.setWidget(inner)
        layout = QVBoxLayout(inner)
        layout.setContentsMargins(24, 10, 24, 8)
        layout.setSpacing(4)
        layout.addWidget(self.load, 50)
        layout.addWidget(self.hold)
        self._middle = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._middle.setSpacing(18)
        self._middle.addWidget(self.reserve, 57)
        self._middle.addWidget(self.plan, 43)
        layout.addLayout(self._middle, 30)
        self._column = layout
        layout.addWidget(self.takes)
        layout.addWidget(self.others, 18)
        self.carried: Carry | Hindrance = Hindrance.NO_MASS
        self.ways: tuple[LightWay, ...] = ()
        self.chosen: int | None = None
        #: The joint whose reserve is shown; None for the one that comes closest to its end.
        self.joint: BodyJoint | None = None
        self._work = Latest(self)
        self._work.done.connect(self._came)
        self._found: tuple[Lighter, ...] = ()
        self._sought: Analysis | None = None
        self._compared: tuple[Book, Analysis] | None = None
        self._table: list[tuple[str, list[Carry | Hindrance]]] = []
        self._operators: list[Operator] = []
        self._builds: list[Build] = []
        for view, draw in (
            (self.load, self._draw_load),
            (self.reserve, self._draw_reserve),
            (self.plan, self._draw_plan),
            (self.others, self._draw_others),
        ):
            view.resized.connect(draw)
            view.key_pressed.connect(self._key)
        self.others.pressed.connect(self._press)
        self.load.pressed.connect(self._press)
        self.plan.pressed.connect(self._press)
        self.hold.changed.connect(self.set_hold)
        self._staggers: tuple[Carry, tuple[Stagger, ...]] | None = None
        self._sure: tuple[Carry, CarryUncertainties | None] | None = None
        self.takes.changed.connect(self.set_takes)

    @property
    def job(self) -> Job[object] | None:
        """The work under way, None if there is none."""
        return self._work.job

    @property
    def dragging(self) -> bool:
        return False

    @property
    def main_widget(self) -> QWidget:
        """What takes the keyboard when the room is entered."""
        return self.load

    @property
    def support(self) -> str:
        """What carries the rig: its support, or what holds that."""
        build = self.workspace.build
        return support_for(build.support).carrier(build) if build is not None else KEYS[0]

    def _takes(self) -> tuple[Take, ...]:
        build = self.workspace.build
        return build.takes if build is not None and build.takes else ONE_TAKE

    def refresh(self) -> None:
        """Show the book as it is now."""
        analysis = self.workspace.analysis()
        self.carried = self.workspace.carried(self.support)
        self._seek(analysis)
        carried = analysis is not None and support_for(self.support).carried
        for widget in (self.reserve, self.takes, self.hold):
            widget.setVisible(carried)
        self.others.setVisible(analysis is not None)
        self._column.setStretchFactor(self._middle, 30 if carried else 0)
        self.plan.setVisible(analysis is not None and support_for(self.support).in_hands)
        build = self.workspace.build
        if analysis is not None:
            self._show_hold(analysis)
        self.takes.show_takes(build.takes if build is not None else ())
        self._show()

    def _show_hold(self, analysis: Analysis) -> None:
        hold, system = hold_of(analysis.build), self.workspace.system
        offered = [
            (place.grasp, place_name(place, analysis)) for place in places(analysis.assembly, analysis.positions)
        ]
        thick = [
            thickness_of(analysis.assembly, place, replace(hold, thickness=None))
            for place in hands_at(analysis.assembly, analysis.positions, hold)
            if analysis.assembly.parts[place.part].category is Category.GRIP
        ]
        places_usual = (figure(value, Kind.LENGTH, system) for value in usual_hold(self.workspace.operator))
        usual = (figure(thick[0], Kind.LENGTH, system) if thick else "", *places_usual)
        on_it = support_for(self.support)
        self.hold.show_hold(hold, offered, on_it.braces, usual, on_it.in_hands, system)
        self._make_room()

    def _show(self) -> None:
        self._word_ways()
        self._fill_panel()
        self._draw_load()
        self._draw_reserve()
        self._draw_plan()
        self._draw_others()

    # Ways to lighten, sought in another thread

    def _seek(self, analysis: Analysis | None) -> None:
        # An analysis is of one build, with its support and takes, one operator and one kit.
        if analysis is self._sought:
            return
        self.stop()
        self._sought, self._found, self.chosen = analysis, (), None
        if analysis is None:
            return
        operator, kit, build = self.workspace.operator, self.workspace.book.parts, analysis.build
        support = self.support

        def work(progress: Progress) -> object:
            return ways_to_lighten(analysis, kit, operator, support, build.takes, lambda: progress(0.5))

        self._work.start(work)

    def _came(self, found: object) -> None:
        if isinstance(found, tuple):
            self._found = found
            if self.isVisible():
                self._show()

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._make_room()

    def _make_room(self) -> None:
        """Give every drawing the height that it needs at this width; what does not fit scrolls."""
        scale = text_scale()
        # The bar that scrolls takes its width from the drawings, and they decide by theirs.
        bar = self.scroller.verticalScrollBar().sizeHint().width()
        width = (self.width() - 48 - bar) / scale
        self.hold.make_room(width)
        others = others_height(width, len(_carrying()))
        below = self.hold.sizeHint().height() / scale + 140.0 + 46.0 + others + 40.0
        self.load.setMinimumHeight(round(load_height(width, self.height() / scale - below) * scale))
        self.others.setMinimumHeight(round(others * scale))
        stacked = width < STACKED
        direction = QBoxLayout.Direction.TopToBottom if stacked else QBoxLayout.Direction.LeftToRight
        if self._middle.direction() is not direction:
            self._middle.setDirection(direction)
        for view in (self.reserve, self.plan):
            view.setMinimumHeight(round(140 * scale))

    def give_up(self) -> None:
        """Stop seeking because the user said so; the same build is not sought again until something changes."""
        self._work.stop()
        self._show()

    def stop(self) -> None:
        """Stop seeking."""
        if self._work.stop():
            self._sought = None

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.stop()

    def _word_ways(self) -> None:
        analysis = self.workspace.analysis()
        self.ways = ()
        if analysis is not None and isinstance(self.carried, Carry):
            self.ways = light_ways(self._found, self.carried, analysis, self.workspace.system)
        if self.chosen is not None and self.chosen >= len(self.ways):
            self.chosen = None

    @property
    def shown(self) -> Carry | Hindrance:
        """What is drawn: as it is, or as the chosen way would have it."""
        return self.carried if self.chosen is None else self.ways[self.chosen].way.carried

    def choose_way(self, index: int) -> None:
        """Preview way number `index`; a second time drops the preview."""
        if 0 <= index < len(self.ways):
            self.chosen = None if self.chosen == index else index
            self._show()

    def apply_way(self) -> None:
        """Make the previewed change."""
        if self.chosen is None:
            return
        build = self.ways[self.chosen].build
        if build is None:
            return
        edit = ChangeBuild(build, _CHANGED[self.ways[self.chosen].kind])
        self.chosen = None
        self.workspace.apply(edit)

    def set_takes(self, takes: tuple[Take, ...]) -> None:
        """Keep other takes with the build."""
        build = self.workspace.build
        if build is not None and takes != build.takes:
            edit = ChangeBuild(replace(build, takes=takes), "takes")
            QTimer.singleShot(0, lambda: self.workspace.apply(edit))

    def set_hold(self, hold: Hold) -> None:
        """Hold the rig otherwise."""
        build = self.workspace.build
        if build is not None and hold != hold_of(build):
            self.workspace.apply(ChangeBuild(with_hold(build, hold, self.support), "hold", merges=True))

    def take_hold(self, grasp: Grasp) -> None:
        """Put a hand to a place: the hand on whose side it is, the other one's grasp as it was."""
        analysis, build = self.workspace.analysis(), self.workspace.build
        if analysis is None or build is None:
            return
        place = next((p for p in places(analysis.assembly, analysis.positions) if p.grasp == grasp), None)
        if place is None or any(
            grasp == p.grasp for p in hands_at(analysis.assembly, analysis.positions, hold_of(build))
        ):
            return
        # What lies in the middle, such as a lens, is for the left hand: the right one stays at the controls.
        left = float(place.point[1]) > -0.020
        hold = hold_of(build)
        self.set_hold(replace(hold, left=grasp) if left else replace(hold, right=grasp))

    def choose_joint(self, joint: BodyJoint | None) -> None:
        """Show the reserve of `joint`, None for the one that comes closest to its end."""
        if joint is not self.joint:
            self.joint = joint
            # Nothing else depends on it.
            self._draw_load()
            self._draw_reserve()

    def choose_support(self, support: str) -> None:
        """Carry the build otherwise."""
        build = self.workspace.build
        if build is not None and build.support != support:
            self.workspace.apply(ChangeBuild(replace(build, support=support), "support"))

    # Showing

    def _fill_panel(self) -> None:
        system = self.workspace.system
        if self.workspace.build is None:
            self.panel.show_model(no_build_panel(), self._act)
            return
        shown, analysis = self.shown, self.workspace.analysis()
        sure = None
        if isinstance(self.carried, Carry) and isinstance(shown, Carry) and analysis is not None:
            if self._sure is None or self._sure[0] is not shown:
                self._sure = (shown, carry_uncertainties(self._previewed() or analysis, shown))
            sure = self._sure[1]
        of = Carried(self.carried, shown, self._takes(), self._shown_takes(), sure, self.joint)
        busy = self.job is not None
        self.panel.show_model(carry_panel(of, analysis, self.ways, self.chosen, busy, system), self._act)

    def _act(self, key: Key) -> None:
        """Do what was chosen in the panel."""
        match key:
            case ("way", number):
                self.choose_way(int(number))
            case ("apply",):
                self.apply_way()
            case ("stop",):
                self.give_up()
            case ("build",):
                self.build_wanted.emit()

    def _draw_load(self) -> None:
        width, height = self.load.scene_width, self.load.scene_height
        if width < 200 or height < 120:
            return
        analysis, shown = self._previewed(), self.shown
        if analysis is not None and shown is Hindrance.NOBODY:
            self.load.show_scene(draw_standing(analysis, verdict(shown).body, width, height))
            return
        if analysis is None or isinstance(shown, Hindrance):
            words = "The rig sits here." if analysis is None else ""
            scene = draw_nothing_yet(self.workspace.operator, width, height, words)
            scene.text(0, 18, "Load on the operator", 16, 600)
            if analysis is not None:
                scene.text(0, 44, verdict(shown).body, 14, 400, "ink2")
            self.load.show_scene(scene)
            return
        scene = draw_load(analysis, shown, self._takes(), self.workspace.system, width, height, self.joint)
        self.load.setAccessibleDescription(spoken(shown))
        self.load.show_scene(scene)

    def _previewed(self) -> Analysis | None:
        """Return the analysis that goes with what is shown."""
        after = self.ways[self.chosen].way.after if self.chosen is not None else None
        return after if after is not None else self.workspace.analysis()

    def _draw_reserve(self) -> None:
        width, height = self.reserve.scene_width, self.reserve.scene_height
        shown = self.shown
        if width < 200 or height < 80 or isinstance(shown, Hindrance):
            self.reserve.show_scene(Scene())
            return
        takes = self._shown_takes()
        build = self.workspace.build
        made_up = build is None or not build.takes
        self.reserve.show_scene(draw_reserve(reserve_story(shown, takes, self.joint), takes, made_up, width, height))

    def _shown_takes(self) -> tuple[Take, ...]:
        """Return the takes as they are, or as the chosen way would have them."""
        takes = self.ways[self.chosen].way.takes if self.chosen is not None else ()
        return takes or self._takes()

    def _draw_plan(self) -> None:
        width, height = self.plan.scene_width, self.plan.scene_height
        analysis, shown = self._previewed(), self.shown
        if not self.plan.isVisible() or width < 120 or height < 80 or analysis is None or isinstance(shown, Hindrance):
            self.plan.show_scene(Scene())
            return
        if self._staggers is None or self._staggers[0] is not shown:
            self._staggers = (shown, staggers(analysis, shown))
        self.plan.show_scene(draw_grip_plan(analysis, shown, self._staggers[1], self.workspace.system, width, height))

    def _draw_others(self) -> None:
        width, height = self.others.scene_width, self.others.scene_height
        analysis = self.workspace.analysis()
        if width < 200 or height < 80 or analysis is None:
            self.others.show_scene(Scene())
            return
        operator, book = self.workspace.operator, self.workspace.book
        options = [(kind, self.workspace.carried(kind)) for kind in _carrying()]
        build = self.workspace.build
        if self._compared is None or self._compared[0] is not book or self._compared[1] is not analysis:
            self._compared = (book, analysis)
            # Who and what is looked at comes first: there may be more than there is room for.
            self._operators = sorted(book.operators, key=lambda o: o is not operator)[:4]
            self._builds = sorted(book.builds, key=lambda b: b is not build)[:6]
            self._table = [
                (b.name, [carry(analyse(b, book.parts, o), o, self.support) for o in self._operators])
                for b in (replace(b, support=self.support) for b in self._builds)
            ]
        scene = draw_others(
            options, self.support, self._table, self._operators, (0, 0), width, height, len(book.builds)
        )
        self.others.show_scene(scene)

    def _press(self, key: tuple[str, ...], _x: float, _y: float) -> None:
        if not key:
            return
        if key[0] == "joint":
            joint = BodyJoint(key[1])
            QTimer.singleShot(0, lambda: self.choose_joint(None if joint is self.joint else joint))
        elif key[0] == "support":
            self.choose_support(key[1])
        elif key[0] == "grasp":
            grasp = Grasp(key[1], key[2])
            QTimer.singleShot(0, lambda: self.take_hold(grasp))
        elif key[0] == "cell":
            chosen, worn_by = self._builds[int(key[1])].id, self._operators[int(key[2])].id
            self.workspace.choose_operator(worn_by)
            self.workspace.choose_build(chosen)

    def _key(self, event: QKeyEvent) -> None:
        key, control = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if key == Qt.Key.Key_P and not control and self.workspace.preferences.single_keys:
            if self.ways:
                self.choose_way(0 if self.chosen is None else (self.chosen + 1) % len(self.ways))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.apply_way()
        elif key == Qt.Key.Key_Escape:
            if self.chosen is not None:
                self.choose_way(self.chosen)
            else:
                self.choose_joint(None)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and isinstance(self.shown, Carry):
            joints = [joint.joint for joint in self.shown.joints]
            step = 1 if key == Qt.Key.Key_Down else -1
            now = joints.index(self.joint) if self.joint in joints else joints.index(self.shown.worst.joint) - step
            self.choose_joint(joints[(now + step) % len(joints)])
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            kinds = list(KEYS)
            step = 1 if key == Qt.Key.Key_Right else -1
            self.choose_support(kinds[(kinds.index(self.support) + step) % len(kinds)])
        else:
            return
        event.accept()
