"""Instruments: the line protocol, the stand-in scale, and what happens when one is pulled out or goes flat."""

from __future__ import annotations

import contextlib
import math
import os
import pty
import random
import socket
import subprocess
import sys
import tempfile
import threading
import time
import tty
import unittest
from collections.abc import Callable
from typing import Any

from equilix.core.errors import DeviceError
from equilix.core.kit.records import Instrument
from equilix.core.measurement.steady import STEADY_TIME, Sample, Trace, trace_of
from equilix.devices.line_protocol import LineSplitter, parse_line, reading_line
from equilix.devices.line_scale import SILENCE, LineScale, check_port
from equilix.devices.ports import ScaleState
from equilix.devices.simulated.launch import SimulatedScale
from equilix.devices.simulated.program import Conversation, Unplugged
from equilix.devices.simulated.scale_model import ScaleFaults, ScaleModel


class Protocol(unittest.TestCase):
    def test_readings_come_back(self) -> None:
        for mass, step in ((0.462, 0.002), (-0.002, 0.002), (12.5, 0.5), (19.99, 0.01), (0.0, 0.001)):
            self.assertAlmostEqual(parse_line(reading_line(mass, step), 1.0).mass, mass)

    def test_states_and_greetings(self) -> None:
        self.assertIs(parse_line("overload", 1.0).state, ScaleState.OVERLOAD)
        self.assertIs(parse_line("battery low", 1.0).state, ScaleState.BATTERY_LOW)
        self.assertIsNone(parse_line("hello scale, step 0.002 kg, capacity 20 kg", 1.0))
        self.assertIsNone(parse_line("", 1.0))

    def test_noise_gets_one_sentence(self) -> None:
        for line in ("mass kg", "mass 1e9 kg", "mass 0.1 lb", "\x00\xff", "mass nan kg", "mass 9999999 kg"):
            with self.assertRaisesRegex(DeviceError, "not a reading"):
                parse_line(line, 1.0)

    def test_lines_are_cut_wherever_the_bytes_break(self) -> None:
        stream = b"mass 0.100 kg\r\nmass 0.200 kg\nmass 0.3"
        for size in range(1, 8):
            splitter = LineSplitter()
            lines = [line for i in range(0, len(stream), size) for line in splitter.feed(stream[i : i + size])]
            self.assertEqual(lines, ["mass 0.100 kg", "mass 0.200 kg"])
        with self.assertRaisesRegex(DeviceError, "no lines"):
            splitter.feed(b"x" * 500)

    def test_nothing_beyond_this_machine(self) -> None:
        for port in ("socket://192.0.2.1:4000", "socket://example.org:1", "rfc2217://127.0.0.1:1", "loop://", " "):
            with self.assertRaises(DeviceError):
                check_port(port)
        for port in ("socket://127.0.0.1:4000", "socket://[::1]:4", "/dev/ttyUSB0"):
            check_port(port)


class Steadiness(unittest.TestCase):
    def samples(self, values: list[float]) -> list[Sample]:
        return [Sample(0.1 * i, value) for i, value in enumerate(values)]

    def test_steady_once_it_has_stayed_within_a_step_long_enough(self) -> None:
        swing = [0.5 + 0.2 * math.exp(-i / 8) * math.cos(i) for i in range(40)]
        trace = trace_of(0.002, self.samples(swing))
        self.assertFalse(trace.steady)
        for i in range(25):
            trace = trace.with_sample(Sample(4.0 + 0.1 * i, 0.5 + 0.001 * (i % 2)))
            self.assertEqual(trace.steady, trace.steady_for >= STEADY_TIME)
        self.assertTrue(trace.steady)
        self.assertAlmostEqual(trace.value, 0.5005, places=3)

    def test_drift_is_not_steady(self) -> None:
        trace = trace_of(0.002, self.samples([0.4 + 0.0005 * i for i in range(60)]))
        self.assertFalse(trace.steady)

    def test_a_clock_that_jumps_back_starts_anew(self) -> None:
        trace = trace_of(0.002, self.samples([0.4] * 40))
        self.assertTrue(trace.steady)
        self.assertFalse(trace.with_sample(Sample(1.0, 0.4)).steady)
        self.assertIsNone(Trace(0.002).value)


class StandIn(unittest.TestCase):
    def test_it_swings_in_and_shows_steps(self) -> None:
        model = ScaleModel(step=0.002, faults=ScaleFaults(noise=0.0))
        model.put(0.4637, 0.0)
        early = [model.reading(0.1 * i) for i in range(1, 10)]
        self.assertGreater(max(early), 0.5)
        self.assertEqual(model.reading(20.0), 0.464)

    def test_same_seed_same_readings(self) -> None:
        def run(seed: int) -> list[float]:
            model = ScaleModel(step=0.0001, seed=seed)
            model.put(1.0, 0.0)
            return [model.reading(0.1 * i) for i in range(30)]

        self.assertEqual(run(3), run(3))
        self.assertNotEqual(run(3), run(4))

    def test_gain_drift_and_tare(self) -> None:
        model = ScaleModel(step=0.0001, faults=ScaleFaults(gain=0.01, noise=0.0, drift=0.001))
        model.put(2.0, 0.0)
        model.reading(0.0)
        self.assertAlmostEqual(model.reading(20.0), 2.02 + 0.02, places=3)
        model.tare(20.0)
        self.assertAlmostEqual(model.reading(20.0), 0.0, places=3)

    def test_overload_battery_and_requests(self) -> None:
        model = ScaleModel(capacity=5.0)
        talk = Conversation(model)
        self.assertEqual(talk.answers(b"put 6\nhel", 0.0), ["done"])
        self.assertEqual(talk.line(30.0), "overload")
        self.assertIn("capacity 5 kg", talk.answers(b"lo\n", 1.0)[0])
        self.assertEqual(talk.answers(b"battery low\nbattery flat\n", 1.0), ["battery low", "off"])
        self.assertIsNone(talk.line(30.0))
        self.assertEqual(talk.answers(b"put lots\n", 1.0), ["what? put lots"])
        with self.assertRaises(Unplugged):
            talk.answers(b"unplug\n", 1.0)

    def test_any_line_gets_an_answer_that_can_be_sent(self) -> None:
        talk = Conversation(ScaleModel())
        draw = random.Random(4)
        lines = [
            b"put nan",
            b"put inf",
            b"put -inf",
            b"put 1e400",
            "gr\u00fc\u00df".encode(),
            b"\xff\xfe",
            b"put",
            b"shake",
        ]
        lines += [draw.randbytes(draw.randrange(1, 60)).replace(b"\n", b"") for _ in range(300)]
        for line in lines:
            for answer in talk.answers(line + b"\n", 0.5):
                self.assertTrue(answer.encode("ascii").isascii())
                self.assertTrue(answer.isprintable())
            self.assertRegex(talk.line(1.0) or "", "^mass |^overload|^$")
        self.assertEqual(talk.answers(b"put nan\n", 0.0), ["what? put nan"])


class Patient(unittest.TestCase):
    """Waits for something with a bound instead of sleeping for a fixed time."""

    def until(self, poll: Callable[[], Any], seconds: float = 8.0) -> Any:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            found = poll()
            if found:
                return found
            time.sleep(0.01)
        raise AssertionError("it never came")


class Program(Patient):
    """The stand-in as the program that ships, spoken to through a socket and through a pseudo-terminal."""

    def start(self, *arguments: str) -> tuple[subprocess.Popen[str], str]:
        command = [sys.executable, "-m", "equilix", "instrument", "--noise", "0", *arguments]
        program = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        self.addCleanup(program.stdout.close)
        self.addCleanup(program.wait, 5)
        self.addCleanup(program.terminate)
        return program, program.stdout.readline().strip()

    def test_a_socket_and_a_terminal_weigh_the_same(self) -> None:
        ports = [self.start(*arguments)[1] for arguments in (("--load", "1.25"), ("--load", "1.25", "--terminal"))]
        time.sleep(2.0)  # both swing in meanwhile
        for port in ports:
            scale = LineScale(port)
            scale.open()
            self.addCleanup(scale.close)
            trace = Trace(0.002)

            def steady(scale: Any = scale) -> float | None:
                nonlocal trace
                for reading in scale.poll():
                    trace = trace.with_sample(Sample(reading.time, reading.mass))
                return trace.value if trace.steady else None

            self.assertAlmostEqual(self.until(steady, 12.0), 1.25, delta=0.002)

    def test_it_listens_on_loopback_alone(self) -> None:
        _, port = self.start()
        self.assertTrue(port.startswith("socket://127.0.0.1:"), port)
        number = int(port.rpartition(":")[2])
        own = {info[4][0] for info in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)}
        for address in own - {"127.0.0.1", "127.0.1.1"}:
            with contextlib.closing(socket.socket()) as probe:
                probe.settimeout(0.5)
                self.assertNotEqual(probe.connect_ex((address, number)), 0)

    def test_pulled_out_in_the_middle(self) -> None:
        scale = SimulatedScale(Instrument("s", "Scale"))
        scale.open()
        self.addCleanup(scale.close)
        self.until(scale.poll)
        scale.say("unplug")
        with self.assertRaisesRegex(DeviceError, "unplugged"):
            self.until(lambda: scale.poll() and None)
        with self.assertRaisesRegex(DeviceError, "not connected"):
            scale.poll()
        scale.open()
        self.assertTrue(self.until(scale.poll))

    def test_overload_and_flat_battery_are_told(self) -> None:
        scale = SimulatedScale(Instrument("s", "Scale", capacity=2.0))
        scale.open()
        self.addCleanup(scale.close)
        scale.put(3.0)

        def state() -> ScaleState | None:
            return next((r.state for r in scale.poll() if r.state is not ScaleState.READING), None)

        self.assertIs(self.until(state), ScaleState.OVERLOAD)
        scale.put(1.0)
        scale.say("battery low")
        self.until(lambda: state() is ScaleState.BATTERY_LOW)
        scale.say("battery flat")
        self.until(lambda: state() is ScaleState.OFF)

    def test_a_port_that_is_taken_is_said_so(self) -> None:
        _, port = self.start()
        command = [sys.executable, "-m", "equilix", "instrument", "--port", port.rpartition(":")[2]]
        done = subprocess.run(command, capture_output=True, text=True, timeout=20)
        self.assertEqual(done.returncode, 2)
        self.assertIn("is taken", done.stderr)


class Link(Patient):
    """A `LineScale` at a terminal whose other end the test holds."""

    def setUp(self) -> None:
        self.master, slave = pty.openpty()
        tty.setraw(slave)
        self.slave = slave
        self.now = 0.0
        self.scale = LineScale(os.ttyname(slave), clock=lambda: self.now)
        self.scale.open()
        self.addCleanup(self.scale.close)
        self.addCleanup(lambda: os.close(self.slave))

    def tearDown(self) -> None:
        with contextlib.suppress(OSError):
            os.close(self.master)

    def test_silence_counts_as_lost(self) -> None:
        os.write(self.master, b"mass 0.5 kg\n")
        self.assertEqual(self.until(self.scale.poll)[0].mass, 0.5)
        self.now = 0.9 * SILENCE
        self.assertEqual(self.scale.poll(), ())
        self.now = 1.1 * SILENCE
        with self.assertRaisesRegex(DeviceError, "stopped sending. Check its"):
            self.scale.poll()

    def test_one_garbled_line_is_forgiven_and_a_wrong_speed_is_not(self) -> None:
        os.write(self.master, b"ma\xf8\x01 kg\nmass 0.6 kg\n")
        self.assertEqual(self.until(self.scale.poll)[-1].mass, 0.6)
        os.write(self.master, b"\xf8\x01\n\x80\x80\n\x91\n\x92\n")
        with self.assertRaisesRegex(DeviceError, "Check the port and its speed"):
            self.until(lambda: self.scale.poll() and None, 3.0)

    def test_the_wire_is_cut_while_reading(self) -> None:
        def cut() -> None:
            os.write(self.master, b"mass 0.7 kg\nmass 0.")
            os.close(self.master)

        threading.Thread(target=cut).start()
        with self.assertRaisesRegex(DeviceError, "unplugged"):
            self.until(lambda: self.scale.poll() and None, 5.0)

    def test_a_reading_is_as_old_as_its_coming_not_as_the_look_at_it(self) -> None:
        for second in range(3):
            self.now = 0.3 * second
            os.write(self.master, b"mass 0.%d kg\n" % (second + 1))
            time.sleep(0.12)
        self.now = 1.5
        found = self.scale.poll()
        self.assertEqual([reading.mass for reading in found], [0.1, 0.2, 0.3])
        for reading, came in zip(found, (0.0, 0.3, 0.6), strict=True):
            self.assertAlmostEqual(reading.time, came)

    def test_of_readings_that_come_in_a_heap_only_the_last_counts(self) -> None:
        os.write(self.master, b"".join(b"mass 0.%03d kg\n" % n for n in range(40)) + b"battery low\n")
        found = self.until(self.scale.poll)
        self.assertEqual([r.mass for r in found if r.state is ScaleState.READING], [0.039])
        self.assertIn(ScaleState.BATTERY_LOW, [r.state for r in found])

    def test_a_scale_that_reads_nothing_does_not_hold_up_the_caller(self) -> None:
        # More than any line takes in: one that waited for it would wait for ever.
        for _ in range(5_000):
            self.scale.say("x" * 100)

    def test_ports_that_are_no_ports_are_told_in_plain_words(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        ordinary = f"{folder.name}/file"
        open(ordinary, "w").close()
        pipe = f"{folder.name}/pipe"
        os.mkfifo(pipe)
        for port, words in (
            ("socket://[bad:1", "is on another machine"),
            ("socket://127.0.0.1:99999", "is on another machine|is not a port"),
            ("socket://127.0.0.1", "is not a port"),
            (ordinary, "is not a serial device|[Cc]heck its plug"),
            (pipe, "is not a serial device|[Cc]heck its plug"),
            (folder.name, "is a folder|check its plug"),
            ("/dev/no-such-scale", "there is no such device"),
            ("/dev/tty\0", "check its plug"),
        ):
            start = time.monotonic()
            with self.subTest(port), self.assertRaisesRegex(DeviceError, words) as caught:
                LineScale(port).open()
            self.assertLess(time.monotonic() - start, 5.0)
            self.assertNotIn("Errno", str(caught.exception))
            self.assertNotIn("(", str(caught.exception))

    def test_nobody_there(self) -> None:
        with contextlib.closing(socket.socket()) as probe:
            probe.bind(("127.0.0.1", 0))
            number = probe.getsockname()[1]
        with self.assertRaisesRegex(DeviceError, "No scale answers"):
            LineScale(f"socket://127.0.0.1:{number}").open()
        with self.assertRaisesRegex(DeviceError, "No scale answers"):
            LineScale("/dev/no-such-scale").open()
