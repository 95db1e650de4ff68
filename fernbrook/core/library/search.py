"""Searches over all tracks: words, fields and ranges, as one types them.

``dub bpm:118-122 fits:Am tag:warm -voice`` means tracks in whose text *dub* occurs, of 118 to 122 BPM, in a key that
fits A minor, tagged *warm*, in which nobody sings. A minus before a term turns it round; a phrase stands in quotes;
ranges have one end or both: ``length:4:00-6:30``, ``year:>2010``, ``loudness:<-12``.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime

from fernbrook.core.library.card import Card, folded
from fernbrook.core.library.field import NUMBERS, TEXTS
from fernbrook.core.library.file_doubts import FileDoubt
from fernbrook.core.track import FITTING, Key, relation
from fernbrook.errors import RefusedError

MOST_TERMS = 40
SINGS = 0.02
"""From this share of a track on, somebody sings in it."""

Test = Callable[[Card], bool]

TERM = re.compile(r'(-?)(?:([a-z_]+):)?(?:"([^"]*)"?|(\S+))', re.IGNORECASE)
RANGE = re.compile(r"^(?P<low>-?[\d:.,]+)?(?P<dash>-|\.\.)(?P<high>-?[\d:.,]+)?$")
NUMBER = re.compile(r"^-?\d+(?:[.,]\d+)?$")
CLOCK = re.compile(r"^(\d+):([0-5]?\d)(?::([0-5]?\d))?$")


class SearchError(RefusedError):
    """A search that cannot be understood; the message says which part, and what would be."""


@dataclass(frozen=True)
class Search:
    """A search, ready to be asked of each track."""

    tests: tuple[Test, ...]

    def finds(self, card: Card) -> bool:
        """Whether a track is meant."""
        return all(test(card) for test in self.tests)

    def among(self, cards: Iterable[Card]) -> list[Card]:
        """The tracks that are meant, in the order in which they come."""
        return [card for card in cards if self.finds(card)]


def parse(text: str) -> Search:
    """Read a search.

    Raises
    ------
    SearchError
        When a field is unknown or its value cannot be read.
    """
    terms = [m for m in TERM.finditer(text) if m[0] not in ("-", '"')]
    if len(terms) > MOST_TERMS:
        raise SearchError(f"A search has up to {MOST_TERMS} terms; this one has {len(terms)}.")
    return Search(tuple(_test(m) for m in terms))


def _test(term: re.Match[str]) -> Test:
    minus, name, phrase, plain = term.groups()
    value = phrase if phrase is not None else plain
    test = _field(name.lower(), value) if name else _words(value, quoted=phrase is not None)
    return (lambda card: not test(card)) if minus else test


def _words(value: str, quoted: bool) -> Test:
    if not quoted and value.lower() in FLAGS:
        return FLAGS[value.lower()]
    wanted = folded(value)
    return lambda card: wanted in card.text


def _field(name: str, value: str) -> Test:
    name = ALIASES.get(name, name)
    if name in TEXTS:
        wanted, texts = folded(value), TEXTS[name].texts
        return lambda card: any(wanted in folded(text) for text in texts(card))
    if name in NUMBERS:
        low, high = _range(name, value)
        typed = NUMBERS[name].typed
        return lambda card: (x := typed(card)) is not None and low <= x <= high
    if name in ("key", "fits"):
        return _key(name, value)
    if name == "doubt":
        return _doubt(value)
    if name == "added":
        return _added(value)
    raise SearchError(
        f"There is no field ‘{name}’. Known are {', '.join(sorted(KNOWN))}. Put it in quotes to look for it."
    )


def _key(name: str, value: str) -> Test:
    key = Key.parse(value)
    if key is None:
        raise SearchError(f"‘{value}’ is no key. Write it as Am, F# or 8A.")
    if name == "key":
        return lambda card: card.key == key
    return lambda card: card.key is not None and relation(key, card.key) in FITTING


def _doubt(value: str) -> Test:
    if value == "any":
        return lambda card: bool(card.doubts)
    try:
        kind = FileDoubt(value)
    except ValueError:
        raise SearchError(f"There is no doubt ‘{value}’. Known are any, {', '.join(FileDoubt)}.") from None
    return lambda card: kind in card.doubts


def _added(value: str) -> Test:
    """A year, a month or a day from which on, or with ``<`` before which, tracks were added."""
    earlier, wanted = value.startswith("<"), value.lstrip("<>=")
    for pattern in ("%Y-%m-%d", "%Y-%m", "%Y"):
        try:
            moment = datetime.strptime(wanted, pattern).astimezone()
        except (ValueError, OverflowError, OSError):
            continue
        return lambda card: card.added_at is not None and (card.added_at < moment) == earlier
    raise SearchError(f"‘{value}’ is no day. Write it as 2026-05-01, 2026-05 or 2026.")


def _range(name: str, value: str) -> tuple[float, float]:
    """The lowest and the highest value that is meant."""
    plain = value.strip()
    if plain[:1] in "<>" and plain:
        number = _number(name, plain.lstrip("<>="))
        strict = "=" not in plain[:2]
        if plain[0] == "<":
            return -math.inf, math.nextafter(number, -math.inf) if strict else number
        return (math.nextafter(number, math.inf) if strict else number), math.inf
    whole = _reads(name, plain)
    if whole is not None:
        near = NUMBERS[name].near
        return whole - near, whole + near
    match = RANGE.match(plain)
    if match is None or not (match["low"] or match["high"]):
        raise SearchError(_unread(name, value))
    low = _number(name, match["low"]) if match["low"] else -math.inf
    high = _number(name, match["high"]) if match["high"] else math.inf
    return min(low, high), max(low, high)


def _number(name: str, text: str) -> float:
    number = _reads(name, text)
    if number is None:
        raise SearchError(_unread(name, text))
    return number


def _reads(name: str, text: str) -> float | None:
    """A number, or minutes and seconds where a length is meant."""
    clock = CLOCK.match(text) if name == "length" else None
    if clock:
        parts = [int(p) for p in clock.groups() if p is not None]
        return float(sum(p * 60**i for i, p in enumerate(reversed(parts))))
    return float(text.replace(",", ".")) if NUMBER.match(text) else None


def _unread(name: str, value: str) -> str:
    example = "4:00-6:30" if name == "length" else "118-122"
    return f"‘{value}’ is no value for {name}. Write a number or a range: {name}:{example}, {name}:>100."


FLAGS: dict[str, Test] = {
    "voice": lambda c: c.voice_share is not None and c.voice_share >= SINGS,
    "instrumental": lambda c: c.voice_share is not None and c.voice_share < SINGS,
    "checked": lambda c: c.checked,
    "steady": lambda c: c.steady,
    "cued": lambda c: c.cues > 0,
    "tagged": lambda c: bool(c.tags),
    "used": lambda c: bool(c.used_in),
    "missing": lambda c: FileDoubt.MISSING in c.doubts,
}
"""Words that ask for what is known of a track; in quotes they are words like others."""
ALIASES = {"tempo": "bpm", "time": "length", "lufs": "loudness", "tags": "tag", "lists": "list", "format": "kind"}
KNOWN = frozenset({*TEXTS, *NUMBERS, "key", "fits", "doubt", "added"})
