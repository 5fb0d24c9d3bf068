"""Moving parts from place to place: pulled off by mouse and put onto a face, or by keys through their places."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QGuiApplication, QKeyEvent

from equilix.core.assembly.fit import Spot
from equilix.core.errors import EquilixError
from equilix.core.kit.parts import Part
from equilix.desktop.gestures.slide_parts import SlideParts
from equilix.desktop.widgets.build_drawing import BuildDrawingView
from equilix.desktop.workspace import Workspace
from equilix.document.kinds.in_hand import InHand, copy_in_hand, loose_in_hand, take_hold
from equilix.present.assembly.drawing import BuildDrawing
from equilix.present.assembly.in_hand import (
    HandPlaces,
    Target,
    draw_hand,
    hand_blocks,
    hand_effect,
    target_at,
    target_of,
)
from equilix.present.drawing.scene import Scene
from equilix.present.panel import Block

#: px across its slide that a part is pulled before it comes off.
_PULL = 30.0


class MoveParts(QObject):
    """Holds what is in the hand over one drawing; `changed` follows each change of it.

    `drawn` returns the drawing and the places on it that are free; `take_off` takes a placed part off the build.
    """

    changed = Signal()

    def __init__(
        self,
        workspace: Workspace,
        view: BuildDrawingView,
        slides: SlideParts,
        drawn: Callable[[], tuple[BuildDrawing | None, tuple[Spot, ...]]],
        take_off: Callable[[str], None],
    ) -> None:
        super().__init__(view)
        self.workspace, self.view, self.slides = workspace, view, slides
        self._drawn, self._take_off = drawn, take_off
        self._hand: InHand | None = None
        self.target: Target | None = None
        self._copy: InHand | None = None  # what is in the hand while Ctrl is held
        self._places: HandPlaces | None = None  # by keys alone
        self._on, self._number = 0, 0  # which holder, which of its places
        self._at: tuple[float, float] | None = None
        self._from: tuple[str, float] | None = None  # the part that was pressed, and the y there
        view.pressed.connect(self._press)
        view.dragged.connect(self._drag)
        view.released.connect(self._release)
        view.hovered.connect(self._hover_loose)
        view.left.connect(self.leave)

    @property
    def hand(self) -> InHand | None:
        """What is in the hand, as long as the build is the one that it was taken from."""
        if self._hand is not None and self._hand.build is not self.workspace.build:
            self._forget()
        return self._hand

    @property
    def by_keys(self) -> bool:
        """Whether keys go through the places of what is in the hand."""
        return self.hand is not None and self._places is not None

    @property
    def pulling(self) -> bool:
        """Whether the mouse has it."""
        return self.hand is not None and self._places is None

    # By mouse

    def _press(self, key: tuple[str, ...], _x: float, y: float) -> None:
        if self.hand is not None:
            self.leave()
        self._from = (key[1], y) if key and key[0] == "part" else None

    def _drag(self, _key: tuple[str, ...], x: float, y: float) -> None:
        if self.pulling:
            self._over(x, y)
        elif self._from is not None and abs(y - self._from[1]) > _PULL:
            placed_id, self._from = self._from[0], None
            self.slides.give_back()
            if self._take(placed_id):
                self.slides.hands_off = True
                self._over(x, y)

    def _take(self, placed_id: str) -> bool:
        build = self.workspace.build
        if build is None:
            return False
        try:
            self._hand = take_hold(self.workspace.book, build, placed_id)
        except EquilixError as error:
            self.workspace.refused.emit(str(error))
            return False
        self._copy = copy_in_hand(self.workspace.book, build, placed_id)
        self._places = None
        return True

    def held(self) -> InHand | None:
        """What is put down when it is let go now: with Ctrl a copy."""
        control = bool(QGuiApplication.keyboardModifiers() & Qt.KeyboardModifier.ControlModifier)
        return self._copy if control and self._copy is not None and self.hand is not None else self.hand

    def _over(self, x: float, y: float) -> None:
        analysis, (drawn, spots), hand = self.workspace.analysis(), self._drawn(), self.held()
        if analysis is None or drawn is None or hand is None:
            return
        free = bool(QGuiApplication.keyboardModifiers() & Qt.KeyboardModifier.AltModifier)
        self._at = (x, y)
        self.target = target_at(hand, self.workspace.book, analysis, drawn, spots, (x, y), free)
        self.changed.emit()

    def _release(self, _key: tuple[str, ...], _x: float, _y: float) -> None:
        self._from = None
        if self.pulling:
            self.drop()

    def drop(self) -> None:
        """Put down what the mouse has: where it would join something, or beside the rig."""
        hand, target = self.held(), self.target
        placed_id = hand.placed_id if hand is not None and hand.verb == "Move" else ""
        if hand is not None and target is not None and target.place is not None:
            self._put(hand, target)
        elif target is not None and target.words and placed_id:
            beside = target.words
            self.leave()
            if beside.startswith("does not"):
                self.workspace.refused.emit(f"It {beside}. Choose another place.")
            else:
                self._take_off(placed_id)
        else:
            self.leave()

    def _hover_loose(self, part_id: str, x: float, y: float) -> None:
        """Show what a loose part would join that is dragged over the drawing."""
        build = self.workspace.build
        if build is None or not build.parts:
            return
        part = self.workspace.book.part(part_id)
        if self.hand is None or self.hand.part is not part:
            self._hand, self._copy, self._places = loose_in_hand(self.workspace.book, build, part), None, None
        self._over(x, y)

    def drop_loose(self, part_id: str, x: float, y: float) -> None:
        """Put a loose part down that was dragged onto the drawing; say why where nothing takes it there."""
        self._hover_loose(part_id, x, y)
        if self.hand is not None and self.target is not None and self.target.place is not None:
            self.drop()
            return
        name = self.workspace.book.part(part_id).name
        self.leave()
        self.workspace.refused.emit(f"{name} does not fit there. Choose another mount.")

    # By keys

    def lift(self, placed_id: str) -> None:
        """Take a part of the rig in the hand; keys go through its places."""
        if self._take(placed_id):
            self._first_place()

    def lift_loose(self, part: Part) -> None:
        """Take a loose part in the hand; keys go through its places."""
        build = self.workspace.build
        if build is not None and build.parts:
            self._hand, self._copy = loose_in_hand(self.workspace.book, build, part), None
            self._first_place()

    def _first_place(self) -> None:
        assert self._hand is not None
        self._places = HandPlaces(self._hand, self.workspace.book)
        self.slides.hands_off = True
        self._on = self._number = 0
        self._at = None
        self._show_place()
        self.view.setFocus()

    def _show_place(self) -> None:
        hand, places = self.hand, self._places
        if hand is None or places is None:
            return
        there = places.on(places.holders[self._on]) if places.holders else ()
        self.target = target_of(hand, there[self._number]) if there else None
        self.changed.emit()

    def other_place(self, by: int) -> None:
        """Go to the next or previous place on the same part."""
        places = self._places
        if places is not None and places.holders:
            count = len(places.on(places.holders[self._on]))
            self._number = (self._number + by) % max(count, 1)
            self._show_place()

    def other_holder(self, by: int) -> None:
        """Go to the first place on the next or previous part."""
        places = self._places
        if places is not None and places.holders:
            self._on, self._number = (self._on + by) % len(places.holders), 0
            self._show_place()

    def put_there(self, copied: bool = False) -> None:
        """Put what is in the hand, or a copy of it, where it is shown."""
        hand = self._copy if copied and self._copy is not None else self.hand
        if hand is not None and self.target is not None and self.target.place is not None:
            self._put(hand, self.target)

    def key(self, event: QKeyEvent) -> bool:
        """Do what a key means while a part is in the hand; return whether it means anything."""
        match event.key():
            case Qt.Key.Key_Escape:
                self.view.let_loose()
                self.leave()
            case Qt.Key.Key_Right | Qt.Key.Key_Left if self.by_keys:
                self.other_place(1 if event.key() == Qt.Key.Key_Right else -1)
            case Qt.Key.Key_Down | Qt.Key.Key_Up if self.by_keys:
                self.other_holder(1 if event.key() == Qt.Key.Key_Down else -1)
            case Qt.Key.Key_Return | Qt.Key.Key_Enter if self.by_keys:
                self.put_there(bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
            case Qt.Key.Key_Delete if self.by_keys:
                self.off()
            case _:
                return False
        return True

    def off(self) -> None:
        """Take off what is in the hand."""
        hand = self.hand
        self.leave()
        if hand is not None and hand.verb == "Move":
            self._take_off(hand.placed_id)

    def leave(self) -> None:
        """Leave it where it was."""
        if self._hand is not None:
            self._forget()
            self.changed.emit()

    def _forget(self) -> None:
        self.slides.hands_off = False
        self._hand = self._copy = self._places = self.target = self._at = None

    def _put(self, hand: InHand, target: Target) -> None:
        assert target.place is not None
        edit = hand.edit(target.place.placed)
        self._forget()
        self.workspace.apply(edit, hand.part.id)
        self.changed.emit()

    # Shown

    def draw(self, scene: Scene, drawn: BuildDrawing, spots: tuple[Spot, ...]) -> None:
        """Draw what is in the hand over the drawing."""
        analysis, hand = self.workspace.analysis(), self.held() if self.pulling else self.hand
        if hand is not None and self.target is not None and analysis is not None:
            draw_hand(scene, hand, self.target, analysis, drawn, spots, self._at)

    def blocks(self) -> list[Block]:
        """Return what the panel says of it, nothing while nothing is in the hand."""
        w, hand, places, analysis = self.workspace, self.hand, self._places, self.workspace.analysis()
        if hand is None or places is None or analysis is None:
            return []
        place = self.target.place if self.target is not None else None
        effect = hand_effect(hand, place, analysis, w.operator, w.system) if place is not None else ""
        count = len(places.on(places.holders[self._on])) if places.holders else 0
        return hand_blocks(hand, self.target, (self._number + 1, count), effect)
