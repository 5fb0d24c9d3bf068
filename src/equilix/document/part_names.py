"""What the name of a part says: its kind, its length, whether it is one or a pair."""

from __future__ import annotations

import re

from equilix.core.kit.parts import Category


def is_single(words: str) -> bool:
    """Whether a name speaks of one rod and not of a pair."""
    return re.search(r"\b(single|one|centre|center|middle)\b", words) is not None


def named_length(words: str) -> float | None:
    """Return the length (mm) that a rod's name speaks of: "rods 15 mm, 8 in" are 8 in long and 15 mm thick."""
    found = [float(value.replace(",", ".")) * _NAMED[unit] for value, unit in _LENGTH.findall(words)]
    return next((long for long in found if _SHORTEST_ROD <= long <= _LONGEST_ROD), None)


_NAME_WORDS: tuple[tuple[Category, tuple[str, ...]], ...] = (
    # The bearing of a sled is called its gimbal too.
    (Category.BEARING, ("bearing",)),
    (
        Category.GIMBAL,
        ("gimbal", "pan arm", "roll arm", "tilt arm", "pan motor", "roll motor", "tilt motor", "tilt rail"),
    ),
    (Category.SLED, ("stage", "post")),
    (Category.BATTERY_PLATE, ("battery plate", "v-lock plate", "v-plate", "vplate")),
    (Category.LENS_SUPPORT, ("lens support",)),
    (Category.MATTE_BOX, ("matte", "hood", "sunshade")),
    (Category.OTHER, ("camera light", "led light", "light panel")),
    (Category.AUDIO, ("xlr",)),
    # What goes between a lens and its camera.
    (Category.ADAPTER, ("adapter", "reducer", "teleconverter", "extender", "extension tube")),
    (Category.FOCUS, ("focus", "motor", "demand")),
    (Category.PAD, ("pad", "shoulder rest")),
    (Category.CLAMP, ("rosette", "clamp")),
    (Category.RODS, ("rod",)),
    (Category.CAGE, ("cage",)),
    (Category.PLATE, ("plate", "dovetail")),
    (Category.GRIP, ("handgrip", "hand grip", "grip")),
    (Category.HANDLE, ("handle",)),
    (Category.ARM, ("arm", "bracket", "tilt mount")),
    (Category.MONITOR, ("monitor", "viewfinder", "screen", "finder", "evf", "eyepiece")),
    (Category.WEIGHT, ("weight", "counterbalance", "counter balance", "ballast", "sandbag")),
    (Category.BATTERY, ("battery", "power bank")),
    (Category.SENDER, ("sender", "transmitter", "wireless")),
    (Category.AUDIO, ("mic", "audio", "timecode", "recorder", "receiver", "shotgun", "lavalier")),
    (Category.CABLE, ("cable",)),
    (
        Category.LENS,
        ("lens", "zoom", "prime", "mm f", "anamorphic", "telephoto", "wide-angle", "wide angle", "fisheye", "macro"),
    ),
    (Category.BODY, ("body", "camera", "camcorder", "mirrorless", "dslr")),
    # Whose a part is says least: a sled's monitor is a monitor.
    (Category.SLED, ("sled", "base")),
)


#: mm: shorter than this a figure in a rod's name is its thickness, longer is none; common practice.
_SHORTEST_ROD, _LONGEST_ROD = 50.0, 1000.0


_NAMED = {"mm": 1.0, "cm": 10.0, "in": 25.4, "inch": 25.4, "inches": 25.4, '"': 25.4, "″": 25.4}


_LENGTH = re.compile(r"(\d+(?:[.,]\d+)?)\s*(mm|cm|inches|inch|in\b|\"|″)")


#: Handles that are held at the side, and not on top.
_SIDE_HANDLE = re.compile(r"\b(left|right|side|pair|handles|front|lower|rubber|rosette)\b")


#: Focal lengths and apertures that are a name by themselves: "24-70", "50 mm f1.4"; "15 mm" alone may be rods.
_FOCAL = re.compile(r"\s*(?!1[59]\s*mm\s*$)\d{1,3}(\s*[-–]\s*\d{2,3})?\s*(mm)?(\s*[ft]\s*/?\s*\d+([.,]\d+)?)?\s*")


#: What follows these says where a part goes or what it serves, not what it is: "handles on rods".
_AFTERWARDS = re.compile(r"\s(?:on|for|with|under)\s")


def guess_category(name: str) -> Category:
    """Return the category that a part's name speaks of, OTHER if it says nothing."""
    words = name.casefold()
    first, *rest = _AFTERWARDS.split(words, maxsplit=1)
    found = _kind_in(first)
    return found if found is not Category.OTHER or not rest else _kind_in(rest[0])


def _kind_in(words: str) -> Category:
    if "handle" in words and "top" not in words and _SIDE_HANDLE.search(words):
        return Category.GRIP
    named = next((category for category, keys in _NAME_WORDS if any(key in words for key in keys)), None)
    if named is None:
        return Category.LENS if _FOCAL.fullmatch(words) and not words.strip().isdigit() else Category.OTHER
    return named
