"""The gimbal's bench: a coach that says what to try next, by hand or with a motor that can be read."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from equilix.core.analyse import analyse
from equilix.core.chosen import with_settings
from equilix.core.errors import DeviceError
from equilix.core.measurement.coach import Action, CoachAdvice
from equilix.core.measurement.coaching import Coaching, begin
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.enter import on_enter
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.widgets.refusal import refuse_at
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.workspace import Workspace
from equilix.document.edits.builds import ChangeBuild, SetSlide
from equilix.present.balance.coach_view import CoachWords, coach_words, draw_region
from equilix.present.words import Slider, slider_of
from equilix.supports.gimbal.coaching import benches_of, with_readings
from equilix.supports.gimbal.mechanics import SUPPORT
from equilix.supports.gimbal.window_link import SIMULATED, GimbalLink


class CoachBench(QWidget):
    """What to do next at the left, where the scales belong at the right; what was seen is kept for each build."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.sessions: dict[str, Coaching] = {}
        self.link = GimbalLink(self)
        self.link.lost.connect(self._lost)
        self.link.refused.connect(workspace.refused)
        self.link.answered.connect(self._answered)
        self.advice = CoachAdvice(Action.DONE)
        self.words: CoachWords | None = None
        self._make()

    def _make(self) -> None:
        outer = QHBoxLayout(self)
        outer.setContentsMargins(0, 4, 0, 6)
        outer.setSpacing(16)
        column = QVBoxLayout()
        column.setSpacing(6)
        self.head = label("", 15, 600, "ink")
        self.why = label("", 13, 400, "ink2")
        self.seen = label("", 12, 400, "ink2")
        self.warning = label("", 13, 500, "fwdT")
        for one in (self.head, self.why, self.seen, self.warning):
            one.setWordWrap(True)
        column.addWidget(self.head)
        column.addWidget(self.why)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.answers = [QPushButton() for _ in range(3)]
        for k, button in enumerate(self.answers):
            button.clicked.connect(lambda _checked=False, k=k: self.answer(k))
            row.addWidget(button)
        self.done = QPushButton("The slide is at this mark")
        self.done.clicked.connect(self.set_there)
        self.go_on = QPushButton("Go on")
        set_tip(self.go_on, "Leave this axis as it is")
        self.go_on.clicked.connect(self.leave)
        self.read = QPushButton("Read the motor")
        self.read.clicked.connect(self.read_motor)
        row.addWidget(self.done)
        row.addWidget(self.read)
        row.addWidget(self.go_on)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(self.warning)
        column.addWidget(self.seen, 1)
        below = QHBoxLayout()
        below.setSpacing(8)
        self.back = QPushButton("Take back one")
        set_tip(self.back, "Removes the contradicting observation, or else the last")
        self.back.clicked.connect(self.take_back)
        self.again = QPushButton("Start again")
        self.again.clicked.connect(self.start_over)
        self.port = QLineEdit()
        self.port.setPlaceholderText("port, or: simulated")
        self.port.setAccessibleName("Port of the gimbal")
        set_tip(self.port, "The gimbal’s port, such as socket://127.0.0.1:4711, or: simulated")
        self.port.setMinimumWidth(70)
        self.port.setMaximumWidth(150)
        on_enter(self.port, self.connect_it)
        self.connect_button = QPushButton("Connect")
        self.connect_button.clicked.connect(self.connect_it)
        for button in (self.back, self.again):
            below.addWidget(button)
        below.addStretch(1)
        below.addWidget(self.port)
        below.addWidget(self.connect_button)
        column.addLayout(below)
        outer.addLayout(column, 5)
        self.picture = SceneView("Where the marks belong")
        self.picture.resized.connect(self._draw)
        outer.addWidget(self.picture, 4)

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        # Where there is no room for both, the words stay.
        self.picture.setVisible(self.width() >= 600 * text_scale())

    # What is going on

    @property
    def session(self) -> Coaching | None:
        """What was seen of the present build; begun when it is first asked for."""
        analysis = self.workspace.analysis()
        if analysis is None or analysis.equilibrium is None:
            return None
        build = analysis.build
        held = self.sessions.get(build.id)
        benches = benches_of(analysis)
        if held is None or [axis.scales for axis in held.axes] != [axis.scales for axis in benches]:
            held = begin(benches, {})
            self.sessions[build.id] = held
        for axis in benches:
            for placed_id in axis.scales:
                if placed_id:
                    held.marks[placed_id] = build.placed(placed_id).setting
        held.effort = self.link.connected
        return held

    def _scales(self) -> dict[str, Slider]:
        analysis, session = self.workspace.analysis(), self.session
        if analysis is None or session is None:
            return {}
        return {one: slider_of(analysis, one) for axis in session.axes for one in axis.scales if one}

    def refresh(self) -> None:
        """Say what to do next."""
        if not self.isVisible():
            return
        session = self.session
        if session is None or not session.axes:
            self.words = None
            self._show(CoachWords("Nothing to coach yet.", "Put a gimbal with slides on the build.", (), (), ""))
            return
        self.advice = session.advice()
        self.words = coach_words(session, self.advice, self._scales(), self.workspace.system)
        self._show(self.words)
        self._draw()

    def _show(self, words: CoachWords) -> None:
        self.head.setText(words.head)
        self.why.setText(words.why)
        self.warning.setText(words.warning)
        self.warning.setVisible(bool(words.warning))
        first = max(len(words.seen) - 3, 0)
        self.seen.setText("\n".join(f"{k + 1}  {one}" for k, one in enumerate(words.seen) if k >= first))
        reads = self.link.connected
        for k, button in enumerate(self.answers):
            shown = k < len(words.answers) and not reads
            button.setVisible(shown)
            if shown:
                button.setText(words.answers[k][0])
        self.read.setVisible(reads and bool(words.answers))
        self.done.setVisible(self.advice.do is Action.MOVE and self.words is not None)
        self.go_on.setVisible(self.advice.do is Action.LEFT and self.words is not None)
        self.back.setEnabled(bool(words.seen))
        self.connect_button.setText("Let go and watch" if reads else "Connect")
        self.port.setEnabled(not reads)

    def _draw(self) -> None:
        session = self.session
        size = self.picture.scene_width, self.picture.scene_height
        if session is None or not session.axes or size[0] < 60 or size[1] < 60 or not self.isVisible():
            return
        self.picture.show_scene(draw_region(session, session.belief(), self._scales(), self.workspace.system, size))

    # What people do

    def answer(self, number: int) -> None:
        """Take down what a release showed."""
        session = self.session
        if session is not None and self.words is not None and number < len(self.words.answers):
            before = session.number
            session.saw(self.advice.way, self.words.answers[number][1])
            self._went_on(session, before)

    def leave(self) -> None:
        """Leave the axis as it is, and go on with the next."""
        session = self.session
        if session is not None and self.advice.why is not None:
            before = session.number
            session.leave(self.advice.why)
            self._went_on(session, before)

    def _went_on(self, session: Coaching, before: int) -> None:
        """Say what is next; where axes were settled `before` that are others now, what was found goes into the figures.

        A look alone changes nothing there: what an earlier day's coach found stays until it finds something else.
        """
        self.refresh()
        if session.number != before:
            self._put(session)

    def _put(self, session: Coaching | None) -> None:
        """Put what a session found into the build, or forget what was found before."""
        analysis = self.workspace.analysis()
        if analysis is None:
            return
        settings = SUPPORT.settings(analysis.build)
        bare = with_settings(analysis.build, replace(settings, coached=None))
        found = None
        if session is not None:
            found = with_readings(analyse(bare, analysis.assembly.kit, self.workspace.operator, analysis), session)
        if found == settings.coached:
            return
        self.workspace.close_group()
        self.workspace.apply(
            ChangeBuild(with_settings(analysis.build, replace(settings, coached=found)), "what the coach found")
        )
        self.workspace.close_group()
        self.refresh()

    def set_there(self) -> None:
        """Take the scale as set to where it was advised, on the build too."""
        session, build = self.session, self.workspace.build
        if session is None or build is None or self.advice.do is not Action.MOVE:
            return
        scale, to = self.advice.scale, self.advice.to
        placed_id = session.moved(scale, to)
        self.link.say(f"set {_SCALE_OF[session.axis.name][scale]} {1e3 * to:.3f}")
        analysis = self.workspace.analysis()
        self.workspace.close_group()
        if analysis is not None and analysis.build is not build:
            # It is analysed as it is put together, whatever it was begun with: there the slide has that name.
            placed = analysis.build.placed(placed_id)
            self.workspace.apply(ChangeBuild(analysis.build.with_placed(replace(placed, setting=to)), "scale"))
        else:
            self.workspace.apply(
                SetSlide(build.id, placed_id, to, self.workspace.book.name_of(build.placed(placed_id)))
            )
        self.workspace.close_group()
        self.refresh()

    def take_back(self) -> None:
        """Forget what contradicts the others, else what was seen last."""
        session = self.session
        if session is None or session.finished:
            return
        looks = session.looks.get(session.axis.name, [])
        odd = session.belief().contradicts
        if looks:
            session.take_back(odd[0] if odd else len(looks) - 1)
            self.refresh()

    def start_over(self) -> None:
        """Forget all that was seen of this build."""
        session = self.session
        if session is not None:
            session.again()
            self._put(None)
            self.refresh()

    # A gimbal that can be read

    def connect_it(self) -> None:
        """Reach the gimbal at the typed port, or let go of it."""
        if self.link.connected:
            self.link.let_go()
            self.refresh()
            return
        try:
            if not self.link.reach(self.port.text().strip() or SIMULATED, self):
                return
        except DeviceError as error:
            refuse_at(self.port, str(error))
            return
        session = self.session
        if session is not None:
            for axis in session.axes:
                for k, mark in enumerate(session.standing(axis)):
                    if axis.scales[k]:
                        self.link.say(f"set {_SCALE_OF[axis.name][k]} {1e3 * mark:.3f}")
        self.refresh()

    def _lost(self, words: str) -> None:
        """Say that the gimbal is lost; what was seen stays."""
        self.workspace.refused.emit(words)
        self.refresh()

    def read_motor(self) -> None:
        """Bring the gimbal to the attitude of the test from either side, and read its motor each time."""
        session, build = self.session, self.workspace.build
        if session is None or build is None or self.advice.do is not Action.TEST:
            return
        axis = session.axis.name
        self.link.ask(axis, session.angle_of(self.advice.way), self.advice.way, SUPPORT.settings(build).rated(axis))

    def _answered(self, way: tuple[float, float], effort: float, noise: float) -> None:
        session = self.session
        if session is not None:
            before = session.number
            session.read(way, effort, noise)
            self._went_on(session, before)

    @property
    def busy(self) -> bool:
        """Whether an answer is awaited."""
        return self.link.asked is not None


#: What a gimbal's lines call the scales of each axis.
_SCALE_OF = {"tilt": ("plate", "height"), "roll": ("roll", "roll"), "pan": ("pan", "pan")}


def bench(workspace: Workspace) -> CoachBench:
    """Return the gimbal's bench."""
    return CoachBench(workspace)
