"""Speed, as ratios measured in one run: `.venv/bin/python benchmarks/run.py`.

Each line gives a ratio, its goal and what was compared. Ratios of medians move little between
machines; the times beside them are only to judge them by.
"""

from __future__ import annotations

import os
import resource
import statistics
import subprocess
import sys
import tempfile
import textwrap
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from msgspec.structs import replace

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
_STATE = tempfile.mkdtemp()
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = _STATE
sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.rigs.plain import OPERATOR, all_free_slides, base, block, grip, rail

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Placed
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category, Part
from equilix.core.registry import support_for
from equilix.core.solver.plan import Goal, Limits
from equilix.core.uncertainty.output_model import LARGER_HAND, output_model, output_uncertainties
from equilix.io.shipped import demo_book
from equilix.supports.shoulder import mechanics as shoulder

#: Looks until a window's first picture is painted.
PAINTED = """
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QApplication, QMainWindow


class Paints(QObject):
    seen = False

    def eventFilter(self, watched, event):
        self.seen = self.seen or event.type() == QEvent.Type.Paint
        return False


def until_painted(window):
    paints = Paints()
    window.installEventFilter(paints)
    while not paints.seen:
        QApplication.processEvents()
"""
BARE_WINDOW = """
import os
import sys
import numpy
{painted}
app = QApplication(sys.argv)
window = QMainWindow()
window.resize(1280, 800)
window.show()
until_painted(window)
if "{end}":
    os._exit(0)
"""
# What looks comes after the groundwork, as the binding does in a start that nobody looks at.
DEMO_WINDOW = """
from equilix.__main__ import main
from equilix.cli import display

lay_groundwork = display.lay_groundwork


def then_look(*opened):
    lay_groundwork(*opened)
    import equilix.desktop.widgets.binding
{painted}
    def once(*ignored):
        until_painted(next(w for w in QApplication.topLevelWidgets() if isinstance(w, QMainWindow)))
        return 0

    QApplication.exec = once


display.lay_groundwork = then_look
main(["--demo"])
"""


def median(action: Callable[[], object], repeats: int) -> float:
    """Return the median time (s) of `action`."""
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        action()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def in_turn(*actions: Callable[[], object], rounds: int = 60, each: int = 5) -> list[float]:
    """Return the median time (s) of each action, a few of one and of the other in turn.

    A machine's speed changes within seconds: what is compared must be measured in the same ones.
    """
    times: list[list[float]] = [[] for _ in actions]
    for _ in range(rounds):
        for action, took in zip(actions, times, strict=True):
            for _ in range(each):
                start = time.perf_counter()
                action()
                took.append(time.perf_counter() - start)
    return [statistics.median(took) for took in times]


def long_rig(count: int) -> tuple[Build, dict[str, Part]]:
    """Return a shoulder rig of `count` parts: rails of nine slides each, side by side, a camera and two grips."""
    rng = np.random.default_rng(count)
    rails = -(-count // 10)
    lanes = tuple(
        replace(rail(f"r{k}", half=0.6), at=(0.0, 0.06 * (k % 40), 0.06 * (k // 40 + 1))) for k in range(rails)
    )
    kit = {"base": replace(base(), mounts=(base().mount("shoulder"), *lanes))}
    placed = [Placed("base", "base")]
    for i in range(1, count - 2):
        category = Category.BODY if i == 1 else Category.OTHER
        part = block(f"p{i}", float(rng.uniform(0.1, 1.0)), (0.05, 0.05, 0.05), category)
        kit[part.id] = part
        setting = -0.5 + 0.1 * ((i - 1) % 9) + float(rng.uniform(0.0, 0.03))
        placed.append(Placed(part.id, part.id, "base", f"r{(i - 1) // 9 % rails}", 0, setting))
    for side in ("left", "right"):
        kit[side] = grip(side)
        placed.append(Placed(side, side, "base", "r0", 0, 0.55 if side == "left" else 0.5))
    return Build("bench", "Bench", tuple(placed)), kit


class Ticks:
    """Moves one slide back and forth, as a mouse does, and works out all figures each time."""

    def __init__(
        self, count: int, support: str = "shoulder", rig: tuple[Build, dict[str, Part]] | None = None, moves: int = 5
    ) -> None:
        self.build, self.kit = rig or long_rig(count)
        self.moves = moves
        self.build = replace(self.build, support=support)
        self.analysis: Analysis = analyse(self.build, self.kit, OPERATOR)
        self.turn = 0

    def __call__(self) -> None:
        self.turn += 1
        parts = list(self.build.parts)
        start = -0.1 if self.moves == 5 else -0.02
        parts[self.moves] = replace(parts[self.moves], setting=start + 0.001 * (self.turn % 20))
        self.build = replace(self.build, parts=tuple(parts))
        self.analysis = analyse(self.build, self.kit, OPERATOR, self.analysis)
        outputs = output_model(self.analysis)
        assert outputs is not None
        # What the panel shows with its uncertainty while a part slides.
        output_uncertainties(outputs, tuple(g for g in (LARGER_HAND, shoulder.ON_SHOULDER) if g in outputs.offered))


def mujoco_load(build: Build, kit: dict[str, Part]) -> Callable[[], object]:
    """Return what loads the same rig, one body each on a slide, in MuJoCo."""
    import mujoco

    children: dict[str | None, list[Placed]] = {}
    for placed in build.parts:
        children.setdefault(placed.parent, []).append(placed)

    def body(placed: Placed) -> str:
        part = kit[placed.part_id]
        half = " ".join(str(v / 2) for v in part.outline.size) if part.outline else "0.01 0.01 0.01"
        joint = '<joint type="slide" axis="1 0 0"/>' if placed.parent else "<freejoint/>"
        inner = "".join(body(child) for child in children.get(placed.id, []))
        geom = f'<geom type="box" size="{half}" mass="{part.mass}"/>'
        return f'<body name="{placed.id}" pos="{placed.setting} 0 0">{joint}{geom}{inner}</body>'

    xml = f"<mujoco><worldbody>{body(build.parts[0])}</worldbody></mujoco>"
    return lambda: mujoco.MjModel.from_xml_string(xml)


def line(ratio: float, goal: str, what: str) -> None:
    """Print one result; one that is only told has no goal."""
    print(f"{ratio:7.2f}   {f'goal {goal}':<17} {what}" if goal else f"{ratio:7.2f}   {'':<17} {what}")


def tick_against_mujoco() -> None:
    load = mujoco_load(*long_rig(60))
    median(load, 20)
    for support in KEYS:
        ticks = Ticks(60, support)
        median(ticks, 20)
        ours, theirs = in_turn(ticks, load)
        line(
            ours / theirs,
            "at most 0.5",
            f"slide tick to all figures, 60 parts, {support}, over MuJoCo's load of it "
            f"({ours * 1e3:.2f} ms, {theirs * 1e3:.2f} ms)",
        )
    book = demo_book()
    for build in book.builds:
        if support_for(build.support).has_stages:
            kit = dict(book.parts)
            moves = next(k for k, placed in enumerate(build.parts) if placed.id == "plate")
            ticks = Ticks(0, build.support, (build, kit), moves)
            load = mujoco_load(build, kit)
            median(load, 20)
            median(ticks, 20)
            ours, theirs = in_turn(ticks, load)
            line(
                ours / theirs,
                "at most 0.5",
                f"the same, {build.name}, {len(build.parts)} parts with all that swings "
                f"({ours * 1e3:.2f} ms, {theirs * 1e3:.2f} ms)",
            )


def growth() -> None:
    small, large = Ticks(60), Ticks(1000)
    median(small, 20)
    a, b = median(small, 300), median(large, 12)
    line(
        b / a / (1000 / 60),
        "about 1",
        f"slide tick, 1,000 parts over 60, per part ({b * 1e3:.1f} ms, {a * 1e3:.2f} ms)",
    )
    first_small = median(lambda: analyse(*long_rig_60, OPERATOR), 20)
    first_large = median(lambda: analyse(*long_rig_1000, OPERATOR), 3)
    line(
        first_large / first_small / (1000 / 60),
        "about 1",
        f"first analysis, 1,000 parts over 60, per part ({first_large * 1e3:.0f} ms, {first_small * 1e3:.2f} ms)",
    )


def painted_frame(build: str = "long-zoom") -> None:
    from PySide6.QtWidgets import QApplication

    from equilix.desktop.app import make_app
    from equilix.desktop.looks.theme import Theme
    from equilix.desktop.views.rooms import BALANCE
    from equilix.desktop.window import MainWindow
    from equilix.desktop.workspace import Workspace
    from equilix.document.edits.builds import SetSlide
    from equilix.io.preferences import Preferences

    app = make_app(Theme.LIGHT)
    workspace = Workspace(Preferences())
    window = MainWindow(workspace)
    workspace.open_book(demo_book(), None)
    workspace.choose_build(build)
    window.resize(1280, 800)
    window.show()
    window.go(BALANCE)
    QApplication.processEvents()
    window.balance.slides._moved = True
    window.balance.elevation._held = ("part", "plate")
    turn = 0

    def tick() -> None:
        nonlocal turn
        turn += 1
        workspace.apply(SetSlide(build, "plate", 0.001 * (turn % 40), "plate"))
        app.processEvents()

    median(tick, 20)
    spent = median(tick, 150)
    line(
        spent / (1.0 / 60.0),
        "at most 0.5",
        f"slide tick to painted frame over a frame of 1/60 s, {build} ({spent * 1e3:.1f} ms)",
    )
    app.processEvents()


def start_up() -> None:
    """Every start but the first: Python keeps what it compiled, which it is told not to on some machines.

    Seconds of the processor, which a start has to itself: by the clock one takes twice as long while others use the
    machine. The threads of BLAS, which only wait, are left out of all. The demo window ends without taking anything
    apart; the bare one is run both as it is and ended in the same way.
    """

    def run(script: str) -> float:
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, env=environment)
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime

    demo = DEMO_WINDOW.format(painted=textwrap.indent(PAINTED, "    "))
    whole, cut = (BARE_WINDOW.format(painted=PAINTED, end=end) for end in ("", "at once"))
    with tempfile.TemporaryDirectory() as cache:
        environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
        environment |= {"PYTHONPYCACHEPREFIX": cache, "OPENBLAS_NUM_THREADS": "1"}
        rows = [(run(demo), run(whole), run(cut)) for _ in range(12)][1:]
    ours, bare, painted = (statistics.median(times) for times in zip(*rows, strict=True))
    line(
        ours / bare,
        "at most 1.7",
        f"run of the demo window to its first picture over a bare PySide6 and NumPy one ({ours:.2f} s, {bare:.2f} s)",
    )
    line(ours / painted, "", f"the same, the bare window's end left out ({painted:.2f} s)")


def draws_against_numpy() -> None:
    """All outputs of 100,000 drawn rigs against NumPy that draws the same numbers and multiplies them once."""
    from equilix.core.uncertainty.montecarlo import SAMPLES, sample
    from equilix.core.uncertainty.output_model import output_model

    build, kit = long_rig_60
    # Sheet masses, so that every figure is drawn, as in the bare product.
    kit = {i: replace(part, mass_u=0.02 * (part.mass or 0.0)) for i, part in kit.items()}
    analysis = analyse(build, kit, OPERATOR)
    outputs = output_model(analysis)
    assert outputs is not None
    assembly = analysis.assembly

    def bare() -> object:
        rng = np.random.default_rng(1)
        mass = assembly.mass + assembly.uncertainties.mass * rng.standard_normal((SAMPLES, 60))
        place = analysis.positions.cg + assembly.uncertainties.cg * rng.standard_normal((SAMPLES, 60, 3))
        return np.einsum("di,dij->dj", mass, place) / mass.sum(axis=1)[:, None]

    ours, theirs = median(lambda: sample(analysis, outputs), 5), median(bare, 5)
    line(
        ours / theirs,
        "at most 2",
        f"whole verdict of {SAMPLES} drawn 60-part rigs over bare NumPy draws and product "
        f"({ours:.2f} s, {theirs:.2f} s)",
    )


def large_kit() -> None:
    """One typed mass in the real window, in a kit of 5,000 parts over one of 42."""
    from PySide6.QtWidgets import QApplication

    from equilix.desktop.app import make_app
    from equilix.desktop.looks.theme import Theme
    from equilix.desktop.views.rooms import WEIGH
    from equilix.desktop.window import MainWindow
    from equilix.desktop.workspace import Workspace
    from equilix.io.preferences import Preferences
    from equilix.io.shipped import demo_book
    from equilix.present.kit.table import Column

    make_app(Theme.LIGHT)
    small = demo_book()
    more = tuple(replace(small.kit[i % 42], id=f"more{i}", name=f"{small.kit[i % 42].name} {i}") for i in range(4958))
    spent = {}
    for name, book in (("small", small), ("large", replace(small, kit=(*small.kit, *more)))):
        workspace = Workspace(Preferences())
        window = MainWindow(workspace)
        window.resize(1280, 800)
        window.show()
        window.go(WEIGH)
        opened = time.perf_counter()
        workspace.open_book(book, None)
        QApplication.processEvents()
        spent[f"{name} open"] = time.perf_counter() - opened
        model = window.weigh.table.kit_model
        turn = 0

        def edit(model: Any = model) -> None:
            nonlocal turn
            turn += 1
            model.change(model.parts[20], Column.MASS, f"{1 + 0.001 * turn:.3f}")
            QApplication.processEvents()

        def search(window: Any = window) -> None:
            nonlocal turn
            turn += 1
            window.weigh.search.setText("zoom" if turn % 2 else "prime")
            QApplication.processEvents()

        spent[f"{name} edit"], spent[f"{name} search"] = median(edit, 15), median(search, 14)
        workspace.saved_book = workspace.book
        window.close()
    for what in ("open", "search", "edit"):
        large, little = spent[f"large {what}"], spent[f"small {what}"]
        line(large / little, "at most 10", f"{what} in a kit of 5,000 over 42 parts ({large:.3f} s, {little:.3f} s)")


def search_against_highs() -> None:
    """Eight free slides and twelve ballast choices: our five goals over one HiGHS call, and over brute force."""
    from tests.core.solver.test_search_references import BruteForce, rails

    from equilix.core.assembly.resolve import prepare
    from equilix.core.kit.parts import Mount, MountKind
    from equilix.core.solver import search
    from equilix.core.solver.choices import Choice, Option, Variable
    from equilix.core.solver.plan import Target
    from equilix.core.solver.search import find_plan
    from equilix.core.solver.targets import target_of

    def problem(slides: int, mounts: int) -> tuple[Build, dict[str, Part], tuple[Choice, ...]]:
        rng = np.random.default_rng(7)
        build, kit = rails(slides, rng)
        spots = tuple(
            Mount(f"m{k}", MountKind.QUARTER_20, (-0.3 + 0.1 * k, -0.5 * (k + 1), 0.0)) for k in range(mounts)
        )
        front = Mount("front", MountKind.QUARTER_20, (0.4, 0.0, 0.3))
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, *spots, front))
        kit["front"] = block("front", 3.0, kind=MountKind.QUARTER_20)
        choices = []
        for k in range(mounts):
            options = []
            for n in range(3):
                part = block(f"c{k}{n}", 0.2 + 0.3 * n, (0.04, 0.04, 0.04), kind=MountKind.QUARTER_20)
                kit[part.id] = part
                options.append(Option(Placed(part.id, part.id, "base", f"m{k}"), dead=n == 2))
            choices.append(Choice(tuple(options)))
        build = replace(build, parts=(*build.parts, Placed("front", "front", "base", "front")))
        return build, kit, tuple(choices)

    def wanted(build: Build, kit: dict[str, Part]) -> Target:
        found = target_of(analyse(build, kit, OPERATOR), 0.0)
        assert found is not None
        return found

    build, kit, choices = problem(8, 4)
    target = wanted(build, kit)
    variable = Variable(all_free_slides(analyse(build, kit, OPERATOR).assembly), choices)

    # The same programme, its first goal alone: what HiGHS itself takes for it.
    programme = search._Search(build, kit, target, variable, Limits(), prepare(build, kit))
    terms = programme._terms(Goal.DEAD_MASS)
    programme._terms(Goal.EFFORT)

    def one_call() -> object:
        return programme._milp(terms, 0.0)

    ours = median(lambda: find_plan(build, kit, target, variable), 12)
    theirs = median(one_call, 12)
    line(
        ours / theirs,
        "at most 16",
        f"plan over 8 slides and 12 ballast options, all goals, over one HiGHS call of that size "
        f"({ours * 1e3:.0f} ms, {theirs * 1e3:.1f} ms)",
    )
    small, small_kit, small_choices = problem(4, 3)
    small_target = wanted(small, small_kit)
    small_variable = Variable(all_free_slides(analyse(small, small_kit, OPERATOR).assembly), small_choices)
    ours = median(lambda: find_plan(small, small_kit, small_target, small_variable), 8)
    brute = median(lambda: BruteForce(small, small_kit, small_choices, 0.0), 3)
    line(ours / brute, "below 1", f"the same for 4 slides and 9 options over brute force ({ours:.3f} s, {brute:.3f} s)")


def ways_against_highs() -> None:
    """All ways of each demo build over the longest of the HiGHS solves that they take, on its support and on others."""
    from equilix.core.solver.search import _Search
    from equilix.core.solver.strategies import find_strategies

    solves: list[float] = []
    real = _Search._milp

    def timed(*given: object) -> object:
        start = time.perf_counter()
        found = real(*given)  # type: ignore[arg-type]
        solves.append(time.perf_counter() - start)
        return found

    def measured(build: Build, rounds: int) -> tuple[float, int]:
        """Return the median ratio and how many solves there were, 0 of both where none is needed."""
        analysis = analyse(build, kit, OPERATOR)
        ratios: list[float] = []
        for _ in range(rounds):
            solves.clear()
            start = time.perf_counter()
            find_strategies(analysis, kit, OPERATOR)
            ratios.append((time.perf_counter() - start) / max(solves) if solves else 0.0)
        return statistics.median(ratios), len(solves)

    _Search._milp = timed  # type: ignore[assignment,method-assign]
    book = demo_book()
    kit = dict(book.parts)
    for build in book.builds:
        ratio, count = measured(build, 7)
        line(
            ratio,
            "at most 10",
            f"all ways, {build.name}, {build.support}, over its longest HiGHS solve ({count} solves)",
        )
    for support in KEYS:
        others = [replace(build, support=support) for build in book.builds if build.support != support]
        (ratio, count), name = max((measured(build, 3), build.name) for build in others)
        if not count:
            continue
        line(ratio, "at most 10", f"all ways, {support}, the worst of the other demo builds: {name} ({count} solves)")
    _Search._milp = real  # type: ignore[method-assign]


def strategies_of_forty_parts() -> None:
    """All ways of a 40-part build over one whole analysis of it."""
    from equilix.core.solver.strategies import find_strategies
    from equilix.io.shipped import demo_book

    book = demo_book()
    build, kit = book.builds[0], dict(book.parts)
    # Small things screwed on all over, as on a rig that has grown.
    spots = tuple(
        replace(kit["cage"].mount("floor"), id=f"spot{k}", at=(0.0, -0.15 + 0.013 * k, 0.5)) for k in range(22)
    )
    kit["body"] = replace(kit["body"], mounts=(*kit["body"].mounts, *spots))
    placed = list(build.parts)
    for k in range(22):
        kit[f"x{k}"] = block(f"x{k}", 0.03, (0.008, 0.008, 0.02), Category.AUDIO, kind=spots[k].kind)
        placed.append(Placed(f"x{k}", f"x{k}", "body", f"spot{k}"))
    build = replace(build, parts=tuple(placed))
    analysis = analyse(build, kit, OPERATOR)
    assert len(build.parts) == 40
    ours = median(lambda: find_strategies(analysis, kit, OPERATOR), 6)
    one = median(lambda: analyse(build, kit, OPERATOR), 20)
    line(ours / 0.2, "below 1", f"all ways of a 40-part build over 0.2 s ({ours:.3f} s; {ours / one:.0f} analyses)")


def body_in_a_frame() -> None:
    """The whole body analysis over one frame at 60 Hz; a day of takes at 1 s steps over 50 ms."""
    from equilix.core.carry.carried import carry
    from equilix.core.operator.fatigue import Block, reserve_over
    from equilix.core.operator.strength import BodyJoint
    from equilix.io.shipped import demo_book

    book = demo_book()
    analysis = analyse(book.builds[0], book.parts, book.operators[0])
    for kind in KEYS:
        whole = median(lambda kind=kind: carry(analysis, book.operators[0], kind), 40)  # type: ignore[misc]
        line(whole * 60.0, "below 1", f"body of a {kind} rig over one frame at 60 Hz ({whole * 1e3:.1f} ms)")
    blocks = [Block(240.0, 360.0)] * 60
    day = median(lambda: [reserve_over(joint, 0.2, blocks) for joint in BodyJoint], 20)
    line(day / 0.05, "below 1", f"all joints over 10 h at 1 s steps over 50 ms ({day * 1e3:.1f} ms)")


long_rig_60, long_rig_1000 = long_rig(60), long_rig(1000)

if __name__ == "__main__":
    only = sys.argv[1:]
    if only:
        for name in only:
            globals()[name]()
        sys.exit()
    print("  ratio")
    tick_against_mujoco()
    painted_frame()
    painted_frame("gimbal-light")
    start_up()
    growth()
    draws_against_numpy()
    large_kit()
    search_against_highs()
    ways_against_highs()
    strategies_of_forty_parts()
    body_in_a_frame()
