"""What somebody has made of the demo mix beyond its transitions: edits, stems of their own, layers over it."""

from __future__ import annotations

from collections.abc import Mapping
from io import BytesIO

import numpy as np
import soundfile

from fernbrook.core.mix.commands import (
    AnyMixCommand,
    ApplyShape,
    MarkAsMeant,
    PlaceTransition,
    PutEdits,
    PutLayers,
    SetCurve,
)
from fernbrook.core.mix.curves import Control, Curve
from fernbrook.core.mix.layers import Layer, Made, MadeSound, OfTrack, OnEntry
from fernbrook.core.mix.transitions import ReadyShape, Side, SideCurves
from fernbrook.core.track import KEPT, Repeat, Skip, Stem
from fernbrook.demo import arrange
from fernbrook.demo.make import DemoTrack
from fernbrook.demo.tones import RATE
from fernbrook.service.services import Services

BAR = 4.0
OWN_STEMS = ("Wet Glass", "Ripe Figs", "Heliconia")
"""Whose stems lie beside the music, as they came out of the desk."""
SHORT_OUTRO, LONG_BREAK = (112.0, 114.0), (66.0, 82.0)
"""Bars of Stomata that are repeated until it has left, and of Palm House that are left out."""


def give_stems(services: Services, tracks: list[DemoTrack], ids: Mapping[str, str]) -> None:
    """Lay the stems of some tracks beside them, as files of one's own."""
    for track in (t for t in tracks if t.song.title in OWN_STEMS):
        parts, _ = arrange.play(track.song)
        files = {Stem(name): (_as_file(part), f"{name}.flac") for name, part in parts.items() if np.any(part)}
        services.stems.take_files(ids[track.song.title], {s: f for s, f in files.items() if s in KEPT})


def _as_file(sound: np.ndarray) -> BytesIO:
    file = BytesIO()
    highest = float(np.abs(sound).max())
    soundfile.write(file, sound / max(highest, 1.0), RATE, format="FLAC", subtype="PCM_24")
    file.seek(0)
    return file


def own_commands(entries: Mapping[str, str], tracks: Mapping[str, str]) -> list[AnyMixCommand]:
    """What was done to the mix, in order; ``entries`` and ``tracks`` are ids by title."""
    figs = {"out_id": entries["Wet Glass"], "in_id": entries["Ripe Figs"]}
    voices = {"out_id": entries["Ripe Figs"], "in_id": entries["Heliconia"]}
    outro = {"out_id": entries["Stomata"], "in_id": entries["Palm House, 2 a.m."]}
    # The outgoing sings for the last time in the 22nd bar of their 24.
    waits = Curve.of((0.0, 0.0), (22 / 24, 0.0), (22.25 / 24, 1.0), (1.0, 1.0))
    repeat = Repeat(id="outro", start=SHORT_OUTRO[0] * BAR, end=SHORT_OUTRO[1] * BAR, times=None)
    skip = Skip(id="break", start=LONG_BREAK[0] * BAR, end=LONG_BREAK[1] * BAR)
    return [
        PutEdits(entry_id=entries["Stomata"], edits=(repeat,)),
        PutEdits(entry_id=entries["Palm House, 2 a.m."], edits=(skip,)),
        ApplyShape(shape=ReadyShape.MUSIC_STAYS, **figs),
        PlaceTransition(out_at=64 * BAR, in_at=0.0, beats=24 * BAR, **voices),
        SetCurve(side=Side.INCOMING, control=Control.VOICE, curve=waits, **voices),
        # Heliconia's ‘alone from’ cue is its first line; that one waits here.
        MarkAsMeant(key=f"not_clear {voices['out_id']} {voices['in_id']}", meant=True),
        PlaceTransition(out_at=SHORT_OUTRO[0] * BAR, in_at=0.0, beats=32 * BAR, **outro),
        PutLayers(layers=tuple(_layers(entries, tracks))),
    ]


def _layers(entries: Mapping[str, str], tracks: Mapping[str, str]) -> list[Layer]:
    drop = OnEntry(entry_id=entries["Palm House, 2 a.m."], beat=72 * BAR)
    return [
        Layer(
            id="voice",
            name="Heliconia, early",
            sound=OfTrack(track_id=tracks["Heliconia"], start=28 * BAR, beats=8 * BAR, stem=Stem.VOICE),
            at=OnEntry(entry_id=entries["Night Warden"], beat=32 * BAR),
            times=2,
            apart=16 * BAR,
            gain_db=-3.0,
            key_shift=-2,
            fade_out=1.0,
            curves=SideCurves.of(reverb=Curve.of((0.0, 0.3), (1.0, 0.3))),
        ),
        Layer(
            id="drums",
            name="Figs under the break",
            sound=OfTrack(track_id=tracks["Ripe Figs"], start=16 * BAR, beats=4 * BAR, stem=Stem.DRUMS),
            at=OnEntry(entry_id=entries["Wet Glass"], beat=56 * BAR),
            times=3,
            gain_db=-3.0,
            fade_in=BAR,
        ),
        Layer(id="sweep", sound=Made(sound=MadeSound.SWEEP, beats=8 * BAR), at=drop, gain_db=-4.0),
        Layer(id="sub", sound=Made(sound=MadeSound.SUB_DROP, beats=2 * BAR), at=drop, gain_db=-3.0),
    ]
