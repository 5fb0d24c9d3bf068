"""What `equilix analyse` prints of a build: everything about it on one support, as values and as lines to read."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Operator
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.registry import support_for
from equilix.core.statics.turning import LEVEL, Attitude
from equilix.core.support import Report, case_of, ending_of, report_of, unit_of
from equilix.document.book import Book


def build_report(analysis: Analysis, operator: Operator, key: str, attitude: Attitude = LEVEL) -> dict[str, object]:
    """Return everything about one build on one support, as it is printed."""
    body = analysis.body
    judged, case = report_of(analysis, operator), case_of(analysis)
    turned = analysis.support.turned(case, attitude) if case is not None else {}
    figures = {**judged.figures, **turned}
    found: dict[str, object] = {
        "build": analysis.build.name,
        "support": key,
        "operator": operator.name,
        "mass_kg": body.mass if body is not None else None,
        "cg_mm": _mm(body.cg) if body is not None else None,
        "inertia_kg_m2": body.inertia.tolist() if body is not None else None,
        "parts": parts_report(analysis),
        "holders": _holders(judged),
        "figures": {
            name: {
                # There is none, as a drop time of what turns over.
                "value": figure.value if math.isfinite(figure.value) else None,
                "unit": unit_of(name),
                "doubt": None if figure.uncertainty is None else COVERAGE * figure.uncertainty,
            }
            for name, figure in figures.items()
        },
        "findings": findings_report(analysis),
        "headline": headline(analysis),
        "cautions": cautions_report(analysis, operator),
    }
    if judged.hindrance:
        found["hindrance"] = judged.hindrance
    if judged.said:
        found["said"] = list(judged.said)
    return found


def parts_report(analysis: Analysis) -> list[dict[str, object]]:
    """Return every part as it is placed: mass, CG and inertia about it, in rig axes, and where its slide stands."""
    assembly = analysis.assembly
    case = case_of(analysis)
    stages = analysis.support.stages(case) if case is not None else ()
    slides = dict(zip(assembly.slide_parts, analysis.settings.tolist(), strict=True))
    return [
        {
            "name": part.name,
            "mass_kg": part.mass,
            "cg_mm": _mm(analysis.positions.cg[i]),
            "inertia_kg_m2": assembly.inertia[i].tolist(),
            "slide_mm": 1e3 * slides[i] if i in slides else None,
            "stage": stages[i] if stages else None,
        }
        for i, part in enumerate(assembly.parts)
    ]


def findings_report(analysis: Analysis) -> list[dict[str, object]]:
    """Return what is to be looked at: its kind, how much (SI), the limit that it is held against, and the parts."""
    names = dict(zip((p.id for p in analysis.build.parts), (p.name for p in analysis.assembly.parts), strict=True))
    return [
        {
            "kind": str(finding.kind),
            "amount": finding.amount,
            "limit": finding.limit,
            "parts": [names[i] for i in finding.placed_ids],
        }
        for finding in analysis.findings
    ]


def headline(analysis: Analysis) -> str:
    """Return the sentence that the window leads with."""
    from equilix.present.balance.panel import verdict_of
    from equilix.present.units import System

    return verdict_of(analysis, System.METRIC).in_full


def cautions_report(analysis: Analysis, operator: Operator) -> list[dict[str, object]]:
    """Return what warns of something, worst first, as panel and sheet say it."""
    from equilix.present.cautions import cautions_of
    from equilix.present.units import System

    names = dict(zip((p.id for p in analysis.build.parts), (p.name for p in analysis.assembly.parts), strict=True))
    return [
        {"kind": one.kind, "parts": [names[i] for i in one.placed_ids], "says": one.says}
        for one in cautions_of(analysis, operator, System.METRIC)
    ]


def lenses_report(analysis: Analysis, book: Book, operator: Operator) -> list[dict[str, object]]:
    """Return where every slide stands for each lens: the table of window and sheet."""
    from equilix.core.solver.lens_marks import OWN_SCALE, lens_settings
    from equilix.present.lens_marks import hit_names, lens_name, slide_name

    if analysis.equilibrium is None:
        return []
    names = dict(zip((p.id for p in analysis.build.parts), (p.name for p in analysis.assembly.parts), strict=True))
    rows: list[dict[str, object]] = []
    for row in lens_settings(analysis, book.parts, operator):
        found: dict[str, object] = {
            "lens": lens_name(row),
            "marks": [
                {"part": slide_name(analysis, slide) if slide == OWN_SCALE else names[slide], "mm": 1e3 * setting}
                for slide, setting in row.marks
            ],
            "left_nm": None if row.reason else row.left,
            "meets": list(hit_names(row, analysis)),
        }
        if row.reason:
            found["reason"] = row.reason
        rows.append(found)
    return rows


def carry_report(analysis: Analysis, operator: Operator) -> dict[str, object]:
    """Return what a build costs the body that carries it, joint by joint, as Carry shows it."""
    from equilix.core.carry.carried import Carry
    from equilix.core.carry.carried import carry as carry_it
    from equilix.present.carry.carry_view import HINDRANCES, shown_times

    build = analysis.build
    carrier = support_for(build.support).carrier(build)
    on_it = analysis
    if carrier != build.support:
        on_it = analyse(replace(build, support=carrier), analysis.assembly.kit, operator)
    found = carry_it(on_it, operator, carrier)
    if not isinstance(found, Carry):
        return {"joints": [], "first": None, "safe_take_s": None, "hindrance": " ".join(HINDRANCES[found])}
    shown = shown_times(found)
    return {
        "joints": [
            {
                "name": joint.joint.value,
                "share": joint.share,
                "least_s": shown[f"{joint.joint.value}, at least"],
                "most_s": shown.get(f"{joint.joint.value}, at most"),
            }
            for joint in found.joints
        ],
        "first": found.worst.joint.value,
        "safe_take_s": shown["safe take"],
        "safe_take_bound": found.bound,
        "screen_in_sight": not found.unwatched,
    }


def ways_report(analysis: Analysis, book: Book, operator: Operator, key: str) -> Iterator[dict[str, object]]:
    """Return the ways to better a build on a support, each with what it promises and the parts as they would be."""
    from equilix.cli.ways import listed_ways, way_report

    for way in listed_ways(analysis, book, operator, key):
        judged = report_of(way.after, operator)
        yield {
            **way_report(way, analysis),
            "promise": {k: f.value if math.isfinite(f.value) else None for k, f in judged.figures.items()},
            "parts": parts_report(way.after),
            "holders": _holders(judged),
        }


def _holders(judged: Report) -> dict[str, object]:
    return {name: _mm(point) for name, point in judged.holders.items()}


def _mm(point: np.ndarray) -> object:
    return (1e3 * np.asarray(point, dtype=float)).tolist()


def text_of(result: dict[str, object]) -> str:
    """Return a report as lines to read."""
    cg = result["cg_mm"]
    lines = [", ".join(str(result[name]) for name in ("build", "support", "operator") if result.get(name))]
    if isinstance(cg, list):
        lines.append(
            _signed(
                f"  Mass {result['mass_kg']:.3f} kg, CG {cg[0]:+.1f} forward, {cg[1]:+.1f} left, {cg[2]:+.1f} mm up"
            )
        )
    inertia = result["inertia_kg_m2"]
    if isinstance(inertia, list):
        lines.append("  Inertia about the CG, kg m²")
        lines += ["    " + "  ".join(_signed(f"{value:+.6f}") for value in row) for row in inertia]
    if "hindrance" in result:
        lines.append(f"  Not known: {result['hindrance']}.")
    said = result.get("said", [])
    assert isinstance(said, list)
    lines += [f"  {words[:1].upper()}{words[1:]}." for words in said]
    figures = result["figures"]
    assert isinstance(figures, dict)
    for name, figure in figures.items():
        spread = "" if figure["doubt"] is None else f" ± {figure['doubt']:.2g}"
        known = figure["value"] is not None
        value = _signed(f"{figure['value']:+.4g}{spread} {figure['unit']}").rstrip() if known else "none"
        lines.append(f"  {name.removesuffix(ending_of(name)).replace('_', ' ')}: {value}")
    findings = result.get("findings", [])
    assert isinstance(findings, list)
    lines += [f"  {f['kind']}: {', '.join(f['parts'])}" for f in findings]
    lines += _more_lines(result)
    ways = result.get("ways", [])
    assert isinstance(ways, list)
    lines += [f"  way: {way['name']}{' (proven)' if way['proven'] else ''}" for way in ways]
    return "\n".join(lines)


def _more_lines(result: dict[str, object]) -> list[str]:
    """Return lens marks and what it costs the body as lines to read, where they were asked for."""
    lines = []
    lenses, carried = result.get("lenses", []), result.get("carry")
    assert isinstance(lenses, list)
    for row in lenses:
        marks = ", ".join(f"{mark['part']} {_signed(format(mark['mm'], '+.1f'))} mm" for mark in row["marks"])
        hits = f"; hits: {', '.join(row['meets'])}" if row["meets"] else ""
        lines.append(f"  lens {row['lens']}: {marks or row.get('reason', '')}{hits}")
    if isinstance(carried, dict):
        for joint in carried["joints"]:
            most = "" if joint["most_s"] is None else f" to {joint['most_s']:.0f}"
            over = "over " if joint["most_s"] is None else ""
            lines.append(
                f"  {joint['name']}: {100 * joint['share']:.1f} % of strength, {over}{joint['least_s']:.0f}{most} s"
            )
        if carried["first"] is not None:
            lines.append(f"  safe take: {carried['safe_take_s']:.0f} s, {carried['first']} first")
    return lines


def _signed(text: str) -> str:
    return text.replace("-", "−")
