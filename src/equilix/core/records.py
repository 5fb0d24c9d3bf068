"""What a support is made of, each thing written once: settings, outputs and warnings.

Files, published schema, form, panel, lists, sheet, command line and tests read these records. Outputs and warnings are
their own names, so that they stand wherever a name does.
"""

from __future__ import annotations

import types
from collections.abc import Callable, Mapping
from functools import cache
from typing import TYPE_CHECKING, Annotated, Any, Self, Union, get_args, get_origin, get_type_hints

from msgspec import Struct

from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import MountKind
from equilix.core.limits import check_number
from equilix.core.units import Kind

if TYPE_CHECKING:
    import numpy as np

    from equilix.core.uncertainty.output_model import OutputModel, Samples


class TableHolder(Struct, frozen=True):
    """How a table of parts with their places is held: at a `point` of that name, by `mounts`, the outermost first.

    `figures` are what is said of it, by their keys.
    """

    point: str
    mounts: tuple[MountKind, ...]
    figures: tuple[str, ...]


# Settings


class Setting(Struct, frozen=True):
    """One setting that people fill in: it stands in its field's annotation, and the order of fields is the form's.

    `caption` is its label in the form, "" for what is not typed there. It is typed as a `kind` of figure, else as a
    number in the unit that the caption names. `low` and `high` (SI, inclusive) bound it; outside of them `what` it is
    and its `unit` are named. A field that may be None may be left empty; one that is true or false has no bounds.
    """

    caption: str = ""
    kind: Kind | None = None
    low: float | None = None
    high: float | None = None
    what: str = ""
    unit: str = ""


class Field(Struct, frozen=True):
    """A setting and its field: the field's name, whether it may be left empty, and whether it is true or false."""

    name: str
    setting: Setting
    optional: bool
    yes: bool


def fields_of(settings: Any) -> tuple[Field, ...]:
    """Return the fields of settings that are records, in their order."""
    kind: Any = type(settings)
    return _fields(kind)


@cache
def _fields(kind: Any) -> tuple[Field, ...]:
    found = []
    for name, hint in get_type_hints(kind, include_extras=True).items():
        if get_origin(hint) is Annotated:
            inner, *extras = get_args(hint)
            record = next((extra for extra in extras if isinstance(extra, Setting)), None)
            options = get_args(inner) if get_origin(inner) in (Union, types.UnionType) else (inner,)
            if record is not None:
                found.append(Field(name, record, types.NoneType in options, bool in options))
    return tuple(found)


def check_settings(settings: Any) -> None:
    """Raise AssemblyError unless each of the settings is within its bounds, or None, and switches are true or false."""
    kind: Any = type(settings)
    for name, caption in _switches_of(kind):
        if not isinstance(getattr(settings, name), bool):
            raise AssemblyError(f"“{caption}” must be yes or no.")
    for name, low, high, what, unit in _bounds_of(kind):
        value = getattr(settings, name)
        if value is not None:
            check_number(value, low, high, what, unit)


@cache
def _switches_of(kind: Any) -> tuple[tuple[str, str], ...]:
    return tuple((field.name, field.setting.caption) for field in _fields(kind) if field.yes)


@cache
def _bounds_of(kind: Any) -> tuple[tuple[str, float, float, str, str], ...]:
    return tuple(
        (field.name, record.low, record.high, record.what or record.caption, record.unit)
        for field in _fields(kind)
        for record in [field.setting]
        if record.low is not None and record.high is not None
    )


# Outputs


class Threshold(Struct, frozen=True):
    """A value (SI) at which the verdict changes, and the words for it."""

    value: float
    words: str


#: What works out an output (d,) in SI for many samples at once.
Evaluate = Callable[["OutputModel", "Samples"], "np.ndarray"]


def no_limits(settings: Any) -> tuple[Threshold, ...]:
    """Return no values at which a verdict changes."""
    return ()


def always(case: Any) -> bool:
    """Whether an output is there, for one that every rig has that lies on its support."""
    return True


class Output(str):
    """A figure of the verdict: its name in lists, and all that must be known of it.

    `key` is its name in files and ends in its unit, "" for one that stands in no file; `kind` is what it is a figure
    of, and a `signed` one may be below zero and says so. `of` works it out. One that goes `by_forces` needs forces that
    hold the rig. `limits` are the values at which the verdict changes, by the support's settings, and it is left out
    where it is not `there`, by the case.
    """

    key: str
    kind: Kind
    of: Evaluate
    signed: bool
    by_forces: bool
    limits: Callable[[Any], tuple[Threshold, ...]]
    there: Callable[[Any], bool]

    def __new__(
        cls,
        name: str,
        kind: Kind,
        of: Evaluate,
        key: str = "",
        *,
        signed: bool = False,
        by_forces: bool = False,
        limits: Callable[[Any], tuple[Threshold, ...]] = no_limits,
        there: Callable[[Any], bool] = always,
    ) -> Self:
        made = super().__new__(cls, name)
        made.key, made.kind, made.of, made.signed = key, kind, of, signed
        made.by_forces, made.limits, made.there = by_forces, limits, there
        return made

    def on(self, key: str = "", limits: Callable[[Any], tuple[Threshold, ...]] = no_limits) -> Self:
        """Return the same output as one support has it: its key in files, and where its verdict changes."""
        more = {"signed": self.signed, "by_forces": self.by_forces, "there": self.there}
        return type(self)(str(self), self.kind, self.of, key, limits=limits, **more)  # type: ignore[arg-type]


# Warnings


class WarningType(str):
    """A kind of warning: its name in files, and what is said of it.

    `clause` says it behind a verdict, with {} for the names of the parts. `sentence` says it in full: {part}, its
    {lower} and {short} name within a sentence, the {other} part and the {operator} are filled in, and {amount}, its
    {pm}, the {limit} and the {gap} between them in units of `kind`, with `extra` digits more than usual. One that
    `leads` makes a rig unusable as it is and comes before any word of balance; no way that brings one, or another
    `serious` one, stands before ways that don't. One that is `carried` is warned of too
    where the support carries a whole gimbal. It warns of an amount over its limit, or under it where that is the
    `least`; where the limit is the maker's, `makers`, a little more is worse.
    """

    clause: str
    sentence: str
    kind: Kind | None
    extra: int
    leads: bool
    carried: bool
    least: bool
    makers: bool
    serious: bool

    def __new__(
        cls,
        name: str,
        clause: str,
        sentence: str = "",
        kind: Kind | None = None,
        extra: int = 0,
        *,
        leads: bool = False,
        carried: bool = False,
        least: bool = False,
        makers: bool = False,
        serious: bool = False,
    ) -> Self:
        made = super().__new__(cls, name)
        made.clause, made.sentence, made.kind, made.extra = clause, sentence, kind, extra
        made.leads, made.carried, made.least, made.makers = leads, carried, least, makers
        made.serious = leads or serious
        return made

    def on(self, sentence: str = "", *, leads: bool = False, carried: bool = False) -> Self:
        """Return the same warning as one support has it."""
        more: Mapping[str, bool] = {"least": self.least, "makers": self.makers, "serious": self.serious}
        said = sentence or self.sentence
        return type(self)(str(self), self.clause, said, self.kind, self.extra, leads=leads, carried=carried, **more)
