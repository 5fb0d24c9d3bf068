"""Strangers' own rigs, typed from an empty book by real keys in the real window, each to a printed sheet.

None of them is the demo. Masses and sizes are made up; that each gets there without help is what is shown.
"""

from __future__ import annotations

from typing import Any
from unittest import mock

from PySide6.QtCore import Qt

from equilix.core.analysis import FindingKind
from equilix.core.kit.parts import Category
from equilix.desktop.views.rooms import BALANCE, WEIGH
from tests.campaigns import campaign
from tests.desktop.by_keys import ALT, CONTROL, ByKeys


@campaign
class StrangersRigs(ByKeys):
    def test_eleven_own_parts_without_a_base_plate_in_sixty_keys(self) -> None:
        parts = (
            ("Camera body", "2.4 kg"),
            ("Zoom 18-80", "1.3 kg"),
            ("Matte box", "500 g"),
            ("Battery 98 Wh", "0.75"),
            ("V-lock plate", "0.3"),
            ("Shoulder pad", "0.4"),
            ("Rods front", "0.14"),
            ("Rods rear", "0.12"),
            ("Handle left", "0.2"),
            ("Handle right", "0.2"),
            ("Monitor 5 in", "0.3"),
        )
        self.enter_kit(parts)
        self.build_all()
        added = [p for p in self.workspace.book.kit if p.name not in {name for name, _ in parts}]
        self.assertEqual({part.mass_known for part in added}, {"guessed"})
        self.level()
        self.print()
        self.assertTrue({name for name, _ in parts} <= set(self.names()))
        # Without an arm the screen has no good place on this camera: that is said before all else.
        verdict = self.window.balance.model.verdict
        self.assertRegex(verdict.matter, r"^Monitor 5 in|^The screen is out of sight")
        self.assertTrue(verdict.leads)
        self.assertEqual(verdict.head, "Level")
        self.assertLessEqual(self.pressed, 60)

    def test_a_weighed_camera_of_unknown_cg_is_not_to_be_weighed_again(self) -> None:
        """What the status bar says would help is what Weigh advises; its link leads to that part."""
        self.enter_kit((("Lifeboat camera", "3.1 kg"), ("Prime 85 mm", "1.45 kg"), ("Shoulder pad", "0.42")))
        self.build_all()
        self.press(Qt.Key.Key_3, ALT)
        status = self.window.status
        self.assertRegex(
            status.cause.text(),
            r"^CG ± \d+ mm, most of it where the CG of lifeboat camera lies; were it sure, \d+ % less:$",
        )
        self.assertEqual(status.link.text(), "find the CG")
        self.click(status.link)
        self.assertEqual(self.window.room, WEIGH)
        self.assertEqual(self.workspace.book.parts[self.workspace.kit_selected].name, "Lifeboat camera")
        self.assertEqual(self.window.weigh.filters.key, "all")
        self.assertIn("CG of the Lifeboat camera", self.window.panel.advised[0].accessibleName())

    def test_a_rig_that_begins_with_the_pad(self) -> None:
        """Any part may be first: here the pad is put down by its number, and all else comes over it."""
        self.enter_kit((("Camera box type", "1.9"), ("Shoulder pad foam", "0.3"), ("Prime lens 50 mm", "0.9")))
        self.press(Qt.Key.Key_2, ALT)
        self.press(Qt.Key.Key_Return)
        number = [offer.part.name for offer in self.window.build.offers].index("Shoulder pad foam")
        self.press(Qt.Key(Qt.Key.Key_1 + number))
        self.assertEqual(self.names(), ["Shoulder pad foam"])
        before = self.workspace.book
        self.put_on_the_rest()
        # The tree was turned round: the pad is what hangs on, and one undo a step.
        self.assertIsNotNone(self.workspace.build.parts[0].parent)
        self.assertIn("Camera box type", self.names())
        self.press(Qt.Key.Key_Z, CONTROL, times=2)
        self.assertEqual(self.workspace.book, before)
        self.press(Qt.Key.Key_Z, CONTROL | Qt.KeyboardModifier.ShiftModifier, times=2)
        self.level()
        self.print()

    def test_a_rig_that_begins_with_the_camera_and_gets_its_plates_later(self) -> None:
        self.enter_kit(
            (
                ("Documentary camera body", "3.1"),
                ("News zoom", "1.8"),
                ("Camera plate", "0.25"),
                ("Base plate dovetail", "0.9"),
                ("Shoulder pad", "0.35"),
            )
        )
        self.press(Qt.Key.Key_2, ALT)
        self.press(Qt.Key.Key_Return)
        number = [offer.part.name for offer in self.window.build.offers].index("Documentary camera body")
        self.press(Qt.Key(Qt.Key.Key_1 + number))
        self.put_on_the_rest()
        roots = [p for p in self.workspace.build.parts if p.parent is None]
        self.assertEqual(self.workspace.book.name_of(roots[0]), "Base plate dovetail")
        self.level()
        self.print()

    def test_own_parts_alone_with_connections_of_their_own(self) -> None:
        """A wooden plate and a tripod's old handle: nothing known joins them, so the user says how."""
        self.enter_kit((("Camera body", "1.2"), ("Oak board", "0.6"), ("Broom stick", "0.3"), ("Sandbag", "1 kg")))
        self.press(Qt.Key.Key_2, ALT)
        self.press(Qt.Key.Key_Return)
        self.press(Qt.Key.Key_1)
        words = iter(("screwed to the wood", "bolted under it", "tied on"))

        def by_own(dialog: Any) -> None:
            if not dialog.own.isChecked():
                self.press(Qt.Key.Key_Down)
            self.assertTrue(dialog.own.isChecked())
            dialog.words.setFocus()
            self.type(next(words))

        while len(self.workspace.build.parts) < 4:
            before = len(self.workspace.build.parts)
            if self.window.build.offers:
                self.press(Qt.Key.Key_1)
            else:
                self.next_part(by_own)
            self.assertGreater(len(self.workspace.build.parts), before)
        self.assertIn("Oak board", self.names())
        self.print()

    def test_a_wooden_home_made_plate_under_a_camera(self) -> None:
        """The kind of a plate fits by itself; the pad below it is nailed on by the user's own words."""
        self.enter_kit((("Wooden plate home-made", "0.5"), ("Camera body", "2.0"), ("Shoulder pad", "0.3")))
        self.press(Qt.Key.Key_2, ALT)
        self.press(Qt.Key.Key_Return, times=3)
        self.assertEqual(set(self.names()), {"Wooden plate home-made", "Camera body"})

        def nailed(dialog: Any) -> None:
            self.press(Qt.Key.Key_Down)
            dialog.holder.setCurrentIndex(dialog.holder.findText("Wooden plate home-made"))
            dialog.moves.setFocus()
            self.type("slides f")
            dialog.words.setFocus()
            self.type("nailed under the board")

        self.next_part(nailed, Qt.Key.Key_J)
        placed = self.workspace.build.parts[-1]
        self.assertEqual(placed.own.name, "nailed under the board")
        self.assertEqual((placed.own.low, placed.own.high), (-0.040, 0.040))
        analysis = self.workspace.analysis()
        pad, plate = analysis.positions.centre[2], analysis.positions.centre[0]
        self.assertLess(pad[2], plate[2])
        # It slides, so that it balances the rig.
        self.workspace.select(placed.id)
        self.press(Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        self.assertAlmostEqual(self.workspace.build.parts[-1].setting, 0.010)
        self.level()
        self.print()

    def test_two_handles_on_the_lens_support(self) -> None:
        self.enter_kit(
            (
                ("Base plate", "0.9"),
                ("Camera plate", "0.2"),
                ("Camera body", "2.2"),
                ("Shoulder pad", "0.3"),
                ("Rods front 12 in", "0.2"),
                ("Zoom 50-500", "2.8"),
                ("Lens support", "0.4"),
                ("Handle left", "0.25"),
                ("Handle right", "0.25"),
            )
        )
        self.press(Qt.Key.Key_2, ALT)
        self.press(Qt.Key.Key_Return)
        while "Lens support" not in self.names():
            self.next_part()
        for name in ("Handle left", "Handle right"):
            self.workspace.select(
                next(p.id for p in self.workspace.build.parts if self.workspace.book.name_of(p) == name)
            )
            self.press(Qt.Key.Key_Delete)

        def on_the_support(dialog: Any) -> None:
            self.press(Qt.Key.Key_Down)
            dialog.holder.setCurrentIndex(dialog.holder.findText("Lens support"))

        for _ in range(2):
            self.next_part(on_the_support, Qt.Key.Key_J)
        holds = {self.workspace.book.name_of(p): p.parent for p in self.workspace.build.parts}
        support = next(p.id for p in self.workspace.build.parts if self.workspace.book.name_of(p) == "Lens support")
        self.assertEqual({holds["Handle left"], holds["Handle right"]}, {support})
        hands = self.workspace.analysis().equilibrium.holding.hands
        self.assertEqual(len(hands), 2)
        self.level()
        self.print()

    def test_a_handheld_rig_without_a_pad(self) -> None:
        self.enter_kit(
            (("Cage", "0.4"), ("Mirrorless camera body", "0.7"), ("Prime lens", "0.5"), ("Handle left", "0.2"))
        )
        self.build_all()
        self.press(Qt.Key.Key_2, CONTROL)
        self.assertEqual(self.workspace.build.support, "handheld")
        self.press(Qt.Key.Key_3, ALT)
        self.print()

    def test_the_cheapest_rig_of_two_parts(self) -> None:
        self.enter_kit((("Camera body", "1 lb 9 oz"), ("Top handle", "0.3")))
        self.build_all()
        self.assertEqual(self.names(), ["Camera body", "Top handle"])
        self.press(Qt.Key.Key_3, ALT)
        self.print()

    def test_a_typical_build_changed_to_ones_own(self) -> None:
        """Tab goes to the start page's first button; the lens is weighed, the matte box taken off and put back."""
        page = self.window.weigh.start_page
        for _ in range(40):
            if self.there() is page.starters[-1]:  # the one that has a matte box
                break
            self.press(Qt.Key.Key_Tab)
        self.press(Qt.Key.Key_Return)
        self.assertEqual(self.window.room, BALANCE)
        self.assertGreater(len(self.workspace.build.parts), 12)
        self.press(Qt.Key.Key_2, ALT)
        self.assertIn("Matte box, clip-on, light", self.names())
        while self.workspace.book.name_of(self.workspace.build.placed(self.workspace.selected or "base")) != (
            "Matte box, clip-on, light"
        ):
            self.press(Qt.Key.Key_Down)
        self.press(Qt.Key.Key_Delete)
        self.assertNotIn("Matte box, clip-on, light", self.names())
        self.next_part()
        self.assertIn("Matte box, clip-on, light", self.names())
        self.level()
        self.print()

    def test_forty_parts(self) -> None:
        kinds = (
            ("Base plate long", "0.95"),
            ("Camera plate", "0.3"),
            ("Camera body", "2.6"),
            ("Shoulder pad", "0.4"),
            ("Rods front 18 in", "0.24"),
            ("Rods rear 12 in", "0.16"),
            ("V-lock battery plate", "0.3"),
            ("Battery 150 Wh", "1.1"),
            ("Top handle", "0.35"),
            ("Monitor arm", "0.2"),
            ("Monitor 7 in", "0.45"),
            ("Lens adapter", "0.2"),
            ("Zoom 25-250", "3.4"),
            ("Lens support", "0.2"),
            ("Matte box", "0.6"),
            ("Rosette clamp", "0.25"),
            ("Handgrip left", "0.18"),
            ("Handgrip right", "0.18"),
        )
        more = tuple((f"Cable {number}", "0.1") for number in range(1, 23))
        self.enter_kit((*kinds, *more))
        self.build_all()
        self.assertGreaterEqual(len(self.names()), 40)
        self.press(Qt.Key.Key_3, ALT)
        self.print()

    def test_on_rods_handles_hold_and_the_way_that_reaches_level_stands_first(self) -> None:
        self.enter_kit(
            (
                ("Film camera body", "3.1 kg"),
                ("Zoom 25-250", "2.2 kg"),
                ("Camera plate", "0.2"),
                ("Base plate long", "0.9"),
                ("Matte box", "420 g"),
                ("Shoulder pad", "0.6"),
                ("V-lock plate", "0.3"),
                ("Battery 150 Wh", "0.95"),
                ("Handles on rods", "0.7"),
                ("Monitor 7 in", "0.45"),
            )
        )
        self.build_all()
        self.press(Qt.Key.Key_3, ALT)
        view = self.window.balance
        self.wait_for(lambda: not view.finder.busy)
        # One pair: a hand at either end of it.
        self.assertIn("left hand", view.model.verdict.body)
        first = view.ways[0].strategy
        self.assertTrue(first.full, view.ways[0].title)
        self.assertFalse(view.ways[1].strategy.full)

    def test_a_spare_lens_stays_in_the_kit_and_enter_says_so(self) -> None:
        self.enter_kit((("Camera body", "2.1 kg"), ("Zoom 24-70", "1.1 kg"), ("Prime 35", "900 g")))
        self.press(Qt.Key.Key_2, ALT)
        for _ in range(3):
            self.next_part()
        self.assertEqual(self.refusals, [])
        on_it = self.names()
        self.assertEqual(len(on_it), len(set(on_it)))
        with mock.patch("equilix.desktop.dialogs.join.JoinDialog.exec", side_effect=AssertionError("a window")):
            for _ in range(2):
                self.press(Qt.Key.Key_Return)
        self.assertEqual(self.names(), on_it)
        self.assertEqual(len([name for name in on_it if name in ("Zoom 24-70", "Prime 35")]), 1)
        self.assertIn("Only spares are left", self.refusals[-1])

    def test_a_grip_goes_on_the_rosette_of_the_base_plate_and_nothing_is_bought(self) -> None:
        self.enter_kit(
            (
                ("Camera body box", "1.6 kg"),
                ("Lens zoom 20-70", "1.7 kg"),
                ("Camera plate", "0.2"),
                ("Base plate", "0.7"),
                ("V-lock plate", "0.3"),
                ("Video sender", "0.3"),
                ("Grip left", "0.2"),
            )
        )
        self.build_all()
        self.assertEqual([part for part in self.workspace.book.kit if part.mass_known == "guessed"], [])
        build = self.workspace.build
        grip = next(placed for placed in build.parts if self.workspace.book.name_of(placed) == "Grip left")
        self.assertEqual(self.workspace.book.name_of(build.placed(grip.parent)), "Base plate")

    def test_batteries_come_behind_the_camera_and_what_is_held_or_turned_ahead_of_it(self) -> None:
        """Each part by Enter alone: nobody has a battery under the lens, or grips and a motor behind the shoulder."""
        self.enter_kit(
            (
                ("Documentary camera", "2.8 kg"),
                ("Zoom 20-120", "2.9 kg"),
                ("Base plate", "0.85"),
                ("Shoulder pad", "0.3"),
                ("V-lock plate", "0.3"),
                ("Battery 98 Wh", "0.75"),
                ("Video sender", "0.38"),
                ("Top handle", "0.2"),
                ("Wireless focus motor", "0.2"),
                ("Grip left", "0.25"),
                ("Grip right", "0.25"),
            )
        )
        self.build_all()
        analysis = self.workspace.analysis()
        x = {p.category: float(at[0]) for p, at in zip(analysis.assembly.parts, analysis.positions.centre, strict=True)}
        for behind in (Category.BATTERY_PLATE, Category.BATTERY):
            self.assertLess(x[behind], x[Category.BODY] - 0.05)
        self.assertGreater(x[Category.FOCUS], x[Category.BODY] + 0.05)
        self.assertGreaterEqual(x[Category.GRIP], x[Category.BODY])
        self.assertNotIn(FindingKind.CLASH, [finding.kind for finding in analysis.findings])

    def test_a_side_handle_with_nothing_to_hold_it_says_what_it_needs(self) -> None:
        """Common practice: it goes on a rosette; nobody hangs a cage on a small screw for it."""
        self.enter_kit((("Camera plate", "0.4"), ("Camera box type", "1.4"), ("Side handle", "0.25")))
        self.press(Qt.Key.Key_2, ALT)
        self.press(Qt.Key.Key_Return, times=3)
        self.assertEqual(self.names(), ["Camera box type", "Camera plate"])
        self.assertEqual(self.window.build.model.loose.off[0].why, "it needs a rosette clamp, and none is here")
        self.next_part()
        self.assertIn("Side handle", self.names())

    def test_in_a_cage_the_handle_comes_on_top_and_nothing_meets(self) -> None:
        """Common practice: the cage goes round the body, the handle on its top, the sender beside the handle."""
        self.enter_kit(
            (
                ("Stills body", "900 g"),
                ("Prime 35 mm", "1 lb 4 oz"),
                ("Cage", "320 g"),
                ("Top handle", "210 g"),
                ("Monitor 5 in", "300 g"),
                ("Shotgun microphone", "180 g"),
                ("V-lock plate", "220 g"),
                ("Battery 50 Wh", "380 g"),
                ("Rods 8 in", "150 g"),
                ("Matte box", "420 g"),
                ("Base plate", "500 g"),
                ("Shoulder pad", "300 g"),
                ("Video sender", "190 g"),
            )
        )
        self.build_all()
        build, parts = self.workspace.build, self.workspace.book.parts
        on = {parts[p.part_id].name: p for p in build.parts}
        self.assertEqual(parts[build.placed(on["Top handle"].parent).part_id].name, "Cage")
        self.assertEqual(on["Top handle"].mount, "rail")
        analysis = self.workspace.analysis()
        self.assertEqual([f for f in analysis.findings if f.kind == FindingKind.CLASH], [])


class GuideWalk(ByKeys):
    """The guide's five minutes, sentence by sentence."""

    def test_the_five_minutes(self) -> None:
        from pathlib import Path

        guide = (Path(__file__).parents[2] / "docs" / "guide.md").read_text()
        steps = guide.partition("## Five minutes to a first verdict")[2].partition("\n## ")[0]
        said = iter(line for line in steps.splitlines() if line[:1].isdigit())
        # 1 An empty book opens on the start page.
        self.assertIn("start page", next(said))
        self.assertTrue(self.window.weigh.start_page.isVisible())
        # 2 A typical build comes with guesses, and Balance says at once how it stands.
        self.assertIn("typical build", next(said))
        self.click(self.window.weigh.start_page.starters[0])
        self.assertEqual(self.window.room, BALANCE)
        self.assertTrue(all(part.mass_known == "guessed" for part in self.workspace.book.kit))
        # 3 The headline at the right is the answer.
        self.assertIn("headline", next(said))
        self.assertIn("Tips", self.window.panel.head.text() + self.window.panel.sentence.text())
        # 4 P previews, Esc drops, Enter applies, Ctrl+Z takes back.
        self.assertIn("P ", next(said))
        self.window.activateWindow()
        self.ways()
        before = self.workspace.book
        self.press(Qt.Key.Key_P)
        self.assertIsNotNone(self.workspace.chosen_way)
        self.press(Qt.Key.Key_Escape)
        self.assertIsNone(self.workspace.chosen_way)
        self.press(Qt.Key.Key_P)
        self.press(Qt.Key.Key_Return)
        self.assertIsNot(self.workspace.book, before)
        self.press(Qt.Key.Key_Z, CONTROL)
        self.assertEqual(self.workspace.book, before)
        # 5 In Weigh the panel names what is most worth weighing; it is typed in on the bench.
        self.assertIn("Weigh", next(said))
        self.press(Qt.Key.Key_1, ALT)
        self.settle()
        advice = self.window.weigh.found[0]
        self.window.weigh.follow_advice(0)
        self.settle()
        self.assertEqual(self.window.weigh.session.choice[0], "rig" if advice.part is None else "part")
        before = self.workspace.book
        session = self.window.weigh.session
        while (step := session.procedure.current) is not None:
            self.type(f"{step.expected:.3f}")
            self.press(Qt.Key.Key_Return)
        self.press(Qt.Key.Key_Return)
        self.assertNotEqual(self.workspace.book, before)
        self.assertIn("Stored", self.window.status.context.text())
        # 6 Ctrl+P prints.
        self.assertIn("Ctrl+P", next(said))
        self.press(Qt.Key.Key_2, ALT)
        self.print()


class Kinds(ByKeys):
    def test_names_speak_of_their_kinds_and_can_be_overruled(self) -> None:
        self.enter_kit(
            (
                ("Handle left", "0.2"),
                ("Top handle", "0.3"),
                ("Wooden handle right", "0.2"),
                ("Rods 8 in", "0.1"),
                ("Single rod 8 in", "0.05"),
            )
        )
        kit = self.workspace.book.kit
        self.assertEqual([p.category for p in kit[:3]], [Category.GRIP, Category.HANDLE, Category.GRIP])
        # A pair lies 60 mm apart, a single rod is as wide as it is high: common practice.
        self.assertEqual([round(p.outline.size[1], 3) for p in kit[3:]], [0.075, 0.015])
        self.type("Old thing")
        self.press(Qt.Key.Key_Tab)
        self.type("0.4")
        self.press(Qt.Key.Key_Tab, times=2)
        self.assertEqual(self.there().accessibleName(), "Its kind")
        self.type("side")
        self.assertIs(self.window.weigh.entry.kind.counts, Category.GRIP)
        self.press(Qt.Key.Key_Backtab, Qt.KeyboardModifier.ShiftModifier)
        self.press(Qt.Key.Key_Return)
        self.assertIs(self.workspace.book.kit[-1].category, Category.GRIP)
        self.assertIs(self.window.weigh.entry.kind, None)

    def test_a_refused_entry_stays_with_its_sentence_at_the_field(self) -> None:
        self.type("Zoom")
        self.press(Qt.Key.Key_Tab)
        self.type("heavy")
        self.press(Qt.Key.Key_Return)
        weigh = self.window.weigh
        self.assertIn('"heavy" is not a mass', weigh.entry.problem.text())
        self.assertTrue(weigh.entry.problem.isVisible())
        self.assertEqual((weigh.entry.name_field.text(), weigh.entry.mass_field.text()), ("Zoom", "heavy"))
        self.assertIs(self.there(), weigh.entry.mass_field)
        self.type("1,250 g")
        self.press(Qt.Key.Key_Return)
        # A comma before three figures: thousands for some, a decimal comma for others.
        self.assertEqual(weigh.entry.problem.text(), '"1,250 g" can mean 1250 g or 1.250 g. Type one of them.')
        self.type("1250 g")
        self.assertFalse(weigh.entry.problem.isVisible())
        self.press(Qt.Key.Key_Return)
        self.assertEqual(self.workspace.book.kit[0].mass, 1.25)
        self.type("Lens")
        self.press(Qt.Key.Key_Tab)
        self.type("900 kg")
        self.press(Qt.Key.Key_Return)
        self.assertIn("must be from 0.00 kg to 500.00 kg, not 900.00 kg", weigh.entry.problem.text())
        self.workspace.set_units(type(self.workspace.system)("imperial"))
        self.press(Qt.Key.Key_Return)
        self.assertIn("lb", weigh.entry.problem.text())
        self.assertEqual(self.window.room, WEIGH)

    def test_a_mass_a_thousand_times_off_is_asked_about_and_taken_at_the_second_enter(self) -> None:
        weigh = self.window.weigh
        self.type("Camera body")
        self.press(Qt.Key.Key_Tab)
        self.type("60 kg")
        self.press(Qt.Key.Key_Return)
        self.assertIn("unusual for this kind (body: about 2.00 kg)", weigh.entry.problem.text())
        self.assertEqual(self.workspace.book.kit, ())
        self.press(Qt.Key.Key_Return)
        self.assertEqual(self.workspace.book.kit[0].mass, 60.0)
        # Without a word it counts as a maker's sheet, never as weighed.
        self.assertEqual(self.workspace.book.kit[0].mass_known, "sheet")
