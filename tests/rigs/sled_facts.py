"""Rigs and helpers for tests of sled facts."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.chosen import with_settings
from equilix.core.statics.sled import fastest_drop
from equilix.supports.vest import mechanics as vest
from tests.rigs.sleds import SOMEBODY


def found_on(analysis: Analysis, **changed: Any) -> dict[str, tuple[float, float | None]]:
    """Return amount and limit of each finding with other settings."""
    settings = replace(vest.SUPPORT.settings(analysis.build), **changed)
    again = analyse(with_settings(analysis.build, settings), analysis.assembly.kit, SOMEBODY)
    return {finding.kind: (finding.amount, finding.limit) for finding in again.findings}


def sled_fastest(sled: object) -> float:
    return fastest_drop(sled.mass, sled.swing)  # type: ignore[attr-defined]
