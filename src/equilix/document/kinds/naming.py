"""What the name of a part says: its kind, and on which side or how long it is.

Whole words count, singular, without accents; the longest phrase wins, of equals the last, since English heads stand
last. What follows "on", "for", "with", "under" or "in" says where a part goes, not what it is.
"""

from __future__ import annotations

import re
import unicodedata
from functools import cache, lru_cache
from itertools import pairwise

from msgspec import Struct

from equilix.core.kit.parts import Category
from equilix.document.kinds.records import Kinds, PartKind, shipped_kinds

#: What follows these says where a part goes or what it serves.
_AFTERWARDS = frozenset(
    {"on", "of", "for", "with", "under", "in", "fur", "mit", "auf", "pour", "avec", "para", "con", "com"}
)
#: What a name may say besides the kind.
_TRAITS = {
    "left": "left",
    "right": "right",
    "front": "front",
    "rear": "rear",
    "back": "rear",
    "through": "through",
    "pair": "pair",
    "long": "long",
    "link": "left",
    "recht": "right",
    "gauche": "left",
    "droite": "right",
    "izquierda": "left",
    "derecha": "right",
    "esquerda": "left",
    "direita": "right",
}
#: What a letter at the end says: "handgrip L".
_LAST = {"l": "left", "r": "right"}
_WORD = re.compile(r"[^\W\d_]+|\d+(?:[.,]\d+)?|[\"″]")
#: Letters from which on one slip is read over.
_LONG = 5
#: A focal length or range, an aperture or a transmission stop: "24-70", "50 mm", "T1.5", "f/2.8".
_FOCAL = re.compile(
    r"(?<![\w.])(?!1[59]\s*mm\s*$)\d{1,3}\s*[-–]\s*\d{2,3}\s*(mm)?(?!\w)|(?<!\w)[ft]\s*/?\s*\d[.,]\d", re.I
)
_BARE_FOCAL = re.compile(r"\s*(?!1[59]\s*mm\s*$)\d{2,3}\s*mm\s*", re.I)
_CAPACITY = re.compile(r"\d\s*wh\b", re.I)
_LENGTH = re.compile(r"(\d+(?:[.,]\d+)?)\s*(mm|cm|inches|inch|in\b|\"|″)", re.I)
_UNITS = {"mm": 1.0, "cm": 10.0, "in": 25.4, "inch": 25.4, "inches": 25.4, '"': 25.4, "″": 25.4}
#: mm: shorter than this a figure in a rod's name is its thickness, longer is none; common practice.
_SHORTEST_ROD, _LONGEST_ROD = 50.0, 1000.0


class NameReading(Struct, frozen=True):
    """What a name says: the `kind`, None if it says none, and whether it is `vague` or has `rivals` that it may mean.

    `traits` are words such as left or rear; `length` (mm) is what a rod's name speaks of.
    """

    kind: PartKind | None
    vague: bool = False
    rivals: tuple[PartKind, ...] = ()
    traits: frozenset[str] = frozenset()
    length: float | None = None

    @property
    def sure(self) -> bool:
        """Whether nobody need be asked what it is."""
        return self.kind is not None and not self.vague and not self.rivals

    @property
    def asked(self) -> bool:
        """Whether such a part is asked about before it is put on."""
        return not self.sure or (self.kind is not None and self.kind.ask)


class _Phrase(Struct, frozen=True):
    kind: PartKind
    vague: bool


class _Lexicon(Struct, frozen=True):
    """Phrases by words, their greatest length, all words, how joined ones come apart; `whole` names of own kinds."""

    whole: dict[tuple[str, ...], PartKind]
    phrases: dict[tuple[str, ...], _Phrase]
    longest: int
    words: frozenset[str]
    joined: dict[str, tuple[str, ...]]


def read_name(name: str, kinds: Kinds | None = None) -> NameReading:
    """Return what a part's name says by the `kinds` that are known, else by those that ship with the program."""
    kinds = kinds or shipped_kinds()
    lexicon = _lexicon(kinds)
    tokens = _tokens(_LENGTH.sub(" ", name), lexicon)
    traits = frozenset(_TRAITS[token] for token in tokens if token in _TRAITS)
    if len(tokens) > 1 and tokens[-1] in _LAST:
        traits |= {_LAST[tokens[-1]]}
    length = named_length(name)
    known = lexicon.whole.get(_words(name))
    if known is not None:
        return NameReading(known, traits=traits, length=length)
    found = _found(name, tokens, lexicon)
    if found is not None:
        return _reading(*found, lexicon, traits, length, name)
    if _FOCAL.search(name) or _BARE_FOCAL.fullmatch(name):
        return NameReading(kinds.kind("lens"), traits=traits, length=length)
    if _CAPACITY.search(name):
        return NameReading(kinds.kind("battery"), traits=traits, length=length)
    return NameReading(None, traits=traits, length=length)


def _found(name: str, tokens: list[str], lexicon: _Lexicon) -> tuple[_Match, list[str]] | None:
    """Return the phrase that says what a part is, and the words in the order in which it stands.

    Before a comma is the head: "handle, top" is a top handle.
    """
    head, _, rest = _LENGTH.sub(" ", name).partition(",")
    first = _tokens(head, lexicon)
    orders = [[*_tokens(rest, lexicon), *first], tokens] if rest.strip() else [tokens]
    found = []
    for order in orders:
        best = _best(order, lexicon)
        if best is not None and (order is tokens or _ends_in(best, order, first)):
            found.append((best, order))
    plain = next((pair for pair in found if not pair[0].phrase.vague), None)
    return plain or (found[0] if found else None)


class _Match(Struct, frozen=True):
    """A phrase that stands at `start` of some words, `size` of them long; `slips` words of it were read over."""

    phrase: _Phrase
    start: int
    size: int


def _reading(
    found: _Match, tokens: list[str], lexicon: _Lexicon, traits: frozenset[str], length: float | None, name: str
) -> NameReading:
    kind = found.phrase.kind
    # What follows a comma tells more of it, and is no other thing.
    head = set(_tokens(name.partition(",")[0], lexicon))
    rest = [m for m in _matches(_cut(tokens), lexicon) if set(tokens[m.start : m.start + m.size]) <= head]
    inside = range(found.start, found.start + found.size)
    others = [m for m in rest if not m.phrase.vague and not (set(range(m.start, m.start + m.size)) & set(inside))]
    # Of two heads the last is the thing, where the first is what it serves, as long as both count alike.
    rivals = tuple(dict.fromkeys(m.phrase.kind for m in others if m.phrase.kind.counts is not kind.counts))
    rivals = tuple(rival for rival in rivals if rival.counts not in _NAMES_OTHERS)
    return NameReading(kind, found.phrase.vague, rivals, traits, length)


#: What a part belongs to or serves is named before it: "camera cable", "rod clamp for …", "lens motor".
_NAMES_OTHERS = frozenset({Category.BODY, Category.LENS, Category.RODS, Category.GIMBAL, Category.SLED})


def _best(tokens: list[str], lexicon: _Lexicon) -> _Match | None:
    """Return the longest phrase before the first word that says where a part goes, or that goes across one."""
    cut = _cut(tokens)
    found = [m for m in _matches(tokens, lexicon) if m.start < len(cut)]
    across = [m for m in found if m.start + m.size > len(cut)]
    inside = [m for m in found if m.start + m.size <= len(cut)]
    return max(
        across or inside or _matches(tokens, lexicon), key=lambda m: (not m.phrase.vague, m.size, m.start), default=None
    )


def _cut(tokens: list[str]) -> list[str]:
    stop = next((k for k, token in enumerate(tokens) if token in _AFTERWARDS and k > 0), len(tokens))
    return tokens[:stop]


def _matches(tokens: list[str], lexicon: _Lexicon) -> list[_Match]:
    found = []
    for start in range(len(tokens)):
        for size in range(min(lexicon.longest, len(tokens) - start), 0, -1):
            phrase = lexicon.phrases.get(tuple(tokens[start : start + size]))
            if phrase is not None:
                found.append(_Match(phrase, start, size))
                break
    return found


def _ends_in(found: _Match, order: list[str], head: list[str]) -> bool:
    """Whether a phrase takes in the last word of the head, which says what the part is."""
    return bool(head) and head[-1] in order[found.start : found.start + found.size]


def _tokens(text: str, lexicon: _Lexicon) -> list[str]:
    """Return a text's words as the lexicon has them: joined ones apart, one slip in a long word read over."""
    found: list[str] = []
    for word in _words(text):
        if word in lexicon.joined:
            found.extend(lexicon.joined[word])
        elif word in lexicon.words or not word.isalpha():
            found.append(word)
        else:
            found.append(_mended(word, lexicon))
    return found


@cache
def _words(text: str) -> tuple[str, ...]:
    """Return the words of a text: small letters without accents, singular."""
    plain = "".join(c for c in unicodedata.normalize("NFKD", text.casefold()) if not unicodedata.combining(c))
    return tuple(_singular(word) for word in _WORD.findall(plain))


def _singular(word: str) -> str:
    if word == "lens":
        return word
    if len(word) > 3 and word.endswith("ies"):
        return word[:-3] + "y"
    if len(word) > 4 and word.endswith(("ses", "xes", "ches", "shes")):
        word = word[:-2]
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word


def _mended(word: str, lexicon: _Lexicon) -> str:
    """Return the word of the lexicon that is a slip away, if all such mean the same, else the word itself."""
    if len(word) < _LONG:
        return word
    near = sorted(known for known in _near(word) if known in lexicon.words and len(known) >= _LONG - 1)
    meant = {lexicon.phrases[one,].kind.key if (one,) in lexicon.phrases else one for one in near}
    return near[0] if len(meant) == 1 else word


def _near(word: str) -> set[str]:
    """Return all that one letter more, less, other or swapped makes of a word."""
    letters = "abcdefghijklmnopqrstuvwxyz"
    cuts = [(word[:k], word[k:]) for k in range(len(word) + 1)]
    return (
        {a + b[1:] for a, b in cuts if b}
        | {a + b[1] + b[0] + b[2:] for a, b in cuts if len(b) > 1}
        | {a + c + b[1:] for a, b in cuts if b for c in letters}
        | {a + c + b for a, b in cuts for c in letters}
    )


@lru_cache(maxsize=8)
def _lexicon(kinds: Kinds) -> _Lexicon:
    said = [(_words(words), _Phrase(kind, vague)) for kind in kinds.kinds for words, vague in kind.phrases()]
    alone = {words[0] for words, _ in said if len(words) == 1}
    joined = {"".join(words): words for words, _ in said if len(words) > 1}
    joined |= {"".join(pair): pair for words, _ in said for pair in pairwise(words)}
    joined = {word: parts for word, parts in joined.items() if word not in alone}
    phrases: dict[tuple[str, ...], _Phrase] = {}
    for words, phrase in said:
        apart = tuple(part for word in words for part in joined.get(word, (word,)))
        phrases.setdefault(apart, phrase)
    known = frozenset(word for phrase in phrases for word in phrase) | _AFTERWARDS | _TRAITS.keys()
    whole = {words: phrase.kind for words, phrase in said if phrase.kind.like}
    return _Lexicon(whole, phrases, max(map(len, phrases)), known, joined)


def named_length(name: str) -> float | None:
    """Return the length (mm) that a rod's name speaks of: "rods 15 mm, 8 in" are 8 in long and 15 mm thick."""
    found = [float(value.replace(",", ".")) * _UNITS[unit.casefold()] for value, unit in _LENGTH.findall(name)]
    return next((long for long in found if _SHORTEST_ROD <= long <= _LONGEST_ROD), None)
