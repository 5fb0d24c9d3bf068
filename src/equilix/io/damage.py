"""Says in words of the trade what is wrong with a book's file, and where."""

from __future__ import annotations

import re
from typing import Any

import msgspec

from equilix.core.errors import AssemblyError
from equilix.core.limits import is_plain
from equilix.document.validation import LISTS
from equilix.io.format import ITEMS
from equilix.io.settings import settings_from

#: One thing in a list, and a field, where their names in the file are no words of the trade.
_ONE = LISTS | {
    "parts": "placed part",
    "mounts": "mount",
    "feet": "foot",
    "records": "record",
    "shared": "shared uncertainty",
    "takes": "take",
    "members": "part on the scale",
    "cg": "CG coordinate",
    "cg_axis_u": "uncertainty of a CG coordinate",
    "size": "edge",
    "axis": "axis coordinate",
    "at": "coordinate",
    "centre": "coordinate",
    "source": "source",
    "supports": "support",
}
_FIELD = {
    "cg": "CG",
    "cg_u": "uncertainty of the CG",
    "cg_axis_u": "uncertainty of the CG along each axis",
    "cg_known": "how the CG is known",
    "cg_travel": "travel of a zoom’s CG",
    "mass_u": "uncertainty of the mass",
    "mass_known": "how the mass is known",
    "u": "doubt",
    "at": "place",
    "low": "lowest mark",
    "high": "highest mark",
    "centre": "middle",
    "body_mass": "body mass",
    "part_id": "part of the kit",
    "parent": "the part it sits on",
    "builds": "the builds",
    "kit": "the kit",
    "operators": "the operators",
    "instruments": "the scales",
    "measurements": "the weighings",
    "sets": "the sets",
}
_TYPE = {
    "float": "a number",
    "int": "a whole number",
    "str": "text",
    "bool": "true or false",
    "array": "a list",
    "object": "a group of fields",
    "null": "nothing",
}


def explained(data: bytes, error: Exception) -> str:
    """Return one sentence on why the book in `data`, which is good JSON, can't be taken: where, what, what to do."""
    if isinstance(error, RecursionError):
        return "it is nested too deeply for a book. Use an earlier copy."
    content = _content(data)
    if isinstance(error, AssemblyError):
        return _found_in(content, str(error))
    text, _, path = str(error).partition(" - at `")
    return f"{_place(path.rstrip('`'), content)} {_wrong(text)}. Correct it there, or open the readable part."


def _content(data: bytes) -> dict[str, Any]:
    try:
        content = msgspec.json.decode(data)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return {}
    return content if isinstance(content, dict) else {}


def _found_in(content: dict[str, Any], words: str) -> str:
    """Return the complaint of one thing in the book, with which one it is."""
    for key, kind in ITEMS.items():
        things = content.get(key)
        for number, thing in enumerate(things if isinstance(things, list) else (), 1):
            try:
                msgspec.convert(thing, kind, dec_hook=settings_from)
            except AssemblyError as error:
                # A part says its own name first.
                complaint = re.sub(r"^Part (['\"]).*?\1: ", "", str(error))
                return _sentence(f"{LISTS[key]} {number}{_called(thing)}: {complaint}")
            except msgspec.ValidationError:
                continue
    return _sentence(words)


def _sentence(text: str) -> str:
    return f"{text.rstrip('.')}. Correct it there, or open the readable part."


def _place(path: str, content: dict[str, Any]) -> str:
    """Return a path such as `$.kit[3].outline.size` as "part 4 (“Zoom”), outline, size"."""
    words: list[str] = []
    inner: Any = content
    before = ""
    for step in re.findall(r"[A-Za-z_]\w*|\[\d+\]|\[\.\.\.\]", path.removeprefix("$")):
        if step == "[...]":
            continue
        if step.startswith("["):
            index = int(step[1:-1])
            inner = inner[index] if isinstance(inner, list) and index < len(inner) else None
            if words and words[-1] == _FIELD.get(before, before.replace("_", " ")):
                words.pop()
            words.append(f"{_ONE.get(before, before.replace('_', ' '))} {index + 1}{_called(inner)}")
        else:
            inner = inner.get(step) if isinstance(inner, dict) else None
            words.append(_FIELD.get(step, step.replace("_", " ")))
            before = step
    return ", ".join(words) or "the book"


def _called(thing: Any) -> str:
    name = thing.get("name") if isinstance(thing, dict) else None
    if not isinstance(name, str) or not name.strip():
        return ""
    plain = "".join(sign if is_plain(sign) else "?" for sign in name[:40])
    return f" (“{plain}{'…' if len(name) > 40 else ''}”)"


def _wrong(text: str) -> str:
    """Return a decoder's complaint in plain words."""
    if match := re.match(r"Object missing required field `(\w+)`", text):
        return f"has no {_FIELD.get(match[1], match[1].replace('_', ' '))}"
    if match := re.match(r"Invalid enum value (.*)", text, re.DOTALL):
        return f"is {_quoted(match[1])}, which is not known here"
    if match := re.match(r"Expected `array` of length (\d+)(?:, got (\d+))?", text):
        return f"must have {match[1]} entries" + (f", not {match[2]}" if match[2] else "")
    if match := re.match(r"Expected `(.+?)`, got `(.+?)`", text):
        wanted = " or ".join(_TYPE.get(kind.strip(), "something else") for kind in match[1].split("|"))
        return f"must be {wanted}, not {_TYPE.get(match[2], 'something else')}"
    if "out of range" in text:
        return "is a number that is too large"
    return "holds a field that does not belong there"


def _quoted(text: str) -> str:
    bare = text.strip("'\"`")
    plain = "".join(sign if is_plain(sign) else "?" for sign in bare[:40])
    return f"“{plain}{'…' if len(bare) > 40 else ''}”"
