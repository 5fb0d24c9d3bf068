"""What the texts of supports have in common: verdict, rows of the panel, pages, what the support's point is called."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType
from typing import TYPE_CHECKING, Any, Generic, TypeVar

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis, Finding
from equilix.core.assembly.build import Build, Grasp, Kit, Operator, Settings
from equilix.core.records import WarningType
from equilix.core.solver.plan import STAYS
from equilix.core.statics.equilibrium import SupportResult
from equilix.core.statics.hands import HandLoad
from equilix.core.statics.pose import Pose
from equilix.core.support import Case, Support, case_of
from equilix.core.uncertainty.output_model import CG_AHEAD, TIP_MOMENT, output_model
from equilix.core.units import Kind
from equilix.present.drawing.figures import At
from equilix.present.drawing.person import Gear
from equilix.present.drawing.scene import Scene, polygon
from equilix.present.drawing.tags import Rect
from equilix.present.supports import text_of
from equilix.present.units import System, figure, number, uncertainty
from equilix.present.words import Move, capitalised, mid_sentence

if TYPE_CHECKING:
    from equilix.core.carry.carried import Carry
    from equilix.core.uncertainty.montecarlo import Odds
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

    `note` says what was taken for granted, and what will stay: it stands below, in smaller letters. `matter` is the
    worst of what else is wrong, on a strip of its own, unless the verdict `stops` the work by itself: it concerns the
    placed parts `about`, and stands before all else if it `leads`, since it makes the rig unusable. What is not `known`
    is neither good nor bad.
    """

    head: str
    body: str
    leans: str = ""
    note: str = ""
    stops: bool = False
    matter: str = ""
    about: tuple[str, ...] = ()
    leads: bool = False
    known: bool = True

    @property
    def in_full(self) -> str:
        """All of it in a row, but for the note: for paper and command line."""
        first, last = (self.matter, "") if self.leads else ("", self.matter)
        return " ".join(filter(None, (first, self.head, self.body, last)))


class FigureRow(Struct, frozen=True):
    """One figure of the panel: what, how much, how sure."""

    label: str
    value: str
    uncertainty: str
    note: str = ""


class Page(Struct, frozen=True):
    """A page of a support's own below the elevation: its tab's `word`, and what draws it, by case, kit and size (px).

    One that `follows` is worked out so quickly that it follows a part that is dragged.
    """

    word: str
    draw: Callable[[Any, Kit, System, float, float], Scene]
    follows: bool = True


class Bench(Struct, frozen=True):
    """A support's own bench in the window: its tab's `word`, and `keys` that lead to it, each with the name there of
    what then has the keyboard."""

    word: str
    keys: Mapping[str, str] = MappingProxyType({})


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


S = TypeVar("S", bound=Settings)
R = TypeVar("R", bound=SupportResult)


class SupportText(ABC, Generic[S, R]):
    """The words and lines of one support."""

    #: The support that they are of.
    support: Support[S, R]
    #: What the rig's weight is judged about: "the pad"; the same as a label: "pad".
    noun: str
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
    no_brace = "no effect on this support"
    #: Usual sizes of it: a name, and some of its settings (SI).
    sizes: tuple[tuple[str, Mapping[str, float]], ...] = ()
    #: What the place is called that can be chosen on a build, "" if none can.
    place_word = ""
    #: What its picture is called, and the words beside.
    picture = ("Side view", "from the right. Drag parts or marks")
    #: A page of its own, its own marks for every lens in place of the usual table, and a bench of its own.
    page: Page | None = None
    lens_page: Page | None = None
    bench: Bench | None = None
    #: Whether what counts as level is a moment that people choose, so that dead weight against it is worth a curve.
    tolerant = True
    #: Whether hands hold the rig by grips of its own.
    needs_grips = True
    #: Whether builds of one camera on it are worth holding side by side.
    compares = False
    #: What a way leaves of the first form, where there are others beside it; and what is said where no way is found.
    left_over = "Left over"
    stuck = "No way was found with the parts at hand."
    #: m kept free below and above the rig for what holds it, and px at the right for a second picture, 0 for none.
    room = (0.0, 0.0)
    beside_width = 0.0
    #: The starting build that a rig on it is begun from, and what that is called; none is offered without.
    starts: tuple[str, str] = ("", "")
    #: Whether its picture shows the rig from above too.
    from_above = False
    #: Whether the operator wears something that carries it; and m below and above in a small picture of it.
    worn = False
    small_room = (0.0, 0.0)
    #: What the marks for every lens bring about.
    lens_question = "Marks that keep it level, for each lens"

    # Where the CG lies

    def sides(self, case: Case[S, R]) -> Sides:
        """Return the words for the two ways in which the rig may tip: between hands that are one behind the other it
        is to the left and to the right."""
        ahead, left = (float(v) for v in case.equilibrium.forward[:2])
        if abs(ahead) >= abs(left):
            return FORE_AFT
        return LEFTWARDS if left > 0.0 else RIGHTWARDS

    def where(self, case: Case[S, R]) -> str:
        """Return on which side of the point the CG lies: "ahead of the pad"."""
        return f"{self._side(case)} {self.noun}"

    def _side(self, case: Case[S, R]) -> str:
        sides = self.sides(case)
        return sides.above if case.equilibrium.ahead >= 0.0 else sides.below

    def away(self, case: Case[S, R], noun: str = "") -> str:
        """Return the same for a figure beside it: "behind the pad", or "from the pad" where that figure is zero."""
        if abs(case.equilibrium.ahead) < SEEN:
            return f"from {noun or self.noun}"
        return f"{self._side(case)} {noun}" if noun else self.where(case)

    # The answer

    @abstractmethod
    def verdict(self, case: Case[S, R], system: System) -> Verdict:
        """Return the sentence for a build that lies on this support."""

    @abstractmethod
    def rows(self, case: Case[S, R], system: System) -> tuple[FigureRow, ...]:
        """Return the figures of the panel, the mass apart."""

    @abstractmethod
    def mark(self, case: Case[S, R]) -> str:
        """Return the rail's mark for a build that lies on this support: "look", "part" or "settled"."""

    def needed(self, analysis: Analysis) -> str:
        """Return what is lacking as a sentence, where a build can't lie on this support."""
        return self.needs

    def lacks(self, analysis: Analysis) -> str:
        """Return in a few words what the build lacks for this support, "" if nothing."""
        return ""

    def output_name(self, output: str) -> str:
        """Return what an output is called on this support."""
        if output == CG_AHEAD:
            return f"{CG_AHEAD} of {self.noun}"
        return self.tips if output == TIP_MOMENT else str(output)

    def sentence(self, finding: Finding, analysis: Analysis, system: System) -> str:
        """Return a warning whose sentence depends on more than its figures, "" for one that says it in its record."""
        return ""

    def odds(self, odds: Odds) -> str:
        """Return what the draws of one of its own figures mean, "" if there is nothing to add."""
        return ""

    def body_cautions(self, carried: Carry, case: Case[S, R], system: System) -> tuple[str, ...]:
        """Return cautions of its own where what it costs the body is shown."""
        return ()

    # What can be chosen and slid

    def places(self, build: Build, kit: Kit) -> tuple[tuple[str, Chosen], ...]:
        """Return what can be chosen on a build for it, each with its words; None is by itself."""
        return ()

    def place(self, settings: S) -> Chosen:
        """Return what was chosen."""
        return None

    def with_place(self, settings: S, place: Chosen) -> S:
        """Return the settings with something else chosen."""
        return settings

    def own_scale(self, case: Case[S, R]) -> OwnScale | None:
        """Return what slides on the support itself, as a hook or a plate in its clamp; None if nothing does."""
        return None

    def with_slide(self, build: Build, setting: float) -> Build:
        """Return the build with its own scale at `setting` (m), as far as it goes."""
        return build

    def slid(self, before: Case[S, R], after: Case[S, R], system: System) -> Move | None:
        """Return how its own scale is set anew, None where it stays."""
        scale, then = self.own_scale(before), self.own_scale(after)
        if scale is None or then is None:
            return None
        by = then.setting - scale.setting
        if abs(by) < STAYS:
            return None
        since = figure(scale.setting, Kind.LENGTH, system, sign=True, unit=False)
        to = figure(then.setting, Kind.LENGTH, system, sign=True)
        way, far = "forward" if by > 0.0 else "back", figure(abs(by), Kind.LENGTH, system)
        return Move(scale.noun, way, far, since, to, scale.within)

    def offer(self, case: Case[S, R], system: System) -> tuple[str, Build] | None:
        """Return what cures it without a hand on the rig, and the build then; None if there is nothing."""
        return None

    # Ways

    def moves_title(self, after: Analysis) -> str:
        """Return the name of the way that moves the rig against what holds it."""
        return self.moves

    def slides_title(self, count: int) -> str:
        """Return what a way by slides alone is called that does all of it; "" for what each of the `count` does."""
        return ""

    def effects(self, before: Case[S, R], after: Case[S, R], system: System) -> tuple[str, ...]:
        """Return what a way changes besides what the hands hold, in a few words each."""
        return ()

    def beside(self, case: Case[S, R], other: Analysis, system: System) -> str:
        """Return in a sentence what another build of the same camera carries besides, and what that costs."""
        return ""

    # Drawings

    def draw_picture(
        self,
        case: Case[S, R],
        system: System,
        width: float,
        height: float,
        selected: str | None,
        preview: Analysis | None,
        held: Elevation | None,
        planned: Analysis | None = None,
    ) -> Elevation | None:
        """Return a picture of its own in an area of `width` by `height` px, None for the usual elevation.

        `preview` is drawn over it; an order of work leads to `planned`, None where no way is known.
        """
        return None

    def draw_wearer(
        self, scene: Scene, case: Case[S, R], projection: Projection, operator: Operator, floor: float
    ) -> None:
        """Draw who wears the rig, behind it; cut off at `floor` (px)."""

    def draw_point(self, scene: Scene, x: float, y: float, height: float, floor: float, scale: float) -> None:
        """Draw what the weight is judged about at `x`, `y` (px), in an area of `height` px and `scale` px per m.

        What stands is cut off at `floor` (px).
        """
        scene.line(x, y + 12, x, height, "ink", 1.2)
        scene.path(polygon(((x, y), (x - 12, y + 19), (x + 12, y + 19))), "ink")

    def solid(self, x: float, y: float, scale: float) -> tuple[Rect, ...]:
        """Return what of it, drawn at `x`, `y` (px), no tag may stand on."""
        return ()

    def draw_beside(
        self,
        scene: Scene,
        case: Case[S, R],
        operator: Operator,
        system: System,
        area: tuple[float, float, float, float],
    ) -> None:
        """Draw a second picture in `area` (left, top, width, height px), where `beside` asks for one."""

    def draw_room(self, scene: Scene, case: Case[S, R], projection: Projection, ruler_y: float) -> None:
        """Draw on the ruler at `ruler_y` (px) where the CG may lie."""

    def draw_gear(self, scene: Scene, case: Case[S, R], pose: Pose, at: At, scale: float) -> None:
        """Draw from the right what is worn to carry it in `pose`; `at` makes px of places in the body frame (m)."""

    def draw_stand(self, scene: Scene, x: float, y: float, floor: float, scale: float) -> None:
        """Draw what it stands on below `x`, `y` (px), cut off at `floor`, `scale` px per m."""

    def draw_hold(self, scene: Scene, case: Case[S, R], projection: Projection) -> None:
        """Draw the hands that lie before the rig."""

    def gear(self, case: Case[S, R], pose: Pose) -> Gear:
        """Return what draws that, for who carries it in `pose`."""
        return lambda scene, at, scale: self.draw_gear(scene, case, pose, at, scale)

    def draw_over(self, scene: Scene, case: Case[S, R], projection: Projection) -> None:
        """Draw over the rig what it must not hide."""


def index_of(analysis: Analysis, placed_id: str) -> int:
    """Return the number of a placed part."""
    return next(i for i, placed in enumerate(analysis.build.parts) if placed.id == placed_id)


def own_scale_of(analysis: Analysis) -> OwnScale | None:
    """Return what slides on the support itself that a build lies on, None if nothing does."""
    case = case_of(analysis)
    return text_of(analysis).own_scale(case) if case is not None else None


def warning_words(analysis: Analysis, finding: Finding) -> str:
    """Return a warning as a short clause."""
    names = [
        mid_sentence(analysis.assembly.parts[index_of(analysis, i)].name.split(",")[0]) for i in finding.placed_ids
    ]
    return analysis.support.warning_type(finding.kind).clause.format(*names)


def warning_sentence(analysis: Analysis, finding: Finding, operator: Operator, system: System) -> str:
    """Return a warning in full, whatever support it is of."""
    # What carries a whole gimbal says of its own limits what it does not say of the gimbal's.
    known = finding.kind if isinstance(finding.kind, WarningType) else analysis.support.warning_type(finding.kind)
    if not known.sentence:
        return text_of(analysis).sentence(finding, analysis, system)
    parts = [analysis.assembly.parts[index_of(analysis, placed_id)].name for placed_id in finding.placed_ids]
    limit, kind = finding.limit or 0.0, known.kind

    def shown(value: float) -> str:
        return number(value, 1 + known.extra) if kind is None else figure(value, kind, system, extra=known.extra)

    words = known.sentence.format(
        part=parts[0],
        lower=mid_sentence(parts[0]),
        short=mid_sentence(parts[0].split(",")[0]),
        other=mid_sentence(parts[-1]),
        operator=operator.name,
        amount=shown(finding.amount),
        pm="" if kind is None else uncertainty(finding.uncertainty, kind, system),
        limit=shown(limit),
        gap=shown(abs(finding.amount - limit)),
    )
    return capitalised(words)


def hands_words(case: Case[Any, Any], system: System) -> str:
    holding = case.equilibrium.holding
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


def hand_rows(case: Case[Any, Any], asked: Sequence[str], system: System) -> list[FigureRow]:
    """Return rows of forces that hold the rig alone, each with its uncertainty."""
    outputs = output_model(case.analysis)
    if outputs is None or case.equilibrium.holding is None:
        return []
    firsts = outputs.firsts([output for output in asked if output in outputs.offered])
    return [
        FigureRow(
            output[:1].upper() + output[1:], figure(value, Kind.FORCE, system), uncertainty(unsure, Kind.FORCE, system)
        )
        for output, (value, unsure) in firsts.items()
    ]
