"""What the panel at the right shows, from top to bottom, as records: a room makes them, the panel draws them.

What can be done is told by a key, which the room gets back when somebody does it: ("way", "0"), ("apply",), ("stop",).
"""

from __future__ import annotations

from msgspec import Struct

from equilix.present.card import AdviceRow, Card, Deed
from equilix.present.drawing.scene import Scene
from equilix.present.supports.text import FigureRow, Verdict

Key = tuple[str, ...]
#: Keys that the panel itself gives: a way's card and its button, an advice's card, the button that ends a search.
WAY, APPLY, ADVICE, STOP, SHOW = "way", "apply", "advice", "stop", "show"


class Doing(Struct, frozen=True):
    """What is to be done, large; its button, which other ways there are, and where it is shown."""

    deed: Deed
    button: str
    others: str
    shown: str


class Strip(Struct, frozen=True):
    """One other matter, on a strip of its own."""

    words: str


class Heading(Struct, frozen=True):
    """A section's heading, and words beside it."""

    words: str
    beside: str = ""


class Words(Struct, frozen=True):
    """A paragraph."""

    words: str
    color: str = "ink2"
    size: float = 13.0


class Figures(Struct, frozen=True):
    """Figures, each with its own uncertainty."""

    rows: tuple[FigureRow, ...]


class Act(Struct, frozen=True):
    """Something to do: the words of its button, a tip, and a note below it."""

    key: Key
    words: str
    tip: str = ""
    note: str = ""


class Buttons(Struct, frozen=True):
    """Buttons in a row with words before them, or each on a line of its own with its note."""

    acts: tuple[Act, ...]
    before: str = ""
    stacked: bool = False


class Pictures(Struct, frozen=True, eq=False):
    """Answers as small pictures, two in a row, the first one preselected: each an act and its scene."""

    answers: tuple[tuple[Act, Scene], ...]


class Link(Struct, frozen=True):
    """Words that can be followed, with a note below; `ruled` puts a hairline under it.

    A part of the kit with the id `drags` can be dragged away by them.
    """

    act: Act
    ruled: bool = False
    drags: str = ""


class Tick(Struct, frozen=True):
    """A row that can be ticked off and on again."""

    act: Act
    ticked: bool


class Search(Struct, frozen=True):
    """How far a search is, with a button that ends it."""

    words: str


class Entry(Struct, frozen=True):
    """A field for one value; what is typed comes back with its key."""

    key: Key
    before: str
    value: str
    name: str
    tip: str


class Choice(Struct, frozen=True):
    """A list to choose one from; its place comes back behind the key."""

    key: Key
    before: str
    options: tuple[str, ...]
    now: int
    name: str


class Ways(Struct, frozen=True):
    """Ways as cards, the `chosen` one (its place) open; `shares` draws shares of strength and not the CG."""

    cards: tuple[Card, ...]
    chosen: int | None
    shares: bool = False
    shown: str = "shown dashed in the drawing"


class Advised(Struct, frozen=True):
    """What is worth doing next, as cards."""

    rows: tuple[AdviceRow, ...]
    tip: str


Block = (
    Doing
    | Strip
    | Heading
    | Words
    | Figures
    | Buttons
    | Pictures
    | Tick
    | Link
    | Search
    | Entry
    | Choice
    | Ways
    | Advised
)


class PanelModel(Struct, frozen=True):
    """One plain sentence, and what stands below it."""

    verdict: Verdict
    blocks: tuple[Block, ...] = ()
