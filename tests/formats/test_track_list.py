"""Track lists in all their forms, read back by readers that are not ours where there are some."""

from __future__ import annotations

import csv
import io
import json
import re
from pathlib import Path

import av
import pytest
import xspf_lib
from cueparser import CueSheet

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.transitions import Kind
from fernbrook.core.plan import TimesAt, listed, plan
from fernbrook.formats.playlists import read_playlist
from fernbrook.formats.track_list import Line, ListFormat, TrackList, clock, cue_time, written
from tests.core.test_commands import TRACKS, mix_of

TRACKS_OF = TrackList(
    "Night & Day",
    1900.0,
    (
        Line(1, 0.0, "First \"one\"", "Moss & Co", 300.0, 120.0, "Am", "/music/first one.flac"),
        Line(2, 212.345, "Zweite – Über", "", 280.5, 124.25, None, "/music/zwei.mp3"),
        Line(3, 3700.0, "<third>", "C", 100.0),
    ),
    "night.wav",
)  # fmt: skip


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(0, "00:00"), (59.99, "00:59"), (61, "01:01"), (3600, "1:00:00"), (7384.2, "2:03:04"), (-1, "00:00")],
)
def test_clock(seconds: float, text: str) -> None:
    assert clock(seconds) == text


def test_text_has_a_line_for_each() -> None:
    lines = written(TRACKS_OF, ListFormat.TEXT).splitlines()
    assert lines[0] == "Night & Day (31:40)"
    assert lines[2:4] == ['00:00  Moss & Co – First "one"', "03:32  Zweite – Über"]


def test_csv_and_json_say_the_same() -> None:
    rows = list(csv.DictReader(io.StringIO(written(TRACKS_OF, ListFormat.CSV))))
    said = json.loads(written(TRACKS_OF, ListFormat.JSON))
    for row, track in zip(rows, said["tracks"], strict=True):
        assert (row["title"], row["artist"], int(row["number"])) == (track["title"], track["artist"], track["number"])
        assert float(row["seconds"]) == track["start_s"]
        assert (float(row["bpm"]) if row["bpm"] else None) == track["bpm"]
    assert said["tracks"][0]["key"] == "Am"


def test_a_cue_sheet_counts_in_frames_and_quotes_nothing_twice() -> None:
    lines = written(TRACKS_OF, ListFormat.CUE).splitlines()
    assert lines[1] == 'FILE "night.wav" WAVE'
    assert "    TITLE \"First 'one'\"" in lines
    assert [x.split()[-1] for x in lines if "INDEX" in x] == ["00:00:00", "03:32:26", "61:40:00"]
    assert all(x.count('"') in (0, 2) for x in lines)
    assert cue_time(0.9999) == "00:01:00"


@pytest.mark.parametrize("form", [ListFormat.M3U8, ListFormat.XSPF])
def test_lists_of_the_tracks_are_read_back(form: ListFormat) -> None:
    read = read_playlist(written(TRACKS_OF, form).encode(), f"night.{form.value}")
    assert [r.title for r in read[:2]] == ['First "one"', "Zweite – Über"]
    assert [r.path for r in read[:2]] == ["/music/first one.flac", "/music/zwei.mp3"]
    assert read[0].artist == "Moss & Co"
    assert read[1].duration_s == pytest.approx(280.5, abs=0.51)


def test_chapters_follow_each_other_up_to_the_end() -> None:
    text = written(TRACKS_OF, ListFormat.WEBVTT)
    times = re.findall(r"(\S+) --> (\S+)", text)
    assert text.startswith("WEBVTT\n\n")
    assert times[0] == ("00:00:00.000", "00:03:32.345")
    assert [a[1] for a in times[:-1]] == [b[0] for b in times[1:]]
    assert "&lt;third&gt;" in text
    assert "&amp; Co" in text


def test_a_track_begins_where_it_is_heard_takes_over_or_is_alone() -> None:
    mix = mix_of("a", "b")
    planned = plan(mix, TRACKS)
    (t,) = planned.transitions
    starts = {at: listed(planned, at)[1].start_s for at in TimesAt}
    assert starts[TimesAt.FIRST_SOUND] == pytest.approx(t.start_s)
    assert starts[TimesAt.ALONE] == pytest.approx(t.end_s)
    assert t.start_s < starts[TimesAt.HAND_OVER] < t.end_s
    assert all(listed(planned, at)[0].start_s == 0.0 for at in TimesAt)
    pair = {"out_id": mix.entries[0].id, "in_id": mix.entries[1].id}
    apart = c.apply(
        c.apply(mix, c.SetKind(to=Kind.APART, **pair), TRACKS), c.PlaceTransition(seconds=2.0, **pair), TRACKS
    )
    cut = plan(apart, TRACKS)
    assert listed(cut, TimesAt.FIRST_SOUND)[1].start_s == pytest.approx(cut.transitions[0].end_s)


def test_a_part_of_a_mix_lists_what_sounds_in_it_from_its_own_start() -> None:
    planned = plan(mix_of("a", "b"), TRACKS)
    second = listed(planned)[1].start_s
    within = listed(planned, start_s=second - 5.0, end_s=second + 5.0)
    assert [x.start_s for x in within] == [0.0, pytest.approx(5.0)]
    assert [x.number for x in listed(planned, start_s=second + 1.0)] == [1]


def test_a_cue_sheet_and_an_xspf_are_read_by_parsers_that_are_not_ours(tmp_path: Path) -> None:
    sheet = CueSheet()
    sheet.setOutputFormat("%title%", "%title%")
    sheet.setData(written(TRACKS_OF, ListFormat.CUE))
    sheet.parse()
    assert (sheet.title, sheet.file) == ("Night & Day", "night.wav")
    assert [t.title for t in sheet.tracks] == ["First 'one'", "Zweite – Über", "<third>"]
    assert [t.offset for t in sheet.tracks] == ["00:00:00", "03:32:26", "61:40:00"]
    path = tmp_path / "night.xspf"
    path.write_text(written(TRACKS_OF, ListFormat.XSPF))
    listed = xspf_lib.Playlist.parse(str(path))
    assert listed.title == "Night & Day"
    assert [(t.title, t.creator, t.duration) for t in listed] == [
        ('First "one"', "Moss & Co", 300_000),
        ("Zweite – Über", None, 280_500),
        ("<third>", "C", 100_000),
    ]


def test_webvtt_chapters_are_read_by_ffmpeg(tmp_path: Path) -> None:
    path = tmp_path / "night.vtt"
    path.write_text(written(TRACKS_OF, ListFormat.WEBVTT))
    with av.open(str(path)) as file:
        (stream,) = file.streams
        cues = [(float(p.pts * stream.time_base), bytes(p).decode()) for p in file.demux(stream) if p.pts is not None]
    assert [(round(at, 3), text) for at, text in cues] == [
        (0.0, 'Moss &amp; Co – First "one"'),
        (212.345, "Zweite – Über"),
        (3700.0, "C – &lt;third&gt;"),
    ]


def test_a_cue_sheet_begins_at_nothing_and_holds_no_more_than_its_form_can() -> None:
    lines = tuple(Line(n, 3.0 + 60.0 * n, f"T{n}", "", 60.0) for n in range(1, 121))
    sheet = written(TrackList("Long", 8000.0, lines, "long.mp3"), ListFormat.CUE).splitlines()
    assert sheet[1] == 'FILE "long.mp3" MP3'
    indices = [x.split()[-1] for x in sheet if "INDEX" in x]
    assert indices[:2] == ["00:00:00", "02:03:00"]
    assert [x for x in sheet if "TRACK" in x][-1] == "  TRACK 99 AUDIO"
    assert not any("PERFORMER" in x for x in sheet)
