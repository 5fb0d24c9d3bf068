"""Kills, damages, feeds and tires the application: `.venv/bin/python benchmarks/hostile.py --seed 1 --seconds 1500`.

Prints one line of JSON with counts; needs nothing but the environment that `./equilix` makes. Each part stops at its
whole amount (200 kills, 10,000 inputs, 20,000 edits, 20,000 ticks) or when its share of the time is used up.

kills, lost_over_250_ms, unreadable, leftovers   the real window, killed while it edits, weighs, drags and saves, or
                                                 while it rests after that, on books of 42 and of 5,000 parts; whole
                                                 books are compared: edits lost that were older than 250 ms, saves of
                                                 which the file has nothing, books that could not be read, files left
                                                 after the next start
inputs, tracebacks, over_2_s                     mutated books, tables, workbooks and instrument lines; answers that
                                                 were no plain sentence, and that took longer than 2 s
edits, undo_unequal                              random edits, right and wrong, with undo and redo of all
ticks, rss_growth_mb, tick_end_over_start        slide ticks by the mouse in the real window; growth of memory and time

--sabotage breaks the window that is killed, to see that it is noticed: `save` writes nothing, `weighings` keeps no
weighing for the next start.
"""

from __future__ import annotations

import argparse
import contextlib
import copy
import ctypes
import io
import json
import os
import random
import shutil
import signal
import statistics
import subprocess
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable, Iterator
from enum import Enum
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import fields, replace

os.environ["QT_QPA_PLATFORM"] = "offscreen"
ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "src"))
TABLES = ROOT / "tests" / "data" / "tables"
#: s after which a window that is to rest does.
BUSY = 0.8
WHOLE = {"kills": 200, "inputs": 10_000, "edits": 20_000, "ticks": 20_000}
SHARE = {"kills": 0.36, "inputs": 0.2, "edits": 0.04, "ticks": 0.4}
SLOW = 2.0


class Counts(dict[str, float]):
    """What is counted; a complaint goes to stderr with what it is about."""

    def complain(self, what: str, about: object) -> None:
        self[what] = self.get(what, 0) + 1
        print(f"hostile: {what}: {about}"[:600], file=sys.stderr)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--seconds", type=float, default=60.0)
    parser.add_argument("--only", choices=sorted(WHOLE))
    parser.add_argument("--sabotage", choices=sorted(SABOTAGES), default="")
    parser.add_argument("--child", nargs=3, metavar=("WHAT", "FOLDER", "SEED"), help=argparse.SUPPRESS)
    arguments = parser.parse_args()
    if arguments.child:
        what, folder, seed = arguments.child
        if arguments.sabotage:
            SABOTAGES[arguments.sabotage]()
        return {"window": edit_until_killed, "ticks": tick_in_a_window}[what](Path(folder), int(seed))
    names = ("lost_over_250_ms", "not_saved", "unreadable", "leftovers", "tracebacks", "over_2_s", "undo_unequal")
    counts = Counts(dict.fromkeys((*WHOLE, *names), 0))
    counts |= {"rss_growth_mb": 0.0, "tick_end_over_start": 0.0}
    SABOTAGED[:] = [f"--sabotage={arguments.sabotage}"] if arguments.sabotage else []
    parts = {"kills": kills, "inputs": inputs, "edits": edits, "ticks": ticks}
    for name, part in parts.items():
        if arguments.only in (None, name):
            seconds = arguments.seconds * (SHARE[name] if arguments.only is None else 1.0)
            with tempfile.TemporaryDirectory() as folder:
                part(counts, random.Random(f"{arguments.seed} {name}"), seconds, Path(folder))
    print(json.dumps(counts))
    return 0


# Kills


def big_book() -> Any:
    from equilix.io.shipped import demo_book

    book = demo_book()
    more = tuple(replace(p, id=f"x{i}-{p.id}", name=f"{p.name} {i}") for i in range(119) for p in book.kit)
    return replace(book, kit=book.kit + more)


def state_of(book: Any) -> str:
    """What tells one state of the edited book from another: all that is in it."""
    import hashlib

    import msgspec

    return hashlib.blake2b(msgspec.msgpack.encode(book), digest_size=12).hexdigest()


def _save_nothing() -> None:
    """Have every save say that it was done, and write nothing."""
    from equilix.io import files
    from equilix.io import format as book_format

    def write(_book: Any, path: Path, *_more: Any) -> Any:
        return files.read_known(path, 1 << 30)[1]

    vars(book_format)["write_book"] = write


def _keep_no_weighing() -> None:
    """Have what is kept for the next start without its weighings."""
    from equilix.io.recovery import Journal

    real = Journal._write

    def write(self: Any, work: Any) -> Any:
        return real(self, replace(work, book=replace(work.book, measurements=())))

    Journal._write = write  # type: ignore[method-assign]


#: How a window is broken on purpose.
SABOTAGES = {"save": _save_nothing, "weighings": _keep_no_weighing}
#: What the children are told of it.
SABOTAGED: list[str] = []


def edit_until_killed(folder: Path, seed: int) -> int:
    """Open the real window on a book, edit, drag and save at random, and tell each state when it is there."""
    from PySide6.QtCore import QPoint, Qt, QTimer
    from PySide6.QtTest import QTest

    from equilix.core.kit.records import Stamp
    from equilix.desktop import app as application
    from equilix.desktop.views.rooms import BALANCE
    from equilix.desktop.window import MainWindow
    from equilix.document.edits.book import RenameBook
    from equilix.document.edits.builds import SetSlide
    from equilix.document.edits.measure import StoreMeasurements

    draw = random.Random(seed)
    rests = time.monotonic() + BUSY if seed % 3 == 0 else None
    # A way out of its own: while ways are sought the solver's is closed, and with it this one's.
    out = os.fdopen(os.dup(1), "w", buffering=1)
    made: list[MainWindow] = []
    names: Any = application
    real = names.MainWindow

    class Told(real):  # type: ignore[misc,valid-type]
        def __init__(self, workspace: Any) -> None:
            super().__init__(workspace)
            made.append(self)

    names.MainWindow = Told
    count = 0

    def tell_first(journal: Any) -> None:
        """Have each state told before the journal hears of it, so that no state is left that was not told."""
        real_keep = journal._keep

        def keep(work: Any) -> None:
            print(json.dumps([time.time(), state_of(work.book)]), file=out, flush=True)
            real_keep(work)

        journal._keep = keep

    def act() -> None:
        nonlocal count
        window = made[0]
        w = window.workspace
        if w.path is None:
            QTimer.singleShot(10, act)  # it is being opened
            return
        if count == 0:
            window.go(BALANCE)
            tell_first(w.journal)
            print("ready", file=out, flush=True)
            print(json.dumps([time.time(), "saved", state_of(w.book)]), file=out, flush=True)
        count += 1
        if rests is not None and time.monotonic() > rests:
            return
        kind = draw.random()
        if kind < 0.4:
            w.apply(RenameBook(f"Edit {count}"))
        elif kind < 0.6:
            w.apply(SetSlide("long-zoom", "plate", draw.uniform(0.0, 0.1)))
        elif kind < 0.68:
            if w.save(folder / "book.equilix"):
                print(json.dumps([time.time(), "saved", state_of(w.saved_book)]), file=out, flush=True)
        elif kind < 0.72:
            weigh(w)
        elif kind < 0.78:
            (w.undo if draw.random() < 0.6 else w.redo)()
        else:
            drag(window)
        QTimer.singleShot(draw.randrange(1, 25), act)

    def weigh(w: Any) -> None:
        one = w.book.measurements[0]
        stored = replace(one, id=f"hostile-{count}")
        w.apply(StoreMeasurements((stored,), (), Stamp("2026-11-24 10:00", "Maren"), "a part"))

    def drag(window: MainWindow) -> None:
        view = window.balance.elevation
        found = next((r for r in view.scene.regions if r.key == ("scale", "plate")), None)
        if found is None:
            return
        xs, ys = zip(*found.polygon, strict=True)
        start = QPoint(round(sum(xs) / len(xs)), round(sum(ys) / len(ys)))
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
        for step in range(draw.randrange(3, 40)):
            QTest.mouseMove(view, start + QPoint((step % 60) - 30, 0))
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=start + QPoint(draw.randrange(-40, 40), 0))

    QTimer.singleShot(0, act)
    return application.open_window(folder / "book.equilix")


def child(what: str, folder: Path, seed: int) -> subprocess.Popen[str]:
    environment = os.environ | {name: str(folder / "state") for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME")}
    return subprocess.Popen(
        [sys.executable, __file__, *SABOTAGED, "--child", what, str(folder), str(seed)],
        stdout=subprocess.PIPE,
        text=True,
        env=environment,
        preexec_fn=lambda: ctypes.CDLL(None).prctl(1, signal.SIGKILL),  # it ends with this process: PR_SET_PDEATHSIG
    )


def kills(counts: Counts, draw: random.Random, seconds: float, folder: Path) -> None:
    from equilix.io.format import write_book
    from equilix.io.shipped import demo_book

    end = time.monotonic() + seconds
    books = (demo_book(), big_book())
    while counts["kills"] < WHOLE["kills"] and time.monotonic() < end:
        # Two at a time: each for itself waits more than it works.
        pair = []
        for number in range(2):
            place = folder / str(number)
            shutil.rmtree(place, ignore_errors=True)
            place.mkdir()
            write_book(books[number], place / "book.equilix")
            seed = draw.randrange(1 << 30)
            pair.append((place, child("window", place, seed), seed % 3 == 0))
        for place, process, rests in pair:
            survey(counts, draw, place, process, rests)


def survey(counts: Counts, draw: random.Random, folder: Path, process: subprocess.Popen[str], rests: bool) -> None:
    """Kill a window at a random time, or well after it began to rest, and see what is left of its work."""
    told: list[list[Any]] = []
    with process:
        out = process.stdout
        if out is None or out.readline() != "ready\n":
            process.kill()
            counts.complain("tracebacks", "a window that did not start")
            return
        time.sleep(BUSY + draw.uniform(1.5, 2.5) if rests else draw.uniform(0.05, 1.5))
        process.send_signal(signal.SIGKILL)
        killed = time.time()
        for line in out:
            with contextlib.suppress(json.JSONDecodeError):
                told.append(json.loads(line))
    counts["kills"] += 1
    left, unreadable = what_is_left(folder)
    if left and (words := not_saved(told, left[0])):
        counts.complain("not_saved", words)
    told = [entry for entry in told if entry[1] != "saved"]
    for words in unreadable:
        counts.complain("unreadable", words)
    states = [entry[1] for entry in told]
    # An undo or a drag may have been through a state before: then its last time counts.
    newest = max((i for i, state in enumerate(states) if state in left), default=-1)
    lost = [entry for entry in told[newest + 1 :] if entry[0] < killed - 0.25]
    if lost:
        counts.complain("lost_over_250_ms", f"{len(lost)} edits, the oldest {killed - lost[0][0]:.3f} s old")
    for path in leftovers(folder):
        counts.complain("leftovers", path)


def not_saved(told: list[list[Any]], file: str) -> str:
    """Return what is wrong with a `file` that must hold what was last said to be saved, or what was edited since."""
    last = max((k for k, entry in enumerate(told) if entry[1] == "saved"), default=None)
    if last is None or file in {entry[-1] for entry in told[last:]}:
        return ""
    return f"the file holds nothing of the {sum(entry[1] == 'saved' for entry in told) - 1} saves, or of edits since"


def what_is_left(folder: Path) -> tuple[list[str], list[str]]:
    """Return the states that the file and left work hold, as the next start finds them, and what can't be read."""
    from equilix.core.errors import FormatError
    from equilix.io.format import read_book
    from equilix.io.recovery import left_behind

    states, unreadable = [], []
    try:
        states.append(state_of(read_book(folder / "book.equilix")))
    except FormatError as error:
        unreadable.append(str(error))
    for work in left_behind(folder / "state" / "equilix" / "recovery"):
        if work.book is None:
            unreadable.append(work.reason)
        else:
            states.append(state_of(work.book))
        work.discard()
    return states, unreadable


def leftovers(folder: Path) -> Iterator[str]:
    """Tidy as a start and a save do, and return what is still there that nobody made."""
    from equilix.io.claims import tidy_claims
    from equilix.io.files import tidy

    tidy_claims(folder / "state" / "equilix" / "open")
    tidy(folder / "book.equilix")
    expected = {"book.equilix", "state/equilix/preferences.json"}
    for path in sorted(folder.rglob("*")):
        name = str(path.relative_to(folder))
        if path.is_file() and name not in expected:
            yield name


# Inputs


def inputs(counts: Counts, draw: random.Random, seconds: float, folder: Path) -> None:
    from equilix.io.format import encode_book
    from equilix.io.shipped import demo_book

    end = time.monotonic() + seconds
    book = encode_book(demo_book())
    workbooks = [(path.suffix, path.read_bytes()) for path in sorted(TABLES.glob("kit.*")) if path.suffix != ".csv"]
    table = (TABLES / "kit.csv").read_bytes()
    rig = (
        b"name,mass_kg,x_mm,y_mm,z_mm,length_mm,width_mm,height_mm\nBody,2.5,10,0,20,100,80,90\nLens,1,200,0,20,9,8,8\n"
    )
    kinds: list[tuple[float, Callable[[], None]]] = [
        (0.5, lambda: feed_book(mutated_book(draw, book), folder)),
        (0.15, lambda: feed_table(mutated(draw, table), ".csv", folder)),
        (0.05, lambda: feed_table(mutated_workbook(draw, *draw.choice(workbooks)), folder)),
        (0.15, lambda: feed_analyse(mutated(draw, rig), folder)),
        (0.15, lambda: feed_lines(mutated(draw, draw.choice(LINES)), draw)),
    ]
    while counts["inputs"] < WHOLE["inputs"] and time.monotonic() < end:
        number = draw.choices(range(len(kinds)), [weight for weight, _ in kinds])[0]
        feed = kinds[number][1]
        start = time.monotonic()
        try:
            feed()
        except Exception as error:  # noqa: BLE001 - what is counted here is whatever comes
            counts.complain("tracebacks", repr(error))
        if time.monotonic() - start > SLOW:
            counts.complain("over_2_s", f"kind {number}: {time.monotonic() - start:.1f} s")
        counts["inputs"] += 1


def mutated(draw: random.Random, data: bytes) -> bytes:
    """Return `data` cut, changed, doubled or filled with nonsense somewhere."""
    changed = bytearray(data)
    for _ in range(draw.choice((1, 1, 2, 5, 20))):
        at = draw.randrange(len(changed) + 1)
        kind = draw.randrange(7)
        if kind == 0:
            changed[at : at + draw.randrange(1, 40)] = b""
        elif kind == 1:
            changed[at:at] = draw.randbytes(draw.randrange(1, 9))
        elif kind == 2 and at < len(changed):
            changed[at] ^= 1 << draw.randrange(8)
        elif kind == 3:
            changed[at:] = b""
        elif kind == 4:
            changed[at:at] = draw.choice(NONSENSE)
        elif kind == 5:
            piece = changed[at : at + draw.randrange(1, 2000)]
            changed[at:at] = piece * draw.randrange(1, 4)
        else:
            changed[at:] = b"\0" * min(len(changed) - at, 4096)
    return bytes(changed)


NONSENSE = (
    *(b"nan", b"-Infinity", b"1e999", b'"', b"\\", b"\xff\xfe", b"\xed\xa0\x80", b"[" * 5000, b"{" * 300, b"null"),
    *(b"=1+1", b"<img src='/dev/zero'>", b"\x00", b"9" * 20, b"-0", b",,,,,", b"\r\r\n", b"\x1b[31m", "👩‍🚀".encode()),
)
LINES = (b"mass 0.462 kg\n", b"overload\nbattery low\n", b"put 1.5\ntare\nshake on\n", b"hello scale\n")
_VALUES: tuple[Any, ...] = (
    None,
    True,
    -1,
    0,
    1e308,
    10**30,
    "",
    "x" * 400,
    "gone",
    [],
    {},
    [[]],
    -0.5,
    "\u202e",
    "nan",
    [1, 2, 3],
)


def mutated_book(draw: random.Random, data: bytes) -> bytes:
    if draw.random() < 0.5:
        return mutated(draw, data)
    content = json.loads(data)
    for _ in range(draw.choice((1, 1, 3))):
        inner: Any = content
        while True:
            if not isinstance(inner, dict | list) or not inner:
                break
            key = draw.choice(list(inner)) if isinstance(inner, dict) else draw.randrange(len(inner))
            if not isinstance(inner[key], dict | list) or not inner[key] or draw.random() < 0.15:
                action = draw.randrange(3)
                if action == 0:
                    del inner[key]
                elif action == 1 and isinstance(inner, list):
                    inner.append(copy.deepcopy(inner[key]))
                else:
                    inner[key] = copy.deepcopy(draw.choice(_VALUES))
                break
            inner = inner[key]
    return json.dumps(content, ensure_ascii=draw.random() < 0.5, indent=draw.choice((None, 1))).encode(
        "utf-8", "surrogatepass"
    )


def mutated_workbook(draw: random.Random, suffix: str, data: bytes) -> tuple[bytes, str]:
    """Return a damaged workbook; half of those that are archives are damaged inside and packed again."""
    if suffix == ".xls" or draw.random() < 0.5:
        return mutated(draw, data), suffix
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        wanted = draw.choice(old.namelist())
        for name in old.namelist():
            content = old.read(name)
            new.writestr(name, mutated(draw, content) if name == wanted else content)
    return out.getvalue(), suffix


def put(folder: Path, name: str, data: bytes) -> Path:
    path = folder / name
    path.write_bytes(data)
    return path


def plain(error: Exception, path: Path) -> None:
    """Raise unless `error` is one plain sentence about `path`."""
    text = str(error)
    if not text.startswith(path.name) or "\n" in text or "Traceback" in text or len(text) > 1000:
        raise AssertionError(f"no plain sentence: {text!r}") from error


def feed_book(data: bytes, folder: Path) -> None:
    from equilix.core.analyse import analyse
    from equilix.core.errors import FormatError
    from equilix.io.format import DamagedBook, decode_book, encode_book, read_book
    from equilix.io.salvage import salvage

    path = put(folder, "book.equilix", data)
    try:
        book = read_book(path)
    except DamagedBook as error:
        plain(error, path)
        with contextlib.suppress(FormatError):
            book = salvage(path).book
            assert decode_book(encode_book(book), "again") == book
        return
    except FormatError as error:
        plain(error, path)
        return
    assert decode_book(encode_book(book), "again") == book
    for build in book.builds:
        analyse(build, book.parts, book.operators[0])


def feed_table(data: bytes | tuple[bytes, str], suffix: str | Path, folder: Path | None = None) -> None:
    from equilix.core.errors import FormatError
    from equilix.document.book import Book
    from equilix.io.tables import read_table
    from equilix.present.kit.importing import guess_header, guess_matches, read_rows

    if isinstance(data, tuple):
        assert isinstance(suffix, Path)
        folder = suffix
        data, suffix = data
    assert folder is not None
    path = put(folder, f"list{suffix}", data)
    try:
        table = read_table(path)
    except FormatError as error:
        plain(error, path)
        return
    header = guess_header(table)
    read_rows(table, header, guess_matches(table, header), Book())


def feed_analyse(data: bytes, folder: Path) -> None:
    from equilix.__main__ import main as equilix

    path = put(folder, "rig.csv", data)
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = equilix(["analyse", str(path), "--support", "shoulder", "--pad=-120,0,80"])
    assert code in (0, 2), code
    assert code == 0 or (err.getvalue().count("\n") == 1 and "Traceback" not in err.getvalue()), err.getvalue()


def feed_lines(data: bytes, draw: random.Random) -> None:
    from equilix.core.errors import DeviceError
    from equilix.devices.line_protocol import LineSplitter, parse_line
    from equilix.devices.simulated.program import Conversation, Unplugged
    from equilix.devices.simulated.scale_model import ScaleModel

    splitter, talk = LineSplitter(), Conversation(ScaleModel())
    with contextlib.suppress(DeviceError):
        for line in splitter.feed(data):
            parse_line(line, 0.0)
    with contextlib.suppress(Unplugged):
        for answer in talk.answers(data, draw.random()):
            answer.encode("ascii")
    line = talk.line(1.0)
    if line is not None:
        parse_line(line, 1.0)


# Edits


def edits(counts: Counts, draw: random.Random, seconds: float, _folder: Path) -> None:
    from equilix.core.errors import EditError
    from equilix.document.history import DEPTH, History
    from equilix.document.validation import check_book
    from equilix.io.format import decode_book, encode_book
    from equilix.io.shipped import demo_book

    end = time.monotonic() + seconds
    history = History(demo_book())
    steps = [history.present]
    while counts["edits"] < WHOLE["edits"] and time.monotonic() < end:
        try:
            edit = random_edit(draw, history.present)
        except EditError:
            continue
        counts["edits"] += 1
        try:
            after = history.close_group().push(edit)
        except EditError as error:
            if "\n" in str(error) or len(str(error)) > 1000:
                counts.complain("tracebacks", f"{edit!r}: {error}")
            continue
        except Exception as error:  # noqa: BLE001 - what is counted here is whatever comes
            counts.complain("tracebacks", f"{error!r} by {edit!r}")
            continue
        if after.present is not history.present:
            steps.append(after.present)
        history = after
        try:
            check_book(history.present)
        except Exception as error:  # noqa: BLE001
            counts.complain("tracebacks", f"not whole, {error!r}, after {edit!r}")
            history, steps = History(demo_book()), [demo_book()]
        if len(steps) > DEPTH // 2 or len(history.present.kit) > 120:
            unequal(counts, history, steps)
            if decode_book(encode_book(history.present), "again") != history.present:
                counts.complain("unreadable", "an edited book does not come back as it was saved")
            history = History(demo_book())
            steps = [history.present]
    unequal(counts, history, steps)


def unequal(counts: Counts, history: Any, steps: list[Any]) -> None:
    """Undo all and do all again; count where a book differs from what it was."""
    present = history.present
    for book in reversed(steps):
        if history.present != book:
            counts.complain("undo_unequal", history.undo_label)
        history = history.undo()
    for book in steps:
        if history.present != book:
            counts.complain("undo_unequal", history.redo_label)
        history = history.redo()
    if history.present != present:
        counts.complain("undo_unequal", "not back at the end")


def random_edit(draw: random.Random, book: Any) -> Any:
    """Return any edit of any part of the book, with some of its figures drawn anew, often wrong."""
    from equilix.core.kit.records import Quantity, Stamp
    from equilix.document.edits import book as of_book
    from equilix.document.edits import builds as of_builds
    from equilix.document.edits import kit as of_kit
    from equilix.document.edits import measure as of_measure

    def one(things: Any, word: str = "gone") -> Any:
        return draw.choice(list(things)) if things and draw.random() < 0.95 else word

    def twisted(thing: Any) -> Any:
        """Return a struct with one field drawn anew, as a form that somebody fills in would."""
        field = draw.choice(fields(thing))
        name, value = field.name, getattr(thing, field.name)
        if isinstance(value, Enum):
            value = draw.choice(list(type(value)))
        elif isinstance(value, bool):
            value = not value
        elif isinstance(value, int | float):
            value = draw.choice((value * draw.uniform(0.5, 1.5), -value, 0.0, 1e9, float("nan"), value + 1))
        elif isinstance(value, str):
            value = draw.choice((value, value + "x", "", "a\nb", "n" * 195, "<b>", "'=1", "👩‍🚀", "n" * 6000))
        elif isinstance(value, Struct):
            value = twisted(value)
        elif isinstance(value, tuple) and value:
            kept = [v for v in value if draw.random() < 0.8]
            value = tuple(twisted(v) if isinstance(v, Struct) and draw.random() < 0.2 else v for v in kept)
        elif value is None and "float" in str(field.type):
            value = draw.uniform(-1.0, 3.0)
        return replace(thing, **{name: value})

    build = draw.choice(book.builds) if book.builds else None
    build_id = build.id if build is not None else "gone"
    placed = one([p.id for p in build.parts]) if build is not None else "gone"
    part_id = one(book.parts)
    part = book.parts.get(part_id, book.kit[0]) if book.kit else None
    stamp = Stamp("2026-11-24 10:00", "Maren")
    makers: list[Callable[[], Any]] = [
        lambda: of_book.RenameBook(draw.choice(("A", "", "x" * 300, "<img>", "a\0"))),
        lambda: of_book.PutOperator(twisted(draw.choice(book.operators))),
        lambda: of_book.RemoveOperator(one([o.id for o in book.operators])),
        lambda: of_builds.DuplicateBuild(build_id, draw.choice(("B", "n" * 195 + ", copy", ""))),
        lambda: of_builds.ChangeBuild(replace(build, name=draw.choice(("B", "", "y" * 201))), "name"),
        lambda: of_builds.RemoveBuild(build_id),
        lambda: of_builds.PlacePart(
            build_id, part_id, placed, one([m.id for m in part.mounts]), draw.uniform(-1.0, 1.0)
        ),
        lambda: of_builds.PlacePart(
            build_id,
            part_id,
            placed,
            one([m.id for p in build.parts if p.id == placed for m in book.parts[p.part_id].mounts]),
            draw.uniform(-0.2, 0.2),
        ),
        lambda: of_builds.TakeOff(build_id, placed),
        lambda: of_builds.SetSlide(build_id, placed, draw.choice((draw.uniform(-0.3, 0.3), float("inf"), 1e9))),
        lambda: of_builds.QuarterTurn(build_id, placed),
        lambda: of_builds.SwapOrder(build_id, placed, draw.choice((-1, 1, 5))),
        lambda: of_builds.ChangeBuild(twisted(build), "build"),
        lambda: of_builds.ApplyPlan(replace(build, parts=tuple(p for p in build.parts if draw.random() < 0.97))),
        lambda: of_kit.AddParts((replace(part, id=f"n{draw.randrange(10**6)}"),), stamp),
        lambda: of_kit.ChangePart(twisted(part), "figure", stamp),
        lambda: of_kit.ChangePart(replace(part, mounts=part.mounts[1:]), "mounts", stamp),
        lambda: of_kit.DuplicatePart(part_id),
        lambda: of_kit.RemoveParts((part_id,)),
        lambda: of_kit.MergeParts((), (twisted(part),), stamp),
        lambda: of_measure.PutInstrument(twisted(draw.choice(book.instruments))),
        lambda: of_measure.RemoveInstrument(one(book.scales)),
        lambda: of_measure.UseMeasurement(one([m.id for m in book.measurements]), draw.random() < 0.5),
        lambda: of_measure.RemoveMeasurement(one([m.id for m in book.measurements])),
        lambda: of_measure.StoreMeasurements(
            (replace(twisted(draw.choice(book.measurements)), id=f"m{draw.randrange(10**6)}"),), (), stamp, "x"
        ),
        lambda: of_measure.AcceptFigures(
            (
                of_measure.MeasuredFigure(
                    part_id, draw.choice(list(Quantity)), draw.uniform(-1.0, 3.0), draw.uniform(-0.1, 1.0)
                ),
            ),
            stamp,
        ),
    ]
    from equilix.core.errors import AssemblyError, EditError

    try:
        return draw.choice(makers)()
    except (AssemblyError, IndexError, AttributeError, TypeError):
        # The form refused it, or there is nothing left of that kind.
        raise EditError("nothing to edit") from None


# Ticks


def memory_mb() -> float:
    status = Path("/proc/self/status").read_text()
    return float(status.split("VmRSS:", 1)[1].split(None, 1)[0]) / 1024.0


def tick_in_a_window(folder: Path, seed: int) -> int:
    """Drag a slide in the real window until stdin closes; then close it in the midst of a search."""
    from PySide6.QtCore import QCoreApplication, QEvent, QPoint, Qt
    from PySide6.QtTest import QTest

    from equilix.desktop.app import make_app
    from equilix.desktop.looks.theme import Theme
    from equilix.desktop.views.rooms import BALANCE
    from equilix.desktop.window import MainWindow
    from equilix.desktop.workspace import Workspace
    from equilix.io.preferences import Preferences, recovery_folder
    from equilix.io.recovery import Journal
    from equilix.io.shipped import demo_book

    # A way out of its own: while ways are sought the solver's is closed, and with it this one's.
    out = os.fdopen(os.dup(1), "w", buffering=1)
    draw = random.Random(seed)
    seconds = float((folder / "seconds").read_text())
    app = make_app(Theme.LIGHT)
    workspace = Workspace(Preferences(), Journal(recovery_folder()))
    window = MainWindow(workspace)
    workspace.open_book(demo_book(), None)
    window.go(BALANCE)
    window.resize(1280, 800)
    window.show()
    app.processEvents()
    view = window.balance.elevation
    times: list[float] = []
    start_mb = 0.0
    end = time.monotonic() + seconds
    # One stroke at least, however busy the machine is.
    while not times or (len(times) < WHOLE["ticks"] and time.monotonic() < end):
        while (region := next((r for r in view.scene.regions if r.key == ("scale", "plate")), None)) is None:
            app.processEvents()
        xs, ys = zip(*region.polygon, strict=True)
        place = QPoint(round(sum(xs) / len(xs)), round(sum(ys) / len(ys)))
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=place)
        for _ in range(200):
            place = QPoint(min(max(place.x() + draw.choice((-3, -1, 1, 2, 3)), int(min(xs))), int(max(xs))), place.y())
            began = time.perf_counter()
            QTest.mouseMove(view, place)
            app.processEvents()
            times.append(time.perf_counter() - began)
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=place)
        # As a hand that rests: what was put off is done, and what is no longer wanted is let go.
        for _ in range(10):
            app.processEvents()
            time.sleep(0.02)
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        if len(times) == 1000:
            start_mb = memory_mb()
    few = max(len(times) // 10, 1)
    ratio = statistics.median(times[-few:]) / statistics.median(times[200 : 200 + few] or times)
    growth = memory_mb() - start_mb if start_mb else 0.0
    workspace.saved_book = workspace.history.present
    view.released.emit((), 0.0, 0.0)
    app.processEvents()
    print(json.dumps([len(times), growth, ratio]), file=out)
    window.close()
    print("closed", file=out)
    from equilix.desktop import app as application

    return application.end(0)


def ticks(counts: Counts, draw: random.Random, seconds: float, folder: Path) -> None:
    (folder / "seconds").write_text(str(seconds))
    with child("ticks", folder, draw.randrange(1 << 30)) as process:
        assert process.stdout is not None
        # The solver now and then writes a line of its own.
        line = next((text for text in process.stdout if text.startswith("[")), "")
        began = time.monotonic()
        process.stdout.read()
        code = process.wait()
    if code != 0 or not line:
        counts.complain("tracebacks", f"the ticking window ended with {code}")
        return
    if time.monotonic() - began > SLOW:
        counts.complain("over_2_s", f"closing took {time.monotonic() - began:.1f} s")
    counts["ticks"], growth, ratio = json.loads(line)
    counts |= {"rss_growth_mb": round(growth, 1), "tick_end_over_start": round(ratio, 3)}


if __name__ == "__main__":
    sys.exit(main())
