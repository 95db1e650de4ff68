"""Short made-up tracks for tests, played by the demo's own band."""

from __future__ import annotations

from dataclasses import replace

from fernbrook.demo.song import Section, Song
from fernbrook.demo.songs import SONGS

SECTIONS = (Section("beat", 8), Section("full", 16), Section("outro", 8))


def short(song: Song, file: str, **changes: object) -> Song:
    """A song with only 32 bars."""
    return replace(song, sections=SECTIONS, file=file, **changes)


FIRST = short(SONGS[4], "first.wav", bpm=120.0, sings=False)
SECOND = short(SONGS[6], "second.flac", bpm=126.0)
WANDERING = short(SONGS[3], "wandering.wav", sings=False)
OTHER_RATE = short(SONGS[5], "other rate.wav", second_bpm=None, bpm=122.0)
