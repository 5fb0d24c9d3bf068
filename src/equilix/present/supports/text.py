"""What a support's words have in common: verdict, figures of the panel, what its point is called."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from enum import StrEnum
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding, FindingKind, warnings_of
from equilix.core.assembly.build import Build, Grasp, Kit, Operator, Settings
from equilix.core.doubt.gauges import Gauge, gauges_of
from equilix.core.solver.plan import STAYS
from equilix.core.statics.hands import HandLoad
from equilix.present.drawing.scene import Scene, polygon
from equilix.present.supports import text_of
from equilix.present.units import Kind, System, doubt, figure
from equilix.present.words import mid_sentence

if TYPE_CHECKING:
    from equilix.core.carry.carried import Carry
    from equilix.core.doubt.montecarlo import Odds
    from equilix.present.drawing.rig_drawing import Projection
    from equilix.present.drawing.scales import Elevation

#: m. Less than this is shown as zero.
SEEN = 0.0005
#: N. Less than this in a hand is not worth a sentence; common practice.
LIGHT_HAND = 1.0


#: What can be chosen on a build for a support: a place on it, a word, or nothing, by itself.
Chosen = Grasp | str | None


class Verdict(Struct, frozen=True):
    """`head` is the answer in few words, `body` what it means; `leans` is "forward", "back" or "".

    `note` says what was taken for granted, and what will stay: it stands below, in smaller letters. What it warns of
    most stands behind the body, unless the verdict `stops` the work by itself.
    """

    head: str
    body: str
    leans: str = ""
    note: str = ""
    stops: bool = False


class FigureRow(Struct, frozen=True):
    """One figure of the panel: what, how much, how sure."""

    label: str
    value: str
    doubt: str
    note: str = ""


class Measured(StrEnum):
    """In what a setting is typed and shown."""

    LENGTH = "length"
    MASS = "mass"
    ANGLE = "angle"
    NUMBER = "number"
    YES = "yes or no"


class Field(Struct, frozen=True):
    """One setting of a support that people fill in: what it is called, its name there, in what it is typed.

    An `optional` one may be left empty.
    """

    caption: str
    name: str
    measured: Measured
    optional: bool = False


class OwnScale(Struct, frozen=True):
    """A scale of the support's own: what slides, from `low` to `high` (m), where it stands, and where it would balance.

    `level` is None where that can't be said. In a sentence `noun` slides, `within` something.
    """

    name: str
    low: float
    high: float
    setting: float
    level: float | None
    noun: str
    within: str = ""


class Sides(Struct, frozen=True):
    """Words for the two ways in which a rig may tip, and for where its CG then lies: below zero, and above."""

    less: str
    more: str
    below: str
    above: str


FORE_AFT = Sides("back", "forward", "behind", "ahead of")
LEFTWARDS = Sides("to the right", "to the left", "right of", "left of")
RIGHTWARDS = Sides("to the left", "to the right", "left of", "right of")


class SupportText(ABC):
    """The words of one support."""

    #: What it is called in the top bar, see `labels`.
    name: str
    #: What the rig's weight is judged about: "the pad".
    noun: str
    #: The same as a label: "pad".
    label: str
    #: What is lacking where a build can't lie on this support.
    needs: str
    #: What stands where there is no build yet.
    here: str
    #: The way that moves the rig against what holds it, unless that depends on what does.
    moves: str
    #: The caution that stands below every other one.
    closing: str
    #: What the tip moment is called.
    tips: str
    #: What bears the rig, as a label in Carry, and why a brace does not count where it doesn't.
    bears = ""
    no_brace = "it helps nothing here"

    def moves_title(self, after: Analysis) -> str:
        """Return the name of the way that moves the rig against what holds it."""
        return self.moves

    def sides(self, analysis: Analysis) -> Sides:
        """Return the words for the two ways in which the rig may tip: between hands that are one behind the other it
        is to the left and to the right."""
        stand = analysis.stand
        if stand is None or abs(float(stand.forward[0])) >= abs(float(stand.forward[1])):
            return FORE_AFT
        return LEFTWARDS if float(stand.forward[1]) > 0.0 else RIGHTWARDS

    def where(self, analysis: Analysis) -> str:
        """Return on which side of the point the CG lies: "ahead of the pad"."""
        if analysis.stand is None:
            return ""
        sides = self.sides(analysis)
        return f"{sides.above if analysis.stand.ahead >= 0.0 else sides.below} {self.noun}"

    def away(self, analysis: Analysis, noun: str = "") -> str:
        """Return the same for a figure beside it: "behind the pad", or "from the pad" where that figure is zero."""
        stand = analysis.stand
        if stand is not None and abs(stand.ahead) < SEEN:
            return f"from {noun or self.noun}"
        words = self.where(analysis)
        return words.removesuffix(self.noun) + noun if noun else words

    def needed(self, analysis: Analysis) -> str:
        """Return what is lacking as a sentence, where a build can't lie on this support."""
        return self.needs

    def lacks(self, analysis: Analysis) -> str:
        """Return in a few words what the build lacks for this support, "" if nothing."""
        return ""

    @abstractmethod
    def verdict(self, analysis: Analysis, system: System) -> Verdict:
        """Return the sentence for a build that lies on this support."""

    @abstractmethod
    def figures(self, analysis: Analysis, system: System) -> tuple[FigureRow, ...]:
        """Return the figures of the panel, the mass apart."""

    @abstractmethod
    def mark(self, analysis: Analysis) -> str:
        """Return the rail's mark for a build that lies on this support: "look", "part" or "settled"."""

    #: Warnings of its own: what each is as a short clause, and what its own figures are measured in.
    warnings: Mapping[str, str] = MappingProxyType({})
    kinds: Mapping[str, Kind] = MappingProxyType({})
    #: Own figures that may be below zero and say so.
    signed: frozenset[str] = frozenset()

    #: Its settings that people fill in.
    fields: tuple[Field, ...] = ()

    #: Usual sizes of it: a name, and the fields' values (SI).
    sizes: tuple[tuple[str, Mapping[str, float]], ...] = ()
    #: What the place is called that can be chosen on a build, "" if none can.
    place_word = ""

    def places(self, build: Build, kit: Kit) -> tuple[tuple[str, Chosen], ...]:
        """Return what can be chosen on a build for it, each with its words; None is by itself."""
        return ()

    def place(self, settings: Settings) -> Chosen:
        """Return what was chosen."""
        return None

    def put(self, settings: Settings, place: Chosen) -> Settings:
        """Return the settings with something else chosen."""
        return settings

    def value(self, settings: Settings, name: str) -> float | None:
        """Return one of the fields' values (SI), None for one that is left empty."""
        found: float | None = getattr(settings, name)
        return found

    def set_to(self, settings: Settings, values: Mapping[str, float | None]) -> Settings:
        """Return `settings` with the fields' `values` (SI); AssemblyError if they can't be."""
        changed: dict[str, Any] = dict(values)
        return replace(settings, **changed)  # type: ignore[type-var]

    def gauge(self, gauge: str) -> str:
        """Return what a figure is called on this support."""
        if gauge == Gauge.AHEAD:
            return f"{Gauge.AHEAD.value} of {self.noun}"
        return self.tips if gauge == Gauge.TIP_MOMENT else str(gauge)

    def caution(self, finding: Finding, analysis: Analysis, operator: Operator, system: System) -> str:
        """Return a warning of its own as a sentence for the panel."""
        return ""

    def limit_wanted(self, analysis: Analysis) -> str:
        """Return what is said where its maker's limit is not entered."""
        return "Enter the maker’s limit, in the build’s menu."

    def load_caution(self, finding: Finding, analysis: Analysis, system: System) -> str:
        """Return a warning of what it carries, a whole gimbal among it, as a sentence for the panel."""
        return ""

    def own_scale(self, analysis: Analysis) -> OwnScale | None:
        """Return what slides on the support itself, as a hook or a plate in its clamp; None if nothing does."""
        return None

    def slid_words(self, before: Analysis, after: Analysis, system: System) -> str:
        """Return how its own scale is set anew, "plate back 20 mm to mark −20 mm"; "" where it stays."""
        scale, then = self.own_scale(before), self.own_scale(after)
        if scale is None or then is None:
            return ""
        to = then.setting
        by = to - scale.setting
        if abs(by) < STAYS:
            return ""
        way, far = "forward" if by > 0.0 else "back", figure(abs(by), Kind.LENGTH, system)
        return f"{scale.noun} {way} {far}{scale.within} to mark {figure(to, Kind.LENGTH, system, sign=True)}"

    def slid(self, build: Build, setting: float) -> Build:
        """Return the build with its own scale at `setting` (m), as far as it goes."""
        return build

    #: Whether builds of one camera on it are worth holding side by side.
    compares = False

    def beside(self, analysis: Analysis, other: Analysis, system: System) -> str:
        """Return in a sentence what another build of the same camera carries besides, and what that costs."""
        return ""

    def burdens(self, carried: Carry, analysis: Analysis, system: System) -> tuple[str, ...]:
        """Return cautions of its own where what it costs the body is shown."""
        return ()

    def slides_title(self, count: int, closely: bool = True) -> str:
        """Return what a way by slides alone is called, `count` of them; "" for what each of them does.

        `closely` if nothing shall be left, not only little enough.
        """
        return ""

    def effects(self, before: Analysis, after: Analysis, system: System) -> tuple[str, ...]:
        """Return what a way changes besides what the hands hold, in a few words each."""
        return ()

    def odds(self, odds: Odds) -> str:
        """Return what the draws of one of its own figures mean, "" if there is nothing to add."""
        return ""

    #: What its picture is called, and the words beside.
    picture = ("Elevation", "right side, level; drag parts or marks")

    def draw_picture(
        self,
        analysis: Analysis,
        system: System,
        width: float,
        height: float,
        selected: str | None,
        preview: Analysis | None,
        held: Elevation | None,
    ) -> Elevation | None:
        """Return a picture of its own in an area of `width` by `height` px, None for the usual elevation."""
        return None

    def offer(self, analysis: Analysis, system: System) -> tuple[str, Build] | None:
        """Return what cures it without a hand on the rig, and the build then; None if there is nothing."""
        return None

    #: Whether what counts as level is a moment that people choose.
    tolerant = True
    #: A page of its own below the elevation, "" without one.
    page = ""
    #: The bench that it has of its own in the window, "" without one.
    bench = ""
    #: Keys that lead to it, and the name there of what then has the keyboard.
    bench_keys: Mapping[str, str] = MappingProxyType({})
    #: Whether hands hold the rig by grips of its own.
    needs_grips = True
    #: What a way leaves of the first form, where there are others beside it.
    left_over = "Left over"
    #: What is said where no way is found.
    stuck = "No way was found among slides, mounts, batteries, counterweights and what can be left off."
    #: Whether it is worked out so quickly that it follows a part that is dragged.
    page_follows = True

    def draw_page(self, analysis: Analysis, system: System, width: float, height: float) -> Scene:
        """Return its own page in an area of `width` by `height` px."""
        return Scene()

    #: Whether dead weight against what is left is worth a curve.
    trades = True
    #: What the marks for every lens bring about.
    lens_question = "Marks that keep it level, for each lens"
    #: Whether it shows its own marks for every lens in place of the usual table.
    lens_page = False

    def draw_lenses(self, analysis: Analysis, kit: Kit, system: System, width: float, height: float) -> Scene:
        """Return its own marks for every lens in an area of `width` by `height` px."""
        return Scene()

    def draw_wearer(  # noqa: B027, most supports have nothing to draw there
        self, scene: Scene, analysis: Analysis, projection: Projection, operator: Operator, floor: float
    ) -> None:
        """Draw who wears the rig, behind it; cut off at `floor` (px)."""

    def draw_point(self, scene: Scene, x: float, y: float, height: float) -> None:
        """Draw the point at `x`, `y` (px) that the weight is judged about, in an area of `height` px."""
        scene.line(x, y + 12, x, height, "ink", 1.2)
        scene.path(polygon(((x, y), (x - 12, y + 19), (x + 12, y + 19))), "ink")

    def draw_room(  # noqa: B027
        self, scene: Scene, analysis: Analysis, projection: Projection, ruler_y: float
    ) -> None:
        """Draw on the ruler at `ruler_y` (px) where the CG may lie."""

    def draw_over(  # noqa: B027
        self, scene: Scene, analysis: Analysis, projection: Projection
    ) -> None:
        """Draw over the rig what it must not hide."""


def index_of(analysis: Analysis, placed_id: str) -> int:
    """Return the number of a placed part."""
    return next(i for i, placed in enumerate(analysis.build.parts) if placed.id == placed_id)


def warning_words(analysis: Analysis, finding: Finding) -> str:
    """Return a warning as a short clause."""
    names = [
        mid_sentence(analysis.assembly.parts[index_of(analysis, i)].name.split(",")[0]) for i in finding.placed_ids
    ]
    if finding.kind in _COMMON:
        return _COMMON[finding.kind].format(*names)
    return text_of(analysis).warnings[finding.kind].format(*names)


#: Warnings that are the same on every support, as short clauses.
_COMMON: dict[str, str] = {
    FindingKind.CLASH: "{} hits {}",
    FindingKind.OUT_OF_TRAVEL: "{} is past the end of its slide",
    FindingKind.NOT_HELD: "no hands hold it",
    FindingKind.SCREEN: "the screen is out of sight",
    FindingKind.NO_LIMIT: "the maker’s limit is not entered",
    FindingKind.HEAVY_LENS: "{} is heavy on its mount",
}


def screw_words(name: str, finding: Finding, system: System) -> str:
    """Return that one screw holds a part on a long lever, as a sentence for the panel."""
    moment, holds = (figure(v, Kind.MOMENT, system) for v in (finding.amount, finding.limit or 0.0))
    return (
        f"{name} stands on one screw: a shock turns it by {moment}, and the screw holds the joint shut to about "
        f"{holds}. Use two screws, or bring it closer."
    )


def but_words(analysis: Analysis) -> str:
    """Return the worst warning as a sentence behind a verdict, "" if there is none."""
    found = warnings_of(analysis)
    return f" But {warning_words(analysis, found[0])}." if found else ""


def hands_words(analysis: Analysis, system: System) -> str:
    holding = analysis.stand.holding if analysis.stand is not None else None
    if holding is None:
        return ""
    hands = holding.hands
    sizes = [hand.size for hand in hands]
    where = _mostly(hands)
    most = figure(max(sizes), Kind.FORCE, system)
    if len(hands) == 2 and max(sizes) - min(sizes) <= 0.1 * max(sizes):
        return f"Up to {most} in each hand, mostly {where}, to keep it level."
    if len(hands) == 1:
        return f"One hand gives {most}, mostly {where}, to keep it level."
    left, right = sorted(hands, key=lambda hand: -float(hand.point[1]))[:2]
    shares = f"left hand {figure(left.size, Kind.FORCE, system)}, right hand {figure(right.size, Kind.FORCE, system)}"
    return f"To keep it level, mostly {where}: {shares}."


def _mostly(hands: Sequence[HandLoad]) -> str:
    """Return which way the hands mostly push, all together."""
    ahead, _, up = (float(v) for v in sum((hand.force for hand in hands), np.zeros(3)))
    if abs(ahead) > abs(up):
        return "forward" if ahead > 0.0 else "back"
    return "up" if up >= 0.0 else "down"


def hand_rows(analysis: Analysis, asked: Sequence[str], system: System) -> list[FigureRow]:
    """Return rows of forces that hold the rig alone, each with its doubt."""
    gauges = gauges_of(analysis)
    holding = analysis.stand.holding if analysis.stand is not None else None
    if gauges is None or holding is None:
        return []
    firsts = gauges.firsts([gauge for gauge in asked if gauge in gauges.offered])
    return [
        FigureRow(gauge[:1].upper() + gauge[1:], figure(value, Kind.FORCE, system), doubt(unsure, Kind.FORCE, system))
        for gauge, (value, unsure) in firsts.items()
    ]
