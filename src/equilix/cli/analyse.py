"""`equilix analyse`: mass, CG, inertia and one support's figures of a parts table."""

from __future__ import annotations

import math
from collections.abc import Sequence
from pathlib import Path

import click
import numpy as np
from msgspec import Struct

from equilix.cli.errors import run_command
from equilix.core.errors import EquilixError
from equilix.core.massprops.bodies import MassProperties, combine_arrays, cuboid_inertia, cylinder_inertia
from equilix.core.statics.points import gimbal_torques, hang, shoulder_moments
from equilix.core.statics.sled import sled_figures
from equilix.io.files import shown
from equilix.io.parts_table import PartsTable, read_parts_table

_POINT_OF = {"shoulder": "--pad", "harness": "--hook", "gimbal": "--pivot", "vest": "--bearing"}


class _Point(click.ParamType[tuple[float, ...]]):
    """X,Y,Z in millimetres; becomes metres."""

    name = "X,Y,Z"

    def convert(self, value: object, param: click.Parameter | None, ctx: click.Context | None) -> tuple[float, ...]:
        try:
            parts = [_plain_number(cell) for cell in str(value).split(",")]
        except ValueError:
            parts = []
        if len(parts) != 3:
            option = param.opts[0] if param is not None else "the point"
            raise click.UsageError(f"{option} needs three numbers in mm, such as {option} -120,0,80.")
        return tuple(cell / 1000.0 for cell in parts)


class _Degrees(click.ParamType[float]):
    name = "DEG"

    def convert(self, value: object, param: click.Parameter | None, ctx: click.Context | None) -> float:
        try:
            return _plain_number(str(value))
        except ValueError:
            raise click.UsageError("--tilt needs degrees, such as 10.") from None


def _plain_number(text: str) -> float:
    """Return a finite number written with ASCII digits; ValueError for anything else."""
    if not text.isascii() or "_" in text:
        raise ValueError(text)
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(text)
    return value


@click.command(context_settings={"help_option_names": ["--help"]})
@click.argument("parts", metavar="PARTS.csv", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print strict JSON with all digits.")
@click.option("--support", metavar="KIND", help="shoulder, harness, gimbal or vest.")
@click.option("--pad", type=_Point(), help="Middle of the shoulder pad's contact (mm).")
@click.option("--hook", type=_Point(), help="The hook the rig hangs from (mm).")
@click.option("--pivot", type=_Point(), help="Where the gimbal's axes meet (mm).")
@click.option("--tilt", type=_Degrees(), help="Tilt of the gimbal, nose down.")
@click.option("--bearing", type=_Point(), help="The sled's bearing (mm).")
def analyse(
    parts: Path,
    as_json: bool,
    support: str | None,
    pad: tuple[float, ...] | None,
    hook: tuple[float, ...] | None,
    pivot: tuple[float, ...] | None,
    tilt: float | None,
    bearing: tuple[float, ...] | None,
) -> int:
    """Print mass, CG and inertia of the parts in PARTS.csv, and what they do to a support.

    Columns: name, mass_kg, x_mm, y_mm, z_mm, length_mm, width_mm, height_mm and, if you like, shape
    (box or cylinder). x forward, y left, z up; x, y, z is each part's own centre of gravity.
    """
    points = {"--pad": pad, "--hook": hook, "--pivot": pivot, "--bearing": bearing}
    point = _chosen_point(support, points, tilt)
    table = read_parts_table(parts)
    with np.errstate(over="ignore", invalid="ignore", divide="ignore", under="ignore"):
        body = _combined(table, parts)
        result = _Result(body, _support_figures(body, support, point, tilt or 0.0))
    if not result.finite():
        raise EquilixError(f"{parts.name}: the figures are too large. Check masses and positions.")
    click.echo(result.json() if as_json else result.text(parts.name, len(table.names)))
    return 0


def _chosen_point(
    support: str | None, points: dict[str, tuple[float, ...] | None], tilt: float | None
) -> np.ndarray | None:
    if support is not None and support not in _POINT_OF:
        raise EquilixError(f"--support {support!r} is not known. Use shoulder, harness, gimbal or vest.")
    wanted = _POINT_OF[support] if support is not None else None
    for option, value in points.items():
        if value is not None and option != wanted:
            owner = next(kind for kind, name in _POINT_OF.items() if name == option)
            raise EquilixError(f"{option} works only with --support {owner}.")
    if tilt is not None and support != "gimbal":
        raise EquilixError("--tilt works only with --support gimbal.")
    if wanted is None:
        return None
    if points[wanted] is None:
        raise EquilixError(f"--support {support} needs {wanted} X,Y,Z in mm.")
    return np.array(points[wanted])


def _combined(table: PartsTable, path: Path) -> MassProperties:
    if not table.mass.any():
        raise EquilixError(f"{shown(path)}, column mass_kg: the total is zero. Give at least one part a mass.")
    round_ones = cylinder_inertia(table.mass, table.size[:, 1] / 2.0, table.size[:, 0])
    boxes = cuboid_inertia(table.mass, table.size)
    return combine_arrays(table.mass, table.cg, np.where(table.cylinder[:, None], round_ones, boxes))


def _support_figures(
    body: MassProperties, support: str | None, point: np.ndarray | None, tilt_deg: float
) -> dict[str, object] | None:
    if support is None or point is None:
        return None
    if support == "shoulder":
        moments = shoulder_moments(body, point)
        return {"pitch_moment_nm": moments.pitch_moment, "roll_moment_nm": moments.roll_moment}
    if support == "harness":
        hung = hang(body, point)
        return {
            "tension_n": hung.tension,
            "stable": hung.stable,
            "hang_pitch_deg": _degrees(hung.pitch),
            "hang_roll_deg": _degrees(hung.roll),
        }
    if support == "gimbal":
        torques = gimbal_torques(body, point, math.radians(tilt_deg))
        return {
            "offset_mm": [float(v) * 1000.0 for v in torques.offset],
            "tilt_torque_nm": torques.tilt_torque,
            "roll_torque_nm": torques.roll_torque,
        }
    sled = sled_figures(body, point)
    return {
        "static_pitch_deg": _degrees(sled.pitch),
        "static_roll_deg": _degrees(sled.roll),
        "drop_time_s": sled.drop_time,
        "pan_products_kg_m2": list(sled.pan_products),
    }


def _degrees(angle: float | None) -> float | None:
    return None if angle is None else math.degrees(angle)


class _Result(Struct, frozen=True, eq=False):
    body: MassProperties
    support: dict[str, object] | None

    def figures(self) -> dict[str, object]:
        return {
            "mass_kg": self.body.mass,
            "cg_mm": [float(v) * 1000.0 for v in self.body.cg],
            "inertia_kg_m2": self.body.inertia.tolist(),
            "support": self.support,
        }

    def finite(self) -> bool:
        return _all_finite(self.figures())

    def json(self) -> str:
        import msgspec

        return msgspec.json.encode(self.figures()).decode()

    def text(self, name: str, count: int) -> str:
        x, y, z = (float(v) * 1000.0 for v in self.body.cg)
        inertia = self.body.inertia
        lines = [
            f"{name}: {count} part{'s' if count != 1 else ''}",
            f"  Mass     {self.body.mass:.3f} kg",
            f"  CG       {x:+.1f} mm forward, {y:+.1f} mm left, {z:+.1f} mm up",
            "  Inertia about the CG, kg m²",
        ]
        lines += ["           " + "  ".join(f"{v:+.6f}" for v in row) for row in inertia]
        for key, value in (self.support or {}).items():
            lines.append(f"  {_label(key)}: {_shown(value, key)}")
        return "\n".join([lines[0], *(line.replace("-", "−") for line in lines[1:])])


_LABELS = {
    "pitch_moment_nm": ("Moment about the pad, forward positive", "N m"),
    "roll_moment_nm": ("Moment about the pad, right positive", "N m"),
    "tension_n": ("Pull on the cable", "N"),
    "stable": ("Hangs without turning over", ""),
    "hang_pitch_deg": ("Hangs, nose down", "degrees"),
    "hang_roll_deg": ("Hangs, left side high", "degrees"),
    "offset_mm": ("CG distance from the pivot", "mm"),
    "tilt_torque_nm": ("Gravity torque about tilt", "N m"),
    "roll_torque_nm": ("Gravity torque about roll", "N m"),
    "static_pitch_deg": ("Hangs, nose down", "degrees"),
    "static_roll_deg": ("Hangs, left side high", "degrees"),
    "drop_time_s": ("Drop time", "s"),
    "pan_products_kg_m2": ("Products of inertia for pan, I_xz and I_yz", "kg m²"),
}


def _label(key: str) -> str:
    return _LABELS[key][0]


def _shown(value: object, key: str) -> str:
    unit = _LABELS[key][1]
    if value is None:
        return "not known"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return ", ".join(f"{v:+.4g}" for v in value) + f" {unit}"
    return f"{value:+.4g} {unit}" if unit else f"{value}"


def _all_finite(value: object) -> bool:
    if isinstance(value, dict):
        return all(_all_finite(v) for v in value.values())
    if isinstance(value, list):
        return all(_all_finite(v) for v in value)
    return not isinstance(value, float) or math.isfinite(value)


def run(arguments: Sequence[str]) -> int:
    """Run the subcommand with `arguments`; return the exit code."""
    return run_command(analyse, arguments, "equilix analyse")
