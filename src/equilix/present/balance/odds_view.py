"""How sure the verdict is: Monte Carlo beside first order, in words and as a histogram."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from msgspec import Struct

from equilix.core.uncertainty.montecarlo import SAMPLES, Odds, Reason
from equilix.core.uncertainty.output_model import CG_AHEAD, SLIDE_TO_LEVEL, OutputModel
from equilix.core.units import Kind, to_display
from equilix.present.drawing.scene import Anchor, Scene, hatch, polyline, rect, text_width
from equilix.present.supports import text_of
from equilix.present.supports.text import FigureRow, SupportText, Verdict
from equilix.present.units import System, figure, number, uncertainty, unit_of
from equilix.present.words import share_text

_WHY = {
    Reason.AGREES: "The plain ± says the same.",
    Reason.FOLDED: "The figure stops at a limit inside its ±. Use the range.",
    Reason.KINK: "Another rule takes over inside the ±. Use the range.",
    Reason.LOPSIDED: "The spread is lopsided. Use the range, not ±.",
    Reason.FLAT: "One uncertainty, such as a scale’s step, outweighs the rest. The range is narrower than ±.",
    Reason.BROAD: "The figure does not change in a straight line here. Use the range.",
}


class OddsRow(Struct, frozen=True):
    """One figure: name, first order, and what the draws say ("" until they are there)."""

    output: str
    name: str
    first: str
    sampled: str
    agrees: bool


def kind_of(view: SupportText[Any, Any], output: str) -> Kind:
    """Return what an output of a support is a figure of."""
    return view.support.outputs_by_name[output].kind


def output_text(
    view: SupportText[Any, Any], output: str, value: float, system: System, unit: bool = True, fine: bool = True
) -> str:
    """Return an output's value in the units of `system`; `fine` with a digit more than other rooms show it with."""
    kind = kind_of(view, output)
    extra = 1 if fine and kind in (Kind.LENGTH, Kind.FORCE, Kind.MOMENT) else 0
    sign = view.support.outputs_by_name[output].signed
    return figure(value, kind, system, sign=sign, unit=unit, extra=extra)


def odds_rows(
    outputs: OutputModel, firsts: dict[str, tuple[float, float]], odds: dict[str, Odds] | None, system: System
) -> tuple[OddsRow, ...]:
    """Return the list of figures; `firsts` holds first-order value and standard uncertainty."""
    rows = []
    view = text_of(outputs.analysis)
    for output in outputs.offered:
        value, u = firsts[output]
        kind = kind_of(view, output)
        # As every other room shows it, digit for digit.
        shown = output_text(view, output, value, system, unit=False, fine=False)
        words = f"{shown} {uncertainty(u, kind, system)} {unit_of(kind, system)}"
        found = odds.get(output) if odds is not None else None
        sampled = "" if found is None else range_text(outputs, found, system)
        name = _named(outputs, output)
        rows.append(OddsRow(output, name, words, sampled, found is None or found.agrees))
    return tuple(rows)


def _named(outputs: OutputModel, output: str) -> str:
    name = text_of(outputs.analysis).output_name(output)
    return name[:1].upper() + name[1:]


def range_text(outputs: OutputModel, odds: Odds, system: System) -> str:
    """Return "low to high unit" of the 95 % range."""
    low = output_text(text_of(outputs.analysis), odds.output, odds.low, system, unit=False)
    return f"{low} to {output_text(text_of(outputs.analysis), odds.output, odds.high, system)}"


def odds_verdict(outputs: OutputModel, odds: Odds, system: System) -> Verdict:
    """Return the sentence for one figure: its range, and how often it passes a threshold."""
    name = _named(outputs, odds.output)
    head = f"{name}: {range_text(outputs, odds, system)}."
    return Verdict(head, _meaning(outputs, odds) if odds.agrees else _WHY[odds.why])


def _meaning(outputs: OutputModel, odds: Odds) -> str:
    """Return what the draws mean for the verdict."""
    above = odds.beyond
    if odds.output == CG_AHEAD and above:
        forward, back = above[2], 1.0 - above[0]
        if max(forward, back) < 1.0 / SAMPLES:
            return "None of the simulated rigs tips."
        way, share = ("forward", forward) if forward >= back else ("back", back)
        words = share_text(share)
        return f"{words[:1].upper()}{words[1:]} of the simulated rigs tip {way}."
    if odds.output == SLIDE_TO_LEVEL:
        return f"In {share_text(1.0 - above[0] + above[1])} of the simulated rigs the slide is too short."
    return text_of(outputs.analysis).odds(odds) or "95 of 100 simulated rigs lie in this range."


def odds_figures(outputs: OutputModel, odds: Odds, system: System) -> tuple[FigureRow, ...]:
    """Return the figures beside the histogram."""
    rows = [
        FigureRow(
            "Mean of the simulated rigs", output_text(text_of(outputs.analysis), odds.output, odds.mean, system), ""
        ),
        FigureRow("Range ends, ±", _small(outputs, odds, system), ""),
    ]
    for threshold, share in zip(outputs.thresholds(odds.output), odds.beyond, strict=True):
        words = threshold.words[:1].upper() + threshold.words[1:]
        at = output_text(text_of(outputs.analysis), odds.output, threshold.value, system)
        rows.append(FigureRow(f"{words}, {at}", f"{share_text(share)} of them above", ""))
    return tuple(rows)


def _small(outputs: OutputModel, odds: Odds, system: System) -> str:
    unit = unit_of(kind_of(text_of(outputs.analysis), odds.output), system)
    return f"{to_display(odds.scatter, unit):.2g} {unit}"


def draw_histogram(
    outputs: OutputModel, odds: Odds | None, output: str, system: System, width: float, height: float
) -> Scene:
    """Return the histogram with the verdict's thresholds, the first-order curve and the 95 % range."""
    scene = Scene()
    base = height - 40.0
    top = 26.0
    if odds is None:
        scene.line(0, base, width, base, "rule2", 1.0)
        scene.text(width / 2, height / 2 - 6, "Not simulated yet", 16, 600, "ink2", Anchor.MIDDLE)
        words = f"Equilix simulates {number(SAMPLES, 0)} rigs within the parts’ uncertainties."
        scene.text(width / 2, height / 2 + 16, words, 13, 400, "ink3", Anchor.MIDDLE)
        return scene
    low, high = float(odds.edges[0]), float(odds.edges[-1])
    limits = [(t, s) for t, s in zip(outputs.thresholds(output), odds.beyond, strict=True)]
    margin = 0.04 * (high - low)
    near = [t.value for t, _ in limits if low - 0.8 * (high - low) < t.value < high + 0.8 * (high - low)]
    low, high = min([low, *near]) - margin, max([high, *near]) + margin

    def x(value: float) -> float:
        return (value - low) / (high - low) * width

    tallest = max(int(odds.counts.max()), 1)
    for k, count in enumerate(odds.counts.tolist()):
        left, right = x(float(odds.edges[k])), x(float(odds.edges[k + 1]))
        inside = odds.low <= (odds.edges[k] + odds.edges[k + 1]) / 2 <= odds.high
        bar = (base - top) * count / tallest
        scene.path(rect(left + 0.5, base - bar, max(right - left - 1.0, 0.6), bar), "accent" if inside else "p3")
    _normal_curve(scene, odds, x, base, top, tallest, low, high)
    scene.line(0, base, width, base, "line", 1.2)
    spans: list[tuple[float, float]] = []
    for threshold, _ in limits:
        at = x(threshold.value)
        if not 0 <= at <= width:
            continue
        scene.line(at, top - 14, at, base + 6, "ink", 1.8)
        words = f"{threshold.words} {output_text(text_of(outputs.analysis), output, threshold.value, system)}"
        wide = text_width(words, 12)
        place = min(max(at, wide / 2), width - wide / 2)
        row = 12.0 if all(place + wide / 2 < a or place - wide / 2 > b for a, b in spans) else 24.0
        spans.append((place - wide / 2 - 6, place + wide / 2 + 6))
        scene.text(place, row, words, 12, 600, "ink", Anchor.MIDDLE)
    left, right = x(odds.low), x(odds.high)
    scene.path(rect(left, base + 3, max(right - left, 2), 4), "fwd")
    if not odds.agrees:
        scene.path(
            hatch(((left, base + 3), (right, base + 3), (right, base + 7), (left, base + 7)), 4), None, "paper", 1
        )
    texts = (
        output_text(text_of(outputs.analysis), output, odds.low, system),
        output_text(text_of(outputs.analysis), output, odds.high, system),
    )
    if right - left > text_width(texts[0] + texts[1], 12) / 2 + 16:
        for at, text in zip((left, right), texts, strict=True):
            wide = text_width(text, 12) / 2
            scene.text(min(max(at, wide), width - wide), base + 22, text, 12, 600, "fwdT", Anchor.MIDDLE)
    else:
        words = " to ".join(texts)
        wide = text_width(words, 12) / 2
        scene.text(min(max((left + right) / 2, wide), width - wide), base + 22, words, 12, 600, "fwdT", Anchor.MIDDLE)
    return scene


def _normal_curve(
    scene: Scene,
    odds: Odds,
    x: Callable[[float], float],
    base: float,
    top: float,
    tallest: int,
    low: float,
    high: float,
) -> None:
    """Draw what first order believes, dashed."""
    if odds.first_u <= 0.0:
        return
    bin_width = float(odds.edges[1] - odds.edges[0])
    total = float(odds.counts.sum())
    points = []
    for k in range(81):
        value = low + (high - low) * k / 80.0
        z = (value - odds.first) / odds.first_u
        density = math.exp(-0.5 * z * z) / (odds.first_u * math.sqrt(2.0 * math.pi)) * bin_width * total
        points.append((x(value), max(base - (base - top) * density / tallest, top - 8)))
    scene.path(polyline(points), None, "ink", 1.3, (4.0, 3.0))
