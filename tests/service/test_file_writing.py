"""What is written into files and comes back from them; their sound stays what it was, whatever happens meanwhile."""

from __future__ import annotations

import subprocess
import sys
import textwrap
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import mutagen
import numpy as np
import pytest
import soundfile
from mutagen.id3 import APIC, COMM, ID3, TIT2

from fernbrook.core.track import Cue, CueRole, Grid, Loop, PutCues, PutGrid, PutLoops
from fernbrook.errors import AudioFileError, RefusedError
from fernbrook.formats.file_fields import Field, read_fields, write_fields
from fernbrook.service.files.file_writing import Wanted, replace_file
from fernbrook.service.services import Services
from fernbrook.service.tracks.library import Brought
from fernbrook.store.folders import Folders

RATE = 44_100
KINDS = {
    "wav": {"format": "WAV", "subtype": "PCM_24"},
    "flac": {"format": "FLAC", "subtype": "PCM_16"},
    "mp3": {"format": "MP3", "subtype": "MPEG_LAYER_III"},
    "ogg": {"format": "OGG", "subtype": "VORBIS"},
    "opus": {"format": "OGG", "subtype": "OPUS"},
    "aiff": {"format": "AIFF", "subtype": "PCM_16"},
}
ALL = Wanted(bpm=True, key="music", comment="{bpm} {key}", title="{artist} - {title}", gain=True, markup=True)
MARKED = Cue(id="c1", at=4.0, role=CueRole.MIX_IN, name="drums · allein", note="ß", preferred=True)


def sound_file(folder: Path, kind: str, seconds: float = 6.0) -> Path:
    path = folder / f"take.{kind}"
    rate = 48_000 if kind == "opus" else RATE
    noise = np.random.default_rng(5).uniform(-0.4, 0.4, (round(seconds * rate), 2))
    soundfile.write(path, noise, rate, **KINDS[kind])
    return path


def marked(services: Services, path: Path) -> str:
    """A track in the library with all kinds of marks."""
    track = services.library.bring_in_path(path).track.id
    services.marking.change(track, None, PutGrid(grid=Grid.constant(121.5, 0.25)))
    services.marking.change(track, None, PutCues(cues=(MARKED,)))
    services.marking.change(track, None, PutLoops(loops=(Loop(id="l1", start=0.0, beats=8.0, name="door"),)))
    services.collection.tag([track], add=["late", "dub"])
    services.collection.rename_track(track, "Wet Glass", "Marrow Street")
    return track


@pytest.mark.parametrize("kind", KINDS)
def test_all_that_was_set_travels_in_every_kind_of_file(services: Services, tmp_path: Path, kind: str) -> None:
    track = marked(services, sound_file(tmp_path, kind))
    before = services.marking.open(track).markup
    kept = services.library.file_of(track)
    sound, other_tags = soundfile.read(kept)[0], services.file_writing.preview(track, ALL)
    assert {c.field for c in other_tags} >= {Field.BPM, Field.COMMENT, Field.TITLE, Field.MARKUP}
    written = {c.field: c.after for c in services.file_writing.write(track, ALL)}
    assert (written[Field.BPM], written[Field.TITLE]) == ("121.5", "Marrow Street - Wet Glass")
    assert read_fields(kept)[Field.COMMENT] == "121.5"
    assert np.array_equal(soundfile.read(kept)[0], sound)
    assert not [c for c in services.file_writing.preview(track, ALL) if c.field is Field.MARKUP]
    # The library goes; the file, taken out of it, comes into another one.
    away = tmp_path / "away" / f"take.{kind}"
    away.parent.mkdir()
    away.write_bytes(kept.read_bytes())
    other = Services(Folders(tmp_path / "other"), workers=1)
    try:
        came = other.library.bring_in_path(away)
        assert came.brought is Brought.TAKEN
        assert other.marking.open(came.track.id).markup == before
        assert other.catalogue.find("tag:late tag:dub cued") == [came.track.id]
    finally:
        other.stop()


@pytest.mark.parametrize("kind", KINDS)
def test_what_the_file_said_before_comes_back(services: Services, tmp_path: Path, kind: str) -> None:
    path = sound_file(tmp_path, kind)
    write_fields(path, {Field.TITLE: "Old", Field.COMMENT: "from the shop", Field.KEY: "8A"})
    before = read_fields(path)
    track = marked(services, path)
    services.file_writing.write(track, Wanted(title="{title}", comment="x"))
    services.file_writing.write(track, Wanted(comment="y", bpm=True))
    services.file_writing.restore(track)
    assert read_fields(services.library.file_of(track)) == before
    with pytest.raises(RefusedError, match="Nothing was written"):
        services.file_writing.restore(track)


def test_other_tags_of_a_file_are_left_alone(tmp_path: Path) -> None:
    path = sound_file(tmp_path, "flac")
    flac = mutagen.File(path)
    flac["label"] = ["Fern"]
    flac.save()
    write_fields(path, {Field.BPM: "120", Field.MARKUP: "{}"})
    assert mutagen.File(path)["label"] == ["Fern"]
    write_fields(path, {Field.BPM: None, Field.MARKUP: None})
    assert set(mutagen.File(path).keys()) == {"label"}


def test_a_file_that_was_written_is_known_again_and_the_newer_is_told(services: Services, tmp_path: Path) -> None:
    track = marked(services, sound_file(tmp_path, "flac"))
    services.file_writing.write(track, ALL)
    away = tmp_path / "away.flac"
    away.write_bytes(services.library.file_of(track).read_bytes())
    again = services.library.bring_in_path(away)
    assert (again.known, again.track.id, again.brought) == (True, track, Brought.NOTHING)
    mine = services.marking.change(track, None, PutCues(cues=(MARKED.model_copy(update={"at": 8.0}),)))
    assert services.library.bring_in_path(away).brought is Brought.OLDER
    services.library.take_from_file(track)
    assert services.marking.open(track).markup.cues == (MARKED,)
    services.marking.undo(track, services.marking.open(track).version)
    assert services.marking.open(track).markup == mine.markup


def test_what_another_library_wrote_is_offered_for_the_track_that_is_here(services: Services, tmp_path: Path) -> None:
    track = marked(services, sound_file(tmp_path, "flac"))
    services.file_writing.write(track, ALL)
    away = tmp_path / "away.flac"
    away.write_bytes(services.library.file_of(track).read_bytes())
    other = Services(Folders(tmp_path / "other"), workers=1)
    try:
        there = other.library.bring_in_path(away).track.id
        moved = other.marking.change(there, None, PutCues(cues=(MARKED.model_copy(update={"at": 2.0}),)))
        other.file_writing.write(there, ALL)
        away.write_bytes(other.library.file_of(there).read_bytes())
    finally:
        other.stop()
    came = services.library.bring_in_path(away)
    assert (came.track.id, came.brought) == (track, Brought.NEWER)
    assert services.marking.open(track).markup.cues == (MARKED,)
    services.library.take_from_file(track)
    assert services.marking.open(track).markup == moved.markup


def test_a_field_that_belongs_to_another_recording_is_not_taken(services: Services, tmp_path: Path) -> None:
    track = marked(services, sound_file(tmp_path, "flac"))
    services.file_writing.write(track, ALL)
    text = read_fields(services.library.file_of(track))[Field.MARKUP]
    longer = sound_file(tmp_path, "wav", seconds=9.0)
    write_fields(longer, {Field.MARKUP: text})
    assert services.library.bring_in_path(longer).brought is Brought.NOTHING
    broken = sound_file(tmp_path, "ogg", seconds=8.0)
    write_fields(broken, {Field.MARKUP: '{"fernbrook": "track", "markup": 7}'})
    assert services.library.bring_in_path(broken).brought is Brought.NOTHING


def test_a_pattern_that_cannot_be_filled_in_is_named(services: Services, tmp_path: Path) -> None:
    track = marked(services, sound_file(tmp_path, "flac"))
    for pattern in ("{mood}", "{title", "}", "{title.__class__}", "{0}", "{title:>1000000000000000000}", "{}"):
        with pytest.raises(RefusedError, match="pattern"):
            services.file_writing.preview(track, Wanted(title=pattern))


def test_a_write_that_would_change_the_sound_is_refused(services: Services, tmp_path: Path) -> None:
    path = sound_file(tmp_path, "wav")
    before = path.read_bytes()

    def spoil(copy: Path) -> None:
        sound, rate = soundfile.read(copy)
        soundfile.write(copy, sound * 0.999, rate, subtype="PCM_24")

    with pytest.raises(AudioFileError, match="would change its sound"):
        replace_file(path, spoil, services.folders)
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir() if p.name != "data"] == [path.name]


@pytest.mark.vital
def test_killed_before_it_was_noted_a_written_file_is_still_the_track(
    services: Services, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    track = marked(services, sound_file(tmp_path, "flac"))

    def killed(*_: object) -> None:
        raise KeyboardInterrupt

    with monkeypatch.context() as patched:
        patched.setattr("fernbrook.service.files.file_writing.note_kept", killed)
        with pytest.raises(KeyboardInterrupt):
            services.file_writing.write(track, ALL)
    assert read_fields(services.library.file_of(track))[Field.BPM] == "121.5"
    services.file_writing.restore(track)
    assert read_fields(services.library.file_of(track))[Field.BPM] is None


@pytest.mark.slow
def test_killed_in_the_middle_a_file_is_old_or_new(folders: Folders, tmp_path: Path) -> None:
    folders.prepare()
    path = sound_file(tmp_path, "flac", seconds=40.0)
    sound = soundfile.read(path)[0]
    code = textwrap.dedent(
        f"""
        from pathlib import Path
        from fernbrook.formats.file_fields import Field, write_fields
        from fernbrook.service.files.file_writing import replace_file
        from fernbrook.store.folders import Folders
        folders = Folders(Path({str(folders.root)!r}))
        print("ready", flush=True)
        n = 0
        while True:
            n += 1
            text = "x" * (n * 997 % 60_000)
            replace_file(Path({str(path)!r}), lambda copy: write_fields(copy, {{Field.COMMENT: text}}), folders)
            print(n, flush=True)
        """
    )
    for written in range(1, 9):
        with subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE) as writer:
            assert writer.stdout
            assert writer.stdout.readline() == b"ready\n"
            for _ in range(written):
                writer.stdout.readline()
            writer.kill()  # somewhere within the next write
        comment = read_fields(path)[Field.COMMENT]
        assert comment is not None
        assert (set(comment), len(comment) % 997) == ({"x"}, 0)
        assert len(comment) >= written * 997, "what was said to be written is there"
        assert np.array_equal(soundfile.read(path)[0], sound)
        folders.prepare()
        assert [p.name for p in tmp_path.iterdir() if p.is_file()] == [path.name], "what it was at goes at a start"


def odd_tags(path: Path, kind: str) -> None:
    """Tags of which a field by itself says little: languages, several values, a picture, older versions."""
    if kind in ("flac", "ogg", "opus"):
        file = mutagen.File(path)
        file["title"] = ["First", "Second"]
        file["comment"] = ["one", "two", "drei"]
        file["label"] = ["Fern"]
        file.save()
        return
    frames = [
        COMM(encoding=0, lang="eng", desc="", text="from the shop"),
        COMM(encoding=1, lang="deu", desc="", text="aus dem Laden"),
        COMM(encoding=0, lang="eng", desc="iTunNORM", text="0001"),
        TIT2(encoding=3, text=["First", "Second"]),
        APIC(encoding=0, mime="image/png", type=3, desc="front", data=bytes(5000)),
    ]
    if kind == "mp3":
        tags = ID3()
        for frame in frames:
            tags.add(frame)
        tags.save(path, v2_version=3, v1=2)
        return
    file = mutagen.File(path)
    file.add_tags()
    for frame in frames:
        file.tags.add(frame)
    file.save(v2_version=3)


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("times", [1, 3])
def test_a_file_is_what_it_was_after_its_tags_are_put_back(
    services: Services, tmp_path: Path, kind: str, times: int
) -> None:
    path = sound_file(tmp_path, kind)
    odd_tags(path, kind)
    original, said = path.read_bytes(), sorted(map(str, mutagen.File(path).tags.items()))
    track = marked(services, path)
    kept = services.library.file_of(track)
    for n in range(times):
        services.file_writing.write(
            track, Wanted(title=f"{{title}} {n}", comment="x" * 3000 * n, bpm=True, markup=n == 2)
        )
    assert kept.read_bytes() != original
    told = {c.field: c.after for c in services.file_writing.restore(track)}
    assert told[Field.TITLE].startswith("First")
    assert sorted(map(str, mutagen.File(kept).tags.items())) == said
    if kind not in ("ogg", "opus"):
        assert kept.read_bytes() == original
    assert list(services.folders.tags.iterdir()) == []
    assert services.library.file_of(track) == kept
    services.file_writing.write(track, Wanted(comment="again"))
    services.library.remove(track)
    assert list(services.folders.tags.iterdir()) == []


@pytest.mark.parametrize("damaged", [b"", b"{}", b'{"parts": [1, 2, 3], "sha256": "", "sound": 1}\n'])
def test_what_was_kept_in_another_way_or_is_damaged_brings_the_fields_back(
    services: Services, tmp_path: Path, damaged: bytes
) -> None:
    path = sound_file(tmp_path, "flac")
    write_fields(path, {Field.TITLE: "Old", Field.COMMENT: "from the shop"})
    track = marked(services, path)
    services.file_writing.write(track, Wanted(title="New", comment="x"))
    services.folders.tag_block(track).write_bytes(damaged)
    services.file_writing.restore(track)
    said = read_fields(services.library.file_of(track))
    assert (said[Field.TITLE], said[Field.COMMENT]) == ("Old", "from the shop")


def test_two_that_write_at_once_both_get_what_they_wrote(services: Services, tmp_path: Path) -> None:
    track = marked(services, sound_file(tmp_path, "flac"))
    wishes = [Wanted(comment=f"note {n}") if n % 2 else Wanted(title=f"name {n}") for n in range(8)]
    with ThreadPoolExecutor(4) as threads:
        list(threads.map(lambda w: services.file_writing.write(track, w), wishes))
    said = read_fields(services.library.file_of(track))
    assert said[Field.COMMENT].startswith("note")
    assert said[Field.TITLE].startswith("name")
    services.file_writing.restore(track)
    assert read_fields(services.library.file_of(track))[Field.COMMENT] is None
