"""Which room may import which: one way, and never in a circle."""

from __future__ import annotations

import ast
import unittest
from graphlib import CycleError, TopologicalSorter
from pathlib import Path

import equilix
from equilix.core.keys import KEYS
from equilix.core.registry import support_called
from equilix.present.supports import words_for

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


#: Files that may call a support by its key: it is their business, or the word means something else there.
BY_KEY = {
    "core/keys.py",
    "core/operator/strength.py",  # a joint of the body
    "core/kit/parts.py",  # a kind of mount
    "document/part_shapes.py",  # the pad's own mount
    "core/operator/lifting.py",  # a place to lift from
    "cli/instrument.py",  # a stand-in of that name
    "devices/line_gimbal.py",  # the instrument itself
    "devices/simulated/gimbal_launch.py",
    "io/catalogue.py",  # what its starting builds are for
    "io/demo.py",  # what its builds are for
    "io/migrations.py",  # what older books said
    "cli/analyse.py",  # tables of a rig about a point
    "desktop/shots.py",  # pictures for the page that describes it
}


class OneSeam(unittest.TestCase):
    """A support is a file in the core, one in present, and its key in the registry: nobody else knows of it."""

    def test_no_file_asks_which_support_it_is(self) -> None:
        for path in sorted(SOURCE.rglob("*.py")):
            name = path.relative_to(SOURCE).as_posix()
            if "/supports/" in name or name in BY_KEY:
                continue
            tree = ast.parse(path.read_text(encoding="utf-8"))
            words = {node.value for node in ast.walk(tree) if isinstance(node, ast.Constant)}
            with self.subTest(file=name):
                self.assertEqual(words & set(KEYS), set())

    def test_no_file_looks_inside_a_support(self) -> None:
        inner = {f"{room}.supports.{key}" for room in ("core", "present", "desktop") for key in KEYS}
        for path in sorted(SOURCE.rglob("*.py")):
            name = path.relative_to(SOURCE).as_posix()
            if "/supports/" not in name:
                with self.subTest(file=name):
                    self.assertEqual(imported(path) & inner, set())

    def test_every_key_has_its_files(self) -> None:
        for key in KEYS:
            self.assertEqual(support_called(key).key, key)
            self.assertEqual(support_called(key).usual.kind, key)
            self.assertTrue(words_for(key).name)
        for room in ("core", "present"):
            files = {path.stem for path in (SOURCE / room / "supports").glob("*.py")}
            self.assertEqual(files - {"__init__", "support", "view", "labels"}, set(KEYS))


if __name__ == "__main__":
    unittest.main()
