"""The bench as it is laid out: choices, picture, fields, reading and buttons."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.widgets.scene_view import SceneView
from equilix.present.weigh.bench_view import FIELD_TIPS, FIELD_WORDS


class BenchForm(QWidget):
    """`bar` holds the choices of part, set-up and scale, to be put where there is room."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.subject_box = QComboBox()
        self.setup_box = QComboBox()
        self.scale_box = QComboBox()
        self.connect_button = QPushButton("Connect")
        self.fields: dict[str, QLineEdit] = {}
        self._captions: dict[str, QLabel] = {}
        self.picture = SceneView("How to set it up", self)
        self.reading = SceneView("What the scale shows", self)
        self.typed = QLineEdit()
        self.take_button = QPushButton("Read the scale")
        self.back_button = QPushButton("Take back")
        self.store_button = QPushButton("Store")
        self.far_note = label("", 13, 600, "fwdT", wrap=True)
        self.far_note.hide()
        self._lay_out()

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 8)
        layout.setSpacing(2)
        self.bar = QWidget(self)
        head = QHBoxLayout(self.bar)
        head.setContentsMargins(0, 0, 0, 0)
        head.setSpacing(6)
        for box, name, least in (
            (self.subject_box, "What lies on the bench", 90),
            (self.setup_box, "How to measure", 90),
            (self.scale_box, "Scale", 90),
        ):
            box.setAccessibleName(name)
            set_tip(box, name)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumWidth(least)
        head.addWidget(self.subject_box, 4)
        head.addWidget(self.setup_box, 3)
        head.addWidget(self.scale_box, 3)
        head.addWidget(self.connect_button)
        middle = QHBoxLayout()
        middle.setSpacing(24)
        left = QVBoxLayout()
        left.setSpacing(2)
        left.addWidget(self.picture, 1)
        self._field_grid = QGridLayout()
        self._field_grid.setHorizontalSpacing(6)
        self._field_grid.setVerticalSpacing(2)
        self._field_grid.setColumnStretch(20, 1)
        for name in ("span", "origin", "rise", "tilt", "hooks"):
            caption = label(FIELD_WORDS[name], 13, 400, "ink2")
            caption.setParent(self)
            field = QLineEdit(self)
            field.setAccessibleName(FIELD_WORDS[name])
            set_tip(field, FIELD_TIPS[name])
            set_tip(caption, FIELD_TIPS[name])
            field.setFixedWidth(round((230 if name == "hooks" else 66) * text_scale()))
            self._captions[name], self.fields[name] = caption, field
        left.addLayout(self._field_grid)
        middle.addLayout(left, 57)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(self.reading, 1)
        right.addWidget(self.far_note)
        buttons = QHBoxLayout()
        buttons.setSpacing(6)
        self.typed.setAccessibleName("Reading you type")
        self.typed.setMinimumWidth(70)
        self.take_button.setProperty("role", "apply")
        set_tip(self.take_button, "Space, or Ctrl+Enter")
        set_tip(self.back_button, "Repeats the last step (Backspace)")
        self.store_button.setProperty("role", "apply")
        set_tip(self.store_button, "Stores the result and goes on (Enter)")
        buttons.addWidget(self.typed, 1)
        buttons.addWidget(self.take_button)
        buttons.addWidget(self.store_button)
        buttons.addWidget(self.back_button)
        right.addLayout(buttons)
        middle.addLayout(right, 43)
        layout.addLayout(middle, 1)
        self.picture.setMinimumSize(120, 60)
        self.reading.setMinimumSize(round(268 * text_scale()), 60)
