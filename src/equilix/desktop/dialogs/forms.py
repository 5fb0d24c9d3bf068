"""Small windows: an operator's figures, a name, and the catalogue of typical parts."""

from __future__ import annotations

import math
import re

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from equilix.core.assembly.build import Build, Kit, Operator, Sex, Side
from equilix.core.chosen import settings_of, with_settings
from equilix.core.errors import EditError, EquilixError
from equilix.core.kit.parts import Part
from equilix.core.kit.records import Instrument, ScaleKind
from equilix.core.records import Field, fields_of
from equilix.core.support import with_values
from equilix.core.units import Kind, to_display
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain import as_item, as_title, set_tip
from equilix.document.book import Book
from equilix.io.shipped import catalogue
from equilix.present.kit.history import history_rows
from equilix.present.kit.table import matches, size_text
from equilix.present.supports import text_for
from equilix.present.units import System, figure, parse


class FormDialog(QDialog):
    """Fields above OK and Cancel, with room for a sentence when a field can't be read.

    With `removable` there is a button that closes it with `removed` set: what it shows is not wanted any more.
    """

    def __init__(self, title: str, parent: QWidget | None, removable: bool = False) -> None:
        super().__init__(parent)
        self.removed = False
        self.setWindowTitle(title)
        self.setMinimumWidth(380)
        self._column = QVBoxLayout(self)
        self.form = QFormLayout()
        self._column.addLayout(self.form)
        self.problem: QLabel = label("", 13, 500, "fwdT", wrap=True)
        self._column.addWidget(self.problem)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        if removable:
            self.remove = buttons.addButton("Remove", QDialogButtonBox.ButtonRole.DestructiveRole)
            self.remove.clicked.connect(self._remove)
        self._column.addWidget(buttons)

    def _remove(self) -> None:
        self.removed = True
        QDialog.accept(self)


class OperatorDialog(FormDialog):
    """Name, proportions, the shoulder that the rig rests on, and how strong: from tables or measured."""

    def __init__(
        self, operator: Operator, system: System, parent: QWidget | None = None, removable: bool = False
    ) -> None:
        super().__init__("Operator", parent, removable)
        self.result_operator = operator
        self._system = system
        self.name = QLineEdit(operator.name)
        self.stature = QLineEdit(figure(operator.stature, Kind.STATURE, system))
        self.body_mass = QLineEdit(figure(operator.body_mass, Kind.MASS, system))
        self.side = QComboBox()
        self.side.addItems([f"{side.value} shoulder" for side in Side])
        self.side.setCurrentIndex(list(Side).index(operator.shoulder))
        self.sex = QComboBox()
        self.sex.addItems([sex.value for sex in Sex])
        self.sex.setCurrentIndex(list(Sex).index(operator.sex))
        self.strength = QLineEdit(strength_text(operator))
        set_tip(self.strength, "Percent of the mean, such as 110 %, or a percentile, such as 25th")
        for caption, field in (
            ("Name", self.name),
            ("Height", self.stature),
            ("Body mass", self.body_mass),
            ("Shoulder the rig sits on", self.side),
            ("Strength table", self.sex),
            ("Strength: % of the mean, or percentile", self.strength),
        ):
            self.form.addRow(caption, field)
        self.form.addRow(label("Measured on the operator. Empty: taken from the tables", 13, 400, "ink2"))
        self.measured: dict[str, QLineEdit] = {}
        for caption, name, kind in self._MEASURED:
            value = getattr(operator, name)
            field = QLineEdit("" if value is None else figure(value, kind, system))
            field.setPlaceholderText("not measured: from the table")
            self.measured[name] = field
            self.form.addRow(caption, field)

    _MEASURED = (
        ("Shoulder height, without shoes", "shoulder_height", Kind.STATURE),
        ("Eye height, without shoes", "eye_height", Kind.STATURE),
        ("Reach, shoulder to grip", "reach", Kind.STATURE),
        ("Grip strength", "grip_strength", Kind.FORCE),
    )

    def accept(self) -> None:
        operator = self.result_operator
        try:
            measured = {
                name: parse(self.measured[name].text(), kind, self._system)
                if self.measured[name].text().strip()
                else None
                for _, name, kind in self._MEASURED
            }
            strength, percentile = operator.strength, operator.percentile
            if self.strength.text() != strength_text(operator):
                strength, percentile = parse_strength(self.strength.text())
            self.result_operator = replace(
                operator,
                name=self.name.text().strip(),
                stature=parse(self.stature.text(), Kind.STATURE, self._system),
                body_mass=parse(self.body_mass.text(), Kind.MASS, self._system),
                shoulder=list(Side)[self.side.currentIndex()],
                sex=list(Sex)[self.sex.currentIndex()],
                strength=strength,
                percentile=percentile,
                shoulder_height=measured["shoulder_height"],
                eye_height=measured["eye_height"],
                reach=measured["reach"],
                grip_strength=measured["grip_strength"],
            )
        except EquilixError as error:
            self.problem.setText(str(error))
            return
        super().accept()


_PERCENTILE = re.compile(r"^\s*(?:(\d+(?:[.,]\d+)?)\s*(?:st|nd|rd|th)|p\s*(\d+(?:[.,]\d+)?))\s*$", re.IGNORECASE)


def parse_strength(text: str) -> tuple[float, float]:
    """Return factor and percentile from "110 %", "25th" or "P25".

    Raises
    ------
    EditError
        If it is none of these.
    """
    match = _PERCENTILE.match(text)
    if match is not None:
        return 1.0, float((match[1] or match[2]).replace(",", "."))
    return _plain(text.rstrip("% "), "strength", "110 %, or a percentile such as 25th") / 100.0, 50.0


def strength_text(operator: Operator) -> str:
    """Return an operator's strength as one would type it."""
    if operator.percentile == 50.0:
        return f"{100.0 * operator.strength:.0f} %"
    number = f"{operator.percentile:g}"
    teen = number[-2:] in ("11", "12", "13")
    return number + ("th" if teen else {"1": "st", "2": "nd", "3": "rd"}.get(number[-1], "th"))


class BuildDialog(FormDialog):
    """Name, note, and what its support has to be told, as how the rig rests on the shoulder."""

    def __init__(self, build: Build, kit: Kit, system: System, parent: QWidget | None = None) -> None:
        super().__init__("Build", parent)
        self.result_build = build
        self._system = system
        self._view, settings = text_for(build.support), settings_of(build, build.support)
        self.name = QLineEdit(build.name)
        self.note = QLineEdit(build.note)
        self.form.addRow("Name", self.name)
        self.form.addRow("Note", self.note)
        self.mount_limit = QLineEdit(figure(build.mount_limit, Kind.MOMENT, system))
        set_tip(self.mount_limit, "A lens that hangs on its mount alone and bends it more is warned of")
        self.form.addRow("Lens mount takes, at most", self.mount_limit)
        self.fields: dict[str, QLineEdit] = {}
        self._places = self._view.places(build, kit)
        self.place = QComboBox()
        if self._places:
            self.place.addItems([as_item(words) for words, _ in self._places])
            chosen = self._view.place(settings)
            self.place.setCurrentIndex(next((k for k, (_, p) in enumerate(self._places) if p == chosen), 0))
            self.form.addRow(self._view.place_word, self.place)
        self.sizes = QComboBox()
        if self._view.sizes:
            self.sizes.addItems(["your own figures", *(name for name, _ in self._view.sizes)])
            self.sizes.activated.connect(self._take_size)
            self.form.addRow("Size of the support", self.sizes)
        self._fields = tuple(one for one in fields_of(settings) if one.setting.caption)
        for field in self._fields:
            self.fields[field.name] = QLineEdit(self._shown(getattr(settings, field.name), field))
            self.form.addRow(field.setting.caption, self.fields[field.name])

    def _take_size(self, index: int) -> None:
        if index > 0:
            values = self._view.sizes[index - 1][1]
            for field in self._fields:
                if field.name in values:
                    self.fields[field.name].setText(self._shown(values[field.name], field))

    def _shown(self, value: float | None, field: Field) -> str:
        kind = field.setting.kind
        if value is None:
            return ""
        if field.yes:
            return "yes" if value else "no"
        return f"{value:g}" if kind is None else figure(value, kind, self._system)

    def _typed(self, field: Field) -> float | bool | None:
        text, kind, caption = self.fields[field.name].text(), field.setting.kind, field.setting.caption
        if field.optional and not text.strip():
            return None
        if field.yes:
            return _yes(text, caption)
        if kind is Kind.ANGLE:
            return math.radians(_plain(text.rstrip("° "), f"number for “{caption}”", "20°"))
        return _plain(text, f"number for “{caption}”", "0.5") if kind is None else parse(text, kind, self._system)

    def accept(self) -> None:
        build = self.result_build
        try:
            build = with_values(build, build.support, {field.name: self._typed(field) for field in self._fields})
            if self._places:
                place = self._places[self.place.currentIndex()][1]
                settings = self._view.with_place(settings_of(build, build.support), place)
                build = with_settings(build, settings)
            most = parse(self.mount_limit.text(), Kind.MOMENT, self._system)
            build = replace(build, name=self.name.text().strip(), note=self.note.text().strip(), mount_limit=most)
            self.result_build = build
        except EquilixError as error:
            self.problem.setText(str(error))
            return
        super().accept()


def _yes(text: str, what: str) -> bool:
    said = text.strip().lower()
    if said not in ("yes", "no", "y", "n", "1", "0"):
        raise EditError(f"“{what}” takes yes or no, not “{text.strip()[:30]}”.")
    return said in ("yes", "y", "1")


def _plain(text: str, what: str, example: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise EditError(f'"{text.strip()[:30]}" is not a {what}. Type one, such as {example}.') from None


class NameDialog(FormDialog):
    """One name, with a note of what it is for above it."""

    def __init__(self, title: str, name: str, parent: QWidget | None = None, note: str = "") -> None:
        super().__init__(title, parent)
        if note:
            self.form.addRow(label(note, 13, 400, "ink2", wrap=True))
        self.name = QLineEdit(name)
        self.name.selectAll()
        self.form.addRow("Name", self.name)

    def accept(self) -> None:
        if not self.name.text().strip():
            self.problem.setText("The name is empty. Type one.")
            return
        super().accept()


class CatalogueDialog(QDialog):
    """Typical parts to put in the kit, by kind, with a search; `chosen_parts` are the ticked ones."""

    def __init__(self, book: Book, system: System, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Typical parts")
        self.resize(720, 560)
        column = QVBoxLayout(self)
        column.addWidget(label("Common-practice estimates for a first build. Weigh what you keep.", 14, 400, "ink2"))
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a part")
        self.search.textChanged.connect(self._filter)
        self.search.returnPressed.connect(self._to_first)
        self.search.setAccessibleName("Find a part")
        column.addWidget(self.search)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("Typical parts")
        self.tree.setHeaderLabels(["part", "mass", "size", "in the kit"])
        self.tree.setColumnWidth(0, 360)
        column.addWidget(self.tree)
        self._items: list[tuple[QTreeWidgetItem, Part]] = []
        groups: dict[str, QTreeWidgetItem] = {}
        for part in catalogue():
            group = groups.get(part.category.value)
            if group is None:
                group = QTreeWidgetItem(self.tree, [part.category.value])
                groups[part.category.value] = group
            owned = part.id in book.parts
            mass = "" if part.mass is None else f"≈ {figure(part.mass, Kind.MASS, system)}"
            item = QTreeWidgetItem(group, [part.name, mass, size_text(part, system), "yes" if owned else ""])
            item.setCheckState(0, Qt.CheckState.Unchecked)
            item.setDisabled(owned)
            self._items.append((item, part))
        self.tree.expandAll()
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.add = buttons.addButton("Put the ticked parts in the kit", QDialogButtonBox.ButtonRole.AcceptRole)
        for button in buttons.findChildren(QPushButton):
            button.setAutoDefault(False)  # Enter in the search finds, and adds nothing
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.tree.itemChanged.connect(lambda _item, _column: self._count())
        self._count()

    def _count(self) -> None:
        count = len(self.chosen_parts)
        self.add.setText(
            f"Put {count} part{'' if count == 1 else 's'} in the kit" if count else "Put the ticked parts in the kit"
        )
        self.add.setEnabled(count > 0)

    def _to_first(self) -> None:
        """Go from the search to the first part that it left."""
        first = next((item for item, _ in self._items if not item.isHidden()), None)
        if first is not None:
            self.tree.setCurrentItem(first)
            self.tree.setFocus()

    @property
    def chosen_parts(self) -> tuple[Part, ...]:
        """The ticked parts."""
        return tuple(part for item, part in self._items if item.checkState(0) == Qt.CheckState.Checked)

    def tick(self, part_id: str) -> None:
        """Tick the part called `part_id`."""
        for item, part in self._items:
            if part.id == part_id:
                item.setCheckState(0, Qt.CheckState.Checked)

    def _filter(self, words: str) -> None:
        for item, part in self._items:
            item.setHidden(not matches(part, words))
        for i in range(self.tree.topLevelItemCount()):
            group = self.tree.topLevelItem(i)
            if group is not None:
                members = [item for item, _ in self._items if item.parent() is group]
                group.setHidden(all(item.isHidden() for item in members))


class InstrumentDialog(FormDialog):
    """A scale: what it carries, its step and accuracy, and where it speaks."""

    def __init__(
        self, instrument: Instrument, system: System, parent: QWidget | None = None, removable: bool = False
    ) -> None:
        super().__init__("Scale", parent, removable)
        self.result_instrument = instrument
        self._system = system
        self.name = QLineEdit(instrument.name)
        self.kind = QComboBox()
        self.kind.addItems([kind.value for kind in ScaleKind])
        self.kind.setCurrentIndex(list(ScaleKind).index(instrument.kind))
        self.capacity = QLineEdit(figure(instrument.capacity, Kind.MASS, system))
        self.step = QLineEdit(_fine_mass(instrument.step, system))
        self.accuracy = QLineEdit(f"{100.0 * instrument.accuracy:g} %")
        self.port = QComboBox()
        self.port.setEditable(True)
        self.port.addItems(["", "simulated", *_serial_devices()])
        self.port.setCurrentText(instrument.port)
        set_tip(self.port, "Empty: you read it by eye. Else a serial device, or socket://127.0.0.1:PORT")
        self.checked = QLineEdit(instrument.checked)
        self.checked.setPlaceholderText("such as: 1 kg block, 08:10")
        for caption, field in (
            ("Name", self.name),
            ("Kind", self.kind),
            ("Most it carries", self.capacity),
            ("Display step", self.step),
            ("Accuracy, share of the reading", self.accuracy),
            ("Port", self.port),
            ("Checked with, at", self.checked),
        ):
            self.form.addRow(caption, field)

    def accept(self) -> None:
        try:
            port = self.port.currentText().strip()
            if port and port != "simulated":
                from equilix.devices.line_scale import check_port

                check_port(port)
            self.result_instrument = replace(
                self.result_instrument,
                name=self.name.text().strip(),
                kind=list(ScaleKind)[self.kind.currentIndex()],
                capacity=parse(self.capacity.text(), Kind.MASS, self._system),
                step=parse(self.step.text(), Kind.MASS, self._system),
                accuracy=_plain(self.accuracy.text().rstrip("% "), "percentage", "0.5 %") / 100.0,
                port=port,
                checked=self.checked.text().strip(),
            )
        except EquilixError as error:
            self.problem.setText(str(error))
            return
        super().accept()


def _fine_mass(value: float, system: System) -> str:
    if system is System.METRIC:
        return f"{value * 1000.0:g} g"
    return f"{to_display(value, 'oz'):.3g} oz"


def _serial_devices() -> tuple[str, ...]:
    from equilix.devices.line_scale import serial_devices

    return serial_devices()


class HistoryDialog(QDialog):
    """All values that a part's figures have had, newest first."""

    def __init__(self, part: Part, system: System, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(as_title(f"History of {part.name}"))
        self.resize(720, 360)
        column = QVBoxLayout(self)
        column.addWidget(label(f"{part.name}: where its figures come from. Newest first", 14, 600))
        self.tree = QTreeWidget()
        self.tree.setRootIsDecorated(False)
        self.tree.setHeaderLabels(["figure", "value", "known by", "how, on which scale, by whom", "when"])
        for row in history_rows(part, system):
            QTreeWidgetItem(self.tree, [row.quantity, row.value, row.known, row.how, row.when])
        for i, width in enumerate((120, 130, 80, 240)):
            self.tree.setColumnWidth(i, width)
        column.addWidget(self.tree)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
