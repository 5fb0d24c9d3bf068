"""The Carry view: what the build costs the body, along the takes, and what would make it lighter."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QKeyEvent
from PySide6.QtWidgets import QWidget

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Grasp, Hold, Take
from equilix.core.carry.arrangements import CarryUncertainties, Stagger, carry_uncertainties, staggers
from equilix.core.carry.carried import Carry
from equilix.core.chosen import hold_of, with_hold
from equilix.core.keys import KEYS
from equilix.core.operator.strength import BodyJoint
from equilix.core.registry import support_for
from equilix.core.solver.lighten import Lighter, LighterKind, ways_to_lighten
from equilix.core.statics.grasps import with_hand_at
from equilix.core.statics.pose import Hindrance
from equilix.desktop.jobs.job import Job, Latest
from equilix.desktop.views.carry_page import CarryPage, carrying
from equilix.desktop.widgets.context import Entry
from equilix.desktop.widgets.panel import SidePanel
from equilix.desktop.workspace import Workspace
from equilix.document.edits.builds import ChangeBuild
from equilix.present.carry.carry_drawing import draw_load, draw_no_load, draw_standing
from equilix.present.carry.carry_view import (
    ONE_TAKE,
    reserve_story,
    spoken,
    verdict,
)
from equilix.present.carry.comparison import Comparison, compared
from equilix.present.carry.grip_plan import draw_grip_plan
from equilix.present.carry.lanes_drawing import draw_lanes
from equilix.present.carry.light_ways import LightWay, light_ways
from equilix.present.carry.others_drawing import draw_others
from equilix.present.carry.reserve_drawing import draw_reserve
from equilix.present.carry.side_panel import Carried, carry_panel, no_build_panel
from equilix.present.drawing.scene import Scene
from equilix.present.panel import Key

#: What each way changes, for undo.
_CHANGED = {
    LighterKind.GRIPS: "grips",
    LighterKind.HOLD: "hold",
    LighterKind.BRACE: "brace",
    LighterKind.SCREEN: "place of the screen",
    LighterKind.SPLIT: "takes",
    LighterKind.STEADIER: "mass that steadies",
}


class CarryView(CarryPage):
    """Shows the operator with the rig, the joints, the reserve over the takes, and the other supports."""

    build_wanted = Signal()

    def __init__(self, workspace: Workspace, panel: SidePanel, parent: QWidget) -> None:
        super().__init__(workspace, parent)
        self.panel = panel
        self.carried: Carry | Hindrance = Hindrance.NO_MASS
        self.ways: tuple[LightWay, ...] = ()
        self.chosen: int | None = None
        #: The joint whose reserve is shown; None for the one that comes closest to its end.
        self.joint: BodyJoint | None = None
        self._work = Latest(self)
        self._work.done.connect(self._came)
        self._found: tuple[Lighter, ...] = ()
        self._sought: Analysis | None = None
        self._compared: Comparison | None = None
        for view, draw in (
            (self.load, self._draw_load),
            (self.reserve, self._draw_reserve),
            (self.plan, self._draw_plan),
            (self.others, self._draw_others),
        ):
            view.resized.connect(draw)
            view.key_pressed.connect(self._key)
        self.load.offered = self._offered
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

    def _takes(self) -> tuple[Take, ...]:
        build = self.workspace.build
        return build.takes if build is not None and build.takes else ONE_TAKE

    def refresh(self) -> None:
        """Show the book as it is now."""
        analysis = self.workspace.analysis()
        self.carried = self.workspace.carried(self.support)
        self._seek(analysis)
        carried = analysis is not None and support_for(self.support).carried
        for widget in (self.takes, self.hold):
            widget.setVisible(carried)
        self.reserve.setVisible(carried and self.strength)
        self.others.setVisible(analysis is not None)
        self._column.setStretchFactor(self._middle, 30 if carried and self._middle_shown(analysis) else 0)
        self.plan.setVisible(analysis is not None and support_for(self.support).in_hands)
        build = self.workspace.build
        if analysis is not None:
            self._show_hold(analysis)
        self.takes.show_takes(build.takes if build is not None else ())
        self._show()

    def _middle_shown(self, analysis: Analysis | None) -> bool:
        """Whether something stands between hold and takes: the second level, or the hands from above."""
        return self.strength or (analysis is not None and support_for(self.support).in_hands)

    def show_strength(self, strength: bool) -> None:
        """Show shares of strength, moments and forces, or the reserve over the takes alone."""
        if strength is not self.strength:
            self.strength = strength
            self._make_room()
            self.refresh()

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
        of = analysis, self.workspace.book.parts, self.workspace.operator, self.support, analysis.build.takes
        self._work.start(lambda progress: ways_to_lighten(*of, lambda: progress(0.5)))

    def _came(self, found: object) -> None:
        if isinstance(found, tuple):
            self._found = found
            if self.isVisible():
                self._show()

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
        hold = with_hand_at(analysis.assembly, analysis.positions, hold_of(build), grasp)
        if hold is not None:
            self.set_hold(hold)

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
        of = Carried(self.carried, shown, self._takes(), self._shown_takes(), sure, self.joint, self.strength)
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
            case ("strength",):
                self.show_strength(not self.strength)
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
            words = verdict(shown).body if analysis is not None and isinstance(shown, Hindrance) else ""
            self.load.show_scene(draw_no_load(self.workspace.operator, words, width, height))
            return
        build = self.workspace.build
        if self.strength:
            scene = draw_load(analysis, shown, self._takes(), self.workspace.system, width, height, self.joint)
        else:
            made_up = build is None or not build.takes
            scene = draw_lanes(analysis, shown, self._shown_takes(), made_up, width, height, self.joint)
        self.load.setAccessibleDescription(spoken(shown))
        self.load.show_scene(scene)

    def _previewed(self) -> Analysis | None:
        """Return the analysis that goes with what is shown."""
        after = self.ways[self.chosen].way.after if self.chosen is not None else None
        return after if after is not None else self.workspace.analysis()

    def _draw_reserve(self) -> None:
        width, height = self.reserve.scene_width, self.reserve.scene_height
        shown = self.shown
        if not self.strength or width < 200 or height < 80 or isinstance(shown, Hindrance):
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
        options = [(kind, self.workspace.carried(kind)) for kind in carrying()]
        old = self._compared
        if old is None or old.book is not book or old.analysis is not analysis:
            old = self._compared = compared(book, analysis, operator, self.support)
        self.others.show_scene(draw_others(options, self.support, old, width, height))

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
        elif key[0] == "cell" and self._compared is not None:
            chosen, worn_by = self._compared.builds[int(key[1])].id, self._compared.operators[int(key[2])].id
            self.workspace.choose_operator(worn_by)
            self.workspace.choose_build(chosen)

    def _offered(self, key: tuple[str, ...]) -> list[Entry]:
        """Return what can be done with what lies at the mouse."""
        found = []
        if key and key[0] == "joint":
            found.append(Entry("Show this joint", "Up, Down", lambda: self.choose_joint(BodyJoint(key[1]))))
        if self.ways:
            found.append(Entry("Preview the next way", "P", self.next_way))
        if self.chosen is not None:
            found.append(Entry("Apply it", "Enter", self.apply_way))
        inner = "Show the reserve alone" if self.strength else "Show forces, discs and strength"
        return [*found, Entry(inner, "F", lambda: self.show_strength(not self.strength))]

    def next_way(self) -> None:
        """Preview the next way."""
        if self.ways:
            self.choose_way(0 if self.chosen is None else (self.chosen + 1) % len(self.ways))

    def _key(self, event: QKeyEvent) -> None:
        key, control = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if key == Qt.Key.Key_P and not control and self.workspace.preferences.single_keys:
            self.next_way()
        elif key == Qt.Key.Key_F and not control and self.workspace.preferences.single_keys:
            self.show_strength(not self.strength)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.apply_way()
        elif key == Qt.Key.Key_Escape:
            if self.chosen is not None:
                self.choose_way(self.chosen)
            else:
                self.choose_joint(None)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and isinstance(self.shown, Carry):
            self._step_joint(self.shown, 1 if key == Qt.Key.Key_Down else -1)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            kinds = list(KEYS)
            step = 1 if key == Qt.Key.Key_Right else -1
            self.choose_support(kinds[(kinds.index(self.support) + step) % len(kinds)])
        else:
            return
        event.accept()

    def _step_joint(self, shown: Carry, step: int) -> None:
        joints = [joint.joint for joint in shown.joints]
        now = joints.index(self.joint) if self.joint in joints else joints.index(shown.worst.joint) - step
        self.choose_joint(joints[(now + step) % len(joints)])
