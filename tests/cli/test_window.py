"""`equilix` and `equilix instrument` from outside: what they open, and what they say to a wrong word."""

from __future__ import annotations

import contextlib
import io
import os
import re
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from equilix import __version__
from equilix.__main__ import main


def spoken(*arguments: str) -> tuple[int, str, str]:
    """Return exit code, stdout and stderr of the command line."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = main(list(arguments))
    return code, out.getvalue(), err.getvalue()


class Words(unittest.TestCase):
    def test_version_is_the_installed_one(self) -> None:
        self.assertEqual(spoken("--version"), (0, f"Equilix {__version__}\n", ""))

    def test_help_names_every_option_and_no_path(self) -> None:
        code, out, _ = spoken("--help")
        self.assertEqual(code, 0)
        for word in ("--demo", "--shots", "--theme", "FILE"):
            self.assertIn(word, out)
        code, out, _ = spoken("instrument", "--help")
        self.assertEqual(code, 0)
        self.assertIn("--unsteady", out)

    def test_wrong_words_get_one_plain_line_and_exit_code_two(self) -> None:
        for arguments, words in (
            (("--dmeo",), "there is no option --dmeo. See equilix --help"),
            (("--theme",), "option --theme needs a value"),
            (("--theme", "sepia"), "sepia"),
            (("a.equilix", "--demo"), "give a file or --demo, not both"),
            (("a.equilix", "b.equilix"), ": name only one file"),
            (("instrument", "--step", "0"), "0"),
            (("instrument", "--port", "70000"), "70000"),
            (("instrument", "--load", "much"), "much"),
        ):
            with self.subTest(arguments):
                code, out, err = spoken(*arguments)
                self.assertEqual((code, out), (2, ""))
                self.assertIn(words, err)
                self.assertEqual(err.count("\n"), 1)
                self.assertNotIn("Traceback", err)

    def test_without_a_display_it_says_so(self) -> None:
        bare = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
        with mock.patch.dict(os.environ, bare, clear=True):
            code, _, err = spoken("--demo")
        self.assertEqual(code, 2)
        self.assertIn("no display is found", err)


class Instrument(unittest.TestCase):
    """The stand-in scale as a program of its own."""

    def start(self, *arguments: str) -> tuple[subprocess.Popen[str], str]:
        program = subprocess.Popen(
            [sys.executable, "-m", "equilix", "instrument", *arguments], stdout=subprocess.PIPE, text=True
        )
        self.addCleanup(program.stdout.close)
        self.addCleanup(program.wait)
        self.addCleanup(program.kill)
        return program, program.stdout.readline()

    def test_its_first_line_says_where_and_it_speaks_there(self) -> None:
        _, line = self.start("--load", "2.5", "--noise", "0", "--step", "0.01")
        port = int(re.search(r"127\.0\.0\.1:(\d+)", line)[1])
        with socket.create_connection(("127.0.0.1", port), timeout=5.0) as link:
            link.settimeout(5.0)
            heard, end = b"", time.monotonic() + 10.0
            while b"2.50" not in heard and time.monotonic() < end:
                heard += link.recv(256)
        self.assertIn(b"2.50", heard)

    def test_a_terminal_is_a_device_that_can_be_opened(self) -> None:
        _, line = self.start("--terminal", "--load", "1.0")
        device = re.search(r"/dev/\S+", line)[0]
        self.assertTrue(Path(device).exists())
        handle = os.open(device, os.O_RDWR | os.O_NOCTTY)
        self.addCleanup(os.close, handle)
        self.assertTrue(os.isatty(handle))


class Pictures(unittest.TestCase):
    def test_shots_of_an_unreadable_file_are_refused_in_a_sentence(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            wrong = Path(folder) / "wrong.equilix"
            wrong.write_text("{}")
            environment = os.environ | {"QT_QPA_PLATFORM": "offscreen"}
            run = subprocess.run(
                [sys.executable, "-m", "equilix", str(wrong), "--shots", str(Path(folder) / "out")],
                capture_output=True,
                text=True,
                env=environment,
                timeout=60,
            )
        self.assertEqual(run.returncode, 2)
        self.assertIn("wrong.equilix", run.stderr)
        self.assertNotIn("Traceback", run.stderr)


if __name__ == "__main__":
    unittest.main()
