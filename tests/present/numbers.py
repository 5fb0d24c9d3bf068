"""Numbers in what is said."""

from __future__ import annotations

import re


def number(text: str) -> float:
    """Return the first number in a text."""
    found = re.search(r"[+−-]?\d[\d\u2009 ]*\.?\d*", text)
    assert found is not None, text
    return float(found.group().replace("−", "-").replace("\u2009", "").replace(" ", ""))
