"""What a card says of one way, whatever it cures: to balance, to clear, to lighten."""

from __future__ import annotations

from msgspec import Struct


class Deed(Struct, frozen=True):
    """A way at a glance: what to do first, by what `amount`, `where`, what all of it costs, and what is done after."""

    act: str
    amount: str
    where: str
    cost: str
    then: tuple[str, ...] = ()


class Card(Struct, frozen=True, eq=False):
    """A way's title, what it costs, the figure that it betters `before` and `after`, and its lines.

    `lines` say what to change, what it does and what proves it; the first stands also when it isn't chosen.
    """

    title: str
    cost: str
    before: float
    after: float
    after_text: str
    lines: tuple[str, ...]

    @property
    def warns(self) -> str:
        """What it would make worse, as a clause, "" if nothing: it stands below the title, whether chosen or not."""
        return ""

    @property
    def work(self) -> str:
        """How much work it is, "" where that is not told: it stands below the title."""
        return ""

    @property
    def said(self) -> str:
        """The title with what it would make worse."""
        return f"{self.title}; {self.warns}" if self.warns else self.title


class AdviceRow(Struct, frozen=True):
    """One thing to do next: `amount` is by how much it cuts a ±, 0 where it cuts none."""

    title: str
    share: str
    amount: float
    change: str
    note: str
