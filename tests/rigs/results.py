"""What an analysed build is on each support, typed: it fails where the build lies on another."""

from __future__ import annotations

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Hold, Operator
from equilix.core.carry.carried import Carry, carry
from equilix.core.statics.stages import Stages
from equilix.supports.handheld.mechanics import HandheldResult
from equilix.supports.harness.mechanics import HarnessResult
from equilix.supports.shoulder.mechanics import ShoulderResult
from equilix.supports.tripod.mechanics import TripodResult
from equilix.supports.vest.hanging import VestResult


def vest_result(analysis: Analysis) -> VestResult:
    assert isinstance(analysis.result, VestResult)
    return analysis.result


def gimbal_result(analysis: Analysis) -> Stages:
    assert isinstance(analysis.result, Stages)
    return analysis.result


def tripod_result(analysis: Analysis) -> TripodResult:
    assert isinstance(analysis.result, TripodResult)
    return analysis.result


def harness_result(analysis: Analysis) -> HarnessResult:
    assert isinstance(analysis.result, HarnessResult)
    return analysis.result


def shoulder_result(analysis: Analysis) -> ShoulderResult:
    assert isinstance(analysis.result, ShoulderResult)
    return analysis.result


def handheld_result(analysis: Analysis) -> HandheldResult:
    assert isinstance(analysis.result, HandheldResult)
    return analysis.result


def carried_of(analysis: Analysis, operator: Operator, support: str, hold: Hold | None = None) -> Carry:
    """Return what a rig costs somebody who can carry it."""
    found = carry(analysis, operator, support, hold)
    assert isinstance(found, Carry)
    return found
