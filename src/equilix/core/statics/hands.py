"""The statics of a rig that hands hold, alone or with a pad and braces: one definition for every figure.

Pad and two hands together are statically indeterminate. Of all forces that hold the level rig those are taken that
ask the least of the arms: the worst share of any joint's capacity is made as small as can be, then the sum of the
squared shares, then what the patches press is spread evenly. Each stage is a weight in one strictly convex quadratic
programme, so the forces are unique and do not depend on what was computed before.

With ``arms`` the arms rest on what they hold, their own weight counts: what the body bears. Without, the figures are
those of the rig alone: what its balance asks of whoever holds it.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from msgspec import Struct

from equilix.core.frames import STANDARD_GRAVITY, cross
from equilix.core.operator.strength import BodyJoint
from equilix.core.rounding import ROUNDING, largest, negligible
from equilix.core.sources import assumed, from_memory
from equilix.core.statics.least_distance import MET, LeastDistance, none_below, size_of, solve
from equilix.core.statics.patches import cone_rays, hand_map, patch_rays, tangents

#: N, the unit of forces inside the programme, so that its numbers are near 1.
_UNIT = 100.0
#: Weight of the squared shares against the square of the worst one, and of the patches' spread against those: small
#: enough to cost the worst share less than 0.3 %, great enough for the programme to be well conditioned.
_SHARES, _SPREAD = 1e-4, 1e-2
#: Regions kept of one way to hold; those that served least go first, and are worked out again when asked for.
_MOST_REGIONS = 400
#: So few rigs are looked for in so many regions at once, all against all; more go through the regions one by one.
_FEW_RIGS, _FEW_REGIONS = 64, 48
#: By how much a side may be missed before there is no answer at all, and in a region that is kept for others.
_MISSED = 1e-7
#: m: a patch of the body that the rig rests against has about this size each way.
CONTACT_SPAN = assumed(0.060)
#: Cloth on cloth or rubber, low end.
CONTACT_FRICTION = from_memory(0.4)


class HandLoad(Struct, frozen=True, eq=False):
    """What one hand gives to the rig at `point` (3,) (m): `force` (3,) (N) and `couple` (3,) (N m), rig axes."""

    point: np.ndarray
    force: np.ndarray
    couple: np.ndarray

    @property
    def size(self) -> float:
        """Size of the force (N)."""
        return float(np.linalg.norm(self.force))


class Measure(Struct, frozen=True, eq=False):
    """One component of a joint's load: ``row @ [force, couple] + own``, in N m (hand: N), against `capacity`.

    `row` (6,) multiplies what the hand gives to the rig.
    """

    joint: BodyJoint
    row: np.ndarray
    own: float
    capacity: float

    def load(self, hand: HandLoad) -> float:
        """Return the component's load."""
        return float(self.row[:3] @ hand.force + self.row[3:] @ hand.couple) + self.own


class Hand(Struct, frozen=True, eq=False):
    """A hand at `point` (3,) (m): it gives sums of the columns of `ways` (6, n), force and couple at the point.

    `pushes`: only sums with positive amounts, as a flat palm does; a closed hand gives any.
    """

    point: np.ndarray
    measures: tuple[Measure, ...]
    ways: np.ndarray
    pushes: bool = False


class Contact(Struct, frozen=True, eq=False):
    """A patch of the body at `point` (3,) (m) that can push the rig along `normal` (3,) and rub, never pull."""

    point: np.ndarray
    normal: np.ndarray

    def rays(self, origin: np.ndarray) -> np.ndarray:
        """Return the wrenches (6, 32) about `origin` (3,) of unit pushes at the corners, along each cone ray."""
        side, up = tangents(self.normal)
        return patch_rays(self.point - origin, side, up, (CONTACT_SPAN, CONTACT_SPAN), CONTACT_FRICTION)


class Prop(Struct, frozen=True, eq=False):
    """Ribs that can push the elbow of hand number `hand` along `normal` (3,); `lever` (3,) (m) is shoulder to elbow."""

    hand: int
    normal: np.ndarray
    lever: np.ndarray


class Push(Struct, frozen=True, eq=False):
    """What a part of the body gives: `force` (3,) (N) and `moment` (3,) (N m) at `point` (3,) (m)."""

    point: np.ndarray
    force: np.ndarray
    moment: np.ndarray


class Held(Struct, frozen=True, eq=False):
    """Forces on the rig: by the hands, and by the pad `pad_force` (3,) (N), `pad_moment` (3,) (N m) about its middle.

    `braced` are those by contacts, `propped` (3,) (N) those on the elbows by the ribs. `worst` is the greatest share
    of capacity in the arms.
    """

    hands: tuple[HandLoad, ...]
    pad_force: np.ndarray
    pad_moment: np.ndarray
    worst: float
    braced: tuple[Push, ...] = ()
    propped: tuple[np.ndarray, ...] = ()

    @property
    def friction(self) -> float:
        """Level force (N) that rests on friction at the pad."""
        return float(np.hypot(self.pad_force[0], self.pad_force[1]))

    @property
    def larger(self) -> float:
        """Size of the larger hand's force (N)."""
        return max((hand.size for hand in self.hands), default=0.0)


class _Region(Struct, frozen=True, eq=False):
    """Where one set of sides is met: the answer (n, 4) per unit of the load, and what must stay positive (s, 4).

    Of the answer: the hands' forces (3 h, 4) (N), one below the other, and the pad's upward one (4,) (N).
    """

    answer: np.ndarray
    inside: np.ndarray
    hands: np.ndarray
    upward: np.ndarray


class Statics:
    """What holds a level rig at given places; only its mass and the place of its CG are still open.

    Any answer is linear in ``(1, W, W dx, W dy)`` with d the CG from the origin, as long as the same sides are met
    (parametric quadratic programming: Best, in Applied Mathematics and Parallel Computing (1996)); so each such region
    is worked out once and serves every rig within it.
    """

    def __init__(
        self,
        hands: Sequence[Hand],
        pad: tuple[np.ndarray, np.ndarray] | None = None,
        contacts: Sequence[Contact] = (),
        props: Sequence[Prop] = (),
        arms: bool = True,
        origin: np.ndarray | None = None,
    ) -> None:
        """Take `hands`, a `pad`'s middle (3,) (m) and rays (6, k) about it, `contacts` and ribs at elbows.

        All points are in one frame (m); `origin` (3,) is the pad, or else where moments are summed about.
        """
        self.hands, self.contacts, self.props = tuple(hands), tuple(contacts), tuple(props)
        points = [hand.point for hand in hands] or [np.zeros(3)]
        self.origin = pad[0] if pad is not None else (np.mean(points, axis=0) if origin is None else origin)
        self._patches = [pad[1]] if pad is not None else []
        self._has_pad = pad is not None
        self._patches += [contact.rays(self.origin) for contact in contacts]
        self._cones = [np.array(cone_rays(*tangents(prop.normal), CONTACT_FRICTION)).T for prop in props]
        self._prepare(arms)
        self._regions: list[_Region] = []
        self._first: tuple[list[_Region], np.ndarray] = ([], np.zeros((0, 0, 4)))

    def _prepare(self, arms: bool) -> None:
        sizes = [patch.shape[1] for patch in self._patches]
        sizes += [hand.ways.shape[1] for hand in self.hands] + [8] * len(self.props)
        starts = np.concatenate([[0], np.cumsum(sizes)]).astype(int)
        self._at = [slice(int(a), int(b)) for a, b in pairwise(starts)]
        n = int(starts[-1]) + 1
        p, h = len(self._patches), len(self.hands)
        balance = np.zeros((6, n))
        for at, patch in zip(self._at, self._patches, strict=False):
            balance[:, at] = patch
        maps = hand_map([hand.point for hand in self.hands], self.origin)
        for k, hand in enumerate(self.hands):
            balance[:, self._at[p + k]] = maps[:, 6 * k : 6 * k + 6] @ hand.ways
        balance[3:] *= 10.0  # levers are about 0.1 m: bring moments to the size of forces
        load = np.zeros((6, 4))
        load[2, 1], load[3, 3], load[4, 2] = 1.0, 10.0, -10.0
        asked = [(k, m) for k, hand in enumerate(self.hands) for m in hand.measures]
        shares, own = np.zeros((len(asked), n)), np.zeros((len(asked), 4))
        for row, (k, m) in enumerate(asked):
            shares[row, self._at[p + k]] = m.row @ self.hands[k].ways * (_UNIT / m.capacity)
            own[row, 0] = m.own / m.capacity if arms else 0.0
            for prop, cone, at in zip(self.props, self._cones, self._at[p + h :], strict=True):
                if prop.hand == k and m.joint is BodyJoint.SHOULDER:
                    # The measure's axis is what it multiplies the couple with, the other way round.
                    turned = [float(-m.row[3:] @ cross(prop.lever, ray)) for ray in cone.T]
                    shares[row, at] = np.array(turned) * (_UNIT / m.capacity)
        one_sided = list(range(p))
        one_sided += [p + k for k, hand in enumerate(self.hands) if hand.pushes]
        one_sided += range(p + h, len(self._at))
        pushing = np.array([j for k in one_sided for j in range(self._at[k].start, self._at[k].stop)], dtype=int)
        sums = np.zeros((1 + len(asked) + len(pushing), n))
        sums[0, -1] = 1.0
        sums[1 : 1 + len(asked)] = shares * _SHARES**0.5
        sums[1 + len(asked) + np.arange(len(pushing)), pushing] = (_SHARES * _SPREAD) ** 0.5
        offset = np.zeros((len(sums), 4))
        offset[1 : 1 + len(asked)] = own * _SHARES**0.5
        # Sides that hold: pushes are not negative, no share is above the worst one.
        sides, least = np.zeros((len(pushing) + 2 * len(asked), n)), np.zeros((len(pushing) + 2 * len(asked), 4))
        sides[np.arange(len(pushing)), pushing] = 1.0
        for sign, start in ((-1.0, len(pushing)), (1.0, len(pushing) + len(asked))):
            sides[start : start + len(asked)] = sign * shares
            sides[start : start + len(asked), -1] = 1.0
            least[start : start + len(asked)] = -sign * own
        shape = (*sizes, len(asked), int(arms))
        self._programme = LeastDistance(balance, load, sums, offset, sides, least, shape)

    def load(self, mass: np.ndarray | float, cg: np.ndarray) -> np.ndarray:
        """Return the load (..., 4) of rigs of `mass` (...) (kg) with CG `cg` (..., 3) (m)."""
        weight = mass * (STANDARD_GRAVITY / _UNIT)
        d = cg - self.origin
        if isinstance(weight, float):
            return np.array([1.0, weight, weight * d[0], weight * d[1]])
        return np.stack([np.ones_like(weight), weight, weight * d[..., 0], weight * d[..., 1]], axis=-1)

    def hold(self, mass: float, cg: np.ndarray) -> Held | None:
        """Return the forces that hold a rig of `mass` (kg) with CG `cg` (3,) (m), None if nothing holds it."""
        load = self.load(mass, cg)
        region = self._region(load)
        if region is None:
            return None
        x = region.answer @ load
        p, h = len(self._patches), len(self.hands)
        given = [patch @ x[at] * _UNIT for at, patch in zip(self._at, self._patches, strict=False)]
        by_pad = given.pop(0) if self._has_pad else np.zeros(6)
        loads = []
        for hand, at in zip(self.hands, self._at[p:], strict=False):
            wrench = hand.ways @ x[at] * _UNIT
            loads.append(HandLoad(hand.point, wrench[:3], wrench[3:]))
        braced = tuple(
            Push(contact.point, w[:3], w[3:] - cross(contact.point - self.origin, w[:3]))
            for contact, w in zip(self.contacts, given, strict=True)
        )
        propped = tuple(cone @ x[at] * _UNIT for cone, at in zip(self._cones, self._at[p + h :], strict=True))
        return Held(tuple(loads), by_pad[:3], by_pad[3:], float(x[-1]), braced, propped)

    def forces(self, mass: np.ndarray, cg: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Return the larger hand's force (d,) (N) and the pad's upward one (d,) (N) for d rigs at once.

        `mass` (d,) (kg), `cg` (d, 3) (m). Not a number where nothing holds the rig.
        """
        load = self.load(mass, cg)
        larger, upward = np.full(len(load), np.nan), np.full(len(load), np.nan)
        left = np.arange(len(load))
        if len(load) <= _FEW_RIGS and self._regions:
            left = self._fill_few(load, larger, upward)
            if not left.size:
                return larger, upward
        box = (load.min(axis=0), load.max(axis=0))
        hits: dict[int, int] = {}
        for region in list(self._regions):
            before = left.size
            left = self._fill(region, load, box, left, larger, upward)
            hits[id(region)] = before - left.size
            if not left.size:
                break
        # Those that serve most are asked first the next time.
        # A new list: a sampling thread may be reading or adding to the old one.
        self._regions = sorted(self._regions, key=lambda region: -hits.get(id(region), 0))[:_MOST_REGIONS]
        left = left[~self._programme.impossible(load[left])]
        while left.size:
            one = int(left[left.size // 2])
            found = self._region(load[one])
            if found is not None:
                left = self._fill(found, load, box, left, larger, upward)
            if one in left:
                # Not to be held, or on the very edge of its region: this one alone.
                if found is not None:
                    self._write(found, load, np.array([one]), larger, upward)
                left = left[left != one]
            if found is None:
                left = left[~self._programme.impossible(load[left])]
        return larger, upward

    def _fill_few(self, load: np.ndarray, larger: np.ndarray, upward: np.ndarray) -> np.ndarray:
        """Serve those of a few rigs that lie in one of the first regions; return the others."""
        # Regions and their table are taken together: a sampling thread may be putting others in their place.
        regions, inside = self._first
        if regions is not self._regions:
            regions = self._regions
            inside = np.array([region.inside for region in regions[:_FEW_REGIONS]])
            self._first = (regions, inside)
        # Mostly one serves them all.
        if none_below(inside[0] @ load.T):
            self._write(regions[0], load, np.arange(len(load)), larger, upward)
            return np.arange(0)
        serves = (inside @ load.T).min(axis=1, initial=0.0) >= -MET
        first = np.where(serves.any(axis=0), serves.argmax(axis=0), -1)
        for k in set(first.tolist()) - {-1}:
            self._write(regions[k], load, np.flatnonzero(first == k), larger, upward)
        return np.flatnonzero(first < 0)

    def _fill(
        self,
        region: _Region,
        load: np.ndarray,
        box: tuple[np.ndarray, np.ndarray],
        left: np.ndarray,
        larger: np.ndarray,
        upward: np.ndarray,
    ) -> np.ndarray:
        """Serve those of `left` that lie in `region`; return the others. All loads lie in `box` (4,), (4,)."""
        if not left.size:
            return left
        # Only the sides that some of them could be beyond need looking at, the one that cuts off most first.
        up, down = np.maximum(region.inside, 0.0), np.minimum(region.inside, 0.0)
        if not none_below(up @ box[1] + down @ box[0]):
            return left
        worst = up @ box[0] + down @ box[1]
        own = np.flatnonzero(worst < -MET)
        own = own[np.argsort(worst[own] / np.linalg.norm(region.inside[own], axis=1))]
        which = np.arange(left.size)
        for k in own:
            which = which[load[left[which]] @ region.inside[k] >= -MET]
            if not which.size:
                return left
        inside = np.zeros(left.size, dtype=bool)
        inside[which] = True
        self._write(region, load, left[inside], larger, upward)
        return left[~inside]

    def _write(
        self, region: _Region, load: np.ndarray, which: np.ndarray, larger: np.ndarray, upward: np.ndarray
    ) -> None:
        forces = (load[which] @ region.hands.T).reshape(len(which), -1, 3)
        larger[which] = np.sqrt((forces**2).sum(axis=2).max(axis=1, initial=0.0))
        if self._has_pad:
            upward[which] = load[which] @ region.upward

    def _region(self, load: np.ndarray) -> _Region | None:
        """Return the region in which `load` (4,) lies, None if nothing holds such a rig."""
        if not negligible(largest(self._programme.unmet @ load), ROUNDING * size_of(load)):
            return None
        # The one that serves best: on an edge between two both do, and give the same.
        for region in list(self._regions):
            if none_below(region.inside @ load):
                return region
        if self._programme.impossible(load[None])[0]:
            return None
        met = self._programme.met_sides(self._programme.least @ load)
        if met is None:
            return None
        region, off = self._at_sides(met)
        left = region.inside @ load
        outside = -float(left.min(initial=0.0))
        # Sides missed mean that there is no answer; multipliers below zero only that another set serves next door.
        missed = max(-float(left[: len(left) - len(met)].min(initial=0.0)), largest(off @ load))
        if not negligible(missed, _MISSED * size_of(load)):
            return None
        if negligible(max(outside, largest(off)), _MISSED):
            # A slide that is dragged asks near this one next.
            self._regions = [region, *self._regions[: _MOST_REGIONS - 1]]
        return region

    def _at_sides(self, met: tuple[int, ...]) -> tuple[_Region, np.ndarray]:
        """Return the region where these sides are met, and by how much they can't be (k, 4) per unit of the load.

        Sides that depend on each other, such as the rays of one corner, can't all be met by every load.
        """
        which = list(met)
        rows, least, gram = (
            self._programme.sides[which],
            self._programme.least[which],
            self._programme.gram[np.ix_(which, which)],
        )
        push = solve(gram, least)
        push = push + solve(gram, least - rows @ (rows.T @ push))
        u = rows.T @ push
        if met and not negligible(largest(rows @ u - least), MET * size_of(least)):
            # Sides that depend on each other, such as rays that are all but the same.
            u = np.linalg.lstsq(rows, least, rcond=MET)[0]
            push = np.linalg.lstsq(rows.T, u, rcond=MET)[0]
        others = np.delete(self._programme.sides @ u - self._programme.least, which, axis=0)
        answer = self._programme.best + self._programme.per_u @ u
        by_hands = [
            hand.ways[:3] @ answer[at] * _UNIT
            for hand, at in zip(self.hands, self._at[len(self._patches) :], strict=False)
        ]
        upward = self._patches[0][2] @ answer[self._at[0]] * _UNIT if self._has_pad else np.zeros(4)
        hands = np.concatenate(by_hands) if by_hands else np.zeros((0, 4))
        return _Region(answer, np.concatenate([others, push]), hands, upward), rows @ u - least


def propped_load(measure: Measure, hand: HandLoad, props: Sequence[tuple[Prop, np.ndarray]]) -> float:
    """Return a measure's load with the ribs' pushes (3,) (N) on the elbow of that hand."""
    load = measure.load(hand)
    if measure.joint is BodyJoint.SHOULDER:
        load += sum(float(-measure.row[3:] @ cross(prop.lever, push)) for prop, push in props)
    return load
