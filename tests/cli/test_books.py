"""Books on the command line: figures against the printed parts, MuJoCo and the window; and what is refused."""

from __future__ import annotations

import contextlib
import io
import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

import mujoco
import numpy as np
from msgspec.structs import replace

from equilix.__main__ import main
from equilix.core.analyse import analyse
from equilix.core.frames import STANDARD_GRAVITY
from equilix.io.shipped import demo_book
from equilix.present.balance.panel import balance_model
from equilix.present.units import System
from tests.campaigns import campaign
from tests.present.numbers import number
from tests.rigs.plain import worn


class OnTheCommandLine(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "ferry.equilix"
        self.assertEqual(self.call("demo", str(self.path)), (0, "", ""))

    def call(self, *words: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(list(words))
        return code, out.getvalue(), err.getvalue()

    def report(self, build: str, *more: str) -> dict[str, Any]:
        code, out, err = self.call("analyse", str(self.path), "--build", build, "--json", *more)
        self.assertEqual((code, err), (0, ""))
        return json.loads(out, parse_constant=self.fail)


@campaign
class Books(OnTheCommandLine):
    def sums(self, parts: list[dict[str, Any]]) -> tuple[float, np.ndarray]:
        """Return mass (kg) and CG (m) of printed parts, by plain sums."""
        mass = np.array([part["mass_kg"] or 0.0 for part in parts])
        place = np.array([part["cg_mm"] for part in parts]) / 1e3
        return float(mass.sum()), mass @ place / mass.sum()

    def test_shoulder_figures_follow_from_the_printed_parts_and_pad(self) -> None:
        for build in worn(demo_book()):
            found = self.report(build.name, "--support", "shoulder", "--ways")
            for one in (found, *found["ways"]):
                mass, cg = self.sums(one["parts"])
                pad = np.array(one["holders"]["pad_mm"]) / 1e3
                figures = one.get("promise") or {k: f["value"] for k, f in one["figures"].items()}
                weight = mass * STANDARD_GRAVITY
                self.assertAlmostEqual(figures["pitch_moment_nm"], weight * (cg - pad)[0], places=9)
                self.assertAlmostEqual(figures["roll_moment_nm"], -weight * (cg - pad)[1], places=9)
            self.assertTrue(all(way["steps"] for way in found["ways"]))

    def test_whole_inertia_is_that_of_mujoco(self) -> None:
        found = self.report("C · Wide body")
        spec = mujoco.MjSpec()
        rig = spec.worldbody.add_body(name="rig")
        rig.add_freejoint()
        for part in found["parts"]:
            if not part["mass_kg"]:
                continue
            inertia = np.array(part["inertia_kg_m2"])
            moments, axes = np.linalg.eigh(inertia)
            if np.linalg.det(axes) < 0.0:
                axes[:, 0] = -axes[:, 0]
            turn = np.zeros(4)
            mujoco.mju_mat2Quat(turn, axes.reshape(-1))
            child = rig.add_body(pos=np.array(part["cg_mm"]) / 1e3, quat=turn)
            child.mass, child.inertia, child.ipos = part["mass_kg"], np.maximum(moments, 1e-9), [0, 0, 0]
            child.explicitinertial = True
        model = spec.compile()
        data = mujoco.MjData(model)
        mujoco.mj_forward(model, data)
        self.assertAlmostEqual(float(model.body_subtreemass[1]), found["mass_kg"], places=9)
        np.testing.assert_allclose(data.subtree_com[1], np.array(found["cg_mm"]) / 1e3, atol=1e-9)

    def test_handheld_is_about_the_printed_hands(self) -> None:
        """Statics: the weight times the CG's distance from the line through both hands, seen from above."""
        for build in worn(demo_book()):
            found = self.report(build.name, "--support", "handheld", "--ways")
            for one in (found, *found["ways"]):
                mass, cg = self.sums(one["parts"])
                first, second = np.array(one["holders"]["hands_mm"]) / 1e3
                line = (second - first)[:2]
                away = abs(np.cross(np.append(line, 0.0), np.append((cg - first)[:2], 0.0))[2]) / np.linalg.norm(line)
                figures = one.get("promise") or {k: f["value"] for k, f in one["figures"].items()}
                self.assertAlmostEqual(figures["line_moment_nm"], mass * STANDARD_GRAVITY * away, places=9)
            figures = found["figures"]
            self.assertNotIn("pitch_moment_nm", figures)
            self.assertNotIn("sore pad", {finding["kind"] for finding in found["findings"]})

    def test_a_gimbal_is_about_its_printed_axes(self) -> None:
        """Offsets, peaks and torques at an attitude by plain sums of the printed parts of each stage."""
        inner = {"tilt": ("tilt",), "roll": ("tilt", "roll"), "pan": ("tilt", "roll", "pan")}
        beside = {"tilt": "xz", "roll": "yz", "pan": "xy"}
        for build in ("D · Light gimbal", "E · Full gimbal"):
            found = self.report(build, "--ways")
            for one in (found, *found["ways"]):
                figures = one.get("promise") or {k: f["value"] for k, f in one["figures"].items()}
                for stage, names in inner.items():
                    mass, cg = self.sums([part for part in one["parts"] if part["stage"] in names])
                    off = cg - np.array(one["holders"][f"{stage}_axis_mm"]) / 1e3
                    for axis in beside[stage]:
                        self.assertAlmostEqual(
                            figures[f"{stage}_offset_{axis}_mm"], 1e3 * off["xyz".index(axis)], places=6
                        )
                    peak = mass * STANDARD_GRAVITY * np.hypot(*(off["xyz".index(axis)] for axis in beside[stage]))
                    peak *= 0.5 if stage == "pan" else 1.0
                    self.assertAlmostEqual(figures[f"{stage}_torque_peak_nm"], peak, places=9)
            self.assertTrue(found["ways"][0]["proven"])
        tilted = {k: f["value"] for k, f in self.report("D · Light gimbal", "--tilt", "40")["figures"].items()}
        level = {k: f["value"] for k, f in self.report("D · Light gimbal", "--lean", "30")["figures"].items()}
        weight = tilted["tilt_stage_kg"] * STANDARD_GRAVITY
        angle = np.radians(40.0)
        x, z = tilted["tilt_offset_x_mm"] / 1e3, tilted["tilt_offset_z_mm"] / 1e3
        self.assertAlmostEqual(tilted["tilt_torque_nm"], weight * (x * np.cos(angle) + z * np.sin(angle)), places=9)
        parts = self.report("D · Light gimbal")["parts"]
        whole = self.sums([part for part in parts if part["stage"] != "frame"])[0] * STANDARD_GRAVITY
        # Nose down: what lies left turns the frame's head to the right.
        self.assertAlmostEqual(level["pan_torque_nm"], -whole * level["pan_offset_y_mm"] / 1e3 * 0.5, places=9)

    def test_what_a_gimbal_is_not_asked(self) -> None:
        for words, said in (
            (("--support", "shoulder", "--tilt", "4"), "--tilt needs a support that turns"),
            (("--lean", "1000"), "--lean must be from -360 to 360 degrees"),
            (("--pan", "nan"), "--pan needs degrees, such as 10"),
        ):
            code, out, err = self.call("analyse", str(self.path), "--build", "D · Light gimbal", *words)
            self.assertEqual((code, out), (2, ""))
            self.assertIn(said, err)

    def test_the_same_values_and_doubts_as_the_window(self) -> None:
        book = demo_book()
        for build in worn(book):
            printed = self.report(build.name)["figures"]
            analysis = analyse(build, book.parts, book.operators[0])
            rows = {row.label: row for row in balance_model(analysis, book.operators[0], System.METRIC).figures}
            for label, key in (
                ("Hands-off margin", "hands_off_margin_mm"),
                ("Larger hand, rig alone", "larger_hand_n"),
                ("On the shoulder, rig alone", "on_shoulder_n"),
            ):
                self.assertLess(abs(number(rows[label].value) - printed[key]["value"]), 0.51, label)
                # The window shows at least one of its last digit.
                self.assertLess(abs(number(rows[label].uncertainty) - max(printed[key]["doubt"], 1.0)), 0.51, label)

    def test_the_sheet_is_a_pdf_of_that_build(self) -> None:
        out = self.path.with_suffix(".pdf")
        code, _, err = self.call("sheet", str(self.path), "--build", "C · Wide body", str(out))
        self.assertEqual((code, err), (0, ""))
        self.assertTrue(out.read_bytes().startswith(b"%PDF-"))

    def test_no_file_is_replaced_unless_somebody_says_so(self) -> None:
        folder, build = self.path.parent, ("--build", "C · Wide body")
        book, other, link = self.path.read_bytes(), folder / "other.pdf", folder / "link.pdf"
        other.write_text("keep me")
        link.symlink_to(self.path)
        for out, more, said in (
            (self.path, (), "is the book itself"),
            (self.path, ("--replace",), "is the book itself"),
            (link, ("--replace",), "is the book itself"),
            (other, (), "is there already; name another file, or add --replace"),
        ):
            code, _, err = self.call("sheet", str(self.path), str(out), *build, *more)
            self.assertEqual((code, err.count("\n")), (2, 1), out)
            self.assertIn(said, err)
        self.assertEqual((self.path.read_bytes(), other.read_text()), (book, "keep me"))
        other.chmod(0o444)
        self.assertIn("write-protected", self.call("sheet", str(self.path), str(other), *build, "--replace")[2])
        other.chmod(0o644)
        self.assertEqual(self.call("sheet", str(self.path), str(other), *build, "--replace")[0], 0)
        self.assertTrue(other.read_bytes().startswith(b"%PDF-"))

    def test_output_that_can_not_be_written_is_one_sentence(self) -> None:
        words = [sys.executable, "-m", "equilix", "analyse", str(self.path), "--build", "C · Wide body"]
        with open("/dev/full", "wb") as full:
            done = subprocess.run(words, stdout=full, stderr=subprocess.PIPE, text=True, check=False)
        self.assertEqual(done.returncode, 2)
        self.assertEqual(done.stderr, "equilix analyse: the output can't be written: the disk is full.\n")

    def test_a_command_that_is_none_is_told_what_there_is(self) -> None:
        for word, said in (("analyze", "did you mean analyse?"), ("weigh", "the commands are analyse, assemble, demo")):
            code, out, err = self.call(word, "x.equilix", "--from", "A")
            self.assertEqual((code, out, err.count("\n")), (2, "", 1))
            self.assertIn(said, err)

    def test_text_and_names_that_are_not_there(self) -> None:
        code, out, _ = self.call("analyse", str(self.path), "--build", "C · Wide body", "--support", "handheld")
        self.assertEqual(code, 0)
        self.assertIn("line moment: +14", out)
        for words, said in (
            (("analyse", str(self.path), "--build", "nope"), "“A · Long zoom”"),
            (("analyse", str(self.path), "--build", "C · Wide body", "--support", "boom"), "shoulder, handheld"),
            (("analyse", str(self.path), "--build", "C · Wide body", "--operator", "nobody"), "“Maren”"),
            (("demo", str(self.path)), "is there already"),
            (("sheet", str(self.path), "--build", "nope", "x.pdf"), "has no build"),
            (("analyse", str(self.path) + "x", "--build", "nope"), "ferry.equilixx"),
        ):
            code, out, err = self.call(*words)
            self.assertEqual((code, out), (2, ""), words)
            self.assertIn(said, err)
            self.assertEqual(err.count("\n"), 1)

    def test_no_window_library_and_no_solver_is_loaded_for_figures(self) -> None:
        program = (
            "import sys; from equilix.__main__ import main; "
            f"main(['analyse', {str(self.path)!r}, '--build', 'C · Wide body', '--json']); "
            "print([m for m in sys.modules if m.startswith(('PySide6', 'scipy'))], file=sys.stderr)"
        )
        done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
        self.assertEqual(done.stderr.strip(), "[]")


class LensesAndCarry(OnTheCommandLine):
    """What a build tells beyond its figures: the same as window and sheet, and what follows from it."""

    def test_marks_of_the_lens_that_is_on_leave_what_they_say(self) -> None:
        """The printed marks set on the build: the moment that a fresh analysis finds is what the table leaves."""
        book = demo_book()
        for build in book.builds[:2]:
            found = self.report(build.name, "--support", "shoulder", "--lenses")
            on = next(book.parts[p.part_id].name for p in build.parts if p.id == "lens")
            row = next(row for row in found["lenses"] if row["lens"] == on)
            names = {book.name_of(placed): placed for placed in build.parts}
            there = replace(build, support="shoulder")
            for mark in row["marks"]:
                there = there.with_placed(replace(names[mark["part"]], setting=mark["mm"] / 1e3))
            after = analyse(there, book.parts, book.operators[0])
            # A lens support stands where the lens is, to its own millimetres.
            self.assertAlmostEqual(abs(after.equilibrium.tip_moment), row["left_nm"], delta=0.05)

    def test_every_support_has_its_table(self) -> None:
        for build, support in (("D · Light gimbal", "gimbal"), ("F · Sled, long arm", "vest")):
            if build not in [one.name for one in demo_book().builds]:
                build = next(one.name for one in demo_book().builds if one.support == support)
            rows = self.report(build, "--lenses")["lenses"]
            self.assertGreater(len(rows), 1)
            for row in rows:
                self.assertEqual(set(row) - {"reason"}, {"lens", "marks", "left_nm", "meets"})
                self.assertTrue(row["marks"] or row.get("reason"), row)

    def test_what_it_costs_is_one_bound_of_one_joint(self) -> None:
        for build in demo_book().builds:
            found = self.report(build.name, "--carry")["carry"]
            if found["first"] is None:
                continue
            joints = {joint["name"]: joint for joint in found["joints"]}
            least = min(joint["least_s"] for joint in joints.values())
            self.assertEqual(joints[found["first"]]["least_s"], least, build.name)
            self.assertLessEqual(found["safe_take_s"], 0.5 * least + 1e-9)

    def test_what_is_said_first_is_what_the_window_says(self) -> None:
        book = demo_book()
        for build in book.builds:
            found = self.report(build.name)
            model = balance_model(analyse(build, book.parts, book.operators[0]), book.operators[0], System.METRIC)
            self.assertEqual(found["headline"], model.verdict.in_full)
            said = [one["says"] for one in found["cautions"]]
            self.assertEqual(said[:1], list(model.cautions[: len(said[:1])]))
            self.assertTrue(all(one["kind"] and isinstance(one["parts"], list) for one in found["cautions"]))


if __name__ == "__main__":
    unittest.main()
