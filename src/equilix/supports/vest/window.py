"""The sled's bench: a stopwatch for drops, a level's reading, and a drawn sled that falls as the figures say."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import QElapsedTimer, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.chosen import with_settings
from equilix.core.errors import EditError
from equilix.core.measurement.lesson import CONTRADICTS
from equilix.core.uncertainty.output_model import output_model, output_uncertainties
from equilix.core.units import Kind
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.enter import on_enter
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.widgets.refusal import refuse_at
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.workspace import Workspace
from equilix.document.edits.builds import ChangeBuild
from equilix.present.balance.timing_view import (
    TRIES,
    draw_fall,
    parse_lean,
    parse_times,
    reach_of,
    timing_words,
)
from equilix.present.units import System, figure, number
from equilix.supports.vest.hanging import VestCase
from equilix.supports.vest.mechanics import SUPPORT
from equilix.supports.vest.outputs import DROP
from equilix.supports.vest.settings import Timed
from equilix.supports.vest.timing import with_readings

#: ms between two pictures of a falling sled, and s after which it has come to rest on the screen.
_FRAME, _SHOWN = 16, 1.25


class TimingBench(QWidget):
    """What to do at the left, the falling sled at the right; tries are kept for each build until they are taken."""

    def __init__(self, workspace: Workspace, clock: Callable[[], float] | None = None) -> None:
        super().__init__()
        self.workspace = workspace
        self.tries: dict[str, list[float]] = {}
        self._elapsed = QElapsedTimer()
        self._elapsed.start()
        #: The time (s) by a clock that only goes forward.
        self.clock = clock or (lambda: self._elapsed.nsecsElapsed() / 1e9)
        self.started: float | None = None
        self.fell: float | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(_FRAME)
        self._timer.timeout.connect(self._tick)
        self._make()

    def _make(self) -> None:
        outer = QHBoxLayout(self)
        outer.setContentsMargins(0, 4, 0, 6)
        outer.setSpacing(16)
        column = QVBoxLayout()
        column.setSpacing(6)
        self.head = label("", 15, 600, "ink")
        self.why = label("", 13, 400, "ink2")
        self.time = label("0.00 s", 30, 600, "ink")
        self.listed = label("", 13, 500, "ink2")
        self.lesson = label("", 13, 500, "ink")
        for one in (self.head, self.why, self.lesson):
            one.setWordWrap(True)
        column.addWidget(self.head)
        column.addWidget(self.why)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.watch = QPushButton("Start  Space")
        self.watch.clicked.connect(self.press)
        self.fall = QPushButton("Let the simulated sled fall")
        set_tip(self.fall, "It drops as the figures say, for practice with the stopwatch")
        self.fall.clicked.connect(self.let_fall)
        row.addWidget(self.time)
        row.addWidget(self.watch)
        row.addWidget(self.fall)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(self.listed)
        typed = QHBoxLayout()
        typed.setSpacing(8)
        self.typed = self._field("or type: 2.4 2.6 2.5", "Timed drops, seconds", 130)
        self.pitch = self._field("° nose down", "Measured angle, nose down, degrees", 92)
        self.roll = self._field("° left side high", "Measured angle, left side high, degrees", 84)
        for field in (self.typed, self.pitch, self.roll):
            on_enter(field, self.take)
            typed.addWidget(field)
        typed.addStretch(1)
        column.addLayout(typed)
        column.addWidget(self.lesson)
        below = QHBoxLayout()
        below.setSpacing(8)
        self.take_it = QPushButton("Use these readings")
        self.take_it.clicked.connect(self.take)
        self.again = QPushButton("Start again")
        set_tip(self.again, "Removes these readings, and those used before")
        self.again.clicked.connect(self.start_over)
        below.addWidget(self.take_it)
        below.addWidget(self.again)
        below.addStretch(1)
        column.addLayout(below)
        column.addStretch(1)
        outer.addLayout(column, 5)
        self.picture = SceneView("The sled as it drops")
        self.picture.resized.connect(self._draw)
        outer.addWidget(self.picture, 3)

    def _field(self, placeholder: str, name: str, width: int) -> QLineEdit:
        field = QLineEdit()
        field.setPlaceholderText(placeholder)
        field.setAccessibleName(name)
        field.setMinimumWidth(70)
        field.setMaximumWidth(round(width * text_scale()))
        return field

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        # Where there is no room for both, the words stay.
        self.picture.setVisible(self.width() >= 560 * text_scale())

    # What is going on

    def _bare(self) -> Analysis | None:
        """Return the build as its parts have it, without what was timed before."""
        case = self._case()
        if case is None or case.settings.timed is None:
            return None if case is None else case.analysis
        build = with_settings(case.build, replace(case.settings, timed=None))
        return analyse(build, case.analysis.assembly.kit, self.workspace.operator, case.analysis)

    def _case(self) -> VestCase | None:
        analysis = self.workspace.analysis()
        return None if analysis is None else SUPPORT.case(analysis)

    def _of_build(self) -> list[float]:
        build = self.workspace.build
        return [] if build is None else self.tries.setdefault(build.id, [])

    def refresh(self) -> None:
        """Say what to do next."""
        if not self.isVisible():
            return
        bare = self._bare()
        case = None if bare is None else SUPPORT.case(bare)
        outputs = None if bare is None else output_model(bare)
        said = None
        if case is not None and outputs is not None:
            time = case.result.sled.drop_time
            said = None if time is None else (time, output_uncertainties(outputs, (DROP,))[DROP])
        words = timing_words(None if case is None else case.result.sled, said, self._of_build(), self._taken())
        self.head.setText(words.head)
        self.why.setText(words.why)
        self.listed.setText(words.tries)
        self.lesson.setText(words.taught)
        self.lesson.setVisible(bool(words.taught))
        for button in (self.watch, self.fall):
            button.setEnabled(said is not None)
        self.take_it.setEnabled(said is not None)
        self._draw()

    def _taken(self) -> str:
        """Return what was learned from what was taken, "" before."""
        case = self._case()
        if case is None or case.settings.timed is None:
            return ""
        lesson = case.settings.lesson(case.body.mass)
        if lesson is None:
            return "The readings were of other parts. Time it again."
        return _lesson(lesson, self.workspace.system)

    # The stopwatch

    def press(self) -> None:
        """Start the stopwatch, or stop it and keep the try."""
        if self.started is None:
            self.started = self.clock()
            self.watch.setText("Stop  Space")
            self._timer.start()
            return
        tries = self._of_build()
        if len(tries) >= TRIES:
            tries.clear()
        time = self.clock() - self.started
        self.started = None
        self.watch.setText("Start  Space")
        self.time.setText(f"{number(time, 2)} s")
        # A double press is no drop.
        if time >= 0.1:
            tries.append(round(time, 3))
        self.refresh()

    def let_fall(self) -> None:
        """Let the drawn sled go."""
        self.fell = self.clock()
        self._timer.start()
        self.watch.setFocus()

    def _tick(self) -> None:
        now = self.clock()
        if self.started is not None:
            self.time.setText(f"{number(now - self.started, 2)} s")
        case = self._case()
        time = None if case is None else case.result.sled.drop_time
        if self.fell is not None and (time is None or now - self.fell > 2.0 * time + _SHOWN):
            self.fell = None
        if self.fell is None and self.started is None:
            self._timer.stop()
        self._draw()

    def _draw(self) -> None:
        size = self.picture.scene_width, self.picture.scene_height
        case = self._case()
        if case is None or min(size) < 60 or not self.isVisible():
            return
        since = None if self.fell is None else self.clock() - self.fell
        reach = reach_of(case.analysis, case.result.bearing.point)
        self.picture.show_scene(draw_fall(case.result.sled, since, size, reach))

    # What it teaches

    def take(self) -> None:
        """Take what was timed, typed and read into the build's figures, as one step to undo."""
        bare, build = self._bare(), self.workspace.build
        if bare is None or build is None:
            return
        read: dict[QLineEdit, object] = {}
        for field, parse in ((self.typed, parse_times), (self.pitch, parse_lean), (self.roll, parse_lean)):
            try:
                read[field] = parse(field.text())
            except EditError as error:
                refuse_at(field, str(error))
                return
        times = read[self.typed] or tuple(self._of_build())
        pitch, roll = read[self.pitch], read[self.roll]
        if not times and pitch is None and roll is None:
            refuse_at(self.typed, "There is no reading yet. Time a drop, or type times or an angle.")
            return
        assert isinstance(times, tuple)
        timed = with_readings(bare, times, *(None if v is None else float(str(v)) for v in (pitch, roll)))
        if timed is None:
            refuse_at(self.typed, "No hanging sled gives these readings. Check them, or the masses.")
            return
        self._put(timed)

    def start_over(self) -> None:
        """Forget the tries, and what was taken from earlier ones."""
        self._of_build().clear()
        self.started = None
        self.watch.setText("Start  Space")
        build = self.workspace.build
        if build is not None and SUPPORT.settings(build).timed is not None:
            self._put(None)
        self.refresh()

    def _put(self, timed: Timed | None) -> None:
        build = self.workspace.build
        assert build is not None
        self.workspace.close_group()
        changed = replace(SUPPORT.settings(build), timed=timed)
        self.workspace.apply(ChangeBuild(with_settings(build, changed), "drop"))
        self.workspace.close_group()
        self.refresh()


def _lesson(timed: Timed, system: System) -> str:
    parts = []
    if timed.tries:
        mean = sum(timed.tries) / len(timed.tries)
        parts.append(f"{number(mean, 2)} s from {len(timed.tries)} {'try' if len(timed.tries) == 1 else 'tries'}")
    if timed.pitch is not None or timed.roll is not None:
        parts.append("a measured angle")
    if timed.parted > CONTRADICTS:
        words = f"{number(timed.parted, 1)} standard uncertainties from the parts’ figure: not used"
        return f"{' and '.join(parts)}: {words}. See the cautions.".capitalize()
    ahead, _, up = timed.shift
    way = "up" if up > 0.0 else "down"
    shifts = [f"CG {figure(abs(up), Kind.LENGTH, system, extra=1)} {way}"]
    if abs(ahead) >= 5e-5:
        to = "forward" if ahead > 0.0 else "back"
        shifts.append(f"{figure(abs(ahead), Kind.LENGTH, system, extra=1)} {to}")
    more = figure(timed.more_inertia, Kind.INERTIA, system, sign=True)
    return f"Used: {' and '.join(parts)}: {', '.join(shifts)}, inertia {more}."


def bench(workspace: Workspace) -> TimingBench:
    """Return the sled's bench."""
    return TimingBench(workspace)
