"""Screws: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import itertools
import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Placed
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Mount, MountKind
from equilix.core.statics.screws import one_screws
from tests.rigs.people import PERSON
from tests.rigs.plain import base, block


class OneScrewEach(unittest.TestCase):
    def test_the_joint_that_lacks_most_comes_first(self) -> None:
        """Preload T/(0.2 d) (Shigley, ch. 8) times the distance to the edge, against three times weight by lever."""
        seats = tuple(Mount(f"seat{k}", MountKind.QUARTER_20, (0.2 * k - 0.1, 0.0, 0.1)) for k in range(3))
        kit = {"base": replace(base(), mounts=(*base().mounts, *seats))}
        rigs = (("thin", 0.5, 0.02, 2.0), ("stout", 6.0, 0.08, 0.6), ("low", 6.0, 0.08, 0.2))
        for name, mass, broad, tall in rigs:
            kit[name] = block(name, mass, (broad, broad, tall), kind=MountKind.QUARTER_20, at=(0.0, 0.0, -tall / 2.0))
        for order in itertools.permutations(rigs):
            parts = (Placed(name, name, "base", f"seat{k}") for k, (name, *_) in enumerate(order))
            found = analyse(Build("b", "b", (Placed("base", "base"), *parts)), kit, PERSON)
            screws = one_screws(found.assembly, found.positions, 0)
            # The stout one lacks 53 - 31 N m, the thin one 15 - 8; the low one is held.
            self.assertEqual([found.build.parts[one.part].id for one in screws], ["stout", "thin"])
            for one, (_, mass, broad, tall) in zip(screws, (rigs[1], rigs[0]), strict=True):
                self.assertAlmostEqual(one.moment, 3.0 * mass * STANDARD_GRAVITY * tall / 2.0)
                self.assertAlmostEqual(one.holds, 1.0 / (0.2 * 0.00635) * broad / 2.0)
