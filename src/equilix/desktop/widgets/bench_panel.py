"""The bench: how to lay the part, what the scale shows, and what comes of the readings."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QComboBox,
    QWidget,
)

from equilix.core.errors import EditError, EquilixError
from equilix.core.kit.parts import Part
from equilix.core.measurement.bench import Setup, Unit
from equilix.core.measurement.steady import Trace
from equilix.core.units import Kind
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.views.bench_session import LOOSE_SETUPS, BenchSession
from equilix.desktop.widgets.bench_form import BenchForm
from equilix.desktop.widgets.refusal import refuse_at
from equilix.desktop.workspace import Workspace
from equilix.present.drawing.scene import Anchor, Scene
from equilix.present.units import readable, unit_of
from equilix.present.weigh.bench_drawing import draw_bench
from equilix.present.weigh.bench_subject import BenchChoice, choices
from equilix.present.weigh.bench_view import (
    SETUP_FIELDS,
    BenchModel,
    bench_model,
    exact,
    layout_text,
    parse_layout,
)
from equilix.present.weigh.reading_drawing import draw_reading


class BenchPanel(BenchForm):
    """`bar` holds the choices of part, set-up and scale, to be put where there is room.

    `scale_wanted` asks to change the scale in use (True) or to add one (False); `stored` follows a stored figure.
    """

    scale_wanted = Signal(bool)
    stored = Signal()

    def __init__(self, workspace: Workspace, session: BenchSession, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.session = session
        self.model: BenchModel | None = None
        self.parts: tuple[Part, ...] = ()
        self._choices: tuple[BenchChoice, ...] = ()
        self._connect()

    def _connect(self) -> None:
        session = self.session
        session.changed.connect(self.refresh)
        session.sampled.connect(self.show_reading)
        self.picture.resized.connect(self._draw_picture)
        self.reading.resized.connect(self.show_reading)
        self.subject_box.activated.connect(self._choose_subject)
        self.setup_box.activated.connect(self._choose_setup)
        self.scale_box.activated.connect(self._choose_scale)
        self.connect_button.clicked.connect(self._switch_scale)
        self.take_button.clicked.connect(self.take)
        self.back_button.clicked.connect(lambda: session.repeat())
        self.store_button.clicked.connect(self.store)
        self.typed.returnPressed.connect(self._type)
        self.reading.pressed.connect(self._press_step)
        for view in (self.picture, self.reading):
            view.key_pressed.connect(self._key)
        self.typed.installEventFilter(self)
        for name, field in self.fields.items():
            field.editingFinished.connect(lambda n=name: self._set_field(n))

    # Showing

    @property
    def main_widget(self) -> QWidget:
        """What takes the keyboard: the field for readings, or with a scale connected what it shows."""
        return self.reading if self.session.connected else self.typed

    def follow(self, parts: tuple[Part, ...]) -> None:
        """Offer what is chosen in the kit; lay it on the bench if nothing is in hand there."""
        if [part.id for part in parts] != [part.id for part in self.parts] or parts != self.parts:
            self.parts = parts
        if self.isVisible():
            self._lay_chosen()
            self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._lay_chosen()
        self.refresh()

    def _lay_chosen(self) -> None:
        """Lay what is chosen in the kit on the bench unless readings would be lost."""
        key, ids = self.session.choice
        chosen = tuple(part.id for part in self.parts)
        busy = self.session.procedure is not None and bool(self.session.procedure.readings)
        if busy or not chosen or key == "rig" or ids == chosen:
            return
        self.session.put("part" if len(chosen) == 1 else "parts", chosen)

    def bring(self, key: str, part_ids: tuple[str, ...], setup: Setup | None = None) -> None:
        """Lay something on the bench whatever is chosen, and choose how to measure it."""
        self.session.put(key, part_ids)
        if setup is not None:
            self.session.choose_setup(setup)
        self.refresh()

    def refresh(self) -> None:
        """Show set-up, picture and readings as they are now."""
        if not self.isVisible():
            return
        procedure = self.session.procedure
        self.model = bench_model(procedure, self.workspace.system) if procedure is not None else None
        self._fill_boxes()
        self._fill_fields()
        self._draw_picture()
        self.show_reading()

    def _fill_boxes(self) -> None:
        self._choices = choices(self.parts, self.workspace.analysis())
        key, ids = self.session.choice
        words = [choice.words for choice in self._choices]
        current = next((i for i, choice in enumerate(self._choices) if choice.key == key), -1)
        if key and (current < 0 or (key != "rig" and ids != tuple(part.id for part in self.parts))):
            # What lies there is no longer what is chosen: readings keep it there.
            name = self.session.taken.subject.name if self.session.taken is not None else ""
            words.append(name)
            current = len(words) - 1
        _fill(self.subject_box, words, current)
        setups = LOOSE_SETUPS if self.session.taken is not None and self.session.taken.loose else tuple(Setup)
        names = [setup.value[:1].upper() + setup.value[1:] for setup in setups]
        _fill(self.setup_box, names, setups.index(self.session.setup) if self.session.setup in setups else 0)
        scales = self.workspace.book.instruments
        scale_words = [scale.name for scale in scales] + ["Scale read by eye", "Change this scale…", "Add a scale…"]
        at = next((i for i, scale in enumerate(scales) if scale is self.session.scale), len(scales))
        _fill(self.scale_box, scale_words, at)
        self.connect_button.setText("Disconnect" if self.session.connected else "Connect")
        self.connect_button.setEnabled(bool(self.session.scale.port))

    def _fill_fields(self) -> None:
        procedure = self.session.procedure
        wanted = SETUP_FIELDS[procedure.setup] if procedure is not None else ()
        per_row = 4 if self.width() >= 700 * text_scale() else 2
        for place, name in enumerate(wanted):
            row, column = divmod(place, per_row)
            self._field_grid.addWidget(self._captions[name], row, 2 * column)
            self._field_grid.addWidget(self.fields[name], row, 2 * column + 1)
        for name, field in self.fields.items():
            shown = name in wanted
            field.setVisible(shown)
            self._captions[name].setVisible(shown)
            if shown and procedure is not None and not field.hasFocus():
                field.setText(layout_text(name, procedure.layout, self.workspace.system))

    def _draw_picture(self) -> None:
        procedure = self.session.procedure
        width, height = self.picture.scene_width, self.picture.scene_height
        if width < 80 or height < 60 or not self.isVisible():
            return
        if procedure is None:
            scene = Scene()
            scene.text(width / 2, height / 2, "Nothing on the bench.", 16, 600, "ink2", Anchor.MIDDLE)
            scene.text(width / 2, height / 2 + 20, "Choose a part above. Press B.", 13, 400, "ink3", Anchor.MIDDLE)
            self.picture.show_scene(scene)
            return
        last = self.session.trace.last
        shown = last.value if last is not None else None
        self.picture.show_scene(draw_bench(procedure, self.session.laid, self.workspace.system, shown, width, height))

    def show_reading(self) -> None:
        """Show what the scale says now."""
        session, model = self.session, self.model
        if model is None or not self.isVisible():
            self.reading.show_scene(Scene())
            for widget in (self.typed, self.take_button, self.store_button, self.back_button):
                widget.setEnabled(False)
            return
        last = session.trace.last
        step = session.procedure.current if session.procedure is not None else None
        weighs = step is None or step.unit is Unit.MASS
        system = self.workspace.system
        text = "" if last is None else exact(last.value, Kind.MASS, system, unit=False)
        unit = unit_of(Kind.MASS, system)
        if not weighs:
            text = ""
        live = session.connected and weighs
        trace = session.trace if weighs else Trace(session.scale.step)
        lost = session.problem
        if lost and session.lost_at:
            lost = f"lost at {session.lost_at}"
        hint = "Type each reading, or connect the scale."
        if not weighs:
            hint = "Type what you read."
        elif not session.scale.port:
            hint = "Type what the scale shows."
        scene = draw_reading(
            model, trace, text, unit, live, lost, hint, system, self.reading.scene_width, self.reading.scene_height
        )
        self.reading.show_scene(scene)
        self.reading.setAccessibleDescription(f"{model.heading}, {text} {unit}")
        self._show_buttons(model, step is None, live)
        if session.connected and weighs:
            self._draw_picture()

    def _show_buttons(self, model: BenchModel, finished: bool, live: bool) -> None:
        self.typed.setEnabled(True)
        self.typed.setPlaceholderText("Enter stores it" if finished else "or type it")
        far = self.session.far_words
        self.far_note.setText(far)
        self.far_note.setVisible(bool(far))
        self.store_button.setText("Keep it" if far else "Store")
        self.back_button.setText("Read again" if far else "Take back")
        self.take_button.setVisible(not finished and live)
        self.take_button.setText("Read the scale" if self.session.may_take else "Wait: the reading still moves")
        self.take_button.setEnabled(True)
        self.store_button.setVisible(model.complete and not (live and not finished))
        self.store_button.setEnabled(model.complete)
        self.back_button.setEnabled(self.session.procedure is not None and bool(self.session.procedure.readings))

    # Acting

    def take(self) -> None:
        """Take the scale's reading, if it is steady."""
        self.session.take()
        self.reading.setFocus()

    def store(self) -> None:
        """Store what came out, and go on with the next part."""
        if self.session.store():
            self.stored.emit()

    def _type(self) -> None:
        if not self.typed.text().strip():
            if self.model is not None and self.model.complete:
                self.store()
                self.typed.setFocus()
            return
        if self.session.procedure is not None and self.session.procedure.current is None:
            self.session.repeat()  # all are taken: what is typed now replaces the last
        try:
            self.session.type_reading(self.typed.text())
        except EquilixError as error:
            refuse_at(self.typed, readable(str(error), self.workspace.system))
            return
        self.typed.clear()

    def _press_step(self, key: tuple[str, ...], _x: float, _y: float) -> None:
        if key and key[0] == "step":
            self.session.repeat(key[1])

    def _choose_subject(self, index: int) -> None:
        if index < len(self._choices):
            choice = self._choices[index]
            self.session.put(choice.key, tuple(part.id for part in self.parts) if choice.key != "rig" else ())

    def _choose_setup(self, index: int) -> None:
        setups = LOOSE_SETUPS if self.session.taken is not None and self.session.taken.loose else tuple(Setup)
        self.session.choose_setup(setups[index])

    def _choose_scale(self, index: int) -> None:
        scales = self.workspace.book.instruments
        if index < len(scales):
            self.session.choose_scale(scales[index].id)
        elif index == len(scales):
            self.session.choose_scale("eye")
        else:
            self.scale_wanted.emit(index == len(scales) + 1)
            self.refresh()

    def _switch_scale(self) -> None:
        if self.session.connected:
            self.session.disconnect_scale()
        else:
            self.session.connect_scale()
        self.reading.setFocus()

    def _set_field(self, name: str) -> None:
        procedure, field = self.session.procedure, self.fields[name]
        if procedure is None or not field.isVisible():
            return
        if field.text() == layout_text(name, procedure.layout, self.workspace.system):
            return
        try:
            value = parse_layout(name, field.text(), self.workspace.system)
        except EditError as error:
            refuse_at(field, readable(str(error), self.workspace.system))
            return
        self.session.set_layout(**{name: value})

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.typed and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            if control and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.take()
                return True
            if event.key() == Qt.Key.Key_Backspace and not self.typed.text():
                self.session.repeat()
                return True
        return False

    def _key(self, event: QKeyEvent) -> None:
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if event.key() == Qt.Key.Key_Space or (control and enter):
            self.take()
        elif enter and self.model is not None and self.model.complete:
            self.store()
        elif event.key() == Qt.Key.Key_Backspace:
            self.session.repeat()
        elif event.text() and event.text() in "0123456789.-−" and self.typed.isEnabled():
            self.typed.setFocus()
            self.typed.insert(event.text())
        else:
            return
        event.accept()


def _fill(box: QComboBox, words: list[str], current: int) -> None:
    """Put `words` in a list and show number `current`, touching it only if something differs."""
    if [box.itemText(i) for i in range(box.count())] != words:
        box.clear()
        box.addItems(words)
    if box.currentIndex() != current:
        box.setCurrentIndex(current)
