from __future__ import annotations

import pytest

from fernbrook.core.track import Key

ALL = [Key(tonic=t, minor=m) for t in range(12) for m in (False, True)]


@pytest.mark.parametrize(
    ("name", "wheel"), [("C", "8B"), ("Am", "8A"), ("G", "9B"), ("Em", "9A"), ("F", "7B"), ("Db", "3B"), ("Cm", "5A")]
)
def test_both_notations_name_the_same_key(name: str, wheel: str) -> None:
    key = Key.parse(name)
    assert key is not None
    assert (key.name, key.wheel) == (name, wheel)
    assert Key.parse(wheel) == key


def test_every_key_is_read_back_from_both_notations() -> None:
    assert len({k.wheel for k in ALL}) == 24
    for key in ALL:
        assert Key.parse(key.name) == key
        assert Key.parse(key.wheel) == key


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("c# min", "C#m"),
        ("Dbm", "C#m"),
        ("G#", "Ab"),
        ("Abm", "G#m"),
        ("A#", "Bb"),
        ("D♭", "Db"),
        ("A minor", "Am"),
        ("a", "A"),
        ("Gmaj", "G"),
        ("08a", "Am"),
        ("B#", "C"),
    ],
)
def test_tags_are_read_as_people_write_them(text: str, name: str) -> None:
    key = Key.parse(text)
    assert key is not None
    assert key.name == name


@pytest.mark.parametrize("text", ["", "H", "13A", "0B", "Am7", "off"])
def test_what_is_no_key_is_none(text: str) -> None:
    assert Key.parse(text) is None
