"""What somebody would rather have of a rig, where several ways do the same."""

from __future__ import annotations

from enum import StrEnum


class Wish(StrEnum):
    NONE = "least work"
    NO_MASS = "no added mass"
    STEADY = "steadiness"
    LIGHTER = "lightness"
