"""Which room may import which: one way, and never in a circle."""

from __future__ import annotations

import ast
import unittest
from graphlib import CycleError, TopologicalSorter
from pathlib import Path

import equilix

SOURCE = Path(equilix.__file__).parent
#: What each room may import.
ALLOWED = {
    "core": {"core"},
    "document": {"core", "document"},
    "io": {"core", "document", "io"},
    "devices": {"core", "devices"},
    "present": {"core", "document", "io", "present"},
    "exports": {"core", "document", "io", "present", "exports"},
    "cli": {"core", "document", "io", "devices", "present", "exports", "cli", "desktop"},
}


def imported(path: Path) -> set[str]:
    """Return the project's own modules that a file imports, without those that only types need."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    for node in ast.walk(tree):
        if isinstance(node, ast.If) and ast.unparse(node.test) == "TYPE_CHECKING":
            node.body = [ast.Pass()]
    names = {node.module or "" for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)}
    return {name.removeprefix("equilix.") for name in names if name.startswith("equilix.")}


def folder(module: str) -> str:
    """Return the folder that a module is in, or the module itself where it lies loose in its room."""
    first, *rest = module.split(".")
    return f"{first}.{rest[0]}" if rest else first


class Imports(unittest.TestCase):
    def test_rooms_import_one_way(self) -> None:
        for path in sorted(SOURCE.rglob("*.py")):
            room = path.relative_to(SOURCE).parts[0]
            if room in ALLOWED:
                beyond = {name for name in imported(path) if name.split(".")[0] not in ALLOWED[room]}
                with self.subTest(file=path.name):
                    self.assertEqual(beyond, set())

    def test_no_folder_of_core_or_present_imports_in_a_circle(self) -> None:
        for room in ("core", "present"):
            graph: dict[str, set[str]] = {}
            for path in (SOURCE / room).rglob("*.py"):
                me = folder(".".join(path.relative_to(SOURCE).with_suffix("").parts))
                others = {folder(name) for name in imported(path) if name.startswith(f"{room}.")}
                graph.setdefault(me, set()).update(others - {me})
            with self.subTest(room=room):
                try:
                    tuple(TopologicalSorter(graph).static_order())
                except CycleError as error:
                    self.fail(f"in a circle: {' imports '.join(reversed(error.args[1]))}")
                self.assertGreater(len(graph), 5)


if __name__ == "__main__":
    unittest.main()
