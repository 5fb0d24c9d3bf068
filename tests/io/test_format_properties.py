"""Damaged books: every one is opened whole or refused in a sentence."""

from __future__ import annotations

import json
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from equilix.core.analyse import analyse
from equilix.core.errors import FormatError
from equilix.io.format import decode_book, encode_book
from equilix.io.shipped import demo_book
from tests.campaigns import campaign

CONTENT = encode_book(demo_book())
SCALARS = st.one_of(
    st.none(), st.booleans(), st.integers(-5, 5), st.floats(-1e3, 1e3), st.text(max_size=5), st.just([])
)


def places(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Return the paths of all values in a JSON document."""
    found = [path] if path else []
    if isinstance(value, dict):
        for key, inner in value.items():
            found += places(inner, (*path, key))
    elif isinstance(value, list):
        for index, inner in enumerate(value):
            found += places(inner, (*path, index))
    return found


PLACES = places(json.loads(CONTENT))


@campaign
class Damage(unittest.TestCase):
    def opens_or_refuses(self, data: bytes) -> None:
        try:
            book = decode_book(data, "book.equilix")
        except FormatError as error:
            text = str(error)
            self.assertTrue(text.startswith("book.equilix"), text)
            self.assertNotIn("Traceback", text)
            self.assertNotIn("\n", text)
            return
        # What opens is whole: every build can be worked out, and it saves as it is.
        for build in book.builds:
            analyse(build, book.parts, book.operators[0])
        self.assertEqual(decode_book(encode_book(book), "again"), book)

    @settings(max_examples=150, deadline=None)
    @given(st.integers(0, len(CONTENT) - 1), st.binary(max_size=6), st.integers(0, 6))
    def test_bytes_changed_anywhere(self, at: int, put: bytes, cut: int) -> None:
        self.opens_or_refuses(CONTENT[:at] + put + CONTENT[at + cut :])

    @settings(max_examples=200, deadline=None)
    @given(st.sampled_from(PLACES), SCALARS)
    def test_any_value_in_any_place(self, path: tuple[Any, ...], value: Any) -> None:
        content = json.loads(CONTENT)
        inner = content
        for step in path[:-1]:
            inner = inner[step]
        inner[path[-1]] = value
        self.opens_or_refuses(json.dumps(content).encode())

    @settings(max_examples=100, deadline=None)
    @given(st.sampled_from(PLACES))
    def test_anything_left_out(self, path: tuple[Any, ...]) -> None:
        content = json.loads(CONTENT)
        inner = content
        for step in path[:-1]:
            inner = inner[step]
        del inner[path[-1]]
        self.opens_or_refuses(json.dumps(content).encode())
