"""How the reserve of strength falls over the takes."""

from __future__ import annotations

from collections.abc import Sequence

from equilix.core.assembly.build import Take
from equilix.present.carry.carry_view import ReserveStory
from equilix.present.drawing.scene import (
    Anchor,
    Region,
    Scene,
    circle,
    fitted,
    polygon,
    polyline,
    rect,
    text_width,
)
from equilix.present.words import JOINT_NAMES, minutes


def draw_reserve(story: ReserveStory, takes: Sequence[Take], made_up: bool, width: float, height: float) -> Scene:
    """Return the reserve along takes and rests; regions ("take", number)."""
    scene = Scene()
    left, right, top, base = 46.0, width - 14.0, 46.0, height - 32.0
    total = sum(t.length + t.rest for t in takes)
    joint = story.joint
    name = JOINT_NAMES[joint.joint][1]
    scene.text(0, 18, "Reserve over the takes", 16, 600)
    note = f"{name}. Band: slow to quick recovery. Thin lines: the other joints"
    if width < 560.0:
        note = f"{name}. Band: slow to quick recovery"
    note = ("One take of 10 min, until you add takes. " if made_up else "") + note
    scene.text(190, 18, fitted(note, 13, width - 196.0), 13, 400, "ink3")

    def x(time: float) -> float:
        return left + (right - left) * time / total

    def y(share: float) -> float:
        return base - (base - top) * share

    for share in (0.0, 0.5, 1.0):
        scene.line(left, y(share), right, y(share), "rule", 1.0)
        scene.text(left - 8, y(share) + 4, f"{100 * share:.0f} %", 12, 500, "ink3", Anchor.END)
    run = story.reserve
    stride = max(1, len(run.time) // 400)
    upper = [(x(float(t)), y(float(v))) for t, v in zip(run.time[::stride], run.left[::stride], strict=True)]
    lower = [(x(float(t)), y(float(v))) for t, v in zip(run.time[::stride], run.least[::stride], strict=True)]
    scene.path(polygon((*upper, *reversed(lower))), "accent", None, 0.0, (), 0.16)
    scene.path(polyline(upper), None, "accent", 1.2)
    for other in story.others:
        scene.path(
            polyline(
                [(x(float(t)), y(float(v))) for t, v in zip(other.time[::stride], other.least[::stride], strict=True)]
            ),
            None,
            "ink3",
            0.8,
        )
    scene.path(polyline(lower), None, "accent", 2.0)
    need = y(min(joint.share, 1.0))
    scene.line(left, need, right, need, "fwd", 1.4)
    below = need + 14.0 if need + 14.0 < base else need - 4.0
    scene.note(right - 4, below, "cannot be held below this line", 12.5, "fwdT", Anchor.END)
    safe = y(story.safe)
    scene.line(left, safe, right, safe, "ink2", 1.0, (5.0, 4.0))
    scene.note(right - 4, safe - 4, "stay above this line", 12.5, "ink2", Anchor.END)
    now = 0.0
    for k, take in enumerate(takes):
        a, b = x(now), x(now + take.length)
        over = run.fails_least is not None and now < run.fails_least + 1e-6 <= now + take.length + 1e-6
        scene.path(rect(a, base + 5, max(b - a, 2), 19, 2), "fwd" if over else "accent")
        words = f"Take {k + 1}" if b - a > 46 else str(k + 1)
        if b - a > 14:
            scene.text((a + b) / 2, base + 19, words, 12.5, 600, "onaccent", Anchor.MIDDLE)
        scene.regions.append(Region(("take", str(k)), ((a, base + 3), (b, base + 3), (b, base + 26), (a, base + 26))))
        now += take.length
        if take.rest > 0.0 and x(now + take.rest) - b > 40:
            scene.text((b + x(now + take.rest)) / 2, base + 19, minutes(take.rest), 12.5, 400, "ink2", Anchor.MIDDLE)
        now += take.rest
    if run.fails_least is not None:
        fx = x(run.fails_least)
        scene.line(fx, top, fx, base, "fwd", 1.4)
        scene.path(circle(fx, need, 4.0), "panel", "fwd", 1.6)
        early, late = run.fails_least, run.fails
        until = "" if late is None or minutes(late) == minutes(early) else f" to {minutes(late)}"
        anchor = Anchor.START if fx < (left + right) / 2 else Anchor.END
        room = (right - fx if anchor is Anchor.START else fx - left) - 4.0
        words = f"gives out {minutes(early)}{until} after the start"
        if 1.06 * text_width(words, 13) > room:
            words = f"gives out {minutes(early)}{until} into it"
        if 1.06 * text_width(words, 13) > room:
            words = f"gives out after {minutes(early)}"
        scene.text(fx + (-4 if anchor is Anchor.START else 4), top - 6, words, 13, 600, "fwdT", anchor)
    return scene
