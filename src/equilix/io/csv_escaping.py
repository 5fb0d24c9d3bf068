"""Texts in tables that leave the program: no spreadsheet takes them for formulas, and they come back as they were."""

from __future__ import annotations

import unicodedata

#: Signs with which a spreadsheet takes a text for a formula.
_DANGEROUS = ("=", "+", "-", "@")


def looks_dangerous(text: str) -> bool:
    """Whether a spreadsheet might take a text for a formula, also behind spaces and in full-width or minus signs."""
    bare = text.lstrip(" \t\r\n\u00a0\u3000\ufeff")
    first = unicodedata.normalize("NFKC", bare[:1])[:1].replace("−", "-")
    # An apostrophe at the front is the guard itself; a text's own one needs another to come back.
    return first.startswith(_DANGEROUS) or text[:1] in ("\t", "\r", "'")


def escaped(value: str | float | None) -> str | float | None:
    """Return a cell that is no formula: a text that looks like one gets an apostrophe, as spreadsheets mark text."""
    return f"'{value}" if isinstance(value, str) and looks_dangerous(value) else value


def unescaped(text: str) -> str:
    """Return a text as it was before `harmless`."""
    return text[1:] if text.startswith("'") and looks_dangerous(text[1:]) else text
