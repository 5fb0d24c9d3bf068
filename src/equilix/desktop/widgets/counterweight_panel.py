"""A counterweight's lever: type a mass and see where it goes, or a place and see what mass it takes."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from equilix.core.assembly.build import Placed
from equilix.core.assembly.mounts import FreeMount
from equilix.core.errors import EditError
from equilix.core.solver.counterweight import Lever, lever_of
from equilix.core.solver.dead_weight import MOST_DEAD_WEIGHT, weight_block, weight_mounts
from equilix.core.units import Kind
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.refusal import refuse_at
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.workspace import Workspace
from equilix.document.edits.builds import ApplyPlan
from equilix.present.balance.trade_view import draw_lever, draw_waiting
from equilix.present.supports import text_of
from equilix.present.units import figure, parse, readable
from equilix.present.words import mount_name


class CounterweightPanel(QWidget):
    """One mount at a time: mass and place follow each other by the lever."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.lever: Lever | None = None
        self.mass: float | None = None
        self.place: float | None = None
        self._levers: dict[FreeMount, Lever] = {}
        self._mounts: tuple[FreeMount, ...] = ()
        self._by_mass = False
        self._beside = False  # whether there are free mounts that do not count
        self.mounts = QComboBox()
        self.mounts.setAccessibleName("Mount for the counterweight")
        self.mass_field = QLineEdit()
        self.mass_field.setAccessibleName("Mass of the counterweight")
        self.place_field = QLineEdit()
        self.place_field.setAccessibleName("Mark of the counterweight")
        for field in (self.mass_field, self.place_field):
            field.setFixedWidth(96)
        self.words = label("", 13, 500, "ink2", wrap=True)
        self.picture = SceneView("Distance of the counterweight")
        self.add = QPushButton("Put it there")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 6)
        layout.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(label("on", 13, 400, "ink2"))
        row.addWidget(self.mounts, 1)
        row.addWidget(label("mass", 13, 400, "ink2"))
        row.addWidget(self.mass_field)
        row.addWidget(label("at mark", 13, 400, "ink2"))
        row.addWidget(self.place_field)
        row.addWidget(self.add)
        layout.addLayout(row)
        layout.addWidget(self.picture, 1)
        layout.addWidget(self.words)
        self.mounts.activated.connect(self._choose)
        self.mass_field.editingFinished.connect(self._type_mass)
        self.place_field.editingFinished.connect(self._type_place)
        self.picture.resized.connect(self._draw)
        self.add.clicked.connect(self.put_on)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Take the present build's free mounts and moment."""
        if not self.isVisible():
            return
        analysis = self.workspace.analysis()
        free = weight_mounts(analysis.build, self.workspace.book.parts) if analysis is not None else ()
        levers = {one: lever_of(analysis, one) for one in free} if analysis is not None else {}
        self._levers = {one: lever for one, lever in levers.items() if lever is not None}
        self._mounts = tuple(self._levers)
        self._beside = analysis is not None and analysis.equilibrium is not None and len(free) > 0
        kit = self.workspace.book.parts
        names = [mount_name(free, analysis.build, kit) for free in self._mounts] if analysis is not None else []
        if [self.mounts.itemText(i) for i in range(self.mounts.count())] != names:
            self.mounts.clear()
            self.mounts.addItems(names)
            self.mounts.setCurrentIndex(self._best())
            self._by_mass, self.place = False, None
        self._take_lever()

    def _best(self) -> int:
        """Return the mount on which the least mass would do."""
        best, least = 0, float("inf")
        for i, lever in enumerate(self._levers.values()):
            masses = [lever.mass_at(end) for end in (lever.low, lever.high)]
            smallest = min((m for m in masses if m is not None), default=float("inf"))
            if smallest < least:
                best, least = i, smallest
        return best

    def _choose(self, _index: int) -> None:
        self._by_mass, self.place = False, None
        self._take_lever()

    def _take_lever(self) -> None:
        index = self.mounts.currentIndex()
        lever = self.lever = self._levers[self._mounts[index]] if 0 <= index < len(self._mounts) else None
        if lever is not None and self.place is None:
            ends = sorted((lever.low, lever.high), key=lambda end: lever.mass_at(end) or float("inf"))
            self.place = ends[0]
        self._follow()

    def _follow(self) -> None:
        """Work the mass out from the place, or the place from the mass, and show both."""
        lever = self.lever
        if lever is not None and self._by_mass and self.mass is not None:
            self.place = lever.place_for(self.mass)
        elif lever is not None and self.place is not None:
            self.mass = lever.mass_at(self.place)
        system = self.workspace.system
        at = None if self.place is None or lever is None else self.place - lever.low
        for field, text in (
            (self.mass_field, "" if self.mass is None else figure(self.mass, Kind.MASS, system)),
            (self.place_field, "" if at is None else figure(at, Kind.LENGTH, system)),
        ):
            # Ways that arrive meanwhile must not wipe out what is being typed.
            if not field.isModified():
                field.setText(text)
        self.words.setText(self._say())
        fits = lever is not None and self.mass is not None and self.place is not None
        within = fits and lever is not None and lever.beyond(self.place or 0.0) < 1e-6
        self.add.setEnabled(bool(within and (self.mass or 0.0) <= MOST_DEAD_WEIGHT))
        self._draw()

    def _say(self) -> str:
        lever, system = self.lever, self.workspace.system
        if lever is None and self._beside:
            return "Every free mount lies off the parts that turn. A weight there levels nothing."
        if lever is None:
            return "No mount is free, or nothing holds the rig yet."
        if abs(lever.moment) < 1e-4:
            return "The rig is level. It needs no counterweight."
        if self.mass is None or self.place is None:
            return "From there it pulls the wrong way. Choose a mount on the light side."
        beyond = lever.beyond(self.place)
        if beyond > 1e-6:
            return f"The mark lies {figure(beyond, Kind.LENGTH, system)} beyond the end. A heavier one comes closer."
        arm = figure(abs(lever.arm(self.place, self.mass)), Kind.LENGTH, system)
        caution = " It does nothing else: a slide or a larger battery may do."
        return f"{figure(self.mass, Kind.MASS, system)} at {arm} levels the rig.{caution}"

    def _type_mass(self) -> None:
        self._type(self.mass_field, Kind.MASS, True)

    def _type_place(self) -> None:
        self._type(self.place_field, Kind.LENGTH, False)

    def _type(self, field: QLineEdit, kind: Kind, by_mass: bool) -> None:
        if self.lever is None or not field.isModified():
            return
        field.setModified(False)
        try:
            value = parse(field.text(), kind, self.workspace.system)
            if by_mass and value <= 0.0:
                raise EditError("The mass must be above zero. Type one.")
        except EditError as error:
            refuse_at(field, readable(str(error), self.workspace.system))
            field.setModified(True)
            return
        self._by_mass = by_mass
        if by_mass:
            self.mass = value
        else:
            self.place = min(max(value + self.lever.low, self.lever.low), self.lever.high)
        self._follow()

    def _draw(self) -> None:
        width, height = self.picture.scene_width, self.picture.scene_height
        if width < 120 or height < 60:
            return
        if self.lever is None:
            self.picture.show_scene(draw_waiting("", width, height))
            return
        lever = self.lever
        mass = self.mass if self.place is not None else None
        analysis = self.workspace.analysis()
        label = text_of(analysis).label if analysis is not None else ""
        self.picture.show_scene(draw_lever(lever, mass, self.place, self.workspace.system, width, height, label))

    def put_on(self) -> None:
        """Put a block of that mass there."""
        build, index = self.workspace.build, self.mounts.currentIndex()
        if build is None or self.mass is None or self.place is None or not 0 <= index < len(self._mounts):
            return
        free = self._mounts[index]
        part = weight_block(self.mass, free.mount.kind, "new counterweight")
        placed = Placed("new counterweight", part.id, free.placed_id, free.mount.id, 0, self.place)
        edit = ApplyPlan(replace(build, parts=(*build.parts, placed)), (part,), "Add counterweight")
        self.workspace.apply(edit)
