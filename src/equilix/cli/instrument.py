"""`equilix instrument`: a stand-in scale for trying the bench without hardware."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence

import click

from equilix.cli.errors import run_command

#: The word that asks for a stand-in gimbal.
GIMBAL = "gimbal"


@click.command(context_settings={"help_option_names": ["--help"]})
@click.option("--step", type=click.FloatRange(1e-6, 10.0), default=0.002, help="Display step, kg.")
@click.option("--capacity", type=click.FloatRange(0.001, 500.0), default=20.0, help="Most it carries, kg.")
@click.option("--load", type=click.FloatRange(0.0, 500.0), default=0.0, help="Load at the start, kg.")
@click.option("--gain", type=click.FloatRange(-0.5, 0.5), default=0.0, help="Gain error, as a fraction.")
@click.option("--noise", type=click.FloatRange(0.0, 10.0), default=0.0008, help="Noise, kg (standard deviation).")
@click.option("--drift", type=click.FloatRange(-1.0, 1.0), default=0.0, help="Drift, kg/s.")
@click.option("--unsteady", is_flag=True, help="The reading never settles.")
@click.option("--seed", type=int, default=1, help="Seed of the noise.")
@click.option("--terminal", is_flag=True, help="Use a pseudo-terminal, not a socket.")
@click.option("--leash", is_flag=True, help="End when stdin is closed.")
@click.option("--port", type=click.IntRange(0, 65535), default=0, help="Loopback port. 0 takes a free one.")
def instrument(
    step: float,
    capacity: float,
    load: float,
    gain: float,
    noise: float,
    drift: float,
    unsteady: bool,
    seed: int,
    terminal: bool,
    leash: bool,
    port: int,
) -> int:
    """Run a simulated scale until it is stopped. Its first line says where to reach it."""
    import time

    from equilix.devices.simulated.program import Conversation, end_with_parent, run_socket, run_terminal
    from equilix.devices.simulated.scale_model import ScaleFaults, ScaleModel

    if leash:
        end_with_parent()
    model = ScaleModel(step, capacity, ScaleFaults(gain, noise, drift, unsteady), seed)
    model.put(load, time.monotonic())
    try:
        if terminal:
            run_terminal(model)
        else:
            run_socket(lambda: Conversation(model), port)
    except KeyboardInterrupt:
        return 0
    return 0


@click.command(context_settings={"help_option_names": ["--help"]})
@click.option("--seed", type=int, default=1, help="Seed of the gimbal's load.")
@click.option("--hidden", is_flag=True, help="Do not print the true marks.")
@click.option("--noise", type=click.FloatRange(0.0, 1.0), default=0.012, help="Noise of the motor reading, Nm.")
@click.option(
    "--axis", "axes", multiple=True, metavar="NAME:M1,M2:SCALE=S1,S2…", help="Moments, Nm, and slide rates, N/m."
)
@click.option("--leash", is_flag=True, help="End when stdin is closed.")
@click.option("--port", type=click.IntRange(0, 65535), default=0, help="Loopback port. 0 takes a free one.")
def gimbal_instrument(seed: int, hidden: bool, noise: float, axes: tuple[str, ...], leash: bool, port: int) -> int:
    """Run a simulated gimbal until it is stopped. Its first line says where to reach it."""
    import time

    from equilix.devices.simulated.gimbal_model import drawn
    from equilix.devices.simulated.gimbal_program import GimbalTalk, told_axis
    from equilix.devices.simulated.program import end_with_parent, run_socket

    if leash:
        end_with_parent()
    model = drawn(seed)
    model.noise = noise
    for words in axes:
        name, turning = told_axis(words, model)
        model.axes[name] = turning
    start = time.monotonic()
    if not hidden:
        for name in model.axes:
            first, second = model.moments(name)
            click.echo(f"# {name}: {first:+.4f} {second:+.4f} Nm with the scales in the middle", err=True)
    with contextlib.suppress(KeyboardInterrupt):
        run_socket(lambda: GimbalTalk(model, start), port)
    return 0


def run(arguments: Sequence[str]) -> int:
    """Run with `arguments`; return the exit code. The word "gimbal" first asks for a gimbal instead of a scale."""
    if arguments and arguments[0] == GIMBAL:
        return run_command(gimbal_instrument, arguments[1:], "equilix instrument gimbal")
    return run_command(instrument, arguments, "equilix instrument")
