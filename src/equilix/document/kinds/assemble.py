"""Puts loose parts together as a good assistant would: plain and deterministic, with a question where nobody can know.

The first camera stands; every other part goes to the best of its kind's seats that is free. What is best costs least:
how early the seat and the holder are named, the side, what it would meet, who rather has no such thing. Never silently
to the next seat where a better one is blocked: that is asked.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.clash import find_clashes, freest, stands_free
from equilix.core.assembly.resolve import Assembly, Positions, prepare
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import AXES, Category, Connection, Part
from equilix.core.sources import common_practice
from equilix.document.kinds.makers import made_of
from equilix.document.kinds.naming import NameReading
from equilix.document.kinds.places import ANYWHERE, WAYS, Candidate, Joint, Loose, Space, Standing, point_of
from equilix.document.kinds.records import Kinds, PartKind, shipped_kinds

#: What a place costs where something is met; from so much on a typical piece is tried between.
_MEETS, _DEAR = common_practice((0.5, 0.3))
#: m between places that are tried along a slide.
_STEP = common_practice(0.005)
#: Fractions of a face that are tried, nearest first; most places on it.
_GRID = (-0.8, -0.6, -0.4, -0.2, 0.0, 0.2, 0.4, 0.6, 0.8)
#: Places that are tried for one part, and that are offered where it is asked.
_MOST_TRIED = 6
_MOST_CHOICES = 3
#: A part waits for no other that claims its place so much later.
_FAR = 40
#: Parts of a rig that is put together in one go, and what is said of the others.
_MOST_PARTS = 60
_TOO_MANY = f"a rig of {_MOST_PARTS} parts stands already: choose those that are for this rig"
#: Why a part stays off.
_NO_PLACE, _NO_NAME = "nothing on this rig takes it", "its name says nothing that is known"
_TAKEN_PLACE = "its usual place is taken"
#: Typical pieces between two parts, at most.
_DEEP = 2


class PlaceChoice(Struct, frozen=True):
    """One answer: what the part would go onto (a placed id), where it would lie of that, and how it would be placed."""

    onto: str
    relation: str
    placed: Placed


class Question(Struct, frozen=True):
    """What is asked about a part, why in words, and at most three answers, the best first, as which it is drawn."""

    part_id: str
    asks: str
    choices: tuple[PlaceChoice, ...]


class Spare(Struct, frozen=True):
    """A part that stays off, and why; `wanted` where it would go on if anything took it."""

    part_id: str
    why: str
    wanted: bool = False


class Assembled(Struct, frozen=True):
    """A rig put together: the build and its kit, with typical pieces that were put between."""

    build: Build
    kit: dict[str, Part]
    joints: tuple[Joint, ...]
    questions: tuple[Question, ...]
    spare: tuple[Spare, ...]
    clashes: tuple[tuple[str, str], ...]


def assemble(
    build: Build,
    kit: dict[str, Part],
    loose: Sequence[Loose],
    kinds: Kinds | None = None,
    known: dict[str, PartKind] | None = None,
    most: int = _MOST_PARTS,
) -> Assembled:
    """Return a build with the loose parts put on, at most so many joints.

    `known` are the kinds of the parts that are on the build already, by placed id.
    """
    work = _Work(build, dict(kit), kinds or shipped_kinds(), dict(known or {}))
    return work.run(list(loose), most)


def places_on(
    build: Build, kit: dict[str, Part], one: Loose, kinds: Kinds, known: dict[str, PartKind]
) -> Iterator[Candidate]:
    """Yield the places that a part usually has on a build, best first, each as free as it can be there.

    Where its kind has none, those of what nobody knows.
    """
    work = _Work(build, {**kit, one.part.id: one.part}, kinds, known)
    found = work.candidates(one) if one.reading.kind is not None else []
    found += [] if one.reading.kind is None else work.from_the_other_side(one)
    seen = set()
    for place in found or work.candidates(one, ANYWHERE):
        if (place.onto, place.relation) not in seen:
            seen.add((place.onto, place.relation))
            yield replace(place, placed=work.settled(place))


class _Work(Standing):
    def __init__(self, build: Build, kit: dict[str, Part], kinds: Kinds, known: dict[str, PartKind]) -> None:
        super().__init__(build, kit, kinds, known)
        self.questions: list[Question] = []
        self.spare: list[Spare] = []
        #: What a rig that stands already has.
        self.had = frozenset(kind.counts for kind in known.values())

    def run(self, loose: list[Loose], most: int) -> Assembled:
        self.loose = sorted(loose, key=lambda one: self._claim(one.reading.kind))
        for one in loose:
            self.kit[one.part.id] = one.part
        if not self.build.parts and self.loose:
            self._anchor()
        while self.loose and len(self.joints) < most:
            if len(self.build.parts) >= _MOST_PARTS:
                self.spare += [Spare(one.part.id, _TOO_MANY) for one in self.loose]
                break
            one = next((one for one in self.loose if not self._waits(one)), self.loose[0])
            self.loose.remove(one)
            self._put_on(one)
        self._over_the_cg()
        assembly, positions = self.geometry()
        ids = [placed.id for placed in self.build.parts]
        clashes = tuple((ids[one.first], ids[one.second]) for one in find_clashes(assembly, positions)) if ids else ()
        return Assembled(self.build, self.kit, tuple(self.joints), tuple(self.questions), tuple(self.spare), clashes)

    def _claim(self, kind: PartKind | None) -> int:
        """Return how early a kind claims its place: what is asked about after all others, what is not known last."""
        claims = self.kinds.claims
        if kind is None:
            return 3 * len(claims)
        rank = claims.index(kind.base) if kind.base in claims else len(claims)
        return rank + (len(claims) if kind.ask and kind.counts is not Category.GIMBAL else 0)

    def _of_another_support(self, kind: PartKind) -> bool:
        """Whether a part is a piece of a gimbal or a sled, and the rig is on none and has none of it."""
        own = next((pieces for pieces in self.kinds.pieces_of.values() if kind.counts in pieces), None)
        if own is None or kind.counts in self.kinds.pieces_of.get(self.build.support, ()):
            return False
        return not any(there.counts in own for there in self.of.values())

    # What stands

    def _anchor(self) -> None:
        """Put the part down that all others go on: on a vest the post, else the first camera, a board, the largest."""

        def key(one: Loose) -> tuple[int, float]:
            kind = one.reading.kind
            anchors = self.kinds.anchors
            rank = anchors.index(kind.base) if kind is not None and kind.base in anchors else len(anchors)
            if kind is not None and kind.base == "sled_post" and self.build.support != "vest":
                rank = len(anchors)
            size = one.part.outline.size if one.part.outline is not None else (0.0, 0.0, 0.0)
            return rank, -math.prod(size)

        first = min(self.loose, key=key)
        self.loose.remove(first)
        self.add(first, Placed(first.part.id, first.part.id))
        if not first.reading.sure:
            self.questions.append(Question(first.part.id, f"{_why(first, False)} It stands first.", ()))

    # Which goes on next

    def _waits(self, one: Loose) -> bool:
        """Whether a better holder of a part is still loose than any that stands, and is not asked about."""
        kind = one.reading.kind
        if kind is None:
            return any(other.reading.kind is not None for other in self.loose)
        best = next(((r, h) for r, rule in enumerate(kind.seats) for h, _ in self.holders(rule)), (len(kind.seats), 0))
        for other in self.loose:
            there = other.reading.kind
            if (
                other is one
                or there is None
                or there.base == kind.base
                or self._claim(there) > self._claim(kind) + _FAR
            ):
                continue
            ranks = [(r, rank) for r, rule in enumerate(kind.seats) if (rank := rule.ranks(there)) is not None]
            if ranks and min(ranks) < best and not self._serves(there, kind):
                return True
        return False

    def _serves(self, one: PartKind, other: PartKind) -> bool:
        """Whether `one` waits for `other` itself: it names that before anything that stands."""
        names = next((r for r, rule in enumerate(one.seats) if rule.ranks(other) is not None), None)
        stands = next((r for r, rule in enumerate(one.seats) if next(self.holders(rule), None) is not None), None)
        return names is not None and (stands is None or names < stands)

    def _put_on(self, one: Loose, deep: int = 0) -> bool:
        kind, part = one.reading.kind, one.part
        there = {placed.id: self.of.get(placed.id) for placed in self.build.parts}
        if kind is not None and kind.one and any(other is not None and _alike(other, kind) for other in there.values()):
            self.spare.append(Spare(part.id, f"one {kind.title} is on the rig"))
            return False
        if kind is not None and self._of_another_support(kind):
            self.spare.append(Spare(part.id, "it belongs to another support"))
            return False
        if kind is not None and self.build.support in kind.idle_on:
            self.spare.append(Spare(part.id, f"a {kind.title} does no job on this support"))
            return False
        candidates = self.candidates(one)
        candidates = candidates or self.from_the_other_side(one)
        if not candidates and kind is not None and kind.ask:
            candidates = self.candidates(one, ANYWHERE)
        chosen, blocked = self._free_one(candidates)
        blocked |= chosen is not None and chosen.cost >= _MEETS
        # Full rods are no reason to buy more; a place that meets something is one to go farther out.
        full = kind is not None and kind.needs == "rods" and any(other.rule == 0 for other in candidates)
        dear = chosen is None or (chosen.cost >= _DEAR and not full)
        if dear and deep < _DEEP and any(self._between(one, key, chosen, deep) for key in self._needed(kind, chosen)):
            return True
        if chosen is None:
            self.spare.append(Spare(part.id, self._no_place(kind), wanted=True))
            return False
        if blocked and kind is not None and not kind.ask and self._has_one(kind, chosen):
            self.spare.append(Spare(part.id, _TAKEN_PLACE))
            return False
        sure = one.reading.sure and not one.reading.asked and not blocked
        offered = [] if sure else list(self._offered(chosen, [*candidates, *self.candidates(one, ANYWHERE)]))
        self.add(one, chosen.placed)
        self.joints.append(Joint(chosen.placed.id, chosen.onto, chosen.relation, chosen.how, sure))
        if not sure:
            self.questions.append(Question(part.id, _why(one, blocked), tuple(offered)))
        return True

    def _needed(self, kind: PartKind | None, chosen: Candidate | None) -> list[str]:
        """Return the kinds of which a typical piece may go between a part and what stands; none on a gimbal."""
        if kind is None or self.build.support == "gimbal":
            return []
        keys = [kind.needs]
        if chosen is None and kind.counts is Category.BODY:
            keys += [there.needs for there in self.of.values()]
        return list(dict.fromkeys(key for key in keys if key))

    def _no_place(self, kind: PartKind | None) -> str:
        """Return why a part has no place, in words."""
        if kind is None:
            return _NO_NAME
        if not kind.needs:
            return _NO_PLACE
        needs = self.kinds.kind(kind.needs)
        one = needs.title if needs.counts is Category.RODS else f"a {needs.title}"
        return f"it needs {one}, and none is here"

    def _has_one(self, kind: PartKind, chosen: Candidate) -> bool:
        """Whether nobody takes a rig that stands apart for such a part: there is one, or it goes round the camera."""
        another = kind.counts in self.had and kind.counts is not Category.OTHER
        return another or (bool(self.had) and chosen.relation == "round")

    def _between(self, one: Loose, needs: str, chosen: Candidate | None, deep: int) -> bool:
        """Try a typical piece between: kept only where the part has a good place then."""
        piece = self.kinds.kind(needs)
        if any(loose.reading.kind is piece for loose in self.loose):
            return False
        kept = self.build, dict(self.of), list(self.joints), list(self.questions), list(self.spare)
        name = f"{piece.title[:1].upper()}{piece.title[1:]}, typical"
        number = sum(placed.id.startswith(f"typical-{piece.key}") for placed in self.build.parts)
        made = made_of(piece, f"typical-{piece.key}-{number + 1}", name)
        self.kit[made.id] = made
        self.loose.append(one)  # it wants a side of the rig, as all that is loose does
        stands = self._put_on(Loose(made, NameReading(piece)), deep + 1)
        self.loose.remove(one)
        if stands and not any(q.part_id == made.id for q in self.questions):
            self.joints[-1] = replace(self.joints[-1], guessed=True)
            found, blocked = self._free_one(self.candidates(one) or self.from_the_other_side(one))
            if (
                found is not None
                and not blocked
                and found.cost < (chosen.cost if chosen is not None else math.inf) - 0.1
            ):
                return self._put_on(one, _DEEP)
        self.build, self.of, self.joints, self.questions, self.spare = kept
        return False

    def _offered(self, chosen: Candidate, candidates: Sequence[Candidate]) -> Iterator[PlaceChoice]:
        """Yield at most three different places of a part, the chosen one first, each as free as it can be there."""
        yield PlaceChoice(chosen.onto, chosen.relation, chosen.placed)
        seen = {(chosen.onto, chosen.relation)}
        for one in candidates:
            if len(seen) == _MOST_CHOICES:
                return
            if (one.onto, one.relation) not in seen:
                seen.add((one.onto, one.relation))
                yield PlaceChoice(one.onto, one.relation, self.settled(one))

    def _free_one(self, candidates: Sequence[Candidate]) -> tuple[Candidate | None, bool]:
        """Return the cheapest place with what it would meet, and whether a better seat is blocked or it meets one."""
        best: Candidate | None = None
        best_cost, met = math.inf, False
        blocked_rules: set[int] = set()
        for tried, one in enumerate(candidates):
            if one.cost >= best_cost or tried >= _MOST_TRIED:
                break
            free, placed, space = self._settled(one)
            cost = one.cost + (0.0 if free else _MEETS)
            if not free:
                blocked_rules.add(one.rule)
            if cost < best_cost:
                best, best_cost, met = replace(one, placed=placed, cost=cost), cost, not free
                self._trial = space
        if best is None:
            return None, False
        return best, met or any(rule < best.rule for rule in blocked_rules)

    def settled(self, one: Candidate) -> Placed:
        """Return a part at a place, as free as it can be there."""
        return self._settled(one)[1]

    def _settled(self, one: Candidate) -> tuple[bool, Placed, Space | None]:
        """Return whether a part stands free at a place, and how it is placed there: slid, or elsewhere on the face."""
        trial = replace(self.build, parts=(*self.build.parts, one.placed))
        try:
            assembly = prepare(trial, self.kit)
        except AssemblyError:
            return False, one.placed, None
        new = len(trial.parts) - 1
        positions = assembly.at(assembly.settings(trial))
        link = self.mount_of(one.placed)
        if link is not None and link.joint is Connection.SLIDE and link.goes and new in assembly.slide_parts:
            j = assembly.slide_parts.index(new)
            now = float(assembly.settings(trial)[j])
            along = assembly.slide_axes[j]
            at = float(positions.centre[new] @ along)
            wish = now if one.wanted is None else now + one.wanted - at
            steps = np.arange(link.low, link.high + 1e-9, _STEP)
            steps = steps[np.argsort(np.abs(steps - wish).round(6), kind="stable")]
            k = freest(assembly, positions, new, (steps - now)[:, None] * along)
            placed = replace(one.placed, setting=link.snap(float(steps[k])))
            trial = replace(self.build, parts=(*self.build.parts, placed))
            positions = assembly.at(assembly.settings(trial))
            return stands_free(assembly, positions, new), placed, (trial, assembly, positions)
        if stands_free(assembly, positions, new):
            return True, one.placed, (trial, assembly, positions)
        if one.placed.own is None or one.placed.reversed or one.relation == "rods" or one.placed.own.kind in AXES:
            return False, one.placed, (trial, assembly, positions)
        return self._elsewhere(one, assembly, positions, new)

    def _elsewhere(
        self, one: Candidate, assembly: Assembly, positions: Positions, new: int
    ) -> tuple[bool, Placed, Space | None]:
        """Return the nearest free place on the same face."""
        own = one.placed.own
        assert own is not None
        holder = next(k for k, placed in enumerate(self.build.parts) if placed.id == one.onto)
        axis = WAYS[one.relation][0] if one.relation in WAYS else 2
        across = [k for k in range(3) if k != axis]
        half = assembly.half_size[holder]
        outline = assembly.parts[holder].outline
        if outline is None:
            return False, one.placed, None
        centre = np.array(outline.centre)
        here = np.array(own.at)
        places = []
        for a in _GRID:
            for b in _GRID:
                at = here.copy()
                at[across[0]], at[across[1]] = (centre[k] + f * half[k] for k, f in zip(across, (a, b), strict=True))
                places.append(at)
        places.sort(key=lambda at: float(np.linalg.norm(at - here)))
        shifts = np.array([assembly.rotation[holder] @ (at - here) for at in places])
        at = places[freest(assembly, positions, new, shifts)]
        placed = replace(one.placed, own=replace(own, at=point_of(at)))
        trial = replace(self.build, parts=(*self.build.parts, placed))
        again = prepare(trial, self.kit)
        there = again.at(again.settings(trial))
        return stands_free(again, there, new), placed, (trial, again, there)

    def _over_the_cg(self) -> None:
        """Slide a top handle and what the rig hangs by to over its CG, as far as nothing is met."""
        for placed in self.build.parts:
            kind = self.of.get(placed.id)
            if kind is None or kind.base not in ("top_handle", "eyelet") or placed.parent is None:
                continue
            assembly, positions = self.geometry()
            new = next(k for k, one in enumerate(self.build.parts) if one.id == placed.id)
            if new not in assembly.slide_parts or assembly.whole <= 0.0:
                continue
            j = assembly.slide_parts.index(new)
            mount, along = assembly.slide_mounts[j], assembly.slide_axes[j]
            cg = assembly.mass @ positions.cg / assembly.whole
            wish = placed.setting + float((cg - positions.centre[new]) @ along)
            steps = np.arange(mount.low, mount.high + 1e-9, _STEP)
            if not len(steps):
                continue
            steps = steps[np.argsort(np.abs(steps - wish).round(6), kind="stable")]
            carried = self.build.carried_by(placed.id)
            if len(carried) > 1:
                steps = steps[:1]
            k = freest(assembly, positions, new, (steps - placed.setting)[:, None] * along)
            moved = self.build.with_placed(replace(placed, setting=mount.snap(float(steps[k]))))
            before = len(find_clashes(assembly, positions))
            if len(find_clashes(assembly, assembly.at(assembly.settings(moved)))) <= before:
                self.build = moved


def _alike(one: PartKind, other: PartKind) -> bool:
    """Whether a rig has one of the two: cameras, cages and lenses of whatever kind, else the same kind."""
    return one.base == other.base or (
        one.one and other.one and one.counts is other.counts and one.counts in _ONE_OF_ALL
    )


_ONE_OF_ALL = frozenset({Category.BODY, Category.CAGE, Category.LENS, Category.MATTE_BOX})


def _why(one: Loose, blocked: bool) -> str:
    """Return why a part is asked about, in words."""
    reading = one.reading
    if reading.kind is None:
        return "What is this, and where does it go?"
    if reading.rivals:
        names = " or ".join(f"a {kind.title}" for kind in (reading.kind, *reading.rivals))
        return f"Is it {names}?"
    if reading.vague:
        return f"Is it a {reading.kind.title}?"
    if blocked and not reading.kind.ask:
        return "Its usual place is taken. Where does it go?"
    return "Where does it go? This differs from rig to rig."
