"""Where the core's numbers come from is written down, and what is written down is what the code says."""

from __future__ import annotations

import subprocess
import sys
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[2]


class Sources(unittest.TestCase):
    def test_the_table_is_current(self) -> None:
        done = subprocess.run([sys.executable, ROOT / "docs" / "make-sources", "--check"], check=False)
        self.assertEqual(done.returncode, 0, "run docs/make-sources")

    def test_no_number_about_bodies_is_without_a_kind(self) -> None:
        rows = (ROOT / "docs" / "sources.md").read_text(encoding="utf-8").splitlines()
        bodies = [
            row for row in rows if row.startswith(("| operator/", "| carry.py", "| operator_head.py", "| pose.py"))
        ]
        self.assertGreater(len(bodies), 30)
        for row in bodies:
            if "`HEAD_ABOVE`" not in row:  # worked out from the two beside it
                self.assertNotIn("| method |", row)


if __name__ == "__main__":
    unittest.main()
