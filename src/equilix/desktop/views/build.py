"""The Build view: order of work, side and top views with free mounts, and the tray of what fits."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import (
    QHideEvent,
    QKeyEvent,
)
from PySide6.QtWidgets import QWidget

from equilix.core.analysis import Analysis
from equilix.core.assembly.fit import Spot, first_setting, seat_at
from equilix.desktop.gestures.move_parts import MoveParts
from equilix.desktop.views.build_acts import BuildActs
from equilix.desktop.views.build_page import BuildPage
from equilix.desktop.views.build_sets import BuildSets
from equilix.desktop.widgets.context import Entry
from equilix.desktop.widgets.panel import SidePanel
from equilix.desktop.workspace import Workspace
from equilix.document.edits.builds import SwapOrder, placing
from equilix.io.shipped import starters
from equilix.present.assembly.build_view import BuildModel, Offer, build_model, offers
from equilix.present.assembly.drawing import BuildDrawing, draw_outlined
from equilix.present.assembly.pieces import LooseParts
from equilix.present.assembly.side_panel import build_panel, no_build_panel
from equilix.present.assembly.spots import spot_key, spot_of, tray_words
from equilix.present.drawing.scene import Anchor, Scene
from equilix.present.panel import Key
from equilix.present.units import System

#: Parts from which tags keep their places while only the selection changes.
_MANY = 30


class BuildView(BuildPage):
    """Puts parts of the kit on the mounts of the chosen build."""

    catalogue_wanted = Signal()
    #: The placed part whose figures are wanted.
    weigh_wanted = Signal(str)

    def __init__(self, workspace: Workspace, panel: SidePanel, parent: QWidget) -> None:
        super().__init__(workspace, parent)
        self.panel = panel
        self.offers: tuple[Offer, ...] = ()
        self._structure: tuple[object, object] | None = None  # what is joined to what, as it was last shown
        self._analysis: Analysis | None = None
        self._system: System | None = None
        self._tray_filled = False
        self._hinted: tuple[str, ...] = ()  # what a set would hold
        self.picked = False  # the place was chosen by hand, not by the order of work
        self.sets = BuildSets(workspace, self)
        self.acts = BuildActs(self)
        self.moves = MoveParts(workspace, self.drawing, self.slides, self._drawn_places, self.acts.take_off_part)
        self.moves.changed.connect(self._hand_moved)
        self.sets.hinted.connect(self._show_hinted)
        self.together.changed.connect(self._advice_came)
        self._connect()

    def _show_hinted(self, ids: tuple[str, ...]) -> None:
        if ids != self._hinted:
            self._hinted = ids
            self._hold_tags = True
            self.draw()

    def draw_over(self, scene: Scene) -> None:
        analysis = self.workspace.analysis()
        if self._hinted and analysis is not None and self.drawn is not None:
            for projection in (self.drawn.side, self.drawn.top):
                draw_outlined(scene, analysis, self._hinted, projection)
        if self.drawn is not None and self.model is not None:
            self.moves.draw(scene, self.drawn, self.model.mounts)

    def _connect(self) -> None:
        self.drawing.pressed.connect(self._press)
        self.drawing.offered = self._offered
        self.drawing.resized.connect(self.draw)
        self.drawing.key_pressed.connect(self._key)
        self.drawing.dropped.connect(self._drop)
        self.tray.wanted.connect(self.put_on)
        self.steps.resized.connect(self._show_steps)
        self.advice.changed.connect(self._advice_came)

    # Showing

    @property
    def main_widget(self) -> QWidget:
        """What takes the keyboard when the room is entered."""
        return self.drawing

    def refresh(self) -> None:
        """Show the book as it is now. While a part is dragged only figures and drawings follow."""
        analysis = self.workspace.analysis()
        system = self.workspace.system
        if analysis is None:
            self._show_no_build()
            return
        self.steps.show()
        # Where loose parts go depends on what is joined to what, not on where it stands.
        structure = (analysis.assembly, self.workspace.book.kit)
        same = self._structure is not None and all(a is b for a, b in zip(structure, self._structure, strict=True))
        if not same:
            self._structure = structure
        old, chosen = self.model, self.chosen
        selecting = same and analysis is self._analysis and system is self._system and self.isVisible()
        self._analysis, self._system = analysis, system
        if not selecting or old is None:
            loose = old.loose if same and old is not None else None
            self.model = build_model(analysis, self.workspace.book, system, loose)
            self._keep_chosen(self.model)
        self._hold_tags = (selecting and len(analysis.build.parts) > _MANY) or self.slides.dragging
        self.draw()
        if not selecting:
            self._show_steps()
        assert self.model is not None
        if not self.slides.dragging:
            self.advice.seek(analysis, self.model)
        if self.slides.dragging and self.panel.has_figures:
            self.panel.refresh(self.model.verdict, self.model.figures)
            return
        self._fill_panel()
        if not selecting or chosen is not self.chosen or not self._tray_filled:
            self._fill_tray()

    def _advice_came(self) -> None:
        if self.isVisible() and self.model is not None and not self.slides.dragging:
            self.draw()
            self._fill_panel()

    def _drawn_places(self) -> tuple[BuildDrawing | None, tuple[Spot, ...]]:
        return self.drawn, self.model.mounts if self.model is not None else ()

    def _hand_moved(self) -> None:
        if self.isVisible() and self.model is not None:
            self._hold_tags = self.moves.pulling
            self.draw()
            if not self.moves.pulling:
                self._fill_panel()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.moves.leave()
        self.advice.stop()

    def _keep_chosen(self, model: BuildModel) -> None:
        """Keep the place that was picked by hand while something fits there; else go with the order of work."""
        keys = {spot_key(spot): spot for spot in model.mounts}
        old = keys.get(spot_key(self.chosen)) if self.chosen is not None else None
        if old is not None and self.picked and self._has_offers(old):
            self.chosen = old
            return
        self.picked = False
        piece = self.acts.next_piece()
        self.chosen = spot_of(piece.placed[0], model.mounts) if piece is not None else None

    def _has_offers(self, spot: Spot) -> bool:
        """Whether the kit has a part, not yet on the build, that fits `spot`."""
        build = self.workspace.build
        if build is None:
            return False
        kit = self.workspace.book.parts
        on_build = {placed.part_id for placed in build.parts}
        return any(p.id not in on_build and seat_at(build, kit, spot, p) is not None for p in kit.values())

    def _show_no_build(self) -> None:
        self.model = None
        self.chosen = None
        self._structure = self._analysis = None
        self._tray_filled = False
        self.steps.hide()
        scene = Scene()
        scene.text(0, 26, "Build", 16, 600)
        middle = self.drawing.scene_width / 2
        height = self.drawing.scene_height / 2
        scene.text(middle, height - 10, "No build yet.", 20, 600, "ink", Anchor.MIDDLE)
        words = "Press Enter for an empty one, or adapt a typical build."
        scene.text(middle, height + 16, words, 14, 400, "ink2", Anchor.MIDDLE)
        self.drawing.show_scene(scene)
        self.steps.show_scene(Scene())
        self.offers = ()
        self.tray.show_offers("", "", (), ())
        self.panel.show_model(no_build_panel(starters()), self._act)

    def _fill_panel(self) -> None:
        analysis, w = self.workspace.analysis(), self.workspace
        if self.model is None or analysis is None:
            return
        self.panel.show_model(
            build_panel(
                *(self.model, analysis, w.book, self.advice.model(), self.sets.rows()),
                selected=w.selected,
                system=w.system,
                proposed=self.together.proposed,
                in_hand=self.moves.blocks(),
            ),
            self._act,
        )

    def _act(self, key: Key) -> None:
        """Do what was chosen in the panel."""
        match key:
            case ("together",):
                self.together.propose()
            case ("put all",):
                self.together.put_all()
            case ("leave",):
                self.together.leave()
            case ("answer", question, choice):
                self.together.answer(int(question), int(choice))
            case ("tick", part_id):
                self.together.tick(part_id)
            case ("lift",):
                self.acts.lift()
            case ("put there",):
                self.moves.put_there()
            case ("next place",):
                self.moves.other_place(1)
            case ("next holder",):
                self.moves.other_holder(1)
            case ("hand off",):
                self.moves.off()
            case ("put back",):
                self.moves.leave()
            case ("elsewhere", part_id):
                self.acts.join(self.workspace.book.part(part_id))
            case ("way", number):
                self.advice.choose_number(int(number))
            case ("apply",):
                self.advice.apply_way()
            case ("stop",):
                self.advice.give_up()
            case ("reorder", number):
                self.advice.reorder(int(number))
            case ("select", placed_id):
                self.workspace.select(placed_id)
            case ("join", part_id):
                self.acts.choose(part_id)
            case ("set", number):
                self.sets.do(self.sets.rows()[int(number)].choice)
            case ("starter", build_id):
                self.acts.begin_with(next(build for build in starters() if build.id == build_id))
            case _:
                {
                    "empty": self.acts.begin_empty,
                    "typical": self.catalogue_wanted.emit,
                    "take off": self.acts.take_off,
                    "turn": self.acts.turn,
                    "mark": self.slides.type_mark,
                    "sets": self.sets.open_menu,
                }[key[0]]()

    def _fill_tray(self) -> None:
        analysis = self.workspace.analysis()
        self._tray_filled = analysis is not None
        if analysis is None:
            return
        kit, free = self.workspace.book.parts, self.chosen
        loose = self.model.loose if self.model is not None else LooseParts()
        self.offers, misfits = offers(analysis, kit, free, loose, self.workspace.system)
        first = None if self.picked else self.acts.next_piece()
        title, note = tray_words(analysis, kit, free, len(self.offers), first)
        self.tray.show_offers(title, note, self.offers, misfits)

    # Acting

    def _press(self, key: tuple[str, ...], _x: float, _y: float) -> None:
        if key and key[0] in ("mount", "foot") and self.model is not None:
            self.choose_spot(key)

    def choose_spot(self, key: tuple[str, ...]) -> None:
        """Make a free mount or foot the one that the tray is about."""
        if self.model is None:
            return
        self.chosen = next((spot for spot in self.model.mounts if spot_key(spot) == key), None)
        self.picked = self.chosen is not None
        self.draw()
        self._fill_tray()

    def step_mount(self, by: int) -> None:
        """Choose the next or previous place for which the kit has something, in part order."""
        if self.model is None or not self.model.mounts:
            return
        useful = [spot for spot in self.model.mounts if self._has_offers(spot)] or list(self.model.mounts)
        keys = [spot_key(spot) for spot in useful]
        here = keys.index(spot_key(self.chosen)) if self.chosen is not None and spot_key(self.chosen) in keys else -by
        self.choose_spot(keys[(here + by) % len(keys)])

    def put_on(self, number: int) -> None:
        """Put offer `number` (from 0) on the chosen mount."""
        if not 0 <= number < len(self.offers):
            return
        offer = self.offers[number]
        QTimer.singleShot(0, lambda: self._place(offer))

    def _place(self, offer: Offer) -> None:
        build = self.workspace.build
        if build is not None:
            setting, spot = offer.setting, offer.seat.spot
            if setting is None and spot is not None:
                setting = first_setting(build, self.workspace.book.parts, spot, offer.part)
            self.workspace.apply(placing(build.id, offer.seat, setting or 0.0), offer.part.id)

    def _drop(self, part_id: str, x: float, y: float) -> None:
        key = self.drawing.scene.hit(x, y)
        if not self.drawing.takes_anywhere:
            if key is not None and key[0] in ("mount", "foot", "part"):
                self.moves.drop_loose(part_id, x, y)
            return
        offer = next((o for o in self.offers if o.part.id == part_id), None)
        if offer is not None:
            self._place(offer)

    def _offered(self, key: tuple[str, ...]) -> list[Entry]:
        """Return what can be done with what lies at the mouse."""
        if key and key[0] == "part":
            return [
                Entry("Move it to another place", "L", self.acts.lift),
                Entry("Type its mark", "M", self.slides.type_mark),
                Entry("Turn it", "T", self.acts.turn),
                Entry("Take it off", "Delete", self.acts.take_off),
                Entry("Show its figures in Weigh", "", lambda: self.weigh_wanted.emit(key[1])),
            ]
        if self.workspace.build is None:
            return []
        return [
            Entry("Put the next part on", "Enter", self.acts.put_on_next),
            Entry("Put all together", "A", self.together.propose),
        ]

    def _key(self, event: QKeyEvent) -> None:
        if event.isAccepted():
            return  # a drag was put back
        key, modifiers = event.key(), event.modifiers()
        both = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        build, selected = self.workspace.build, self.workspace.selected
        single = self.workspace.preferences.single_keys
        if self.moves.hand is not None and self.moves.key(event):
            pass
        elif self.together.proposed is not None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            QTimer.singleShot(0, self.together.put_all)
        elif self.together.proposed is not None and key == Qt.Key.Key_Escape:
            self.together.leave()
        elif key == Qt.Key.Key_A and single and not modifiers & Qt.KeyboardModifier.ControlModifier:
            QTimer.singleShot(0, self.together.propose)
        elif build is None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            QTimer.singleShot(0, self.acts.begin_empty)
        elif key == Qt.Key.Key_Delete:
            self.acts.take_off()
        elif key == Qt.Key.Key_T and single:
            self.acts.turn()
        elif key in (Qt.Key.Key_BracketLeft, Qt.Key.Key_BracketRight):
            self.step_mount(-1 if key == Qt.Key.Key_BracketLeft else 1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.advice.chosen is not None:
            self.advice.apply_way()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.offers and self.picked:
            self.put_on(0)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            QTimer.singleShot(0, self.acts.put_on_next)
        elif key == Qt.Key.Key_J and single:
            QTimer.singleShot(0, self.acts.join_first)
        elif key == Qt.Key.Key_L and single:
            self.acts.lift()
        elif key == Qt.Key.Key_M and single:
            self.slides.type_mark()
        elif key == Qt.Key.Key_S and single and not modifiers & Qt.KeyboardModifier.ControlModifier:
            QTimer.singleShot(0, self.sets.open_menu)
        elif event.text() in tuple("123") and self.together.first_asked is not None:
            QTimer.singleShot(0, partial(self.together.answer, self.together.first_asked, int(event.text()) - 1))
        elif event.text() in tuple("123456789"):
            self.put_on(int(event.text()) - 1)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and modifiers & both == both and build is not None and selected:
            self.workspace.apply(SwapOrder(build.id, selected, -1 if key == Qt.Key.Key_Up else 1))
        elif key == Qt.Key.Key_P and single:
            self.advice.next_way()
        elif key == Qt.Key.Key_Escape:
            if self.advice.chosen is not None:
                self.advice.choose(None)
            else:
                self.workspace.select("")
        else:
            return
        event.accept()
