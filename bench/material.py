"""What is measured: the ten demo tracks, made once in the demo's folder."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import ReadyShape
from fernbrook.core.plan import Plan, plan
from fernbrook.core.track import TrackFacts
from fernbrook.demo.make import DemoTrack, make_all

FOLDER = Path(__file__).parents[1] / ".demo" / "demo"


@lru_cache(maxsize=1)
def tracks() -> tuple[DemoTrack, ...]:
    return tuple(make_all(FOLDER))


def facts(track: DemoTrack) -> TrackFacts:
    """A demo track as the rules see it, with its true grid."""
    import soundfile

    info = soundfile.info(track.path)
    return TrackFacts(id=track.song.file, title=track.song.title, duration_s=info.duration, grid=track.grid)


def paths() -> dict[str, Path]:
    return {t.song.file: t.path for t in tracks()}


def mix_of(*numbers: int, shape: ReadyShape = ReadyShape.BASS) -> Plan:
    """A mix of some demo tracks (1 is the first), all with one hand-over."""
    known = {t.song.file: facts(t) for t in tracks()}
    ids = tuple(tracks()[n - 1].song.file for n in numbers)
    mix = c.apply(Mix(name="bench", target_lufs=None), c.AddTracks(track_ids=ids), known)
    for out, into in zip(mix.entries, mix.entries[1:], strict=False):
        mix = c.apply(mix, c.ApplyShape(shape=shape, out_id=out.id, in_id=into.id), known)
    return plan(mix, known)
