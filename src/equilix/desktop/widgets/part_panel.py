"""The chosen part of the kit: drawn to scale, its mounts, and where its figures come from."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from equilix.core.kit.parts import Foot, Mount, Part, Point
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.labels import OneLine
from equilix.desktop.widgets.mount_table import MountTable
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.workspace import Workspace
from equilix.document.edits.kit import ChangePart, DuplicatePart, RemoveParts
from equilix.present.drawing.scene import Scene
from equilix.present.drawing.silhouettes import View
from equilix.present.kit.history import provenance_words
from equilix.present.kit.part_preview import draw_part_preview


class PartPanel(QWidget):
    """Shows the part chosen in the kit and changes what it mounts on."""

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.preview = SceneView("The part, to scale", self)
        self.mounts = MountTable(workspace, self)
        self.title = OneLine("ink", 16, 600, least=round(150 * text_scale()))
        self.note = OneLine("ink3")
        self.duplicate = QPushButton("Duplicate")
        set_tip(self.duplicate, "Ctrl+Shift+D")
        self.remove = QPushButton("Remove")
        set_tip(self.remove, "Removes it from the kit (Delete)")
        self.kind = QPushButton("Kind…")
        set_tip(self.kind, "What it is, and whether this book remembers it")
        self.history = QPushButton("History…")
        set_tip(self.history, "Every value its figures have had")
        self.mount_buttons: list[QPushButton] = []
        self._lay_out()
        self.preview.resized.connect(self.draw)
        self.preview.pressed.connect(self._press)
        self.preview.dragged.connect(self._drag)
        self.preview.released.connect(self._release)
        self.preview.key_pressed.connect(self._key)
        self.mounts.selectionModel().currentRowChanged.connect(lambda *_ignored: self.draw())
        self._grab: tuple[float, float, Point] | None = None
        self.duplicate.clicked.connect(self._duplicate)
        self.remove.clicked.connect(self._remove)
        self.history.clicked.connect(self.show_history)
        self.kind.clicked.connect(self.say_kind)

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        head = QHBoxLayout()
        head.setContentsMargins(0, 2, 0, 4)
        head.setSpacing(10)
        head.addWidget(self.title)
        head.addWidget(self.note)
        head.addStretch(1)
        for button in (self.kind, self.history, self.duplicate, self.remove):
            head.addWidget(button)
        layout.addLayout(head)
        lower = QHBoxLayout()
        lower.setSpacing(16)
        self.preview.setMinimumWidth(150)
        lower.addWidget(self.preview, 3)
        side = QVBoxLayout()
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(4)
        side.addWidget(self.mounts, 1)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 6)
        for text, tip, slot in (
            ("+ held by", "Adds a mount that holds this part", lambda: self.mounts.mount_model.add(False)),
            ("+ takes", "Adds a mount for other parts", lambda: self.mounts.mount_model.add(True)),
            ("+ slide", "Adds a mount on which parts slide", lambda: self.mounts.mount_model.add(True, True)),
            ("−", "Removes the chosen row", self._remove_mount),
        ):
            button = QPushButton(text)
            set_tip(button, tip)
            button.setAccessibleName(tip)
            button.clicked.connect(slot)
            self.mount_buttons.append(button)
            row.addWidget(button)
        side.addLayout(row)
        holder = QWidget()
        holder.setMaximumWidth(round(352 * text_scale()))
        holder.setLayout(side)
        lower.addWidget(holder, 3)
        layout.addLayout(lower, 1)

    @property
    def part(self) -> Part | None:
        """The part chosen in the kit."""
        return self.workspace.book.parts.get(self.workspace.kit_selected)

    def refresh(self) -> None:
        """Show the chosen part as it is now."""
        part = self.part
        self.mounts.restyle()
        self.mounts.mount_model.show_part(part)
        for widget in (self.kind, self.duplicate, self.remove, self.history, self.mounts, *self.mount_buttons):
            widget.setVisible(part is not None)
        self.title.setText(part.name if part is not None else "")
        self.note.setText(provenance_words(part) if part is not None else "")
        self.note.tell(part.note if part is not None else "")
        self.history.setEnabled(part is not None and bool(part.records))
        self.draw()

    def draw(self) -> None:
        """Draw the part for the widget's present size."""
        part = self.part
        if part is None or self.preview.scene_width < 60:
            self.preview.show_scene(Scene())
            return
        size = (self.preview.scene_width, self.preview.scene_height)
        self.preview.show_scene(draw_part_preview(part, self.workspace.system, *size, self.chosen))
        tip = "Drag it, or use the arrow keys: 1 mm, with Shift 10 mm. Page Up and Down: sideways"
        places: list[Foot | Mount] = [*part.feet, *part.mounts]
        self.preview.tips = {
            region.key: f"{places[int(region.key[1])].kind}. {tip}"
            for region in self.preview.scene.regions
            if region.key[0] == "place"
        }

    # Feet and mounts on the picture

    @property
    def chosen(self) -> int:
        """The row of the chosen foot or mount, -1 for none."""
        row = self.mounts.currentIndex().row()
        return row if self.mounts.mount_model.item(row) is not None else -1

    def _choose(self, row: int) -> None:
        self.mounts.setCurrentIndex(self.mounts.mount_model.index(row, 1))

    def _press(self, key: tuple[str, ...], x: float, y: float) -> None:
        self._grab = None
        if key and key[0] == "place":
            self._choose(int(key[1]))
            item = self.mounts.mount_model.item(int(key[1]))
            if item is not None:
                self.workspace.close_group()
                self._grab = (x, y, item.at)

    def _drag(self, key: tuple[str, ...], x: float, y: float) -> None:
        if self._grab is None or not key or key[0] != "place":
            return
        from_x, from_y, at = self._grab
        scale = float(key[3])
        forward, up = (x - from_x) / scale, (from_y - y) / scale
        sideways = key[2] == View.TOP.value
        # The view from above has the left side up.
        self._move_to(int(key[1]), (at[0] + forward, at[1] + up * sideways, at[2] + up * (not sideways)))

    def _release(self, _key: tuple[str, ...], _x: float, _y: float) -> None:
        self._grab = None
        self.workspace.close_group()

    def _move_to(self, row: int, at: Point) -> None:
        """Put a foot or mount at a place (m, the part's own frame), to the millimetre."""
        item, part = self.mounts.mount_model.item(row), self.part
        x, y, z = (round(value, 3) for value in at)
        if item is None or part is None or item.at == (x, y, z):
            return
        feet, mounts = list(part.feet), list(part.mounts)
        if isinstance(item, Foot):
            feet[row] = replace(item, at=(x, y, z))
        else:
            mounts[row - len(feet)] = replace(item, at=(x, y, z))
        changed = replace(part, feet=tuple(feet), mounts=tuple(mounts))
        self.workspace.apply(ChangePart(changed, "mounts", merges=True))
        self._choose(row)

    def _key(self, event: QKeyEvent) -> None:
        step = 0.010 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.001
        ways = {
            Qt.Key.Key_Left: (-1, 0, 0),
            Qt.Key.Key_Right: (1, 0, 0),
            Qt.Key.Key_Up: (0, 0, 1),
            Qt.Key.Key_Down: (0, 0, -1),
            Qt.Key.Key_PageUp: (0, 1, 0),
            Qt.Key.Key_PageDown: (0, -1, 0),
        }
        rows = self.mounts.mount_model.rowCount()
        key = Qt.Key(event.key())
        item = self.mounts.mount_model.item(self.chosen) if self.chosen >= 0 else None
        if key in (Qt.Key.Key_BracketLeft, Qt.Key.Key_BracketRight) and rows:
            self._choose((max(self.chosen, 0) + (1 if key == Qt.Key.Key_BracketRight else -1)) % rows)
        elif key == Qt.Key.Key_Delete and item is not None:
            self._remove_mount()
        elif key in ways and item is not None:
            x, y, z = (place + step * way for place, way in zip(item.at, ways[key], strict=True))
            self._move_to(self.chosen, (x, y, z))
        else:
            return
        event.accept()

    def show_history(self) -> None:
        """Show all values that the part's figures have had."""
        from equilix.desktop.dialogs.forms import HistoryDialog

        if self.part is not None:
            HistoryDialog(self.part, self.workspace.system, self.window()).exec()

    def say_kind(self) -> None:
        """Let it be said what the part is."""
        from equilix.desktop.dialogs.kind import KindDialog

        if self.part is None:
            return
        dialog = KindDialog(self.part, self.workspace.book, self.window())
        if dialog.exec() != KindDialog.DialogCode.Accepted:
            return
        edit = dialog.forgetting() if dialog.removed else dialog.edit
        if edit is not None:
            self.workspace.apply(edit)

    def _duplicate(self) -> None:
        if self.workspace.kit_selected:
            self.workspace.apply(DuplicatePart(self.workspace.kit_selected))

    def _remove(self) -> None:
        if self.workspace.kit_selected:
            gone = (self.workspace.kit_selected,)
            QTimer.singleShot(0, lambda: self.workspace.apply(RemoveParts(gone)))

    def _remove_mount(self) -> None:
        row = self.mounts.currentIndex().row()
        if row >= 0:
            self.mounts.mount_model.replace_item(row, None)
