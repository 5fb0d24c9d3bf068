"""`equilix analyse` from outside: figures, options and everything that can be wrong with a table."""

from __future__ import annotations

import contextlib
import io
import json
import math
import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np

from equilix.__main__ import main
from equilix.core.frames import STANDARD_GRAVITY, rotation_about

HEADER = "name,mass_kg,x_mm,y_mm,z_mm,length_mm,width_mm,height_mm"
GOOD = f"{HEADER}\nBody,2.5,10,0,20,100,80,90\nLens,1.0,120,5,20,150,80,80\n"


class TableTestCase(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "parts.csv"

    def run_on(self, content: str | bytes, *options: str) -> tuple[int, str, str]:
        """Return exit code, stdout and stderr of `analyse` on a table."""
        self.path.write_bytes(content.encode() if isinstance(content, str) else content)
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(["analyse", str(self.path), *options])
        return code, out.getvalue(), err.getvalue()

    def figures(self, content: str | bytes, *options: str) -> dict[str, Any]:
        code, out, err = self.run_on(content, "--json", *options)
        self.assertEqual((code, err), (0, ""))
        return json.loads(out, parse_constant=self.fail)

    def refused(self, content: str | bytes, words: str, *options: str) -> None:
        code, out, err = self.run_on(content, *options)
        self.assertEqual((code, out), (2, ""), words)
        self.assertIn(words, err)
        self.assertLessEqual(err.count("\n"), 2)
        for python in ("Traceback", "Error", "Exception", "could not convert", "codec", "None", "float"):
            self.assertNotIn(python, err)


class Figures(TableTestCase):
    def test_mass_cg_and_inertia(self) -> None:
        """Two boxes by the parallel-axis theorem: Meriam and Kraige, Dynamics, appendix B."""
        found = self.figures(GOOD)
        self.assertEqual(set(found), {"mass_kg", "cg_mm", "inertia_kg_m2", "support"})
        self.assertIsNone(found["support"])
        self.assertEqual(found["mass_kg"], 3.5)
        np.testing.assert_allclose(found["cg_mm"], [(25 + 120) / 3.5, 5 / 3.5, 20.0], rtol=1e-12)
        reduced = 2.5 * 1.0 / 3.5
        d = np.array([0.110, 0.005, 0.0])
        own = np.diag([2.5 / 12 * (0.08**2 + 0.09**2), 2.5 / 12 * (0.1**2 + 0.09**2), 2.5 / 12 * (0.1**2 + 0.08**2)])
        own = own + np.diag([1 / 12 * (2 * 0.08**2), *(2 * [1 / 12 * (0.15**2 + 0.08**2)])])
        expected = own + reduced * (d @ d * np.eye(3) - np.outer(d, d))
        np.testing.assert_allclose(found["inertia_kg_m2"], expected, rtol=1e-9, atol=1e-15)

    def test_cylinders_lie_along_x(self) -> None:
        table = f"{HEADER},shape\nTube,2,0,0,0,300,100,100,cylinder\n"
        tensor = np.diag(self.figures(table)["inertia_kg_m2"])
        across = 2 / 12 * (3 * 0.05**2 + 0.3**2)
        np.testing.assert_allclose(tensor, [2 * 0.05**2 / 2, across, across], rtol=1e-12)

    def test_shoulder_and_points_that_start_with_a_minus(self) -> None:
        found = self.figures(GOOD, "--support", "shoulder", "--pad", "-120,0,80")["support"]
        weight = 3.5 * STANDARD_GRAVITY
        self.assertAlmostEqual(found["pitch_moment_nm"], weight * (145 / 3500 + 0.120), places=12)
        self.assertAlmostEqual(found["roll_moment_nm"], -weight * 0.005 / 3.5, places=12)

    def test_harness(self) -> None:
        found = self.figures(GOOD, "--support", "harness", "--hook", "0,0,120")["support"]
        dx, dy, dz = 145 / 3.5, 5 / 3.5, -100.0
        self.assertAlmostEqual(found["tension_n"], 3.5 * STANDARD_GRAVITY)
        self.assertIs(found["stable"], True)
        self.assertAlmostEqual(found["hang_pitch_deg"], math.degrees(math.atan2(dx, math.hypot(dy, dz))))
        self.assertAlmostEqual(found["hang_roll_deg"], math.degrees(math.atan2(-dy, -dz)))
        above = self.figures(GOOD, "--support", "harness", "--hook", "0,0,-120")["support"]
        self.assertIs(above["stable"], False)

    def test_gimbal_torque_by_turning_the_rig(self) -> None:
        cg, weight = np.array([145 / 3500, 0.005 / 3.5, 0.020]), 3.5 * STANDARD_GRAVITY
        for tilt in (-30.0, 0.0, 24.0, 70.0):
            for pivot in ((10.0, 0.0, 0.0), (20.0, -10.0, 30.0)):
                options = ("--pivot", ",".join(map(str, pivot)), "--tilt", str(tilt))
                found = self.figures(GOOD, "--support", "gimbal", *options)["support"]
                d = cg - np.array(pivot) / 1e3
                torque = np.cross(rotation_about((0, 1, 0), math.radians(tilt)) @ d, [0.0, 0.0, -weight])
                self.assertAlmostEqual(found["tilt_torque_nm"], torque[1], places=12)
                self.assertAlmostEqual(found["roll_torque_nm"], -weight * d[1], places=12)
                np.testing.assert_allclose(found["offset_mm"], d * 1e3)

    def test_vest(self) -> None:
        found = self.figures(GOOD, "--support", "vest", "--bearing", "40,0,60")
        tensor, support = np.array(found["inertia_kg_m2"]), found["support"]
        lever = math.hypot(145 / 3500 - 0.040, 0.040)
        swing = tensor[1, 1] + 3.5 * lever**2
        time = 1.8540746773 * math.sqrt(swing / (3.5 * STANDARD_GRAVITY * lever))
        self.assertAlmostEqual(support["drop_time_s"], time, places=12)
        self.assertEqual(support["pan_products_kg_m2"], [tensor[0, 2], tensor[1, 2]])
        self.assertIsNone(self.figures(GOOD, "--support", "vest", "--bearing", "0,0,0")["support"]["drop_time_s"])

    def test_figures_that_do_not_exist_are_null(self) -> None:
        one = f"{HEADER}\nA,1,0,0,0,10,10,10\n"
        found = self.figures(one, "--support", "harness", "--hook", "0,0,0")["support"]
        self.assertIsNone(found["hang_pitch_deg"])
        self.assertIsNone(found["hang_roll_deg"])

    def test_summary_for_people(self) -> None:
        code, out, _ = self.run_on(GOOD, "--support", "vest", "--bearing", "0,0,0")
        self.assertEqual(code, 0)
        self.assertIn("Mass 3.500 kg", out)
        self.assertIn("drop time: none", out)


class Tables(TableTestCase):
    def test_what_spreadsheets_write_is_read(self) -> None:
        plain = self.figures(GOOD)
        for content in (
            b"\xef\xbb\xbf" + GOOD.encode(),
            GOOD.replace("\n", "\r\n"),
            GOOD.replace("Body", '"Body\nwith a ""break"""'),
            GOOD.replace("Body", "=SUM(A1)").replace("Lens", "=SUM(A1)"),
            GOOD.replace(",", ";"),
            GOOD.replace(",", "\t"),
            GOOD + "\n,,,,,,,\n\n",
            GOOD.replace(HEADER, HEADER.upper().replace(",", " , ")),
            GOOD.replace("2.5", " +2.50e0 "),
            GOOD.encode("utf-16"),
            GOOD.replace("Body", "Bödy").encode("latin-1"),
        ):
            self.assertEqual(self.figures(content), plain)

    def test_extra_columns_in_any_order(self) -> None:
        rows = [line.split(",") for line in GOOD.strip().split("\n")]
        turned = "\n".join(",".join([*reversed(row), "note"]) for row in rows)
        self.assertEqual(self.figures(turned), self.figures(GOOD))

    def test_bad_tables_are_refused_by_row_and_column(self) -> None:
        row = "Body,2.5,10,0,20,100,80,90"
        for content, words in (
            (GOOD.replace("mass_kg", "weight"), "lacks the column mass_kg"),
            (GOOD.replace(row, "Body,heavy,10,0,20,100,80,90"), 'row 2, column mass_kg: "heavy" is not a number'),
            (GOOD.replace(row, "Body,,10,0,20,100,80,90"), "row 2, column mass_kg: an empty cell"),
            (GOOD.replace(row, "Body,nan,10,0,20,100,80,90"), "row 2, column mass_kg"),
            (GOOD.replace(row, "Body,2.5,inf,0,20,100,80,90"), "row 2, column x_mm"),
            (GOOD.replace(row, "Body,2.5,1_0,0,20,100,80,90"), "row 2, column x_mm"),
            (GOOD.replace(row, "Body,٢,10,0,20,100,80,90"), "row 2, column mass_kg"),
            (GOOD.replace(row, "Body,1e999,10,0,20,100,80,90"), "too large"),
            (GOOD.replace(row, "Body,-2.5,10,0,20,100,80,90"), "row 2, column mass_kg"),
            (GOOD.replace(row, "Body,2.5,10,0,20,100,-80,90"), "row 2, column width_mm"),
            (GOOD.replace(row, "Body,2.5,10,0,20,100,80"), "row 2, column height_mm: an empty cell"),
            (GOOD.replace(row, row + ",1"), "row 2: a cell stands under no heading"),
            (GOOD.replace("2.5", "0").replace("1.0", "0"), "the total is zero"),
            (f"{HEADER}\n", ": no parts stand below the header. Add some"),
            ("", "is empty"),
            ("\n \n", "is empty"),
            (GOOD.replace("2.5", "501"), 'row 2, column mass_kg: "501" is too large'),
            (b"\x00\x01\x02", "not text"),
            (f"{HEADER},x_mm\nBody,2.5,10,0,20,100,80,90,1\n", "column x_mm occurs twice"),
            (f"{HEADER},shape\n{row},ball\n", 'column shape: "ball"'),
            (f"{HEADER},shape\n{row},cylinder\n", "width_mm and height_mm"),
            (GOOD.replace("Body", '"Body'), "quotation mark"),
            (GOOD.replace("2.5", "1e300").replace(",10,0", ",1e300,0"), "too large"),
        ):
            with self.subTest(words=words):
                self.refused(content, words)

    def test_rows_are_counted_as_a_spreadsheet_does(self) -> None:
        self.refused(GOOD.replace("Body", '"Bo\ndy"').replace("1.0", "x"), "row 3, column mass_kg")

    def test_bad_options(self) -> None:
        for options, words in (
            (("--support", "tripod"), "is not known. Use shoulder,"),
            (("--support", "shoulder"), "needs --pad X,Y,Z"),
            (("--support", "shoulder", "--pad", "1,2"), "--pad needs three numbers"),
            (("--support", "shoulder", "--pad", "1,2,nan"), "--pad needs three numbers"),
            (("--pad", "1,2,3"), "--pad works only with --support shoulder"),
            (("--support", "vest", "--hook", "1,2,3"), "--hook works only with --support harness"),
            (("--support", "gimbal", "--pivot", "0,0,0", "--tilt", "steep"), "--tilt needs degrees, such as 10"),
            (("--support", "shoulder", "--pad", "0,0,0", "--tilt", "3"), "--tilt works only with --support gimbal"),
            (("--frobnicate",), "no option --frobnicate"),
            (("second.csv",), ": name only one file"),
            (("--ways",), "--ways works only with --build NAME of a book"),
            (("--operator", "Maren"), "--operator works only with --build NAME of a book"),
        ):
            with self.subTest(words=words):
                self.refused(GOOD, words, *options)

    def test_files_that_cannot_be_read(self) -> None:
        for path, words in ((str(self.path.parent), "is a folder"), ("gone.csv", "does not exist")):
            err = io.StringIO()
            with contextlib.redirect_stderr(err):
                self.assertEqual(main(["analyse", path]), 2)
            self.assertIn(words, err.getvalue())
        err = io.StringIO()
        with contextlib.redirect_stderr(err):
            self.assertEqual(main(["analyse"]), 2)
        self.assertIn("FILE is missing", err.getvalue())

    def test_as_many_parts_as_a_build_may_have(self) -> None:
        rows = [f"p,0.25,{i},0,0,10,10,10\n" for i in range(990)]
        self.assertAlmostEqual(self.figures(HEADER + "\n" + "".join(rows))["cg_mm"][0], 494.5, places=9)
        self.refused(HEADER + "\n" + "".join([*rows, *rows]), "has more than 990 parts. Keep only the rig’s")


class Surroundings(unittest.TestCase):
    def test_terminals_without_the_signs_and_folders_with_odd_files(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            Path(folder, "parts.csv").write_text(GOOD)
            Path(folder, "csv.py").write_text("raise SystemExit(99)\n")
            done = subprocess.run(
                [
                    sys.executable,
                    "-P",
                    "-m",
                    "equilix",
                    "analyse",
                    "parts.csv",
                    "--support",
                    "shoulder",
                    "--pad",
                    "900,0,0",
                ],
                capture_output=True,
                cwd=folder,
                env={**os.environ, "PYTHONIOENCODING": "ascii"},
            )
        self.assertEqual((done.returncode, done.stderr), (0, b""))
        self.assertIn(b"pitch moment", done.stdout)


class WithoutTheInterface(unittest.TestCase):
    def test_nothing_but_the_desktop_needs_qt(self) -> None:
        """All other rooms import in a fresh interpreter that has no Qt, without its slow neighbours."""
        script = """
import sys, pkgutil, importlib
sys.modules["PySide6"] = None
import equilix
names = [m.name for m in pkgutil.walk_packages(equilix.__path__, "equilix.")]
for name in names:
    if ".desktop" not in name and not name.endswith(("__main__", ".window", ".window_link")):
        importlib.import_module(name)
slow = [m for m in ("pint", "fpdf", "scipy.optimize") if m in sys.modules]
sys.exit(f"imported early: {slow}" if slow else 0)
"""
        done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True)
        self.assertEqual((done.returncode, done.stderr), (0, ""))

    def test_the_core_imports_only_numpy_scipy_and_the_structs(self) -> None:
        script = """
import sys, pkgutil, importlib, equilix.core
for m in pkgutil.walk_packages(equilix.core.__path__, "equilix.core."):
    importlib.import_module(m.name)
print(sorted({n.split(".")[0] for n in sys.modules} & {"click", "pint", "PySide6", "fpdf", "platformdirs"}))
"""
        done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True)
        self.assertEqual(done.stdout.strip(), "[]")

    def test_without_a_display_one_line_says_what_to_do(self) -> None:
        hidden = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
        bare = {k: v for k, v in os.environ.items() if k not in hidden}
        done = subprocess.run([sys.executable, "-m", "equilix"], capture_output=True, text=True, env=bare)
        self.assertEqual((done.returncode, done.stdout), (2, ""))
        self.assertEqual(done.stderr.count("\n"), 1)
        self.assertIn("no display is found", done.stderr)
