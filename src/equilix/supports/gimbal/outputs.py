"""The outputs of a gimbal alone: where the CG of each stage lies from its axis, and what its motor must give for it."""

from __future__ import annotations

import math
from functools import partial

import numpy as np

from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.records import Output, Threshold
from equilix.core.statics.stages import BESIDE, LEAN, NUMBER, STAGES
from equilix.core.uncertainty.output_model import CG_AHEAD, OutputModel, Samples
from equilix.core.units import Kind
from equilix.supports.gimbal.settings import GimbalSettings
from equilix.supports.gimbal.stages import GimbalCase

#: What each output is of: a stage's number, and the rig axis along which its CG is told; None for the peak.
_OF: dict[str, tuple[int, str | None]] = {
    "tilt, CG above its axis": (0, "z"),
    "roll, CG left of its axis": (1, "y"),
    "roll, CG above its axis": (1, "z"),
    "pan, CG forward of its axis": (2, "x"),
    "pan, CG left of its axis": (2, "y"),
    "tilt motor, worst": (0, None),
    "roll motor, worst": (1, None),
    "pan motor, worst": (2, None),
}


def _value(name: str, outputs: OutputModel, samples: Samples) -> np.ndarray:
    number, beside = _OF[name]
    case: GimbalCase = outputs.case
    stages = case.result.stages
    k = next((k for k, stage in enumerate(stages) if stage.name == STAGES[number]), None)
    if k is None:
        return np.full(len(samples.mass), np.nan)
    off = samples.stages[:, k, 1:] + stages[k].more - stages[k].point
    if beside is not None:
        result: np.ndarray = off[:, NUMBER[beside]]
        return result
    a, b = (off[:, NUMBER[one]] for one in BESIDE[STAGES[number]])
    share = math.sin(LEAN) if STAGES[number] == "pan" else 1.0
    peak: np.ndarray = samples.stages[:, k, 0] * STANDARD_GRAVITY * np.hypot(a, b) * share
    return peak


def on_axis(_: GimbalSettings) -> tuple[Threshold, ...]:
    """Return where an offset says that a CG is on its axis."""
    return (Threshold(0.0, "on its axis"),)


def _offset(name: str, key: str) -> Output:
    return Output(name, Kind.LENGTH, partial(_value, name), key, signed=True, limits=on_axis)


def _peak(stage: str) -> Output:
    def limits(settings: GimbalSettings) -> tuple[Threshold, ...]:
        return (Threshold(settings.window(stage), "window"), Threshold(settings.rated(stage), "rating"))

    name = f"{stage} motor, worst"
    return Output(name, Kind.MOMENT, partial(_value, name), f"{stage}_torque_peak_nm", limits=limits)


TILT_Z = _offset("tilt, CG above its axis", "tilt_offset_z_mm")
ROLL_Y = _offset("roll, CG left of its axis", "roll_offset_y_mm")
ROLL_Z = _offset("roll, CG above its axis", "roll_offset_z_mm")
PAN_X = _offset("pan, CG forward of its axis", "pan_offset_x_mm")
PAN_Y = _offset("pan, CG left of its axis", "pan_offset_y_mm")
TILT_PEAK, ROLL_PEAK, PAN_PEAK = (_peak(stage) for stage in STAGES)
PAYLOAD = Output(
    "turns on the tilt axis", Kind.MASS, lambda outputs, samples: outputs.load(samples)[0], "tilt_stage_kg"
)
#: The output of each form of the target, and of each stage's peak.
OUTPUT_OF: dict[tuple[str, str], str] = {("tilt", "x"): CG_AHEAD}
OUTPUT_OF |= {(STAGES[k], beside or ""): name for name, (k, beside) in _OF.items()}
