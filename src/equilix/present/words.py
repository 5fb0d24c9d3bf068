"""Words that several rooms say alike: names of parts, mounts and joints, minutes, how many times, bare numbers."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit
from equilix.core.assembly.mounts import FreeMount
from equilix.core.kit.parts import Category, MountKind
from equilix.core.operator.strength import BodyJoint
from equilix.core.support import case_of
from equilix.core.units import Kind
from equilix.present.units import System, figure, number

#: s: nobody was watched holding a light load for longer.
MOST_SAID = 1800.0
JOINT_NAMES = {
    BodyJoint.NECK: ("Neck", "neck", False),
    BodyJoint.SHOULDER: ("Shoulders", "shoulders", True),
    BodyJoint.ELBOW: ("Elbows", "elbows", True),
    BodyJoint.WRIST: ("Wrists", "wrists", True),
    BodyJoint.HAND: ("Grip", "grip", False),
    BodyJoint.LOW_BACK: ("Low back", "low back", False),
    BodyJoint.HIP: ("Hips", "hips", True),
}


class Slider(Struct, frozen=True, eq=False):
    """What is said to move on a slide: its `name`, the `low` end (m) that marks count from, and `along` (3,), the way
    in which it goes, in the rig's frame, as the setting grows."""

    name: str
    low: float
    along: np.ndarray

    def way(self, by: float) -> str:
        """Return which way it goes when the setting grows by `by` (m): "back"."""
        k = int(np.abs(self.along).argmax())
        forth, back = (("forward", "back"), ("left", "right"), ("up", "down"))[k]
        return forth if by * float(self.along[k]) > 0.0 else back

    @property
    def zero(self) -> str:
        """Return at which end of its way it stands at mark 0: "rear end"."""
        k = int(np.abs(self.along).argmax())
        low, high = (("rear", "front"), ("right", "left"), ("lower", "upper"))[k]
        return f"{low if float(self.along[k]) > 0.0 else high} end"


class Move(Struct, frozen=True):
    """How far something slides, in words: "camera plate" "back" "87 mm", since mark `since` up to mark `to`."""

    what: str
    way: str
    far: str
    since: str
    to: str
    within: str = ""

    @property
    def short(self) -> str:
        """What goes which way, how far."""
        return f"{self.what} {self.way} {self.far}{self.within}"

    @property
    def says(self) -> str:
        """It with its mark: "camera plate back 87 mm to mark 15 mm"."""
        return f"{self.short} to mark {self.to}"


def slider_of(analysis: Analysis, placed_id: str) -> Slider:
    """Return what moves on the slide of a placed part: a gimbal's slide, by its own name, else that part.

    A gimbal's is read by what sits on it: where the part carries what it sits on, that goes the other way. Where a part
    of the support stays still, hands move the other side of the slide.
    """
    build, assembly = analysis.build, analysis.assembly
    i = next(k for k, one in enumerate(build.parts) if one.id == placed_id)
    j = assembly.slide_parts.index(i)
    mount, axis = assembly.slide_mounts[j], assembly.slide_axes[j]
    case = case_of(analysis)
    still = analysis.support.still(case) if case is not None else None
    turned = still is not None and bool(assembly.carries(j, still))
    placed = build.parts[i]
    owner = placed if placed.reversed else build.placed(placed.parent or "")
    if mount.name and assembly.kit[owner.part_id].category is Category.GIMBAL:
        away = turned if still is not None else placed.reversed
        return Slider(mount.name, mount.low, -axis if away else axis)
    if turned:
        parent = [one.id for one in build.parts].index(placed.parent or "")
        return Slider(short_name(assembly.parts[parent].name), mount.low, -axis)
    return Slider(short_name(assembly.parts[i].name), mount.low, axis)


def minutes(seconds: float) -> str:
    """Return a time as people say it: whole minutes, tens of seconds below two minutes."""
    if seconds < 115.0:
        return f"{max(round(seconds / 10.0), 1) * 10} s"
    return f"{round(seconds / 60.0)} min" if seconds < 5400.0 else f"{seconds / 3600.0:.1f} h"


def times(ratio: float) -> str:
    """Return a ratio as it is said: × 6.6, × 1.04."""
    return f"× {number(ratio, 2 if ratio < 1.95 else 1 if ratio < 9.95 else 0)}"


def mount_name(free: FreeMount, build: Build, kit: Kit) -> str:
    """Return a mount's place in words: "rods of Rear rods 15 mm"."""
    part = kit[build.placed(free.placed_id).part_id]
    if free.mount.kind is MountKind.LIGHT_RODS:
        return part.name
    return f"{part.name}, {free.mount.name or free.mount.id}"


def number_mm(value: float, system: System) -> str:
    """Return a length with its sign and without its unit."""
    return figure(value, Kind.LENGTH, system, sign=True, unit=False)


def short_name(name: str) -> str:
    """Return a part's name up to its first comma, as said inside a sentence."""
    return mid_sentence(name.split(",")[0])


def added_text(mass: float, system: System) -> str:
    """Return an added mass with its sign, in grams or pounds."""
    if system is System.METRIC:
        text = number(mass * 1000.0, 0, sign=True)
        return f"{text if text.startswith(('+', '−')) else '+' + text} g"
    return figure(mass, Kind.MASS, system, sign=True)


def share_text(share: float) -> str:
    """Return a share of the draws in per cent, never a bare 0 or 100 that sampling can't prove."""
    from equilix.core.uncertainty.montecarlo import SAMPLES

    least = 1.0 / SAMPLES
    if share < least:
        return "none"
    if share > 1.0 - least:
        return "all"
    return f"{100.0 * share:.1f} %" if 0.001 < share < 0.999 else f"{100.0 * share:.2f} %"


def mid_sentence(name: str) -> str:
    """Return a part's name as inside a sentence: "V-lock" and "L bracket" stay, "Matte box" becomes "matte box"."""
    keeps = len(name) > 1 and not name[1].islower() and not name.startswith("A ")
    return name if keeps else name[:1].lower() + name[1:]


def capitalised(words: str) -> str:
    """Return words with a capital at the front."""
    return words[:1].upper() + words[1:]
