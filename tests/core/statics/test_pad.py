"""Pad: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, HowKnown
from equilix.core.kit.records import Shared
from equilix.core.massprops.bodies import MassProperties
from equilix.core.statics.pad import Shoulder, Tip, pad_pressure, rest
from tests.rigs.people import MAN
from tests.rigs.plain import block, shoulder_build


class OnThePad(unittest.TestCase):
    def test_which_way_it_goes_over(self) -> None:
        square = Shoulder(span_x=0.06, span_y=0.06)
        for cg, tip in (
            ((0.03, 0.0, 0.1), Tip.LEVEL),
            ((0.0301, 0.0, 0.1), Tip.FORWARD),
            ((-0.0301, 0.0, 0.1), Tip.BACK),
            ((0.0, 0.0301, 0.1), Tip.LEFT),
            ((0.0, -0.0301, 0.1), Tip.RIGHT),
            ((0.04, -0.05, 0.1), Tip.RIGHT),
            ((0.05, -0.04, 0.1), Tip.FORWARD),
            ((0.05, 0.05, 0.1), Tip.FORWARD),
        ):
            lies = rest(MassProperties(5.0, np.array(cg), np.eye(3)), np.zeros(3), square)
            self.assertIs(lies.tip, tip, cg)
        edge = rest(MassProperties(5.0, np.array([0.03, 0.0, 0.1]), np.eye(3)), np.zeros(3), square)
        self.assertEqual(edge.tip_angle, 0.0)
        self.assertIsNone(
            rest(MassProperties(5.0, np.array([0.04, 0.0, 0.1]), np.eye(3)), np.zeros(3), square).tip_angle
        )
        level = rest(MassProperties(5.0, np.zeros(3), np.eye(3)), np.zeros(3), square)
        self.assertIsNone(level.tip_angle)
        self.assertAlmostEqual(pad_pressure(np.array([3.0, 4.0, 36.0]), square), 36.0 / 0.0036)

    def test_how_doubtful_the_tip_is_with_one_scale_for_several_parts(self) -> None:
        """Drawn: each mass, the scale's gain that they share, each CG; everything summed anew."""
        rng = np.random.default_rng(6)
        shared = Shared("scale", 0.0)
        camera = replace(
            block("camera", 3.0, category=Category.BODY), mass_u=0.03, shared=(replace(shared, amount=0.09),)
        )
        power = replace(
            block("power", 1.0), mass_u=0.02, shared=(replace(shared, amount=0.03),), mass_known=HowKnown.WEIGHED
        )
        build, kit = shoulder_build((camera, 0.12), (power, -0.25))
        kit["base"] = replace(kit["base"], mass_u=0.01, shared=(Shared("none", 0.0),))
        found = analyse(build, kit, MAN)
        n = 60_000
        uncertainties, cg = found.assembly.uncertainties, found.positions.cg
        gain = rng.standard_normal((n, len(uncertainties.gain)))
        mass = found.assembly.mass + uncertainties.mass * rng.standard_normal((n, len(cg))) + gain @ uncertainties.gain
        x = cg[:, 0] + np.array([c[0] for c in uncertainties.cg]) * rng.standard_normal((n, len(cg)))
        moment = (mass * (x - found.equilibrium.point[0])).sum(axis=1)
        self.assertAlmostEqual(
            found.equilibrium.tip_uncertainty / float(moment.std() * STANDARD_GRAVITY), 1.0, delta=0.015
        )
        self.assertAlmostEqual(
            found.equilibrium.ahead_uncertainty / float((moment / mass.sum(axis=1)).std()), 1.0, delta=0.015
        )
