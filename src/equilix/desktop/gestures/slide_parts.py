"""Moving parts along their slides and turning them: by mouse, arrow keys and typed marks."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QGuiApplication, QKeyEvent
from PySide6.QtWidgets import QLineEdit

from equilix.core.assembly.build import Placed
from equilix.core.assembly.mounts import mover_of, slides
from equilix.core.errors import EditError
from equilix.core.kit.parts import Connection, Mount
from equilix.core.slides import direction_of, level_of
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.refusal import refuse_at
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.workspace import Workspace
from equilix.document.history import History
from equilix.present.drawing.scales import OWN_SCALE, SlideScale
from equilix.present.supports import text_of
from equilix.present.supports.text import OwnScale, own_scale_of
from equilix.present.units import parse_mark, readable

#: px. A press that moves less than this selects and doesn't drag.
_DEAD_ZONE = 2.0
#: Parts from which keys only show what moves, and ms after the last key until all else follows.
_BIG, _PUSHED = 30, 250
#: px within which a drag snaps to the place that levels the rig; Alt passes it by.
_SNAP = 5.0
#: rad per px when a part is turned by dragging.
_TURN = 0.01


class _MarkField(QLineEdit):
    """A field that Esc leaves."""

    left = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)


class SlideParts(QObject):
    """Ties one drawing to the slides of the chosen build.

    `scale_and_slides` returns the drawing's scale (px per m) and the slide scales it shows. With `digits`,
    typing one opens the field for a mark.
    """

    def __init__(
        self,
        workspace: Workspace,
        view: SceneView,
        scale_and_slides: Callable[[], tuple[float, tuple[SlideScale, ...]]],
        digits: bool = True,
    ) -> None:
        super().__init__(view)
        self.workspace = workspace
        self.view = view
        self._drawing = scale_and_slides
        self._digits = digits
        self._grab_setting = 0.0
        self._grab_x = 0.0
        self._moved = False
        self._own = False  # whether the support's own scale was taken hold of last
        #: Whether what is dragged is in the hand, and slides no more.
        self.hands_off = False
        self._said = False  # what is dragged in the place of a fixed part
        # On a big build all that need not follow at once waits until no key has come for a moment.
        self._pushed = QTimer(self)
        self._pushed.setSingleShot(True)
        self._pushed.setInterval(_PUSHED)
        self._pushed.timeout.connect(workspace.view_changed)
        self._before: History | None = None
        self._level: float | None = None  # m, where the dragged slide levels the rig
        self.editor = _MarkField(view)
        self.editor.setAccessibleName("Mark of the selected part")
        self.editor.setFixedWidth(150)
        self.editor.hide()
        self.editor.returnPressed.connect(self._take_typed)
        self.editor.left.connect(self._close_editor)
        view.pressed.connect(self._press)
        view.dragged.connect(self._drag)
        view.released.connect(self._release)
        view.key_pressed.connect(self._key)

    @property
    def dragging(self) -> bool:
        """Whether a part is being moved by the mouse, or on a big build by keys a moment ago."""
        return (self._moved and self.view.held is not None) or self._pushed.isActive()

    def _mover(self, placed_id: str) -> tuple[Placed, Mount] | None:
        """Return what moves when `placed_id` is pushed: itself, or the nearest part that carries it and slides."""
        build = self.workspace.build
        if build is None or not any(p.id == placed_id for p in build.parts):
            return None
        return mover_of(build, self.workspace.book.parts, placed_id)

    def _say_what_moves(self, placed_id: str, mover: Placed) -> None:
        if mover.id != placed_id:
            name = self.workspace.book.name_of
            build = self.workspace.build
            assert build is not None
            fixed = name(build.placed(placed_id))
            self.workspace.said.emit(f"{fixed} is fixed. The {name(mover)} slides and carries it")

    def _say_nothing_moves(self, placed_id: str) -> None:
        """Say that a part is fixed and nothing carries it that slides, and what does slide on this build."""
        build, kit = self.workspace.build, self.workspace.book.parts
        assert build is not None
        names = [kit[placed.part_id].name for placed, _ in slides(build, kit)]
        more = f" and {len(names) - 4} more" if len(names) > 4 else ""
        what = f"These slide: {', '.join(names[:4])}{more}." if names else "Nothing on this build slides."
        self.workspace.refused.emit(f"{self.workspace.book.name_of(build.placed(placed_id))} is fixed. {what}")

    # Mouse

    def _press(self, key: tuple[str, ...], x: float, y: float) -> None:
        self._moved = self._said = False
        if not key:
            self.workspace.select("")
        self._own = key == ("scale", OWN_SCALE)
        if not key or key[0] not in ("part", "scale"):
            return
        self.workspace.close_group()
        if self._own:
            self._press_own(x)
            return
        self.workspace.select(key[1])
        self._before, self._grab_x, self._level = self.workspace.history, x, None
        found = self._mover(key[1])
        if found is None:
            return
        placed, mount = found
        self._grab_setting = placed.setting
        if mount.joint is Connection.SLIDE:
            analysis = self.workspace.analysis()
            self._level = level_of(analysis, placed.id) if analysis is not None else None
        if key[0] == "scale":
            scale = next((s for s in self._drawing()[1] if s.placed_id == key[1]), None)
            if scale is not None and abs(scale.x(placed.setting) - x) > 10.0 and y < scale.y + 10.0:
                self._grab_setting = min(max(scale.setting_at(x), scale.low), scale.high)
                self.move_to(key[1], round(self._grab_setting, 3))

    def _press_own(self, x: float) -> None:
        """Take hold of the support's own scale; where it was pressed away from its thumb, that goes there."""
        own, scale = self._own_scale(), next((s for s in self._drawing()[1] if s.placed_id == OWN_SCALE), None)
        if own is None or scale is None:
            return
        self._before, self._grab_x, self._level = self.workspace.history, x, own.level
        self._grab_setting = own.setting
        if abs(scale.x(own.setting) - x) > 10.0:
            self._grab_setting = min(max(scale.setting_at(x), scale.low), scale.high)
            self._move_own(round(self._grab_setting, 3))

    def _own_scale(self) -> OwnScale | None:
        analysis = self.workspace.analysis()
        return own_scale_of(analysis) if analysis is not None else None

    def _move_own(self, setting: float) -> None:
        """Slide what slides on the support itself, in one step of undo until it is let go."""
        from equilix.document.edits.builds import ChangeBuild

        build, analysis = self.workspace.build, self.workspace.analysis()
        if build is not None and analysis is not None:
            changed = text_of(analysis).with_slide(build, setting)
            if changed is not build:
                self.workspace.apply(ChangeBuild(changed, "support", merges=True))

    def _drag_own(self, x: float) -> None:
        scale = next((s for s in self._drawing()[1] if s.placed_id == OWN_SCALE), None)
        if scale is not None:
            self._moved = True
            per_px = (scale.high - scale.low) / max(scale.right - scale.left, 1.0)
            setting = self._grab_setting + (x - self._grab_x) * per_px
            self._move_own(self._snapped(round(setting, 3), per_px))

    def _drag(self, key: tuple[str, ...], x: float, _y: float) -> None:
        if self.hands_off:
            return
        if key == ("scale", OWN_SCALE) and (self._moved or abs(x - self._grab_x) >= _DEAD_ZONE):
            self._drag_own(x)
            return
        if not key or key[0] not in ("part", "scale") or (not self._moved and abs(x - self._grab_x) < _DEAD_ZONE):
            return
        found = self._mover(key[1])
        if found is None:
            if not self._said:
                self._said = True
                self._say_nothing_moves(key[1])
            return
        self._moved = True
        placed, mount = found
        if not self._said:
            self._said = True
            self._say_what_moves(key[1], placed)
        px_per_m, scales = self._drawing()
        scale = next((s for s in scales if s.placed_id == key[1]), None)
        if key[0] == "scale" and scale is not None:
            per_px = (scale.high - scale.low) / max(scale.right - scale.left, 1.0)
        elif mount.joint is Connection.TURN:
            per_px = _TURN
        else:
            analysis = self.workspace.analysis()
            per_px = (direction_of(analysis, placed.id) if analysis is not None else 1.0) / px_per_m
        setting = self._grab_setting + (x - self._grab_x) * per_px
        if mount.joint is Connection.SLIDE:
            setting = self._snapped(round(setting, 3), abs(per_px))
        self.move_to(placed.id, setting)

    def _snapped(self, setting: float, per_px: float) -> float:
        """Return `setting` (m), or the one that levels the rig if it is a few px away and Alt is not held."""
        passing = QGuiApplication.keyboardModifiers() & Qt.KeyboardModifier.AltModifier
        if self._level is None or passing or abs(setting - self._level) > _SNAP * per_px:
            return setting
        return round(self._level, 4)

    def cancel(self) -> None:
        """Put back what is being dragged."""
        if self._before is not None and self._moved and self.view.held is not None:
            self._moved = False
            self.view.let_loose()
            self.workspace.take_back(self._before)

    def give_back(self) -> None:
        """Put back what is being dragged, with the mouse still down: it is pulled off."""
        if self._before is not None and self._moved:
            self._moved = False
            self.workspace.take_back(self._before)

    def _release(self, _key: tuple[str, ...], _x: float, _y: float) -> None:
        self.workspace.close_group()
        if self._moved:
            self._moved = False
            # All that stood still while it was dragged follows now, in every bar.
            self.workspace.view_changed.emit()

    # Moving

    def move_to(self, placed_id: str, setting: float) -> None:
        """Move a part to a setting (m or rad), as far as its slide goes."""
        from equilix.document.edits.builds import SetSlide

        build = self.workspace.build
        if build is not None:
            name = self.workspace.book.name_of(build.placed(placed_id))
            self.workspace.apply(SetSlide(build.id, placed_id, setting, name))

    def nudge(self, millimetres: float) -> None:
        """Move the selected part by that much, or turn it by a tooth, ten teeth for 10 mm and more."""
        own = self._own_scale() if self._own else None
        if own is not None:
            self._move_own(own.setting + millimetres / 1000.0)
            return
        selected = self.workspace.selected
        found = self._mover(selected)
        if found is None:
            if selected:
                self._say_nothing_moves(selected)
            return
        placed, mount = found
        build = self.workspace.build
        if build is not None and len(build.parts) > _BIG:
            self._pushed.start()
        if mount.joint is Connection.TURN:
            teeth = math.copysign(max(1.0, abs(millimetres) / 2.0), millimetres)
            self.move_to(placed.id, placed.setting + teeth * (mount.step or math.radians(1.0)))
        else:
            self.move_to(placed.id, placed.setting + millimetres / 1000.0)
        self._say_what_moves(selected, placed)

    def step_part(self, by: int) -> None:
        """Select the next or the previous part in part order."""
        build = self.workspace.build
        if build is None or not build.parts:
            return
        ids = [placed.id for placed in build.parts]
        now = ids.index(self.workspace.selected) if self.workspace.selected in ids else (-1 if by > 0 else 0)
        self.workspace.select(ids[(now + by) % len(ids)])

    # Keys

    def _key(self, event: QKeyEvent) -> None:
        if self.hands_off:
            return
        key, modifiers = event.key(), event.modifiers()
        control = bool(modifiers & Qt.KeyboardModifier.ControlModifier)
        shift = bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
        amount = 0.1 if control and shift else (10.0 if shift else 1.0)
        if key == Qt.Key.Key_Escape and self._moved and self.view.held is not None:
            self.cancel()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and (shift or not control):
            self.nudge(-amount if key == Qt.Key.Key_Left else amount)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and not control:
            self.step_part(-1 if key == Qt.Key.Key_Up else 1)
        elif (
            self._digits and event.text().isdigit() and not control and self._mover(self.workspace.selected) is not None
        ):
            self.type_mark(event.text())
        else:
            return
        event.accept()

    def type_mark(self, text: str = "") -> None:
        """Open the field in which a mark or an angle can be typed."""
        found = self._mover(self.workspace.selected)
        if found is None:
            self.workspace.refused.emit("First select a part that slides or turns.")
            return
        placed, mount = found
        kind = "angle" if mount.joint is Connection.TURN else "mark"
        self.editor.setPlaceholderText(f"{kind} of {self.workspace.book.name_of(placed)}")
        self.editor.setText(text)
        scale = next((s for s in self._drawing()[1] if s.placed_id == placed.id), None)
        zoom = text_scale()
        x = (scale.left + scale.right) / 2.0 * zoom if scale is not None else self.view.width() / 2.0
        y = (scale.y - 44.0) * zoom if scale is not None else self.view.height() - 60.0
        self.editor.move(round(min(max(x - 75.0, 4.0), self.view.width() - 154.0)), round(y))
        self.editor.show()
        self.editor.setFocus()

    def _take_typed(self) -> None:
        try:
            self.set_typed(self.editor.text())
        except EditError as error:
            refuse_at(self.editor, readable(str(error), self.workspace.system))
            return
        self._close_editor()

    def _close_editor(self) -> None:
        self.editor.hide()
        self.view.setFocus()

    def set_typed(self, text: str) -> None:
        """Move the selected part to the mark or angle in `text`; a mark counts from the slide's low end.

        Raises
        ------
        EditError
            If nothing that moves is selected, the text can't be read, or the slide doesn't reach so far.
        """
        found = self._mover(self.workspace.selected)
        if found is None:
            raise EditError("First select a part that slides or turns.")
        placed, mount = found
        setting = parse_mark(text, mount, self.workspace.book.name_of(placed), self.workspace.system)
        self.workspace.close_group()
        self.move_to(placed.id, setting)
        self.workspace.close_group()
