"""Names of tracks that were written in one encoding and read as another, and what they say when read as meant.

Old tags hold text in the encoding of whoever wrote them and say that it is Latin-1. Which encoding that was cannot be
known, but few of them give words: letters of one script, in a case that words have, or signs that are in daily use.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum


class Encoding(StrEnum):
    """An encoding that names of tracks were written in, as Python calls it; the likelier before the rarer."""

    UTF_8 = "utf-8"
    CYRILLIC = "cp1251"
    JAPANESE = "cp932"
    CHINESE = "gbk"
    KOREAN = "cp949"
    TAIWAN = "big5"
    GREEK = "cp1253"
    HEBREW = "cp1255"
    ARABIC = "cp1256"


SCRIPTS = {
    Encoding.UTF_8: "Unicode",
    Encoding.CYRILLIC: "Cyrillic",
    Encoding.JAPANESE: "Japanese",
    Encoding.CHINESE: "Chinese",
    Encoding.KOREAN: "Korean",
    Encoding.TAIWAN: "Chinese, traditional",
    Encoding.GREEK: "Greek",
    Encoding.HEBREW: "Hebrew",
    Encoding.ARABIC: "Arabic",
}
"""What each is called where one is chosen."""


@dataclass(frozen=True)
class Reading:
    """What some texts say in another encoding, in their order."""

    encoding: Encoding
    texts: tuple[str, ...]


def is_misread(text: str) -> bool:
    """Whether a text looks as one does that was written in another encoding than it was read in.

    It is UTF-8 as Latin-1; or all Latin-1, with a word of three signs or more of which most are beyond ASCII, and has
    signs that are no letters in it or gives words in another encoding.

    >>> [is_misread(t) for t in ("Íî÷ü", "BjÃ¶rk", "Größe", "Café del Mar", "Ночь", "Ångström")]
    [True, True, False, False, False, False]
    """
    if text.isascii() or _bytes_of(text) is None:
        return False
    if _read(text, Encoding.UTF_8) is not None:
        return True
    words = re.findall(r"[^\W\d_]*(?:[^\W\d_]|[^\x00-\x7f\s«»])+", text)
    odd = [word for word in words if _is_odd(word)]
    # Of bytes that are no letters in Latin-1 either, some have gone by now: what is left gives no words.
    return any(not word.isalpha() for word in odd) or bool(odd and readings((text,)))


def _is_odd(word: str) -> bool:
    beyond = sum(sign > "\x7f" for sign in word)
    return beyond >= FEWEST and beyond > MOSTLY * len(word)


FEWEST, MOSTLY = 3, 0.7


def readings(texts: tuple[str, ...]) -> tuple[Reading, ...]:
    """All encodings in which each of some texts of one track gives words, the likelier first; ASCII is in any."""
    found = []
    for encoding in Encoding:
        read = tuple(text if text.isascii() else _read(text, encoding) for text in texts)
        if read != texts and all(text is not None for text in read):
            found.append(Reading(encoding, tuple(text or "" for text in read)))
    return tuple(found[:1]) if found and found[0].encoding is Encoding.UTF_8 else tuple(found)


def read_as(text: str, encoding: Encoding) -> str:
    """A text in another encoding; as it is where it does not fit that."""
    return text if text.isascii() else _read(text, encoding) or text


def _bytes_of(text: str) -> bytes | None:
    """What was read as Latin-1, or as Windows-1252, which other programs take for it; None where it was neither."""
    for taken in ("latin-1", "cp1252"):
        try:
            return text.encode(taken)
        except UnicodeEncodeError:
            continue
    return None


def _read(text: str, encoding: Encoding) -> str | None:
    """A text in an encoding, or None where that gives no words."""
    content = _bytes_of(text)
    if content is None:
        return None
    try:
        read = content.decode(encoding)
    except UnicodeDecodeError:
        return None
    beyond = [sign for sign in read if sign > "\x7f"]
    if not beyond or any(unicodedata.category(sign) in ("Cc", "Cf", "Co", "Cn") for sign in beyond):
        return None
    return read if encoding is Encoding.UTF_8 or GIVES_WORDS[encoding](read, content) else None


def _letters(text: str) -> list[str]:
    return [sign for sign in text if sign > "\x7f" and sign.isalpha()]


def _signs_beside(text: str) -> int:
    """How many signs beyond ASCII are no letters and belong to none."""
    return sum(sign > "\x7f" and not sign.isalpha() and unicodedata.category(sign) != "Mn" for sign in text)


def _words_of(script: str) -> Callable[[str, bytes], bool]:
    """Whether what is beyond ASCII are words of one script: each small, capital, or with a capital at its start."""

    def gives(text: str, _content: bytes) -> bool:
        letters = _letters(text)
        if not letters or any(not unicodedata.name(sign, "").startswith(script) for sign in letters):
            return False
        words = [w for w in re.findall(r"[^\W\d_]+", text) if not w.isascii()]
        if any(sign.isascii() for w in words for sign in w) or len(letters) < 2 * _signs_beside(text):
            return False
        return all(w.islower() or w.isupper() or w[1:].islower() or w == w.swapcase() for w in words)

    return gives


def _signs_of(script: re.Pattern[str], common: range, most_rare: float) -> Callable[[str, bytes], bool]:
    """Whether what is beyond ASCII is of a script of many signs, most of them in its table's rows of common ones."""

    def gives(text: str, content: bytes) -> bool:
        letters = _letters(text)
        if not letters or any(not script.match(sign) for sign in letters):
            return False
        leads = _lead_bytes(text, content)
        return sum(lead not in common for lead in leads) <= most_rare * len(leads)

    return gives


def _lead_bytes(text: str, content: bytes) -> list[int]:
    """The first byte of each sign of two bytes."""
    leads, at = [], 0
    for sign in text:
        size = 1 if sign < "\x80" else 2
        if size == 2:
            leads.append(content[at])
        at += size
    return leads


HAN = "\u3400-\u9fff\uf900-\ufaff"
GIVES_WORDS: dict[Encoding, Callable[[str, bytes], bool]] = {
    Encoding.CYRILLIC: _words_of("CYRILLIC"),
    Encoding.GREEK: _words_of("GREEK"),
    Encoding.HEBREW: _words_of("HEBREW"),
    Encoding.ARABIC: _words_of("ARABIC"),
    # JIS X 0208: kana and signs in rows from 0x81, the first level of kanji up to 0x97.
    Encoding.JAPANESE: _signs_of(re.compile(f"[\u3040-\u30ff\u3005-\u3007{HAN}]"), range(0x81, 0x98), 0.34),
    # GB 2312: the first level of hanzi, by pronunciation, in rows 0xB0 to 0xD7.
    Encoding.CHINESE: _signs_of(re.compile(f"[{HAN}]"), range(0xA1, 0xD8), 0.2),
    # KS X 1001: hangul in rows 0xB0 to 0xC8.
    Encoding.KOREAN: _signs_of(re.compile("[\uac00-\ud7a3]"), range(0xA1, 0xC9), 0.0),
    # Big5: the level in daily use in rows 0xA4 to 0xC6.
    Encoding.TAIWAN: _signs_of(re.compile(f"[{HAN}]"), range(0xA1, 0xC7), 0.2),
}
