"""Sounds as tracks of a mix, played by the real plan and the real renderer."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
from pathlib import Path

import numpy as np
import soundfile

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import ReadyShape, Side, TempoPolicy
from fernbrook.core.plan import Plan, plan
from fernbrook.core.track import Grid, TrackFacts
from fernbrook.render.renderer import Listen, render
from tests.tones import RATE, Sound


class Rig:
    """Tracks made of sounds, each with a steady grid from its first sample on."""

    def __init__(self, folder: Path, *tracks: tuple[Sound, float]) -> None:
        self.known: dict[str, TrackFacts] = {}
        self.paths: dict[str, Path] = {}
        for number, (sound, bpm) in enumerate(tracks):
            name = f"t{number}"
            self.paths[name] = folder / f"{name}.wav"
            soundfile.write(self.paths[name], sound, RATE, subtype="FLOAT")
            self.known[name] = TrackFacts(
                id=name, title=name, duration_s=len(sound) / RATE, grid=Grid.constant(bpm, 0.0)
            )
        self.mix = c.apply(Mix(name="rig", target_lufs=None), c.AddTracks(track_ids=tuple(self.known)), self.known)

    def do(self, command: c.AnyMixCommand) -> None:
        self.mix = c.apply(self.mix, command, self.known)

    @property
    def plan(self) -> Plan:
        return plan(self.mix, self.known)

    def heard(self, only: int, start_s: float, end_s: float) -> Sound:
        """One track alone, from a moment of the mix to another."""
        listen = Listen(frozenset({self.mix.entries[only].id}))
        return np.concatenate(list(render(self.plan, self.paths, round(start_s * RATE), round(end_s * RATE), listen)))


def at_speed(sound: Sound, speed: float, semitones: int = 0) -> Sound:
    """A whole sound with key lock, its track riding at ``speed`` times its own tempo, its key shifted."""
    with tempfile.TemporaryDirectory() as folder:
        rig = Rig(Path(folder), (sound, 120.0))
        rig.do(c.SetHomeTempo(entry_id=rig.mix.entries[0].id, bpm=120.0 * speed))
        rig.do(c.SetKeyShift(entry_id=rig.mix.entries[0].id, semitones=semitones))
        return rig.heard(0, 0.0, len(sound) / RATE / speed)


def block_ends(sound: Sound, speed: float) -> np.ndarray:
    """The moments of its render at which its stretch begins a block."""
    length_s = len(sound) / RATE
    facts = TrackFacts(id="t", title="t", duration_s=length_s, grid=Grid.constant(120.0, 0.0))
    mix = c.apply(Mix(name="rig"), c.AddTracks(track_ids=("t",)), {"t": facts})
    mix = c.apply(mix, c.SetHomeTempo(entry_id=mix.entries[0].id, bpm=120.0 * speed), {"t": facts})
    return plan(mix, {"t": facts}).entries[0].time_map.block_lines_s(0.0, length_s / speed)


def blended(out: tuple[Sound, float], into: tuple[Sound, float], beats: float, folder: Path, at: float) -> Rig:
    """One track into another over a ramp, both at full level throughout; ``at`` is the outgoing's beat."""
    rig = Rig(folder, out, into)
    pair = {"out_id": rig.mix.entries[0].id, "in_id": rig.mix.entries[1].id}
    rig.do(c.ApplyShape(shape=ReadyShape.EVEN_BLEND, **pair))
    rig.do(c.PlaceTransition(out_at=at, in_at=0.0, beats=beats, **pair))
    rig.do(c.SetTempoPolicy(tempo=TempoPolicy.RAMP, **pair))
    for side in Side:
        rig.do(c.SetCurve(side=side, control=Control.VOLUME, curve=Curve.of((0.0, 1.0), (1.0, 1.0)), **pair))
    return rig


def rubberband(sound: Sound, speed: float, semitones: int = 0) -> Sound | None:
    """The yardstick: the finer engine of the command-line tool, None where it is not installed."""
    if shutil.which("rubberband") is None:
        return None
    with tempfile.TemporaryDirectory() as folder:
        piece, out = Path(folder) / "in.wav", Path(folder) / "out.wav"
        soundfile.write(piece, sound, RATE, subtype="FLOAT")
        command = ["rubberband", "-q", "--fine", "--time", f"{1 / speed}"]
        command += ["--pitch", str(semitones), str(piece), str(out)]
        subprocess.run(command, check=True, capture_output=True)
        return np.asarray(soundfile.read(out, dtype="float32", always_2d=True)[0])
