"""What parts of a kind of their own look like, where that differs from what they count as: by the kind's key.

Shapes lie in a box of `w` by `h` px about the origin, u to the front (right), v up, as in `silhouettes`.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from types import MappingProxyType

from equilix.core.kit.parts import Category, Part
from equilix.document.kinds.naming import read_name
from equilix.document.kinds.records import shipped_kinds
from equilix.present.drawing.scene import Command, Point, circle, ellipse, polygon, polyline, rect
from equilix.present.drawing.silhouettes import Silhouette, Stroke, View, draw_grip, draw_handle

Draw = Callable[[float, float], Silhouette]


def look_of(part: Part) -> str:
    """Return the key of the kind that a part is drawn as, "" for what it counts as alone."""
    return _look(part.name, part.category, part.kind)


@lru_cache(maxsize=1024)
def _look(name: str, category: Category, kind: str) -> str:
    kinds = shipped_kinds()
    # What nobody has said and its name does not say is drawn as what it counts as: a guess would show what isn't there.
    known = (one for one in (kinds.find(kind), read_name(name.split(",")[0], kinds).kind) if one is not None)
    found = next((one.base for one in known if one.counts is category), "")
    return found if any(found in looks for looks in _LOOKS.values()) else ""


def look(key: str, view: View) -> Draw | None:
    """Return what draws a kind seen from one side, None where it looks as what it counts as."""
    return _LOOKS[view].get(key)


def seen(key: str, category: Category, view: View) -> Draw | None:
    """Return what draws a part of a kind, or of a category from ahead, where that has a look of its own."""
    own = look(key, view)
    return FROM_AHEAD.get(category) if own is None and view is View.FRONT else own


def _line(*points: Point) -> Stroke:
    return Stroke(polyline(points), "detail")


def _solid(*points: Point) -> Stroke:
    return Stroke(polygon(points), "outline")


def _block(x: float, y: float, w: float, h: float, r: float = 2.0, role: str = "outline") -> Stroke:
    return Stroke(rect(x, y, w, h, max(min(r, w / 2.0, h / 2.0), 0.0)), role)


def _ring(x: float, y: float, r: float, role: str = "detail") -> Stroke:
    return Stroke(circle(x, y, r), role)


# Cameras


def _stills_body(w: float, h: float) -> Silhouette:
    """A hump above the mount, and the ring of the lens mount in front."""
    x, y, top = -w / 2, -h / 2, h * 0.30
    hump = ((x, y), (w * 0.42, y), (w * 0.42, top), (w * 0.30, top), (w * 0.12, h / 2), (-w * 0.26, h / 2), (x, top))
    return (
        _solid(*hump),
        _block(w * 0.42, -h * 0.30, w * 0.08, h * 0.52, 1.0, "dark"),
        _line((x, top), (w * 0.3, top)),
    )


def _camcorder(w: float, h: float) -> Silhouette:
    """A body with its own lens, an eyepiece behind and a handle above."""
    x, y = -w / 2, -h / 2
    tall = h * 0.62
    return (
        _block(x, y + h * 0.10, w * 0.20, h * 0.30, 3.0, "dark"),
        _block(x + w * 0.10, y, w * 0.60, tall, 4.0),
        _block(x + w * 0.70, y + tall * 0.12, w * 0.18, tall * 0.76, 2.0, "dark"),
        _block(x + w * 0.88, y + tall * 0.04, w * 0.12, tall * 0.92, 2.0),
        _solid(
            (x + w * 0.16, y + tall),
            (x + w * 0.22, h / 2),
            (x + w * 0.74, h / 2),
            (x + w * 0.74, h / 2 - h * 0.13),
            (x + w * 0.32, h / 2 - h * 0.13),
            (x + w * 0.28, y + tall),
        ),
        _line((x + w * 0.16, y + tall * 0.72), (x + w * 0.64, y + tall * 0.72)),
    )


def _slab(w: float, h: float) -> Silhouette:
    """A phone or tablet: a slab with its glass and one small lens."""
    r = min(w, h) * 0.28
    return (_block(-w / 2, -h / 2, w, h, r), _line((w * 0.22, -h * 0.44), (w * 0.22, h * 0.44)))


def _slab_front(w: float, h: float) -> Silhouette:
    r = min(w, h) * 0.10
    return (_block(-w / 2, -h / 2, w, h, r), _ring(-w / 2 + 2.4 * r, h / 2 - 2.4 * r, r))


def _action_camera(w: float, h: float) -> Silhouette:
    size = min(w, h)
    return (
        _block(-w / 2, -h / 2, w * 0.86, h, 0.14 * size),
        _block(w * 0.30, -h * 0.26, w * 0.20, h * 0.52, 2.0, "dark"),
    )


def _body_front(w: float, h: float) -> Silhouette:
    r = min(w, h) * 0.36
    return (_block(-w / 2, -h / 2, w, h, 3.0), _ring(0, 0, r, "dark"), _ring(0, 0, r * 0.72))


def _rings(w: float, h: float) -> Silhouette:
    """What is round about the optical axis, from ahead."""
    return tuple(
        Stroke(ellipse(0, 0, w / 2 * k, h / 2 * k), role)
        for k, role in ((1.0, "outline"), (0.78, "dark"), (0.52, "detail"))
    )


def _matte_front(w: float, h: float) -> Silhouette:
    return (_block(-w / 2, -h / 2, w, h, 2.0), _block(-w * 0.38, -h * 0.32, w * 0.76, h * 0.64, 1.0, "dark"))


# Eye and screen


def _viewfinder(w: float, h: float) -> Silhouette:
    """A tube that ends behind in a soft eyecup."""
    x, t = -w / 2, h * 0.36
    return (
        _block(x + w * 0.26, -t, w * 0.74, 2 * t, 3.0),
        _solid(
            (x, -h / 2),
            (x + w * 0.12, -h / 2),
            (x + w * 0.28, -t),
            (x + w * 0.28, t),
            (x + w * 0.12, h / 2),
            (x, h / 2),
        ),
        _line((x + w * 0.52, -t), (x + w * 0.52, t)),
        _line((x + w * 0.60, -t), (x + w * 0.60, t)),
    )


def _prompter(w: float, h: float) -> Silhouette:
    """A hood, the slanted glass in it, and the screen that lies below."""
    x, y, low = -w / 2, -h / 2, h * 0.16
    return (
        _block(x, y, w, low, 2.0, "dark"),
        _solid((x, y + low), (w / 2, y + low), (w / 2, y + low + h * 0.10), (x + w * 0.18, h / 2), (x, h / 2)),
        _line((w / 2 - 2, y + low + 2), (x + w * 0.10, h / 2 - 3)),
    )


def _light(w: float, h: float) -> Silhouette:
    """A lamp that widens to the front, with cooling ribs behind."""
    x, t = -w / 2, h * 0.30
    ribs = [_line((x + w * k, -t), (x + w * k, t)) for k in (0.12, 0.22, 0.32)]
    return (
        _block(x, -t, w * 0.46, 2 * t, 2.0),
        _solid((x + w * 0.46, -t), (w * 0.40, -h / 2), (w * 0.40, h / 2), (x + w * 0.46, t)),
        _block(w * 0.40, -h / 2, w * 0.10, h, 1.0, "dark"),
        *ribs,
    )


# Focus, filters


def _wheel(w: float, h: float) -> Silhouette:
    """A wheel with its mark, on the gear that turns the lens."""
    r = min(w, h) * 0.42
    return (
        _block(-w / 2, -h / 2, w * 0.34, h, 2.0, "dark"),
        _ring(w / 2 - r, 0, r, "outline"),
        _ring(w / 2 - r, 0, r * 0.66),
        _line((w / 2 - r, r * 0.66), (w / 2 - r, r)),
    )


def _knob_box(w: float, h: float) -> Silhouette:
    r = min(w, h) * 0.26
    return (
        _block(-w / 2, -h / 2, w, h, 4.0),
        _ring(0, h / 2 - 1.5 * r, r, "dark"),
        _line((-r, -h * 0.22), (r, -h * 0.22)),
    )


def _disc(w: float, h: float) -> Silhouette:
    """A filter or a ring, from its edge."""
    return (_block(-w / 2, -h / 2, w, h, 1.5), _line((0, -h / 2), (0, h / 2)))


def _adapter(w: float, h: float) -> Silhouette:
    x = -w / 2
    return (_block(x, -h * 0.44, w * 0.30, h * 0.88, 1.0, "dark"), _block(x + w * 0.24, -h / 2, w * 0.76, h, 2.0))


# Holding it


def _butt(w: float, h: float) -> Silhouette:
    """A shoulder butt on its bar: a curved plate behind, the bar to the front."""
    x, bar = -w / 2, min(h * 0.16, 14.0)
    back: tuple[Command, ...] = (
        ("M", x + w * 0.05, h / 2),
        ("C", x + w * 0.24, h * 0.20, x + w * 0.24, -h * 0.20, x + w * 0.05, -h / 2),
        ("L", x, -h / 2),
        ("C", x + w * 0.12, -h * 0.20, x + w * 0.12, h * 0.20, x, h / 2),
        ("Z",),
    )
    return (_block(x + w * 0.16, -bar / 2, w * 0.84, bar, bar / 2), Stroke(back, "dark"))


def _eyelet(w: float, h: float) -> Silhouette:
    r = min(w / 2, h * 0.36)
    return (
        _block(-w * 0.36, -h / 2, w * 0.72, max(h - 1.7 * r, 1.0), 1.0, "dark"),
        _ring(0, h / 2 - r, r, "outline"),
        _ring(0, h / 2 - r, r * 0.5, "detail"),
    )


def _pistol(w: float, h: float) -> Silhouette:
    """A grip with a button, that stands by itself."""
    return (*draw_grip(w, h), _ring(w * 0.16, h * 0.02, max(w * 0.07, 1.0)))


def _ribbed(w: float, h: float) -> Silhouette:
    """A round handle with ribs across."""
    ribs = [_line((-w * 0.34, h * k), (w * 0.34, h * k)) for k in (-0.28, -0.14, 0.0, 0.14, 0.28)]
    return (_block(-w / 2, -h / 2, w, h, min(w, h) * 0.3), *ribs)


def _bar_with_grips(w: float, h: float) -> Silhouette:
    """A bar across with a ribbed grip at each end."""
    if w < 1.6 * h:
        return _ribbed(w, h)
    bar, end = h * 0.46, min(w * 0.24, h * 2.0)
    strokes = [_block(-w / 2 + end * 0.5, -bar / 2, w - end, bar, bar / 2)]
    for side in (-1.0, 1.0):
        left = -w / 2 if side < 0.0 else w / 2 - end
        strokes.append(_block(left, -h / 2, end, h, h * 0.36, "dark"))
        strokes += [_line((left + end * k, -h * 0.36), (left + end * k, h * 0.36)) for k in (0.25, 0.42, 0.58, 0.75)]
    return tuple(strokes)


def _grips_above(w: float, h: float) -> Silhouette:
    """The same seen from above: its length lies across."""
    return tuple(
        Stroke(tuple((c[0], *_swapped(c[1:])) for c in stroke.commands), stroke.role)
        for stroke in _bar_with_grips(h, w)
    )


def _swapped(values: tuple[float | str, ...]) -> list[float]:
    numbers = [float(v) for v in values]
    return [number for u, v in zip(numbers[::2], numbers[1::2], strict=True) for number in (v, u)]


def _tube(w: float, h: float) -> Silhouette:
    """An arm of one thickness with round ends."""
    return (_block(-w / 2, -h / 2, w, h, min(w, h, 36.0) / 2),)


# Plates, rails, rods


def _plate(w: float, h: float) -> Silhouette:
    """A plate from its edge: bevelled below, as a dovetail is."""
    if h < 5.0 or w < 12.0:
        return (_block(-w / 2, -h / 2, w, h, 1.0),)
    cut = min(h * 0.5, 6.0)
    return (
        _solid(
            (-w / 2 + cut, -h / 2),
            (w / 2 - cut, -h / 2),
            (w / 2, -h / 2 + cut),
            (w / 2, h / 2),
            (-w / 2, h / 2),
            (-w / 2, -h / 2 + cut),
        ),
        _line((-w / 2 + 2, h / 2 - min(h * 0.3, 3.0)), (w / 2 - 2, h / 2 - min(h * 0.3, 3.0))),
    )


def _holed(w: float, h: float) -> Silhouette:
    """A plate from above, with its row of holes."""
    count = max(int(w / 22.0), 1)
    r = min(h * 0.10, 3.0, w * 0.1)
    holes = [_ring(-w / 2 + w * (k + 0.5) / count, 0, r) for k in range(count)]
    return (_block(-w / 2, -h / 2, w, h, 3.0), *holes)


def _notched(w: float, h: float) -> Silhouette:
    count = max(int(w / 9.0), 2)
    return (
        _block(-w / 2, -h / 2, w, h, 1.0),
        *(_line((-w / 2 + w * k / count, 0.0), (-w / 2 + w * k / count, h / 2)) for k in range(1, count)),
    )


def _split_clamp(w: float, h: float) -> Silhouette:
    """A clamp round rods: split, with its lever."""
    r = min(h * 0.16, w * 0.2)
    return (_block(-w / 2, -h / 2, w, h, 3.0), _line((-w / 2, 0.0), (w * 0.2, 0.0)), _ring(w * 0.26, 0.0, r, "dark"))


# Boxes with more to them


def _with_aerials(w: float, h: float) -> Silhouette:
    """A box with two aerials."""
    low = h * 0.58
    thick = min(max(w * 0.10, 1.5), w * 0.2)
    aerials = [_block(side * w * 0.32 - thick / 2, -h / 2 + low, thick, h - low, thick / 2) for side in (-1.0, 1.0)]
    ribs = (
        [_line((-w / 2 + 3, -h / 2 + low * k), (w / 2 - 3, -h / 2 + low * k)) for k in (0.35, 0.6)] if w > 8.0 else []
    )
    return (_block(-w / 2, -h / 2, w, low, 2.0), *aerials, *ribs)


def _recorder(w: float, h: float) -> Silhouette:
    r = min(w, h) * 0.12
    return (
        _block(-w / 2, -h / 2, w, h, 3.0),
        _block(-w * 0.34, -h * 0.02, w * 0.68, h * 0.36, 1.0),
        *(_ring(w * k, -h * 0.28, r) for k in (-0.26, 0.0, 0.26)),
    )


def _cells(w: float, h: float) -> Silhouette:
    """A pack with its lights."""
    r = max(min(w, h) * 0.05, 0.8)
    return (
        _block(-w / 2, -h / 2, w, h, min(w, h) * 0.18),
        *(_ring(w * k, h * 0.32, r) for k in (-0.2, -0.07, 0.07, 0.2)),
    )


def _loop(w: float, h: float) -> Silhouette:
    """A lead, coiled."""
    return (Stroke(ellipse(0, 0, w / 2, h / 2), "outline"), Stroke(ellipse(0, 0, w * 0.36, h * 0.36), "detail"))


# Sleds


def _stage(w: float, h: float) -> Silhouette:
    """The stage on which the camera lies: two plates, with a knob between."""
    third = h * 0.34
    return (
        _block(-w / 2, h / 2 - third, w, third, 1.5),
        _block(-w * 0.36, -h / 2 + third, w * 0.72, h - 2 * third, 0.0, "dark"),
        _block(-w / 2, -h / 2, w, third, 1.5),
    )


def _bearing(w: float, h: float) -> Silhouette:
    """A ring in its fork."""
    r = min(w, h) * 0.42
    return (_block(-w / 2, -h * 0.26, w, h * 0.52, h * 0.2), _ring(0, 0, r, "dark"), _ring(0, 0, r * 0.45))


def _post(w: float, h: float) -> Silhouette:
    band = min(h * 0.04, 8.0)
    return (
        _block(-w / 2, -h / 2, w, h, 2.0),
        _line((-w / 2, h / 2 - band), (w / 2, h / 2 - band)),
        _line((-w / 2, -h / 2 + band), (w / 2, -h / 2 + band)),
    )


def _stacked(w: float, h: float) -> Silhouette:
    return (
        _block(-w / 2, -h / 2, w, h, 2.0),
        _line((-w / 2, h * 0.17), (w / 2, h * 0.17)),
        _line((-w / 2, -h * 0.17), (w / 2, -h * 0.17)),
    )


_SIDE: dict[str, Draw] = {
    "stills_body": _stills_body,
    "camcorder": _camcorder,
    "action_camera": _action_camera,
    "phone": _slab,
    "tablet": _slab,
    "viewfinder": _viewfinder,
    "loupe": _viewfinder,
    "sight": _viewfinder,
    "teleprompter": _prompter,
    "light": _light,
    "follow_focus": _wheel,
    "focus_control": _knob_box,
    "remote": _knob_box,
    "filter": _disc,
    "lens_adapter": _adapter,
    "gunstock": _butt,
    "body_brace": _butt,
    "eyelet": _eyelet,
    "control_handle": _pistol,
    "front_grip": draw_grip,
    "side_handle": draw_grip,
    "top_handle": draw_handle,
    "stick": _ribbed,
    "top_plate": _plate,
    "camera_plate": _plate,
    "qr_plate": _plate,
    "base_plate": _plate,
    "bridge_plate": _plate,
    "dovetail_plate": _plate,
    "cheese_plate": _plate,
    "riser_plate": _stacked,
    "tripod_plate": _plate,
    "shoulder_plate": _plate,
    "nato_rail": _notched,
    "rod_clamp": _split_clamp,
    "transmitter": _with_aerials,
    "receiver": _with_aerials,
    "router": _with_aerials,
    "recorder": _recorder,
    "timecode": _recorder,
    "power_bank": _cells,
    "camera_battery": _cells,
    "l_battery": _cells,
    "cable": _loop,
    "gimbal_frame": _bar_with_grips,
    "gimbal_pan": _tube,
    "gimbal_roll": _tube,
    "gimbal_tilt": _tube,
    "gimbal_rails": _tube,
    "sled_post": _post,
    "sled_stage": _stage,
    "sled_bearing": _bearing,
    "sled_weight": _stacked,
}
_TOP: dict[str, Draw] = {
    "follow_focus": _wheel,
    "phone": _slab,
    "viewfinder": _viewfinder,
    "loupe": _viewfinder,
    "light": _light,
    "cable": _loop,
    **dict.fromkeys(
        ("top_plate", "camera_plate", "base_plate", "bridge_plate", "cheese_plate", "dovetail_plate"), _holed
    ),
    "gimbal_frame": _grips_above,
    **dict.fromkeys(("gimbal_pan", "gimbal_roll", "gimbal_tilt", "gimbal_rails"), _tube),
    "sled_bearing": _rings,
    "sled_weight": _rings,
}
_FRONT: dict[str, Draw] = {
    "phone": _slab_front,
    "tablet": _slab_front,
    "gimbal_frame": _bar_with_grips,
    **dict.fromkeys(("gimbal_pan", "gimbal_roll", "gimbal_tilt", "gimbal_rails"), _tube),
}
_LOOKS = MappingProxyType({View.SIDE: _SIDE, View.TOP: _TOP, View.FRONT: _FRONT})
#: From ahead, by what a part counts as.
FROM_AHEAD: dict[Category, Draw] = {
    Category.BODY: _body_front,
    Category.LENS: _rings,
    Category.ADAPTER: _rings,
    Category.MATTE_BOX: _matte_front,
    Category.HANDLE: _tube,
    Category.RODS: _tube,
}
