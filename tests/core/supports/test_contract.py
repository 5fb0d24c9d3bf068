"""The contract of a support, walked for every one that ships; see `contract`."""

from __future__ import annotations

from tests.campaigns import campaign
from tests.core.supports import contract


@campaign
class Contract(contract.Contract):
    """All that every support promises."""


class HandsLine(contract.HandsLine):
    """The line through both hands."""
