"""Voices over the club tracks of ``bench/arrangements.py``: speech, singing, shouts, and leads that sound like one.

Speech comes from free speech synthesisers (flite, eSpeak NG). Singing is the same speech through linear prediction,
with the melody, the vibrato and the glides of a singer for its source. Every track knows its voice and its music
apart. Those with an even number may be tuned on; the others are held back and only reported.
"""

from __future__ import annotations

import shutil
import subprocess
import tempfile
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, lfilter, oaconvolve, resample_poly, sosfilt

from bench.arrangements import ARRANGEMENTS, Arrangement, made
from bench.pieces import LEAD_IN_S, RATE

LINES = (
    "good evening and welcome to the palm house",
    "we stay up until the moon goes down tonight",
    "walk slowly through the ferns and do not wake the orchids",
    "water runs under the glass and over the stones",
    "this is the sound of leaves in the dark",
    "hold on hold on hold on to the light",
    "nobody closes the doors before the morning",
    "can you feel the rain upon the roof",
)
SPEAKERS = ("flite slt", "flite awb", "flite rms", "espeak en-us+f3", "espeak en-gb+m3", "espeak en-us+m7")
SILENT_S = 1.0
"""A pause that is shorter does not end a span of voice."""

Sound = NDArray[np.float32]


@dataclass(frozen=True)
class Sung:
    """A track with what is over it: ``speech``, ``song``, ``shouts``, ``lead`` (no voice) or ``nothing``."""

    number: int
    track: Arrangement
    what: str
    level_db: float
    """Of the voice against the music under it."""

    @property
    def name(self) -> str:
        return f"{self.number:02d} {self.what} over {self.track.style} {self.level_db:g} dB"

    def parts(self) -> tuple[Sound, Sound]:
        """The music and what is over it; both of shape (n, 2)."""
        import soundfile

        music = soundfile.read(self.track.path, dtype="float32", always_2d=True)[0]
        over = np.zeros(len(music), np.float32)
        rng = np.random.default_rng(900 + self.number)
        beat_s = 60.0 / self.track.bpm
        phrase = 16 * beat_s
        for start in np.arange(LEAD_IN_S + 2 * phrase, len(music) / RATE - phrase, phrase):
            if self.what == "nothing" or rng.random() < 0.45:
                continue
            heard = _phrase(self.what, rng, beat_s, int(rng.integers(len(LINES))), self.number)
            at = round((start + float(rng.uniform(0, 1)) * beat_s) * RATE)
            heard = heard[: len(over) - at]
            under = float(np.sqrt(np.mean(music[at : at + len(heard)] ** 2))) + 1e-4
            loud = float(np.sqrt(np.mean(heard[np.abs(heard) > 0.02 * np.abs(heard).max()] ** 2)))
            over[at : at + len(heard)] += heard * np.float32(under / loud * 10 ** (self.level_db / 20))
        return music * np.float32(0.7), np.repeat(_in_a_room(over, self.number)[:, None], 2, axis=1) * np.float32(0.7)

    def has_voice(self) -> bool:
        return self.what in ("speech", "song", "shouts")


def spans(voice: Sound) -> list[tuple[float, float]]:
    """Where a voice alone sounds, in seconds."""
    hop = RATE // 50
    level = np.sqrt(np.mean(voice[: len(voice) // hop * hop, 0].reshape(-1, hop) ** 2, axis=1))
    if not level.any():
        return []
    edges = np.flatnonzero(np.diff(np.concatenate(([False], level > 0.02 * level.max(), [False])).astype(int)))
    found: list[tuple[float, float]] = []
    for begin, end in edges.reshape(-1, 2) / 50.0:
        if found and begin - found[-1][1] < SILENT_S:
            found[-1] = (found[-1][0], float(end))
        else:
            found.append((float(begin), float(end)))
    return found


def sung() -> tuple[Sung, ...]:
    """All of them; none where a synthesiser is missing."""
    if not (shutil.which("flite") and shutil.which("espeak-ng")):
        return ()
    return tuple(Sung(a.number, a, *_WHAT[a.number // 2 % len(_WHAT)]) for a in made(ARRANGEMENTS))


_WHAT = (
    ("speech", -3.0),
    ("song", 0.0),
    ("nothing", 0.0),
    ("speech", -9.0),
    ("lead", 0.0),
    ("song", -6.0),
    ("shouts", -3.0),
    ("nothing", 0.0),
    ("lead", -6.0),
)


def _phrase(what: str, rng: np.random.Generator, beat_s: float, line: int, number: int) -> Sound:
    if what == "lead":
        return _lead(rng, beat_s)
    spoken = _spoken(LINES[line], SPEAKERS[number % len(SPEAKERS)])
    if what == "song":
        return _sung(spoken, rng, beat_s)
    if what == "shouts":
        word = spoken[: round(0.6 * RATE)] * np.hanning(round(1.2 * RATE))[round(0.6 * RATE) :].astype(np.float32)
        out = np.zeros(round(15 * beat_s * RATE), np.float32)
        for beat in (0, 3, 8, 11):
            at = round(beat * beat_s * RATE)
            out[at : at + len(word)] += word[: len(out) - at]
        return out
    return spoken


@lru_cache(maxsize=64)
def _spoken(line: str, speaker: str) -> Sound:
    import soundfile

    program, name = speaker.split()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "said.wav"
        order = ["flite", "-voice", name, "-t", line, "-o"] if program == "flite" else ["espeak-ng", "-v", name, "-w"]
        subprocess.run([*order, path, *([] if program == "flite" else [line])], check=True, capture_output=True)
        sound, rate = soundfile.read(path, dtype="float32")
    return np.asarray(resample_poly(sound, RATE, rate), dtype=np.float32)


def _sung(spoken: Sound, rng: np.random.Generator, beat_s: float) -> Sound:
    """Speech with a melody instead of its own pitch, about twice as slow."""
    import librosa

    rate, frame, hop, order = 14_700, 588, 147, 18
    slow = librosa.resample(spoken, orig_sr=RATE, target_sr=rate)
    length = round(14 * beat_s * rate)
    window = np.hanning(frame)
    count = length // hop
    low = float(rng.choice([110.0, 147.0, 220.0]))
    notes = low * 2.0 ** (rng.choice([0, 2, 3, 5, 7, 8, 10, 12], 14) / 12.0)
    seconds = np.arange(length) / rate
    pitch = np.repeat(np.log2(notes), round(beat_s * rate) + 1)[:length]
    pitch = lfilter([1.0], [1.0, -np.exp(-1.0 / (0.04 * rate))], pitch) * (1 - np.exp(-1.0 / (0.04 * rate)))
    pitch[: rate // 5] = np.log2(notes[0])
    into_note = seconds % beat_s
    pitch = pitch + 45 / 1200 * np.sin(2 * np.pi * 5.6 * seconds) * np.clip((into_note - 0.15) / 0.2, 0, 1)
    phase = np.cumsum(2.0**pitch) / rate
    pulses = np.diff(np.floor(phase), prepend=0.0)
    noise = rng.normal(0.0, 0.05, length)
    out = np.zeros(length + frame)
    for i in range(count):
        at = min(int(i * hop * len(slow) / length), len(slow) - frame - 1)
        piece = slow[at : at + frame] * window
        power = float(np.sqrt(np.mean(piece**2)))
        if power < 1e-3:
            continue
        try:
            filter_ = librosa.lpc(piece + 1e-6 * rng.normal(size=frame), order=order)
        except FloatingPointError:
            continue
        is_voiced = np.mean(np.diff(np.signbit(piece))) < 0.25
        source = pulses[i * hop : i * hop + frame] if is_voiced else noise[i * hop : i * hop + frame]
        made_up = lfilter([1.0], filter_, np.pad(source, (0, frame - len(source)))) * window
        now = float(np.sqrt(np.mean(made_up**2)))
        if now > 1e-9:
            out[i * hop : i * hop + frame] += made_up * power / now
    return np.asarray(librosa.resample(out[:length], orig_sr=rate, target_sr=RATE), dtype=np.float32)


def _lead(rng: np.random.Generator, beat_s: float) -> Sound:
    """A synthesiser with vibrato and glides, through a filter that opens: no voice."""
    length = round(14 * beat_s * RATE)
    seconds = np.arange(length) / RATE
    notes = np.log2(float(rng.choice([220.0, 330.0, 440.0])) * 2.0 ** (rng.choice([0, 3, 5, 7, 10, 12], 28) / 12.0))
    pitch = np.repeat(notes, round(beat_s / 2 * RATE) + 1)[:length]
    fall = np.exp(-1.0 / (0.03 * RATE))
    pitch = lfilter([1.0 - fall], [1.0, -fall], pitch - notes[0]) + notes[0]
    pitch = pitch + 30 / 1200 * np.sin(2 * np.pi * 5.0 * seconds)
    saw = 2.0 * ((np.cumsum(2.0**pitch) / RATE) % 1.0) - 1.0
    return np.asarray(sosfilt(butter(2, 4000.0, fs=RATE, output="sos"), saw), dtype=np.float32)


def _in_a_room(sound: Sound, number: int) -> Sound:
    """With a short echo and a tail of noise that dies away, as voices on records have."""
    rng = np.random.default_rng(number)
    tail = rng.normal(0.0, 1.0, RATE // 2) * np.exp(-np.arange(RATE // 2) / (0.09 * RATE)) * 0.02
    tail[0] = 1.0
    return np.asarray(oaconvolve(sound, tail)[: len(sound)], dtype=np.float32)
