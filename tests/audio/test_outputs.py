"""Every kind of file that a mix can become, read back by readers that are not what wrote it."""

from __future__ import annotations

from pathlib import Path

import av
import mutagen
import numpy as np
import pytest
import soundfile
from mutagen.mp4 import MP4

from fernbrook.audio.files.output import OUTPUTS, OutputFormat, output_named
from fernbrook.audio.files.writer import Dressing, write_audio
from fernbrook.audio.pace.at_rate import at_rate, frames_at
from fernbrook.formats.cover import COLUMNS, cover
from fernbrook.formats.ribbon import Band
from fernbrook.formats.sleeve import Mark, Sleeve, write_sleeve
from tests.listen import level_db

RATE = 44_100
SECONDS = 6.0
SOUNDS = [o for o in OUTPUTS if o.spec.video is None]
MARKS = ((0.0, "Mosses"), (2.5, "Farne – über Stein"), (4.25, "C & D"))
PICTURE = cover([Band(0, 0, np.full(COLUMNS, 60, np.uint8), np.full(COLUMNS, 90, np.uint8))])
SLEEVE = Sleeve(
    "Glasshouse Late", "", "00:00 Mosses", "2026-11-27", tuple(Mark(*m) for m in MARKS), PICTURE, "Nights", (3, 10)
)


def tones(rate: int = RATE) -> np.ndarray:
    """Clicks each half second over a quiet tone."""
    t = np.arange(round(SECONDS * rate)) / rate
    sound = 0.1 * np.sin(2 * np.pi * 440 * t)
    for at in np.arange(0.25, SECONDS, 0.5):
        n = round(at * rate)
        sound[n : n + 200] += 0.6 * np.exp(-np.arange(200) / 30) * np.sin(2 * np.pi * 2000 * np.arange(200) / rate)
    return np.stack([sound, sound], axis=1).astype(np.float32)


def made(folder: Path, output: OutputFormat) -> tuple[Path, int]:
    """A file with everything on it, and its rate."""
    path = folder / f"mix{output.suffix}"
    rate = output.spec.rate_for(RATE)
    sound = np.concatenate(list(at_rate(np.array_split(tones(), 7), len(tones()), RATE, rate)))
    blocks = np.array_split(sound, 5)

    def finish(partial: Path) -> None:
        write_sleeve(partial, output.suffix, SLEEVE, SECONDS)

    dressing = Dressing(MARKS, finish=finish)
    assert write_audio(path, blocks, len(sound), rate, output, dressing) == len(sound)
    assert [p.name for p in folder.iterdir()] == [path.name]
    return path, rate


def decoded(path: Path) -> tuple[np.ndarray, int, list[tuple[float, str]]]:
    """The sound of a file as FFmpeg has it, its rate, and its chapters."""
    with av.open(str(path)) as container:
        stream = container.streams.audio[0]
        resampler = av.AudioResampler(format="flt", layout="stereo", rate=stream.rate)
        parts = [p.to_ndarray().reshape(-1, 2) for f in container.decode(stream) for p in resampler.resample(f)]
        chapters = [(float(c["start"] * c["time_base"]), c["metadata"].get("title", "")) for c in container.chapters()]
    return np.concatenate(parts), int(stream.rate), chapters


@pytest.mark.parametrize("output", SOUNDS)
def test_it_is_as_long_as_the_mix_and_sounds_where_it_should(tmp_path: Path, output: OutputFormat) -> None:
    path, rate = made(tmp_path, output)
    sound, found, _ = decoded(path)
    assert found == rate
    wanted = tones(rate)
    if output.spec.is_lossless:
        assert len(sound) == frames_at(len(tones()), RATE, rate)
    assert len(sound) / rate == pytest.approx(SECONDS, abs=0.06)
    for at in np.arange(0.25, SECONDS - 0.3, 0.5):
        n = round(at * rate)
        near = np.abs(sound[n - 800 : n + 800, 0])
        assert abs(int(np.argmax(near > 0.6 * near.max())) - 800) < 0.002 * rate, at
    assert level_db(sound) == pytest.approx(level_db(wanted), abs=0.5)


@pytest.mark.parametrize("output", SOUNDS)
def test_it_says_what_it_is_and_shows_its_chapters_and_cover(tmp_path: Path, output: OutputFormat) -> None:
    path, _ = made(tmp_path, output)
    tags = mutagen.File(path).tags
    match output.suffix:
        case ".mp3" | ".wav":
            assert [str(tags[n]) for n in ("TIT2", "TALB", "TRCK")] == ["Glasshouse Late", "Nights", "3/10"]
            told = sorted((t.start_time / 1000, str(t.sub_frames["TIT2"])) for t in tags.getall("CHAP"))
            assert tags.getall("CTOC")[0].child_element_ids == ["ch1", "ch2", "ch3"]
            assert tags.getall("APIC")[0].data == PICTURE
        case ".m4a":
            assert (tags["\xa9nam"], tags["\xa9alb"], tags["trkn"]) == (["Glasshouse Late"], ["Nights"], [(3, 10)])
            told = [(c.start, c.title) for c in MP4(path).chapters]
            assert bytes(tags["covr"][0]) == PICTURE
        case _:
            assert [tags[n] for n in ("title", "album", "tracknumber")] == [["Glasshouse Late"], ["Nights"], ["3"]]
            assert tags["CHAPTER002"] == ["00:00:02.500"]
            told = [(m[0], tags[f"CHAPTER{n:03}NAME"][0]) for n, m in enumerate(MARKS, 1)]
    assert [(pytest.approx(a, abs=0.002), b) for a, b in MARKS] == told
    if output.suffix in (".mp3", ".m4a"):
        assert sorted((round(a, 2), b) for a, b in decoded(path)[2]) == list(MARKS)


def test_a_wav_has_cue_points_that_an_editor_reads(tmp_path: Path) -> None:
    path, _ = made(tmp_path, OutputFormat.WAV_24)
    content = path.read_bytes()
    at = content.index(b"cue ")
    count = int.from_bytes(content[at + 8 : at + 12], "little")
    places = [int.from_bytes(content[at + 12 + 24 * n + 20 : at + 12 + 24 * n + 24], "little") for n in range(count)]
    assert places == [round(s * RATE) for s, _ in MARKS]
    assert "Farne – über Stein".encode() in content
    assert int.from_bytes(content[4:8], "little") == len(content) - 8
    assert soundfile.info(path).frames == len(tones())


@pytest.mark.parametrize(("rate", "to"), [(44_100, 48_000), (48_000, 44_100), (44_100, 44_100)])
def test_another_rate_keeps_pitch_level_and_length_whatever_the_blocks(rate: int, to: int) -> None:
    t = np.arange(rate * 3) / rate
    tone = np.repeat(np.sin(2 * np.pi * 1000 * t)[:, None], 2, axis=1).astype(np.float32) * 0.5
    ways = [np.concatenate(list(at_rate(np.array_split(tone, n), len(tone), rate, to))) for n in (1, 2, 37)]
    assert len(ways[0]) == frames_at(len(tone), rate, to)
    assert all(np.abs(w - ways[0]).max() < 1e-6 for w in ways)
    true = 0.5 * np.sin(2 * np.pi * 1000 * np.arange(len(ways[0])) / to)
    middle = slice(to // 2, -to // 2)
    assert np.abs(ways[0][middle, 0] - true[middle]).max() < 1e-4


def test_kinds_are_found_by_their_suffix() -> None:
    assert output_named(".wav", "32f") is OutputFormat.WAV_32_FLOAT
    assert output_named(".MP3", "v0") is OutputFormat.MP3_V0
    assert output_named(".mp3", "24") is OutputFormat.MP3_320
    assert output_named(".opus", "24") is OutputFormat.OPUS
    assert output_named(".wav", "12") is None
    assert output_named(".xyz", "24") is None


def test_two_chapters_on_one_moment_are_both_there(tmp_path: Path) -> None:
    marks = ((0.0, "One"), (1.0, "Two"), (1.0, "Three"))
    path = tmp_path / "x.m4a"
    sound = tones()
    write_audio(path, np.array_split(sound, 5), len(sound), RATE, OutputFormat.AAC, Dressing(marks))
    told = decoded(path)[2]
    assert [title for _, title in sorted(told)] == ["One", "Three", "Two"]
