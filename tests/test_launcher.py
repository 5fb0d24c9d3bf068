"""The shell side: what ./equilix and ./check do on machines that lack something."""

from __future__ import annotations

import contextlib
import os
import pty
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1]


class Launcher(unittest.TestCase):
    """A copy of the scripts in a folder of its own, with a PATH on which only chosen commands exist."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        # Nothing in a folder's name may matter.
        self.home = self.folder / 'my pro\'ject ü "x" $y'
        (self.home / "packaging").mkdir(parents=True)
        for name in (
            "equilix",
            "packaging/environment.sh",
            "pyproject.toml",
            "requirements.lock",
            "requirements-dev.lock",
        ):
            shutil.copy(ROOT / name, self.home / name)
        self.bin = self.folder / "bin"
        self.bin.mkdir()
        for command in ("sh", "cat", "sed", "sort", "tr", "readlink", "dirname", "mkdir", "rm", "env", "tail", "grep"):
            (self.bin / command).symlink_to(shutil.which(command))
        self.command("id", "echo 1000")
        self.command("df", "echo Filesystem; echo /dev/x 100 50 90000000 50% /")

    def command(self, name: str, body: str) -> None:
        """Put a made-up command on the PATH."""
        path = self.bin / name
        path.unlink(missing_ok=True)
        path.write_text(f"#!/bin/sh\n{body}\n")
        path.chmod(0o755)

    def ready_environment(self) -> None:
        """Make it look as if the environment had been set up; pip in it only leaves a trace."""
        python = self.home / ".venv" / "bin" / "python"
        python.parent.mkdir(parents=True)
        python.write_text(
            f'#!/bin/sh\ncase "$*" in *"-m pip"*install*) echo "$*" >> {self.folder}/network;; esac\n'
            f'case "$*" in *"-m pip"*install*) if [ -f {self.folder}/broken ]; then\n'
            f"cat {self.folder}/broken; exit 1; fi;; esac\n"
            'case "$1" in -I) exit 0;; esac\necho "started $* PYTHONPATH=${PYTHONPATH:-none}"\n'
        )
        python.chmod(0o755)
        wanted = (self.home / "pyproject.toml").read_text() + (self.home / "requirements.lock").read_text()
        (self.home / ".venv" / "equilix-ready").write_text(wanted + str(self.home))

    def library(self, *missing: str) -> None:
        """Put Qt in the environment, with a linker that misses some libraries."""
        qt = self.home / ".venv" / "lib" / "python3.11" / "site-packages" / "PySide6"
        qt.mkdir(parents=True)
        (qt / "QtGui.abi3.so").write_text("")
        lines = "\n".join(f"echo '\t{name} => not found'" for name in missing)
        self.command("ldd", lines or "true")

    def run_it(self, *arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [str(self.home / "equilix"), *arguments],
            capture_output=True,
            text=True,
            env={"PATH": str(self.bin), "HOME": str(self.folder), **environment},
        )

    def test_without_python_one_line_says_what_is_needed(self) -> None:
        done = self.run_it("--demo", DISPLAY=":0")
        self.assertEqual(done.returncode, 1)
        self.assertEqual(done.stderr, "equilix: Python 3.11 or newer is needed; install it and start again.\n")

    def test_an_old_python_is_not_taken(self) -> None:
        self.command("python3", "exit 1")
        self.assertIn("Python 3.11 or newer", self.run_it(DISPLAY=":0").stderr)

    def test_a_python_without_venv_is_named_with_the_command(self) -> None:
        self.command("python3", 'case "$3" in *venv*|*ensurepip*) exit 1;; *print*) echo 3.11;; esac')
        done = self.run_it(DISPLAY=":0")
        self.assertEqual(done.returncode, 1)
        self.assertIn("run: sudo apt-get install python3.11-venv", done.stderr)

    def test_a_second_start_does_not_touch_the_network(self) -> None:
        self.ready_environment()
        self.library()
        done = self.run_it("book.equilix", QT_QPA_PLATFORM="offscreen")
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertEqual(done.stdout, "started -P -m equilix book.equilix PYTHONPATH=none\n")
        self.assertFalse((self.folder / "network").exists())

    def test_changed_requirements_are_fetched_again(self) -> None:
        self.ready_environment()
        self.library()
        self.command("python3", "exit 0")
        (self.home / "requirements.lock").write_text("other==1\n")
        done = self.run_it("--version")
        self.assertIn("setting up", done.stderr)
        self.assertTrue((self.folder / "network").exists())

    def test_missing_libraries_are_named_in_one_command_for_others_than_root(self) -> None:
        self.ready_environment()
        self.library("libEGL.so.1", "libxcb-cursor.so.0", "libxkbcommon-x11.so.0")
        self.command("apt-get", "exit 1")
        done = self.run_it("--demo", DISPLAY=":0")
        self.assertEqual(done.returncode, 1)
        self.assertEqual(
            done.stderr,
            "equilix: shared libraries for the window are missing; "
            "run: sudo apt-get install libegl1 libxcb-cursor0 libxkbcommon-x11-0\n",
        )

    def test_root_on_debian_installs_them(self) -> None:
        self.ready_environment()
        self.library("libEGL.so.1")
        self.command("id", "echo 0")
        trace = self.folder / "installed"
        # Once installed the linker finds everything.
        self.command("apt-get", f'echo "$@" >> {trace}\nprintf "#!/bin/sh\\ntrue\\n" > {self.bin}/ldd')
        done = self.run_it("--demo", DISPLAY=":0")
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("libegl1", trace.read_text())
        self.assertIn("started -P -m equilix --demo", done.stdout)

    def test_without_a_display_one_line_and_exit_code_2_before_anything_is_set_up(self) -> None:
        done = self.run_it("--demo")
        self.assertEqual(done.returncode, 2)
        self.assertEqual(done.stderr.count("\n"), 1)
        self.assertIn("there is no display", done.stderr)

    def test_tables_and_pictures_need_no_display_and_tables_no_libraries(self) -> None:
        self.ready_environment()
        self.library("libEGL.so.1")
        self.assertEqual(
            self.run_it("analyse", "parts.csv").stdout, "started -P -m equilix analyse parts.csv PYTHONPATH=none\n"
        )
        self.assertIn("started -P -m equilix demo book", self.run_it("demo", "book").stdout)
        self.command("ldd", "true")
        self.assertEqual(self.run_it("--demo", "--shots", "out").returncode, 0)
        self.assertIn("started -P -m equilix sheet book", self.run_it("sheet", "book").stdout)

    def test_it_starts_through_a_link_from_anywhere(self) -> None:
        self.ready_environment()
        link = self.folder / "link"
        link.symlink_to(self.home / "equilix")
        done = subprocess.run([str(link), "analyse"], capture_output=True, text=True, env={"PATH": str(self.bin)})
        self.assertEqual(done.stdout, "started -P -m equilix analyse PYTHONPATH=none\n")

    def test_the_users_own_python_settings_do_not_reach_it(self) -> None:
        self.ready_environment()
        done = self.run_it("analyse", PYTHONPATH="/nonexistent", PYTHONHOME="/nonexistent", PYTHONOPTIMIZE="2")
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertIn("PYTHONPATH=none", done.stdout)

    def test_none_of_the_users_python_settings_keeps_it_from_starting(self) -> None:
        """Python refuses to start at all with some of them: they are the user's other programs' business."""
        said = f'echo "${{PYTHONUTF8:-}}${{PYTHONHASHSEED:-}}${{PYTHONTRACEMALLOC:-}}" >> {self.folder}/seen'
        self.ready_environment()
        python = self.home / ".venv" / "bin" / "python"
        python.write_text(python.read_text().replace("#!/bin/sh\n", f"#!/bin/sh\n{said}\n"))
        self.run_it("analyse", PYTHONUTF8="2", PYTHONHASHSEED="x", PYTHONTRACEMALLOC="-1")
        self.assertEqual((self.folder / "seen").read_text().strip(), "")

    def test_a_folder_with_a_colon_is_named_as_the_reason(self) -> None:
        self.command("python3", "exit 0")
        odd = self.folder / "a:b"
        self.home.rename(odd)
        self.home = odd
        done = self.run_it("--version")
        self.assertEqual((done.returncode, done.stderr.count("\n")), (1, 1))
        self.assertIn("a colon in its name", done.stderr)

    def test_a_word_that_is_no_file_is_not_taken_for_a_missing_display(self) -> None:
        self.ready_environment()
        self.assertIn("started -P -m equilix chnage x", self.run_it("chnage", "x").stdout)

    def changed_requirements(self) -> None:
        self.ready_environment()
        self.library()
        self.command("python3", "exit 0")
        with (self.home / "requirements.lock").open("a") as lock:
            lock.write("other==1 --hash=sha256:0\n")

    def test_packages_are_fetched_by_their_hashes_without_the_users_settings_or_a_build_tool_of_the_day(self) -> None:
        self.changed_requirements()
        self.assertEqual(self.run_it("--version").returncode, 0)
        calls = (self.folder / "network").read_text().splitlines()
        self.assertEqual(len(calls), 2)
        for call in calls:
            for word in ("--isolated", "--require-hashes", "--no-deps"):
                self.assertIn(word, call)
        self.assertIn("--no-build-isolation", calls[1])

    def test_what_hinders_the_set_up_is_told_in_one_line(self) -> None:
        for printed, words in (
            ("WARNING: Retrying after connection broken\nERROR: No matching distribution", "check the network"),
            ("ERROR: [Errno 28] No space left on device", "the disk is full"),
            ("ERROR: THESE PACKAGES DO NOT MATCH THE HASHES", "is not what this version was tested with"),
            ("ERROR: something new", "ERROR: something new"),
        ):
            with self.subTest(words):
                shutil.rmtree(self.home / ".venv", ignore_errors=True)
                self.changed_requirements()
                (self.folder / "broken").write_text(printed)
                done = self.run_it("--version")
                self.assertEqual(done.returncode, 1)
                self.assertEqual(done.stderr.count("\n"), 2, done.stderr)  # that it sets up, and what hinders it
                self.assertIn(words, done.stderr)

    def test_too_little_space_is_told_before_it_begins(self) -> None:
        self.command("python3", "exit 0")
        self.command("df", "echo Filesystem; echo /dev/x 100 50 204800 50% /")
        done = self.run_it("--version")
        self.assertEqual(done.returncode, 1)
        self.assertRegex(done.stderr, r"^equilix: the set-up needs \d+ MB .*, 200 MB are free; make room")
        self.assertFalse((self.home / ".venv").exists())

    def test_installing_that_fails_says_why(self) -> None:
        self.ready_environment()
        self.library("libEGL.so.1")
        self.command("id", "echo 0")
        self.command("apt-get", 'echo "E: Unable to locate package"; exit 100')
        done = self.run_it("--demo", DISPLAY=":0")
        self.assertEqual(done.returncode, 1)
        self.assertIn("apt-get could not install libegl1: E: Unable to locate package", done.stderr)
        self.assertIn("run: sudo apt-get install libegl1", done.stderr)

    def answered(self, answer: bytes) -> str:
        """Run it at a terminal where somebody answers; return what the terminal showed."""
        main, terminal = pty.openpty()
        with subprocess.Popen(
            [str(self.home / "equilix"), "--demo"],
            stdin=terminal,
            stdout=terminal,
            stderr=terminal,
            env={"PATH": str(self.bin), "HOME": str(self.folder), "DISPLAY": ":0"},
        ) as program:
            os.close(terminal)
            shown = b""
            with contextlib.suppress(OSError):  # the terminal's end
                while piece := os.read(main, 1024):
                    shown += piece
                    if b"[Y/n]" in piece:
                        os.write(main, answer)
            program.wait(10)
        os.close(main)
        return shown.decode()

    def test_where_somebody_is_there_it_asks_before_it_installs(self) -> None:
        self.command("id", "echo 0")
        trace = self.folder / "installed"
        self.command("apt-get", f'echo "$@" >> {trace}\nprintf "#!/bin/sh\\ntrue\\n" > {self.bin}/ldd')
        self.ready_environment()
        self.library("libEGL.so.1")
        shown = self.answered(b"n\n")
        self.assertIn("the system lacks libegl1", shown)
        self.assertIn("run: sudo apt-get install libegl1", shown)
        self.assertFalse(trace.exists())
        self.assertIn("started -P -m equilix --demo", self.answered(b"\n"))
        self.assertIn("libegl1", trace.read_text())


class Project(unittest.TestCase):
    def test_every_locked_package_has_a_version_and_hashes(self) -> None:
        for name in ("requirements.lock", "requirements-dev.lock"):
            entries = (ROOT / name).read_text().replace("\\\n", "").splitlines()
            self.assertGreater(len(entries), 15)
            for entry in entries:
                self.assertRegex(entry, r"^[A-Za-z0-9_.\-]+==[0-9].* --hash=sha256:[0-9a-f]{64}")

    def test_pictures_named_in_the_docs_exist(self) -> None:
        for page in (*ROOT.glob("*.md"), *(ROOT / "docs").glob("*.md")):
            for part in page.read_text("utf-8").split("](")[1:]:
                target = part.split(")")[0]
                self.assertTrue((page.parent / target).exists(), f"{page.name}: {target}")

    def test_scripts_can_be_run(self) -> None:
        for name in ("equilix", "check", ".ci/run", "docs/make-screenshots"):
            self.assertTrue(os.access(ROOT / name, os.X_OK), name)
