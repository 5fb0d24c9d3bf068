"""What is missing between a part and a build: the pieces of the kit that would join them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct

from equilix.core.assembly.build import Build, Kit
from equilix.core.assembly.fit import (
    BEHIND,
    ONLY_AHEAD,
    ONLY_BEHIND,
    carries,
    goes_ahead,
    lie_ahead,
    off_side,
    out_of_place,
    seat_at,
    spots,
)
from equilix.core.assembly.mounts import FreeFoot
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import RODS, TOUCH_POINTS, Category, Part

#: Pieces between two parts that are looked for; more than that is no chain that anybody would build.
LONGEST = 3

#: What nobody hangs anything else on, though a screw would fit; common practice.
CARRIES_NOTHING = frozenset(
    {
        Category.SENDER,
        Category.MONITOR,
        Category.AUDIO,
        Category.BATTERY,
        Category.FOCUS,
        Category.GRIP,
        Category.WEIGHT,
        Category.CABLE,
    }
)


class Piece(Struct, frozen=True):
    """One piece of a chain: it goes to the part `on` of the kit, by which mount and foot, below it if `under`."""

    part: Part
    on: str
    mount: str
    foot: int
    under: bool


def missing_between(build: Build, kit: Kit, part: Part, more: Sequence[Part]) -> tuple[Piece, ...]:
    """Return the fewest pieces that join `part` to `build`, itself last; pieces of the kit before those of `more`.

    Those that bring it to its own side of the camera come first. Empty if not even three pieces do.
    """
    assembly = prepare(build, kit)
    ahead = lie_ahead(assembly, assembly.at(assembly.settings(build)))
    by_part = {placed.part_id: ahead[placed.id] for placed in build.parts}
    joiner = _Joiner(build, kit, part, more, by_part)
    return joiner.joined() or (joiner.anywhere() if joiner.refused else ())


class _Joiner:
    """Looks for pieces that join a part; first to its own side of the camera alone, `ahead` by the parts' ids."""

    def __init__(self, build: Build, kit: Kit, part: Part, more: Sequence[Part], ahead: Mapping[str, bool]) -> None:
        on_build = {placed.part_id for placed in build.parts}
        self.build, self.kit, self.part = build, kit, part
        self.ahead: Mapping[str, bool] | None = ahead
        # A cage goes round a body before anything else does: none is bought for one that stands.
        if any(kit[i].category is Category.BODY for i in on_build):
            more = [p for p in more if p.category is not Category.CAGE]
        self.stock = [
            p
            for p in (*kit.values(), *more)
            if p.id not in on_build and p.id != part.id and p.category not in CARRIES_NOTHING
        ]
        #: Whether something that fits was passed over, since it lies on the wrong side.
        self.refused = False

    def anywhere(self) -> tuple[Piece, ...]:
        """Return the fewest pieces that join it on whichever side."""
        self.ahead = None
        return self.joined()

    def joined(self) -> tuple[Piece, ...]:
        """Return the fewest pieces that join it, itself last."""
        seen: set[str] = set()
        chains: list[tuple[Piece, ...]] = [()]
        for _ in range(LONGEST + 1):
            longer: list[tuple[Piece, ...]] = []
            for chain in chains:
                last = self._step(chain, self.part)
                if last is not None:
                    return (*chain, last)
                for piece in self.stock:
                    if piece.id not in seen and (step := self._step(chain, piece)) is not None:
                        seen.add(piece.id)
                        longer.append((*chain, step))
            chains = longer
        return ()

    def _step(self, chain: tuple[Piece, ...], piece: Part) -> Piece | None:
        """Return how a piece goes on, None if it does not where it should."""
        wrong = None
        for step in _ways_on(self.build, self.kit, chain, piece):
            if not chain and _astray(self.kit, step, self.ahead):
                self.refused = True
            elif not _wrong_side(self.kit, step, self.part):
                return step
            elif wrong is None:
                wrong = step
        # Rods go to the side on which what comes on them belongs, or else to the other.
        if wrong is not None and self.ahead is not None and self.part.category in ONLY_BEHIND | ONLY_AHEAD:
            self.refused = True
            return None
        return wrong


def _astray(kit: Kit, step: Piece, ahead: Mapping[str, bool] | None) -> bool:
    """Whether a piece would go on rods of the build that lie where nobody has it; `ahead` by the parts' ids."""
    if ahead is None or step.under or not any(m.id == step.mount and m.kind in RODS for m in kit[step.on].mounts):
        return False
    return out_of_place(step.part.category, ahead[step.on])


def _wrong_side(kit: Kit, step: Piece, part: Part) -> bool:
    """Whether rods of a chain would go to the other side of the camera than the `part` at its end belongs on."""
    if step.part.category is not Category.RODS or step.under or step.on not in kit:
        return False
    mount = next((mount for mount in kit[step.on].mounts if mount.id == step.mount), None)
    return mount is not None and goes_ahead(mount) is (part.category in BEHIND)


def _ways_on(build: Build, kit: Kit, chain: tuple[Piece, ...], part: Part) -> Iterator[Piece]:
    """Yield how `part` goes on the end of `chain`, or on `build` if there is no chain yet."""
    if not chain:
        for spot in sorted(spots(build, kit), key=lambda spot: off_side(part, spot)):
            seat = seat_at(build, kit, spot, part)
            if seat is not None:
                on = build.placed(spot.placed_id).part_id
                yield Piece(part, on, seat.mount, seat.foot, isinstance(spot, FreeFoot))
        return
    end = chain[-1]
    for mount in sorted(end.part.mounts, key=lambda mount: off_side(part, mount)):
        if mount.kind in TOUCH_POINTS or (end.under and mount.id == end.mount and not mount.shared):
            continue
        for i, foot in enumerate(part.feet):
            if foot.kind is mount.kind and carries(end.part.category, part.category):
                yield Piece(part, end.part.id, mount.id, i, False)
    for i, foot in enumerate(end.part.feet):
        if foot.kind in TOUCH_POINTS or (not end.under and i == end.foot):
            continue
        for mount in part.mounts:
            if mount.kind is foot.kind and carries(part.category, end.part.category):
                yield Piece(part, end.part.id, mount.id, i, True)
