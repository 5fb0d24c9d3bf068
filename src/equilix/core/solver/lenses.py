"""The lens table: where the camera must stand for each lens, one place for all, and the fewest marks that serve.

With slope s_j (kg carried less what moves the pad) and mark q_j of lens j the moment at q is ``g s_j (q - q_j)``.
One place for all minimises the greatest ``s_j |q - q_j|``: for the worst pair it is ``s_j s_k |q_j - q_k| /
(s_j + s_k)`` at ``(s_j q_j + s_k q_k)/(s_j + s_k)``, a weighted Chebyshev centre on a line (closed form). The fewest
marks are the fewest points that meet all intervals ``q_j +- tolerance/(g s_j)``: take the earliest right end,
drop those that it serves, repeat; Cormen et al., Introduction to Algorithms, on activity selection.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, FindingKind, new_warnings
from equilix.core.assembly.build import Build, Kit, Operator, Placed
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Mount, Part
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.rounding import EXACT, SLIGHT, lies_between, negligible
from equilix.core.slides import USUAL_TOLERANCE, slide_of_camera
from equilix.core.solver.choices import Variable, first_placed, lens_swaps, without_lens
from equilix.core.solver.plan import Goal, Plan
from equilix.core.solver.problem import moment_form
from equilix.core.solver.search import clashing, find_plan
from equilix.core.solver.search_space import lens_followers
from equilix.core.solver.targets import target_of


class LensMark(Struct, frozen=True):
    """One lens on the build, or none (`part` None): `mark` (m, endless slide), `stop` (m) the nearest to it there is.

    At the stop nothing meets that does not on the rig as it stands, or `meets` are the pairs of placed parts that no
    place keeps apart; `along` are the settings (m) of what is set to the lens and goes with the camera.
    `slope` kg; `remaining` (N m) and `hand` (N) at the stop; `at_common` (N m) and `hand_common` (N) with the camera
    at the common place, where parts newly meet if `meets_common`.
    `long_end` marks a zoom at its long end. `reason` says why the lens can't go on.
    """

    part: Part | None
    long_end: bool
    mark: float
    stop: float
    slope: float
    remaining: float
    hand: float
    half: float
    at_common: float = 0.0
    hand_common: float = 0.0
    served_by: int = 0
    reason: str = ""
    along: tuple[tuple[str, float], ...] = ()
    meets_common: bool = False
    meets: tuple[tuple[str, str], ...] = ()


class LensTable(Struct, frozen=True):
    """All lenses; `common` (m) is the one place, `marks` (m) the fewest that keep each lens within the tolerance.

    `common_along` are the settings (m) of what goes along to the one place on the build as it is.
    """

    placed_id: str
    mount: Mount
    rows: tuple[LensMark, ...]
    misfits: tuple[tuple[Part, str], ...]
    common: float
    marks: tuple[float, ...]
    common_along: tuple[tuple[str, float], ...] = ()


def worst_pair(marks: Sequence[float], slopes: Sequence[float]) -> tuple[float, float]:
    """Return the place q that makes the greatest ``s_j |q - q_j|`` least, and that value.

    Marks in m, slopes in kg, above zero; the value in kg m.
    """
    if not marks:
        return 0.0, 0.0
    place, value = marks[0], 0.0
    for j in range(len(marks)):
        for k in range(j):
            total = slopes[j] + slopes[k]
            worst = slopes[j] * slopes[k] * abs(marks[j] - marks[k]) / total
            if worst > value:
                place, value = (slopes[j] * marks[j] + slopes[k] * marks[k]) / total, worst
    return place, value


def fewest_marks(intervals: Sequence[tuple[float, float]]) -> tuple[float, ...]:
    """Return the fewest points such that each interval (low, high) holds one."""
    points: list[float] = []
    for low, high in sorted(intervals, key=lambda interval: interval[1]):
        if not points or low > points[-1] + EXACT:
            points.append(high)
    return tuple(points)


def lens_table(
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    matte_box: bool = True,
    tolerance: float | None = None,
    go_on: Callable[[], bool] = lambda: True,
) -> LensTable | None:
    """Return the table for every lens of the kit in the place of the one on the build.

    What sits on the lens goes along if it fits, without matte boxes if `matte_box` is False; an adapter
    stays. Zooms whose CG travels stand twice. One row more is for the camera with no lens and nothing on it, which the
    one place and the fewest marks don't ask for. `tolerance` N m; None: the CG stays on the pad's useful span,
    less its uncertainty, or what is usual in the hands. None if the build has no lens, no support or no slide for the
    camera, or if told to stop.
    """
    slide = slide_of_camera(analysis)
    lens = first_placed(analysis.build, kit, Category.LENS)
    if slide is None or lens is None or analysis.equilibrium is None:
        return None
    camera = analysis.build.parts[analysis.assembly.slide_parts[slide]]
    mount = analysis.assembly.slide_mounts[slide]
    known = clashing(analysis.assembly, analysis.build)
    rows: list[LensMark] = []
    analysed: list[tuple[Kit, Analysis]] = []  # of each row
    misfits: list[tuple[Part, str]] = []
    for swap in lens_swaps(analysis.build, kit, matte_box):
        if not go_on():
            return None
        part, variant = swap.lens, swap.build
        if variant is None:
            misfits.append((part, swap.reason))
            continue
        for long_end in (False, True) if part.cg_travel else (False,):
            ends = _at_end(kit, part, long_end)
            analysed.append((ends, analyse(variant, ends, operator)))
            rows.append(_row(analysed[-1][1], ends, operator, part, long_end, camera, tolerance, known))
    usable = [row for row in rows if row.slope > SLIGHT]
    analysed.append((kit, analyse(without_lens(analysis.build, lens), kit, operator)))
    rows.append(_row(analysed[-1][1], kit, operator, None, False, camera, tolerance, known))
    place, _ = worst_pair([row.mark for row in usable], [row.slope for row in usable])
    common = mount.snap(min(max(place, mount.low), mount.high))
    marks = _centred(fewest_marks([_interval(row, mount) for row in usable]), usable, mount)
    done = []
    for row, (ends, now) in zip(rows, analysed, strict=True):
        if not go_on():
            return None
        held = analyse(_set_with(now, camera, common), ends, operator, now)
        meets = any(finding.kind is FindingKind.CLASH for finding in new_warnings(now, held))
        served = min(range(len(marks)), key=lambda k: abs(marks[k] - row.mark)) if marks else 0
        done.append(
            replace(
                row,
                at_common=_tip(held),
                hand_common=_hand(held),
                served_by=_serving(row, marks, mount, served),
                meets_common=meets,
            )
        )
    order = sorted(done, key=lambda row: row.mark)
    moved = _set_with(analysis, camera, common)
    along = tuple(
        (placed.id, placed.setting)
        for placed in moved.parts
        if placed.id != camera.id and placed.setting != analysis.build.placed(placed.id).setting
    )
    return LensTable(camera.id, mount, tuple(order), tuple(misfits), common, marks, along)


def _at_end(kit: Kit, part: Part | None, long_end: bool) -> Kit:
    if part is None or not long_end:
        return kit
    x, y, z = part.centre
    return {**kit, part.id: replace(part, cg=(x + part.cg_travel, y, z))}


def _row(
    now: Analysis,
    kit: Kit,
    operator: Operator,
    part: Part | None,
    long_end: bool,
    camera: Placed,
    tolerance: float | None,
    known: list[tuple[str, str]],
) -> LensMark:
    variant = now.build
    equilibrium, spread, body = now.equilibrium, now.spread, now.body
    slide = slide_of_camera(now)
    assert equilibrium is not None
    assert spread is not None
    assert body is not None
    assert slide is not None
    form = moment_form(
        now.assembly,
        now.positions,
        now.settings,
        equilibrium.point,
        equilibrium.holder,
        equilibrium.of_form(now.assembly.mass),
    )
    slope = float(form.slope[slide] @ equilibrium.forward)
    mount = now.assembly.slide_mounts[slide]
    setting = float(now.settings[slide])
    mark = setting - float(form.moment @ equilibrium.forward) / slope if not negligible(slope) else setting
    along: tuple[tuple[str, float], ...] = ()
    # Apart but for what meets on the rig as it stands; where no place does that, but for what the swap itself brings.
    plan = _clear_place(variant, kit, now, camera, known) or _clear_place(variant, kit, now, camera, None)
    if plan is None:
        # Nothing better without parts that newly meet: it stays, and what is left over is said.
        stop = mount.snap(setting)
        there = analyse(_set(variant, camera, stop), kit, operator, now)
    else:
        stop = plan.build.placed(camera.id).setting
        along = tuple((i, setting) for i, setting in plan.moved.items() if i != camera.id)
        there = analyse(plan.build, kit, operator, now)
        if abs(_tip(there)) < _LEVEL:
            mark = stop  # with what goes along it is level here
    meets = tuple(pair for pair in clashing(there.assembly, there.build) if pair not in known)
    if tolerance is None and equilibrium.span is not None:
        allowed = form.mass * max(equilibrium.span - COVERAGE * equilibrium.ahead_uncertainty, 0.0)
    else:
        allowed = (USUAL_TOLERANCE if tolerance is None else tolerance) / STANDARD_GRAVITY
    half = allowed / abs(slope) if not negligible(slope) else 0.0
    return LensMark(part, long_end, mark, stop, abs(slope), _tip(there), _hand(there), half, along=along, meets=meets)


#: m off its mark from which a lens counts as held up by other parts.
_BLOCKED = 5e-4
#: N m left over that counts as none: what rounding leaves.
_LEVEL = 1e-4


def _clear_place(
    variant: Build, kit: Kit, now: Analysis, camera: Placed, known: list[tuple[str, str]] | None
) -> Plan | None:
    """Return where the camera leaves least with nothing meeting but `known`; what is set to the lens goes along."""
    target = target_of(now, 0.0)
    if target is None:
        return None
    pitch = replace(target, forms=target.forms[:1])
    variable = Variable(frozenset({camera.id}), (), lens_followers(now))
    plan = find_plan(variant, kit, pitch, variable, (Goal.MOMENT, Goal.TRAVEL), assembly=now.assembly, known=known)
    if not plan.found:
        return None
    left = [pair for pair in clashing(plan.assembly or now.assembly, plan.build) if pair not in (known or ())]
    return None if known is not None and left else plan


def _centred(marks: Sequence[float], rows: Sequence[LensMark], mount: Mount) -> tuple[float, ...]:
    """Return the marks moved to where the worst of the lenses that each serves is served best."""
    groups: dict[int, list[LensMark]] = {}
    for row in rows:
        low, high = _interval(row, mount)
        first = next((k for k, mark in enumerate(marks) if lies_between(mark, low, high)), None)
        if first is not None:
            groups.setdefault(first, []).append(row)
    moved = list(marks)
    for k, group in groups.items():
        place, _ = worst_pair([row.mark for row in group], [row.slope for row in group])
        low = max(_interval(row, mount)[0] for row in group)
        high = min(_interval(row, mount)[1] for row in group)
        moved[k] = min(max(place, low), high)
    return tuple(moved)


def _interval(row: LensMark, mount: Mount) -> tuple[float, float]:
    """Return the places (m) that keep a lens within its tolerance, inside the slide's travel.

    Where parts are in the way of its mark that is the one place that was found free of them.
    """
    if abs(row.stop - mount.snap(row.mark)) > _BLOCKED:
        return (row.stop, row.stop)
    low, high = max(row.mark - row.half, mount.low), min(row.mark + row.half, mount.high)
    return (low, high) if low <= high else (row.stop, row.stop)


def _serving(row: LensMark, marks: Sequence[float], mount: Mount, nearest: int) -> int:
    low, high = _interval(row, mount)
    inside = [k for k, mark in enumerate(marks) if lies_between(mark, low, high)]
    return min(inside, key=lambda k: abs(marks[k] - row.mark)) if inside else nearest


def _set(build: Build, camera: Placed, setting: float) -> Build:
    return build.with_placed(replace(camera, setting=setting))


def _set_with(analysis: Analysis, camera: Placed, setting: float) -> Build:
    """Return the build with the camera at `setting` (m) and what is set to the lens gone along as far as it must."""
    build = _set(analysis.build, camera, setting)
    assembly = analysis.assembly
    number = {analysis.build.parts[i].id: j for j, i in enumerate(assembly.slide_parts)}
    leader = number[camera.id]
    way = setting - float(analysis.settings[leader])
    for follower in lens_followers(analysis):
        j = number.get(follower.follower)
        if j is None or follower.leader != camera.id:
            continue
        same = float(assembly.slide_axes[leader] @ assembly.slide_axes[j])
        goes = min(max(0.0, same * way + follower.back), same * way + follower.ahead)
        placed, mount = build.placed(follower.follower), assembly.slide_mounts[j]
        build = build.with_placed(replace(placed, setting=min(max(placed.setting + goes, mount.low), mount.high)))
    return build


def _tip(analysis: Analysis) -> float:
    return analysis.equilibrium.tip_moment if analysis.equilibrium is not None else 0.0


def _hand(analysis: Analysis) -> float:
    holding = analysis.equilibrium.holding if analysis.equilibrium is not None else None
    return holding.larger if holding is not None else float("nan")
