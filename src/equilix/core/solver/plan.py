"""What is asked of a search and what it answers: goals, forms, targets, limits, plans."""

from __future__ import annotations

from enum import StrEnum

import numpy as np
from msgspec import Struct

from equilix.core.assembly.build import Build
from equilix.core.assembly.resolve import Assembly
from equilix.core.kit.parts import Part
from equilix.core.rounding import SLIGHT
from equilix.core.solver.choices import (
    Option,
)
from equilix.core.sources import common_practice

#: m, the unit of lengths inside the programme, so that its numbers are near 1.
UNIT = 0.1

#: Programme units: what keeps two parts apart, 0.01 mm, so that a rounding never brings them to meet.
SURELY_APART = 1e-4

#: Programme units (kg x 0.1 m): margin by which an optimum may be missed while the next goal is sought.
MARGIN = SLIGHT

#: Rounds in which parts that came to meet each other are kept apart.
ROUNDS = 12

#: s that one goal may take; then the best plan so far stands with its gap. HiGHS can't be stopped in between.
TIME_LIMIT = 4.0

#: Relative gap up to which an optimum counts as proven: what rounding leaves.
PROVEN_GAP = SLIGHT

#: m. A slide that moves less than this stays.
STAYS = SLIGHT


class Goal(StrEnum):
    """What to make small, one after the other."""

    BEYOND = "moment beyond the tolerance"
    DEAD_MASS = "dead mass"
    ADDED_MASS = "added mass"
    EFFORT = "work, in steps"
    MOMENT = "remaining moment"
    TRAVEL = "travel"
    STEADINESS = "mass near the support"  # its opposite is made large


#: Goals met at once, each with its weight; one goal alone otherwise.
Bundle = Goal | tuple[tuple[Goal, float], ...]

#: Steps of work that a kg of dead weight counts in a plan.
DEAD_STEPS = common_practice(80.0)

#: Least work and dead weight, then the least moment, then the shortest way, in one go; the last two weights are made
#: small enough for that order to be exact, see `_Search._bundle`.
SMALL_MOMENT = 5.0
LEAST_EFFORT: tuple[tuple[Goal, float], ...] = (
    (Goal.EFFORT, 1.0),
    (Goal.DEAD_MASS, DEAD_STEPS),
    (Goal.MOMENT, SMALL_MOMENT),
    (Goal.TRAVEL, 0.02),
)

#: Where not all can be had: so many steps of work must take off this share of what is wrong, or a whole tolerance.
PRICE_STEPS, PRICE_SHARE = common_practice((3.0, 0.05))

#: A way over the moment: it never pays for moment while a slide carries more than 4 g.
WAY_PER_MOMENT = 0.004

USUAL_GOALS: tuple[Bundle, ...] = (Goal.BEYOND, LEAST_EFFORT)


#: As little left as can be, whatever it costs.
ALL_IT_TAKES: tuple[Bundle, ...] = (Goal.BEYOND, Goal.DEAD_MASS, LEAST_EFFORT)


class Form(Struct, frozen=True, eq=False):
    """One component of the first moment: ``direction . sum m (r - s)`` (kg m), s the support's point.

    Free forms (`within` None) are made zero to within `tolerance` (kg m, None: that of the target), `weight` says how
    much what is left beyond it counts beside other forms. A form may be of a `group` of placed parts alone, and about a
    `point` (3,) (m, rig frame) of its own, fixed to the placed part `holder`. Others must stay within ``+- within * M``
    (m times the total mass), or unless `strict` no farther outside than they are now. `heavier` (placed id, kg) makes
    parts heavier in this form alone: what would be if guesses were off.

    With a `lever` (3,) it is a product of second moments, ``sum m (lever . (r - s)) (direction . (r - s)) + offset``
    (kg m2): linear as long as the levers stay; `frozen` (placed id, m) are those that a search takes for granted.
    """

    name: str
    direction: np.ndarray
    within: float | None = None
    heavier: tuple[tuple[str, float], ...] = ()
    strict: bool = False
    tolerance: float | None = None
    weight: float = 1.0
    group: frozenset[str] | None = None
    point: np.ndarray | None = None
    holder: str | None = None
    lever: np.ndarray | None = None
    offset: float = 0.0
    frozen: tuple[tuple[str, float], ...] = ()


class Target(Struct, frozen=True, eq=False):
    """A support's condition: forms about `point` (3,) (m, rig frame), fixed to the placed part `holder`.

    Without a holder the point stays where it is in the frame of the build's first part. `closely`: slides alone are set
    until nothing is left, not only until the tolerances are met. `curved`: some forms are only nearly linear, so that
    an answer is worked out again from where it lies.
    """

    point: np.ndarray
    holder: str | None
    forms: tuple[Form, ...]
    tolerance: float  # kg m, greatest |form| that counts as none
    closely: bool = False
    curved: bool = False

    def about(self, form: Form) -> tuple[np.ndarray, str | None]:
        """Return the point (3,) (m, rig frame) that a form is about, and the placed part that it is fixed to."""
        return (self.point, self.holder) if form.point is None else (form.point, form.holder)

    def allowed(self, form: Form) -> float:
        """Return how large (kg m) a free form may be and still count as none."""
        return self.tolerance if form.tolerance is None else form.tolerance


class Limits(Struct, frozen=True):
    """Bounds on a plan: greatest added mass (kg, dead or not), and pairs of placed ids that must come apart.

    `beyond` (kg m, each form by its weight) is the most that may be left beyond all tolerances: a plan that leaves more
    is of no use. It is asked where that is the first goal.
    """

    added: float | None = None
    apart: tuple[tuple[str, str], ...] = ()
    beyond: float | None = None


#: kg m beyond all tolerances that is nothing but rounding.
NOTHING = 2e-7

#: As much as is wanted.
NO_LIMITS = Limits()


class PlanStatus(StrEnum):
    PROVEN = "proven best"
    GOOD = "good, not proven"
    STOPPED = "stopped"
    OUT_OF_TIME = "out of time"
    IMPOSSIBLE = "impossible"


class Plan(Struct, frozen=True, eq=False):
    """A changed build and what is left of the moment.

    `values` (f,) kg m are the target's forms as this programme has them; `gap` is the largest relative gap
    that HiGHS left, `binding` says in placed ids what stops it: slides at a stop, pairs that touch. `assembly` is what
    it was looked at on, if it was; only slides may stand elsewhere there. `apart` are the pairs of placed ids that were
    kept apart in its search.
    """

    status: PlanStatus
    build: Build
    kit: dict[str, Part]
    values: np.ndarray
    taken: tuple[Option, ...]
    moved: dict[str, float]
    dead_mass: float
    added_mass: float
    changes: int
    gap: float
    binding: tuple[tuple[str, ...], ...]
    assembly: Assembly | None = None
    apart: tuple[tuple[str, str], ...] = ()

    @property
    def found(self) -> bool:
        """Whether there is a plan at all, proven best or not."""
        return self.status in (PlanStatus.PROVEN, PlanStatus.GOOD)

    def remaining(self, target: Target) -> float:
        """Return the size (kg m) of the target's first free form, the one that a support is levelled by."""
        free = [abs(float(v)) for v, form in zip(self.values, target.forms, strict=False) if form.within is None]
        return free[0] if free else 0.0

    def meets(self, target: Target) -> bool:
        """Whether there is a plan, and it leaves nothing beyond the tolerances of `target`."""
        return self.found and self.beyond(target) <= NOTHING

    def beyond(self, target: Target) -> float:
        """Return what the free forms leave beyond their tolerances (kg m), each by its weight; of the first ones that
        both this plan and `target` have: a robust target's extra forms come last."""
        return sum(
            form.weight * max(abs(float(v)) - target.allowed(form), 0.0)
            for v, form in zip(self.values, target.forms, strict=False)
            if form.within is None
        )
