"""Searches, orders and fits over many tracks."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from fernbrook.core.library import Card, FileDoubt, FileFacts, FileMeasures, file_doubts, fits, folded, ordered, parse
from fernbrook.core.library.order import ORDERS
from fernbrook.core.library.search import FLAGS, KNOWN, SearchError
from fernbrook.core.ordering import Candidate
from fernbrook.core.track import FITTING, Key, Relation, relation, shift_to_fit


def key(name: str) -> Key:
    found = Key.parse(name)
    assert found
    return found


def card(name: str, **more: object) -> Card:
    return Card(id=name, title=name, **more)  # type: ignore[arg-type]


CARDS = (
    card(
        "Wet Glass", artist="Marrow Street", bpm=120.0, key=key("Am"), voice_share=0.0, tags=("dub", "warm"), year=2019
    ),
    card("Tendril", artist="Café Ÿ", bpm=118.4, key=key("Em"), voice_share=0.4, duration_s=250.0, loudness_lufs=-9.5),
    card(
        "Old Voice", bpm=124.0, key=key("Eb"), voice_share=0.0, tags=("drums",), doubts=(FileDoubt.MONO,), format="MP3"
    ),
    card("Untold", added_at=datetime(2026, 5, 3, tzinfo=UTC), cues=3, lists=("Opening set",), used_in=("Late",)),
)


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("", "Wet Glass, Tendril, Old Voice, Untold"),
        ("cafe", "Tendril"),
        ("glass marrow", "Wet Glass"),
        ("instrumental bpm:118-122 fits:Em", "Wet Glass"),
        ("bpm:118-122 key:Am tag:dub -voice", "Wet Glass"),
        ("bpm:<120", "Tendril"),
        ("bpm:>=120", "Wet Glass, Old Voice"),
        ("bpm:120-", "Wet Glass, Old Voice"),
        ("bpm:118", "Tendril"),
        ("key:8A", "Wet Glass"),
        ('"voice"', "Old Voice"),
        ("voice", "Tendril"),
        ("-voice -tag:dub", "Old Voice, Untold"),
        ("tag:dub tag:warm", "Wet Glass"),
        ("length:4:00-4:30", "Tendril"),
        ("loudness:>-10", "Tendril"),
        ("year:2019", "Wet Glass"),
        ("doubt:mono", "Old Voice"),
        ("-doubt:any kind:mp3", ""),
        ("added:2026-05", "Untold"),
        ("added:<2026", ""),
        ('list:"opening set" cued used', "Untold"),
        ('"wet gl', "Wet Glass"),
        ("ARTIST:Marrow", "Wet Glass"),
    ],
)
def test_a_search_means_what_it_says(text: str, found: str) -> None:
    assert ", ".join(c.title for c in parse(text).among(CARDS)) == found


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("tempi:120", "There is no field ‘tempi’"),
        ("key:H", "‘H’ is no key"),
        ("bpm:fast", "‘fast’ is no value for bpm"),
        ("length:4-x", "no value for length"),
        ("doubt:odd", "There is no doubt ‘odd’"),
        ("added:yesterday", "is no day"),
        ("a " * 41, "up to 40 terms"),
    ],
)
def test_what_cannot_be_understood_is_named(text: str, told: str) -> None:
    with pytest.raises(SearchError, match=told):
        parse(text)


words = st.sampled_from(
    [*KNOWN, *FLAGS, "-", ":", '"', "<", "..", "120", "4:00", "Am", " ", "é", "٣", "1e9", "2026-99"]
)


@given(text=st.one_of(st.text(max_size=60), st.lists(words, max_size=12).map("".join)))
@example("bpm:--")
@example('tag:"')
@example("-")
@example("bpm:٣-٤")
def test_any_text_gives_an_answer_or_a_clear_message(text: str) -> None:
    told = ""
    found: list[Card] = []
    try:
        found = parse(text).among(CARDS)
    except SearchError as error:
        told = str(error)
    assert told.endswith(".") or not told
    assert {c.id for c in found} <= {c.id for c in CARDS}


@pytest.mark.parametrize("term", ["glass", "bpm:118-122", "voice", "tag:dub", "fits:Am", "added:2026"])
def test_a_minus_turns_a_term_round(term: str) -> None:
    with_term, without = ({c.id for c in parse(t).among(CARDS)} for t in (term, f"-{term}"))
    assert with_term | without == {c.id for c in CARDS}
    assert not with_term & without


@given(columns=st.lists(st.sampled_from([*ORDERS, *(f"-{c}" for c in ORDERS)]), min_size=1, max_size=3))
def test_any_columns_put_all_in_order_with_the_unknown_last(columns: list[str]) -> None:
    got = ordered(CARDS, columns)
    assert sorted(c.id for c in got) == sorted(c.id for c in CARDS)
    values = [ORDERS[columns[0].lstrip("-")](c) for c in got]
    known = [v for v in values if v is not None]
    assert values[len(known) :] == [None] * (len(values) - len(known))
    assert known == sorted(known, reverse=columns[0].startswith("-"))  # type: ignore[type-var]


def test_keys_are_in_order_of_fifths_and_numbers_in_order_of_size() -> None:
    keys = [card(k, key=key(k)) for k in ("Am", "Ebm", "Em", "F", "C", "G")]
    assert [c.title for c in ordered(keys, ["key"])] == ["C", "Am", "G", "Em", "Ebm", "F"]
    sides = [card("Side 10"), card("Side 2"), card("Side 1")]
    assert [c.title for c in ordered(sides, ["title"])] == ["Side 1", "Side 2", "Side 10"]
    assert [c.title for c in ordered(CARDS, ["year", "-bpm"])] == ["Wet Glass", "Old Voice", "Tendril", "Untold"]


@given(one=st.builds(Key, tonic=st.integers(0, 11), minor=st.booleans()), shift=st.integers(0, 11))
def test_relations_are_mutual_and_the_same_in_every_key(one: Key, shift: int) -> None:
    for other in (Key(tonic=t, minor=m) for t in range(12) for m in (False, True)):
        assert relation(one, other) == relation(other, one)
        assert relation(one.shifted(shift), other.shifted(shift)) == relation(one, other)
        mended = other.shifted(shift_to_fit(one, other))
        assert relation(one, mended) in FITTING
        assert (shift_to_fit(one, other) == 0) == (relation(one, other) in FITTING)
    assert relation(one, one) is Relation.SAME


def test_keys_relate_as_musicians_say() -> None:
    related = {k: relation(key("Am"), key(k)) for k in ("C", "Em", "Dm", "G", "F", "A", "Bm", "Gm", "Bbm", "E", "F#m")}
    assert {r: [k for k, v in related.items() if v is r] for r in Relation} == {
        Relation.SAME: [],
        Relation.RELATIVE: ["C"],
        Relation.NEIGHBOUR: ["Em", "Dm"],
        Relation.CREATIVE: ["G", "F", "A", "Bm", "Gm"],
        Relation.CLASH: ["Bbm", "E", "F#m"],
    }


def test_what_fits_is_ranked_with_its_reasons() -> None:
    chosen = card("chosen", bpm=120.0, key=key("Am"), energy=0.6, tags=("dub", "warm"))
    best = card("best", bpm=120.0, key=key("Em"), energy=0.62, tags=("dub",))
    half = card("half", bpm=60.6, key=key("Am"), energy=0.3)
    clash = card("clash", bpm=121.2, key=key("Bbm"), energy=0.6)
    far = card("far", bpm=140.0, key=key("Am"))
    bare = card("bare")
    found = fits(chosen, (far, clash, half, best, bare, chosen))
    assert [f.id for f in found] == ["best", "half", "bare", "clash"]
    reasons = {f.id: f.reasons for f in found}
    assert reasons["best"] == ("same tempo", "up a fifth", "same energy", "both dub")
    assert reasons["half"] == ("1.0 % slower at double time", "same key", "less energy")
    assert reasons["clash"] == ("1.0 % slower", "keys clash, −1 semitone would fit", "same energy")
    paired = fits(chosen, (best, far), {"far": "works at the drop"})
    assert (paired[0].id, paired[0].reasons[0]) == ("far", "paired: works at the drop")
    assert [f.id for f in fits(chosen, (best, half, clash), most=2)] == ["best", "half"]


def test_doubts_about_a_file_are_told_in_sentences() -> None:
    sound = FileFacts("MP3", 44_100, 2, 200.0, bit_rate=320_000, sound_end_s=199.0)
    assert file_doubts(sound, FileMeasures(top_hz=16_000.0)) == {}
    poor = FileFacts(
        kind="WAV",
        rate=22_050,
        channels=1,
        duration_s=200.0,
        bit_rate=96_000,
        sound_start_s=12.0,
        missing=True,
        twin="Moss",
        names=("Íî÷ü", "Ines"),
    )
    told = file_doubts(poor, FileMeasures(top_hz=15_800.0, clipped=41, offset=-0.02, alike=True))
    assert set(told) == set(FileDoubt) - {FileDoubt.LOW_BIT_RATE, FileDoubt.UNREADABLE}
    assert told[FileDoubt.UPSCALED].startswith("Nothing above 15.8 kHz")
    assert told[FileDoubt.SILENCE] == "12 s of silence at its start."
    assert FileDoubt.LOW_BIT_RATE in file_doubts(FileFacts("MP3", 44_100, 2, 9.0, bit_rate=128_000), FileMeasures())


def test_folding_leaves_letters_without_their_signs() -> None:
    assert folded("ÉCLAIRÇ Straße") == "eclairc strasse"


TAGGED: tuple[tuple[str, tuple[str, ...]], ...] = (("a", ()), ("b", ("dub",)), ("c", ("warm", "dub")))


def test_of_two_that_fit_alike_the_one_with_more_tags_in_common_comes_first() -> None:
    chosen = card("chosen", bpm=120.0, key=key("Am"), tags=("dub", "warm"))
    others = [card(name, bpm=120.0, key=key("Am"), tags=tags) for name, tags in TAGGED]
    assert [f.id for f in fits(chosen, others)] == ["c", "b", "a"]


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("added:>2026-04", "Untold"),
        ("added:>2026-06", ""),
        ("added:<2026-05-04", "Untold"),
        ("added:<2026-05-03", ""),
        ("added:>2026-05-03", "Untold"),
        ("bpm:122-118", "Wet Glass, Tendril"),
    ],
)
def test_days_and_ranges_are_read_either_way_round(text: str, found: str) -> None:
    assert ", ".join(c.title for c in parse(text).among(CARDS)) == found


def test_a_track_that_changes_its_tempo_is_a_bridge_between_two_that_do_not_fit() -> None:
    slow, fast = Card(id="slow", bpm=124.0), Card(id="fast", bpm=174.0)
    bridge = Card(id="bridge", bpm=151.0, comes_bpm=124.0, leaves_bpm=174.0)
    every = [slow, fast, bridge]
    assert [f.id for f in fits(slow, every)] == ["bridge"]
    after = fits(bridge, every)
    assert [(f.id, f.bend) for f in after] == [("fast", 0.0)]
    before = fits(bridge, every, before=True)
    assert [(f.id, f.bend) for f in before] == [("slow", 0.0)]
    assert "goes from 124 to 174 BPM" in fits(slow, every)[0].reasons
    candidate = Candidate.of_card(bridge)
    assert (candidate.bpm, candidate.out_bpm) == (124.0, 174.0)
