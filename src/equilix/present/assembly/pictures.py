"""A place that a part may have, as a small picture: the rig from the side, or from above for a place at a side."""

from __future__ import annotations

import numpy as np

from equilix.core.assembly.build import Build, Kit
from equilix.core.assembly.resolve import prepare
from equilix.present.drawing.rig_drawing import Projection, draw_parts
from equilix.present.drawing.scene import Scene
from equilix.present.drawing.silhouettes import View

#: px of a picture, and what stays free at its edges.
WIDTH, HEIGHT = 136.0, 72.0
_EDGE = 6.0


def place_picture(build: Build, kit: Kit, relation: str) -> Scene:
    """Return the rig with its last part, which is the one that is asked about, standing out."""
    assembly = prepare(build, kit)
    positions = assembly.at(assembly.settings(build))
    view, up = (View.TOP, 1) if relation in ("left", "right") else (View.SIDE, 2)
    edges = np.maximum(assembly.edges, 0.01)
    low, high = (positions.centre - edges).min(axis=0), (positions.centre + edges).max(axis=0)
    span = np.maximum(high - low, 0.05)
    scale = min((WIDTH - 2 * _EDGE) / float(span[0]), (HEIGHT - 2 * _EDGE) / float(span[up]))
    middle = (low + high) / 2.0
    projection = Projection(view, scale, WIDTH / 2.0, HEIGHT / 2.0, float(middle[0]), float(middle[up]))
    scene = Scene()
    draw_parts(scene, assembly, positions, projection, selected=build.parts[-1].id)
    return scene
