"""Changes one token of core and supports at a time, and counts how many of the changes tests/core notices.

    .venv/bin/python benchmarks/mutants.py --seed 1 --count 200 --jobs 3

A comparison turns into its neighbour, + - * / into each other, a number into 1.25 times itself. Which tests can notice
a change is found out first: those that call the function it is in; a change outside any function concerns them all.
The quickest run first and the first failure ends it. Every test draws the same examples each time. Prints each change
that nothing noticed, and one line of JSON.
"""

from __future__ import annotations

import argparse
import ast
import copy
import importlib.abc
import importlib.machinery
import importlib.util
import json
import os
import random
import sys
import threading
import time
import types
import unittest
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
PACKAGE = ROOT / "src" / "equilix"
#: What words and draws is tested elsewhere.
OTHERWISE = ("text.py", "drawing.py", "label.py", "window.py", "window_link.py")
#: The campaigns too.
os.environ.setdefault("EQUILIX_CHECK", "all")
_COMPARED: dict[type[ast.cmpop], type[ast.cmpop]] = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
}
_OTHER: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
}
#: s after which a change counts as noticed: it hangs.
_ENDLESS = 300.0
#: Times as long as with the real code after which a change counts as hanging.
_SLOWER = 10.0


@dataclass(frozen=True)
class Spot:
    """One token that can be changed: the file, the number of its node in walking order, and where it is."""

    path: Path
    node: int
    line: int
    function: str
    words: str


def spots(path: Path) -> list[Spot]:
    """Return every token of a file that can be changed."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    skipped: set[ast.AST] = set()
    within: dict[ast.AST, str] = {}
    for node in ast.walk(tree):
        parts = [getattr(node, name, None) for name in ("annotation", "returns")]
        for part in parts:
            if isinstance(part, ast.AST):
                skipped.update(ast.walk(part))
        if isinstance(node, (ast.FunctionDef, ast.Lambda)):
            name = node.name if isinstance(node, ast.FunctionDef) else "<lambda>"
            # Code begins where its first decorator stands.
            begins = min([node.lineno, *(d.lineno for d in getattr(node, "decorator_list", []))])
            for inner in ast.walk(node):
                within[inner] = f"{name}:{begins}"
            if isinstance(node, ast.FunctionDef):
                # Defaults are worked out where the function is made.
                for default in (*node.args.defaults, *node.args.kw_defaults):
                    for inner in ast.walk(default) if default is not None else ():
                        within.pop(inner, None)
    found = []
    for number, node in enumerate(ast.walk(tree)):
        changed = mutated(node)
        if changed is None or node in skipped:
            continue
        words = f"{ast.unparse(node)[:70]}  ->  {ast.unparse(changed)[:70]}"
        found.append(Spot(path, number, getattr(node, "lineno", 0), within.get(node, ""), words))
    return found


def mutated(node: ast.AST) -> ast.AST | None:
    """Return the node with its token changed, None if it has none to change."""
    other = copy.deepcopy(node)
    if isinstance(other, ast.Compare) and type(other.ops[0]) in _COMPARED:
        other.ops[0] = _COMPARED[type(other.ops[0])]()
        return other
    if isinstance(other, ast.BinOp) and type(other.op) in _OTHER:
        other.op = _OTHER[type(other.op)]()
        return other
    number: Any = other.value if isinstance(other, ast.Constant) else None
    if isinstance(other, ast.Constant) and type(number) in (int, float) and number:
        value = number * 1.25
        other.value = value if isinstance(number, float) else max(round(value), number + 1)
        return other
    return None


class _Changed(importlib.abc.Loader):
    """Loads one module of the core with one token changed."""

    def __init__(self, spot: Spot) -> None:
        self.spot = spot

    def exec_module(self, module: types.ModuleType) -> None:
        tree = ast.parse(self.spot.path.read_text(encoding="utf-8"))
        node = list(ast.walk(tree))[self.spot.node]
        changed = mutated(node)
        assert changed is not None
        for name in node._fields:
            setattr(node, name, getattr(changed, name))
        exec(compile(ast.fix_missing_locations(tree), str(self.spot.path), "exec"), module.__dict__)


class _Finder(importlib.abc.MetaPathFinder):
    def __init__(self, spot: Spot) -> None:
        self.name = ".".join(spot.path.relative_to(ROOT / "src").with_suffix("").parts).removesuffix(".__init__")
        self.spot = spot

    def find_spec(
        self, name: str, path: Sequence[str] | None, target: types.ModuleType | None = None
    ) -> importlib.machinery.ModuleSpec | None:
        if name != self.name:
            return None
        package = self.spot.path.name == "__init__.py"
        return importlib.util.spec_from_file_location(
            name,
            self.spot.path,
            loader=_Changed(self.spot),
            submodule_search_locations=[str(self.spot.path.parent)] if package else None,
        )


def all_tests() -> dict[str, unittest.TestCase]:
    """Return every test of tests/core by its id."""
    found: dict[str, unittest.TestCase] = {}

    def walk(suite: unittest.TestSuite) -> None:
        for one in suite:
            if isinstance(one, unittest.TestSuite):
                walk(one)
            elif isinstance(one, unittest.TestCase):
                found[one.id()] = one

    walk(unittest.defaultTestLoader.discover(str(ROOT / "tests" / "core"), "test_*.py", str(ROOT)))
    return found


def traced() -> tuple[dict[str, set[str]], dict[str, float], list[str]]:
    """Return which tests call which function, how long each takes (s), and those that fail as it is."""
    callers: dict[str, set[str]] = {}
    times: dict[str, float] = {}
    failing = []
    core = str(PACKAGE)
    for name, test in all_tests().items():
        seen: set[types.CodeType] = set()

        def note(frame: types.FrameType, event: str, _arg: object, seen: set[types.CodeType] = seen) -> None:
            if event == "call":
                seen.add(frame.f_code)

        result = unittest.TestResult()
        begun = time.perf_counter()
        sys.setprofile(note)
        threading.setprofile(note)
        unittest.TestSuite([test]).run(result)
        sys.setprofile(None)
        threading.setprofile(None)
        times[name] = time.perf_counter() - begun
        if not result.wasSuccessful():
            failing.append(name)
            continue
        for code in seen:
            if code.co_filename.startswith(core):
                callers.setdefault(f"{code.co_filename}:{code.co_name}:{code.co_firstlineno}", set()).add(name)
    return callers, times, failing


def _prepare() -> None:
    from hypothesis import settings

    settings.register_profile("mutants", derandomize=True, database=None)
    settings.load_profile("mutants")


def in_child(work: object) -> tuple[int, int]:
    """Run a callable in a child; return its process number and the reading end of its answer."""
    read, write = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(read)
        quiet = os.open(os.devnull, os.O_WRONLY)
        os.dup2(quiet, 1)
        os.dup2(quiet, 2)
        try:
            answer = json.dumps(work())  # type: ignore[operator]
        except BaseException as error:  # noqa: BLE001, whatever a change does must not end the tool
            answer = json.dumps(["broken", repr(error)[:200]])
        with os.fdopen(write, "w") as out:
            out.write(answer)
        os._exit(0)
    os.close(write)
    return child, read


def _judged(spot: Spot, names: list[str]) -> list[str]:
    """Return whether the named tests notice a change, and which did first."""
    sys.meta_path.insert(0, _Finder(spot))
    for name in names:
        # Loaded as it is needed: most changes are noticed by one of the first. What can't be loaded has noticed.
        result = unittest.TestResult()
        unittest.defaultTestLoader.loadTestsFromName(name).run(result)
        if not result.wasSuccessful() or not result.testsRun:
            return ["noticed", name]
    return ["survived", ""]


def main() -> None:
    """Sample, run and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--jobs", type=int, default=max((os.cpu_count() or 2) - 1, 1))
    parser.add_argument("--longest", type=float, default=60.0, help="leave out tests that take longer (s, traced)")
    parser.add_argument("--only", default="", help="only changes of files whose path within the package begins so")
    parser.add_argument("--trace", type=Path, help="a file that keeps which tests call what, for another run")
    chosen = parser.parse_args()
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.chdir(ROOT)
    sys.path.insert(0, str(ROOT))
    # What is not of this project is loaded once, before the children are made.
    import hypothesis  # noqa: F401
    import mujoco  # noqa: F401
    import numpy  # noqa: F401
    import scipy.integrate
    import scipy.optimize
    import scipy.stats  # noqa: F401

    _prepare()
    if chosen.trace is not None and chosen.trace.exists():
        callers, times, failing = json.loads(chosen.trace.read_text(encoding="utf-8"))
    else:
        child, read = in_child(lambda: _jsonable(*traced()))
        with os.fdopen(read) as answer:
            text = answer.read()
        os.waitpid(child, 0)
        callers, times, failing = json.loads(text)
        if chosen.trace is not None:
            chosen.trace.write_text(text, encoding="utf-8")
    if failing:
        print("These fail as it is:", *failing, sep="\n  ")
        sys.exit(1)
    times = {name: took for name, took in times.items() if took <= chosen.longest}
    everywhere = sorted(times, key=times.__getitem__)
    files = [
        path
        for room in ("core", "supports")
        for path in sorted((PACKAGE / room).rglob("*.py"))
        if path.name not in OTHERWISE and str(path.relative_to(PACKAGE)).startswith(chosen.only)
    ]
    every = [spot for path in files for spot in spots(path)]
    sample = random.Random(chosen.seed).sample(every, min(chosen.count, len(every)))
    running: dict[int, tuple[Spot, int, float, float]] = {}
    waiting, noticed, survived = list(sample), 0, []
    while waiting or running:
        while waiting and len(running) < chosen.jobs:
            spot = waiting.pop()
            names = everywhere
            if spot.function:
                name, _, line = spot.function.partition(":")
                calling = callers.get(f"{spot.path}:{name}:{line}", [])
                # What nobody calls while a test runs may be called where its module is loaded.
                names = sorted((test for test in calling if test in times), key=times.__getitem__) or everywhere
            child, read = in_child(lambda spot=spot, names=names: _judged(spot, names))
            most = min(_SLOWER * sum(times[n] for n in names) + 30.0, _ENDLESS)
            running[child] = (spot, read, time.monotonic(), most)
        time.sleep(0.02)
        for child, (spot, read, begun, most) in list(running.items()):
            done, _ = os.waitpid(child, os.WNOHANG)
            late = time.monotonic() - begun > most
            if not done and not late:
                continue
            if not done:
                os.kill(child, 9)
                os.waitpid(child, 0)
            with os.fdopen(read) as answer:
                text = answer.read()
            del running[child]
            # A child that died or never ended has noticed.
            if text and json.loads(text)[0] == "survived":
                survived.append(spot)
                print(f"{noticed + len(survived)}: {_words(spot)}", file=sys.stderr, flush=True)
            else:
                noticed += 1
    for spot in sorted(survived, key=lambda spot: (str(spot.path), spot.line)):
        print(_words(spot))
    share = noticed / max(len(sample), 1)
    counts = {"seed": chosen.seed, "changes": len(sample), "noticed": noticed, "share": round(share, 3)}
    print(json.dumps(counts | {"tokens": len(every)}))


def _words(spot: Spot) -> str:
    return f"{spot.path.relative_to(PACKAGE)}:{spot.line}  {spot.words}"


def _jsonable(
    callers: dict[str, set[str]], times: dict[str, float], failing: list[str]
) -> tuple[dict[str, list[str]], dict[str, float], list[str]]:
    return {name: sorted(tests) for name, tests in callers.items()}, times, failing


if __name__ == "__main__":
    main()
