"""What the published format says a field is when a file leaves it out, and from where to where it goes, is what it is.

`docs/equilix-book.schema.json` is what other programs read books by (JSON Schema 2020-12): a default that changes in
the code alone would change what every file means that was ever written without that field.
"""

from __future__ import annotations

import json
import re
import unittest
from pathlib import Path
from typing import Any

import msgspec
from msgspec.structs import fields, replace

from equilix.core import limits, sets
from equilix.core.assembly import build as builds
from equilix.core.errors import AssemblyError
from equilix.core.keys import KEYS
from equilix.core.kit import parts, records
from equilix.core.registry import support_for

SCHEMA: dict[str, Any] = json.loads(
    (Path(__file__).parents[2] / "docs" / "equilix-book.schema.json").read_text(encoding="utf-8")
)["$defs"]
SETTINGS = {type(support_for(key).usual).__name__: type(support_for(key).usual) for key in KEYS}


def classes() -> dict[str, Any]:
    """Return every struct of the core that a book holds, by its name."""
    found: dict[str, Any] = dict(SETTINGS)
    for name, schema in SCHEMA.items():
        for module in (builds, sets, parts, records):
            if "properties" in schema and hasattr(module, name):
                found[name] = getattr(module, name)
    return found


def numbers(schema: dict[str, Any]) -> dict[str, Any]:
    """Return the part of a field's schema that speaks of numbers, {} without any."""
    options = schema.get("anyOf", [schema])
    return next((one for one in options if one.get("type") in ("number", "integer")), {})


class Counts(unittest.TestCase):
    def test_as_many_as_the_page_says(self) -> None:
        page = (Path(__file__).parents[2] / "docs" / "format.md").read_text(encoding="utf-8")
        for words, most in (
            (r"at most ([\d,]+) things of one kind", limits.MAX_THINGS),
            (r"a build at most ([\d,]+) parts", limits.MAX_PLACED),
            (r"a part at most ([\d,]+) mounts", limits.MAX_ON_PART),
            (r"at most ([\d,]+) printable characters", limits.MAX_NAME),
            (r"notes at most ([\d,]+)", limits.MAX_TEXT),
        ):
            self.assertEqual(int(re.search(words, page).group(1).replace(",", "")), most)


class Published(unittest.TestCase):
    def test_what_is_left_out_is_what_the_format_says(self) -> None:
        seen = 0
        for name, kind in classes().items():
            published = SCHEMA[name]["properties"]
            self.assertLessEqual({field.encode_name for field in fields(kind)}, set(published))
            for field in fields(kind):
                if "default" not in published[field.encode_name]:
                    continue
                default = field.default if field.default is not msgspec.NODEFAULT else field.default_factory()
                self.assertEqual(
                    json.loads(msgspec.json.encode(default)),
                    published[field.encode_name]["default"],
                    (name, field.name),
                )
                seen += 1
        self.assertGreater(seen, 150)

    def test_numbers_go_as_far_as_the_format_says_and_no_farther(self) -> None:
        """At both ends, inclusive; a millionth beyond is refused with the field's own sentence."""
        seen = 0
        things = [support_for(key).usual for key in KEYS]
        things.append(parts.Part("p", "Part", parts.Category.BODY))
        things += [builds.Hold(), builds.Take(60.0, 60.0), builds.Operator("o", "O")]
        for thing in things:
            for name, schema in SCHEMA[type(thing).__name__]["properties"].items():
                bound = numbers(schema)
                if "minimum" not in bound:
                    continue
                seen += 1
                for end, way in ((bound["minimum"], -1.0), (bound["maximum"], 1.0)):
                    beyond = end + way * 1e-6 * max(abs(end), 1.0)
                    with self.assertRaisesRegex(AssemblyError, "must be from", msg=(type(thing).__name__, name, end)):
                        replace(thing, **{name: beyond})
                    try:
                        replace(thing, **{name: end})
                    except AssemblyError as error:
                        # Another field may then be in its way, as a plate that stands beyond a travel of nothing.
                        self.assertNotRegex(str(error), f"from .* to .*got {end:g}", (type(thing).__name__, name))
        self.assertGreater(seen, 70)


if __name__ == "__main__":
    unittest.main()
