"""Facts of the drawings: what stands where, what must not meet, what keeps inside its box."""

from __future__ import annotations

import math
import unittest
from itertools import combinations, pairwise
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import GRASP_SPOTS, Build, Grasp, Hold
from equilix.core.assembly.mounts import mount_of
from equilix.core.chosen import with_hold
from equilix.core.kit.parts import Category, HowKnown, MountKind, Outline, Part, Shape
from equilix.core.solver.strategies import find_strategies
from equilix.core.support import case_of
from equilix.document.kinds.records import shipped_kinds
from equilix.io.shipped import catalogue, demo_book, starters
from equilix.present.assembly.build_view import build_model, places_left
from equilix.present.assembly.drawing import draw_build
from equilix.present.assembly.spots import spot_key
from equilix.present.balance.elevation import draw_elevation, draw_nothing_yet
from equilix.present.balance.panel import balance_model
from equilix.present.drawing.looks import look, look_of
from equilix.present.drawing.rig_drawing import draw_parts
from equilix.present.drawing.scales import Elevation
from equilix.present.drawing.scene import (
    PathItem,
    Scene,
    TextItem,
    circle,
    ellipse,
    fitted,
    polygon,
    rect,
    sector,
    text_width,
)
from equilix.present.drawing.silhouettes import View, depth_of, fill_of, silhouette
from equilix.present.drawing.sled import SledView, draw_sled
from equilix.present.drawing.sockets import draw_socket
from equilix.present.drawing.tags import Rect, tag_text
from equilix.present.supports import text_for
from equilix.present.units import System
from equilix.present.words import mid_sentence, number_mm
from tests.rigs.gimbals import random_gimbal, thin
from tests.rigs.plain import OPERATOR, block

METRIC = System.METRIC


def demo(number: int = 0) -> Analysis:
    book = demo_book()
    return analyse(book.builds[number], book.parts, book.operators[0])


def drawn(analysis: Analysis, **more: Any) -> Elevation:
    return draw_elevation(analysis, demo_book().operators[0], METRIC, 784.0, 484.0, **more)


def texts(scene: Scene) -> list[TextItem]:
    return [item for item in scene.items if isinstance(item, TextItem)]


class ElevationFacts(unittest.TestCase):
    def test_the_plumb_line_falls_at_the_cg(self) -> None:
        analysis = demo()
        drawing = drawn(analysis)
        x = drawing.projection.x(float(analysis.body.cg[0]))
        plumbs = [
            item
            for item in drawing.scene.items
            if isinstance(item, PathItem) and item.stroke == "fwd" and len(item.commands) == 2 and item.width == 1.6
        ]
        self.assertTrue(any(abs(float(item.commands[0][1]) - x) < 1e-9 for item in plumbs))

    def test_the_doubt_band_is_two_standard_uncertainties_each_way(self) -> None:
        analysis = demo()
        drawing = drawn(analysis)
        band = next(
            item
            for item in drawing.scene.items
            if isinstance(item, PathItem) and item.fill == "fwd" and item.opacity == 0.14
        )
        xs = [float(command[1]) for command in band.commands if command[0] != "Z"]
        expected = 4.0 * float(analysis.spread.cg[0]) * drawing.projection.scale
        self.assertAlmostEqual(max(xs) - min(xs), expected, places=6)

    def test_words_follow_the_side_to_which_it_tips(self) -> None:
        book = demo_book()
        heavy = demo()
        self.assertIn("tips forward", [item.text for item in texts(drawn(heavy).scene)])
        parts = tuple(
            replace(p, setting={"plate": -0.1145, "vplate": -0.0936}.get(p.id, p.setting)) for p in book.builds[0].parts
        )
        back = analyse(replace(book.builds[0], parts=parts), book.parts, book.operators[0])
        words = [item.text for item in texts(drawn(back).scene)]
        self.assertIn("tips back", words)
        self.assertTrue(any("behind the pad" in word for word in words))
        self.assertIn("level, within what is known", [item.text for item in texts(drawn(demo(1)).scene)])

    def test_between_hands_one_behind_the_other_it_tips_to_a_side_in_every_word(self) -> None:
        """Headline, picture, ledger and what is spoken: the side on which the CG lies of the line, by cross product."""
        book, seen = demo_book(), set()
        for build in book.builds[:3]:
            ids = {book.parts[p.part_id].category: p.id for p in build.parts}
            for spot in GRASP_SPOTS:
                lens, body = Grasp(ids[Category.LENS], spot), Grasp(ids[Category.BODY], spot)
                held = with_hold(replace(build, support="handheld"), Hold(left=lens, right=body))
                analysis = analyse(held, book.parts, book.operators[0])
                equilibrium = analysis.equilibrium
                if (
                    equilibrium is None
                    or equilibrium.holding is None
                    or abs(equilibrium.forward[0]) > abs(equilibrium.forward[1])
                ):
                    continue
                ahead, behind = sorted((place.point for place in equilibrium.pose.places), key=lambda at: -at[0])
                line, cg = (ahead - behind)[:2], (analysis.body.cg - behind)[:2]
                side = "left" if line[0] * cg[1] - line[1] * cg[0] > 0.0 else "right"
                model = balance_model(analysis, book.operators[0], METRIC)
                sides = model.sides
                self.assertEqual({sides.less, sides.more}, {"to the left", "to the right"})
                self.assertEqual(sides.more if equilibrium.ahead > 0.0 else sides.less, f"to the {side}")
                for row in model.rows:
                    if not row.moment_text.strip("+−0.,"):
                        continue
                    self.assertIn(f"pulls {sides.more if row.moment > 0.0 else sides.less} ", row.spoken)
                if abs(equilibrium.ahead) > 2.0 * equilibrium.ahead_uncertainty:
                    self.assertEqual(model.verdict.head, f"Tips to the {side}.")
                    scene = drawn(analysis).scene
                    self.assertIn(f"tips to the {side}", [item.text for item in texts(scene)])
                    seen.add(side)
        self.assertTrue(seen)

    def test_the_ruler_counts_from_the_sensor(self) -> None:
        drawing = drawn(demo())
        zero = next(item for item in texts(drawing.scene) if item.text == "0" and item.size == 12)
        self.assertAlmostEqual(zero.x, drawing.projection.x(0.0))

    def test_while_dragging_scale_and_tags_stay(self) -> None:
        book = demo_book()
        first = drawn(demo())
        parts = tuple(replace(p, setting=-0.1) if p.id == "plate" else p for p in book.builds[0].parts)
        moved = analyse(replace(book.builds[0], parts=parts), book.parts, book.operators[0])
        second = drawn(moved, held=first)
        self.assertEqual(second.projection.scale, first.projection.scale)
        self.assertIs(second.tags, first.tags)
        pad_before = first.projection.y(float(demo().equilibrium.point[2]))
        self.assertAlmostEqual(second.projection.y(float(moved.equilibrium.point[2])), pad_before)

    def test_a_preview_adds_dashed_outlines_of_what_moves_only(self) -> None:
        book = demo_book()
        analysis = demo()
        way = find_strategies(analysis, book.parts, book.operators[0])[0]
        plain, ghost = drawn(analysis), drawn(analysis, preview=way.after)

        def dashed(drawing: Elevation) -> int:
            return sum(
                isinstance(i, PathItem) and i.stroke == "accent" and i.dash == (4.0, 3.0) for i in drawing.scene.items
            )

        self.assertEqual(dashed(plain), 0)
        # Camera, lens, matte box, handle and what they carry; not the base, the pad, rods or grips.
        self.assertGreater(dashed(ghost), 6)
        self.assertLess(dashed(ghost), 20)

    def test_tags_do_not_meet_each_other(self) -> None:
        for number in range(3):
            rings = [
                item
                for item in texts(drawn(demo(number)).scene)
                if item.size == 11.5 and item.weight == 600 and len(item.text) == 1
            ]
            self.assertGreater(len(rings), 10)
            for i, a in enumerate(rings):
                for b in rings[i + 1 :]:
                    self.assertGreater(math.hypot(a.x - b.x, a.y - b.y), 16.0, f"{a.text} and {b.text}, build {number}")

    def test_no_leader_crosses_another(self) -> None:
        """By a plain test of segments, on every support, with twenty parts and with sixty."""
        book = demo_book()
        kit = dict(book.parts)
        crowd = book.builds[0]
        on_rods = [one for one in crowd.parts if one.parent and mount_of(one, crowd, kit).takes_many]
        while len(crowd.parts) < 60:
            like = on_rods[len(crowd.parts) % len(on_rods)]
            one = f"x{len(crowd.parts)}"
            kit[one] = replace(kit[like.part_id], id=one)
            crowd = replace(crowd, parts=(*crowd.parts, replace(like, id=one, part_id=one)))
        led = 0
        for build in (*book.builds[:3], crowd):
            for support in ("shoulder", "handheld", "tripod", "harness"):
                scene = drawn(analyse(replace(build, support=support), kit, book.operators[0])).scene
                lines = [
                    [(float(c[1]), float(c[2])) for c in item.commands]
                    for item in scene.items
                    if isinstance(item, PathItem) and item.stroke == "ink3" and item.width == 0.9
                ]
                led += len(lines)
                for line, other in combinations(lines, 2):
                    crossed = any(crosses(a, b) for a in pairwise(line) for b in pairwise(other))
                    self.assertFalse(crossed, (build.name, support, line, other))
        self.assertGreater(led, 60)

    def test_guessed_parts_look_as_they_are_and_are_marked(self) -> None:
        guess = block("g", 0.48)
        self.assertEqual(tag_text(replace(guess, mass_known=HowKnown.GUESSED), METRIC), "≈ 0.48 kg")
        self.assertEqual(tag_text(guess, METRIC), "0.48 kg")
        self.assertEqual(tag_text(replace(guess, mass=None), METRIC), "mass not known")
        dashes = {item.dash for item in drawn(demo()).scene.items if isinstance(item, PathItem)}
        self.assertNotIn((2.4, 2.0), dashes)

    def test_nothing_yet_shows_somebody_and_the_place_of_the_pad(self) -> None:
        scene = draw_nothing_yet(OPERATOR, 784.0, 600.0, "here")
        self.assertGreater(len(scene.items), 4)
        self.assertEqual([item.text for item in texts(scene)], ["here"])


def crosses(a: tuple[tuple[float, float], ...], b: tuple[tuple[float, float], ...]) -> bool:
    """Whether two segments run through each other; those that only touch do not."""

    def side(p: tuple[float, float], q: tuple[float, float], r: tuple[float, float]) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    one = side(a[0], a[1], b[0]) * side(a[0], a[1], b[1])
    two = side(b[0], b[1], a[0]) * side(b[0], b[1], a[1])
    return one < -1e-6 and two < -1e-6


class Shapes(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(
        st.sampled_from(list(Category)),
        st.sampled_from(list(Shape)),
        st.sampled_from(list(View)),
        st.floats(1.0, 400.0),
        st.floats(1.0, 300.0),
    )
    def test_silhouettes_keep_inside_their_boxes(
        self, category: Category, shape: Shape, view: View, w: float, h: float
    ) -> None:
        strokes = silhouette(category, shape, view, w, h)
        self.assertTrue(any(stroke.role == "outline" for stroke in strokes))
        for stroke in strokes:
            for command in stroke.commands:
                for u, v in zip(command[1::2], command[2::2], strict=True):
                    self.assertLessEqual(abs(float(u)), w / 2 + 2.5)
                    self.assertLessEqual(abs(float(v)), h / 2 + 2.5)

    def test_what_nobody_knows_is_drawn_as_no_kind_at_all(self) -> None:
        said = {name: look_of(Part("p", name, Category.OTHER)) for name in ("tape", "thing", "gadget 7")}
        self.assertEqual(set(said.values()), {""}, said)
        self.assertEqual(look_of(Part("p", "thing", Category.SENDER, kind="transmitter")), "transmitter")

    def test_looks_of_kinds_keep_inside_their_boxes(self) -> None:
        for view in View:
            drawn_kinds = [kind.key for kind in shipped_kinds().kinds if look(kind.key, view) is not None]
            self.assertTrue(drawn_kinds)
            for key in drawn_kinds:
                for w, h in ((3.0, 3.0), (8.0, 40.0), (40.0, 8.0), (120.0, 90.0)):
                    draw = look(key, view)
                    assert draw is not None
                    numbers = [(c[1::2], c[2::2]) for stroke in draw(w, h) for c in stroke.commands]
                    wide = max(abs(float(u)) for us, _ in numbers for u in us)
                    high = max(abs(float(v)) for _, vs in numbers for v in vs)
                    self.assertLessEqual(wide, w / 2 + 2.5, (key, view, w, h))
                    self.assertLessEqual(high, h / 2 + 2.5, (key, view, w, h))

    def test_every_category_has_fill_and_depth(self) -> None:
        for category in Category:
            self.assertIn(fill_of(category), ("p1", "p2", "p3"))
            self.assertGreaterEqual(depth_of(category), 0)

    def test_every_kind_of_mount_has_a_sign(self) -> None:
        for kind in MountKind:
            scene = Scene()
            draw_socket(scene, kind, 0.0, 0.0, "accent")
            self.assertTrue(scene.items)
            for item in scene.items:
                for command in item.commands:
                    self.assertTrue(all(abs(float(v)) <= 8.0 for v in command[1:]), kind)

    def test_curves_go_where_they_should(self) -> None:
        for x, y in ((c[-2], c[-1]) for c in circle(3.0, 4.0, 5.0) if c[0] != "Z"):
            self.assertAlmostEqual(math.hypot(float(x) - 3.0, float(y) - 4.0), 5.0)
        self.assertEqual(ellipse(0, 0, 2, 1)[0], ("M", 2, 0))
        self.assertEqual(sector(0, 0, 5, 0, 1)[-1], ("Z",))
        self.assertEqual(len(rect(0, 0, 10, 10)), 5)
        self.assertEqual(len(rect(0, 0, 10, 10, 3)), 10)
        self.assertEqual(polygon(((0, 0), (1, 0), (0, 1)))[-1], ("Z",))

    @settings(max_examples=60, deadline=None)
    @given(st.text(min_size=1, max_size=60), st.floats(20.0, 300.0))
    def test_cut_text_fits(self, text: str, width: float) -> None:
        cut = fitted(text, 13.0, width)
        # No figure is cut, nor does one stand without its unit.
        if cut != text:
            self.assertFalse(any(c.isdigit() for c in cut.removesuffix("…").split(" ")[-1]))
        if cut != text:
            self.assertTrue(cut.endswith("…"))
            self.assertLessEqual(text_width(cut, 13.0), width)

    def test_rectangles(self) -> None:
        a = Rect(0, 0, 10, 10)
        self.assertTrue(a.meets(Rect(9, 9, 20, 20)))
        self.assertFalse(a.meets(Rect(10, 0, 20, 10)))
        self.assertTrue(Rect(2, 2, 3, 3).within(a))
        self.assertEqual(a.grown(1), Rect(-1, -1, 11, 11))

    def test_quarter_turned_parts_show_their_other_side(self) -> None:
        book = demo_book()
        parts = tuple(replace(p, quarter_turns=1) if p.id == "sender" else p for p in book.builds[0].parts)
        analysis = analyse(replace(book.builds[0], parts=parts), book.parts, book.operators[0])
        index = next(i for i, p in enumerate(parts) if p.id == "sender")
        projection = drawn(analysis).projection
        boxes = draw_parts(Scene(), analysis.assembly, analysis.positions, projection)
        width, height = boxes[index].width, boxes[index].height
        length, wide, tall = book.part("sender").outline.size
        self.assertAlmostEqual(width, wide * projection.scale)
        self.assertAlmostEqual(height, tall * projection.scale)
        self.assertNotAlmostEqual(width, length * projection.scale)


class Sleds(unittest.TestCase):
    def test_what_hangs_askew_is_drawn_whole(self) -> None:
        book = demo_book()
        for build in book.builds:
            analysis = analyse(replace(build, support="vest"), book.parts, OPERATOR)
            if analysis.equilibrium is None:
                continue
            on_it = analysis.equilibrium.point
            for lean in (0.0, 0.04, -0.4, 0.4):
                scene = Scene()
                view = SledView(on_it, on_it - [0.0, 0.0, 0.1], on_it, 0.0, lean, "", "ink", ("", ""))
                draw_sled(scene, analysis, view, (20.0, 10.0, 376.0, 250.0), None, None)
                for item in scene.items:
                    if not isinstance(item, PathItem) or item.fill not in ("p1", "p2", "p3"):
                        continue
                    xs = [float(command[k]) + item.dx for command in item.commands for k in range(1, len(command), 2)]
                    self.assertGreater(min(xs), 20.0 - 2.0, (build.id, lean))
                    self.assertLess(max(xs), 20.0 + 376.0)


class OrderOfWork(unittest.TestCase):
    def test_verdict_and_step_name_what_ends_a_scale_early(self) -> None:
        """A gimbal of boxes whose camera comes against its own hardware before it is level."""
        analysis = analyse(*random_gimbal(45), OPERATOR)
        verdict = balance_model(analysis, OPERATOR, METRIC).verdict
        self.assertRegex(verdict.body, r"^Its slides alone leave \d+ mm: nose-heavy, as cross meets lens\.$")
        scene = draw_elevation(analysis, OPERATOR, METRIC, 784.0, 484.0).scene
        self.assertIn("cross meets lens", [item.text for item in scene.items if isinstance(item, TextItem)])

    def test_a_scale_that_ends_before_it_is_level_says_so_instead_of_how_to_check(self) -> None:
        book = demo_book()
        build = next(one for one in book.builds if one.id == "gimbal-full")
        analysis = analyse(build, book.parts, OPERATOR)
        said = [item.text for item in texts(draw_elevation(analysis, OPERATOR, METRIC, 784.0, 484.0).scene)]
        step = next(k for k, text in enumerate(said) if text.startswith("back 25 mm; "))
        self.assertEqual(said[step + 1], "the slide is at its end")

    def test_the_lens_table_says_at_which_lens_what_meets(self) -> None:
        """A long lens that is level only against its hardware, and a wide one that is too thick for where it goes."""
        build, kit = random_gimbal(45)
        bare = thin(build, kit)[1]
        wide = replace(bare["lens"], id="wide", name="Wide", outline=Outline((0.5, 0.5, 0.5)))
        for there, words in (
            (kit, {"lens: in the way: cross meets the lens.", "lens: in the way: tilt meets camera."}),
            (bare, set()),
            (
                {**bare, "wide": wide},
                {f"Wide: {words} meets the lens." for words in ("cross", "in the way: pan", "in the way: side")},
            ),
        ):
            scene = text_for("gimbal").lens_page.draw(
                case_of(analyse(build, there, OPERATOR)), there, METRIC, 784.0, 240.0
            )
            found = {item.text for item in scene.items if isinstance(item, TextItem) and item.text.endswith(".")}
            self.assertEqual(found, words)


class BuildFacts(unittest.TestCase):
    def test_steps_add_up_in_the_order_of_work(self) -> None:
        book = demo_book()
        model = build_model(demo(), book, METRIC)
        self.assertEqual(
            [step.name for step in model.steps],
            ["Foundation", "Battery", "Handle, monitor", "Lens", "Focus, matte box", "Support"],
        )
        masses = [float(step.mass_text.split()[0]) for step in model.steps]
        self.assertEqual(masses, sorted(masses))
        # The battery pulls the balance back before anything hangs on the front: common practice.
        self.assertLess(model.steps[1].ahead, model.steps[0].ahead)
        self.assertGreater(model.steps[3].ahead, model.steps[1].ahead)

    def test_a_used_mount_is_never_offered(self) -> None:
        """A dovetail, a clamp or a slot takes one part; rods take many: common practice."""
        book = demo_book()
        build = book.builds[0]
        used = {("mount", p.parent, p.mount) for p in build.parts}
        again = {key for spot in places_left(build, book.parts) if (key := spot_key(spot)) in used}
        self.assertEqual(again, {("mount", "front", "rods"), ("mount", "rear", "rods")})

    def test_signs_of_free_mounts_can_be_clicked(self) -> None:
        book = demo_book()
        drawing = draw_build(demo(), book.parts, METRIC, 784.0, 480.0, None, None)
        keys = {region.key for region in drawing.scene.regions if region.key[0] in ("mount", "foot")}
        free = {spot_key(spot) for spot in places_left(book.builds[0], book.parts)}
        self.assertEqual(keys, free)

    def test_an_empty_build_asks_for_its_first_part(self) -> None:
        book = demo_book()
        empty = analyse(Build("e", "E"), book.parts, book.operators[0])
        model = build_model(empty, book, METRIC)
        self.assertEqual(model.verdict.head, "No parts yet.")
        self.assertEqual(model.current_step, 0)
        self.assertEqual(model.mounts, ())

    def test_starting_builds_have_hands_pad_and_a_verdict(self) -> None:
        kit = {part.id: part for part in catalogue()}
        for starter in starters():
            analysis = analyse(starter, kit, OPERATOR)
            if starter.support != "shoulder":
                self.assertTrue(balance_model(analysis, OPERATOR, System.METRIC).verdict.head)
                continue
            self.assertEqual(len(analysis.equilibrium.holding.hands), 2)
            self.assertLess(abs(analysis.equilibrium.left), 0.005)
            self.assertTrue(3.0 < analysis.body.mass < 12.0)

    def test_names_inside_sentences(self) -> None:
        for name, inside in (
            ("Matte box, clip-on", "matte box, clip-on"),
            ("V-lock battery", "V-lock battery"),
            ("A", "a"),
            ("LED light", "LED light"),
            ("L bracket", "L bracket"),
            ("A plate of oak", "a plate of oak"),
        ):
            self.assertEqual(mid_sentence(name), inside)
        self.assertEqual(number_mm(-0.0381, METRIC), "−38")
