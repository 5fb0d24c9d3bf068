"""Reads what a build says of its supports: a group of fields each, told apart by `kind`."""

from __future__ import annotations

from typing import Any

import msgspec

from equilix.core.assembly.build import Settings
from equilix.core.errors import FormatError
from equilix.core.keys import KEYS
from equilix.core.registry import usual_settings


def settings_from(kind: type, thing: Any) -> Any:
    """Return the settings in `thing`, raw JSON; a decoder asks for them where a field is of that `kind`.

    Raises
    ------
    ValueError
        If they are none, so that the decoder adds where they stand.
    AssemblyError
        If a value is out of its bounds.
    """
    if kind is not Settings:
        raise NotImplementedError(kind)
    key = thing.get("kind") if isinstance(thing, dict) else None
    if key not in KEYS:
        raise ValueError(f"Invalid enum value {key!r}")
    try:
        return msgspec.convert(thing, type(usual_settings(key)))
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None


def one_path(error: msgspec.ValidationError) -> tuple[str, str]:
    """Return a decoder's complaint and the path it is about, the path within settings behind the path to them."""
    text, *paths = str(error).split(" - at `$")
    return text, "".join(path.rstrip("`") for path in reversed(paths))


def check_known_supports(content: dict[str, Any], name: str) -> None:
    """Raise FormatError if a book's raw `content` speaks of a support that this version has not."""
    builds = content.get("builds")
    for build in builds if isinstance(builds, list) else ():
        if not isinstance(build, dict):
            continue
        said = build.get("supports")
        keys = (
            [build.get("support"), *(s.get("kind") for s in said if isinstance(s, dict))]
            if isinstance(said, list)
            else [build.get("support")]
        )
        for key in keys:
            if isinstance(key, str) and key not in KEYS:
                raise FormatError(
                    f"{name}: build “{str(build.get('name'))[:60]}” uses the support “{key[:30]}”, not known here. "
                    "Update Equilix. The file is unchanged."
                )
