"""What makes a rig easier to carry, against plain sums: where a known figure is best, the search must find it.

What carrying costs has its own references. Here it is replaced by a figure whose best place is known, so that each
search can be held to it; the screen's is tried with real eyes and necks.
"""

from __future__ import annotations

import itertools
import math
import unittest
from collections.abc import Callable
from types import SimpleNamespace
from typing import Any, cast
from unittest import mock

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Brace, Build, Hold, Operator, Placed, Take
from equilix.core.carry.carried import Carry, carry
from equilix.core.chosen import hold_of, with_hold
from equilix.core.kit.parts import Category, Connection, Foot, Mount, MountKind, Part
from equilix.core.operator.strength import BodyJoint as BodyJoint
from equilix.core.solver import lighten
from equilix.core.solver.choices import Option
from equilix.core.solver.lighten import (
    Lighter,
    LighterKind,
    best_brace,
    best_grips,
    best_hold,
    best_screen,
    best_steadier,
    grip_joints,
    ways_to_lighten,
)
from equilix.core.statics.pose import Hindrance
from tests.campaigns import campaign
from tests.rigs.plain import base, block, grip, rail

WOMAN = Operator("w", "W", 1.66, 61.0)
POST = Mount("post", MountKind.LIGHT_RODS, (0.4, 0.0, 0.0))
_CARRY = "equilix.core.solver.lighten.carry"


class Made(SimpleNamespace):
    """Stands for how a rig is carried: of two the one of more `worth` is better."""

    def __init__(self, worth: float = 0.0, **more: Any) -> None:
        given = {"out_of_reach": False, "steady": (1.0, 1.0, 1.0), "to_the_end": 60.0, "by_posture": False} | more
        given |= {"safe": more.get("safe", worth), "worst": SimpleNamespace(joint=BodyJoint.ELBOW, share=0.5)}
        if "share" in more or "joint" in more:
            joint, share = more.get("joint", BodyJoint.ELBOW), more.get("share", 0.5)
            given["worst"] = SimpleNamespace(joint=joint, share=share)
        super().__init__(worth=worth, **given)

    def better_than(self, other: Made) -> bool:
        return bool(self.worth > other.worth)


def handles(*mounts: tuple[Mount, Part], turn: Mount | None = None) -> tuple[Build, dict[str, Part]]:
    """Return a handheld base and camera with a part on each of its `mounts`, and a rosette arm with a grip."""
    camera = block("camera", 3.0, (0.2, 0.1, 0.12), Category.BODY)
    kit = {"base": replace(base(), mounts=(*base().mounts, *(mount for mount, _ in mounts))), "camera": camera}
    placed = [Placed("base", "base"), Placed("camera", "camera", "base", "rail", 0, 0.0)]
    for mount, part in mounts:
        kit[part.id] = part
        placed.append(Placed(part.id, part.id, "base", mount.id, 0, mount.snap((2.0 * mount.low + mount.high) / 3.0)))
    if turn is not None:
        arm = block("arm", 0.2, (0.1, 0.02, 0.02), Category.ARM, mounts=(turn,))
        kit |= {"arm": arm, "turned": grip("turned")}
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, POST))
        placed.append(Placed("arm", "arm", "base", "post"))
        placed.append(Placed("turned", "turned", "arm", turn.id, 0, turn.snap(0.0)))
    return Build("b", "Handles", tuple(placed), support="handheld"), kit


def along(name: str, y: float, low: float, high: float) -> Mount:
    """Return a slide along the rig, y (m) to its left."""
    return Mount(name, MountKind.LIGHT_RODS, (0.0, y, 0.0), Connection.SLIDE, (1.0, 0.0, 0.0), low, high)


class BestHold(unittest.TestCase):
    def found(self, worth: Callable[..., Any], hands: Hold | None = None) -> Hold | None:
        """Return the hold where `worth` of (ahead, below) (mm) is greatest, as the search finds it."""
        build, kit = handles()
        analysis = analyse(with_hold(build, hands or Hold()), kit, WOMAN)

        def carried(_analysis: Analysis, _operator: Operator, _support: str, held: Hold) -> object:
            self.assertIsNotNone(held.ahead)
            found = worth(1000.0 * held.ahead, 1000.0 * held.below)
            return found if isinstance(found, (Made, Hindrance)) else Made(found, hold=held)

        with mock.patch(_CARRY, carried):
            return best_hold(analysis, WOMAN, "handheld")

    def test_it_is_the_place_of_a_net_of_30_mm_next_to_where_the_best_one_is(self) -> None:
        rng = np.random.default_rng(5)
        for ahead, below in rng.uniform((225.0, 55.0), (455.0, 495.0), size=(40, 2)):
            held = self.found(lambda x, z, ahead=ahead, below=below: -((x - ahead) ** 2) - (z - below) ** 2)
            self.assertLessEqual(abs(1000.0 * held.ahead - ahead), 15.0 + 1e-6)
            self.assertLessEqual(abs(1000.0 * held.below - below), 15.0 + 1e-6)

    def test_it_is_never_beyond_reach_nor_against_the_chest(self) -> None:
        """Room for the chest and for the arms: 220 to 460 mm ahead, 50 to 500 mm below (common practice)."""
        corners = set()
        for x, z in itertools.product((-1.0, 1.0), repeat=2):
            held = self.found(lambda ahead, below, x=x, z=z: x * ahead + z * below)
            corners.add((round(1000.0 * held.ahead), round(1000.0 * held.below)))
        self.assertEqual(corners, set(itertools.product((220, 460), (50, 500))))

    def test_each_place_is_asked_once(self) -> None:
        asked: list[tuple[float, float]] = []

        def worth(ahead: float, below: float) -> float:
            asked.append((round(ahead), round(below)))
            return -abs(ahead - 340.0) - abs(below - 300.0)

        self.found(worth)
        self.assertEqual(len(asked), len(set(asked)))
        first = asked[: 5 * 8]
        self.assertEqual({x for x, _ in first}, {220, 280, 340, 400, 460})
        self.assertEqual({z for _, z in first}, {50, 110, 170, 230, 290, 350, 410, 470})

    def test_what_nobody_reaches_or_what_tips_over_is_no_place(self) -> None:
        away = self.found(lambda x, z: Made(x, out_of_reach=x > 350.0, hold=Hold(ahead=x / 1000.0, below=z / 1000.0)))
        self.assertAlmostEqual(away.ahead, 0.340)
        self.assertIsNone(self.found(lambda x, z: Made(x, out_of_reach=True)))
        self.assertIsNone(self.found(lambda x, z: Hindrance.NOT_HELD))
        tips = self.found(lambda x, z: Hindrance.NOT_HELD if x > 290.0 else x)
        self.assertAlmostEqual(tips.ahead, 0.280)

    def test_a_brace_settles_where_the_hands_are_elbows_do_not(self) -> None:
        self.assertIsNone(self.found(lambda x, z: x, Hold(brace=Brace.CHEST)))
        self.assertIsNotNone(self.found(lambda x, z: x, Hold(brace=Brace.ELBOWS)))


@campaign
class BestGrips(unittest.TestCase):
    def found(
        self,
        build: Build,
        kit: dict[str, Part],
        worth: Callable[..., float | Made | Hindrance],
        go_on: Callable[[], bool] = lambda: True,
    ) -> Lighter | None:
        def carried(analysis: Analysis, _operator: Operator, _support: str) -> object:
            found = worth({placed.id: placed.setting for placed in analysis.build.parts})
            return Made(found) if isinstance(found, float) else found

        with mock.patch(_CARRY, carried):
            return best_grips(analyse(build, kit, WOMAN), kit, WOMAN, "handheld", go_on)

    def two(self, low: float = -0.20, high: float = 0.25) -> tuple[Build, dict[str, Part]]:
        return handles((along("one", 0.15, low, high), grip("l")), (along("two", -0.15, low, high), grip("r")))

    def test_each_slide_by_itself_is_found_to_a_centimetre(self) -> None:
        build, kit = self.two()
        for left, right in np.random.default_rng(8).uniform(-0.19, 0.24, size=(12, 2)):
            way = self.found(build, kit, lambda at, a=left, b=right: -((at["l"] - a) ** 2) - (at["r"] - b) ** 2)
            after = way.after.build
            # What is tried finely is 10 mm apart.
            self.assertLessEqual(abs(after.placed("l").setting - left), 0.0051)
            self.assertLessEqual(abs(after.placed("r").setting - right), 0.0051)
            moved = {i: after.placed(i).setting - build.placed(i).setting for i in ("l", "r")}
            self.assertEqual({i: round(by, 9) for i, by in way.moved}, {i: round(by, 9) for i, by in moved.items()})
            self.assertEqual(way.turned, ())
            self.assertEqual(way.kind, LighterKind.GRIPS)

    def test_a_ridge_is_climbed_with_two_together_or_against_each_other(self) -> None:
        """Where moving one grip alone costs, only both at once gain: their sum or difference must be kept."""
        build, kit = self.two()
        for sign in (1.0, -1.0):
            held = build.placed("l").setting + sign * build.placed("r").setting

            def worth(at: dict[str, float], sign: float = sign, held: float = held) -> float:
                off = at["l"] + sign * at["r"] - held
                return -1e3 * abs(off) - abs(at["l"] - sign * at["r"] - 0.24)

            way = self.found(build, kit, worth)
            left, right = (way.after.build.placed(i).setting for i in ("l", "r"))
            self.assertLess(abs(left + sign * right - held), 1e-6)
            self.assertLess(abs(left - sign * right - 0.24), 0.011)

    def test_whole_ranges_are_looked_over_first_in_five_places_alike(self) -> None:
        build, kit = self.two(-0.2, 0.2)
        for share in (0.0, 0.25, 0.5, 0.75, 1.0):
            there = -0.2 + share * 0.4

            def needle(at: dict[str, float], there: float = there) -> float:
                return 1.0 if abs(at["l"] - there) < 1e-6 and abs(at["r"] - there) < 1e-6 else 0.0

            way = self.found(build, kit, needle)
            self.assertAlmostEqual(way.after.build.placed("l").setting, there)

    def test_a_rosette_stops_at_its_detents(self) -> None:
        step = math.radians(6.0)
        turn = Mount(
            "rosette", MountKind.LIGHT_RODS, (0.0, 0.0, 0.0), Connection.TURN, (0.0, 1.0, 0.0), -1.5, 1.5, step
        )
        build, kit = handles((along("one", 0.15, -0.1, 0.1), grip("l")), turn=turn)
        for best in np.random.default_rng(9).uniform(-1.4, 1.4, size=8):
            way = self.found(build, kit, lambda at, a=best: -abs(at["turned"] - a) - 0.01 * abs(at["l"] - 0.05))
            self.assertLessEqual(abs(way.after.build.placed("turned").setting - best), step / 2.0 + 1e-9)
            self.assertAlmostEqual(way.after.build.placed("l").setting, 0.05, delta=0.0051)
            self.assertEqual([i for i, _ in way.turned], ["turned"])
            self.assertEqual([i for i, _ in way.moved], ["l"])

    def test_what_can_not_be_held_or_reached_is_not_gone_to(self) -> None:
        build, kit = self.two()
        way = self.found(build, kit, lambda at: Made(at["l"], out_of_reach=at["l"] > 0.1))
        self.assertLessEqual(way.after.build.placed("l").setting, 0.1 + 1e-9)
        self.assertGreater(way.after.build.placed("l").setting, 0.085)
        way = self.found(build, kit, lambda at: Hindrance.NOT_HELD if at["r"] < 0.0 else -at["r"])
        self.assertIsNone(way)  # It tips as it is: nothing to begin with.
        self.assertIsNone(self.found(build, kit, lambda at: 1.0))
        self.assertIsNone(self.found(build, kit, lambda at: at["l"], lambda: False))

    def test_a_clash_is_not_traded_for_comfort(self) -> None:
        """A block stands on the left slide at 0.12 m: a grip of 20 mm must keep off its 40 mm."""
        build, kit = self.two()
        kit["stop"] = block("stop", 0.1, (0.04, 0.04, 0.1))
        stop = Placed("stop", "stop", "base", "one", 0, 0.12)
        held = replace(build, parts=(*build.parts, stop))
        self.assertEqual(analyse(held, kit, WOMAN).findings, ())
        way = self.found(held, kit, lambda at: -abs(at["l"] - 0.12))
        self.assertGreaterEqual(abs(way.after.build.placed("l").setting - 0.12), 0.03 - 1e-6)
        self.assertLessEqual(abs(way.after.build.placed("l").setting - 0.12), 0.05)

    def test_what_carries_the_camera_or_much_else_is_no_grip_joint(self) -> None:
        for category, mass, ours in (
            (Category.CLAMP, 1.49, True),
            (Category.CLAMP, 1.51, False),
            (Category.BODY, 0.5, False),
        ):
            carrier = block("carrier", mass - 0.001, mounts=(rail("on", 0.1),), category=category)
            build, kit = handles((along("one", 0.15, -0.2, 0.2), carrier))
            kit["g"] = grip("g")
            build = replace(build, parts=(*build.parts, Placed("g", "g", "carrier", "on", 0, 0.0)))
            joints = {joint.placed_id for joint in grip_joints(analyse(build, kit, WOMAN))}
            self.assertEqual(joints, {"g", "carrier"} if ours else {"g"})


class BestScreen(unittest.TestCase):
    """A screen on an upright slide in front of a camera on the shoulder."""

    def rig(self, low: float, high: float, at: float) -> tuple[Build, dict[str, Part]]:
        mast = Mount("mast", MountKind.ROSETTE, (0.25, 0.0, 0.0), Connection.SLIDE, (0.0, 0.0, 1.0), low, high)
        camera = block("camera", 4.0, (0.2, 0.1, 0.12), Category.BODY, mounts=(mast,))
        screen = replace(
            block("screen", 0.2, (0.02, 0.14, 0.09), Category.MONITOR), feet=(Foot(MountKind.ROSETTE, (0.0, 0.0, 0.0)),)
        )
        kit = {"base": base(), "camera": camera, "screen": screen, "l": grip("l"), "r": grip("r")}
        placed = (
            Placed("base", "base"),
            Placed("camera", "camera", "base", "rail", 0, 0.05),
            Placed("screen", "screen", "camera", "mast", 0, at),
            Placed("l", "l", "base", "across", 0, 0.3),
            Placed("r", "r", "base", "across", 0, -0.3),
        )
        return Build("s", "Screen", placed), kit

    def seen(self, build: Build, kit: dict[str, Part], place: float) -> tuple[float, float]:
        """Return the neck's load (N m) and the gaze (rad below level) with the screen at `place` (m)."""
        parts = tuple(replace(p, setting=place) if p.id == "screen" else p for p in build.parts)
        carried = carry(analyse(replace(build, parts=parts), kit, WOMAN), WOMAN, "shoulder")
        assert isinstance(carried, Carry)
        return next(j.load for j in carried.joints if j.joint is BodyJoint.NECK), carried.gaze

    def test_it_goes_where_the_neck_bears_least_of_all_places_30_mm_apart(self) -> None:
        for low, high, at in ((-0.31, 0.47, -0.31), (0.05, 0.63, 0.62), (-0.45, 0.20, -0.44)):
            build, kit = self.rig(low, high, at)
            way = best_screen(analyse(build, kit, WOMAN), kit, WOMAN, "shoulder")
            self.assertIsNotNone(way)
            places = [*np.arange(low, high, 0.030), high]
            found = way.after.build.placed("screen").setting
            self.assertLess(min(abs(found - place) for place in places), 1e-6)
            there = [self.seen(build, kit, float(place)) for place in places]
            least = min(neck for neck, gaze in there if gaze >= 0.0)
            # Head levers within a millimetre count as alike, and then the easier gaze decides.
            self.assertLessEqual(self.seen(build, kit, found)[0], least + 0.0015 * 0.081 * 61.0 * 9.81)
            # ISO 11226:2000, table 2: a head bent back without support is not recommended.
            self.assertGreaterEqual(way.carried.gaze, 0.0)

    def test_of_places_alike_for_the_neck_the_eyes_look_15_degrees_down(self) -> None:
        """Common practice: a screen somewhat below level is what eyes look at with the least effort."""
        build, kit = self.rig(-0.40, 0.60, 0.60)
        way = best_screen(analyse(build, kit, WOMAN), kit, WOMAN, "shoulder")
        gazes = [self.seen(build, kit, float(place))[1] for place in np.arange(-0.40, 0.60, 0.030)]
        nearest = min(abs(gaze - math.radians(15.0)) for gaze in gazes)
        self.assertAlmostEqual(abs(way.carried.gaze - math.radians(15.0)), nearest, places=6)

    def test_an_arm_of_the_kit_may_hold_it_and_it_takes_its_own_arm_along(self) -> None:
        """The screen sits low on a fixed foot; the only free mount that fits is the end of an arm that is not used."""
        low = Mount("low", MountKind.ROSETTE, (0.25, 0.0, -0.30))
        high = Mount("high", MountKind.COLD_SHOE, (0.30, 0.0, -0.10))
        build, kit = self.rig(0.0, 0.1, 0.0)
        kit["camera"] = replace(kit["camera"], mounts=(low, high))
        end = Mount("end", MountKind.ROSETTE, (0.0, 0.0, 0.10))
        arm = replace(
            block("arm", 0.1, (0.02, 0.02, 0.1), Category.ARM, mounts=(end,), at=(0.0, 0.0, -0.05)),
            feet=(Foot(MountKind.COLD_SHOE, (0.0, 0.0, -0.05)),),
        )
        build = replace(
            build,
            parts=tuple(replace(p, mount="low", setting=0.0) if p.id == "screen" else p for p in build.parts),
        )
        self.assertIsNone(best_screen(analyse(build, kit, WOMAN), kit, WOMAN, "shoulder"))
        way = best_screen(analyse(build, {**kit, "arm": arm}, WOMAN), {**kit, "arm": arm}, WOMAN, "shoulder")
        self.assertEqual(way.after.build.placed("screen").parent, "arm")
        self.assertEqual(way.after.build.placed("arm").parent, "camera")
        # Held by the arm already, it goes with it and not off it.
        held = way.after.build
        mast = Mount("mast", MountKind.COLD_SHOE, (0.30, 0.0, -0.40), Connection.SLIDE, (0.0, 0.0, 1.0), 0.0, 0.6)
        more = {**kit, "arm": arm, "camera": replace(kit["camera"], mounts=(low, replace(mast, id="high")))}
        again = best_screen(analyse(held, more, WOMAN), more, WOMAN, "shoulder")
        self.assertEqual(again.after.build.placed("screen"), held.placed("screen"))
        self.assertNotEqual(again.after.build.placed("arm").setting, held.placed("arm").setting)


class Ways(unittest.TestCase):
    """Which ways are named, in what order: each search gives what it is told to."""

    def named(self, now: Any, takes: tuple[Take, ...] = (), support: str = "handheld", **found: Any) -> list[Lighter]:
        build, kit = handles()
        analysis = analyse(replace(build, support=support), kit, WOMAN)
        with mock.patch.multiple(
            lighten,
            carry=lambda *_: now,
            best_grips=lambda *_: found.get("grips"),
            best_hold=lambda *_: found.get("hold"),
            best_brace=lambda *_: found.get("brace"),
            best_screen=lambda *_: found.get("screen"),
            best_steadier=lambda *_: found.get("steadier"),
            split_takes=lambda *_: found.get("split"),
            _held_so=lambda kind, *_: Lighter(kind, found["hold"]),
        ):
            return list(ways_to_lighten(analysis, kit, WOMAN, support, takes))

    @staticmethod
    def way(kind: LighterKind, safe: float, share: float = 0.1) -> Lighter:
        return Lighter(kind, cast(Carry, Made(safe, share=share)))

    def test_the_longest_comes_first_splitting_late_steadiness_last(self) -> None:
        ways = self.named(
            Made(60.0),
            grips=self.way(LighterKind.GRIPS, 80.0),
            hold=Made(120.0, share=0.1),
            brace=self.way(LighterKind.BRACE, 100.0),
            split=(Take(20.0, 60.0),),
            steadier=self.way(LighterKind.STEADIER, 50.0),
        )
        kinds = [LighterKind.HOLD, LighterKind.BRACE, LighterKind.GRIPS, LighterKind.SPLIT, LighterKind.STEADIER]
        self.assertEqual([way.kind for way in ways], kinds)
        self.assertEqual(ways[3].takes, (Take(20.0, 60.0),))

    def test_a_twentieth_longer_at_a_hundredth_less_of_the_strength_is_worth_naming(self) -> None:
        now = Made(100.0, share=0.5)
        for safe, share, worth in (
            (104.9, 0.30, False),
            (105.1, 0.30, True),
            (130.0, 0.495, False),
            (130.0, 0.489, True),
        ):
            named = self.named(now, brace=self.way(LighterKind.BRACE, safe, share))
            self.assertEqual(bool(named), worth, (safe, share))
        # Where the posture is what limits, the strength is not asked.
        by_posture = Made(100.0, share=0.5, by_posture=True)
        self.assertTrue(self.named(by_posture, brace=self.way(LighterKind.BRACE, 130.0, 0.5)))
        # From nothing to nothing is no gain.
        self.assertFalse(self.named(Made(0.0), brace=self.way(LighterKind.BRACE, 0.0)))
        self.assertTrue(self.named(Made(0.0), brace=self.way(LighterKind.BRACE, 1.0)))

    def test_no_hold_spares_a_neck_and_no_screen_an_arm(self) -> None:
        ways = {
            "grips": self.way(LighterKind.GRIPS, 80.0),
            "brace": self.way(LighterKind.BRACE, 80.0),
            "screen": self.way(LighterKind.SCREEN, 80.0),
            "steadier": self.way(LighterKind.STEADIER, 80.0),
        }
        by_neck = Made(60.0, joint=BodyJoint.NECK)
        named = [way.kind for way in self.named(by_neck, support="shoulder", **cast(Any, ways))]
        self.assertEqual(named, [LighterKind.SCREEN])
        kinds = {way.kind for way in self.named(Made(60.0), support="shoulder", **cast(Any, ways))}
        self.assertEqual(kinds, {LighterKind.GRIPS, LighterKind.BRACE})
        self.assertEqual(self.named(Hindrance.NOT_HELD, **cast(Any, ways)), [])


class Steadier(unittest.TestCase):
    """A counterweight of the kit, chosen for its inertia in tilt alone."""

    def found(self, then: Callable[[str], Any], now: Any) -> Lighter | None:
        build, kit = handles()
        kit |= {f"w{k}": block(f"w{k}", 0.5 + 0.1 * k, (0.05, 0.05, 0.05), Category.WEIGHT) for k in range(3)}
        analysis = analyse(build, kit, WOMAN)
        options = tuple(Option(Placed(part_id, part_id, "base", "rail", 0, 0.3)) for part_id in ("w0", "w1", "w2"))

        def carried(found: Analysis, *_: Any) -> object:
            new = [placed.id for placed in found.build.parts if placed.id.startswith("w")]
            return then(new[0]) if new else now

        variable = SimpleNamespace(options=options)
        with mock.patch(_CARRY, carried), mock.patch.object(lighten, "steadying_variable", return_value=variable):
            return best_steadier(analysis, kit, WOMAN, "handheld")

    def test_the_steadiest_in_tilt_that_can_be_held_by_a_tenth(self) -> None:
        now = Made(steady=(1.0, 2.0, 3.0))
        tilts = {"w0": (9.0, 2.3, 1.0), "w1": (1.0, 2.6, 1.0), "w2": (5.0, 2.4, 9.0)}
        way = self.found(lambda which: Made(steady=tilts[which]), now)
        self.assertEqual(way.carried.steady, tilts["w1"])
        self.assertEqual(way.kind, LighterKind.STEADIER)
        self.assertIsNone(self.found(lambda which: Made(steady=(9.0, 2.19, 9.0)), now))
        self.assertIsNotNone(self.found(lambda which: Made(steady=(1.0, 2.21, 1.0)), now))
        # Seconds that are none can't be held.
        self.assertIsNone(self.found(lambda which: Made(steady=(9.0, 9.0, 9.0), to_the_end=0.0), now))
        self.assertIsNone(self.found(lambda which: Made(steady=(9.0, 9.0, 9.0), out_of_reach=True), now))
        self.assertIsNone(self.found(lambda which: Made(steady=None), now))
        self.assertIsNone(self.found(lambda which: Hindrance.NOT_HELD, now))
        self.assertIsNone(self.found(lambda which: Made(steady=(9.0, 9.0, 9.0)), Made(steady=None)))


class BestBrace(unittest.TestCase):
    def test_it_is_the_one_that_lasts_longest_of_those_within_reach_but_the_present(self) -> None:
        build, kit = handles()
        for present in (Brace.NONE, Brace.CHEST, Brace.ELBOWS):
            analysis = analyse(with_hold(build, Hold(brace=present)), kit, WOMAN)
            lasts = {Brace.CHEST: 80.0, Brace.HIP: 90.0, Brace.ELBOWS: 70.0, Brace.KNEES: 60.0, Brace.NONE: 500.0}

            def carried(
                found: Analysis, _operator: Operator, _support: str, lasts: dict[Brace, float] = lasts
            ) -> object:
                brace = hold_of(found.build).brace
                pose = SimpleNamespace(missed=brace is Brace.HIP)
                return Made(lasts[brace], pose=pose)

            with mock.patch(_CARRY, carried):
                way = best_brace(analysis, kit, WOMAN, "handheld")
            # The hip is missed by this hold.
            best = Brace.ELBOWS if present is Brace.CHEST else Brace.CHEST
            self.assertEqual((way.held.brace, way.carried.safe), (best, lasts[best]))


if __name__ == "__main__":
    unittest.main()
