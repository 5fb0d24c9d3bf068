"""What each way may change: slides, what hangs elsewhere, batteries, weights."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.assembly.mounts import FreeMount, free_mounts, mount_of
from equilix.core.kit.parts import Category, MountKind, Part
from equilix.core.kit.parts import Connection as PartJoint
from equilix.core.slides import slide_of_camera
from equilix.core.solver.choices import Choice, Follower, Option, Variable, carried_parts, fits, parts_of
from equilix.core.solver.dead_weight import MOST_DEAD_WEIGHT, weight_block, weight_mounts
from equilix.core.sources import common_practice

#: kg that a way to more steadiness may add.
MOST_STEADYING = common_practice(2.5)
#: Things that are set to the lens and go along when the camera slides.
SET_TO_LENS = frozenset({Category.LENS_SUPPORT, Category.FOCUS, Category.MATTE_BOX})
#: Things whose place hands, eye and head decide; slides that carry only these are not for balance.
_SET_TO_BODY = frozenset({Category.GRIP, Category.CLAMP, Category.HANDLE, Category.MONITOR, Category.ARM})
#: So many of the heaviest are tried elsewhere: lighter ones balance nothing, and each doubles the search.
_MOST_MOVED = 5
#: So many ways to fill what is empty are tried.
_MOST_FILLED = 40
#: Things that may hang elsewhere without harm.
_MOVABLE = (Category.BATTERY_PLATE, Category.BATTERY, Category.SENDER, Category.AUDIO, Category.WEIGHT)


def balance_slides(analysis: Analysis) -> frozenset[str]:
    """Return the placed parts whose slides are for balance: those that carry more than hands, eye and lens set.

    A support may have its own.
    """
    own_choice = analysis.support.balancing(analysis)
    if own_choice is not None:
        return own_choice
    assembly = analysis.assembly
    found = set()
    fixed = analysis.support.immovable
    for j, i in enumerate(assembly.slide_parts):
        carried = {assembly.parts[k].category for k in range(len(assembly.parts)) if assembly.carries(j, k)}
        # Rods only carry what is set on them.
        own = carried - fixed
        if assembly.slide_mounts[j].goes and own - SET_TO_LENS - _SET_TO_BODY:
            found.add(analysis.build.parts[i].id)
    return frozenset(found)


def lens_followers(analysis: Analysis) -> tuple[Follower, ...]:
    """Return what is set to the lens on slides that don't carry the camera.

    A motor or a matte box on rods goes along exactly; a lens support may stay wherever the lens still lies
    over it.
    """
    assembly = analysis.assembly
    leader = slide_of_camera(analysis)
    if leader is None or assembly.sensor is None:
        return ()
    lead = analysis.build.parts[assembly.slide_parts[leader]].id
    followers = []
    for j, i in enumerate(assembly.slide_parts):
        if assembly.parts[i].category not in SET_TO_LENS or not assembly.parts_two(leader, i, assembly.sensor):
            continue
        placed_id = analysis.build.parts[i].id
        back, ahead = (0.0, 0.0)
        if assembly.parts[i].category is Category.LENS_SUPPORT:
            back, ahead = _room_under_lens(analysis, i)
            if float(assembly.slide_axes[j][0]) < 0.0:
                # Its slide counts the other way.
                back, ahead = -ahead, -back
        followers.append(Follower(lead, placed_id, back, ahead))
    return tuple(followers)


def set_to_lens(analysis: Analysis) -> frozenset[int]:
    """Return the numbers of the parts that are set to the lens again wherever the camera goes: `lens_followers`."""
    ids = {follower.follower for follower in lens_followers(analysis)}
    return frozenset(i for i, placed in enumerate(analysis.build.parts) if placed.id in ids)


#: How far a lens support stands behind and before a lens' middle at most, in half its lengths: neither at the mount,
#: where it relieves nothing, nor at the very front.
_UNDER_LENS = common_practice((0.6, 0.9))


def _room_under_lens(analysis: Analysis, support: int) -> tuple[float, float]:
    """Return how far (m) a lens support may go back and ahead of where it stands below the lens."""
    assembly = analysis.assembly
    lenses = [k for k, part in enumerate(assembly.parts) if part.category is Category.LENS]
    if not lenses:
        return (0.0, 0.0)
    lens = lenses[0]
    x = float(analysis.positions.centre[support, 0])
    middle, half = float(analysis.positions.centre[lens, 0]), float(assembly.edges[lens, 0])
    low, high = middle - _UNDER_LENS[0] * half, middle + _UNDER_LENS[1] * half
    return (min(low - x, 0.0), max(high - x, 0.0))


def slides_variable(analysis: Analysis, pad: bool = False) -> Variable:
    """Return the freedom to slide what is there; with `pad` also what holds it, and with it the rig on the body."""
    slides = balance_slides(analysis)
    if pad:
        slides |= _holder_slides(analysis)
    own_choice = analysis.support.balancing(analysis) is not None
    # Where there are stages, what carries the innermost one is balanced too.
    if not own_choice and not pad and analysis.equilibrium is not None and not analysis.equilibrium.groups:
        assembly, holder = analysis.assembly, analysis.equilibrium.holder
        slides -= {
            analysis.build.parts[i].id for j, i in enumerate(assembly.slide_parts) if assembly.carries(j, holder)
        }
    return Variable(slides, (), lens_followers(analysis))


def _holder_slides(analysis: Analysis) -> frozenset[str]:
    """Return the slides that take along what holds the rig, both hands or a hook, and nothing of the camera."""
    equilibrium, assembly = analysis.equilibrium, analysis.assembly
    if equilibrium is None:
        return frozenset()
    in_hands = analysis.support.in_hands
    hands = [place.part for place in equilibrium.pose.places] if in_hands else [equilibrium.holder]
    return frozenset(
        analysis.build.parts[i].id
        for j, i in enumerate(assembly.slide_parts)
        if all(assembly.carries(j, part) for part in hands)
        and not (assembly.sensor is not None and assembly.carries(j, assembly.sensor))
    )


def grips_variable(analysis: Analysis) -> Variable:
    """Return the freedom to slide what both hands hold, and nothing else."""
    return Variable(_holder_slides(analysis))


def clamps_variable(analysis: Analysis) -> Variable:
    """Return the freedom to slide everything, also what hands and eye want where it is, but not the screen."""
    base, assembly = slides_variable(analysis, pad=True), analysis.assembly
    screens = frozenset({Category.MONITOR, Category.ARM})
    following = {one.follower for one in base.followers}
    more = set()
    for j, i in enumerate(assembly.slide_parts):
        carried = {assembly.parts[k].category for k in range(len(assembly.parts)) if assembly.carries(j, k)}
        placed_id = analysis.build.parts[i].id
        if (
            assembly.slide_mounts[j].goes
            and placed_id not in following
            and carried - screens - analysis.support.immovable
        ):
            more.add(placed_id)
    return Variable(base.slides | more, (), base.followers)


def move_variable(analysis: Analysis, kit: Kit) -> Variable:
    """Return the freedom to hang movable parts, with what sits on them, on other free mounts, and to slide all."""
    build = analysis.build
    base = slides_variable(analysis, pad=True)
    choices = []
    free_to_move = [
        placed
        for placed in parts_of(build, kit, _MOVABLE)
        if placed.parent is not None
        and not placed.reversed
        and placed.own is None
        and kit[build.placed(placed.parent).part_id].category not in _MOVABLE
    ]
    movable = _heaviest(analysis, free_to_move)
    gone = {p.id for placed in movable for p in (placed, *carried_parts(build, placed.id))}
    stays = replace(build, parts=tuple(p for p in build.parts if p.id not in gone))
    mounts = free_mounts(stays, kit)
    for placed in movable:
        carried = carried_parts(build, placed.id)
        options = [Option(placed, carried, current=True)]
        part = kit[placed.part_id]
        for free in mounts:
            same = (free.placed_id, free.mount.id) == (placed.parent, placed.mount)
            foot = fits(part, free.mount)
            if same or foot is None or not _sensible(part, free, stays, kit):
                continue
            moved = replace(placed, parent=free.placed_id, mount=free.mount.id, foot=foot, setting=free.mount.snap(0.0))
            options.append(Option(moved, carried))
        if len(options) > 1:
            choices.append(Choice(tuple(options), needed=True))
    return Variable(base.slides, tuple(choices), base.followers)


def _heaviest(analysis: Analysis, several: Sequence[Placed]) -> list[Placed]:
    """Return those of `several` worth hanging elsewhere, with what they carry the heaviest first, in part order."""
    mass = {p.id: m for p, m in zip(analysis.build.parts, analysis.assembly.mass.tolist(), strict=True)}
    weight = {p.id: sum(mass[i] for i in analysis.build.carried_by(p.id)) for p in several}
    chosen = sorted(several, key=lambda p: -weight[p.id])[:_MOST_MOVED]
    return [p for p in several if p in chosen]


def _sensible(part: Part, free: FreeMount, build: Build, kit: Kit) -> bool:
    """Whether anybody would hang `part` there: a battery on rods or behind, not on the lens side of the rods."""
    carrier = kit[build.placed(free.placed_id).part_id]
    if part.category in (Category.BATTERY_PLATE, Category.BATTERY):
        return carrier.category in (Category.RODS, Category.BODY, Category.PLATE, Category.CAGE)
    return carrier.category not in (Category.GRIP, Category.LENS, Category.MATTE_BOX)


def battery_variable(analysis: Analysis, kit: Kit) -> Variable:
    """Return the freedom to put another battery of the kit in the place of the one on the build, and to slide."""
    build = analysis.build
    base = slides_variable(analysis)
    on_build = {placed.part_id for placed in build.parts}
    choices = []
    for placed in parts_of(build, kit, (Category.BATTERY,)):
        mount = mount_of(placed, build, kit)
        if mount is None or placed.reversed or placed.own is not None or carried_parts(build, placed.id):
            continue
        options = [Option(placed, current=True)]
        for part in kit.values():
            foot = fits(part, mount)
            if part.category is Category.BATTERY and part.id not in on_build and part.mass and foot is not None:
                options.append(Option(replace(placed, part_id=part.id, foot=foot)))
        if len(options) > 1:
            choices.append(Choice(tuple(options), needed=True))
    return Variable(base.slides, tuple(choices), base.followers)


def fill_variable(analysis: Analysis, kit: Kit) -> Variable:
    """Return the freedom to put a battery of the kit on a mount that is free for one, and to slide."""
    base = slides_variable(analysis)
    return Variable(base.slides, tuple(_filled(analysis, kit)), base.followers)


def _filled(analysis: Analysis, kit: Kit) -> list[Choice]:
    """Return the batteries of the kit that a free V-lock takes; else plates with a battery for mounts that are free.

    One of them goes on.
    """
    build = analysis.build
    used = {placed.part_id for placed in build.parts}
    taken = {placed.id for placed in build.parts}
    spare = [part for part in kit.values() if part.id not in used and part.mass]
    batteries = [part for part in spare if part.category is Category.BATTERY]
    options: list[Option] = []
    free = free_mounts(build, kit)
    for spot in free:
        plate = kit[build.placed(spot.placed_id).part_id].category is Category.BATTERY_PLATE
        if plate or spot.mount.kind is MountKind.V_LOCK:
            for part in batteries:
                foot = fits(part, spot.mount)
                if foot is not None:
                    name = _fresh(f"battery {part.id}", taken)
                    options.append(Option(Placed(name, part.id, spot.placed_id, spot.mount.id, foot)))
    if not options and any(kit[placed.part_id].category is Category.BATTERY for placed in build.parts):
        return []
    for holder in spare if not options else []:
        if holder.category is not Category.BATTERY_PLATE:
            continue
        for spot in free:
            foot = fits(holder, spot.mount)
            if foot is None or not _sensible(holder, spot, build, kit):
                continue
            for part in batteries:
                seat = next(((m, f) for m in holder.mounts if (f := fits(part, m)) is not None), None)
                if seat is None:
                    continue
                name = _fresh(f"plate {holder.id}", taken)
                on_it = Placed(_fresh(f"battery {part.id}", taken), part.id, name, seat[0].id, seat[1])
                options.append(
                    Option(Placed(name, holder.id, spot.placed_id, spot.mount.id, foot, spot.mount.snap(0.0)), (on_it,))
                )
    return [Choice(tuple(options[:_MOST_FILLED]), needed=True)] if options else []


def shed_variable(analysis: Analysis, kit: Kit, removable: Collection[Category]) -> Variable:
    """Return the freedom to leave off parts of the `removable` kinds, with what sits on them, and to slide."""
    build = analysis.build
    base = slides_variable(analysis)
    choices = []
    for placed in parts_of(build, kit, tuple(removable)):
        carried = carried_parts(build, placed.id)
        plain = placed.parent is not None and not placed.reversed and placed.own is None
        if plain and all(kit[p.part_id].category in removable for p in carried):
            choices.append(Choice((Option(placed, carried, current=True),)))
    # What sits on another that may come off goes with it, not by itself.
    inner = {p.id for choice in choices for p in choice.options[0].carried}
    outer = tuple(choice for choice in choices if choice.options[0].placed.id not in inner)
    gone = {p.id for choice in outer for p in (choice.options[0].placed, *choice.options[0].carried)}
    return Variable(base.slides - gone, outer, tuple(f for f in base.followers if f.follower not in gone))


def weight_choices(analysis: Analysis, kit: Kit, blocks: bool = True) -> tuple[Choice, ...]:
    """Return counterweights of the kit on free mounts, and with `blocks` steel of any mass at their ends."""
    build = analysis.build
    on_build = {placed.part_id for placed in build.parts}
    mounts = weight_mounts(build, kit)
    choices = []
    taken = {placed.id for placed in build.parts}
    for part in kit.values():
        if part.category is not Category.WEIGHT or part.id in on_build or not part.mass:
            continue
        options = []
        for free in mounts:
            foot = fits(part, free.mount)
            if foot is not None:
                new = Placed(_fresh(f"weight {part.id}", taken), part.id, free.placed_id, free.mount.id, foot)
                options.append(Option(new, dead=True))
        if options:
            choices.append(Choice(tuple(options)))
    if blocks:
        choices += _block_choices(mounts, taken)
    return tuple(choices)


def _block_choices(mounts: Sequence[FreeMount], taken: set[str]) -> list[Choice]:
    choices = []
    for free in mounts:
        mount = free.mount
        ends = (mount.low, mount.high) if mount.joint is PartJoint.SLIDE else (0.0,)
        options = []
        for end in ends:
            name = f"block {free.placed_id} {free.mount.id} {end:g}"
            part = weight_block(1.0, free.mount.kind, f"dead {name}")
            placed = Placed(_fresh(name, taken), part.id, free.placed_id, free.mount.id, 0, end)
            options.append(Option(placed, (), part, dead=True, grows=MOST_DEAD_WEIGHT))
        choices.append(Choice(tuple(options)))
    return choices


def _fresh(wanted: str, taken: set[str]) -> str:
    name = wanted
    while name in taken:
        name += "'"
    taken.add(name)
    return name


def dead_weight_variable(analysis: Analysis, kit: Kit, slides: bool) -> Variable:
    """Return the freedom to add dead weight; with `slides` also to slide, but only what doesn't move a block."""
    blocks = not slides
    base = slides_variable(analysis) if slides else Variable()
    return Variable(base.slides, weight_choices(analysis, kit, blocks), base.followers)


def steadying_variable(analysis: Analysis, kit: Kit) -> Variable:
    """Return the freedom to take heavier batteries and weights, and to slide."""
    battery = battery_variable(analysis, kit)
    if not battery.choices:
        battery = fill_variable(analysis, kit)
    return Variable(battery.slides, (*battery.choices, *weight_choices(analysis, kit, blocks=False)), battery.followers)
