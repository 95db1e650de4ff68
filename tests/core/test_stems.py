"""What is offered of a track's stems, and what is said of them."""

from __future__ import annotations

import pytest

from fernbrook.core.track import STEMS, STEMS_VERSION, Stem, StemsFact


@pytest.mark.parametrize(
    ("coherent", "is_clean", "is_offered"),
    [(0.6, True, True), (0.6, False, True), (0.1, True, True), (0.1, False, False)],
)
def test_stems_are_offered_where_drums_are_alone_or_enough_recurs(
    coherent: float, is_clean: bool, is_offered: bool
) -> None:
    fact = StemsFact(coherent=coherent, is_clean=is_clean, has_voice=True, version=STEMS_VERSION)
    assert fact.offered == (STEMS if is_offered else ())
    assert ("mislead" in fact.words) is not is_offered


def test_a_voice_is_offered_where_somebody_sings_and_said_to_be_turned_down_where_no_network_heard_it() -> None:
    plain = StemsFact(coherent=0.6, is_clean=True, has_voice=True, version=STEMS_VERSION)
    assert "turned down" in plain.words
    assert "turned down" not in plain.model_copy(update={"by_network": True}).words
    without = plain.model_copy(update={"has_voice": False})
    assert Stem.VOICE not in without.offered
    assert "voice" not in without.words


def test_stems_of_an_older_version_say_so_and_files_of_one_s_own_do_not() -> None:
    older = StemsFact.model_validate({"coherent": 0.6, "is_clean": True, "has_voice": False})
    assert older.is_outdated
    assert "older version" in older.words
    assert not older.model_copy(update={"version": STEMS_VERSION}).is_outdated
    assert "older" not in older.model_copy(update={"given": (Stem.DRUMS,)}).words
