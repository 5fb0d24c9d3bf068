"""Every format there ever was opens, and nothing of an old file is dropped in silence."""

from __future__ import annotations

import json
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from equilix.core.assembly.tree_order import reroot
from equilix.document.validation import as_put_together
from equilix.io.format import VERSION, decode_mended, encode_book
from equilix.io.migrations import STEPS, brought_up
from equilix.io.salvage import salvaged
from equilix.io.shipped import demo_book

FOLDER = Path(__file__).parents[1] / "data" / "old_files"


def leaves(thing: Any, path: str = "") -> Iterator[tuple[str, Any]]:
    """Yield every plain value of JSON with its path."""
    if isinstance(thing, dict):
        for key, value in thing.items():
            yield from leaves(value, f"{path}.{key}")
    elif isinstance(thing, list):
        for number, value in enumerate(thing):
            yield from leaves(value, f"{path}[{number}]")
    else:
        yield path, thing


#: Where a value of a sled's timing is since format 7.
TIMED = {
    "tries": "tries",
    "timed_mass": "mass",
    "lean_pitch": "pitch",
    "lean_roll": "roll",
    "shift_x": "shift[0]",
    "shift_y": "shift[1]",
    "shift_z": "shift[2]",
    "more_inertia": "more_inertia",
    "parted": "parted",
    "suspect": "suspect",
}


def moved(place: str) -> tuple[str, ...]:
    """Return where a value of an old file is now: since format 6 rests and holds belong to a build's supports, since
    format 7 rests are the shoulder's own settings, and what was timed of a sled stands apart."""
    if place == ".version":
        return ()
    rests = place.replace(".shoulder.", ".supports[0].") if place.startswith(".builds") else place
    if ".hold." in place and ".supports" not in place:
        return tuple(place.replace(".hold.", f".supports[{k}].hold.") for k in range(2))
    head, _, last = rests.replace(".rests.", ".").rpartition(".")
    name = last.split("[")[0]
    if ".supports" in head and name in TIMED:
        return (f"{head}.timed.{last.replace(name, TIMED[name])}",)
    return (f"{head}.{last}",)


class OldFiles(unittest.TestCase):
    def test_every_format_has_a_step_and_an_old_file(self) -> None:
        """Fails when a format is left behind without both."""
        older = list(range(1, VERSION))
        self.assertEqual(sorted(STEPS), older)
        found = [json.loads(path.read_text())["version"] for path in sorted(FOLDER.glob("*.equilix"))]
        self.assertEqual(sorted(set(found)), older)

    def test_nothing_of_an_old_file_is_dropped(self) -> None:
        for path in sorted(FOLDER.glob("*.equilix")):
            with self.subTest(path.name):
                data = path.read_bytes()
                book, said = decode_mended(data, path.name)
                self.assertEqual(said, ())
                now = dict(leaves(json.loads(encode_book(book))))
                old = json.loads(data)
                timed = {f".builds[{k}]" for k, b in enumerate(old["builds"]) if "'timed_mass': None" not in str(b)}
                for place, value in leaves(old):
                    if ".mounts" in place and str(value).endswith(" scale"):
                        # What moves on a rail is a slide.
                        value = f"{value.removesuffix(' scale')} slide"
                    for there in moved(place):
                        # Where nothing was timed, nothing is kept of it.
                        gone = ".timed." in there and there.partition(".supports")[0] not in timed
                        self.assertTrue(gone or now.get(there, "dropped") == value, there)

    def test_step_by_step_is_the_same_as_at_once(self) -> None:
        for path in sorted(FOLDER.glob("*.equilix")):
            at_once, slowly = json.loads(path.read_text()), json.loads(path.read_text())
            brought_up(at_once, VERSION)
            for version in range(slowly["version"] + 1, VERSION + 1):
                brought_up(slowly, version)
            self.assertEqual(at_once, slowly)
            self.assertEqual(at_once["version"], VERSION)

    def test_an_old_damaged_file_is_brought_up_too(self) -> None:
        content = json.loads((FOLDER / "format-1-demo.equilix").read_text())
        content["kit"][3]["mass"] = "heavy"
        found = salvaged(json.dumps(content).encode(), "old")
        self.assertEqual(len(found.book.kit), len(content["kit"]) - 1)


class UnknownFields(unittest.TestCase):
    def test_what_has_no_place_is_said(self) -> None:
        content = json.loads(encode_book(demo_book()))
        for part in content["kit"][:3]:
            part["colour"] = "red"
        content["builds"][0]["parts"][2]["glue"] = True
        content["hobby"] = {"a": 1}
        book, said = decode_mended(json.dumps(content).encode(), "x")
        self.assertEqual(book, demo_book())
        self.assertEqual(len(said), 3)
        self.assertIn("the field 'colour' of a part is not known here and was left out, 3 times", said)
        self.assertIn("the field 'glue' of a placed part is not known here and was left out", said)
        self.assertIn("the field 'hobby' of the book is not known here and was left out", said)


class Rooting(unittest.TestCase):
    def test_a_build_that_hangs_on_another_part_opens_as_it_is_put_together(self) -> None:
        book = demo_book()
        for placed in book.builds[0].parts:
            turned = book.with_build(reroot(book.builds[0], placed.id))
            self.assertEqual(decode_mended(encode_book(turned), "x"), (book, ()))
            self.assertEqual(as_put_together(turned), book)

    def test_a_level_part_that_is_not_there_is_said(self) -> None:
        content = json.loads(encode_book(demo_book()))
        content["builds"][0]["level"] = "gone"
        book, said = decode_mended(json.dumps(content).encode(), "x")
        self.assertEqual(book, demo_book())
        self.assertIn("the part to level is gone", said[0])


if __name__ == "__main__":
    unittest.main()
