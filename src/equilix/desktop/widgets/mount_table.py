"""What a part needs and offers, as a small table that is typed into."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import QComboBox, QStyledItemDelegate, QStyleOptionViewItem, QTableView, QWidget

from equilix.core.errors import AssemblyError, EditError
from equilix.core.kit.parts import Connection, Foot, Mount, MountKind, Part
from equilix.core.units import Kind
from equilix.desktop.looks.theme import font, text_scale
from equilix.desktop.widgets.plain import as_tip
from equilix.desktop.workspace import Workspace
from equilix.document.edits.kit import ChangePart
from equilix.present.units import figure, parse, unit_of

_Index = QModelIndex | QPersistentModelIndex
_KIND, _X, _Y, _Z, _FROM, _TO = 1, 2, 3, 4, 5, 6


class MountModel(QAbstractTableModel):
    """Rows: the feet of the part, then the mounts that it offers."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.part: Part | None = None

    def show_part(self, part: Part | None) -> None:
        """Show `part`'s mounts; the chosen row stays while only figures have changed."""
        old = self.part
        same = part is not None and old is not None and part.id == old.id
        if same and (len(part.feet), len(part.mounts)) == (len(old.feet), len(old.mounts)):  # type: ignore[union-attr]
            self.part = part
            if self.rowCount():
                self.dataChanged.emit(self.index(0, 0), self.index(self.rowCount() - 1, self.columnCount() - 1))
            return
        self.beginResetModel()
        self.part = part
        self.endResetModel()

    def rowCount(self, parent: _Index = QModelIndex()) -> int:
        if parent.isValid() or self.part is None:
            return 0
        return len(self.part.feet) + len(self.part.mounts)

    def columnCount(self, parent: _Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else 7

    def item(self, row: int) -> Foot | Mount | None:
        """Return the foot or mount in `row`."""
        if self.part is None or not 0 <= row < self.rowCount():
            return None
        feet = self.part.feet
        return feet[row] if row < len(feet) else self.part.mounts[row - len(feet)]

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            unit = unit_of(Kind.LENGTH, self.workspace.system)
            return ("", "kind", f"x, {unit}", "y", "z", "from", "to")[section]
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if section >= _X else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        return None

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        item = self.item(index.row())
        if item is None:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() >= _X:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.FontRole:
            return font(13)
        if role == Qt.ItemDataRole.ToolTipRole and isinstance(item, Mount):
            return as_tip(f"{item.name or item.id}: {item.joint}")
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return None
        column, system = index.column(), self.workspace.system
        if column == 0:
            return "held by" if isinstance(item, Foot) else "takes"
        if column == _KIND:
            return item.kind.value
        if column in (_X, _Y, _Z):
            return figure(item.at[column - _X], Kind.LENGTH, system, unit=False)
        if isinstance(item, Mount) and item.joint is Connection.SLIDE:
            return figure(item.low if column == _FROM else item.high, Kind.LENGTH, system, unit=False)
        return ""

    def flags(self, index: _Index) -> Qt.ItemFlag:
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        item = self.item(index.row())
        slides = isinstance(item, Mount) and item.joint is Connection.SLIDE
        if index.column() == 0 or (index.column() >= _FROM and not slides):
            return base
        return base | Qt.ItemFlag.ItemIsEditable

    def setData(self, index: _Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        item, part = self.item(index.row()), self.part
        if item is None or part is None or str(value) == self.data(index):
            return False
        try:
            new = self._changed(item, index.column(), str(value))
            return self.replace_item(index.row(), new)
        except (EditError, AssemblyError) as error:
            self.workspace.refused.emit(f"{part.name}: {error}")
            return False

    def _changed(self, item: Foot | Mount, column: int, text: str) -> Foot | Mount:
        if column == _KIND:
            return replace(item, kind=MountKind(text))
        value = parse(text, Kind.LENGTH, self.workspace.system)
        if column in (_X, _Y, _Z):
            at = list(item.at)
            at[column - _X] = value
            return replace(item, at=(at[0], at[1], at[2]))
        if isinstance(item, Mount):
            return replace(item, low=value) if column == _FROM else replace(item, high=value)
        return item

    def replace_item(self, row: int, new: Foot | Mount | None) -> bool:
        """Put `new` in a row, or take the row away."""
        part = self.part
        if part is None:
            return False
        feet, mounts = list(part.feet), list(part.mounts)
        if row < len(feet):
            feet[row : row + 1] = [new] if isinstance(new, Foot) else []
        else:
            at = row - len(feet)
            mounts[at : at + 1] = [new] if isinstance(new, Mount) else []
        return self.workspace.apply(ChangePart(replace(part, feet=tuple(feet), mounts=tuple(mounts)), "mounts"))

    def add(self, offers: bool, slides: bool = False) -> None:
        """Add a foot, or a mount that is fixed or slides."""
        part = self.part
        if part is None:
            return
        if not offers:
            feet = (*part.feet, Foot(MountKind.QUARTER_20))
            self.workspace.apply(ChangePart(replace(part, feet=feet), "mounts"))
            return
        taken = {mount.id for mount in part.mounts}
        name = next(f"mount {n}" for n in range(1, 1000) if f"mount {n}" not in taken)
        mount = Mount(name, MountKind.QUARTER_20, (0.0, 0.0, 0.0))
        if slides:
            mount = replace(mount, kind=MountKind.DOVETAIL, joint=Connection.SLIDE, low=-0.04, high=0.04)
        self.workspace.apply(ChangePart(replace(part, mounts=(*part.mounts, mount)), "mounts"))


class _KindDelegate(QStyledItemDelegate):
    """Offers the kinds of mount as a list."""

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: _Index) -> QWidget:
        box = QComboBox(parent)
        box.addItems([kind.value for kind in MountKind if kind is not MountKind.OWN])
        box.setMinimumWidth(150)
        return box

    def setEditorData(self, editor: QWidget, index: _Index) -> None:
        if isinstance(editor, QComboBox):
            editor.setCurrentText(str(index.model().data(index)))

    def setModelData(self, editor: QWidget, model: object, index: _Index) -> None:
        if isinstance(editor, QComboBox) and isinstance(model, MountModel):
            model.setData(index, editor.currentText())


class MountTable(QTableView):
    """Shows and changes a part's mounts."""

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.mount_model = MountModel(workspace)
        self.setModel(self.mount_model)
        self.setItemDelegateForColumn(_KIND, _KindDelegate(self))
        self.verticalHeader().hide()
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        self.setAccessibleName("Mounts of the part")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def restyle(self) -> None:
        """Take sizes from the text scale."""
        s = text_scale()
        self.horizontalHeader().setFont(font(12.5))
        self.verticalHeader().setDefaultSectionSize(round(22 * s))
        for column, width in enumerate((48, 104, 46, 36, 36, 40, 40)):
            self.setColumnWidth(column, round(width * s))
        self.horizontalHeader().setStretchLastSection(True)
