"""What a support says of a build: how it holds the rig, its outputs with their uncertainty, and what it warns of.

A support is a folder of `equilix.supports` with its key in `equilix.core.keys`. Keys of outputs end in their unit:
``_nm`` N m, ``_mm``, ``_n`` N, ``_kpa``, ``_deg``, ``_kg``, ``_s``; what has none ends in nothing. The words of one
stand in its `text`.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping
from functools import cached_property
from typing import TYPE_CHECKING, Any, Generic, TypeVar

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import Brace, Build, Hold, Kit, Operator, Settings
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.chosen import settings_of, with_settings
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import Category
from equilix.core.kit.uncertainty import Spread
from equilix.core.massprops.bodies import MassProperties
from equilix.core.records import Output, TableHolder, WarningType, fields_of
from equilix.core.statics.equilibrium import Equilibrium, SupportResult
from equilix.core.statics.pose import Hindrance, Pose
from equilix.core.statics.turning import Attitude
from equilix.core.uncertainty.output_model import OutputModel, firsts_of, output_model
from equilix.core.units import Kind

if TYPE_CHECKING:
    from equilix.core.solver.lens_marks import LensSetting
    from equilix.core.solver.plan import Target

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

#: Warnings that are the same on every support; a support takes them as they are, or says more of them by `on`.
NOT_HELD = WarningType(
    FindingKind.NOT_HELD, "no hands hold it", "No hands at these grips hold it level. Move a grip, or add one."
)
SCREEN = WarningType(
    FindingKind.SCREEN,
    "the screen is out of sight",
    "The {lower} is beside or behind the eye. Move it forward to watch it.",
)
CLASH = WarningType(FindingKind.CLASH, "{} hits {}", "{part} hits {other}, {amount}.", Kind.LENGTH, serious=True)
OUT_OF_TRAVEL = WarningType(
    FindingKind.OUT_OF_TRAVEL,
    "{} is past the end of its slide",
    "{part}: the slide is at its end, {amount} missing.",
    Kind.LENGTH,
    serious=True,
)
NO_LIMIT = WarningType(
    FindingKind.NO_LIMIT,
    "the maker’s limit is not entered",
    "Enter the maker’s limit, in the build’s menu.",
)
HEAVY_LENS = WarningType(
    FindingKind.HEAVY_LENS,
    "{} is heavy on its mount",
    "{part} bends its mount by {amount}, over the {limit} of this build. Put a lens support under it, set until the "
    "mount is free.",
    Kind.MOMENT,
)
ONE_SCREW = WarningType(
    "one screw under a lever",
    "one screw on a long lever",
    (
        "{part} stands on one screw. A shock turns it by {amount}, the screw holds about {limit}. "
        "Use two screws, or bring it closer."
    ),
    Kind.MOMENT,
)
_COMMON = (NOT_HELD.on(leads=True), SCREEN.on(leads=True), CLASH, OUT_OF_TRAVEL, HEAVY_LENS)


class Figure(Struct, frozen=True):
    """A figure in the unit that its key names, NaN where there is none, and its standard uncertainty or None."""

    value: float
    uncertainty: float | None = None


class Report(Struct, frozen=True):
    """A build on a support: `holders` (points (3,), m, rig frame) by name, `figures` by key, or why neither can be had.

    `hindrance` is a key too, "" if there is none; `said` names what was taken for granted.
    """

    holders: dict[str, np.ndarray] = field(default_factory=dict)
    figures: dict[str, Figure] = field(default_factory=dict)
    hindrance: str = ""
    said: tuple[str, ...] = ()


S = TypeVar("S", bound=Settings)
R = TypeVar("R", bound=SupportResult)


class Placement(Struct, Generic[S], frozen=True, eq=False):
    """A rig with a mass that is put on a support: how it lies there is to be found."""

    assembly: Assembly
    positions: Positions
    body: MassProperties
    build: Build
    operator: Operator
    settings: S


class Case(Struct, Generic[S, R], frozen=True, eq=False):
    """A rig that lies on its support, with the support's own settings and result: nothing of it may be missing."""

    analysis: Analysis
    settings: S
    equilibrium: Equilibrium
    result: R
    body: MassProperties
    spread: Spread

    @property
    def build(self) -> Build:
        return self.analysis.build


class Support(ABC, Generic[S, R]):
    """One way to hold a rig, with settings S and a result R of its own."""

    #: What it is called in files and on the command line.
    key: str
    #: Its settings as they usually are; their class is that of all its settings.
    usual: S
    #: The class of its results.
    result_type: type[R]
    #: Its outputs, in the order in which they are shown; those that every support has among them.
    outputs: tuple[Output, ...]
    #: What it warns of, worst first; its own kinds among them.
    warned: tuple[WarningType, ...] = _COMMON
    #: Why a build with a mass can't lie on it, as files say it.
    hindrance: str = ""
    #: The braces that help on it.
    braces: tuple[Brace, ...] = (Brace.NONE,)
    #: Kinds of parts that move nothing but themselves when they slide.
    immovable: frozenset[Category] = frozenset({Category.RODS, Category.PAD})
    #: Whether some of its outputs go by the rig's inertia.
    by_inertia = False
    #: Whether hands and braces alone carry the rig, so that where they hold it is theirs to choose.
    in_hands = False
    #: Whether hands or braces have to hold the rig, or it falls; whether who carries it watches its screen.
    by_hands = False
    watched = True
    #: Whether anybody carries the rig: it loads a body.
    carried = True
    #: Kinds of parts that may be left off where nothing else balances it.
    removable: frozenset[Category] = frozenset()
    #: Whether a change of lens is made up for by the slide that carries the camera, not by scales of the support's own.
    lenses_by_camera = True
    #: Whether more weight than it needs steadies it, so that there is a way to take more.
    gains_from_mass = True
    #: Whether it has stages that turn, so that some figures are asked at an attitude.
    has_stages = False
    #: How a table of parts with their places lies on it; None where there is more to say than one point.
    holder: TableHolder | None = None

    # How it holds a rig

    @abstractmethod
    def equilibrium(self, placed: Placement[S]) -> tuple[Equilibrium, R] | None:
        """Return how a rig lies on this support, None if it can't lie on it. Asked at every tick of a slide."""

    @abstractmethod
    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        """Return how a body takes the rig so, or why it can't; the build may be on another support."""

    def carrier(self, build: Build) -> str:
        """Return the key of the support that carries the rig on somebody's body: itself, or one that it is held by."""
        return self.key

    # What it says of it

    def table_figures(self, case: Case[S, R], figures: dict[str, float | None]) -> dict[str, object]:
        """Return what is said of a table of parts on its `holder`, of the figures by their keys."""
        return dict(figures)

    def findings(self, case: Case[S, R], operator: Operator) -> list[Finding]:
        """Return what there is to look at on this support alone."""
        return []

    def load_findings(self, settings: S, mass: float, u: float, at: tuple[str, ...]) -> list[Finding]:
        """Return what there is to look at where it carries `mass` (kg), a whole gimbal's: limits of its own.

        `u` is the mass's standard uncertainty, `at` what it carries that by.
        """
        return []

    def report(self, case: Case[S, R], operator: Operator, figures: dict[str, Figure]) -> Report:
        """Return what files and the command line say of a rig; `figures` are its outputs by their keys."""
        return Report({}, figures)

    def hindrance_of(self, analysis: Analysis) -> str:
        """Return why a build with a mass can't lie on this support, as files say it."""
        return self.hindrance

    def observed(self, case: Case[S, R]) -> tuple[tuple[str, float], ...]:
        """Return the outputs that were measured on this build as it is, each with its standard uncertainty."""
        return ()

    # What balances it

    def remaining(self, case: Case[S, R]) -> float:
        """Return what is left (N m) of the moment that a rig is judged by."""
        return abs(case.equilibrium.tip_moment)

    def target(self, case: Case[S, R]) -> Target | None:
        """Return what a way aims at on this support, None for the usual: it does not tip, and keeps to its room."""
        return None

    def with_slide(self, case: Case[S, R]) -> Build | None:
        """Return the build with what holds it slid to where it balances, as far as it goes.

        A plate in its clamp, a hook on its bar; None where nothing does, or it stands there.
        """
        return None

    def scales(self, case: Case[S, R]) -> frozenset[str] | None:
        """Return the placed parts whose slides a way by slides alone sets, None for all that balance."""
        return None

    def balancing(self, analysis: Analysis) -> frozenset[str] | None:
        """Return the placed parts whose slides are for balance on this support, None for the usual ones."""
        return None

    def still(self, case: Case[S, R]) -> int | None:
        """Return the number of the part that stays where it is while slides are set, None where that is all the same:
        hands then move what has the part on that slides."""
        return None

    def working_order(self, case: Case[S, R]) -> tuple[str, ...]:
        """Return the placed parts whose slides are set one after the other, in the order in which people work."""
        return ()

    def stages(self, case: Case[S, R]) -> tuple[str, ...]:
        """Return which of its stages each part is of, the innermost one that moves it; nothing where it has none."""
        return ()

    def missed(self, case: Case[S, R]) -> bool | None:
        """Return whether what is wished for besides balance is missed; None where there is nothing to wish for."""
        return None

    def turned(self, case: Case[S, R], attitude: Attitude) -> dict[str, Figure]:
        """Return figures of a rig whose stages are turned so; none where nothing turns."""
        return {}

    def lens_settings(self, case: Case[S, R], kit: Kit, operator: Operator) -> tuple[LensSetting, ...]:
        """Return where its own scales stand for each lens of the kit in the place of the one that is on.

        Nothing where the camera's slide makes up for a lens, see `lenses_by_camera`.
        """
        return ()

    # Made of the above

    def settings(self, build: Build) -> S:
        """Return what a build says of this support, now or if it were put on it."""
        found = settings_of(build, self.key)
        if not isinstance(found, type(self.usual)):
            raise TypeError(f"settings of {self.key} are {type(found).__name__}")
        return found

    def case(self, analysis: Analysis) -> Case[S, R] | None:
        """Return a build that lies on this support as its case, None if it does not, or is on another."""
        equilibrium, result, body, spread = analysis.equilibrium, analysis.result, analysis.body, analysis.spread
        if equilibrium is None or body is None or spread is None or not isinstance(result, self.result_type):
            return None
        return Case(analysis, self.settings(analysis.build), equilibrium, result, body, spread)

    @cached_property
    def worst_first(self) -> Mapping[str, int]:
        """The rank of each kind of warning, the worst first."""
        return {kind: rank for rank, kind in enumerate(self.warned)}

    def warning_type(self, kind: str) -> WarningType:
        """Return what this support says of a kind of warning."""
        return self.warned[self.worst_first[kind]]

    @cached_property
    def outputs_by_name(self) -> Mapping[str, Output]:
        return {str(output): output for output in self.outputs}


def case_of(analysis: Analysis) -> Case[Any, Any] | None:
    """Return the case of a build on the support that it is for, None where it can't lie on it."""
    return analysis.support.case(analysis)


def report_of(analysis: Analysis, operator: Operator) -> Report:
    """Return what files and the command line say of an analysed build on its support."""
    support, outputs, case = analysis.support, output_model(analysis), case_of(analysis)
    if analysis.body is None:
        return Report(hindrance="mass not known")
    if case is None or outputs is None:
        return Report(hindrance=support.hindrance_of(analysis))
    return support.report(case, operator, keyed(outputs))


def with_values(build: Build, key: str, values: Mapping[str, float | bool | None]) -> Build:
    """Return a build with some settings of a support anew (SI), by the names of their fields.

    Raises
    ------
    AssemblyError
        If the support has no such setting, or one is out of its bounds.
    """
    settings: Any = settings_of(build, key)
    known = {one.name for one in fields_of(settings)}
    for name in values:
        if name not in known:
            raise AssemblyError(f"The support “{key}” has no setting “{name}”; leave it out.")
    return with_settings(build, replace(settings, **values))


def keyed(outputs: OutputModel) -> dict[str, Figure]:
    """Return the outputs' figures by their keys in files, each in the unit that its key names."""
    by_name, found = outputs.analysis.support.outputs_by_name, {}
    for name, (value, u) in firsts_of(outputs).items():
        key = by_name[name].key
        if key and math.isfinite(value):
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
