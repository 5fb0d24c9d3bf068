"""A gimbal that can be read: its lines, the stand-in over its socket, and what goes wrong on a wire."""

from __future__ import annotations

import math
import socket
import subprocess
import sys
import threading
import time
import unittest

from equilix.core.errors import DeviceError
from equilix.devices.gimbal_lines import At, Drop, Effort, Hello, Marks, parse_gimbal_line
from equilix.devices.line_gimbal import LineGimbal
from equilix.devices.simulated.gimbal_launch import SimulatedGimbal
from equilix.devices.simulated.gimbal_model import DRIFT, SCALES, drawn
from equilix.devices.simulated.gimbal_program import GimbalTalk, told_axis
from equilix.devices.simulated.program import Unplugged


class Lines(unittest.TestCase):
    def test_what_it_says_is_read(self) -> None:
        self.assertEqual(parse_gimbal_line("effort tilt -0.1234 Nm"), Effort("tilt", -0.1234))
        self.assertEqual(parse_gimbal_line("fell pan stays"), Drop("pan", "stays"))
        self.assertEqual(parse_gimbal_line("hello gimbal, noise 0.0120 Nm"), Hello(0.012))
        at = parse_gimbal_line("at 45.0 0.0 -30.0 0.0 deg")
        self.assertIsInstance(at, At)
        self.assertAlmostEqual(at.angles[0], math.pi / 4.0)
        marks = parse_gimbal_line("marks plate +12.50 height -3.00 roll +0.00 pan +0.00 mm")
        self.assertEqual(marks, Marks({"plate": 0.0125, "height": -0.003, "roll": 0.0, "pan": 0.0}))
        self.assertIsNone(parse_gimbal_line("done"))

    def test_garbage_gets_one_sentence(self) -> None:
        for line in ("effort tilt nan Nm", "mass 1 kg", "\x07\xff", "effort yaw 0.1 Nm", "at 1 2 3 deg"):
            with self.assertRaisesRegex(DeviceError, '" is not a line of a gimbal'):
                parse_gimbal_line(line)

    def test_the_stand_in_answers(self) -> None:
        talk = GimbalTalk(drawn(2), 0.0)
        self.assertEqual(talk.answers(b"set plate 10\nhold 45 0 0 0\n", 0.0), ["done", "done"])
        self.assertAlmostEqual(talk.model.marks["plate"], 0.010, delta=0.0003)
        self.assertTrue(talk.line(0.0).startswith("at 45.0 0.0"))
        (fell,) = talk.answers(b"release tilt\n", 0.0)
        self.assertIsInstance(parse_gimbal_line(fell), Drop)
        self.assertTrue(talk.answers(b"set plate nan\n", 0.0)[0].startswith("what?"))
        self.assertTrue(talk.answers(b"dance\n", 0.0)[0].startswith("what? dance"))
        for scale in SCALES:
            self.assertEqual(talk.answers(f"set {scale} 999\n".encode(), 0.0), ["done"])
        with self.assertRaises(Unplugged):
            talk.answers(b"unplug\n", 0.0)

    def test_it_rubs_drifts_and_is_noisy(self) -> None:
        """Read from either side: the difference is twice the friction; what an hour drifts is no noise."""
        model = drawn(4)
        model.noise = 0.0
        model.hold(0.1, 0.0, 0.0, 0.0)
        model.hold(0.0, 0.0, 0.0, 0.0)
        down = model.effort("tilt", 0.0)
        model.hold(-0.1, 0.0, 0.0, 0.0)
        model.hold(0.0, 0.0, 0.0, 0.0)
        up = model.effort("tilt", 0.0)
        self.assertAlmostEqual(up - down, 2.0 * model.axes["tilt"].friction)
        self.assertAlmostEqual((up + down) / 2.0 - model.axes["tilt"].bias, model.torque("tilt"))
        self.assertAlmostEqual(model.effort("tilt", 100.0) - up, 100.0 * DRIFT)
        again = drawn(4)
        self.assertEqual(again.axes["pan"].moments, model.axes["pan"].moments)

    def test_an_axis_can_be_told(self) -> None:
        name, turning = told_axis("tilt:0.31,-0.12:plate=22,0:height=0,20", drawn(1))
        self.assertEqual((name, turning.moments, turning.slopes["height"]), ("tilt", (0.31, -0.12), (0.0, 20.0)))
        for words in ("tilt", "yaw:1,2", "tilt:1", "tilt:1,2:plate", "tilt:1,2:arm=1,2"):
            with self.assertRaisesRegex(DeviceError, "Write it as tilt:0.31,-0.12:plate=22,0"):
                told_axis(words, drawn(1))


class OnAWire(unittest.TestCase):
    def served(self, sent: bytes, keep: float = 0.0) -> LineGimbal:
        """Return a gimbal at a socket that sends `sent` and hangs up after `keep` s."""
        server = socket.create_server(("127.0.0.1", 0))
        self.addCleanup(server.close)

        def serve() -> None:
            connection, _ = server.accept()
            with connection:
                connection.recv(64)  # it is greeted first
                connection.sendall(sent)
                time.sleep(keep)

        threading.Thread(target=serve, daemon=True).start()
        gimbal = LineGimbal(f"socket://127.0.0.1:{server.getsockname()[1]}")
        gimbal.open()
        self.addCleanup(gimbal.close)
        return gimbal

    def until(self, gimbal: LineGimbal, words: str, seconds: float = 6.0) -> None:
        end = time.monotonic() + seconds
        with self.assertRaisesRegex(DeviceError, words):
            while time.monotonic() < end:
                gimbal.poll()
                time.sleep(0.02)

    def test_garbage_a_flood_an_end_and_silence(self) -> None:
        self.until(self.served(b"\x01\x02\nzz\n%%\n", 3.0), '" is not a line of a gimbal')
        self.until(
            self.served(b"at 0.0 0.0 0.0 0.0 deg\n" * 2000, 3.0), "sends lines too fast. Check that the port is right"
        )
        self.until(self.served(b"at 0.0 0.0 0.0 0.0 deg\n"), "was unplugged")
        clock = [0.0]
        quiet = self.served(b"", 3.0)
        quiet._clock = lambda: clock[0]
        quiet._last = 0.0
        clock[0] = 5.0
        with self.assertRaisesRegex(DeviceError, "stopped sending. Check its"):
            quiet.poll()
        with self.assertRaisesRegex(DeviceError, "Connect it first"):
            quiet.say("hello")

    def test_the_stand_in_as_a_program(self) -> None:
        gimbal = SimulatedGimbal(5)
        gimbal.open()
        self.addCleanup(gimbal.close)
        gimbal.say("effort roll")
        heard: list[object] = []
        end = time.monotonic() + 8.0
        while time.monotonic() < end and not any(isinstance(one, Effort) for one in heard):
            heard += gimbal.poll()
            time.sleep(0.02)
        self.assertTrue(any(isinstance(one, Effort) and one.axis == "roll" for one in heard))
        self.assertTrue(any(isinstance(one, Hello) for one in heard))

    def test_the_command_line_says_what_is_hidden_only_if_asked(self) -> None:
        for more, told in ((["--hidden"], False), ([], True)):
            program = subprocess.Popen(
                [sys.executable, "-m", "equilix", "instrument", "gimbal", "--seed", "2", "--leash", *more],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                text=True,
            )
            self.assertTrue(program.stdout.readline().startswith("socket://127.0.0.1:"))
            program.stdin.close()
            program.wait(10)
            said = program.stderr.read()
            self.assertEqual("tilt:" in said, told)
            program.stdout.close()
            program.stderr.close()


if __name__ == "__main__":
    unittest.main()
