"""What files from elsewhere say of a track is read as it is meant, and what is written is read by others."""

from __future__ import annotations

import io
import json
from pathlib import Path

import jams
import mido
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fernbrook.core.track import (
    Cue,
    CueRole,
    Grid,
    Key,
    Loop,
    MarkFacet,
    Marks,
    Markup,
    Moment,
    Section,
    SectionKind,
    Span,
    Tick,
    VoiceSpan,
    told,
    with_marks,
)
from fernbrook.core.track.marks import grid_through
from fernbrook.core.track.markup import MarkupError
from fernbrook.errors import RefusedError
from fernbrook.formats.jams_file import Annotated, read_jams, write_jams
from fernbrook.formats.mark_files import read_marks
from fernbrook.formats.midi_map import write_midi_map

GRID = Grid.constant(124.0, 0.37)
MARKUP = Markup(
    grid=GRID,
    sections=(
        Section(kind=SectionKind.BEAT, start=0.0, end=64.0),
        Section(kind=SectionKind.FULL, start=64.0, end=128.0),
    ),
    voice=(VoiceSpan(start=66.0, end=70.5),),
    cues=(Cue(id="c1", at=32.0, role=CueRole.MIX_IN, name="filter it", note="slowly", preferred=True),),
    loops=(Loop(id="l1", start=0.0, beats=32.0),),
)  # fmt: skip
ANNOTATED = Annotated(
    title="Moss – Über",
    artist="Ines",
    album="",
    duration_s=180.0,
    beats=tuple((0.37 + n * 60 / 124, n % 4 + 1) for n in range(300)),
    sections=((0.37, 31.3, "beat"), (31.3, 62.3, "Breakdown")),
    voice=((40.0, 44.0),),
    cues=((15.85, "mix_in · filter it"), (20.0, "claps")),
    keys=((0.0, 180.0, Key(tonic=1, minor=True)),),
    tempi=((0.0, 180.0, 124.0),),
)


def grid_ms(one: Grid, other: Grid, beats: range) -> float:
    """How far the lines of two grids lie apart."""
    return float(np.abs(one.time_at(list(beats)) - other.time_at(list(beats))).max() * 1000)


def test_jams_is_read_by_its_own_library_and_holds_its_schema(tmp_path: Path) -> None:
    path = tmp_path / "moss.jams"
    path.write_text(write_jams(ANNOTATED))
    said = jams.load(str(path), validate=True, strict=True)
    assert (said.file_metadata.title, said.file_metadata.duration) == ("Moss – Über", 180.0)
    (beats,) = said.search(namespace="beat")
    assert [(o.time, o.value) for o in beats.data[:5]] == [(pytest.approx(t), p) for t, p in ANNOTATED.beats[:5]]
    assert len(beats.data) == 300
    sections, voice = said.search(namespace="segment_open")
    assert [(o.time, o.duration, o.value) for o in sections.data][1] == (31.3, pytest.approx(31.0), "Breakdown")
    assert [(o.time, o.duration) for o in voice.data] == [(40.0, 4.0)]
    assert said.search(namespace="key_mode")[0].data[0].value == "C#:minor"
    assert said.search(namespace="tempo")[0].data[0].value == 124.0


def test_jams_of_others_becomes_grid_sections_voices_cues_and_key() -> None:
    marks = read_jams(write_jams(ANNOTATED).encode())
    assert set(marks.facets) == set(MarkFacet) - {MarkFacet.LOOPS}
    made = with_marks(Markup(), marks, marks.facets)
    assert made.grid is not None
    assert len(made.grid.anchors) == 1
    assert grid_ms(made.grid, GRID, range(290)) < 0.1
    assert [(s.kind, s.start, s.end, s.name) for s in made.sections] == [
        (SectionKind.BEAT, 0.0, pytest.approx(63.9, abs=0.2), ""),
        (SectionKind.BREAK, pytest.approx(63.9, abs=0.2), 128.0, ""),
    ]
    cues = [(round(c.at, 1), c.role, c.name) for c in made.cues]
    assert cues == [(32.0, CueRole.MIX_IN, "filter it"), (40.6, CueRole.PLAIN, "claps")]
    assert marks.key == "C#m"


def test_the_first_of_a_bar_is_where_it_is_said_to_be() -> None:
    beats = tuple((0.2 + n * 0.5, (n + 1) % 3 + 1) for n in range(30))
    said = Annotated("Waltz", "", "", 20.0, beats=beats)
    grid = grid_through(read_jams(write_jams(said).encode()).beats)
    assert grid.beats_per_bar == 3
    assert float(grid.time_at(0.0)) == pytest.approx(0.2 + 2 * 0.5)


def columns(said: dict) -> None:
    beats = said["annotations"][0]
    beats["data"] = {k: [r[k] for r in beats["data"]] for k in ("time", "duration", "value", "confidence")}


def positions(said: dict) -> None:
    said["annotations"][0]["namespace"] = "beat_position"
    for row in said["annotations"][0]["data"]:
        row["value"] = {"position": row["value"], "measure": 1, "num_beats": 4, "beat_units": 4}


@pytest.mark.parametrize("change", [columns, positions])
def test_jams_may_be_written_in_several_ways(change: object) -> None:
    said = json.loads(write_jams(ANNOTATED))
    change(said)
    assert read_jams(json.dumps(said).encode()).beats == read_jams(write_jams(ANNOTATED).encode()).beats


def test_labels_are_sections_cues_or_beats() -> None:
    marks = read_marks("x.txt", b"0.37\t31.3\tintro\n\\\t120\t4000\n31.3\t31.3\tdrop it\n31.3\t62\tDrop\n")
    assert marks.sections == (Span(start_s=0.37, end_s=31.3, name="intro"), Span(start_s=31.3, end_s=62.0, name="Drop"))
    assert marks.moments == (Moment(at_s=31.3, name="drop it"),)
    beats = "".join(f"{0.37 + n / 2}\t{0.37 + n / 2}\t{n % 3 + 1}\n" for n in range(12))
    grid = grid_through(read_marks("x.tsv", b"\xef\xbb\xbf" + beats.encode()).beats)
    assert (grid.beats_per_bar, float(grid.time_at(0.0)), grid.bpm_after) == (
        3,
        pytest.approx(0.37),
        pytest.approx(120),
    )


def test_a_cue_sheet_becomes_cues_with_titles() -> None:
    sheet = "\n".join(
        [
            'PERFORMER "All"', 'TITLE "Night"', 'FILE "night.wav" WAVE', "  TRACK 01 AUDIO", '    TITLE "One"',
            "    INDEX 01 00:00:00", "  TRACK 02 AUDIO", "    TITLE \"Two, and 'more'\"", '    PERFORMER "Ines"',
            "    INDEX 00 03:00:00", "    INDEX 01 03:02:15",
        ]
    )  # fmt: skip
    marks = read_marks("night.cue", sheet.encode("latin-1"))
    assert [(m.at_s, m.name) for m in marks.moments] == [(0.0, "One"), (182.2, "Ines – Two, and 'more'")]


@settings(max_examples=25)
@given(st.floats(0.0, 2.0), st.integers(2, 7), st.lists(st.floats(60.0, 200.0), min_size=1, max_size=4))
def test_a_midi_map_brings_the_grid_back_that_it_was_written_from(at_s: float, bar: int, tempi: list[float]) -> None:
    gaps = np.concatenate([np.full(24, 60.0 / bpm) for bpm in tempi])
    moments = at_s + np.concatenate(([0.0], np.cumsum(gaps)))
    firsts = np.arange(len(moments)) % bar == 0
    content = write_midi_map(moments, firsts, float(moments[-1]) + 1.0, [], "x")
    marks = read_marks("x.mid", content)
    near = min(abs(at_s - 60.0 / tempi[0]) / (60.0 / tempi[0]), 1.0)
    if at_s < 1e-6 or near > 0.03:
        grid = grid_through(marks.beats)
        assert grid.beats_per_bar == bar
        assert np.abs(grid.time_at(np.arange(len(moments))) - moments).max() < 0.0012
    at = {round(b.at_s, 3) for b in marks.beats}
    assert {round(float(m), 3) for m in moments} <= {round(a + d, 3) for a in at for d in (-0.001, 0.0, 0.001)}


def test_markers_of_a_midi_file_become_cues_on_their_beats() -> None:
    file = mido.MidiFile(ticks_per_beat=480)
    file.tracks.append(
        mido.MidiTrack(
            [
                mido.MetaMessage("set_tempo", tempo=500_000),
                mido.MetaMessage("marker", text="drop", time=480 * 8),
                mido.MetaMessage("end_of_track", time=480 * 8),
            ]
        )
    )
    out = io.BytesIO()
    file.save(file=out)
    made = with_marks(Markup(), read_marks("x.midi", out.getvalue()), tuple(MarkFacet))
    assert [(c.at, c.name) for c in made.cues] == [(8.0, "drop")]
    assert made.grid == Grid.constant(120.0, 0.0)


def test_our_own_markup_comes_back_as_it_was_counted_by_the_grid_that_is_taken_or_stays() -> None:
    marks = read_marks("x.json", MARKUP.model_dump_json().encode())
    everything = with_marks(Markup(), marks, tuple(MarkFacet))
    assert everything.model_copy(update={"by_hand": False}) == MARKUP
    half = Markup(grid=Grid.constant(62.0, 0.37), cues=(Cue(id="mine", at=4.0, name="mine"),))
    kept = with_marks(half, marks, [MarkFacet.SECTIONS, MarkFacet.CUES])
    assert kept.grid == half.grid
    assert [(s.start, s.end) for s in kept.sections] == [(0.0, 32.0), (32.0, 64.0)]
    assert [(c.id, c.at) for c in kept.cues] == [("mine", 4.0), ("c1", 16.0)]
    assert kept.loops == ()


def test_what_is_read_twice_is_there_once_and_what_is_not_wanted_stays_out() -> None:
    marks = Marks(
        moments=(Moment(at_s=8.0, name="a"), Moment(at_s=9.0, name="b")), sections=(Span(start_s=0, end_s=4),)
    )
    start = Markup(grid=Grid.constant(120.0, 0.0))
    once = with_marks(start, marks, [MarkFacet.CUES])
    assert len(once.cues) == 2
    assert once.sections == ()
    assert with_marks(once, marks, [MarkFacet.CUES]) == once
    assert told(once, "Am", MarkFacet.CUES) == ["0:08.000 a", "0:09.000 b"]
    assert told(once, "Am", MarkFacet.GRID) == ["120.00 BPM", "bar 1 at 0.000 s", "4 beats a bar"]
    assert (told(once, "Am", MarkFacet.KEY), told(once, None, MarkFacet.KEY)) == (["Am"], [])


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("x.pdf", b"", "no kind that is read"),
        ("x.jams", b"{}", "no JAMS file"),
        ("x.jams", b"[" * 100_000, "no JAMS file"),
        ("x.jams", b'{"annotations": [{"namespace": "beat", "data": [{"time": "soon"}]}]}', "not as JAMS has it"),
        ("x.jams", b'{"annotations": [{"namespace": "beat", "data": [{"time": NaN}]}]}', "not as JAMS has it"),
        ("x.jams", b'{"annotations": []}', "says nothing"),
        ("x.txt", b"fern\tmoss\n", "Line 1 is no label"),
        ("x.txt", b"5.0\t4.0\tback\n", "ends before it starts"),
        ("x.txt", b"inf\tinf\tfar\n", "ends before it starts"),
        ("x.txt", b"", "says nothing"),
        ("x.cue", b"TRACK 01 AUDIO\nINDEX 01 soon\n", "no time"),
        ("x.mid", b"ferns", "no whole standard MIDI file"),
        ("x.json", b"ferns", "no JAMS file"),
    ],
)
def test_what_cannot_be_read_is_said(name: str, content: bytes, words: str) -> None:
    with pytest.raises(RefusedError, match=words):
        read_marks(name, content)


@pytest.mark.parametrize("times", [[0.0, 0.5, 0.4], [0.0, 0.0, 1.0], [0.0, 100.0], [5.0]])
def test_beats_that_make_no_grid_are_refused(times: list[float]) -> None:
    with pytest.raises(MarkupError):
        grid_through([Tick(at_s=t) for t in times])


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16", "utf-16-le", "cp1252"])
def test_labels_and_sheets_are_read_in_whatever_they_are_written(encoding: str) -> None:
    labels = "0.000\t31.0\tAuftakt\n31.0\t31.0\tGrün\n".encode(encoding)
    said = read_marks("x.txt", labels)
    assert [s.name for s in said.sections] == ["Auftakt"]
    assert [m.name for m in said.moments] == ["Grün"]
    sheet = 'track 01 audio\n  title "Grün"\n  performer "Ines"\n  index 01 01:02:15\n'.encode(encoding)
    assert [(m.at_s, m.name) for m in read_marks("x.cue", sheet).moments] == [(62.2, "Ines – Grün")]


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("x.txt", "0.5\n1.0\n1.5\n"),
        ("x.beats", "0.5\n1,0\n1.5e0\n"),
        ("x.csv", "time\n0.5\n1.0\n1.5\n"),
        ("x.csv", "beat;place\n0,5;1\n1,0;2\n1,5;3\n"),
    ],
)
def test_lists_of_beats_are_read(name: str, text: str) -> None:
    said = read_marks(name, text.encode())
    moments = [t.at_s for t in said.beats] or [m.at_s for m in said.moments] or [s.start_s for s in said.sections]
    assert moments == [0.5, 1.0, 1.5]


def test_tables_are_read_with_and_without_names_of_their_columns() -> None:
    for text in (
        "start,end,name\n0,31.0,Intro\n31,62,Full\n62.5,62.5,in\n",
        "0;31,0;Intro\n31;62;Full\n62,5;62,5;in\n",
    ):
        said = read_marks("x.csv", text.encode())
        assert [(s.start_s, s.end_s, s.name) for s in said.sections] == [(0.0, 31.0, "Intro"), (31.0, 62.0, "Full")]
        assert [(m.at_s, m.name) for m in said.moments] == [(62.5, "in")]
    named = read_marks("x.csv", b"at,name\n12.5,claps\n40,drop\n")
    assert [(m.at_s, m.name) for m in named.moments] == [(12.5, "claps"), (40.0, "drop")]
