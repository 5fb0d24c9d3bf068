"""Small builds for tests, made without the catalogue."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from equilix.core.assembly.build import Build, Hold, Operator, Placed, check_build
from equilix.core.assembly.resolve import Assembly
from equilix.core.chosen import with_hold, with_settings
from equilix.core.errors import AssemblyError
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category, Connection, Foot, HowKnown, Mount, MountKind, Outline, Part
from equilix.core.kit.records import Point
from equilix.core.massprops.bodies import MassProperties
from equilix.core.operator.strength import BodyJoint as BodyJoint
from equilix.core.statics.hands import Contact, Hand, Held, Measure, Prop, Statics
from equilix.core.statics.pad import Shoulder
from equilix.core.statics.patches import pad_rays
from equilix.document.book import Book
from equilix.supports.shoulder.settings import ShoulderSettings

OPERATOR = Operator("op", "Operator", 1.75, 75.0)


def holds(build: Build, kit: dict[str, Part]) -> bool:
    """Return whether the build is one that may be."""
    try:
        check_build(build, kit)
    except AssemblyError:
        return False
    return True


def block(
    part_id: str,
    mass: float | None,
    size: tuple[float, float, float] = (0.1, 0.1, 0.1),
    category: Category = Category.OTHER,
    known: HowKnown = HowKnown.WEIGHED,
    mounts: tuple[Mount, ...] = (),
    kind: MountKind = MountKind.LIGHT_RODS,
    at: tuple[float, float, float] = (0.0, 0.0, 0.0),
) -> Part:
    """Return a box held by the point `at`."""
    return Part(
        part_id, part_id, category, mass, known, Outline(size), (0.0, 0.0, 0.0), known, mounts, (Foot(kind, at),)
    )


def rail(mount_id: str = "rail", half: float = 0.5, axis: tuple[float, float, float] = (1.0, 0.0, 0.0)) -> Mount:
    """Return a slide that takes rod clamps."""
    return Mount(mount_id, MountKind.LIGHT_RODS, (0.0, 0.0, 0.0), Connection.SLIDE, axis, -half, half)


def grip(part_id: str) -> Part:
    """Return a massless-like grip held by its own point."""
    hold = Mount("hand", MountKind.GRIP_POINT, (0.0, 0.0, 0.0))
    return block(part_id, 0.001, (0.02, 0.02, 0.1), Category.GRIP, mounts=(hold,))


def base(mass: float = 1.0) -> Part:
    """Return a base whose shoulder contact lies in its origin, with a rail along x and one along y."""
    mounts = (
        Mount("shoulder", MountKind.SHOULDER, (0.0, 0.0, 0.0)),
        rail(),
        rail("across", 0.5, (0.0, 1.0, 0.0)),
    )
    return block("base", mass, (0.2, 0.1, 0.02), Category.PLATE, mounts=mounts)


def shoulder_build(*blocks: tuple[Part, float]) -> tuple[Build, dict[str, Part]]:
    """Return a base with `blocks` on its rail, each at its setting, and the kit."""
    kit = {"base": base()}
    placed = [Placed("base", "base")]
    for part, setting in blocks:
        kit[part.id] = part
        placed.append(Placed(part.id, part.id, "base", "rail", 0, setting))
    return Build("b", "Test build", tuple(placed)), kit


def random_tree(rng: np.random.Generator, count: int) -> tuple[Build, dict[str, Part]]:
    """Return a build of `count` boxes on random slides, turns and fixed mounts of each other."""
    kit: dict[str, Part] = {}
    placed: list[Placed] = []
    for i in range(count):
        size = tuple(float(v) for v in rng.uniform(0.02, 0.2, 3))
        joints = (Connection.SLIDE, Connection.TURN, Connection.FIXED)
        mounts = tuple(
            Mount(
                f"m{k}",
                MountKind.LIGHT_RODS,
                tuple(float(v) for v in rng.uniform(-0.1, 0.1, 3)),  # type: ignore[arg-type]
                joints[k % 3],
                tuple(float(v) for v in rng.normal(size=3)),  # type: ignore[arg-type]
                -0.3,
                0.3,
            )
            for k in range(3)
        )
        at = tuple(float(v) for v in rng.uniform(-0.05, 0.05, 3))
        mass = float(rng.uniform(0.05, 2.0))
        kit[f"p{i}"] = block(f"p{i}", mass, size, mounts=mounts, at=at)  # type: ignore[arg-type]
        if i == 0:
            placed.append(Placed("p0", "p0", quarter_turns=int(rng.integers(4))))
            continue
        # Fixed and turning mounts take one part only: go through the parents in turn.
        parent, mount = (i - 1) // 3, f"m{(i - 1) % 3}"
        setting = float(rng.uniform(-0.3, 0.3))
        placed.append(Placed(f"p{i}", f"p{i}", f"p{parent}", mount, 0, setting, int(rng.integers(4))))
    return Build("random", "Random", tuple(placed)), kit


def all_free_slides(assembly: Assembly) -> frozenset[str]:
    """Return the placed ids of all parts that can slide."""
    return frozenset(
        assembly.build.parts[i].id
        for i, mount in zip(assembly.slide_parts, assembly.slide_mounts, strict=True)
        if mount.high > mount.low
    )


def left_over(mass: float, cg: np.ndarray, pad: np.ndarray | None, held: Held) -> np.ndarray:
    """Return what is left (6,) of force (N) and of moment about the CG (N m) of all that holds a rig: zero at rest."""
    given = [(hand.point, hand.force, hand.couple) for hand in held.hands]
    if pad is not None:
        given.append((pad, held.pad_force, held.pad_moment))
    given += [(push.point, push.force, push.moment) for push in held.braced]
    force = np.array([0.0, 0.0, -mass * STANDARD_GRAVITY])
    moment = np.zeros(3)
    for point, push, couple in given:
        force = force + push
        moment = moment + couple + np.cross(point - cg, push)
    return np.concatenate([force, moment])


#: What a plain hand readily gives: force (N) and couple (N m) along x, y, z; 0 rules one out.
PLAIN = (20.0, 20.0, 100.0, 1.0, 1.0, 1.0)


def hold(
    mass: float,
    cg: np.ndarray,
    grips: Sequence[np.ndarray],
    asked: Sequence[tuple[Measure, ...]],
    pad: np.ndarray | None = None,
    shoulder: Shoulder | None = None,
    contacts: Sequence[Contact] = (),
    props: Sequence[Prop] = (),
) -> Held | None:
    """Return what closed hands at `grips` (3,) (m) and the rest give to a rig."""
    hands = [Hand(point, measures, np.eye(6)) for point, measures in zip(grips, asked, strict=True)]
    rests = (pad, pad_rays(shoulder)) if pad is not None and shoulder is not None else None
    return Statics(hands, rests, contacts, props, origin=cg).hold(mass, cg)


def hold_level(
    body: MassProperties,
    pad: np.ndarray,
    shoulder: Shoulder,
    grips: np.ndarray,
    limits: tuple[float, ...] = PLAIN,
) -> Held | None:
    """Return what hands without arms at `grips` (h, 3) (m) give to a rig on `pad` (3,), each component by its limit."""
    used = [k for k in range(6) if limits[k] > 0.0]
    asked = tuple(Measure(BodyJoint.HAND, np.eye(6)[k], 0.0, limits[k]) for k in used)
    hands = [Hand(np.asarray(point), asked, np.eye(6)[:, used]) for point in grips]
    return Statics(hands, (pad, pad_rays(shoulder))).hold(body.mass, body.cg)


def rested(build: Build, shoulder: Shoulder) -> Build:
    """Return a build that rests so on the shoulder."""
    return with_settings(build, ShoulderSettings(*msgspec.structs.astuple(shoulder)))


def on_both(build: Build, hold: Hold) -> Build:
    """Return a build held so, on the shoulder and in the hands."""
    for key in KEYS:
        build = with_hold(build, hold, key)
    return build


def worn(book: Book) -> tuple[Build, ...]:
    """Return the builds of a book that are for somebody's shoulder."""
    return tuple(build for build in book.builds if build.support == "shoulder")


def point_of(values: np.ndarray) -> Point:
    """Return three numbers as a point."""
    x, y, z = (float(value) for value in values)
    return x, y, z
