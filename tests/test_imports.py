"""Which room may import which: one way, and never in a circle."""

from __future__ import annotations

import ast
import unittest
from graphlib import CycleError, TopologicalSorter
from pathlib import Path

import equilix
from equilix.core.keys import KEYS
from equilix.core.registry import support_for
from equilix.present.supports import text_for
from tests.campaigns import campaign

SOURCE = Path(equilix.__file__).parent
#: What each room may import; a support's folder is told by its files, see FLOORS.
ALLOWED = {
    "core": {"core"},
    "document": {"core", "document"},
    "io": {"core", "document", "io"},
    "devices": {"core", "devices"},
    "present": {"core", "document", "io", "present"},
    "exports": {"core", "document", "io", "present", "exports"},
    "cli": {"core", "document", "io", "devices", "present", "exports", "cli", "desktop"},
}


#: What the files of a support's folder may import besides each other, from below upwards; the others are mechanics.
FLOORS = {
    "mechanics": {"core"},
    "drawing": {"core", "present"},
    "text": {"core", "present"},
    "label": {"core", "present"},
    "window": {"core", "document", "io", "devices", "present", "desktop"},
}


def floor(stem: str) -> str:
    """Return the floor of a support's file: `window_link` is a part of the window."""
    first = stem.split("_")[0]
    return first if first in FLOORS else "mechanics"


def imported(path: Path) -> set[str]:
    """Return the project's own modules that a file imports, without those that only types need."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    for node in ast.walk(tree):
        if isinstance(node, ast.If) and ast.unparse(node.test) == "TYPE_CHECKING":
            node.body = [ast.Pass()]
    names = {node.module or "" for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)}
    return {name.removeprefix("equilix.") for name in names if name.startswith("equilix.")} - {"data"}


def folder(module: str) -> str:
    """Return the folder that a module is in, or the module itself where it lies loose in its room."""
    first, *rest = module.split(".")
    return f"{first}.{rest[0]}" if rest else first


@campaign
class Imports(unittest.TestCase):
    def test_rooms_import_one_way(self) -> None:
        for path in sorted(SOURCE.rglob("*.py")):
            room = path.relative_to(SOURCE).parts[0]
            if room == "supports" and len(path.relative_to(SOURCE).parts) == 3:
                beyond = {name for name in imported(path) if not self._below(path, name)}
                with self.subTest(file=path.relative_to(SOURCE).as_posix()):
                    self.assertEqual(beyond, set())
            if room in ALLOWED:
                beyond = {name for name in imported(path) if name.split(".")[0] not in ALLOWED[room]}
                with self.subTest(file=path.name):
                    self.assertEqual(beyond, set())

    @staticmethod
    def _below(path: Path, name: str) -> bool:
        """Whether a file of a support may import the module `name`: a lower floor of its folder, or a room below."""
        room, *rest = name.split(".")
        if room != "supports":
            return room in FLOORS[floor(path.stem)]
        floors = list(FLOORS)
        return rest[0] == path.parent.name and floors.index(floor(rest[-1])) <= floors.index(floor(path.stem))

    def test_no_module_of_core_or_of_a_support_imports_in_a_circle(self) -> None:
        """Late imports are counted too; only the registry loads by name what lies above it."""
        graph = {
            name: {other for other in imported(path) if other.startswith(("core.", "supports."))}
            for room in ("core", "supports")
            for path in (SOURCE / room).rglob("*.py")
            for name in [".".join(path.relative_to(SOURCE).with_suffix("").parts)]
        }
        try:
            tuple(TopologicalSorter(graph).static_order())
        except CycleError as error:
            self.fail(f"in a circle: {' imports '.join(reversed(error.args[1]))}")
        by_name = {
            path.relative_to(SOURCE).as_posix()
            for path in (SOURCE / "core").rglob("*.py")
            if "import_module" in path.read_text(encoding="utf-8")
        }
        self.assertEqual(by_name, {"core/registry.py"})

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
    "document/kinds/naming.py",  # a word of its name
    "document/kinds/assemble.py",  # on a vest a post stands first
    "document/kinds/makers.py",  # the pad's own mount
    "io/migrations.py",  # what older books said
    "cli/analyse.py",  # tables of a rig about a point
    "desktop/looks/shots.py",  # pictures for the page that describes it
}


@campaign
class OneSeam(unittest.TestCase):
    """A support is a folder, and its key: nobody else knows of it."""

    def test_no_file_asks_which_support_it_is(self) -> None:
        for path in sorted(SOURCE.rglob("*.py")):
            name = path.relative_to(SOURCE).as_posix()
            if name.startswith("supports/") or name in BY_KEY:
                continue
            tree = ast.parse(path.read_text(encoding="utf-8"))
            words = {node.value for node in ast.walk(tree) if isinstance(node, ast.Constant)}
            with self.subTest(file=name):
                self.assertEqual(words & set(KEYS), set())

    def test_no_file_looks_inside_a_support(self) -> None:
        for path in sorted(SOURCE.rglob("*.py")):
            name = path.relative_to(SOURCE).as_posix()
            if not name.startswith("supports/"):
                with self.subTest(file=name):
                    self.assertEqual({one for one in imported(path) if one.startswith("supports.")}, set())

    def test_every_key_has_its_files(self) -> None:
        for key in KEYS:
            self.assertEqual(support_for(key).key, key)
            self.assertEqual(support_for(key).usual.kind, key)
            self.assertIs(text_for(key).support, support_for(key))
            files = {path.stem for path in (SOURCE / "supports" / key).glob("*.py")}
            self.assertLessEqual({"settings", "mechanics", "text"}, files)


if __name__ == "__main__":
    unittest.main()
