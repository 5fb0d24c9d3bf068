"""`equilix analyse` on tables that nobody thought of."""

from __future__ import annotations

import contextlib
import io
import json
import math
import tempfile
import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from equilix.__main__ import main
from equilix.core.frames import STANDARD_GRAVITY
from tests.campaigns import campaign

HEADER = "name,mass_kg,x_mm,y_mm,z_mm,length_mm,width_mm,height_mm"
PLACE = st.floats(-2000.0, 2000.0).map(lambda v: round(v, 3))
SIZE = st.floats(0.0, 500.0).map(lambda v: round(v, 3))
ROW = st.tuples(st.floats(0.001, 20.0).map(lambda v: round(v, 4)), PLACE, PLACE, PLACE, SIZE, SIZE, SIZE)


def run(content: bytes, *options: str) -> tuple[int, str, str]:
    """Return exit code, stdout and stderr of `analyse` on a table with this content."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "t.csv"
        path.write_bytes(content)
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(["analyse", str(path), "--json", *options])
        return code, out.getvalue(), err.getvalue()


def table(rows: list[tuple[float, ...]]) -> bytes:
    return "\n".join([HEADER, *(",".join(["p", *map(repr, row)]) for row in rows)]).encode()


@campaign
class Properties(unittest.TestCase):
    @settings(max_examples=80, deadline=None)
    @given(st.lists(ROW, min_size=1, max_size=8), st.randoms())
    def test_the_order_of_rows_changes_nothing(self, rows: list[tuple[float, ...]], random: object) -> None:
        first = json.loads(run(table(rows))[1])
        shuffled = list(rows)
        random.shuffle(shuffled)  # type: ignore[attr-defined]
        second = json.loads(run(table(shuffled))[1])
        self.assertAlmostEqual(first["mass_kg"], second["mass_kg"], places=9)
        for a, b in zip(first["cg_mm"], second["cg_mm"], strict=True):
            self.assertAlmostEqual(a, b, places=6)

    @settings(max_examples=80, deadline=None)
    @given(st.lists(ROW, min_size=1, max_size=6), PLACE, PLACE, PLACE)
    def test_moving_all_parts_moves_the_cg_and_leaves_the_inertia(
        self, rows: list[tuple[float, ...]], dx: float, dy: float, dz: float
    ) -> None:
        moved = [(m, x + dx, y + dy, z + dz, *size) for m, x, y, z, *size in rows]
        first, second = (json.loads(run(table(r))[1]) for r in (rows, moved))
        for a, b, d in zip(first["cg_mm"], second["cg_mm"], (dx, dy, dz), strict=True):
            self.assertAlmostEqual(a + d, b, places=6)
        for i in range(3):
            for j in range(3):
                a, b = first["inertia_kg_m2"][i][j], second["inertia_kg_m2"][i][j]
                self.assertAlmostEqual(a, b, delta=1e-8 * max(1.0, abs(a)))

    @settings(max_examples=60, deadline=None)
    @given(st.lists(ROW, min_size=1, max_size=6))
    def test_a_rig_on_its_own_cg_balances_everywhere(self, rows: list[tuple[float, ...]]) -> None:
        found = json.loads(run(table(rows))[1])
        weight = found["mass_kg"] * STANDARD_GRAVITY
        point = ",".join(repr(v) for v in found["cg_mm"])
        shoulder = json.loads(run(table(rows), "--support", "shoulder", "--pad", point)[1])["support"]
        self.assertAlmostEqual(shoulder["pitch_moment_nm"], 0.0, delta=1e-9 * weight)
        gimbal = json.loads(run(table(rows), "--support", "gimbal", "--pivot", point, "--tilt", "33")[1])["support"]
        self.assertAlmostEqual(gimbal["tilt_torque_nm"], 0.0, delta=1e-9 * weight)
        self.assertTrue(all(abs(v) < 1e-6 for v in gimbal["offset_mm"]))

    @settings(max_examples=60, deadline=None)
    @given(st.lists(ROW, min_size=1, max_size=5), st.floats(-90.0, 90.0))
    def test_the_peak_torque_of_a_gimbal_is_weight_times_offset(
        self, rows: list[tuple[float, ...]], tilt: float
    ) -> None:
        found = json.loads(run(table(rows), "--support", "gimbal", "--pivot", "0,0,0", "--tilt", repr(tilt))[1])
        dx, _, dz = (v / 1000.0 for v in found["support"]["offset_mm"])
        peak = found["mass_kg"] * STANDARD_GRAVITY * math.hypot(dx, dz)
        self.assertLessEqual(abs(found["support"]["tilt_torque_nm"]), peak * (1 + 1e-9) + 1e-12)

    @settings(max_examples=250, deadline=None)
    @given(st.binary(max_size=300))
    def test_any_bytes_give_figures_or_a_sentence(self, content: bytes) -> None:
        self.plain(*run(content))

    @settings(max_examples=250, deadline=None)
    @given(st.data())
    def test_any_damage_to_a_good_table_gives_figures_or_a_sentence(self, data: st.DataObject) -> None:
        content = bytearray(table([(1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0), (2.0, 0.0, 0.0, 0.0, 1.0, 1.0, 1.0)]))
        for _ in range(data.draw(st.integers(1, 4))):
            at = data.draw(st.integers(0, len(content) - 1))
            content[at : at + data.draw(st.integers(0, 3))] = data.draw(st.binary(max_size=4))
        self.plain(*run(bytes(content)))

    def plain(self, code: int, out: str, err: str) -> None:
        self.assertIn(code, (0, 2))
        if code == 0:
            json.loads(out, parse_constant=self.fail)
            self.assertEqual(err, "")
        else:
            self.assertEqual(out, "")
            self.assertTrue(1 <= err.count("\n") <= 2)
            self.assertTrue(err.startswith("equilix analyse: "))
            self.assertNotIn("Traceback", err)
