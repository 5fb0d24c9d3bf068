"""Ways on the command line: what each costs and does, and a build as one leaves it, whole or in part."""

from __future__ import annotations

import json
import math
from pathlib import Path

from equilix.core.frames import STANDARD_GRAVITY
from equilix.io.format import read_book
from tests.campaigns import campaign
from tests.cli.test_books import OnTheCommandLine

BUILD = "A · Long zoom"


@campaign
class Ways(OnTheCommandLine):
    def test_each_says_what_it_does_and_costs(self) -> None:
        found = self.report(BUILD, "--ways")["ways"]
        for way in found:
            self.assertIn(way["aim"], ("balance", "steadier", "lighten", "clear"))
            self.assertIsInstance(way["full"], bool)
            for worse in way["worse"]:
                self.assertEqual(set(worse), {"kind", "serious", "says"})
            for change in way["changes"]:
                self.assertEqual(set(change), {"do", "part", "from_mm", "to_mm", "says"})
        balance = [way for way in found if way["aim"] == "balance"]
        self.assertTrue(balance[0]["full"])
        # Whole steps of 5 s, and what is added is what the parts weigh more.
        now = sum(part["mass_kg"] or 0.0 for part in self.report(BUILD)["parts"])
        for way in balance:
            self.assertEqual(way["effort_s"] % 5.0, 0.0)
            mass = sum(part["mass_kg"] or 0.0 for part in way["parts"])
            self.assertAlmostEqual(way["added_kg"], mass - now, places=9)

    def test_what_meets_comes_apart(self) -> None:
        meets = "C · Wide body"  # its focus motor meets the clamp
        clashes = [one for one in self.report(meets)["findings"] if one["kind"] == "clash"]
        ways = self.report(meets, "--ways")["ways"]
        clearing = [number for number, way in enumerate(ways, 1) if way["aim"] == "clear"]
        self.assertGreater(len(clearing), 0)
        for number in clearing:
            left = [one for one in self.report(meets, "--way", str(number))["findings"] if one["kind"] == "clash"]
            self.assertLess(len(left), len(clashes))

    def test_a_build_as_a_way_leaves_it_keeps_the_promise(self) -> None:
        ways = self.report(BUILD, "--ways")["ways"]
        for number, way in enumerate(ways[:3], 1):
            done = self.report(BUILD, "--way", str(number))
            self.assertEqual(done["full"], way["full"])
            for name, promised in way["promise"].items():
                figure = done["figures"][name]["value"]
                if promised is not None and math.isfinite(promised):
                    self.assertAlmostEqual(figure, promised, places=9, msg=name)

    def test_some_of_its_changes_alone(self) -> None:
        """By plain sums: the moment about the pad with the first change alone, from the printed parts."""
        way = self.report(BUILD, "--ways")["ways"][0]
        count = len(way["changes"])
        self.assertGreater(count, 1)
        whole = self.report(BUILD, "--way", "1", "--changes", ",".join(str(k) for k in range(1, count + 1)))
        self.assertEqual(whole["full"], way["full"])
        for number in range(1, count + 1):
            rest = ",".join(str(k) for k in range(1, count + 1) if k != number)
            part = self.report(BUILD, "--way", "1", "--changes", rest)
            mass = sum(p["mass_kg"] or 0.0 for p in part["parts"])
            moment = sum((p["mass_kg"] or 0.0) * p["cg_mm"][0] / 1e3 for p in part["parts"])
            pad = part["holders"]["pad_mm"][0] / 1e3
            wanted = STANDARD_GRAVITY * (moment - mass * pad)
            self.assertAlmostEqual(part["figures"]["pitch_moment_nm"]["value"], wanted, places=9)
        self.assertFalse(part["full"])

    def test_it_is_kept_in_another_book(self) -> None:
        out = self.path.with_name("level.equilix")
        done = self.report(BUILD, "--way", "1", "--write", str(out))
        book = read_book(out)
        again, before = (one for one in (book, read_book(self.path)))
        self.assertEqual(len(again.builds), len(before.builds))
        code, text, _ = self.call("analyse", str(out), "--build", BUILD, "--json")
        self.assertEqual(code, 0)
        self.assertEqual(json.loads(text)["figures"], done["figures"])
        for target in (out, self.path):
            code, _, err = self.call("analyse", str(self.path), "--build", BUILD, "--way", "1", "--write", str(target))
            self.assertEqual(code, 2)
            self.assertIn("name another file", err)

    def test_what_is_wrong_is_said_in_a_sentence(self) -> None:
        for words, said in (
            (("--way", "99"), "so --way 99 is none of them"),
            (("--way", "0"), "so --way 0 is none of them"),
            (("--way", "1", "--changes", "7"), "so there is no change 7"),
            (("--way", "1", "--changes", "one"), "numbers with commas between"),
            (("--changes", "1"), "Name it with --way"),
            (("--way", "1", "--write", str(Path("x.txt"))), "ends in .equilix"),
        ):
            with self.subTest(words):
                code, out, err = self.call("analyse", str(self.path), "--build", BUILD, *words)
                self.assertEqual((code, out), (2, ""))
                self.assertIn(said, err)
                self.assertEqual(err.count("\n"), 1)
