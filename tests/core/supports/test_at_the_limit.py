"""What a maker allows is allowed up to the last digit, and no farther: at each limit, and one digit beside it."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Operator, Settings
from equilix.core.chosen import with_settings
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import Category, HowKnown, Part
from equilix.core.kit.uncertainty import COVERAGE, Certainty, certainty
from equilix.core.statics.stages import peak_torque
from equilix.io.shipped import demo_book
from equilix.supports.gimbal import mechanics as gimbal
from equilix.supports.gimbal.settings import GimbalSettings
from equilix.supports.gimbal.stages import payload_of
from equilix.supports.harness import mechanics as harness
from equilix.supports.harness.settings import HarnessSettings
from equilix.supports.tripod import mechanics as tripod
from equilix.supports.tripod.settings import TripodSettings
from equilix.supports.vest import mechanics as vest
from equilix.supports.vest.settings import VestSettings
from tests.rigs.gimbals import random_gimbal
from tests.rigs.plain import block, shoulder_build
from tests.rigs.results import gimbal_result, tripod_result

MAN = Operator("m", "M", 1.78, 79.0)


class AtTheLimit(unittest.TestCase):
    def warned(self, build: Build, kit: dict[str, Part], settings: Settings) -> set[str]:
        return {finding.kind for finding in analyse(with_settings(build, settings), kit, MAN).findings}

    def check(
        self,
        rig: tuple[Build, dict[str, Part]],
        usual: Any,
        name: str,
        value: float,
        most: bool,
        kind: str,
    ) -> None:
        """Compare the limit called `name` at `value` and a digit beside it, on the side that forbids."""
        self.assertNotIn(kind, self.warned(*rig, replace(usual, **{name: value})), name)
        beyond = float(np.nextafter(value, -math.inf if most else math.inf))
        self.assertIn(kind, self.warned(*rig, replace(usual, **{name: beyond})), name)

    def test_a_gimbals(self) -> None:
        rig, usual = random_gimbal(4), GimbalSettings()
        analysis = analyse(with_settings(rig[0], usual), rig[1], MAN)
        stages = gimbal_result(analysis)
        self.check(rig, usual, "most", payload_of(gimbal.SUPPORT.case(analysis)), True, gimbal.OVER_PAYLOAD)
        others = replace(usual, tilt_rated=90.0, roll_rated=90.0, pan_rated=90.0)
        for stage in stages.stages:
            self.check(rig, others, f"{stage.name}_rated", peak_torque(stage), True, gimbal.OVER_MOTOR)
        self.check(rig, usual, "cables", 1.0, False, gimbal.CABLES)

    def test_a_harness(self) -> None:
        build, kit = shoulder_build((block("camera", 6.0, category=Category.BODY, known=HowKnown.SHEET), 0.0))
        build, usual = replace(build, support="harness"), HarnessSettings(most=40.0)
        analysis = analyse(with_settings(build, usual), kit, MAN)
        mass, u = analysis.body.mass, analysis.spread.mass
        self.check((build, kit), usual, "least", mass, False, harness.UNDER_LEAST)
        self.check((build, kit), usual, "most", mass + COVERAGE * u, True, harness.OVER_LIMIT)

    def test_a_vests_arm(self) -> None:
        book = demo_book()
        build = next(one for one in book.builds if one.id == "sled-long")
        usual = vest.SUPPORT.settings(build)
        mass = analyse(build, book.parts, MAN).body.mass
        self.check((build, dict(book.parts)), usual, "most", mass, True, vest.OVER_ARM)
        self.check((build, dict(book.parts)), usual, "least", mass, False, vest.UNDER_ARM)
        worn = mass + usual.arm_mass
        self.check((build, dict(book.parts)), usual, "second", worn, True, vest.TWO_TO_LIFT)

    def test_ends_that_leave_no_room_are_refused(self) -> None:
        names = ("least", "most")
        kinds: tuple[Any, ...] = (VestSettings, HarnessSettings)
        for settings in kinds:
            self.assertTrue(settings(**dict(zip(names, (5.0, 5.001), strict=True))))
            for most in (5.0, 4.999):
                with self.assertRaises(AssemblyError):
                    settings(**dict(zip(names, (5.0, most), strict=True)))

    def test_sure_is_what_two_of_its_doubts_do_not_reach(self) -> None:
        for margin, said in ((2.0, Certainty.CANNOT_SAY), (-2.0, Certainty.CANNOT_SAY)):
            self.assertIs(certainty(margin, 2.0 / COVERAGE), said)
        self.assertIs(certainty(float(np.nextafter(2.0, 3.0)), 2.0 / COVERAGE), Certainty.CLEAR)
        self.assertIs(certainty(float(np.nextafter(-2.0, -3.0)), 2.0 / COVERAGE), Certainty.OVER)

    def test_a_tripods_head(self) -> None:
        rig, usual = shoulder_build((block("camera", 6.0, category=Category.BODY), 0.05)), TripodSettings(counter=90.0)
        build = replace(rig[0], support="tripod")
        wants = tripod_result(analyse(with_settings(build, usual), rig[1], MAN)).wants
        self.check((build, rig[1]), usual, "counter", wants, True, tripod.OVER_COUNTER)


if __name__ == "__main__":
    unittest.main()
