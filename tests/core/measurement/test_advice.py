"""Advice: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Placed
from equilix.core.kit.parts import Category, Connection, HowKnown, Mount, MountKind
from equilix.core.measurement.advice import MINUTES, Task, weigh_next
from equilix.core.measurement.methods import (
    adjust_ends,
    two_supports,
)
from equilix.core.uncertainty.output_model import CG_AHEAD, TOTAL_MASS, inputs_of, output_model
from tests.rigs.benches import LENA, SCALE
from tests.rigs.plain import block, shoulder_build


class Advising(unittest.TestCase):
    def setUp(self) -> None:
        parts = (
            (block("camera", 3.0, (0.16, 0.11, 0.13), Category.BODY, known=HowKnown.SHEET), 0.08),
            (block("lens", 1.5, (0.14, 0.10, 0.10), Category.LENS, known=HowKnown.GUESSED), 0.30),
            (block("power", 0.8, (0.06, 0.10, 0.15), Category.BATTERY, known=HowKnown.GUESSED), -0.25),
        )
        self.analysis = analyse(*shoulder_build(*parts), LENA)
        self.outputs = output_model(self.analysis)

    def test_each_saves_what_a_kalman_update_says(self) -> None:
        """Conditioning a normal distribution on a reading, by its block formula; here on the CG ahead."""
        found = weigh_next(self.analysis, self.outputs, CG_AHEAD, SCALE)
        uncertainties, n = self.analysis.assembly.uncertainties, len(self.analysis.assembly.parts)
        before = np.diag(np.concatenate([uncertainties.mass**2, uncertainties.cg.ravel() ** 2]))
        before[:n, :n] += uncertainties.gain.T @ uncertainties.gain
        inputs = inputs_of(self.analysis, self.outputs.slide)
        forms = np.concatenate([inputs.mass, inputs.cg.reshape(-1, 5)]).T
        gradient = self.outputs.gradient(CG_AHEAD) @ forms
        covariance, at_first = before, math.sqrt(gradient @ before @ gradient)
        self.assertAlmostEqual(found[0].before, at_first, places=12)
        gone = 0.0
        for advice in found:
            row, noise = self.asked(advice.task, advice.part, advice.axis, forms)
            gain = covariance @ row / (row @ covariance @ row + noise**2)
            keep = np.eye(4 * n) - np.outer(gain, row)
            # Joseph's form: the same update by another formula.
            after = keep @ covariance @ keep.T + noise**2 * np.outer(gain, gain)
            self.assertAlmostEqual(advice.after, math.sqrt(gradient @ after @ gradient), places=10)
            self.assertAlmostEqual(advice.share, (advice.before**2 - advice.after**2) / at_first**2, places=12)
            self.assertLessEqual(advice.after, 0.97 * advice.before)
            covariance = after
            gone += advice.share
        self.assertLessEqual(gone, 1.0)
        self.assertLessEqual(len(found), 6)
        self.assertEqual(len(weigh_next(self.analysis, self.outputs, CG_AHEAD, SCALE, most=2)), min(2, len(found)))

    def asked(self, task: Task, part: int | None, axis: int, forms: np.ndarray) -> tuple[np.ndarray, float]:
        """Return what a measurement reads and its noise: each mass read once, each place from two equal ends."""
        assembly, n = self.analysis.assembly, len(self.analysis.assembly.parts)
        row, u = np.zeros(4 * n), SCALE.own_uncertainty()
        if task is Task.PART_MASS:
            row[part] = 1.0
            return row, math.hypot(u, float(assembly.mass[part]) * SCALE.gain_uncertainty)
        if task is Task.RIG_MASS:
            row[:n] = 1.0
            return row, math.hypot(u, float(assembly.mass.sum()) * SCALE.gain_uncertainty)
        if task is Task.PART_CG:
            row[n + 3 * part + axis] = 1.0
            mass, length = float(assembly.mass[part]), max(assembly.parts[part].outline.size[axis], 0.08)
        else:
            row = forms[1]
            mass, length = float(assembly.mass.sum()), float(np.ptp(self.analysis.positions.centre[:, 0])) + 0.2
        span = 1.3 * length
        ends = adjust_ends(mass, mass / 2, mass / 2, u)
        return row, two_supports(ends, span, u).u

    def test_the_axis_that_matters_and_the_minutes(self) -> None:
        """Common practice: a mass takes a minute, a part's CG three, a rig's four."""
        self.assertEqual([MINUTES[task] for task in Task], [1, 3, 1, 4])
        places = [a for a in weigh_next(self.analysis, self.outputs, CG_AHEAD, SCALE) if a.task is Task.PART_CG]
        self.assertTrue(all(a.axis == 0 for a in places))

    def test_of_a_part_that_stands_askew_the_long_side_is_asked(self) -> None:
        """Both its own axes count alike for the CG ahead; where along the long one it lies is what nobody knows."""
        for size, axis in (((0.05, 0.04, 0.4), 2), ((0.4, 0.04, 0.05), 0)):
            turn = Mount("t", MountKind.ROSETTE, (0.1, 0.0, 0.05), Connection.TURN, (0.0, 1.0, 0.0), -2.0, 2.0)
            build, kit = shoulder_build((block("camera", 3.0, category=Category.BODY, known=HowKnown.WEIGHED), 0.0))
            kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, turn))
            kit["arm"] = block("arm", 2.5, size, Category.ARM, HowKnown.GUESSED, kind=MountKind.ROSETTE)
            askew = Placed("arm", "arm", "base", "t", 0, math.radians(45.0))
            analysis = analyse(replace(build, parts=(*build.parts, askew)), kit, LENA)
            found = weigh_next(analysis, output_model(analysis), CG_AHEAD, SCALE)
            self.assertIn((Task.PART_CG, 2, axis), [(a.task, a.part, a.axis) for a in found])

    def test_what_gives_most_a_minute_comes_first(self) -> None:
        found = weigh_next(self.analysis, self.outputs, TOTAL_MASS, SCALE)
        self.assertTrue(all(a.task in (Task.PART_MASS, Task.RIG_MASS) for a in found))
        self.assertIs(found[0].task, Task.RIG_MASS)
