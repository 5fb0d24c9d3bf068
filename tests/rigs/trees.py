"""Builds of any shape, as hypothesis draws them."""

from __future__ import annotations

import math

from hypothesis import strategies as st
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.kit.parts import Connection, Foot, Mount, MountKind, Part
from tests.rigs.plain import block

KINDS = (MountKind.LIGHT_RODS, MountKind.QUARTER_20, MountKind.ROSETTE)


@st.composite
def trees(draw: st.DrawFn) -> tuple[Build, dict[str, Part]]:
    """Draw a build of parts with mounts and feet anywhere, tied by slides, turns, fixed and own joints either way."""
    number = st.floats(-0.2, 0.2)
    point = st.tuples(number, number, number)
    axis = point.filter(lambda v: math.hypot(*v) > 0.05)
    kit: dict[str, Part] = {}
    parts: list[Placed] = []
    for i in range(draw(st.integers(2, 7))):
        mounts = tuple(
            Mount(f"m{k}", kind, draw(point), joint, draw(axis), -1.0, 1.0)
            for k, (kind, joint) in enumerate(
                zip(KINDS, (Connection.SLIDE, Connection.FIXED, Connection.TURN), strict=True)
            )
        )
        part = block(f"p{i}", draw(st.floats(0.05, 3.0)), mounts=mounts)
        kit[part.id] = replace(part, feet=tuple(Foot(kind, draw(point)) for kind in KINDS), cg=draw(point))
        if i == 0:
            parts.append(Placed("0", "p0", quarter_turns=draw(st.integers(0, 3))))
            continue
        k, turned, own = draw(st.integers(0, 2)), draw(st.booleans()), draw(st.booleans())
        parts.append(
            Placed(
                str(i),
                part.id,
                str(draw(st.integers(0, i - 1))),
                f"m{k}",
                k,
                draw(st.floats(-1.0, 1.0)),
                draw(st.integers(0, 3)),
                turned,
                Mount("own", MountKind.OWN, draw(point), Connection.SLIDE, draw(axis), -1.0, 1.0) if own else None,
                draw(point) if own else (0.0, 0.0, 0.0),
            )
        )
    build = Build("b", "Any", tuple(parts))
    return build, kit
