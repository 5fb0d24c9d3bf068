"""The programme's rows against the rig itself, resolved again at other settings: far-out masses, and boxes of parts."""

from __future__ import annotations

import itertools
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.resolve import prepare
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category, Connection, Mount, MountKind, Part
from equilix.core.solver.choices import Choice, Option, Variable
from equilix.core.solver.plan import NO_LIMITS, UNIT, Form, Goal, Target
from equilix.core.solver.search import _Search, find_plan
from equilix.core.solver.targets import form_value, target_of
from tests.rigs.gimbals import random_gimbal
from tests.rigs.plain import OPERATOR, all_free_slides, base, block, point_of, rail
from tests.rigs.sleds import random_sled

X = np.array([1.0, 0.0, 0.0])


def sleds(rng: np.random.Generator) -> tuple[Build, dict[str, Part]]:
    """Return a base with a sled on it, a sled on that, a part on each, and one beside them."""
    kit = {"base": base(float(rng.uniform(0.5, 2.0)))}
    for name in ("low", "high"):
        tilted = (float(rng.uniform(0.6, 1.0)), 0.0, float(rng.uniform(-0.4, 0.4)))
        size = point_of(rng.uniform(0.02, 0.2, 3))
        over = replace(rail("rail", 0.5, tilted), at=point_of(rng.uniform(-0.1, 0.1, 3)))
        kit[name] = block(name, float(rng.uniform(0.2, 2.0)), size, mounts=(over,))
    # With a camera on it the rig's frame begins at its sensor, and goes along with what carries it.
    kinds = {"a": Category.BODY if rng.random() < 0.5 else Category.OTHER}
    for name in ("a", "b", "c"):
        size = point_of(rng.uniform(0.02, 0.2, 3))
        kit[name] = block(name, float(rng.uniform(0.2, 3.0)), size, kinds.get(name, Category.OTHER))
    at = {name: float(rng.uniform(-0.4, 0.4)) for name in kit}
    parts = (
        Placed("base", "base"),
        Placed("low", "low", "base", "rail", 0, at["low"]),
        Placed("high", "high", "low", "rail", 0, at["high"]),
        Placed("a", "a", "high", "rail", 0, at["a"]),
        Placed("b", "b", "low", "rail", 0, at["b"]),
        Placed("c", "c", "base", "rail", 0, at["c"]),
    )
    return Build("b", "b", parts), kit


class AgainstTheRig(unittest.TestCase):
    def programme(
        self, build: Build, kit: dict[str, Part], variable: Variable | None = None, holder: str = "base"
    ) -> _Search:
        analysis = analyse(build, kit, OPERATOR)
        # Beside the base's own CG, which would else lie on neither side.
        self.point = analysis.equilibrium.point + np.array([0.017, 0.0, 0.0])
        target = Target(self.point, holder, (Form("pitch", X),), 0.0)
        free = variable or Variable(all_free_slides(analysis.assembly))
        return _Search(build, kit, target, free, NO_LIMITS, analysis.assembly)

    def far_out(self, build: Build, kit: dict[str, Part], settings: np.ndarray, holder: str) -> np.ndarray:
        """Return (n,) how far ahead of what holds the rig each part's CG lies (m), that point going with `holder`."""
        assembly = prepare(build, kit)
        now = assembly.at(assembly.settings(build))
        then = assembly.at(settings)
        k = next(i for i, p in enumerate(build.parts) if p.id == holder)
        # From the root, as the rig's frame may go along with a slide.
        holds = self.point - now.base + (then.centre[k] - then.base) - (now.centre[k] - now.base)
        return (then.cg - then.base - holds) @ X

    def test_terms_of_steadiness_are_how_the_first_absolute_moment_falls(self) -> None:
        rng = np.random.default_rng(31)
        for holder in ("base", "low", "base", "low", "base", "high"):
            build, kit = sleds(rng)
            programme = self.programme(build, kit, holder=holder)
            terms = dict(programme._terms(Goal.STEADINESS))
            assembly = programme.assembly
            now = assembly.settings(build)
            side = np.sign(self.far_out(build, kit, now, holder))
            for j in range(len(now)):
                step = np.zeros(len(now))
                step[j] = 0.01
                more = self.far_out(build, kit, now + step, holder) - self.far_out(build, kit, now - step, holder)
                slope = -float(assembly.mass @ (side * more)) / 0.02
                self.assertAlmostEqual(terms.get(programme.slide_column[j], 0.0), slope, places=9)

    def test_a_part_put_on_counts_by_its_own_distance(self) -> None:
        rng = np.random.default_rng(32)
        for _ in range(6):
            build, kit = sleds(rng)
            x = float(rng.uniform(-0.4, 0.4))
            low = kit["base"]
            deck = Mount("deck", MountKind.QUARTER_20, (x, 0.0, 0.1))
            kit["base"] = replace(low, mounts=(*low.mounts, deck))
            kit["block"] = block("block", 0.7, category=Category.WEIGHT, kind=MountKind.QUARTER_20)
            option = Option(Placed("block", "block", "base", "deck"))
            variable = Variable(frozenset(), (Choice((option,)),))
            programme = self.programme(build, kit, variable)
            terms = dict(programme._terms(Goal.STEADINESS))
            with_it = Build("b", "b", (*build.parts, option.placed))
            there = self.far_out(with_it, kit, prepare(with_it, kit).settings(with_it), "base")
            self.assertAlmostEqual(terms[programme.binary[0]] * UNIT, -0.7 * abs(float(there[-1])), places=9)

    def test_a_part_put_on_a_slide_of_its_own_counts_from_the_middle_of_its_way(self) -> None:
        rng = np.random.default_rng(34)
        for k in range(8):
            build, kit = sleds(rng)
            low, high = sorted(float(v) for v in rng.uniform(-0.5, 0.5, 2))
            deck = Mount("deck", MountKind.QUARTER_20, (0.05, 0.0, 0.1), Connection.SLIDE, (0.8, 0.0, 0.6), low, high)
            kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, deck))
            kit["block"] = block("block", 0.7, category=Category.WEIGHT, kind=MountKind.QUARTER_20)
            option = Option(Placed("block", "block", "base", "deck"))
            programme = self.programme(build, kit, Variable(frozenset(), (Choice((option,)),)))
            terms = dict(programme._terms(Goal.STEADINESS))
            on, way = terms[programme.binary[0]], terms[programme.travel[0]]
            there = []
            for setting in ((low + high) / 2.0, low, high):
                with_it = Build("b", "b", (*build.parts, replace(option.placed, setting=setting)))
                there.append(float(self.far_out(with_it, kit, prepare(with_it, kit).settings(with_it), "base")[-1]))
            side = 1.0 if there[0] >= 0.0 else -1.0
            for setting, far in zip(((low + high) / 2.0, low, high), there, strict=True):
                self.assertAlmostEqual((on + way * setting / UNIT) * UNIT, -0.7 * side * far, places=9, msg=k)

    def test_boxes_of_what_is_put_on_follow_the_slides_below_them(self) -> None:
        """A block with another on top goes on a sled; slides that are not free stay where they stand."""
        rng = np.random.default_rng(35)
        for free in (frozenset({"low", "high"}), frozenset({"high"}), frozenset({"low"}), frozenset()):
            build, kit = sleds(rng)
            top = Mount("top", MountKind.QUARTER_20, (0.01, 0.02, 0.05))
            kit["block"] = block("block", 0.7, (0.05, 0.06, 0.07), Category.WEIGHT, mounts=(top,))
            kit["lid"] = block("lid", 0.2, (0.02, 0.03, 0.01), kind=MountKind.QUARTER_20)
            option = Option(
                Placed("block", "block", "high", "rail", 0, 0.0, 1), (Placed("lid", "lid", "block", "top"),)
            )
            programme = self.programme(build, kit, Variable(free, (Choice((option,)),)))
            for name, setting in (("block", 0.13), ("lid", 0.13)):
                (item,) = programme._items(name)
                self.assertEqual(item.present, programme.binary[0])
                at = {i: float(rng.uniform(-0.3, 0.3)) for i in free}
                values = {
                    c: at[build.parts[programme.assembly.slide_parts[j]].id] / UNIT
                    for j, c in programme.slide_column.items()
                }
                values[programme.travel[0]] = setting / UNIT
                parts = tuple(replace(p, setting=at.get(p.id, p.setting)) for p in build.parts)
                then = Build("b", "b", (*parts, replace(option.placed, setting=setting), *option.carried))
                assembly = prepare(then, kit)
                positions = assembly.at(assembly.settings(then))
                k = next(i for i, p in enumerate(then.parts) if p.id == name)
                middle = item.middle + sum((values[c] * axis for c, axis in item.terms), np.zeros(3))
                np.testing.assert_allclose(middle * UNIT, positions.centre[k] - positions.base, atol=1e-12)
                np.testing.assert_allclose(item.half * UNIT, assembly.edges[k], atol=1e-12)

    def test_boxes_of_parts_follow_their_slides(self) -> None:
        rng = np.random.default_rng(33)
        for _ in range(6):
            build, kit = sleds(rng)
            programme = self.programme(build, kit)
            assembly = programme.assembly
            settings = rng.uniform(-0.3, 0.3, len(assembly.slide_parts))
            then = assembly.at(settings)
            x = {column: settings[j] / UNIT for j, column in programme.slide_column.items()}
            for k, placed in enumerate(build.parts):
                (item,) = programme._items(placed.id)
                middle = item.middle + sum((x[column] * axis for column, axis in item.terms), np.zeros(3))
                np.testing.assert_allclose(middle * UNIT, then.centre[k] - then.base, atol=1e-12)
                np.testing.assert_allclose(item.half * UNIT, np.array(kit[placed.part_id].outline.size) / 2, atol=1e-12)


class Bounds(unittest.TestCase):
    def test_what_lies_outside_stays_as_far_out_as_it_is_on_either_side(self) -> None:
        """No slide goes sideways: a rig whose CG lies beyond its room there is still brought level fore and aft."""
        for aside in (0.2, -0.2):
            kit = {"base": base(1.0), "a": block("a", 2.0), "b": replace(block("b", 1.0), cg=(0.0, aside, 0.0))}
            parts = (
                Placed("base", "base"),
                Placed("a", "a", "base", "rail", 0, 0.3),
                Placed("b", "b", "base", "rail", 0, -0.2),
            )
            build = Build("b", "b", parts)
            forms = (Form("pitch", X), Form("aside", np.array([0.0, 1.0, 0.0]), within=0.01))
            target = Target(np.zeros(3), "base", forms, 0.0)
            free = Variable(frozenset({"a"}))
            plan = find_plan(build, kit, target, free)
            self.assertTrue(plan.found)
            self.assertAlmostEqual(plan.moved["a"], 0.1)
            # What has to stay within it strictly is not brought level by going on as it is.
            strict = replace(target, forms=(forms[0], replace(forms[1], strict=True)))
            self.assertFalse(find_plan(build, kit, strict, free).found)

    def test_what_is_swapped_stays_as_far_out_as_what_is_there_now_but_goes_no_farther(self) -> None:
        """Fractions by hand: 3 kg lie 0.04 m aside and stay, and 1 kg stands 0.18 m aside on the same side, where 0.05
        of 4 kg are allowed: 0.10 kg m too far.

        A block that would level it fore and aft goes in its stead only where it lies no farther aside.
        """
        for side in (1.0, -1.0):
            for aside, taken in ((0.17, True), (0.19, False)):
                near = Mount("near", MountKind.QUARTER_20, (0.0, side * 0.18, 0.0))
                far = Mount("far", MountKind.QUARTER_20, (-0.30, side * aside, 0.0))
                plate = replace(base(1.0), cg=(0.0, side * 0.12, 0.0))
                kit = {
                    "base": replace(plate, mounts=(*plate.mounts, near, far)),
                    "a": block("a", 2.0),
                    "b": block("b", 1.0, kind=MountKind.QUARTER_20),
                }
                now = Placed("b", "b", "base", "near")
                parts = (Placed("base", "base"), Placed("a", "a", "base", "rail", 0, 0.15), now)
                forms = (Form("pitch", X), Form("aside", np.array([0.0, 1.0, 0.0]), within=0.05))
                target = Target(np.zeros(3), "base", forms, 1e-4)
                options = (Option(now, current=True), Option(Placed("b", "b", "base", "far")))
                plan = find_plan(
                    Build("b", "b", parts), kit, target, Variable(frozenset(), (Choice(options, needed=True),))
                )
                self.assertTrue(plan.found)
                self.assertEqual(plan.build.placed("b").mount == "far", taken, (side, aside))

    def test_a_product_counts_what_is_put_on_by_both_its_levers_where_it_stands(self) -> None:
        """A sum over all parts: of mass, height over the point and way ahead of it, the slides as they are."""
        rng = np.random.default_rng(36)
        for _ in range(8):
            build, kit = sleds(rng)
            deck = Mount("deck", MountKind.QUARTER_20, point_of(rng.uniform(-0.2, 0.2, 3)))
            kit["high"] = replace(kit["high"], mounts=(*kit["high"].mounts, deck))
            kit["block"] = block("block", float(rng.uniform(0.3, 1.0)), kind=MountKind.QUARTER_20)
            analysis = analyse(build, kit, OPERATOR)
            point = analysis.equilibrium.point + rng.uniform(-0.05, 0.05, 3)
            away = analysis.positions.cg - point
            frozen = tuple((placed.id, float(z)) for placed, z in zip(build.parts, away[:, 2], strict=True))
            form = Form("spin", X, lever=np.array([0.0, 0.0, 1.0]), offset=0.004, frozen=frozen)
            option = Option(Placed("block", "block", "high", "deck"))
            free = Variable(frozenset(), (Choice((option,)),))
            target = Target(point, "base", (form,), 0.0)
            programme = _Search(build, kit, target, free, NO_LIMITS, analysis.assembly)
            constant, terms = programme.forms[0]
            with_it = Build("b", "b", (*build.parts, option.placed))
            then = analyse(with_it, kit, OPERATOR)
            far = then.positions.cg - then.positions.base - (point - analysis.positions.base)
            by_hand = float(then.assembly.mass @ (far[:, 0] * far[:, 2])) + 0.004
            there = (constant + sum(v for c, v in terms if c == programme.binary[0])) * UNIT
            self.assertAlmostEqual(there, by_hand, places=12)


class AsItStands(unittest.TestCase):
    def test_each_form_of_each_support_is_what_the_rig_has_of_it(self) -> None:
        """A search begins from the figures: first moments, rooms and products of inertia, by the parts themselves."""
        seen = set()
        rigs = [random_gimbal(seed) for seed in range(3)] + [random_sled(seed) for seed in range(3)]
        rigs += [sleds(np.random.default_rng(seed)) for seed in range(3)]
        for (build, kit), key in itertools.product(rigs, KEYS):
            analysis = analyse(replace(build, support=key), kit, OPERATOR)
            target = target_of(analysis)
            if target is None or (build.support != key and key in ("gimbal", "vest")):
                continue
            free = Variable(all_free_slides(analysis.assembly))
            programme = _Search(analysis.build, kit, target, free, NO_LIMITS, analysis.assembly)
            now = programme._now()
            for form, (constant, terms) in zip(target.forms, programme.forms, strict=True):
                there = UNIT * (constant + sum(v * now[c] for c, v in terms))
                self.assertAlmostEqual(there, form_value(analysis, target, form), places=10, msg=(key, form.name))
                seen.add((key, form.lever is not None))
        self.assertLessEqual({("vest", True), ("vest", False), ("gimbal", False), ("shoulder", False)}, seen)


class OnDetents(unittest.TestCase):
    """Slides with five stops each, batteries in a plate that slides, a weight: few enough places to try them all."""

    def problem(self, rng: np.random.Generator) -> tuple[Build, dict[str, Part], Variable, Target]:
        lanes = tuple(
            Mount(name, MountKind.LIGHT_RODS, (0.0, 0.2 * k, 0.0), Connection.SLIDE, (1.0, 0.0, 0.0), -0.2, 0.2, 0.1)
            for k, name in enumerate(("one", "two", "three"))
        )
        shelf = Mount("shelf", MountKind.QUARTER_20, (float(rng.uniform(-0.3, 0.3)), -0.3, 0.0))
        kit = {"base": replace(base(1.0), mounts=(*base().mounts, *lanes, shelf))}
        for name in ("a", "b", "x", "y", "z"):
            kit[name] = block(name, round(float(rng.uniform(0.3, 2.0)), 2), (0.02, 0.02, 0.02))
        kit["w"] = block("w", 0.4, (0.02, 0.02, 0.02), Category.WEIGHT, kind=MountKind.QUARTER_20)
        at = {name: 0.1 * int(rng.integers(-2, 3)) for name in ("a", "b", "x")}
        parts = (
            Placed("base", "base"),
            Placed("a", "a", "base", "one", 0, at["a"]),
            Placed("b", "b", "base", "two", 0, at["b"]),
            Placed("x", "x", "base", "three", 0, at["x"]),
        )
        batteries = tuple(
            Option(Placed(name, name, "base", "three", 0, at["x"]), current=name == "x", dead=name == "z")
            for name in ("x", "y", "z")
        )
        weight = Option(Placed("w", "w", "base", "shelf"), dead=bool(rng.integers(2)))
        slides = frozenset(name for name in ("a", "b", "x") if rng.random() < 0.7)
        variable = Variable(slides, (Choice(batteries, needed=bool(rng.integers(2))), Choice((weight,))))
        point = np.array([float(rng.uniform(-0.1, 0.1)), 0.0, 0.0])
        return Build("d", "Detents", parts), kit, variable, Target(point, "base", (Form("pitch", X),), 0.02)

    def ledger(
        self, build: Build, kit: dict[str, Part], variable: Variable, target: Target, then: dict[str, float]
    ) -> dict[Goal, float]:
        """Return what each goal counts, by hand, with the parts of `then` on, each at its setting (m)."""
        now = {p.id: p.setting for p in build.parts}
        place = {**then, "base": 0.0}
        if "w" in then:
            place["w"] = kit["base"].mount("shelf").at[0]
        moment = abs(sum(kit[name].mass * (x - target.point[0]) for name, x in place.items()))
        options = [option for option in variable.options if option.placed.id in then]
        moved = [abs(then[name] - now[name]) for name in ("a", "b", "x") if name in then]
        new = [option for option in options if not option.current]
        emptied = not {"x", "y", "z"} & set(then)
        return {
            Goal.BEYOND: max(moment - target.tolerance, 0.0),
            Goal.MOMENT: moment,
            Goal.DEAD_MASS: sum(kit[option.placed.part_id].mass for option in options if option.dead),
            Goal.ADDED_MASS: sum(kit[option.placed.part_id].mass for option in options),
            # Steps of 5 s: a slide on rods 15 s, open and close its clamp 15 s each, a screw by hand 20 s.
            Goal.EFFORT: 3 * sum(by > 1e-9 for by in moved)
            + sum(4 if option.placed.id == "w" else 6 for option in new)
            + 3 * emptied,
            Goal.TRAVEL: sum(moved),
        }

    def places(self, build: Build, variable: Variable) -> list[dict[str, float]]:
        """Return all that may be on the base, and where."""
        now = {p.id: p.setting for p in build.parts}
        stops = [0.1 * k for k in range(-2, 3)]
        slots = [[(name, x) for x in (stops if name in variable.slides else [now[name]])] for name in ("a", "b")]
        plates: list[tuple[str, float] | None] = [("x", x) for x in (stops if "x" in variable.slides else [now["x"]])]
        # What is put on anew may stand at any stop.
        plates += [(name, x) for name in ("y", "z") for x in stops]
        if not variable.choices[0].needed:
            plates.append(None)
        return [
            dict(one for one in (*slides, plate, weight) if one is not None)
            for slides in itertools.product(*slots)
            for plate in plates
            for weight in (None, ("w", 0.0))
        ]

    def test_each_goal_after_the_other_against_all_places(self) -> None:
        rng = np.random.default_rng(77)
        orders = (
            (Goal.BEYOND, Goal.EFFORT, Goal.TRAVEL),
            (Goal.BEYOND, Goal.DEAD_MASS, Goal.TRAVEL),
            (Goal.MOMENT, Goal.TRAVEL, Goal.EFFORT),
            (Goal.BEYOND, Goal.ADDED_MASS, Goal.EFFORT),
            (Goal.DEAD_MASS, Goal.MOMENT),
            (Goal.EFFORT, Goal.MOMENT, Goal.TRAVEL),
        )
        for k in range(36):
            build, kit, variable, target = self.problem(rng)
            goals = orders[k % len(orders)]
            plan = find_plan(build, kit, target, variable, goals)
            then = {p.id: p.setting for p in plan.build.parts if p.id != "base"}
            found = self.ledger(build, kit, variable, target, then)
            best: list[float] | None = None
            for place in self.places(build, variable):
                counted = self.ledger(build, kit, variable, target, place)
                row = [round(counted[goal], 6) for goal in goals]
                best = row if best is None or row < best else best
            self.assertTrue(plan.found)
            for goal, value in zip(goals, best, strict=True):
                self.assertAlmostEqual(found[goal], value, delta=2e-6, msg=(k, goal, goals))
