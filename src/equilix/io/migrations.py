"""Books of older formats brought up to the present one, step by step, on the raw JSON and before it is checked.

A step only knows the two formats that it lies between, so that an old step never has to change again.
"""

from __future__ import annotations

import types
import typing
from collections import Counter
from collections.abc import Callable
from functools import cache
from typing import Any

import msgspec
from msgspec import Struct

from equilix.core.assembly.build import Settings
from equilix.core.keys import KEYS
from equilix.core.registry import usual_settings

#: A book as its file says it: objects, lists, text, numbers.
Content = dict[str, Any]


def _to_2(content: Content) -> None:
    """Format 2 brought scales and weighings, and the records of a part's figures."""
    content.setdefault("instruments", [])
    content.setdefault("measurements", [])
    for part in _objects(content, "kit"):
        part.setdefault("records", [])


def _to_3(content: Content) -> None:
    """Format 3 brought takes, and more about operators than their size."""
    for build in _objects(content, "builds"):
        build.setdefault("takes", [])
    for operator in _objects(content, "operators"):
        operator.setdefault("sex", "rather not say")
        operator.setdefault("strength", 1.0)


def _to_4(content: Content) -> None:
    """Format 4 brought the hold, and how strong a person is among others."""
    for build in _objects(content, "builds"):
        build.setdefault("hold", {})
    for operator in _objects(content, "operators"):
        operator.setdefault("percentile", 50.0)


def _to_5(content: Content) -> None:
    """Format 5 lets any part be the root: joints may be reversed or a build's own, and a part is named as level."""
    for build in _objects(content, "builds"):
        build.setdefault("level", "")
        for placed in _objects(build, "parts"):
            placed.setdefault("reversed", False)


def _to_6(content: Content) -> None:
    """Format 6 keeps what a build says of each support apart, so that switching loses nothing."""
    for build in _objects(content, "builds"):
        rests, hold = build.pop("shoulder", {}), build.pop("hold", {})
        build.setdefault(
            "supports", [{"kind": "shoulder", "rests": rests, "hold": hold}, {"kind": "handheld", "hold": hold}]
        )


#: Settings that format 7 says as true or false, by the support; before they were 1 or 0.
_SWITCHES_OF_7 = {"tripod": ("seated",), "gimbal": ("perfect",), "vest": ("dynamic", "left", "release")}
#: What was timed of a sled: the field that format 7 has, and the one before.
_TIMED_OF_7 = (
    ("tries", "tries"),
    ("mass", "timed_mass"),
    ("pitch", "lean_pitch"),
    ("roll", "lean_roll"),
    ("more_inertia", "more_inertia"),
    ("parted", "parted"),
    ("suspect", "suspect"),
)
_SHIFT_OF_7 = ("shift_x", "shift_y", "shift_z")


def _to_7(content: Content) -> None:
    """Format 7 says a pad's figures beside the hold, switches as true or false, apart what was timed of a
    sled, and names a gimbal's slides so."""
    for build in _objects(content, "builds"):
        for said in _objects(build, "supports"):
            said.update(said.pop("rests", {}))
            for name in _SWITCHES_OF_7.get(str(said.get("kind")), ()):
                if isinstance(said.get(name), int | float):
                    said[name] = bool(said[name])
            if said.get("kind") == "vest":
                timed = {new: said.pop(old) for new, old in _TIMED_OF_7 if old in said}
                shift = [said.pop(name, 0.0) for name in _SHIFT_OF_7]
                if timed.get("mass") is not None:
                    said["timed"] = {"tries": [], **timed, "shift": shift}
    # A scale weighs: what moves on a rail is a slide.
    for part in _objects(content, "kit"):
        for mount in _objects(part, "mounts"):
            name = str(mount.get("name", ""))
            if part.get("category") == "gimbal part" and name.endswith(" scale"):
                mount["name"] = f"{name.removesuffix(' scale')} slide"


def _to_8(_content: Content) -> None:
    """Parts may say of which kind they are, and the book has kinds of its own: older books have neither."""


#: By the format that a step begins with.
STEPS: dict[int, Callable[[Content], None]] = {1: _to_2, 2: _to_3, 3: _to_4, 4: _to_5, 5: _to_6, 6: _to_7, 7: _to_8}


def brought_up(content: Content, to: int) -> None:
    """Change `content` step by step to format `to`; it says itself which format it is of."""
    for version in range(int(content["version"]), to):
        STEPS[version](content)
        content["version"] = version + 1


def _objects(content: Content, key: str) -> list[Content]:
    things = content.get(key)
    return [thing for thing in things if isinstance(thing, dict)] if isinstance(things, list) else []


# Fields that nobody knows


def unknown_fields(content: object, kind: type) -> Counter[tuple[str, str]]:
    """Return how often `content`, raw JSON of a `kind`, names fields that the kind does not have.

    Keys are the word for the thing, such as "Part", and the field's name.
    """
    found: Counter[tuple[str, str]] = Counter()
    _look(content, kind, found)
    return found


def _look(content: object, kind: type, found: Counter[tuple[str, str]]) -> None:
    if not isinstance(content, dict):
        return
    if kind is Settings:
        if content.get("kind") not in KEYS:
            return
        kind = type(usual_settings(content["kind"]))
    fields = _fields(kind)
    for name, value in content.items():
        if name not in fields:
            found[kind.__name__.strip("_"), name] += 1
        elif (inner := fields[name]) is not None:
            for one in value if isinstance(value, list) else (value,):
                _look(one, inner, found)


@cache
def _fields(kind: type) -> dict[str, type | None]:
    """Return the struct or Settings that each field of `kind` holds, one or many of, None where it holds none."""
    hints = typing.get_type_hints(kind)
    return {field.encode_name: _struct_in(hints[field.name]) for field in msgspec.structs.fields(kind)}


def _struct_in(hint: object) -> type | None:
    if isinstance(hint, type) and (issubclass(hint, Struct) or hint is Settings):
        return hint
    if typing.get_origin(hint) in (tuple, list, typing.Union, types.UnionType):
        return next((found for one in typing.get_args(hint) if (found := _struct_in(one)) is not None), None)
    return None
