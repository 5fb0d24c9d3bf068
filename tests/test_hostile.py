"""A short seeded part of the hostile benchmark: kills, damage, random edits and ticks in the real window."""

from __future__ import annotations

import json
import unittest
from pathlib import Path

from tests.children import child

BENCHMARK = Path(__file__).parents[1] / "benchmarks" / "hostile.py"


class Hostile(unittest.TestCase):
    def test_a_short_run_counts_nothing_bad(self) -> None:
        with child(str(BENCHMARK), "--seed", "7", "--seconds", "14") as program:
            counts = json.loads(program.stdout.read())
        self.assertEqual(program.returncode, 0)
        for name in ("kills", "inputs", "edits", "ticks"):
            self.assertGreater(counts[name], 0, name)
        for name in ("lost_over_250_ms", "unreadable", "leftovers", "tracebacks", "undo_unequal"):
            self.assertEqual(counts[name], 0, counts)


if __name__ == "__main__":
    unittest.main()
