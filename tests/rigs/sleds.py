"""Sleds for tests: boxes off the middle every way, and the same as a model of a reference library."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace
from scipy.special import ellipk

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Operator, Placed
from equilix.core.chosen import with_settings
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Connection, Foot, HowKnown, Mount, MountKind, Outline, Part
from equilix.core.statics.sled import (
    Sled,
)
from equilix.io.shipped import demo_book
from equilix.supports.vest.mechanics import SUPPORT
from equilix.supports.vest.settings import Timed, VestSettings
from tests.rigs.results import vest_result

SOMEBODY = Operator("s", "Somebody", 1.75, 75.0)
BOOK = demo_book()
X, Y, Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)


def random_sled(seed: int, settings: VestSettings | None = None, reach: float = 0.08) -> tuple[Build, dict[str, Part]]:
    """Return a sled of boxes that are off the middle every way: a post, a stage of two slides, a bearing, a base with
    a battery and a screen on slides of both ways."""
    rng = np.random.default_rng(seed)

    def off(size: float) -> tuple[float, float, float]:
        a, b, c = (float(v) for v in rng.uniform(-size, size, 3))
        return (a, b, c)

    def slide(
        name: str, axis: tuple[float, float, float], at: tuple[float, float, float], half: float = reach
    ) -> Mount:
        return Mount(name, MountKind.DOVETAIL, at, Connection.SLIDE, axis, -half, half, name=name)

    def box(
        key: str, category: Category, kg: float, size: tuple[float, float, float], *mounts: Mount, root: bool = False
    ) -> Part:
        feet = () if root else (Foot(MountKind.DOVETAIL, off(0.01)),)
        mass = kg * float(rng.uniform(0.8, 1.25))
        return Part(
            key, key, category, mass, HowKnown.SHEET, Outline(size, off(0.01)), off(0.012), HowKnown.SHEET, mounts, feet
        )

    nose = Mount("nose", MountKind.LENS_MOUNT, (0.09, 0.0, 0.0))
    parts = [
        box(
            "post",
            Category.SLED,
            0.5,
            (0.04, 0.04, 0.5),
            slide("bearing", Z, (0.0, 0.0, 0.02), 0.2),
            slide("top", Y, (0.0, 0.0, 0.26)),
            slide("low", Y, (0.0, 0.0, -0.45)),
            root=True,
        ),
        box("bearing", Category.BEARING, 0.3, (0.07, 0.07, 0.05), Mount("hold", MountKind.BEARING, (0.0, 0.0, 0.0))),
        box("cross", Category.SLED, 0.2, (0.1, 0.09, 0.015), slide("along", X, (0.0, 0.0, 0.01))),
        box("camera", Category.BODY, 2.4, (0.16, 0.1, 0.12), nose),
        box(
            "base",
            Category.SLED,
            0.4,
            (0.26, 0.06, 0.02),
            slide("rear", X, (-0.09, 0.0, 0.0)),
            slide("front", X, (0.12, 0.0, 0.0)),
        ),
        box("battery", Category.BATTERY, 0.9, (0.06, 0.1, 0.14)),
        box("screen", Category.MONITOR, 0.4, (0.03, 0.15, 0.1)),
    ]
    glass = box("glass", Category.LENS, 0.9, (0.12, 0.09, 0.09), root=True)
    parts.append(replace(glass, feet=(Foot(MountKind.LENS_MOUNT, (-0.06, 0.0, 0.0)),)))
    placed = (
        Placed("post", "post"),
        Placed("bearing", "bearing", "post", "bearing", 0, float(rng.uniform(-0.05, 0.1))),
        Placed("cross", "cross", "post", "top", 0, float(rng.uniform(-0.02, 0.02))),
        Placed("camera", "camera", "cross", "along", 0, float(rng.uniform(-0.05, 0.05))),
        Placed("glass", "glass", "camera", "nose"),
        Placed("base", "base", "post", "low", 0, float(rng.uniform(-0.02, 0.02))),
        Placed("battery", "battery", "base", "rear", 0, float(rng.uniform(-0.03, 0.03))),
        Placed("screen", "screen", "base", "front", 0, float(rng.uniform(-0.03, 0.03))),
    )
    build = Build("v", "Sled", placed, "vest")
    kit = {part.id: part for part in parts}
    return (with_settings(build, settings) if settings is not None else build), kit


def hanging(seed: int) -> tuple[Analysis, Sled]:
    """Return a random sled with its bearing brought up until it hangs."""
    build, kit = random_sled(seed)
    analysis = analyse(build, kit, SOMEBODY)
    sled = vest_result(analysis).sled
    up = 0.02 + 0.002 * seed - sled.below
    bearing = build.placed("bearing")
    analysis = analyse(build.with_placed(replace(bearing, setting=bearing.setting + up * 1.3)), kit, SOMEBODY)
    return analysis, vest_result(analysis).sled


def body_xml(analysis: Analysis, joints: str) -> str:
    """Return a MuJoCo model of all parts as they are, on `joints` at the bearing."""
    at = vest_result(analysis).bearing.point
    text = ""
    for i in range(len(analysis.assembly.parts)):
        c, m, inertia = analysis.positions.cg[i] - at, analysis.assembly.mass[i], analysis.assembly.inertia[i]
        six = [inertia[a, b] for a, b in ((0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2))]
        own = f'<inertial pos="0 0 0" mass="{m}" fullinertia="{" ".join(map(str, six))}"/>'
        text += f'<body pos="{c[0]} {c[1]} {c[2]}">{own}</body>'
    return (
        f'<mujoco><option gravity="0 0 -{STANDARD_GRAVITY}" timestep="0.0005" integrator="RK4"/>'
        f'<compiler balanceinertia="false"/><worldbody>{joints.replace("BODY", text)}</worldbody></mujoco>'
    )


def hinges(*axes: str) -> str:
    """Return nested bodies, each on one hinge, the last with the parts; massless ones get next to nothing."""
    tiny = '<inertial pos="0 0 0" mass="1e-9" diaginertia="1e-12 1e-12 1e-12"/>'
    text = "BODY"
    for axis in reversed(axes):
        text = f'<body><joint type="hinge" axis="{axis}"/>{tiny}{text}</body>'
    return text


def left_of(analysis: Analysis) -> tuple[float, float, float, float, float | None]:
    """Return what is left (m, m, kg m2, kg m2, s), computed from the parts alone."""
    at = vest_result(analysis).bearing.point
    d = analysis.positions.cg - at
    m = analysis.assembly.mass
    own = analysis.assembly.inertia.sum(axis=0)
    c = m @ d / m.sum()
    swing = own[1, 1] + float(m @ (d[:, 0] ** 2 + d[:, 2] ** 2))
    lever = math.hypot(c[0], c[2])
    time = None if c[2] >= 0.0 else float(ellipk(0.5)) * math.sqrt(swing / (m.sum() * STANDARD_GRAVITY * lever))
    xz, yz = own[0, 2] - m @ (d[:, 0] * d[:, 2]), own[1, 2] - m @ (d[:, 1] * d[:, 2])
    return float(c[0]), float(c[1]), float(xz), float(yz), time


def with_lesson(build: Build, timed: Timed | None) -> Build:
    """Return a build of which that was timed."""
    return with_settings(build, replace(SUPPORT.settings(build), timed=timed))
