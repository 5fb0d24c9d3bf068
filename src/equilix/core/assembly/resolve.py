"""Places every part of a build in the rig frame, affine in the slides.

`prepare` walks the tree from its root once: turns and fixed joints become rotations, slides become directions.
`Assembly.at` then places everything for given slide settings with one cumulative sum, because the
parts that a slide carries stand next to each other in depth-first order.

Frames: "base" has its origin at that of the build's root and stands as the part that is level. The rig frame is
parallel to it with its origin at the sensor mark of the first camera body, or at the base origin if there is no
body.
"""

from __future__ import annotations

import operator
from collections.abc import Sequence

import numpy as np
from msgspec import Struct, field

from equilix.core.assembly.build import Build, Kit, Placed, check_build
from equilix.core.assembly.mounts import link_of
from equilix.core.cache import RigCache
from equilix.core.frames import in_rows, quarter_turn, rotation_about
from equilix.core.kit.parts import AXES, TOUCH_POINTS, Category, Connection, Mount, MountKind, Part, Shape
from equilix.core.kit.uncertainty import Uncertainties, cg_spread, part_uncertainties
from equilix.core.massprops.bodies import cuboid_inertia, cylinder_inertia
from equilix.core.rounding import ROUNDING

_UPRIGHT = np.eye(3)


class TouchPoint(Struct, frozen=True):
    """A grip, eyelet or shoulder contact of the build."""

    placed_id: str
    mount_id: str
    kind: MountKind
    part: int  # index in part order
    category: Category


class Axis(Struct, frozen=True, eq=False):
    """A joint that turns freely: `direction` (3,) in rig axes, and which parts (n,) lie beyond it, away from the root.

    `part` is the number of the part that turns on it there.
    """

    kind: MountKind
    part: int
    direction: np.ndarray
    beyond: np.ndarray
    mount: Mount


class Assembly(Struct, frozen=True, eq=False):
    """A build made ready: all arrays are read-only and in part order (n parts, k slides)."""

    build: Build
    kit: Kit
    parts: tuple[Part, ...]
    mass: np.ndarray  # (n,) kg, 0 where none is known
    whole: float  # kg, all of it
    missing: np.ndarray  # (n,) bool, no mass known
    uncertainties: Uncertainties
    cg_spread: np.ndarray  # (n, 3, 3) kg2 m2, m^2 R diag(u^2) R^T: what a part's doubtful CG adds to the static moment
    cg_spread_in_all: np.ndarray  # (3, 3) their sum
    rotation: np.ndarray  # (n, 3, 3) rig_from_part
    upright: np.ndarray  # (n,) bool, its box stands along the rig's axes
    half_size: np.ndarray  # (n, 3) m along the part's own axes; 0 where the size is unknown
    sized: np.ndarray  # (n,) bool
    inertia: np.ndarray  # (n, 3, 3) kg m2 about each CG, rig axes
    own_inertia: np.ndarray  # (3, 3) sum of `inertia`
    parent: np.ndarray  # (n,) index of the part that each sits on, -1 for the first
    touch_points: tuple[TouchPoint, ...]
    axes: tuple[Axis, ...]
    sensor: int | None  # index of the body whose mark is the rig's origin
    slide_parts: tuple[int, ...]  # (k,) index of the part that each slide carries first
    slide_mounts: tuple[Mount, ...]
    slide_axes: np.ndarray  # (k, 3) unit, rig axes
    slide_ends: np.ndarray  # (2, k) m, how low and how high each goes
    _moves: np.ndarray  # (n, k) 1 where a slide carries a part, else 0
    _carried: np.ndarray  # (k,) kg
    _origin0: np.ndarray  # (n, 3) part origins with all slides at 0, base frame
    _cg0: np.ndarray  # (n, 3)
    _centre0: np.ndarray  # (n, 3) outline middles
    _touch0: np.ndarray  # (t, 3)
    _touch_part: np.ndarray  # (t,)
    _axis0: np.ndarray  # (a, 3)
    _axis_part: np.ndarray  # (a,)
    _edges: np.ndarray  # (n, 3) half extents along the rig's axes
    #: What was worked out of it, wherever its slides stand.
    cache: RigCache = field(default_factory=RigCache)

    def settings(self, build: Build) -> np.ndarray:
        """Return the slide settings (k,) (m) of `build`, which must match this assembly."""
        return np.array([build.parts[i].setting for i in self.slide_parts], dtype=float)

    def matches(self, build: Build, kit: Kit) -> bool:
        """Whether `build` differs from this assembly's in slide settings alone, so that it can be used again."""
        if len(build.parts) != len(self.build.parts) or build.level != self.build.level:
            return False
        changed = [k for k, a in enumerate(build.parts) if a is not self.build.parts[k]]
        for k in changed:
            a, b = build.parts[k], self.build.parts[k]
            if not (_same_place(a, b) and (k in self.slide_parts or a.setting == b.setting)):
                return False
        found = [kit.get(placed.part_id) for placed in build.parts]
        return all(map(operator.is_, found, self.parts))

    def at(self, settings: np.ndarray) -> Positions:
        """Return where everything is for slide `settings` (k,) (m)."""
        if not self.parts:
            empty = np.zeros((0, 3))
            return Positions(np.zeros(3), empty, empty, empty, self._touch0, self._axis0)
        moved = self._moves @ (settings[:, None] * self.slide_axes)
        sensor = self._origin0[self.sensor] + moved[self.sensor] if self.sensor is not None else np.zeros(3)
        moved -= sensor
        return Positions(
            -sensor,
            self._origin0 + moved,
            self._cg0 + moved,
            self._centre0 + moved,
            self._touch0 + moved[self._touch_part],
            self._axis0 + moved[self._axis_part],
        )

    def carried_mass(self) -> np.ndarray:
        """Return the mass (k,) (kg) that each slide carries."""
        return self._carried

    def carries(self, slide: int, part: int) -> bool:
        """Whether slide number `slide` carries part number `part`."""
        return bool(self._moves[part, slide])

    def carried_by(self, slide: int) -> np.ndarray:
        """Return which parts (n,) slide number `slide` carries."""
        result: np.ndarray = self._moves[:, slide] > 0.0
        return result

    def carries_all(self) -> np.ndarray:
        """Return which parts (k, n) each slide carries."""
        result: np.ndarray = self._moves.T > 0.0
        return result

    def parts_two(self, slide: int, first: int, second: int) -> bool:
        """Whether slide number `slide` lies between two parts, so that it moves one against the other."""
        return self.carries(slide, first) != self.carries(slide, second)

    def slides_between(self, first: int, second: int) -> tuple[int, ...]:
        """Return the slides between two parts, in the order in which they are met on the way from `first`."""
        up, down = self._to_root(first), self._to_root(second)
        way = [i for i in up if i not in down] + [i for i in reversed(down) if i not in up]
        number = {part: j for j, part in enumerate(self.slide_parts)}
        return tuple(number[i] for i in way if i in number)

    def _to_root(self, part: int) -> list[int]:
        way = []
        while part >= 0:
            way.append(part)
            part = int(self.parent[part])
        return way

    @property
    def root(self) -> int:
        """Number of the part that everything sits on."""
        return int(self.parent.argmin())

    @property
    def edges(self) -> np.ndarray:
        """Half extents (n, 3) (m) of every outline along the rig's axes."""
        return self._edges


class Positions(Struct, frozen=True, eq=False):
    """Where everything is (m, rig frame): base origin (3,), part origins, CGs and outline middles (n, 3), touch
    points and axes."""

    base: np.ndarray
    origin: np.ndarray
    cg: np.ndarray
    centre: np.ndarray
    touch: np.ndarray
    axis: np.ndarray


def _same_place(a: Placed, b: Placed) -> bool:
    return (
        a.id == b.id
        and a.part_id == b.part_id
        and a.parent == b.parent
        and a.mount == b.mount
        and a.foot == b.foot
        and a.quarter_turns == b.quarter_turns
        and a.reversed == b.reversed
        and a.own == b.own
        and a.own_foot == b.own_foot
    )


def own_inertias(parts: Sequence[Part]) -> np.ndarray:
    """Return the parts' principal moments (n, 3) (kg m2) about their CGs along their own axes.

    A part without a size or a mass counts as a point.
    """
    size = np.array([part.outline.size if part.outline is not None else (0.0, 0.0, 0.0) for part in parts]).reshape(
        -1, 3
    )
    mass = np.array([(part.mass or 0.0) if part.outline is not None else 0.0 for part in parts])
    moments = cuboid_inertia(mass, size)
    rounds = [i for i, part in enumerate(parts) if part.outline is not None and part.outline.shape is Shape.CYLINDER]
    if rounds:
        moments[rounds] = cylinder_inertia(mass[rounds], size[rounds, 1] / 2.0, size[rounds, 0])
    return moments


def prepare(build: Build, kit: Kit) -> Assembly:
    """Return `build` made ready for fast placing.

    Raises
    ------
    AssemblyError
        If a part is not in the kit, or sits on a mount that is missing, of another kind or taken.
    """
    check_build(build, kit)
    n = len(build.parts)
    index = {placed.id: i for i, placed in enumerate(build.parts)}
    parts = tuple(kit[placed.part_id] for placed in build.parts)
    children: list[list[int]] = [[] for _ in range(n)]
    for i, placed in enumerate(build.parts):
        if placed.parent is not None:
            children[index[placed.parent]].append(i)

    rotation = np.zeros((n, 3, 3))
    origin = np.zeros((n, 3))
    slide_of: dict[int, tuple[Mount, np.ndarray]] = {}
    axis_of: dict[int, tuple[Mount, np.ndarray, np.ndarray]] = {}
    for i in build.from_root():
        placed = build.parts[i]
        turn = quarter_turn(placed.quarter_turns)
        link = link_of(placed, build, kit)
        if link is None:
            rotation[i] = _UPRIGHT
            continue
        parent, mount = index[placed.parent or ""], link.mount
        # An axis is always at home: what it is turned by is asked of figures, not of builds.
        if mount.joint is Connection.TURN and mount.kind not in AXES:
            turn = rotation_about(mount.unit_axis, placed.setting) @ turn
        if placed.reversed:
            rotation[i] = rotation[parent] @ turn.T
            at = origin[parent] + rotation[parent] @ link.foot_at
            origin[i] = at - rotation[i] @ mount.at
            axis = -(rotation[i] @ mount.unit_axis)
        else:
            rotation[i] = rotation[parent] @ turn
            at = origin[parent] + rotation[parent] @ mount.at
            origin[i] = at - rotation[i] @ link.foot_at
            axis = rotation[parent] @ mount.unit_axis
        if mount.joint is Connection.SLIDE:
            slide_of[i] = (mount, axis)
        elif mount.joint is Connection.TURN and mount.kind in AXES:
            axis_of[i] = (mount, axis, at)
    if n:
        turn = _level_turn(build, rotation)
        rotation, origin = turn @ rotation, origin @ turn.T
        slide_of = {i: (mount, turn @ axis) for i, (mount, axis) in slide_of.items()}
        axis_of = {i: (mount, turn @ axis, turn @ at) for i, (mount, axis, at) in axis_of.items()}
    slide_parts = sorted(slide_of)
    slide_mounts = [slide_of[i][0] for i in slide_parts]
    slide_axes = [slide_of[i][1] for i in slide_parts]

    rank, end = _depth_first(children, next((i for i, p in enumerate(build.parts) if p.parent is None), 0))
    half = np.array([_half_size(part) for part in parts]).reshape(n, 3)
    centre = np.array([part.outline.centre if part.outline else part.centre for part in parts]).reshape(n, 3)
    cg = np.array([part.centre for part in parts]).reshape(n, 3)
    principal = own_inertias(parts)
    inertia = np.einsum("nij,nj,nkj->nik", rotation, principal, rotation)

    mass, uncertainties = np.array([part.mass or 0.0 for part in parts]), part_uncertainties(parts)
    by_cg = cg_spread(mass, rotation, uncertainties)
    touch: list[TouchPoint] = []
    touch_at: list[np.ndarray] = []
    for i, part in enumerate(parts):
        for mount in part.mounts:
            if mount.kind in TOUCH_POINTS:
                touch.append(TouchPoint(build.parts[i].id, mount.id, mount.kind, i, part.category))
                touch_at.append(origin[i] + rotation[i] @ mount.at)
    bodies = [i for i, part in enumerate(parts) if part.category is Category.BODY]
    first = rank[slide_parts] if slide_parts else np.zeros(0, dtype=int)
    after = end[slide_parts] if slide_parts else np.zeros(0, dtype=int)
    moves = ((first <= rank[:, None]) & (rank[:, None] < after)).astype(float)
    return Assembly(
        build=build,
        kit=kit,
        parts=parts,
        mass=mass,
        whole=float(mass.sum()),
        missing=np.array([part.mass is None for part in parts], dtype=bool),
        uncertainties=uncertainties,
        cg_spread=by_cg,
        cg_spread_in_all=by_cg.sum(axis=0),
        rotation=rotation,
        upright=_upright(rotation),
        half_size=half,
        sized=np.array([part.outline is not None for part in parts], dtype=bool),
        inertia=inertia,
        own_inertia=inertia.sum(axis=0),
        parent=np.array([-1 if p.parent is None else index[p.parent] for p in build.parts], dtype=int),
        touch_points=tuple(touch),
        axes=tuple(
            Axis(mount.kind, i, axis, (rank >= rank[i]) & (rank < end[i]), mount)
            for i, (mount, axis, _) in sorted(axis_of.items())
        ),
        sensor=bodies[0] if bodies else None,
        slide_parts=tuple(slide_parts),
        slide_mounts=tuple(slide_mounts),
        slide_axes=in_rows(slide_axes),
        slide_ends=np.array([(mount.low, mount.high) for mount in slide_mounts]).reshape(-1, 2).T,
        _moves=moves,
        _carried=mass @ moves,
        _origin0=origin,
        _cg0=origin + np.einsum("nij,nj->ni", rotation, cg),
        _centre0=origin + np.einsum("nij,nj->ni", rotation, centre),
        _touch0=in_rows(touch_at),
        _touch_part=np.array([point.part for point in touch], dtype=int),
        _axis0=in_rows([axis_of[i][2] for i in sorted(axis_of)]),
        _axis_part=np.array(sorted(axis_of), dtype=int),
        _edges=np.einsum("nij,nj->ni", np.abs(rotation), half),
    )


def _upright(rotation: np.ndarray) -> np.ndarray:
    """Return which (n,) of the rotations (n, 3, 3) leave a box's sides along the axes."""
    size = np.abs(rotation)
    result: np.ndarray = (np.minimum(size, np.abs(size - 1.0)) < ROUNDING).all(axis=(1, 2))
    return result


def _level_turn(build: Build, rotation: np.ndarray) -> np.ndarray:
    """Return the turn (3, 3) about the root's origin that stands the level part level, with the rig's quarter turns."""
    root = next(placed for placed in build.parts if placed.parent is None)
    level = next((i for i, placed in enumerate(build.parts) if placed.id == build.level), None)
    result: np.ndarray = quarter_turn(root.quarter_turns) @ (rotation[level].T if level is not None else _UPRIGHT)
    return result


def _half_size(part: Part) -> tuple[float, float, float]:
    if part.outline is None:
        return (0.0, 0.0, 0.0)
    x, y, z = part.outline.size
    return (x / 2.0, y / 2.0, z / 2.0)


def _depth_first(children: list[list[int]], root: int) -> tuple[np.ndarray, np.ndarray]:
    """Return each part's place in depth-first order and the place after the last part that it carries."""
    n = len(children)
    rank = np.zeros(n, dtype=int)
    end = np.zeros(n, dtype=int)
    if n == 0:
        return rank, end
    count = 0
    stack: list[tuple[int, bool]] = [(root, False)]
    while stack:
        i, done = stack.pop()
        if done:
            end[i] = count
            continue
        rank[i] = count
        count += 1
        stack.append((i, True))
        stack.extend((child, False) for child in reversed(children[i]))
    return rank, end


def outline_corners(assembly: Assembly, positions: Positions, part: int) -> np.ndarray:
    """Return the eight corners (8, 3) (m, rig frame) of part number `part`'s outline."""
    corners: np.ndarray = positions.centre[part] + (BOX_CORNERS * assembly.half_size[part]) @ assembly.rotation[part].T
    return corners


def all_corners(assembly: Assembly, positions: Positions, parts: np.ndarray) -> np.ndarray:
    """Return the same (k, 8, 3) of the parts number `parts` (k,) at once."""
    turned = np.transpose(assembly.rotation[parts], (0, 2, 1))
    corners: np.ndarray = (
        positions.centre[parts][:, None, :] + (BOX_CORNERS * assembly.half_size[parts][:, None, :]) @ turned
    )
    return corners


#: Where the corners of a box are, in half sides from its middle.
BOX_CORNERS = np.array([[a, b, c] for a in (-1.0, 1.0) for b in (-1.0, 1.0) for c in (-1.0, 1.0)])
