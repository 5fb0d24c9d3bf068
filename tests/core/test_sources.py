"""Where the core's numbers come from is written down, and what is written down is what the code says."""

from __future__ import annotations

import importlib
import re
import subprocess
import sys
import unittest
from pathlib import Path

import msgspec

ROOT = Path(__file__).parents[2]


class Sources(unittest.TestCase):
    def test_the_table_is_current(self) -> None:
        done = subprocess.run([sys.executable, ROOT / "docs" / "make-sources", "--check"], check=False)
        self.assertEqual(done.returncode, 0, "run docs/make-sources")

    def test_the_running_program_has_the_values_of_the_table(self) -> None:
        """Each constant that has a source, or is the trade's, is what is published of it: tables are read by people."""
        rows = (ROOT / "docs" / "sources.md").read_text(encoding="utf-8").splitlines()
        seen = 0
        for row in rows:
            found = re.match(r"\| (\S+)\.py `([^`]+)` \| (.*?) \| ([a-z ]+) \| ", row)
            if found is None or found[4] == "method" or found[2].endswith("()"):
                continue
            module = importlib.import_module("equilix." + found[1].replace("/", "."))
            names = found[2].split(", ")
            published = eval(found[3], dict(vars(module)))
            running = tuple(self.running(module, name) for name in names)
            with self.subTest(row[:60]):
                self.assertEqual(repr(running if len(names) > 1 else running[0]), repr(published))
            seen += 1
        self.assertGreater(seen, 120)

    def running(self, module: object, name: str) -> object:
        """Return a constant, or what a field of a class is taken as by default."""
        owner, _, field = name.rpartition(".")
        if not owner:
            return getattr(module, name)
        return next(one.default for one in msgspec.structs.fields(getattr(module, owner)) if one.name == field)

    def test_what_is_taken_by_default_stands_in_the_table(self) -> None:
        rows = (ROOT / "docs" / "sources.md").read_text(encoding="utf-8").splitlines()
        named = [row for row in rows if re.match(r"\| \S+ `\w+\.\w+` \|", row)]
        self.assertGreater(len(named), 50)
        self.assertEqual([row for row in named if "| method |" in row], [])

    def test_no_function_has_numbers_of_its_own_without_a_source(self) -> None:
        """Only what stands in a published formula is written where it is used; everything else has a name."""
        rows = (ROOT / "docs" / "sources.md").read_text(encoding="utf-8").splitlines()
        formulas = [row for row in rows if "()` | " in row]
        self.assertTrue(any("recommended_limit()` | 0.003, 0.0032, 0.82" in row for row in formulas))
        self.assertEqual([row for row in formulas if "| method |" in row], [])

    def test_no_number_about_bodies_is_without_a_kind(self) -> None:
        rows = (ROOT / "docs" / "sources.md").read_text(encoding="utf-8").splitlines()
        bodies = [
            row for row in rows if row.startswith(("| core/operator/", "| core/carry/", "| core/statics/pose.py"))
        ]
        self.assertGreater(len(bodies), 30)
        for row in bodies:
            # One is worked out from the two beside it, the other is a direction.
            if "`HEAD_ABOVE`" not in row and "`_CABLE`" not in row:
                self.assertNotIn("| method |", row)


if __name__ == "__main__":
    unittest.main()
