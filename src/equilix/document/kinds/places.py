"""Where a part may go on the rig as it stands: by mounts that both have, along rods, or on a face of a holder."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.mounts import free_feet, free_mounts
from equilix.core.assembly.resolve import Assembly, Positions, prepare
from equilix.core.kit.parts import RODS, Category, Connection, Mount, MountKind, Part, Point
from equilix.core.sources import common_practice
from equilix.document.kinds.naming import NameReading
from equilix.document.kinds.records import Kinds, PartKind, SeatRule

#: What a place costs: for each seat that is named before it, each holder, each side; where people rather have no such
#: thing; where its holder's face is taken; on an arm that reaches to the other side.
_SEAT, _HOLDER, _SIDE, _LESS, _TAKEN, _OTHER_ARM = common_practice((0.10, 0.03, 0.02, 0.35, 0.5, 0.6))
#: m: how far a connection of its own slides either way.
OWN_SLIDES = common_practice(0.04)
#: What a mount that is not where the seat has it costs, for each metre.
_OFF = common_practice(0.2)
#: What it costs to be joined on a face: where no mount is made for it, and where one is.
_OWN, _ASIDE = common_practice((0.02, 0.05))
#: m: how far an axis of a gimbal clears what turns within it.
_CLEAR = common_practice(0.005)
#: Of the half size: a mount so far out lies on that face.
_ON_FACE = 0.55

#: How joints are called.
JOINT_WORDS = {
    "screw": "screw",
    "shoe": "shoe",
    "rail": "rail",
    "rosette": "rosette",
    "rods": "rod clamp",
    "rodclamp": "rod clamp",
    "vlock": "V-lock",
    "dovetail": "dovetail",
    "wedge": "wedge plate",
    "lens": "lens mount",
    "lensfront": "clipped on the lens",
    "stage": "stage seat",
    "bearing": "bearing seat",
    "base": "base seat",
    "tie": "fixed on",
    "strap": "strapped on",
    "clamp": "clamp",
    "foot": "lens foot",
    "clip": "clip",
    "pan": "pan axis",
    "roll": "roll axis",
    "tilt": "tilt axis",
    "frame": "frame joint",
}
#: What is never joined on a face: the other has the counterpart or not.
ONLY_BY_MOUNTS = frozenset({"lens", "lensfront", "vlock"})
#: Which way each place lies of its holder: the axis and the sign.
WAYS = {
    "top": (2, 1.0),
    "under": (2, -1.0),
    "ahead": (0, 1.0),
    "behind": (0, -1.0),
    "front": (0, 1.0),
    "back": (0, -1.0),
    "left": (1, 1.0),
    "right": (1, -1.0),
}
_SIDES = ("top", "under", "ahead", "behind", "left", "right")
#: In the words of the command line: what lies along rods is on them.
_RELATIONS = {"rods+": "rods", "rods-": "rods", "through": "rods", "front": "ahead", "back": "behind"}
#: What carries the part that it goes under or round.
_CARRY = frozenset({Category.PLATE, Category.CAGE, Category.GIMBAL})
#: Where what carries a part lies, seen from that part.
_SEEN_FROM_THERE = {"under": "top", "top": "under", "round": "in", "in": "round", "behind": "ahead", "ahead": "behind"}
#: Where a part goes of which nobody knows what it is: it is asked.
ANYWHERE = (
    SeatRule("top", ("top_plate", "*cage", "*body"), ("screw",), at=(-0.3, 0.0)),
    SeatRule("right", ("*cage", "*body"), ("screw",)),
    SeatRule("behind", ("*cage", "*body"), ("screw",)),
)


#: m: how far rods through reach beyond what clamps them, how much of one end stays in its clamp, and how far ahead of
#: the body the grips' clamp stands.
_THROUGH, _HELD, _AHEAD = common_practice((0.10, 0.02, 0.03))


class Joint(Struct, frozen=True):
    """A part as it is put on: its placed id, that of what it goes `onto`, where it lies of that and how it is joined.

    `sure` tells that nobody need be asked; `guessed` that it is a typical piece which is not in the bag.
    """

    placed_id: str
    onto: str
    relation: str
    how: str
    sure: bool = True
    guessed: bool = False


class Loose(Struct, frozen=True):
    """A part that is to be put on, and what its name or its user says of it."""

    part: Part
    reading: NameReading


class Candidate(Struct, frozen=True):
    """One place: what it costs but for meeting something, and the part as it is placed there."""

    cost: float
    rule: int
    onto: str
    relation: str
    how: str
    placed: Placed
    wanted: float | None = None  # m, rig frame: where along a slide it belongs


#: A build with its assembly and where everything is.
Space = tuple[Build, Assembly, Positions]


class Standing:
    """A rig as far as it is put together, and the places that a loose part has on it."""

    def __init__(self, build: Build, kit: dict[str, Part], kinds: Kinds, known: dict[str, PartKind]) -> None:
        self.build, self.kit, self.kinds, self.of = build, kit, kinds, known
        self.joints: list[Joint] = []
        self.traits: dict[str, frozenset[str]] = {}
        self.loose: list[Loose] = []
        self._space: Space | None = None
        self._trial: Space | None = None
        #: How what stood before lies: a part, what it is joined to, and where it lies of that.
        self.stood = _how_it_stood(build, *self.geometry()) if build.parts else ()

    def _lie_so(self) -> tuple[tuple[str, str, str], ...]:
        """Return how all parts lie, what stood before and what has been put on."""
        return (*self.stood, *((joint.placed_id, joint.onto, joint.relation) for joint in self.joints))

    def id_for(self, part: Part) -> str:
        """Return the id that a part gets on the build: its own, unless something there has that."""
        taken = {placed.id for placed in self.build.parts}
        return (
            part.id
            if part.id not in taken
            else next(name for number in range(1, len(taken) + 2) if (name := f"{part.id}, {number}") not in taken)
        )

    def geometry(self) -> tuple[Assembly, Positions]:
        if self._space is None or self._space[0] is not self.build:
            assembly = prepare(self.build, self.kit)
            self._space = self.build, assembly, assembly.at(assembly.settings(self.build))
        return self._space[1], self._space[2]

    def box(self, category: Category) -> tuple[np.ndarray, np.ndarray] | None:
        """Return the middle and half size (3,) (m, rig frame) of the first part of a category."""
        assembly, positions = self.geometry()
        k = next((k for k, part in enumerate(assembly.parts) if part.category is category), None)
        return None if k is None else (positions.centre[k], assembly.edges[k])

    def holders(self, rule: SeatRule) -> Iterator[tuple[int, str]]:
        """Yield what stands and is named by a seat: how early, and its placed id, in that order."""
        found = []
        for placed in self.build.parts:
            kind = self.of.get(placed.id)
            rank = rule.ranks(kind) if kind is not None else None
            if rank is None and kind is not None and kind.counts is Category.RODS and "rods" in rule.on:
                rank = rule.on.index("rods")
            if rank is not None:
                found.append((rank, placed.id))
        return iter(sorted(found, key=lambda pair: pair[0]))

    def candidates(self, one: Loose, rules: tuple[SeatRule, ...] | None = None) -> list[Candidate]:
        """Return the places of a part, cheapest first; by other `rules` than its kind's where they are given."""
        found: list[Candidate] = []
        rules = rules or (one.reading.kind.seats if one.reading.kind is not None else ANYWHERE)
        for r, rule in enumerate(rules):
            less = _LESS if self.build.support in rule.less_on else 0.0
            for rank, holder in self.holders(rule):
                for s, where in enumerate(self._wheres(one, rule, holder)):
                    cost = _SEAT * r + _HOLDER * rank + _SIDE * s + less
                    found += [
                        replace(option, cost=option.cost + cost, rule=r)
                        for option in self._options(one, rule, where, holder)
                    ]
        return sorted(found, key=lambda candidate: candidate.cost)

    def from_the_other_side(self, one: Loose) -> list[Candidate]:
        """Return where a part goes that carries what stands: by the seats of that, seen from the other side."""
        kind, found = one.reading.kind, list[Candidate]()
        if kind is None:
            return found
        for placed in self.build.parts:
            there = self.of.get(placed.id)
            for r, rule in enumerate(there.seats if there is not None else ()):
                rank = rule.ranks(kind)
                if rank is not None and rule.where in _SEEN_FROM_THERE:
                    for option in self._carrying(one, rule, placed.id):
                        found.append(replace(option, cost=option.cost + _SEAT * r + _HOLDER * rank, rule=r))
        return sorted(found, key=lambda candidate: candidate.cost)

    def _carrying(self, one: Loose, rule: SeatRule, standing: str) -> Iterator[Candidate]:
        """Yield how a part takes what stands by its feet, else face to face, if nothing has it there yet."""
        part, relation = one.part, _SEEN_FROM_THERE[rule.where]
        for by in rule.by:
            kinds = self.kinds.by.get(by.removesuffix("?"), ())
            for foot in free_feet(self.build, self.kit):
                mount = next((m for m in part.mounts if m.kind is foot.foot.kind and m.kind in kinds), None)
                if foot.placed_id == standing and mount is not None:
                    placed = Placed(self.id_for(part), part.id, standing, mount.id, foot.number, reversed=True)
                    yield Candidate(0.0, 0, standing, relation, JOINT_WORDS.get(by, by), placed)
                    return
        there = (
            (one_id, lies) if one_id == standing else (onto, _SEEN_FROM_THERE.get(lies, lies))
            for one_id, onto, lies in self._lie_so()
        )
        if (standing, rule.where) in there:
            return
        by = rule.by[0] if rule.by else "screw"
        where = "round" if relation == "in" else relation
        own = self._on_face(part, standing, where, replace(rule, at=(-rule.at[0], rule.at[1])), by)
        if own is not None and by not in ONLY_BY_MOUNTS:
            placed = Placed(self.id_for(part), part.id, standing, own=own[0], own_foot=own[1])
            yield Candidate(_OWN, 0, standing, relation, JOINT_WORDS.get(by, by), placed)

    def _wheres(self, one: Loose, rule: SeatRule, holder: str) -> tuple[str, ...]:
        """Return the places that a seat means, best first: sides by name, else away from the head; rods by need."""
        if rule.where == "side":
            named = [side for side in ("left", "right") if side in one.reading.traits]
            taken = [j.relation for j in self.joints if self.of.get(j.placed_id) is one.reading.kind]
            if len(named) == 1:
                return (named[0],)
            return ("left", "right") if taken and taken[-1] == "right" else ("right", "left")
        if rule.where == "rods" and one.reading.kind is not None and one.reading.kind.counts is Category.RODS:
            return self._rods_where(one, holder)
        return (rule.where,)

    def _rods_where(self, one: Loose, holder: str) -> tuple[str, ...]:
        wants = {"rods+": 0, "rods-": 0}
        for other in self.loose:
            kind = other.reading.kind
            first = kind.seats[0].where if kind is not None and kind.seats else ""
            if first in wants:
                wants[first] += 1
        ahead, behind = (
            any(relation == way and self.is_rods(placed) for placed, _, relation in self._lie_so())
            for way in ("ahead", "behind")
        )
        more = [
            other
            for other in self.loose
            if other.reading.kind is not None and other.reading.kind.counts is Category.RODS
        ]
        outline, base = one.part.outline, self.kit[self.build.placed(holder).part_id].outline
        long = outline is not None and base is not None and outline.size[0] >= base.size[0] + _THROUGH
        if wants["rods+"] and wants["rods-"] and not (ahead or behind or more) and long:
            return ("through", "ahead", "behind")
        if ahead or (wants["rods-"] > wants["rods+"] and not behind):
            return ("behind", "ahead")
        return ("ahead", "behind")

    def is_rods(self, placed_id: str) -> bool:
        kind = self.of.get(placed_id)
        return kind is not None and kind.counts is Category.RODS

    def _options(self, one: Loose, rule: SeatRule, where: str, holder: str) -> Iterator[Candidate]:
        """Yield how a part can be joined to a holder: by mounts that both have, else on the face itself."""
        part, relation = one.part, _RELATIONS.get(where, where)
        if where in ("rods+", "rods-") and self.is_rods(holder):
            yield from self._on_rods(one, where, holder)
            return
        yielded = False
        rods = one.reading.kind is not None and one.reading.kind.counts is Category.RODS
        full = (_TAKEN if rods and self._taken(holder, where) else 0.0) + self._wrong_arm(holder, where)
        if where != "through":
            for by in rule.by:
                kinds = self.kinds.by.get(by.removesuffix("?"), ())
                for placed, off in self.by_mounts(part, holder, where, kinds):
                    yielded = True
                    yield Candidate(
                        _OFF * off + full,
                        0,
                        holder,
                        relation,
                        JOINT_WORDS.get(by, by),
                        placed,
                        self._wish(one, where, holder),
                    )
                if yielded:
                    break
        by = next((by for by in rule.by if self._takes(holder, where, by)), rule.by[0] if rule.by else "screw")
        if by in ONLY_BY_MOUNTS:
            return
        own = self._on_face(part, holder, where, rule, by)
        if own is not None:
            taken = full or (_TAKEN if where in ("under", "round") and self._taken(holder, where) else 0.0)
            if where not in ("round", "through") and not any(self._takes(holder, where, one) for one in rule.by):
                taken = _TAKEN
            mount, foot = own
            placed = Placed(self.id_for(part), part.id, holder, own=mount, own_foot=foot)
            if where in ("under", "round") and part.category in _CARRY:
                # What lies below carries: it has the connection, and the other sits on it.
                turned = replace(mount, at=foot)
                placed = Placed(placed.id, part.id, holder, own=turned, own_foot=mount.at, reversed=True)
            yield Candidate(
                _OWN + taken + (_ASIDE if yielded else 0.0), 0, holder, relation, JOINT_WORDS.get(by, by), placed
            )

    def _takes(self, holder: str, where: str, by: str) -> bool:
        """Whether the face of a holder's kind takes such a joint."""
        kind = self.of.get(holder)
        face = {"under": "bottom", "ahead": "front", "behind": "back"}.get(where, where)
        return kind is not None and {by, f"{by}?"} & set(kind.faces.get(face, ())) != set()

    def _at_the_end(self, holder: str, where: str) -> bool:
        """Whether what goes to a side of a holder goes to the end of it, which is an arm."""
        kind = self.of.get(holder)
        return kind is not None and "end" in kind.faces and where in ("left", "right")

    def _wrong_arm(self, holder: str, where: str) -> float:
        """Return what it costs to hang on an arm that reaches to the other side."""
        other = {"left": "right", "right": "left"}.get(where)
        wrong = any(one == holder and lies_so == other for one, _, lies_so in self._lie_so())
        return _OTHER_ARM if wrong and self._at_the_end(holder, where) else 0.0

    def _taken(self, holder: str, where: str) -> bool:
        relation = _RELATIONS.get(where, where)
        also = "under" if where == "round" else relation
        return any(onto == holder and lies_so in (relation, also) for _, onto, lies_so in self._lie_so())

    def by_mounts(
        self, part: Part, holder: str, where: str, kinds: Sequence[MountKind]
    ) -> Iterator[tuple[Placed, float]]:
        """Yield how a part goes on a holder's free mounts, or its own mounts under its feet; how far off each lies."""
        base = self.kit[self.build.placed(holder).part_id]
        for free in free_mounts(self.build, self.kit):
            if free.placed_id != holder or free.mount.kind not in kinds:
                continue
            if not lies(base, free.mount, where) and not self._at_the_end(holder, where):
                continue
            foot = _foot_for(part, free.mount.kind, where)
            if foot is not None:
                yield Placed(self.id_for(part), part.id, holder, free.mount.id, foot), abs(free.mount.at[1])
        if where not in ("under", "round", "between"):
            return
        for under in free_feet(self.build, self.kit):
            if under.placed_id == holder and under.foot.kind in kinds:
                mount = next((m for m in part.mounts if m.kind is under.foot.kind), None)
                if mount is not None:
                    yield Placed(self.id_for(part), part.id, holder, mount.id, under.number, reversed=True), 0.0

    def _on_rods(self, one: Loose, where: str, holder: str) -> Iterator[Candidate]:
        """Yield a place on rods that lie on the side where such a part goes, or through."""
        assembly, positions = self.geometry()
        k = next(k for k, placed in enumerate(self.build.parts) if placed.id == holder)
        body = self.box(Category.BODY)
        middle = float(body[0][0]) if body is not None else 0.0
        low, high = (float(positions.centre[k, 0] + sign * assembly.edges[k, 0]) - middle for sign in (-1.0, 1.0))
        if (high if where == "rods+" else -low) < 0.06:
            return
        mount = next((m for m in self.kit[self.build.placed(holder).part_id].mounts if m.kind in RODS), None)
        foot = next((n for n, foot in enumerate(one.part.feet) if mount is not None and foot.kind is mount.kind), None)
        wish = self._wish(one, where, holder)
        if mount is None:
            return
        if foot is not None:
            placed = Placed(self.id_for(one.part), one.part.id, holder, mount.id, foot)
        else:
            bottom = face_point(one.part, (2, -1.0), (0.0, 0.0))
            own = Mount("own", MountKind.OWN, mount.at, Connection.SLIDE, low=mount.low, high=mount.high)
            placed = Placed(self.id_for(one.part), one.part.id, holder, own=own, own_foot=bottom)
        yield Candidate(0.0, 0, holder, "rods", JOINT_WORDS["rods"], placed, wish)

    def _wish(self, one: Loose, where: str, holder: str) -> float | None:
        """Return where along the rig (m) a part that slides belongs, None for where it lies by itself."""
        category = one.part.category
        body, lens = self.box(Category.BODY), self.box(Category.LENS)
        front = float(body[0][0] + body[1][0]) if body is not None else 0.0
        if where == "rods-":
            return -10.0
        if where == "rods+":
            if category is Category.MATTE_BOX and lens is not None:
                return float(lens[0][0] + lens[1][0])
            if category in (Category.LENS_SUPPORT, Category.FOCUS) and lens is not None:
                return float(lens[0][0])
            return front + _AHEAD
        if category is Category.RODS and one.part.outline is not None:
            assembly, positions = self.geometry()
            k = next(k for k, placed in enumerate(self.build.parts) if placed.id == holder)
            end = float(positions.centre[k, 0]) + (1.0 if where == "ahead" else -1.0) * float(assembly.edges[k, 0])
            return end + (1.0 if where == "ahead" else -1.0) * (one.part.outline.size[0] / 2.0 - _HELD)
        if category is Category.PAD and body is not None:
            return float(body[0][0]) - 0.5 * float(body[1][0])
        return None

    def _on_face(self, part: Part, holder: str, where: str, rule: SeatRule, by: str) -> tuple[Mount, Point] | None:
        """Return a connection on a face of a holder, and the point of the part that meets it; None without sizes."""
        base = self.kit[self.build.placed(holder).part_id]
        if part.outline is None or base.outline is None:
            return None
        if where == "through":
            clamp = next((m for m in base.mounts if m.kind is MountKind.LIGHT_ROD_CLAMP), None)
            at = (base.outline.centre[0], 0.0, clamp.at[2] if clamp is not None else base.outline.centre[2])
            return Mount("own", MountKind.OWN, at, Connection.SLIDE, low=-OWN_SLIDES, high=OWN_SLIDES), (0.0, 0.0, 0.0)
        if where == "round":
            return Mount("own", MountKind.OWN, base.outline.centre), part.outline.centre
        if where not in WAYS:
            return None
        axis, sign = WAYS[where]
        at = face_point(base, (axis, sign), rule.at)
        foot = face_point(part, (axis, -sign), (0.0, 0.0))
        if axis == 1 and part.category is Category.GRIP:
            # A hand holds what hangs below its joint.
            foot = (foot[0], foot[1], part.outline.centre[2] + part.outline.size[2] / 2.0 - 0.01)
        kind = {"pan": MountKind.PAN_AXIS, "roll": MountKind.ROLL_AXIS, "tilt": MountKind.TILT_AXIS}.get(by)
        if kind is not None:
            way = {"pan": (0.0, 0.0, 1.0), "roll": (1.0, 0.0, 0.0), "tilt": (0.0, 1.0, 0.0)}[by]
            return Mount("own", kind, self._outside(holder, axis, sign), Connection.TURN, way, -math.pi, math.pi), foot
        if rule.slides and axis == 2:
            return Mount("own", MountKind.OWN, at, Connection.SLIDE, low=-OWN_SLIDES, high=OWN_SLIDES), foot
        return Mount("own", MountKind.OWN, at), foot

    def _outside(self, holder: str, axis: int, sign: float) -> Point:
        """Return where (m, holder's frame) an axis clears all that stands, at the height of the camera's middle."""
        assembly, positions = self.geometry()
        k = next(k for k, placed in enumerate(self.build.parts) if placed.id == holder)
        body = self.box(Category.BODY)
        at = body[0].copy() if body is not None else positions.centre[k].copy()
        reach = sign * positions.centre[assembly.sized, axis] + assembly.edges[assembly.sized, axis]
        at[axis] = sign * (float(reach.max()) + _CLEAR)
        return point_of(assembly.rotation[k].T @ (at - self._origin(k)))

    def local(self, holder: str, at: np.ndarray) -> Point:
        """Return a point (3,) (m, rig frame) in the frame of a placed part."""
        assembly, _ = self.geometry()
        k = next(k for k, placed in enumerate(self.build.parts) if placed.id == holder)
        return point_of(assembly.rotation[k].T @ (at - self._origin(k)))

    def in_rig(self, holder: str, at: Point) -> np.ndarray:
        """Return a point in the frame of a placed part as one of the rig (3,) (m)."""
        assembly, _ = self.geometry()
        k = next(k for k, placed in enumerate(self.build.parts) if placed.id == holder)
        there: np.ndarray = assembly.rotation[k] @ np.array(at) + self._origin(k)
        return there

    def mount_of(self, placed: Placed) -> Mount | None:
        """Return the mount by which a part is joined that is not on the build yet."""
        if placed.own is not None or placed.parent is None:
            return placed.own
        owner = placed.part_id if placed.reversed else self.build.placed(placed.parent).part_id
        return self.kit[owner].mount(placed.mount)

    def _origin(self, k: int) -> np.ndarray:
        """Return the origin (3,) (m, rig frame) of part number `k`."""
        assembly, positions = self.geometry()
        outline = assembly.parts[k].outline
        middle = np.array(outline.centre if outline is not None else (0.0, 0.0, 0.0))
        result: np.ndarray = positions.centre[k] - assembly.rotation[k] @ middle
        return result

    def add(self, one: Loose, placed: Placed) -> None:
        self.build = replace(self.build, parts=(*self.build.parts, placed))
        if self._trial is not None and self._trial[0].parts == self.build.parts:
            # It was tried there: what was worked out for that holds.
            self._space = (self.build, *self._trial[1:])
        if one.reading.kind is not None:
            self.of[placed.id] = one.reading.kind
        self.traits[placed.id] = one.reading.traits


def _how_it_stood(build: Build, assembly: Assembly, positions: Positions) -> tuple[tuple[str, str, str], ...]:
    """Return how the parts of a build lie, from either side of each joint."""
    where = {placed.id: k for k, placed in enumerate(build.parts)}
    found = []
    for placed in build.parts:
        if placed.parent is None:
            continue
        here, there = where[placed.id], where[placed.parent]
        for one, other in ((here, there), (there, here)):
            away = positions.centre[one] - positions.centre[other]
            share = np.abs(away) / np.maximum(assembly.edges[one] + assembly.edges[other], 1e-6)
            axis = int(share.argmax())
            relation = next(w for w in _SIDES if WAYS[w] == (axis, 1.0 if away[axis] >= 0.0 else -1.0))
            found.append((build.parts[one].id, build.parts[other].id, relation))
    return tuple(found)


def lies(base: Part, mount: Mount, where: str) -> bool:
    """Whether a mount lies on that side of its part; what only goes one way always does."""
    if mount.kind in (
        MountKind.LENS_MOUNT,
        MountKind.LENS_FRONT,
        MountKind.V_LOCK,
        MountKind.STAGE_SEAT,
        MountKind.BASE_SEAT,
        MountKind.BEARING_SEAT,
    ):
        return True
    if mount.kind is MountKind.LIGHT_ROD_CLAMP:
        return where == ("ahead" if mount.low + mount.high >= 0.0 else "behind")
    # Nothing goes round a part by a screw on its top: it takes the part by its foot.
    if where not in WAYS or base.outline is None:
        return False
    axis, sign = WAYS[where]
    half = base.outline.size[axis] / 2.0
    return half == 0.0 or sign * (mount.at[axis] - base.outline.centre[axis]) >= _ON_FACE * half


def _foot_for(part: Part, kind: MountKind, where: str) -> int | None:
    """Return the number of the foot by which a part is joined there: of several the one that faces its holder."""
    feet = [k for k, foot in enumerate(part.feet) if foot.kind is kind]
    axis, sign = WAYS.get(where, (2, 0.0))
    return min(feet, key=lambda k: sign * part.feet[k].at[axis], default=None)


def face_point(part: Part, way: tuple[int, float], at: tuple[float, float]) -> Point:
    """Return the point (m, part frame) of a face at fractions of its half size."""
    assert part.outline is not None
    axis, sign = way
    centre, half = part.outline.centre, [value / 2.0 for value in part.outline.size]
    point = list(centre)
    point[axis] += sign * half[axis]
    across = [k for k in range(3) if k != axis]
    for k, share in zip(across, at, strict=True):
        point[k] += share * half[k]
    return point[0], point[1], point[2]


def point_of(values: np.ndarray) -> Point:
    x, y, z = (float(value) for value in values)
    return x, y, z
