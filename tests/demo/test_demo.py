"""The made-up tracks are what their truth says: without that no measurement with them would mean anything."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import mutagen
import numpy as np
import pytest
import soundfile

from fernbrook.demo import arrange, drums
from fernbrook.demo.make import _is_made, make, read_truth
from fernbrook.demo.song import Song, true_grid
from fernbrook.demo.songs import EVENING, SONGS, SPARE
from fernbrook.service.files.tags import read_tags
from tests import songs
from tests.listen import RATE, band, level_db, mono

pytestmark = pytest.mark.slow


@pytest.mark.parametrize("song", SONGS, ids=lambda s: s.title)
def test_each_song_is_within_what_the_evening_needs(song: Song) -> None:
    grid = true_grid(song)
    seconds = float(grid.time_at(song.bars * 4))
    assert 150 <= seconds <= 270
    assert 87 <= song.bpm <= 174
    assert song.chords


def test_the_evening_has_all_the_cases() -> None:
    assert {Path(s.file).suffix for s in SONGS} == {".wav", ".flac", ".mp3", ".ogg"}
    assert sum(s.sings for s in SONGS) == 2
    assert any(s.intro_s == 20 for s in SONGS)
    assert any(s.pick_up_beats for s in SONGS)
    assert any(s.mono for s in SONGS)
    assert any(s.rate == 48_000 for s in SONGS)
    assert [s.bpm for s in SONGS if s.bpm in (87, 174)] == [174, 87]
    assert not all(true_grid(s).is_constant for s in SONGS)
    assert min(s.sections[-1].bars for s in SONGS) == 2
    assert len({s.key for s in SONGS}) > 5


def test_the_wanderer_strays_but_not_too_far() -> None:
    song = next(s for s in SONGS if s.wander)
    tempo = true_grid(song).bpm_at(np.arange(0, song.bars * 4))
    assert np.abs(tempo / song.bpm - 1).max() <= song.wander + 1e-9
    assert tempo.std() / song.bpm > 0.002


@pytest.mark.parametrize("name", ["FIRST", "WANDERING"])
def test_kicks_start_on_the_true_beats(name: str) -> None:
    stems, truth = arrange.play(getattr(songs, name))
    drum = mono(stems["drums"])
    kick = drums.kick(getattr(songs, name).tone)[:800].astype(float)
    for beat in range(0, 28):
        if beat % 32 == 31:
            continue
        at = round(float(truth.grid.time_at(beat)) * RATE)
        around = drum[at - 300 : at + 1100]
        lag = int(np.argmax(np.correlate(around, kick, "valid"))) - 300
        assert abs(lag) <= 2, beat


def test_voice_sounds_where_the_truth_says_and_nowhere_else() -> None:
    stems, truth = arrange.play(replace(songs.FIRST, sings=True))
    voice = mono(stems["voice"])
    sung = np.zeros(len(voice), dtype=bool)
    for start, end in truth.voice_spans:
        sung[round(start * RATE) : round((end + 1.0) * RATE)] = True
    assert truth.voice_spans
    assert level_db(voice[sung]) > -40
    assert level_db(voice[~sung]) < level_db(voice[sung]) - 40


def test_stems_carry_what_they_are_named_for() -> None:
    stems, _ = arrange.play(songs.FIRST)
    bass = stems["bass"]
    assert level_db(band(bass, 30, 250)) > level_db(band(bass, 2500, 8000)) + 20
    total = arrange.master(songs.FIRST, stems)
    assert np.abs(total).max() == pytest.approx(10 ** (songs.FIRST.peak_db / 20), rel=1e-3)


def test_the_quiet_and_the_hot_one_differ_as_they_should() -> None:
    stems, _ = arrange.play(songs.FIRST)
    quiet = arrange.master(replace(songs.FIRST, peak_db=-13.0), stems)
    hot = arrange.master(replace(songs.FIRST, peak_db=-0.05, drive=4.5), stems)
    assert level_db(hot) - level_db(quiet) > 15


def test_making_is_repeatable_and_tagged(tmp_path: Path) -> None:
    for folder in ("a", "b"):
        (tmp_path / folder).mkdir()
        make(songs.SECOND, tmp_path / folder)
    one, two = (soundfile.read(tmp_path / f / songs.SECOND.file)[0] for f in "ab")
    assert np.array_equal(one, two)
    tags = read_tags(tmp_path / "a" / songs.SECOND.file, songs.SECOND.file)
    assert (tags.title, tags.artist, tags.bpm, tags.key) == ("Stomata", "Kelp Union", 126.0, "Fm")
    assert _is_made(tmp_path / "a", songs.SECOND)
    truth = read_truth(tmp_path / "a", songs.SECOND)
    assert truth.grid == true_grid(songs.SECOND)


def test_tags_are_read_from_every_format(tmp_path: Path) -> None:
    sound = np.zeros((RATE, 2))
    for suffix in (".wav", ".mp3", ".flac", ".ogg"):
        path = tmp_path / f"03 - some_file{suffix}"
        soundfile.write(path, sound, RATE)
        assert read_tags(path, path.name).title == "some file"
        file = mutagen.File(path, easy=True)
        if file.tags is None:
            file.add_tags()
        if suffix == ".wav":
            file.tags.add(mutagen.id3.TIT2(encoding=3, text="Real title"))
        else:
            file["title"] = "Real title"
        file.save()
        assert read_tags(path, path.name).title == "Real title", suffix


def test_nonsense_in_tags_is_left_out(tmp_path: Path) -> None:
    path = tmp_path / "x.flac"
    soundfile.write(path, np.zeros((RATE, 2)), RATE)
    file = mutagen.File(path)
    file["bpm"], file["title"], file["initialkey"] = "fast", "  ", "A" * 40
    file.save()
    tags = read_tags(path, "x.flac")
    assert (tags.bpm, tags.title, tags.key) == (None, "x", "A" * 16)


def test_a_short_bar_is_over_sooner_and_the_beat_goes_on_after_it() -> None:
    song = replace(songs.FIRST, short_bars=((5, 2), (9, 3)))
    stems, truth = arrange.play(song)
    assert truth.beats == songs.FIRST.bars * 4 - 3
    assert truth.grid.bar_lines.odd_bars(0.0, truth.beats, 4.0) == [(20.0, 2.0), (34.0, 3.0)]
    drum = mono(stems["drums"])
    kick = drums.kick(song.tone)[:800].astype(float)
    for beat in (19, 20, 21, 22, 23, 34, 36, 37, 38):
        at = round(float(truth.grid.time_at(beat)) * RATE)
        lag = int(np.argmax(np.correlate(drum[at - 300 : at + 1100], kick, "valid"))) - 300
        assert abs(lag) <= 2, beat


def test_the_one_beside_climbs_between_two_of_the_evening_and_drops_two_beats() -> None:
    grid = true_grid(SPARE)
    ends = [s for s in EVENING if s.bpm in grid.bpm_at([0.0, SPARE.beat_of(SPARE.bars)])]
    assert [s.title for s in ends] == ["Palm House, 2 a.m.", "Breaker Fern"]
    assert grid.means_its_changes
    assert [b for _, b in grid.bar_lines.odd_bars(0.0, 440.0, 4.0)] == [2.0]
