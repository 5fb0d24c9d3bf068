"""Every plus-minus of Balance and Carry against rigs whose parts are drawn and worked out afresh: JCGM 101:2008.

Nothing of the uncertainties' own arithmetic is used here: each part's mass and CG is drawn as the standard says,
written into a kit of its own, and the whole analysis runs again.
"""

from __future__ import annotations

import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Operator, Sex
from equilix.core.carry.arrangements import carry_uncertainties as carry_uncertainties
from equilix.core.carry.carried import Carry
from equilix.core.kit.parts import Category, HowKnown, Part
from equilix.core.uncertainty.output_model import CG_AHEAD, TIP_MOMENT, TOTAL_MASS, output_model, output_uncertainties
from equilix.supports.shoulder import mechanics as shoulder
from tests.campaigns import campaign
from tests.rigs.plain import block, grip, shoulder_build
from tests.rigs.results import carried_of

HERE = Operator("h", "H", 1.68, 64.0, sex=Sex.FEMALE)
SAMPLES = 500


def rig(front: float, back: float) -> tuple[Build, dict[str, Part]]:
    """Return a rig of seven parts, some weighed, some by the sheet, some guessed."""
    sheet, guess = HowKnown.SHEET, HowKnown.GUESSED
    parts = (
        (block("camera", 2.4, (0.16, 0.12, 0.14), Category.BODY, sheet), 0.02),
        (block("lens", front, (0.18, 0.09, 0.09), Category.LENS, guess), 0.16),
        (block("battery", back, (0.07, 0.1, 0.14), Category.BATTERY, sheet), -0.14),
        (block("sender", 0.31, (0.1, 0.06, 0.03), Category.SENDER, guess), -0.05),
        (replace(grip("l"), mass=0.12), 0.21),
        (replace(grip("r"), mass=0.13), 0.24),
    )
    return shoulder_build(*parts)


def drawn(analysis: Analysis, kit: Kit, rng: np.random.Generator) -> Analysis:
    """Return the analysis of a rig whose parts differ from what is believed as far as their uncertainties have it."""
    uncertainties, build = analysis.assembly.uncertainties, analysis.build

    def flat() -> float:
        return float(rng.uniform(-1.0, 1.0) * np.sqrt(3.0))

    mass = analysis.assembly.mass.copy()
    for i, u in enumerate(uncertainties.mass):
        mass[i] += u * (flat() if uncertainties.mass_flat[i] else rng.standard_normal())
    for gain, rectangular in zip(uncertainties.gain, uncertainties.gain_flat, strict=True):
        mass += gain * (flat() if rectangular else rng.standard_normal())
    parts, changed = [], dict(kit)
    for i, (placed, part) in enumerate(zip(build.parts, analysis.assembly.parts, strict=True)):
        x, y, z = np.array(part.centre) + uncertainties.cg[i] * rng.standard_normal(3)
        changed[f"drawn {i}"] = replace(part, id=f"drawn {i}", mass=float(mass[i]), cg=(float(x), float(y), float(z)))
        parts.append(replace(placed, part_id=f"drawn {i}"))
    return analyse(replace(build, parts=tuple(parts)), changed, HERE)


def balance_figures(analysis: Analysis) -> dict[str, float]:
    outputs = output_model(analysis)
    return {output: float(outputs.values(output, outputs.now())[0]) for output in outputs.offered}


def carry_figures(found: Carry) -> dict[str, float]:
    # Shares, not moments: a wrist is weaker one way than the other, so its moment jumps where the ways change over.
    sizes = {f"share of {joint.joint}": joint.share for joint in found.joints}
    sizes |= {f"hand {h}": hand.size for h, hand in enumerate(found.held.hands)}
    sizes |= {
        "pad": float(found.held.pad_force[2]),
        "back": float(np.hypot(found.back_moment[0], found.back_moment[1])),
        "disc": found.compression,
        "leg": found.right_leg,
        "see-saw": found.see_saw or 0.0,
    }
    return sizes


def carry_unsure(analysis: Analysis, found: Carry) -> dict[str, float]:
    sure = carry_uncertainties(analysis, found)
    shares = zip(found.joints, sure.joints, strict=True)
    sizes = {f"share of {joint.joint}": u * joint.share / joint.load if joint.load else 0.0 for joint, u in shares}
    sizes |= {f"hand {h}": u for h, u in enumerate(sure.hands)}
    return sizes | {
        "pad": sure.on_pad,
        "back": sure.back,
        "disc": sure.compression,
        "leg": sure.right_leg,
        "see-saw": sure.see_saw,
    }


@campaign
class Sampled(unittest.TestCase):
    def check(
        self, now: dict[str, float], unsure: dict[str, float], rows: list[dict[str, float]], straight: set[str]
    ) -> None:
        for name, value in now.items():
            found = np.array([row[name] for row in rows])
            scatter, u = float(found.std()), unsure[name]
            if scatter < 1e-9 * max(1.0, abs(value)):
                continue
            covered = float((np.abs(found - value) <= 2.0 * u).mean())
            # 500 draws of 95 % scatter by 1 %, of a standard deviation by 3 %.
            self.assertGreaterEqual(covered, 0.92, name)
            if name in straight:
                self.assertLessEqual(covered, 0.98, name)
                self.assertAlmostEqual(u / scatter, 1.0, delta=0.1, msg=name)

    def test_on_the_shoulder_balance_and_body(self) -> None:
        for front, back in ((1.9, 0.75), (0.7, 1.35)):
            build, kit = rig(front, back)
            analysis = analyse(build, kit, HERE)
            found = carried_of(analysis, HERE, "shoulder")
            outputs, rng = output_model(analysis), np.random.default_rng(8)
            rows = []
            for _ in range(SAMPLES):
                other = drawn(analysis, kit, rng)
                rows.append(balance_figures(other) | carry_figures(carried_of(other, HERE, "shoulder")))
            unsure = output_uncertainties(outputs) | carry_unsure(analysis, found)
            straight = {CG_AHEAD, TIP_MOMENT, TOTAL_MASS, shoulder.LEFT, "disc", "back"}
            self.check(balance_figures(analysis) | carry_figures(found), unsure, rows, straight)

    def test_in_the_hands(self) -> None:
        build, kit = rig(1.5, 0.9)
        analysis = analyse(build, kit, HERE)
        found = carried_of(analysis, HERE, "handheld")
        rng = np.random.default_rng(9)
        rows = [carry_figures(carried_of(drawn(analysis, kit, rng), HERE, "handheld")) for _ in range(SAMPLES)]
        straight = {CG_AHEAD, TIP_MOMENT, TOTAL_MASS, shoulder.LEFT, "disc", "back"}
        self.check(carry_figures(found), carry_unsure(analysis, found), rows, straight)


if __name__ == "__main__":
    unittest.main()
