"""What a support says of a build: the points it is about, its figures with their doubt, and what it finds.

A support is one class with its key in the registry, `equilix.core.registry`. Keys end in their unit: ``_nm`` N m,
``_mm``, ``_n`` N, ``_kpa``, ``_deg``, ``_kg``, ``_s``; what has none ends in nothing. Words belong to `present`.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping
from types import MappingProxyType
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct, field

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import Brace, Build, Hold, Kit, Operator, Settings
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.doubt.gauges import Evaluate, Gauge, Gauges, Threshold, firsts_of
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import Category
from equilix.core.massprops.bodies import MassProperties
from equilix.core.solver.plan import Target
from equilix.core.statics.pose import Hindrance, Pose
from equilix.core.statics.stand import Stand
from equilix.core.statics.turning import Attitude

if TYPE_CHECKING:
    from equilix.core.solver.lens_marks import LensSetting

#: Ends of keys, the units that they name, and how many of these one SI unit is.
UNITS = {
    "_kg_m2": ("kg m2", 1.0),
    "_deg_s": ("deg/s", math.degrees(1.0)),
    "_nm": ("N m", 1.0),
    "_mm": ("mm", 1e3),
    "_n": ("N", 1.0),
    "_kpa": ("kPa", 1e-3),
    "_deg": ("deg", math.degrees(1.0)),
    "_kg": ("kg", 1.0),
    "_s": ("s", 1.0),
}


class Figure(Struct, frozen=True):
    """A figure in the unit that its key names, NaN where there is none, and its standard uncertainty or None."""

    value: float
    doubt: float | None = None


class Judged(Struct, frozen=True):
    """A build on a support: `holders` (points (3,), m, rig frame) by name, `figures` by key, or why neither can be had.

    `hindrance` is a key too, "" if there is none; `said` names what was taken for granted.
    """

    holders: dict[str, np.ndarray] = field(default_factory=dict)
    figures: dict[str, Figure] = field(default_factory=dict)
    hindrance: str = ""
    said: tuple[str, ...] = ()


class Support(ABC):
    """One way to hold a rig."""

    #: What it is called in files and on the command line.
    key: str
    #: Its settings as they usually are; their class is that of all its settings.
    usual: Settings
    #: The braces that help on it.
    braces: tuple[Brace, ...] = (Brace.NONE,)
    #: What in an analysis warns of something on it, worst first; its own kinds among them.
    warnings: tuple[str, ...] = (
        FindingKind.NOT_HELD,
        FindingKind.SCREEN,
        FindingKind.CLASH,
        FindingKind.OUT_OF_TRAVEL,
        FindingKind.HEAVY_LENS,
    )
    #: Those of them that make a rig unusable as it is: they come before any word of balance.
    leads: frozenset[str] = frozenset({FindingKind.NOT_HELD, FindingKind.SCREEN})
    #: Those of them that it warns of where it carries a whole gimbal.
    carrying: tuple[str, ...] = ()
    #: Those of them that warn of an amount below its limit, not above it.
    too_little: frozenset[str] = frozenset()
    #: Those of them whose limit is a maker's: a little more is worse.
    makers: frozenset[str] = frozenset()
    #: Kinds of parts that move nothing but themselves when they slide.
    idle: frozenset[Category] = frozenset({Category.RODS, Category.PAD})
    #: Figures that sampling and "How sure" show besides the common ones, those of them that need forces to hold the
    #: rig, and the order in which all are shown.
    gauges: Mapping[str, Evaluate] = MappingProxyType({})
    by_forces: frozenset[str] = frozenset()
    order: tuple[str, ...] = (Gauge.AHEAD, Gauge.SLIDE, Gauge.TIP_MOMENT, Gauge.LARGER_HAND, Gauge.MASS)
    #: Whether some of them go by the rig's inertia.
    by_inertia = False
    #: Whether hands and braces alone carry the rig, so that where they hold it is theirs to choose.
    in_hands = False
    #: Whether hands or braces have to hold the rig, or it falls; whether who carries it watches its screen.
    by_hands = False
    watched = True
    #: Whether anybody carries the rig: it loads a body.
    carried = True
    #: Kinds of parts that may be left off where nothing else balances it.
    sheds: frozenset[Category] = frozenset()
    #: Whether a change of lens is made up for by the slide that carries the camera, not by scales of the support's own.
    lenses_by_camera = True
    #: Whether more weight than it needs steadies it, so that there is a way to take more.
    steadies = True
    #: Whether it has stages that turn, so that some figures are asked at an attitude.
    turns = False

    @abstractmethod
    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        """Return how a body takes the rig so, or why it can't."""

    def carrier(self, build: Build) -> str:
        """Return the key of the support that carries the rig on somebody's body: itself, or one that it is held by."""
        return self.key

    def more(
        self,
        assembly: Assembly,
        positions: Positions,
        body: MassProperties,
        build: Build,
        operator: Operator,
        stand: Stand,
    ) -> object | None:
        """Return what this support has to say beyond its stand; nobody else looks inside."""
        return None

    def lacks(self, analysis: Analysis) -> frozenset[str]:
        """Return the gauges that a build can't have here, as a share of a limit that nobody has entered."""
        return frozenset()

    def tilted(self, settings: Settings, pitch: float) -> Settings:
        """Return settings with another tilt (rad, nose down) wanted; AssemblyError where a rig can only be level."""
        raise AssemblyError(f"On the support “{self.key}” a rig is balanced level; leave the tilt out.")

    def dropping(self, settings: Settings, time: float) -> Settings:
        """Return settings with another drop time (s) wished for; AssemblyError where nothing drops."""
        raise AssemblyError(f"Nothing drops on the support “{self.key}”; leave the drop time out.")

    def short(self, analysis: Analysis) -> bool | None:
        """Return whether what is wished for besides balance is missed; None where there is nothing to wish for."""
        return None

    def target(self, analysis: Analysis) -> Target | None:
        """Return what a way aims at on this support, None for the usual: it does not tip, and keeps to its room."""
        return None

    def slid(self, analysis: Analysis) -> Build | None:
        """Return the build with what holds it slid to where it balances, as far as it goes.

        A plate in its clamp, a hook on its bar; None where nothing does, or it stands there.
        """
        return None

    def scales(self, analysis: Analysis) -> frozenset[str] | None:
        """Return the placed parts whose slides a way by slides alone sets, None for all that balance."""
        return None

    def balancing(self, analysis: Analysis) -> frozenset[str] | None:
        """Return the placed parts whose slides are for balance on this support, None for the usual ones."""
        return None

    def still(self, analysis: Analysis) -> int | None:
        """Return the number of the part that stays where it is while slides are set, None where that is all the same:
        hands then move what has the part on that slides."""
        return None

    def working_order(self, analysis: Analysis) -> tuple[str, ...]:
        """Return the placed parts whose slides are set one after the other, in the order in which people work."""
        return ()

    def observed(self, analysis: Analysis) -> tuple[tuple[str, float], ...]:
        """Return the gauges that were measured on this build as it is, each with the reading's standard uncertainty."""
        return ()

    def stages(self, analysis: Analysis) -> tuple[str, ...]:
        """Return which of its stages each part is of, the innermost one that moves it; nothing where it has none."""
        return ()

    def leaves(self, analysis: Analysis) -> float:
        """Return what is left (N m) of the moment that a rig is judged by."""
        return abs(analysis.stand.tip_moment) if analysis.stand is not None else 0.0

    def lens_settings(self, analysis: Analysis, kit: Kit, operator: Operator) -> tuple[LensSetting, ...]:
        """Return where every slide stands for each lens of the kit in the place of the one that is on."""
        from equilix.core.slides import USUAL_TOLERANCE
        from equilix.core.solver.lens_marks import of_slides

        return of_slides(analysis, kit, operator, USUAL_TOLERANCE)

    def load_findings(self, build: Build, mass: float, u: float, at: tuple[str, ...]) -> list[Finding]:
        """Return what there is to look at where it carries `mass` (kg), a whole gimbal's: limits of its own.

        `u` is the mass's standard uncertainty, `at` what it carries that by.
        """
        return []

    def findings(self, analysis: Analysis, operator: Operator) -> tuple[Finding, ...]:
        """Return what there is to look at on this support alone."""
        return ()

    def thresholds(self, analysis: Analysis, gauge: str) -> tuple[Threshold, ...]:
        """Return the values of a gauge at which the verdict on this support changes."""
        return ()

    @abstractmethod
    def stand(
        self, assembly: Assembly, positions: Positions, body: MassProperties, build: Build, operator: Operator
    ) -> Stand | None:
        """Return how a build lies on this support, None if it can't lie on it. Asked at every tick of a slide."""

    def at_attitude(self, analysis: Analysis, attitude: Attitude) -> dict[str, Figure]:
        """Return figures of a rig whose stages are turned so; none where nothing turns."""
        return {}

    @abstractmethod
    def judge(self, analysis: Analysis, operator: Operator) -> Judged:
        """Return what this support says of an analysed build."""


def keyed(gauges: Gauges, keys: Mapping[str, str]) -> dict[str, Figure]:
    """Return the gauges' figures by the `keys` of files, each in the unit that its key names."""
    found = {}
    for gauge, (value, u) in firsts_of(gauges).items():
        if gauge in keys and math.isfinite(value):
            key = keys[gauge]
            _, per = _unit(key)
            found[key] = Figure(value * per, u * per)
    return found


def unit_of(key: str) -> str:
    """Return the unit that a figure's key names, "" for a bare number."""
    return _unit(key)[0]


def _unit(key: str) -> tuple[str, float]:
    return UNITS.get(ending_of(key), ("", 1.0))


def ending_of(key: str) -> str:
    """Return the end of a figure's key that names its unit, "" for a bare number."""
    return next((end for end in UNITS if key.endswith(end)), "")
