"""What would make a build easier to carry: other places for the grips, another hold, a brace, shorter takes."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from enum import StrEnum
from itertools import combinations, product

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Brace, Build, Hold, Kit, Operator, Placed, Take
from equilix.core.assembly.mounts import free_mounts, mount_of
from equilix.core.assembly.resolve import prepare
from equilix.core.carry.carried import (
    Carry,
    carry,
    head_bend,
    head_lever,
    reserves,
    rest_for,
)
from equilix.core.chosen import hold_of, with_hold
from equilix.core.kit.parts import Category, Connection, Mount, Part
from equilix.core.operator.endurance import head_posture_limit
from equilix.core.operator.strength import BodyJoint as BodyJoint
from equilix.core.registry import support_for
from equilix.core.rounding import ROUNDING, negligible
from equilix.core.solver.search_space import steadying_variable
from equilix.core.sources import common_practice
from equilix.core.statics.grasps import hands_at
from equilix.core.statics.looking import gaze_down, screen_from_eye
from equilix.core.statics.pose import Hindrance

#: m between the places tried along a slide.
STEP = 0.010
#: kg that may ride on a slide with the grips: heavier ones are for balance, not for the hands.
MOST_ON_GRIP_SLIDE = common_practice(1.5)
#: What may ride along when a hand's place moves.
GRIP_GEAR = frozenset({Category.GRIP, Category.CLAMP, Category.ARM, Category.HANDLE, Category.RODS, Category.OTHER})
#: rad below level: the middle of what the eyes see without the neck.
_MIDDLE_GAZE = common_practice(math.radians(15.0))
#: How many of the best places for a screen are checked for clashes.
_SCREENS_TRIED = 12
#: A way is worth naming from this much more holding time.
WORTH = common_practice(1.05)
#: Steadiness over what it is now from which a way buys any.
LEAST_STEADIER = common_practice(1.10)
#: … and from this much less of the strength.
LEAST_SHARE = common_practice(0.01)


class LighterKind(StrEnum):
    GRIPS = "grips"
    HOLD = "hold"
    BRACE = "brace"
    SCREEN = "screen"
    SPLIT = "split"
    STEADIER = "steadier"


class Lighter(Struct, frozen=True, eq=False):
    """One way: the build with other grips or another hold, `after`, or other `takes`; `carried` is how it is then.

    `moved` gives placed part and way (m) of each slide that moves, `turned` placed part and angle (rad) of each
    rosette that turns; `held` the hold where that changes.
    """

    kind: LighterKind
    carried: Carry
    after: Analysis | None = None
    held: Hold | None = None
    takes: tuple[Take, ...] = ()
    moved: tuple[tuple[str, float], ...] = ()
    turned: tuple[tuple[str, float], ...] = ()


def ways_to_lighten(
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    support: str,
    takes: Sequence[Take],
    go_on: Callable[[], bool] = lambda: True,
) -> tuple[Lighter, ...]:
    """Return the ways that make takes at least 5 % longer safe at less of the strength, the longest first.

    Splitting takes comes last but one: it costs the day rather than the rig. In the hands what steadies the rig most
    comes last, which costs holding time. `go_on` is asked between steps.
    """
    now = carry(analysis, operator, support)
    if isinstance(now, Hindrance):
        return ()
    found: list[Lighter | None] = []
    # No hold of the hands spares a neck.
    by_the_arms = now.worst.joint is not BodyJoint.NECK
    if by_the_arms and go_on():
        moved = best_grips(analysis, kit, operator, support, go_on)
        if moved is not None:
            found.append(moved)
    if support_for(support).in_hands and go_on():
        place = best_hold(analysis, operator, support)
        if place is not None:
            found.append(_held_so(LighterKind.HOLD, analysis, kit, operator, support, place))
    if by_the_arms and go_on():
        found.append(best_brace(analysis, kit, operator, support))
    if not by_the_arms and go_on():
        found.append(best_screen(analysis, kit, operator, support))
    good = [way for way in found if way is not None and _worth(way.carried, now)]
    good.sort(key=lambda way: -way.carried.safe)
    split = split_takes(now, takes)
    if split is not None:
        good.append(Lighter(LighterKind.SPLIT, now, takes=split))
    if support_for(support).in_hands and go_on():
        steadier = best_steadier(analysis, kit, operator, support, go_on)
        if steadier is not None:
            good.append(steadier)
    return tuple(good)


def best_steadier(
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    support: str,
    go_on: Callable[[], bool] = lambda: True,
) -> Lighter | None:
    """Return the counterweight or heavier battery of the kit that steadies a rig in the hands most, in tilt.

    None if nothing steadies it by a tenth, or if it could not be held then. On the shoulder the ways to balance hold
    this way as well.
    """
    now = carry(analysis, operator, support)
    if isinstance(now, Hindrance) or now.steady is None:
        return None
    variable = steadying_variable(analysis, kit)
    clashes = len(analysis.findings)
    best: Lighter | None = None
    most = LEAST_STEADIER * now.steady[1]
    for option in variable.options:
        if option.current or not go_on():
            continue
        kept = tuple(placed for placed in analysis.build.parts if placed.id != option.placed.id)
        after = analyse(replace(analysis.build, parts=(*kept, option.placed)), kit, operator)
        then = carry(after, operator, support)
        if isinstance(then, Hindrance) or then.steady is None or then.out_of_reach or len(after.findings) > clashes:
            continue
        if then.steady[1] > most and then.to_the_end > 0.0:
            best, most = Lighter(LighterKind.STEADIER, then, after), then.steady[1]
    return best


def _worth(then: Carry, now: Carry) -> bool:
    """Whether takes are so much longer that it is worth a change; a hair less of a light load is not."""
    if then.safe < WORTH * now.safe or then.safe <= 0.0:
        return False
    return now.by_posture or then.worst.share <= now.worst.share - LEAST_SHARE


def _held_so(
    kind: LighterKind, analysis: Analysis, kit: Kit, operator: Operator, support: str, held: Hold
) -> Lighter | None:
    after = analyse(with_hold(analysis.build, held, support), kit, operator, analysis)
    carried = carry(after, operator, support)
    return None if isinstance(carried, Hindrance) else Lighter(kind, carried, after, held)


def best_hold(analysis: Analysis, operator: Operator, support: str) -> Hold | None:
    """Return the place where the rig is held the longest in the hands, None if it can't be or a brace settles it.

    Tries places 60 mm apart within reach that leave room for the chest, then 30 mm apart about the best; the eye is
    not asked.
    """
    now = hold_of(analysis.build, support)
    if now.brace not in (Brace.NONE, Brace.ELBOWS):
        return None
    found: Carry | None = None
    tried: set[tuple[int, int]] = set()

    def try_at(ahead: int, below: int) -> None:
        nonlocal found
        if (ahead, below) in tried or not 220 <= ahead <= 460 or not 50 <= below <= 500:
            return
        tried.add((ahead, below))
        held = replace(now, ahead=ahead / 1000.0, below=below / 1000.0)
        carried = carry(analysis, operator, support, held)
        if isinstance(carried, Hindrance):
            return
        if not carried.out_of_reach and (found is None or carried.better_than(found)):
            found = carried

    for ahead in range(220, 461, 60):
        for below in range(50, 500, 60):
            try_at(ahead, below)
    for _ in range(2):
        if found is None or found.hold.ahead is None or found.hold.below is None:
            return None
        ahead, below = round(1000.0 * found.hold.ahead), round(1000.0 * found.hold.below)
        for dx in (-30, 0, 30):
            for dz in (-30, 0, 30):
                try_at(ahead + dx, below + dz)
    return found.hold if found is not None else None


def best_brace(analysis: Analysis, kit: Kit, operator: Operator, support: str) -> Lighter | None:
    """Return the brace that lasts longest of those that can be reached, None if there is none but the present one.

    On the shoulder only tucked elbows brace.
    """
    now = hold_of(analysis.build, support)
    tried = tuple(brace for brace in support_for(support).braces if brace is not Brace.NONE)
    found = [
        way
        for brace in tried
        if brace is not now.brace
        and (way := _held_so(LighterKind.BRACE, analysis, kit, operator, support, replace(now, brace=brace)))
        and not way.carried.out_of_reach
        and not way.carried.pose.missed
    ]
    return max(found, key=lambda way: way.carried.safe, default=None)


def best_screen(analysis: Analysis, kit: Kit, operator: Operator, support: str) -> Lighter | None:
    """Return the screen on another free mount, or elsewhere along its slide, where the neck is strained least.

    The screen goes with the arm or mount that holds it, and an arm of the kit that the build does not use may hold
    that. Places that clash, or that the eye does not see, are left out, and those for which the head would be held for
    less long by its posture than now: bent back it rests on its joints, which ISO 11226 does not recommend.
    """
    build, assembly = analysis.build, analysis.assembly
    now = carry(analysis, operator, support)
    if isinstance(now, Hindrance):
        return None
    index = {placed.id: i for i, placed in enumerate(build.parts)}
    moved: dict[str, Placed] = {}
    for placed, part in zip(build.parts, assembly.parts, strict=True):
        if part.category is Category.MONITOR:
            root = placed
            while root.parent is not None and assembly.parts[index[root.parent]].category is Category.ARM:
                root = build.placed(root.parent)
            if root.parent is not None and not root.reversed and root.own is None:
                moved[root.id] = root
    tried: list[tuple[tuple[float, float, float], Build]] = []

    def try_it(other: Build) -> None:
        made = prepare(other, kit)
        # Neither pad nor hands move with the screen, so the rig stays where it is on the body.
        way = screen_from_eye(made, made.at(made.settings(other)), now.body, now.shift)
        if way is not None:
            gaze = gaze_down(way)
            tried.append(((-_head_lasts(gaze), round(abs(head_lever(gaze)), 3), abs(gaze - _MIDDLE_GAZE)), other))

    used = {placed.part_id for placed in build.parts}
    spares = [part for part in kit.values() if part.category is Category.ARM and part.id not in used]
    for root in moved.values():
        riding = set(build.carried_by(root.id))
        spots = [(free.placed_id, free.mount) for free in free_mounts(build, kit) if free.placed_id not in riding]
        own = mount_of(root, build, kit)
        if own is not None and root.parent is not None:
            spots.append((root.parent, own))
        for parent, mount in spots:
            for seat in _seats(kit[root.part_id], root, parent, mount):
                try_it(_reseated(build, seat))
            for arm in spares:
                for seat in _seats(arm, Placed(_free_id(build, arm.id), arm.id), parent, mount, (0, 1, 3)):
                    for end in arm.mounts:
                        for held in _seats(kit[root.part_id], root, seat.id, end):
                            try_it(_reseated(build, held, seat))
    tried.sort(key=lambda pair: pair[0])
    lasts = _head_lasts(now.gaze) if now.gaze is not None else 0.0
    for _, other in tried[:_SCREENS_TRIED]:
        after = analyse(other, kit, operator)
        carried = carry(after, operator, support)
        if isinstance(carried, Hindrance) or carried.gaze is None or len(after.findings) > len(analysis.findings):
            continue
        if carried.better_than(now) and _head_lasts(carried.gaze) >= lasts:
            return Lighter(LighterKind.SCREEN, carried, after)
    return None


def _head_lasts(gaze: float) -> float:
    """Return how long (s) a head may be held for a `gaze` (rad below level), by its posture alone."""
    return head_posture_limit(head_bend(gaze))


def _settings(mount: Mount) -> tuple[float, ...]:
    """Return where on `mount` a screen is tried: every 30 mm of a slide, else its middle."""
    if mount.joint is not Connection.SLIDE:
        return (mount.snap(0.0),)
    count = int((mount.high - mount.low) / _ROUGH[Connection.SLIDE]) + 1
    return tuple(mount.snap(mount.low + k * _ROUGH[Connection.SLIDE]) for k in range(count + 1))


def _seats(part: Part, placed: Placed, parent: str, mount: Mount, turns: Sequence[int] = (0,)) -> Iterator[Placed]:
    """Yield `placed`, a placing of `part`, on every foot that fits `mount`, at the settings that are tried."""
    for foot, kind in enumerate(part.feet):
        if kind.kind is mount.kind:
            for setting in _settings(mount):
                for turn in turns:
                    yield replace(placed, parent=parent, mount=mount.id, foot=foot, setting=setting, quarter_turns=turn)


def _free_id(build: Build, wanted: str) -> str:
    ids = {placed.id for placed in build.parts}
    return next(name for name in (wanted, *(f"{wanted}-{n}" for n in range(2, len(ids) + 3))) if name not in ids)


def _reseated(build: Build, changed: Placed, holder: Placed | None = None) -> Build:
    """Return the build with `changed` on another parent; `holder`, if given, is a new part between the two."""
    new = (holder,) if holder is not None else ()
    others = tuple(changed if placed.id == changed.id else placed for placed in build.parts)
    return replace(build, parts=(*others, *new))


class GripJoint(Struct, frozen=True):
    """A slide or a rosette that moves a hand's place and little else: the placed part that it holds, and its mount."""

    placed_id: str
    mount: Mount


def grip_joints(analysis: Analysis) -> tuple[GripJoint, ...]:
    """Return the joints between the hands' places and the rest of the rig, from the hand inwards, each once.

    Those that carry more than 1.5 kg, or what belongs to the camera, are for balance and not for the hands.
    """
    assembly, build = analysis.assembly, analysis.build
    index = {placed.id: i for i, placed in enumerate(build.parts)}
    found: dict[str, GripJoint] = {}
    for place in hands_at(assembly, analysis.positions, hold_of(build)):
        placed = build.parts[place.part]
        while placed.parent is not None:
            carried = [index[i] for i in build.carried_by(placed.id)]
            gear = all(assembly.parts[i].category in GRIP_GEAR for i in carried)
            if not gear or float(assembly.mass[carried].sum()) > MOST_ON_GRIP_SLIDE:
                break
            mount = mount_of(placed, build, assembly.kit)
            assert mount is not None
            if mount.joint is not Connection.FIXED and mount.goes:
                found.setdefault(placed.id, GripJoint(placed.id, mount))
            placed = build.parts[index[placed.parent]]
    return tuple(found.values())


#: How far (m, rad) apart the first places tried along a joint are: every 5th detent of a rosette.
_ROUGH = {Connection.SLIDE: 0.030, Connection.TURN: math.radians(30.0)}


def best_grips(
    analysis: Analysis, kit: Kit, operator: Operator, support: str, go_on: Callable[[], bool] = lambda: True
) -> Lighter | None:
    """Return the grips where this operator holds the rig the longest, None if they can't be moved or are best there.

    First all slides and all rosettes alike, over their whole ranges; from the best of these roughly, each joint by
    itself, two of a kind together and against each other, which staggers the grips, until nothing gains; then
    finely. Clashing places and those out of reach are left out.
    """
    joints = grip_joints(analysis)
    now = carry(analysis, operator, support)
    if isinstance(now, Hindrance) or not joints:
        return None
    search = _GripSearch(analysis, now, joints, kit, operator, support, go_on)
    search.scatter()
    for fine in (False, True):
        for _ in range(3):
            if not search.round(fine):
                break
    if not go_on() or search.carried is now:
        return None
    start = {placed.id: placed.setting for placed in analysis.build.parts}
    changes = [
        (joint, search.settings[k] - start[joint.placed_id])
        for k, joint in enumerate(joints)
        if not negligible(search.settings[k] - start[joint.placed_id])
    ]
    moved, turned = (
        tuple((joint.placed_id, by) for joint, by in changes if joint.mount.joint is kind)
        for kind in (Connection.SLIDE, Connection.TURN)
    )
    return Lighter(LighterKind.GRIPS, search.carried, after=search.best, moved=moved, turned=turned)


class _GripSearch:
    """The best place found so far, and one round of trying others about it."""

    def __init__(
        self,
        analysis: Analysis,
        now: Carry,
        joints: tuple[GripJoint, ...],
        kit: Kit,
        operator: Operator,
        support: str,
        go_on: Callable[[], bool],
    ) -> None:
        self.best, self.carried = analysis, now
        self.joints, self.settings = joints, [analysis.build.placed(j.placed_id).setting for j in joints]
        self._kit, self._operator, self._support, self._go_on = kit, operator, support, go_on
        self._clashes = len(analysis.findings)
        self._seen: set[tuple[float, ...]] = set()
        alone = [[(k, 1.0)] for k in range(len(joints))]
        pairs = [
            (a, b) for a, b in combinations(range(len(joints)), 2) if joints[a].mount.joint is joints[b].mount.joint
        ]
        self._moves = [*alone, *([(a, 1.0), (b, sign)] for a, b in pairs for sign in (1.0, -1.0))]

    def scatter(self) -> None:
        """Try all joints of a kind at the same place of their ranges, five by five."""
        kinds = sorted({joint.mount.joint for joint in self.joints})
        for shares in product(np.linspace(0.0, 1.0, 5).tolist(), repeat=len(kinds)):
            if not self._go_on():
                return
            at = dict(zip(kinds, shares, strict=True))
            mounts = [joint.mount for joint in self.joints]
            self._try([m.snap(round(m.low + at[m.joint] * (m.high - m.low), 3)) for m in mounts])

    def round(self, fine: bool) -> bool:
        """Try every move once; return whether one gained."""
        gained = False
        for move in self._moves:
            mount = self.joints[move[0][0]].mount
            rough = _ROUGH[mount.joint]
            if fine:
                step = mount.step or STEP
                reach = rough
            else:
                step = rough
                reach = mount.high - mount.low
            count = int(reach / step + ROUNDING)
            middle = list(self.settings)
            for n in (*range(-count, 0), *range(1, count + 1)):
                if not self._go_on():
                    return False
                settings = list(middle)
                for k, sign in move:
                    settings[k] = self.joints[k].mount.snap(middle[k] + sign * n * step)
                gained |= self._try(settings)
        return gained

    def _try(self, settings: list[float]) -> bool:
        key = tuple(round(s, 6) for s in settings)
        if key in self._seen:
            return False
        self._seen.add(key)
        wanted = {joint.placed_id: s for joint, s in zip(self.joints, settings, strict=True)}
        parts = tuple(replace(p, setting=wanted.get(p.id, p.setting)) for p in self.best.build.parts)
        tried = analyse(replace(self.best.build, parts=parts), self._kit, self._operator, self.best)
        if len(tried.findings) > self._clashes:
            return False
        carried = carry(tried, self._operator, self._support)
        if isinstance(carried, Hindrance) or carried.out_of_reach:
            return False
        if not carried.better_than(self.carried):
            return False
        self.best, self.carried, self.settings = tried, carried, settings
        return True


def split_takes(carried: Carry, takes: Sequence[Take]) -> tuple[Take, ...] | None:
    """Return the takes with those cut that last longer than a safe take.

    None if none needs it, if one would have to be cut more than four times, or if it fails even so.
    """
    safe = carried.safe
    if safe <= 0.0:
        return None
    cut: list[Take] = []
    for take in takes:
        pieces = math.ceil(take.length / safe - ROUNDING)
        if pieces > 4:
            return None
        if pieces <= 1:
            cut.append(take)
            continue
        # Whole seconds, but no more than is safe.
        length = min(float(math.ceil(take.length / pieces)), max(safe, take.length / pieces))
        rest = rest_for(carried, length)
        if not math.isfinite(rest):
            return None
        pause = 60.0 * max(math.ceil(rest / 60.0), 1)
        cut += [Take(length, pause)] * (pieces - 1)
        cut.append(Take(length, max(take.rest, pause)))
    if tuple(cut) == tuple(takes) or any(run.fails is not None for run in reserves(carried, cut)):
        return None
    return tuple(cut)
