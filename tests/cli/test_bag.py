"""`equilix kinds` and `equilix assemble` from outside."""

from __future__ import annotations

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from equilix.__main__ import main
from equilix.io.format import read_book

BAG = "name,mass_kg,note\nKamera,2.1,x\nObjektiv,1.1,\nBase plate,0.5,\nthing,0.2,\nKamera B,2.0,\n"


class Bags(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def call(self, *words: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(list(words))
        return code, out.getvalue(), err.getvalue()

    def put(self, text: str, *more: str) -> tuple[int, str, str]:
        path = self.folder / "kit.csv"
        path.write_text(text, "utf-8")
        return self.call("assemble", str(path), "--support", "shoulder", str(self.folder / "out.equilix"), *more)

    def test_a_line_a_name(self) -> None:
        path = self.folder / "names.txt"
        path.write_text("Rods 15 mm 12 in\n\nhandle\nthing\nGriff links\n", "utf-8")
        code, out, err = self.call("kinds", str(path), "--json")
        self.assertEqual((code, err), (0, ""))
        rows: list[dict[str, Any]] = json.loads(out)["kinds"]
        self.assertEqual(
            [(row["kind"], row["asks"]) for row in rows],
            [("rods", False), ("top_handle", True), (None, True), ("side_handle", False)],
        )
        self.assertEqual(rows[3]["seat"]["relation"], "left")
        self.assertIsNone(rows[2]["seat"])

    def test_a_bag_becomes_a_book(self) -> None:
        code, out, err = self.put(BAG, "--json")
        self.assertEqual((code, err), (0, ""))
        found = json.loads(out)
        joints = {(one["part"], one["onto"], one["relation"], one["sure"]) for one in found["joints"]}
        self.assertIn(("Objektiv", "Kamera", "ahead", True), joints)
        self.assertIn(("Base plate", "Kamera", "under", True), joints)
        self.assertEqual([one["part"] for one in found["questions"]], ["thing"])
        self.assertEqual([one["part"] for one in found["loose"]], ["Kamera B"])
        self.assertEqual(found["clashes"], [])
        book = read_book(self.folder / "out.equilix")
        self.assertEqual(len(book.builds[0].parts), 4)
        self.assertEqual(len(book.kit), 5)
        thing = next(part for part in book.kit if part.name == "thing")
        self.assertTrue(thing.note.startswith("Asked: "))

    def test_bad_input_is_one_sentence(self) -> None:
        for text, words in (
            ("name\nKamera\n", "lacks the column mass_kg"),
            ("name,mass_kg\nMonitor,350\n", "row 2, column mass_kg: 350 kg is unusual for a monitor"),
            ("name,mass_kg\n,2\n", "row 2, column name: an empty cell"),
            ("name,mass_kg,kind\nKamera,2,camera\n", "row 2, column kind: 'camera' is not known"),
            ("name,mass_kg\nKamera,heavy\n", "row 2, column mass_kg"),
            ("", "is empty"),
        ):
            with self.subTest(words):
                code, out, err = self.put(text)
                self.assertEqual((code, out), (2, ""))
                self.assertIn(words, err)
                self.assertNotIn("Traceback", err)

    def test_what_is_there_is_not_overwritten(self) -> None:
        self.assertEqual(self.put(BAG)[0], 0)
        code, _, err = self.put(BAG)
        self.assertEqual(code, 2)
        self.assertIn("--replace", err)
        self.assertEqual(self.put(BAG, "--replace")[0], 0)

    def test_no_camera_one_part_twice_and_300_parts(self) -> None:
        self.assertEqual(self.put("name,mass_kg\nrods,0.2\nrods,0.2\n", "--json")[0], 0)
        many = "name,mass_kg\n" + "".join(
            f"{name} {k},0.3\n" for k in range(30) for name in ("monitor", "light", "mic")
        )
        code, out, _ = self.put("name,mass_kg\nKamera,2\n" + many.split("\n", 1)[1], "--json", "--replace")
        self.assertEqual(code, 0)
        found = json.loads(out)
        self.assertEqual(len(found["joints"]) + len({one["part"] for one in found["loose"]}) + 1, 91)


if __name__ == "__main__":
    unittest.main()
