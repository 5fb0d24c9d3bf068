"""A stranger's support: one folder, one word in the registry, and every room takes it along."""

from __future__ import annotations

import os
import subprocess
import sys
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[3]
#: Runs what follows it with a seventh support in the registry, before anything else of the program is loaded.
_WITH_A_SEVENTH = """
import sys
import equilix.core.keys as keys
import equilix.supports as supports
keys.KEYS = (*keys.KEYS, "perch")
supports.__path__.append(sys.argv.pop(1))
"""
#: The contract test on the seventh alone: the others have it for themselves.
_CONTRACT = """
import unittest
from tests.core.supports import contract
contract.KEYS = ("perch",)
unittest.main(contract, argv=["contract", *sys.argv[1:]])
"""
#: What the contract test does not ask: a file, the form, the command line and the window.
_BOOK_FORM_AND_WINDOW = """
from msgspec.structs import replace
from equilix.core.analyse import analyse
from equilix.core.errors import AssemblyError
from equilix.core.support import report_of, with_values
from equilix.io.shipped import demo_book
from equilix.io.format import decode_book, encode_book, json_schema
book = demo_book()
build = with_values(replace(book.builds[0], support="perch"), "perch", {"breadth": 0.05, "soft": False})
book = book.with_build(build)
assert decode_book(encode_book(book), "book") == book
assert json_schema()["$defs"]["PerchSettings"]["properties"]["breadth"]["maximum"] == 2.0
try:
    with_values(build, "perch", {"breadth": 3.0})
    raise SystemExit("a cushion of three metres")
except AssemblyError as error:
    assert str(error) == "A cushion's breadth must be from 0.02 to 2 m, not 3.", error
figures = report_of(analyse(build, book.parts, book.operators[0]), book.operators[0]).figures
assert {"cg_ahead_mm", "margin_mm"} <= set(figures), figures

from PySide6.QtWidgets import QApplication
from equilix.core.units import Kind
from equilix.desktop.dialogs.forms import BuildDialog
from equilix.present.units import System
app = QApplication([])
form = BuildDialog(build, book.parts, System.METRIC)
assert {name: field.text() for name, field in form.fields.items()} == {"breadth": "50 mm", "soft": "no"}, form.fields
form.fields["breadth"].setText("120 mm")
form.accept()
assert form.result_build.supports[-1].breadth == 0.12, form.result_build.supports
"""


class Seventh(unittest.TestCase):
    def run_with_it(self, code: str, *arguments: str) -> str:
        folder = str(ROOT / "tests" / "data" / "seventh")
        done = subprocess.run(
            [sys.executable, "-c", _WITH_A_SEVENTH + code, folder, *arguments],
            capture_output=True,
            text=True,
            cwd=ROOT,
            env=os.environ | {"PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"},
            check=False,
        )
        self.assertEqual(done.returncode, 0, done.stdout[-2000:] + done.stderr[-4000:])
        return done.stdout + done.stderr

    def test_the_contract_walks_it(self) -> None:
        said = self.run_with_it(_CONTRACT, "Contract")
        self.assertIn("OK", said)

    def test_a_book_keeps_it_and_a_form_shows_it(self) -> None:
        self.run_with_it(_BOOK_FORM_AND_WINDOW)


if __name__ == "__main__":
    unittest.main()
