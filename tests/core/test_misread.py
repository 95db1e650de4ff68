"""Names written in one encoding and read as another are noticed, and what was meant is among the readings."""

from __future__ import annotations

import pytest

from fernbrook.core.library import Encoding, is_misread, read_as, readings

MEANT = {
    Encoding.CYRILLIC: ("Ночь в оранжерее", "ЛЕТО", "Мы ждём (remix)", "Зоопарк"),
    Encoding.JAPANESE: ("夜の温室", "ナイト・ガーデン", "さくら", "東京の夜 feat. Mori"),
    Encoding.CHINESE: ("夜来香", "时间的歌", "北京 2 a.m."),
    Encoding.KOREAN: ("밤의 온실", "서울"),
    Encoding.TAIWAN: ("夜來香", "時間的歌"),
    Encoding.GREEK: ("Νύχτα", "Το θερμοκήπιο"),
    Encoding.HEBREW: ("שלום עולם",),
    Encoding.ARABIC: ("سماء",),
    Encoding.UTF_8: ("Björk", "夜の温室", "Größe"),
}


@pytest.mark.parametrize(("encoding", "title"), [(e, t) for e, titles in MEANT.items() for t in titles])
def test_what_was_meant_is_among_the_readings(encoding: Encoding, title: str) -> None:
    came = title.encode(encoding).decode("latin-1")
    assert is_misread(came)
    assert title in [r.texts[0] for r in readings((came,)) if r.encoding is encoding]
    assert read_as(came, encoding) == title


@pytest.mark.parametrize("encoding", [Encoding.CYRILLIC, Encoding.JAPANESE, Encoding.CHINESE, Encoding.UTF_8])
def test_the_likeliest_is_first(encoding: Encoding) -> None:
    for title in MEANT[encoding]:
        assert readings((title.encode(encoding).decode("latin-1"),))[0].texts == (title,)


def test_what_only_could_be_is_no_reading() -> None:
    """Any two bytes are some sign of a large table; words are of those in daily use."""
    came = "Ночь в оранжерее".encode("cp1251").decode("latin-1")
    assert {r.encoding for r in readings((came,))} == {Encoding.CYRILLIC, Encoding.GREEK}
    assert {r.encoding for r in readings(("Ночь".encode("cp1251").decode("latin-1"),))}.isdisjoint(
        {Encoding.CHINESE, Encoding.JAPANESE, Encoding.KOREAN}
    )


LATIN = (
    "Größe", "Café del Mar", "Ångström", "Ágætis byrjun", "Ñandú", "Øresund", "Mötley Crüe", "Être là", "Été", "ÉTÉ",
    "«Ça va»", "Déjà Vu", "Ölüdeniz", "crème brûlée", "½ × 2 °", "Þórður", "Übermäßig", "Côté", "Yöaamu", "Jäääär",
    "Plain", "Ночь", "夜の温室", "Žluťoučký", "",
)  # fmt: skip


@pytest.mark.parametrize("name", LATIN)
def test_names_that_are_as_they_should_be_are_left_alone(name: str) -> None:
    assert not is_misread(name)


def test_what_windows_takes_for_latin_1_is_known_too() -> None:
    assert readings(("Ёлка".encode("cp1251").decode("cp1252"),))[0].texts == ("Ёлка",)


def test_title_and_artist_are_of_one_encoding_and_ascii_is_of_any() -> None:
    came = tuple(t.encode("cp1251").decode("latin-1") for t in ("Ночь", "Зоопарк"))
    assert readings((*came, "Moss"))[0].texts == ("Ночь", "Зоопарк", "Moss")
    assert readings(("Moss",)) == ()
    assert read_as("Größe", Encoding.CYRILLIC) == "Größe", "what does not fit stays"
