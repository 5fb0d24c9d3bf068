"""The Build view: order of work, side and top views with free mounts, and the tray of what fits."""

from __future__ import annotations

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFontMetricsF,
    QHideEvent,
    QKeyEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build
from equilix.core.assembly.fit import Misfit, Seat, Spot, first_setting, kind_of, seat_at, work_key
from equilix.core.assembly.rooting import taken_off
from equilix.desktop.gestures.slide_parts import SlideParts
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import font, text_scale
from equilix.desktop.views.build_advice import BuildAdvice
from equilix.desktop.views.build_sets import BuildSets
from equilix.desktop.widgets.panel import LinkLabel, OneLine, SidePanel, label
from equilix.desktop.widgets.plain import as_item, set_tip
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.widgets.tray import MIME, Tray
from equilix.desktop.workspace import Workspace
from equilix.document.book import new_build_id
from equilix.document.edits.book import AddStarter
from equilix.document.edits.builds import AddBuild, QuarterTurn, SwapOrder, TakeOff, heart_of, placing
from equilix.document.history import Edit
from equilix.io.shipped import starter_parts, starters
from equilix.present.build.build_view import (
    MOST_SHOWN,
    SIDE_SHARE,
    BuildDrawing,
    BuildModel,
    Offer,
    StepModel,
    build_model,
    draw_build,
    draw_moved,
    offers,
    spot_key,
    spot_name,
    spot_title,
)
from equilix.present.build.joining import LooseRow, is_spare, loose_row, loose_rows
from equilix.present.build.sets_view import belongs_to
from equilix.present.drawing.scales import SlideScale
from equilix.present.drawing.scene import Anchor, Scene, circle, polygon, polyline, rect
from equilix.present.supports.text import Verdict
from equilix.present.units import System
from equilix.present.words import short_name

#: Parts from which tags keep their places while only the selection changes.
_MANY = 30


class BuildDrawingView(SceneView):
    """The drawing, onto which parts of the tray can be dropped."""

    dropped = Signal(str, float, float)

    def __init__(self) -> None:
        super().__init__("Side and top view of the build")
        self.setAcceptDrops(True)
        #: Whether a part can be dropped anywhere: the first one of a build.
        self.takes_anywhere = False

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(MIME):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        place = event.position()
        key = self.scene.hit(place.x() / text_scale(), place.y() / text_scale())
        if self.takes_anywhere or (key is not None and key[0] in ("mount", "foot")):
            event.acceptProposedAction()
        else:
            event.ignore()

    def dropEvent(self, event: QDropEvent) -> None:
        place = event.position()
        part_id = bytes(event.mimeData().data(MIME).data()).decode()
        self.dropped.emit(part_id, place.x() / text_scale(), place.y() / text_scale())
        event.acceptProposedAction()


class BuildView(QWidget):
    """Puts parts of the kit on the mounts of the chosen build."""

    catalogue_wanted = Signal()

    def __init__(self, workspace: Workspace, panel: SidePanel, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.panel = panel
        self.model: BuildModel | None = None
        self.drawn: BuildDrawing | None = None
        self.offers: tuple[Offer, ...] = ()
        self.chosen: Spot | None = None
        self.loose: tuple[LooseRow, ...] = ()
        self.loose_links: list[LinkLabel] = []
        self._structure: tuple[object, object] | None = None  # what is joined to what, as it was last shown
        self._loose: tuple[LooseRow, ...] | None = None  # worked out for that structure
        self._analysis: Analysis | None = None
        self._system: System | None = None
        self.selected_name = label("", 15)
        self.belongs = label("", 13)
        self._tray_filled = False
        self._hold_tags = False
        self._picked = False  # the place was chosen by hand, not by the order of work
        self._misfits: tuple[Misfit, ...] = ()
        self.steps = SceneView("Order of work")
        self.steps.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.steps.setFixedHeight(round(118 * text_scale()))
        self.drawing = BuildDrawingView()
        self.slides = SlideParts(workspace, self.drawing, self._scale_and_slides, digits=False)
        self.tray = Tray()
        self.tray_title = OneLine("ink", 16, 600, least=round(150 * text_scale()))
        self.tray_note = OneLine("ink3")
        self.why = QPushButton("Show why")
        self.why.setProperty("role", "link")
        self.starters: list[QPushButton] = []
        self.advice = BuildAdvice(workspace)
        self.sets = BuildSets(workspace, self)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 0, 24, 0)
        layout.setSpacing(0)
        layout.addWidget(self.steps)
        layout.addWidget(self.drawing, 1)
        head = QHBoxLayout()
        head.setContentsMargins(0, 4, 0, 2)
        head.setSpacing(12)
        head.addWidget(self.tray_title)
        head.addWidget(self.tray_note, 1)
        head.addWidget(self.why)
        layout.addLayout(head)
        layout.addWidget(self.tray)
        self._connect()

    def _connect(self) -> None:
        self.drawing.pressed.connect(self._press)
        self.drawing.resized.connect(self.draw)
        self.drawing.key_pressed.connect(self._key)
        self.drawing.dropped.connect(self._drop)
        self.tray.wanted.connect(self.put_on)
        self.steps.resized.connect(self._draw_steps)
        self.why.clicked.connect(self._show_why)
        self.advice.changed.connect(self._advice_came)

    def _scale_and_slides(self) -> tuple[float, tuple[SlideScale, ...]]:
        if self.drawn is None:
            return 700.0, ()
        return self.drawn.side.scale, (self.drawn.scale,) if self.drawn.scale is not None else ()

    # Showing

    @property
    def main_widget(self) -> QWidget:
        """What takes the keyboard when the room is entered."""
        return self.drawing

    @property
    def dragging(self) -> bool:
        """Whether a part is being moved by the mouse."""
        return self.slides.dragging

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
            self._structure, self._loose = structure, None
        old, chosen = self.model, self.chosen
        selecting = same and analysis is self._analysis and system is self._system and self.isVisible()
        self._analysis, self._system = analysis, system
        if not selecting or old is None:
            seats = old.seats if same and old is not None else None
            self.model = build_model(analysis, self.workspace.book, system, seats)
            self._keep_chosen(self.model)
        self._hold_tags = (selecting and len(analysis.build.parts) > _MANY) or self.slides.dragging
        self.draw()
        if not selecting:
            self._draw_steps()
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

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.advice.stop()

    def _keep_chosen(self, model: BuildModel) -> None:
        """Keep the place that was picked by hand while something fits there; else go with the order of work."""
        keys = {spot_key(spot): spot for spot in model.mounts}
        old = keys.get(spot_key(self.chosen)) if self.chosen is not None else None
        if old is not None and self._picked and self._has_offers(old):
            self.chosen = old
            return
        self._picked = False
        self.chosen = next((seat.spot for seat in model.seats), None)

    def _has_offers(self, spot: Spot) -> bool:
        """Whether the kit has a part, not yet on the build, that fits `spot`."""
        build = self.workspace.build
        if build is None:
            return False
        kit = self.workspace.book.parts
        on_build = {placed.part_id for placed in build.parts}
        return any(p.id not in on_build and seat_at(build, kit, spot, p) is not None for p in kit.values())

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.tray_note.setVisible(self.width() >= 700 * text_scale())

    def _show_no_build(self) -> None:
        self.model = None
        self.chosen = None
        self._structure = self._loose = self._analysis = None
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
        self.tray_title.setText("")
        self.tray_note.setText("")
        self.why.hide()
        self.offers = ()
        self.tray.show_offers(())
        self.panel.begin()
        self.panel.add_verdict(Verdict("No build yet.", "Start empty or from a typical build."))
        self._add_starters()
        self.panel.end()

    def _add_starters(self) -> None:
        self.starters = []
        self.panel.add_heading("Start", "estimated until you weigh")
        empty = QPushButton("Empty build")
        empty.clicked.connect(self.begin_empty)
        for button, note in [(empty, "First the foundation, then part by part from your kit.")] + [
            (QPushButton(as_item(build.name)), build.note) for build in starters()
        ]:
            holder = QVBoxLayout()
            holder.setContentsMargins(24, 4, 24, 6)
            holder.setSpacing(3)
            holder.addWidget(button)
            holder.addWidget(label(note, 13, 400, "ink2", wrap=True))
            self.panel.rows.addLayout(holder)
            if button is not empty:
                self.starters.append(button)
        for button, build in zip(self.starters, starters(), strict=True):
            button.clicked.connect(lambda _checked=False, b=build: self.begin_with(b))

    def begin_empty(self) -> None:
        """Add an empty build and show it."""
        book = self.workspace.book
        build = Build(new_build_id(book), f"Build {len(book.builds) + 1}")
        if self.workspace.apply(AddBuild(build)):
            self.workspace.choose_build(build.id)
            self.drawing.setFocus()

    def begin_with(self, starter: Build) -> None:
        """Add a copy of a starting build with the parts that it needs."""
        book = self.workspace.book
        build = replace(starter, id=new_build_id(book))
        if self.workspace.apply(AddStarter(build, starter_parts(starter))):
            self.workspace.choose_build(build.id)

    def _draw_steps(self) -> None:
        scene = Scene()
        width = self.steps.scene_width
        scene.text(0, 26, "Order of work", 16, 600)
        words = "battery early, the front last"
        more = ". Dashed ring: the CG without the battery"
        if self.model is not None and any(step.without is not None for step in self.model.steps) and width > 560.0:
            words += more
        if width > 330.0:
            scene.text(112, 26, words, 13, 400, "ink3")
        height = self.steps.scene_height
        scene.line(0, height - 0.5, width, height - 0.5, "rule", 1.0)
        if self.model is not None:
            wide = width / len(self.model.steps)
            for i, step in enumerate(self.model.steps):
                _draw_step(scene, step, i, i * wide, wide, i == self.model.current_step)
        self.steps.show_scene(scene)

    def draw(self) -> None:
        """Draw the side and top views for the widget's present size."""
        analysis = self.workspace.analysis()
        if analysis is None or self.drawing.scene_width < 50:
            return
        self.drawn = draw_build(
            analysis,
            self.workspace.book.parts,
            self.workspace.system,
            self.drawing.scene_width,
            self.drawing.scene_height,
            self.workspace.selected,
            self.chosen,
            self.drawn.tags if self._hold_tags and self.drawn is not None else None,
        )
        self._hold_tags = False
        scene = self.drawn.scene
        way = self.advice.chosen
        if way is not None:
            for projection in (self.drawn.side, self.drawn.top):
                draw_moved(scene, way.preview, way.moved, projection)
        scene.text(0, 22, "Side", 16, 600)
        scene.text(38, 22, "both views to one scale", 13, 400, "ink3")
        top = round(self.drawing.scene_height * SIDE_SHARE) + 22
        scene.text(0, top, "Top", 16, 600)
        scene.text(38, top, "left side at the top", 13, 400, "ink3")
        if not analysis.build.parts:
            words = "Choose the first part below, or drag it here."
            scene.text(
                self.drawing.scene_width / 2, self.drawing.scene_height * 0.34, words, 15, 500, "ink2", Anchor.MIDDLE
            )
        kit = self.workspace.book.parts
        tips: dict[tuple[str, ...], str] = {
            ("part", placed.id): kit[placed.part_id].name for placed in analysis.build.parts
        }
        if self.model is not None:
            for spot in self.model.mounts:
                tips[spot_key(spot)] = f"{spot_name(spot, analysis.build, kit)} ({kind_of(spot)})"
        self.drawing.tips = tips
        self.drawing.takes_anywhere = not analysis.build.parts
        self.drawing.show_scene(scene, moves=self.dragging)

    def _fill_panel(self) -> None:
        if self.model is None:
            return
        panel, advice = self.panel, self.advice
        chosen = self.workspace.selected
        shown: tuple[object, ...] = (
            *(self.model, advice.ways, advice.chosen, advice.next, advice.orders),
            advice.busy,
            self._loose is None,
            bool(chosen),
            self.workspace.preferences,
            self.workspace.book.sets,
        )
        build = self.workspace.build
        old: tuple[object, ...] = panel.filled if isinstance(panel.filled, tuple) else ()
        same = len(old) == len(shown)
        # The very same things, kept by the panel: nothing is compared that would take longer than filling it.
        if same and chosen and build is not None and all(a is b for a, b in zip(old, shown, strict=True)):
            # Only another part was selected: its name is all that changes.
            self.selected_name.setText(self.workspace.book.name_of(build.placed(chosen)))
            self.belongs.setText(belongs_to(build.placed(chosen)))
            self.belongs.setVisible(bool(build.placed(chosen).sets))
            return
        panel.begin()
        panel.add_verdict(self.model.verdict)
        panel.add_figures(self.model.figures)
        build = self.workspace.build
        if build is not None and not build.parts and not self.workspace.book.kit:
            panel.add_text("The kit is empty. List your parts in Weigh, or add typical ones:", "ink")
            button = QPushButton("Add typical parts")
            button.clicked.connect(self.catalogue_wanted)
            line = QHBoxLayout()
            line.setContentsMargins(24, 4, 24, 8)
            line.addWidget(button)
            panel.rows.addLayout(line)
        if self.model.problems:
            panel.add_heading("Clashes", "deepest first")
            for title, words, placed_id in self.model.problems[:MOST_SHOWN]:
                link = LinkLabel(title)
                set_tip(link, "Selects the part in the drawing")
                link.clicked.connect(partial(self._select_later, placed_id))
                holder = QVBoxLayout()
                holder.setContentsMargins(24, 5, 24, 4)
                holder.setSpacing(0)
                holder.addWidget(link)
                note = label(words, 13, 400, "ink2", wrap=True)
                note.setContentsMargins(0, 0, 0, 2)
                holder.addWidget(note)
                panel.rows.addLayout(holder)
                panel.add_rule()
            more = len(self.model.problems) - MOST_SHOWN
            if more > 0:
                panel.add_text(f"{more} smaller clashes. Select a part to see its own.", "ink2")
        self._add_loose()
        self.advice.fill(panel)
        self.sets.fill(panel)
        panel.add_heading("Selected part")
        self._add_selected()
        panel.add_text("Clashes are judged by boxes of the kit’s sizes. Check on the rig itself.", "ink3")
        panel.end()
        panel.filled = (*shown[:6], self._loose is None, *shown[7:])

    def _add_loose(self) -> None:
        """Name what nothing on the build takes yet, and what is missing between."""
        build = self.workspace.build
        self.loose, self.loose_links = (), []
        if build is None or self.model is None:
            return
        if self._loose is None:
            self._loose = loose_rows(build, self.workspace.book, self.model.seats)
        self.loose = self._loose
        if not self.loose:
            return
        self.panel.add_heading("Loose parts", "J puts on the first")
        for row in self.loose:
            link = LinkLabel(row.part.name)
            set_tip(link, "Choose how the part goes on the build")
            link.clicked.connect(partial(self._join_later, row))
            holder = QVBoxLayout()
            holder.setContentsMargins(24, 3, 24, 4)
            holder.setSpacing(0)
            holder.addWidget(link)
            holder.addWidget(label(row.words[:1].upper() + row.words[1:], 13, 400, "ink2", wrap=True))
            self.panel.rows.addLayout(holder)
            self.loose_links.append(link)

    def _join_later(self, row: LooseRow) -> None:
        QTimer.singleShot(0, lambda: self.join(row))

    def join_first(self, spares: bool = True) -> None:
        """Join the first part that nothing takes yet, or else any loose part in a way of the user's own, spares too."""
        build = self.workspace.build
        if build is None or self.model is None or not build.parts:
            return
        if self.loose:
            self.join(self.loose[0])
            return
        book, on_build = self.workspace.book, {placed.part_id for placed in build.parts}
        left = [part for part in book.kit if part.id not in on_build]
        part = next((part for part in left if spares or not is_spare(part, build, book)), None)
        if part is not None:
            self.join(loose_row(build, book, part))
        elif left:
            self.workspace.refused.emit("Only spares are left. J puts one on with a connection of your own.")
        else:
            self.workspace.refused.emit("Every part of the kit is on this build. Add the next one in Weigh.")

    @property
    def joining_comes_first(self) -> bool:
        """Whether a part that nothing takes yet comes before those that fit, in the order of work."""
        if self._picked or not self.loose or self.model is None:
            return False
        first = next((seat.part for seat in self.model.seats if not seat.astray), None)
        return first is None or work_key(self.loose[0].part) < work_key(first)

    def join(self, row: LooseRow) -> None:
        """Let it be chosen how a part is joined to the build, and join it."""
        from equilix.desktop.dialogs.join import JoinDialog

        build = self.workspace.build
        if build is None:
            return
        dialog = JoinDialog(row, build, self.workspace, self.window())
        if dialog.exec() == JoinDialog.DialogCode.Accepted and dialog.edit is not None:
            self._apply_and_select(dialog.edit, dialog.part.id)
        self.drawing.setFocus()

    def _select_later(self, placed_id: str) -> None:
        # Selecting rebuilds the panel, and with it the words that are being clicked.
        QTimer.singleShot(0, lambda: self.workspace.select(placed_id))

    def _add_selected(self) -> None:
        build, selected = self.workspace.build, self.workspace.selected
        if build is None or not selected:
            self.panel.add_text("Click a part, or step with Up and Down.")
            return
        placed = build.placed(selected)
        self.selected_name = self.panel.add_text(self.workspace.book.name_of(placed), "ink", 15)
        row = QHBoxLayout()
        row.setContentsMargins(24, 4, 24, 6)
        row.setSpacing(8)
        for text, tip, slot in (
            ("Take off", "Takes the part off, with what sits on it (Delete)", self.take_off),
            ("Turn", "A quarter turn to the left (T)", self.turn),
            ("Mark", "Type its mark or its angle (M)", lambda: self.slides.type_mark()),
            ("Sets…", "Sets of parts that go on and come off together (S)", self.sets.open_menu),
        ):
            button = QPushButton(text)
            set_tip(button, tip)
            button.clicked.connect(slot)
            row.addWidget(button)
        row.addStretch()
        self.panel.rows.addLayout(row)
        self.belongs = self.panel.add_text(belongs_to(placed), "ink2")
        self.belongs.setVisible(bool(placed.sets))
        self.panel.add_text("Left and Right slide it 1 mm, with Shift 10 mm.", "ink3")

    def _fill_tray(self) -> None:
        analysis = self.workspace.analysis()
        self._tray_filled = analysis is not None
        if analysis is None:
            return
        kit, system = self.workspace.book.parts, self.workspace.system
        free = self.chosen
        seats: tuple[Seat, ...] = self.model.seats if self.model is not None else ()
        self.offers, self._misfits = offers(analysis, kit, free, seats, system)
        if free is not None:
            self.tray_title.setText(spot_title(free, analysis.build, kit))
        else:
            self.tray_title.setText("First part" if not analysis.build.parts else "No loose part fits as it is")
        note = f"{len(self.offers)} of {len(kit)} parts. Drag one on, or press its number"
        if not self.offers:
            note = "No part of the kit fits here. Ctrl+T adds typical parts, J makes a connection of your own."
        if self.joining_comes_first:
            note = f"Next: {short_name(self.loose[0].part.name)}. Enter or J puts it on."
        self.tray_note.setText(note)
        others = len(self._misfits)
        self.why.setVisible(others > 0)
        self.why.setText(f"{others} {'does' if others == 1 else 'do'} not fit. Show why")
        self.tray.setFixedHeight(round(96 * text_scale()))
        self.tray.show_offers(self.offers)

    def _show_why(self) -> None:
        menu = QMenu(self)
        for misfit in self._misfits[:40]:
            action = menu.addAction(as_item(f"{misfit.part.name} {misfit.reason}"))
            action.setEnabled(False)
        menu.exec(self.why.mapToGlobal(self.why.rect().topLeft()))

    # Acting

    def _press(self, key: tuple[str, ...], _x: float, _y: float) -> None:
        if key and key[0] in ("mount", "foot") and self.model is not None:
            self.choose_spot(key)

    def choose_spot(self, key: tuple[str, ...]) -> None:
        """Make a free mount or foot the one that the tray is about."""
        if self.model is None:
            return
        self.chosen = next((spot for spot in self.model.mounts if spot_key(spot) == key), None)
        self._picked = self.chosen is not None
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
            self._apply_and_select(placing(build.id, offer.seat, setting or 0.0), offer.part.id)

    def _apply_and_select(self, edit: Edit, part_id: str) -> None:
        self.workspace.apply(edit, part_id)

    def _drop(self, part_id: str, x: float, y: float) -> None:
        key = self.drawing.scene.hit(x, y)
        if not self.drawing.takes_anywhere:
            if key is None or key[0] not in ("mount", "foot"):
                return
            self.choose_spot(key)
        offer = next((o for o in self.offers if o.part.id == part_id), None)
        if offer is None:
            self.workspace.refused.emit(
                f"{self.workspace.book.part(part_id).name} does not fit there. Choose another mount."
            )
            return
        self._place(offer)

    def take_off(self) -> None:
        """Take the selected part, and what sits on it, off the build."""
        build, selected = self.workspace.build, self.workspace.selected
        if build is not None and selected:
            QTimer.singleShot(0, lambda: self._take_off(build, selected))

    def _take_off(self, build: Build, placed_id: str) -> None:
        w = self.workspace
        gone = taken_off(build, placed_id, heart_of(build, w.book))
        name = w.book.name_of(build.placed(placed_id))
        if w.apply(TakeOff(build.id, placed_id)):
            along = len(gone) - 1
            more = f" and {'the part' if along == 1 else f'the {along} parts'} on it" if along else ""
            w.said.emit(f"Took off {name}{more}. Ctrl+Z brings {'them' if along else 'it'} back")

    def turn(self) -> None:
        """Turn the selected part by a quarter."""
        build, selected = self.workspace.build, self.workspace.selected
        if build is not None and selected:
            QTimer.singleShot(0, lambda: self.workspace.apply(QuarterTurn(build.id, selected)))

    def _key(self, event: QKeyEvent) -> None:
        if event.isAccepted():
            return  # a drag was put back
        key, modifiers = event.key(), event.modifiers()
        both = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        build, selected = self.workspace.build, self.workspace.selected
        single = self.workspace.preferences.single_keys
        if build is None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            QTimer.singleShot(0, self.begin_empty)
        elif key == Qt.Key.Key_Delete:
            self.take_off()
        elif key == Qt.Key.Key_T and single:
            self.turn()
        elif key in (Qt.Key.Key_BracketLeft, Qt.Key.Key_BracketRight):
            self.step_mount(-1 if key == Qt.Key.Key_BracketLeft else 1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.advice.chosen is not None:
            self.advice.apply_way()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.offers and not self.joining_comes_first:
            self.put_on(0)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            QTimer.singleShot(0, partial(self.join_first, False))
        elif key == Qt.Key.Key_J and single:
            QTimer.singleShot(0, self.join_first)
        elif key == Qt.Key.Key_M and single:
            self.slides.type_mark()
        elif key == Qt.Key.Key_S and single and not modifiers & Qt.KeyboardModifier.ControlModifier:
            QTimer.singleShot(0, self.sets.open_menu)
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


def _draw_step(scene: Scene, step: StepModel, number: int, x: float, wide: float, current: bool) -> None:
    top = 40.0
    if current:
        scene.path(rect(x, top - 2, wide, 80), "tint")
        scene.line(x, top - 2, x + wide, top - 2, "accent", 3.0)
    elif number:
        scene.line(x, top + 8, x, top + 72, "rule", 1.0)
    cx, cy = x + 12, top + 18
    if step.clashes:
        scene.path(circle(cx, cy, 8.5), "paper", "fwd", 1.5)
        scene.path(polygon(((cx, cy - 5), (cx - 5, cy + 3.5), (cx + 5, cy + 3.5))), "fwd")
    elif step.done:
        scene.path(circle(cx, cy, 8.5), "accent")
        scene.path(polyline(((cx - 4, cy), (cx - 1, cy + 3), (cx + 4, cy - 3.5))), None, "onaccent", 1.8)
    else:
        scene.path(circle(cx, cy, 8.5), "paper", "ink3", 1.2)
        scene.text(cx, cy + 4, str(number + 1), 11.5, 600, "ink2", Anchor.MIDDLE)
    metrics = QFontMetricsF(font(13, 500))
    scene.text(
        x + 25,
        cy + 5,
        metrics.elidedText(step.name, Qt.TextElideMode.ElideRight, (wide - 28) * text_scale()),
        13,
        500 if step.done or current else 400,
        "ink" if step.done or current else "ink2",
    )
    _draw_beam(scene, step, x + 6, cy + 22, wide - 18)
    if wide >= 112:
        scene.text(x + 6, cy + 46, step.mass_text or "–", 13, 500, "ink" if step.done else "ink3")
    if wide >= 74:
        scene.text(x + wide - 12, cy + 46, step.ahead_text, 13, 500, "ink" if step.done else "ink3", Anchor.END)


def _draw_beam(scene: Scene, step: StepModel, x: float, y: float, wide: float) -> None:
    scene.line(x, y, x + wide, y, "rule2", 1.0)
    zero = x + wide / 2
    scene.path(polygon(((zero, y + 1), (zero - 5, y + 8), (zero + 5, y + 8))), "ink2")
    if step.ahead is None:
        return
    reach = wide / 2 / 0.15
    at = min(max(zero + step.ahead * reach, x), x + wide)
    if step.without is not None:
        late = min(max(zero + step.without * reach, x), x + wide)
        scene.path(circle(late, y, 3.5), "paper", "ink3", 1.2, (2.0, 1.6))
    scene.line(zero, y, at, y, "back" if step.ahead < 0 else "fwd", 1.8)
    scene.path(circle(at, y, 4.5), "accent" if step.done else "paper", "accent", 1.5)
