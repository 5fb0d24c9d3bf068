"""Edits and undo as values."""

from __future__ import annotations

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Operator
from equilix.core.errors import EditError
from equilix.core.kit.parts import Category, Part
from equilix.core.limits import MAX_THINGS
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.document.book import Book
from equilix.document.edits.book import AddStarter, PutOperator, RenameBook
from equilix.document.edits.builds import (
    AddBuild,
    ApplyPlan,
    ChangeBuild,
    DuplicateBuild,
    PlacePart,
    QuarterTurn,
    RemoveBuild,
    SetSlide,
    SwapOrder,
    TakeOff,
)
from equilix.document.edits.kit import AddParts, ChangePart, DuplicatePart, RemoveParts
from equilix.document.history import DEPTH, Edit, History
from equilix.io.format import MAX_FILE, decode_book, encode_book
from equilix.io.shipped import demo_book, starter_parts, starters

BUILD = "long-zoom"


def every_edit(book: Book) -> list[Edit]:
    """Return one edit of each kind that can be done to the demo book."""
    starter = replace(starters()[0], id="fresh")
    analysis = analyse(book.builds[0], book.parts, book.operators[0])
    ways = {s.kind: s.plan for s in find_strategies(analysis, book.parts, book.operators[0], 0.0)}
    slide, weight = ways[StrategyKind.SLIDES], ways[StrategyKind.DEAD_WEIGHT]
    return [
        AddParts((Part("new", "New part", Category.OTHER, 0.1),)),
        ChangePart(replace(book.part("zoom"), mass=1.5), "mass"),
        DuplicatePart("weight"),
        RemoveParts(("weight", "focus")),
        AddBuild(Build("empty", "Empty")),
        DuplicateBuild(BUILD, "Copy"),
        ChangeBuild(replace(book.build(BUILD), name="Another name"), "name"),
        RemoveBuild("wide"),
        PlacePart(BUILD, "focus", "front", "rods", 0.05),
        TakeOff(BUILD, "handle"),
        SetSlide(BUILD, "plate", 0.03, "Plate"),
        QuarterTurn(BUILD, "sender"),
        SwapOrder(BUILD, "sender", -1),
        ApplyPlan(slide.build, tuple(slide.kit.values())),
        ApplyPlan(weight.build, tuple(weight.kit.values())),
        RenameBook("Another title"),
        PutOperator(Operator("maren", "Maren", 1.72, 66.0)),
        PutOperator(Operator("third", "Third", 1.6, 60.0)),
        AddStarter(starter, starter_parts(starter)),
    ]


class Edits(unittest.TestCase):
    def test_every_edit_changes_the_book_is_named_and_undoes_to_an_equal_one(self) -> None:
        book = demo_book()
        for edit in every_edit(book):
            with self.subTest(type(edit).__name__):
                done = History(book).push(edit)
                self.assertNotEqual(done.present, book)
                self.assertTrue(done.undo_label.strip())
                self.assertEqual(done.undo().present, book)
                self.assertEqual(done.undo().redo().present, done.present)
                for build in done.present.builds:
                    analyse(build, done.present.parts, done.present.operators[0])

    def test_an_applied_plan_levels_the_rig(self) -> None:
        for edit in every_edit(demo_book()):
            if isinstance(edit, ApplyPlan):
                book = edit.apply(demo_book())
                ahead = analyse(book.builds[0], book.parts, book.operators[0]).equilibrium.ahead
                self.assertAlmostEqual(ahead, 0.0, places=6)

    def test_what_cannot_be_done_is_said_in_words(self) -> None:
        book = demo_book()
        for edit, words in (
            (AddParts((book.kit[0],)), "the id of another"),
            (ChangePart(replace(book.part("zoom"), id="gone"), "mass"), "not in the kit any more"),
            (ChangePart(replace(book.part("base"), mounts=()), "mounts"), "Take it off there first"),
            (RemoveParts(("zoom",)), ". Take it off there first"),
            (PlacePart(BUILD, "zoom", "front", "rods"), "on this build already"),
            (PlacePart(BUILD, "mic", "front", "rods"), "does not fit"),
            (PlacePart(BUILD, "mic", "front", "gone"), "no mount called"),
            (PlacePart(BUILD, "mic"), "Choose a mount"),
            (SetSlide(BUILD, "body", 0.1), "is fixed"),
            (SetSlide("gone", "body", 0.1), "gone from the book"),
            (SwapOrder(BUILD, "base", -1), "end of the order"),
            (SwapOrder(BUILD, "lens", 99), "end of the order"),
            (RenameBook("two\nlines"), "one line"),
            (AddBuild(book.builds[0]), "the id of another"),
        ):
            with self.subTest(words), self.assertRaisesRegex(EditError, words):
                edit.apply(book)

    def test_part_order_is_free_and_says_nothing_about_the_rig(self) -> None:
        after = SwapOrder(BUILD, "pad", -1).apply(demo_book())
        self.assertEqual([p.id for p in after.build(BUILD).parts[:2]], ["pad", "base"])
        first, second = (analyse(b.build(BUILD), b.parts, b.operators[0]) for b in (demo_book(), after))
        assert first.equilibrium is not None
        assert second.equilibrium is not None
        self.assertAlmostEqual(first.equilibrium.tip_moment, second.equilibrium.tip_moment, places=12)

    def test_slides_stop_at_their_ends_and_snap(self) -> None:
        book = SetSlide(BUILD, "plate", 9.0).apply(demo_book())
        self.assertAlmostEqual(book.build(BUILD).placed("plate").setting, 0.1145)
        turned = SetSlide(BUILD, "grip-l", 0.15).apply(book)
        self.assertAlmostEqual(turned.build(BUILD).placed("grip-l").setting, 0.10471975511965977)


EVERY_EDIT = every_edit(demo_book())


class Undo(unittest.TestCase):
    def test_one_drag_is_one_step_until_the_mouse_is_let_go(self) -> None:
        history = History(demo_book())
        for travel in (0.01, 0.02, 0.03):
            history = history.push(SetSlide(BUILD, "plate", travel))
        self.assertEqual(len(history.past), 1)
        history = history.close_group().push(SetSlide(BUILD, "plate", 0.04))
        self.assertEqual(len(history.past), 2)
        history = history.push(SetSlide(BUILD, "vplate", 0.0))
        self.assertEqual(len(history.past), 3)

    def test_an_edit_that_changes_nothing_is_no_step(self) -> None:
        history = History(demo_book())
        self.assertIs(history.push(RenameBook("Harbour ferry")), history)

    def test_a_new_edit_drops_what_was_undone(self) -> None:
        history = History(demo_book()).push(RenameBook("A")).undo().push(RenameBook("B"))
        self.assertEqual(history.future, ())
        self.assertEqual(history.redo(), history)

    def test_the_depth_is_bounded(self) -> None:
        history = History(Book())
        for i in range(DEPTH + 20):
            history = history.push(RenameBook(f"Title {i}"))
        self.assertEqual(len(history.past), DEPTH)

    def test_steps_share_what_has_not_changed(self) -> None:
        history = History(demo_book()).push(SetSlide(BUILD, "plate", 0.03))
        self.assertIs(history.present.kit, history.past[-1].book.kit)

    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.integers(0, 18), min_size=1, max_size=12))
    def test_any_run_of_edits_undoes_all_the_way(self, picks: list[int]) -> None:
        start = demo_book()
        history = History(start)
        edits = EVERY_EDIT
        for pick in picks:
            try:
                history = history.push(edits[pick]).close_group()
            except EditError:
                continue
        while history.past:
            history = history.undo()
        self.assertEqual(history.present, start)


class WhatIsSavedOpensAgain(unittest.TestCase):
    """A book may grow only as far as it can be read again: the bound is where things come in."""

    def test_no_more_things_than_are_read(self) -> None:
        parts = tuple(Part(f"p{n}", "x", Category.OTHER) for n in range(MAX_THINGS))
        full = History(Book()).push(AddParts(parts))
        self.assertEqual(decode_book(encode_book(full.present), "x"), full.present)
        with self.assertRaisesRegex(EditError, "at most 20,000 parts"):
            full.push(AddParts((Part("more", "x", Category.OTHER),)))
        self.assertEqual(len(full.push(RemoveParts(("p1",))).present.kit), MAX_THINGS - 1)

    def test_no_larger_than_is_read(self) -> None:
        """The largest book that comes about is written so that it can be read, indented or not."""
        note = "ü" * 5_000
        history = History(Book())
        with self.assertRaisesRegex(EditError, "larger than 49 MB"):
            for k in range(12):
                history = history.push(
                    AddParts(tuple(Part(f"p{k}-{n}", "x", Category.OTHER, note=note) for n in range(500)))
                )
        self.assertGreater(len(history.present.kit), 4_000)
        data = encode_book(history.present)
        self.assertLessEqual(len(data), MAX_FILE)
        self.assertEqual(decode_book(data, "x"), history.present)
