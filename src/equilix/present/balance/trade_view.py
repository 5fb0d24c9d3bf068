"""The trade-off picture: added mass against remaining moment, with the ways on it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from equilix.core.units import Kind, to_display
from equilix.present.drawing.scene import Anchor, Region, Scene, circle, polygon, polyline, rect, text_width
from equilix.present.units import System, figure, number, unit_of

if TYPE_CHECKING:
    from equilix.core.solver.counterweight import Lever
    from equilix.core.solver.trade import TradePoint
    from equilix.present.balance.ways import Way


def draw_trade(
    still: tuple[TradePoint, ...],
    slid: tuple[TradePoint, ...],
    ways: tuple[Way, ...],
    chosen: int | None,
    tolerance: float,
    system: System,
    width: float,
    height: float,
) -> tuple[Scene, dict[tuple[str, ...], str]]:
    """Return the picture and the tips of its marks; regions are named ("way", number) and ("point", number)."""
    scene = Scene()
    tips: dict[tuple[str, ...], str] = {}
    left, right, top, base = 62.0, width - 200.0, 26.0, height - 44.0
    shown = [(i, way.strategy) for i, way in enumerate(ways)]
    most_mass = max([0.2, *(p.added for p in (*still, *slid)), *(s.plan.added_mass for _, s in shown)]) * 1.06
    most_moment = max([0.2, *(p.remaining for p in (*still, *slid)), *(abs(s.remaining) for _, s in shown)]) * 1.08

    def x(mass: float) -> float:
        return left + max(mass, 0.0) / most_mass * (right - left)

    def y(moment: float) -> float:
        return base - moment / most_moment * (base - top)

    _axes(scene, system, most_mass, most_moment, left, right, top, base)
    scene.path(rect(left, y(tolerance), right - left, base - y(tolerance)), "accent", None, 0.0, (), 0.12)
    for points, color, dash in ((still, "fwd", ()), (slid, "accent", (5.0, 3.0))):
        if len(points) > 1:
            scene.path(polyline([(x(p.added), y(p.remaining)) for p in points]), None, color, 2.0, dash)
        for k, p in enumerate(points):
            scene.path(circle(x(p.added), y(p.remaining), 2.6), color)
            if points is still:
                key = ("point", str(k))
                mass, moment = figure(p.added, Kind.MASS, system), figure(p.remaining, Kind.MOMENT, system, extra=1)
                tips[key] = f"{mass} of counterweight alone. {moment} remains."
                scene.regions.append(Region(key, _square(x(p.added), y(p.remaining), 8.0)))
    _legend(scene, right + 16, top + 4, bool(slid))
    taken: list[tuple[float, float]] = []
    for i, strategy in shown:
        px, py = x(strategy.plan.added_mass), y(abs(strategy.remaining))
        while any(abs(px - a) < 20 and abs(py - b) < 20 for a, b in taken):
            px += 21.0
        taken.append((px, py))
        on = i == chosen
        scene.path(circle(px, py, 9.5), "accent" if on else "panel", "accent", 1.6)
        scene.text(px, py + 4.5, str(i + 1), 12, 600, "onaccent" if on else "accent", Anchor.MIDDLE)
        key = ("way", str(i))
        mass = figure(strategy.plan.added_mass, Kind.MASS, system)
        moment = figure(abs(strategy.remaining), Kind.MOMENT, system, extra=1)
        tips[key] = f"{i + 1}  {ways[i].said}: {mass} added, {moment} remains"
        scene.regions.append(Region(key, _square(px, py, 13.0)))
    return scene, tips


def _square(x: float, y: float, half: float) -> tuple[tuple[float, float], ...]:
    return ((x - half, y - half), (x + half, y - half), (x + half, y + half), (x - half, y + half))


def _axes(
    scene: Scene, system: System, mass: float, moment: float, left: float, right: float, top: float, base: float
) -> None:
    scene.line(left, base, right, base, "line", 1.2)
    scene.line(left, top, left, base, "line", 1.2)
    for value, text in _ticks(to_display(mass, unit_of(Kind.MASS, system))):
        px = left + value / to_display(mass, unit_of(Kind.MASS, system)) * (right - left)
        scene.line(px, base, px, base + 4, "line", 1.0)
        scene.text(px, base + 17, text, 12, 500, "ink2", Anchor.MIDDLE)
    top_moment = to_display(moment, unit_of(Kind.MOMENT, system))
    for value, text in _ticks(top_moment):
        py = base - value / top_moment * (base - top)
        scene.line(left, py, right, py, "rule", 1.0)
        scene.text(left - 7, py + 4, text, 12, 500, "ink2", Anchor.END)
    scene.text(right, base + 34, f"added mass, {unit_of(Kind.MASS, system)}", 12.5, 500, "ink2", Anchor.END)
    scene.text(left - 40, top - 10, f"moment that remains, {unit_of(Kind.MOMENT, system)}", 12.5, 500, "ink2")


def _ticks(most: float) -> list[tuple[float, str]]:
    step = next(s for s in (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500) if most / s <= 6)
    digits = 1 if step < 1 else 0
    return [(k * step, number(k * step, digits)) for k in range(int(most / step) + 1)]


def _legend(scene: Scene, x: float, y: float, slid: bool) -> None:
    rows: list[tuple[str, tuple[float, ...], str]] = [("fwd", (), "counterweight alone")]
    if slid:
        rows.append(("accent", (5.0, 3.0), "slides first, then counterweight"))
    for color, dash, words in rows:
        scene.line(x, y, x + 26, y, color, 2.0, dash)
        scene.text(x + 34, y + 4, words, 12.5, 400, "ink2")
        y += 20
    scene.path(circle(x + 13, y, 9.0), "panel", "accent", 1.6)
    scene.text(x + 13, y + 4.5, "1", 12, 600, "accent", Anchor.MIDDLE)
    scene.text(x + 34, y + 4, "ways, by number", 12.5, 400, "ink2")
    y += 22
    scene.path(rect(x, y - 6, 26, 12), "accent", None, 0.0, (), 0.12)
    scene.text(x + 34, y + 4, "counts as level", 12.5, 400, "ink2")


def draw_waiting(words: str, width: float, height: float) -> Scene:
    """Return a scene that says that something is being worked out, or can't be."""
    scene = Scene()
    scene.text(width / 2, height / 2, words, 14, 500, "ink2", Anchor.MIDDLE)
    return scene


def draw_lever(
    lever: Lever,
    mass: float | None,
    place: float | None,
    system: System,
    width: float,
    height: float,
    label: str = "pad",
) -> Scene:
    """Return a mount's lever about what is called `label`: that as wedge, the reach, the weight where it goes."""
    scene = Scene()
    ends = tuple(lever.arm(end, mass or 0.0) for end in (lever.low, lever.high))
    arm = lever.arm(place, mass or 0.0) if place is not None else None
    span = max(abs(v) for v in (*ends, arm or 0.0, 0.1)) * 1.15
    left, right = 40.0, width - 40.0
    zero = left + (right - left) * (0.5 if min(ends) < 0.0 < max(ends) else (0.86 if max(ends) <= 0.0 else 0.14))
    reach = max(zero - left, right - zero) if min(ends) < 0.0 < max(ends) else (right - left) * 0.84
    scale = reach / span
    y = height * 0.48
    scene.line(left, y, right, y, "ink3", 1.0)
    a, b = (zero + v * scale for v in ends)
    scene.path(rect(min(a, b), y - 4, max(abs(b - a), 2.0), 8, 3), "p3", "line", 1.2)
    scene.path(polygon(((zero, y + 5), (zero - 10, y + 22), (zero + 10, y + 22))), "ink")
    scene.text(zero, y + 38, label, 12, 500, "ink2", Anchor.MIDDLE)
    if arm is None:
        return scene
    px = zero + arm * scale
    inside = min(ends) - 1e-6 <= arm <= max(ends) + 1e-6
    scene.path(rect(px - 13, y - 34, 26, 26, 2), "tint" if inside else None, "accent", 1.8, () if inside else (4, 3))
    if mass is not None:
        words = figure(mass, Kind.MASS, system)
        scene.text(min(max(px, text_width(words, 13) / 2), width - 30), y - 42, words, 13, 600, "accent", Anchor.MIDDLE)
    scene.line(zero, y + 52, px, y + 52, "fwd", 2.0)
    for end in (zero, px):
        scene.line(end, y + 47, end, y + 57, "fwd", 1.4)
    side = "ahead of" if arm > 0.0 else "behind"
    words = f"{figure(abs(arm), Kind.LENGTH, system)} {side} the {label}"
    middle = min(max((zero + px) / 2, text_width(words, 13) / 2 + 4), width - text_width(words, 13) / 2 - 4)
    scene.text(middle, y + 72, words, 13, 600, "fwdT", Anchor.MIDDLE)
    return scene
