"""Taking tracks apart: SI-SDR of each stem on songs whose stems are known, beside medians and an ideal mask."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import replace
from functools import cache

import librosa
import numpy as np
from numpy.typing import NDArray

from bench.rows import Row
from fernbrook.analysis.separation.masking import FRAME, HOP
from fernbrook.analysis.separation.separate import Separated, separate
from fernbrook.core.track import Grid, Section, SectionKind, VoiceSpan
from fernbrook.demo import arrange
from fernbrook.demo.songs import SONGS

RATE = 44_100
HELD_BACK = (4, 5, 8)
"""Songs that nothing was tuned on; 0, 3 and 7 were. Somebody sings in all of them here."""
SECONDS = 150
NAMES = ("drums", "bass", "voice", "music")
KINDS = {"outro": SectionKind.BEAT, "intro": SectionKind.BEAT}

Sound = NDArray[np.float32]
Known = tuple[dict[str, Sound], Grid, tuple[Section, ...], tuple[VoiceSpan, ...]]


def rows() -> Iterator[Row]:
    sets = {
        "drums alone somewhere": [song(n) for n in HELD_BACK],
        "nowhere alone": [without_clean(song(n)) for n in HELD_BACK],
        "hits that stray by 4 ms and 2 dB": [strayed(song(n)) for n in HELD_BACK],
    }
    for name, songs in sets.items():
        begun = time.perf_counter()
        found = [taken_apart(known) for known in songs]
        fast = sum(len(k[0]["drums"]) for k in songs) / RATE / (time.perf_counter() - begun)
        ours = [_ratios(parts, known[0]) for parts, known in zip(found, songs, strict=True)]
        theirs = [_ratios(_medians(known[0]), known[0]) for known in songs]
        ideal = [_ratios(_ideal(known[0]), known[0]) for known in songs]
        yield Row(
            f"stems, {name}: {' / '.join(NAMES)}",
            f"{_words(ours)} dB, {fast:.1f} x real time",
            f"librosa's medians: {_words(theirs)}; ideal mask: {_words(ideal)}",
            "14 / 11 / 8 / - dB; 5 x" if "alone somewhere" in name else "11 / - / - / - dB; 5 x",
        )
        if name == "drums alone somewhere":
            yield from _turned_down(songs, found)


def _turned_down(songs: list[Known], found: list[dict[str, Sound]]) -> Iterator[Row]:
    """What is left of each stem where one of them is dropped: by the projection of what is left on what there was."""
    for dropped, beside, target in (("voice", "music", "-10 / -2 / 0.3"), ("bass", "music", "-15 / - / 0.5")):
        left = []
        for known, parts in zip(songs, found, strict=True):
            stems = known[0]
            sounds = np.abs(stems[dropped]).max(axis=1) > 1e-4
            if not sounds.any():
                continue
            rest = np.asarray(sum(stems.values()) - parts[dropped])[sounds].ravel()
            left.append([kept_db(rest, stems[n][sounds].ravel()) for n in (dropped, beside, "drums")])
        words = " / ".join(f"{x:.1f}" for x in np.mean(left, axis=0))
        yield Row(f"{dropped} dropped: {dropped} / {beside} / drums", f"{words} dB", "songs held back", target)


def kept_db(left: Sound, true: Sound) -> float:
    return float(20 * np.log10(abs(np.dot(left, true)) / np.dot(true, true) + 1e-12))


@cache
def song(number: int) -> Known:
    """The first minutes of a made song: its stems, and all that is known of it."""
    stems, truth = arrange.play(replace(SONGS[number], sings=True))
    grid = truth.grid
    sections = tuple(
        Section(kind=KINDS.get(kind) or SectionKind(kind), start=float(grid.beat_at(a)), end=float(grid.beat_at(b)))
        for kind, a, b in truth.sections
        if a < SECONDS
    )
    voice = tuple(VoiceSpan(start=float(grid.beat_at(a)), end=float(grid.beat_at(b))) for a, b in truth.voice_spans)
    return {n: stems[n][: SECONDS * RATE] for n in NAMES}, grid, sections, voice


def without_clean(known: Known) -> Known:
    """The same with nobody knowing where drums are alone."""
    stems, grid, sections, voice = known
    return stems, grid, tuple(s for s in sections if s.kind is not SectionKind.BEAT), voice


def strayed(known: Known) -> Known:
    """The same with each half beat of the drums a little early or late, louder or softer, as a person plays."""
    stems, grid, sections, voice = known
    rng = np.random.default_rng(11)
    drums = stems["drums"]
    edges = np.rint(grid.time_at(np.arange(0.0, float(grid.beat_at(SECONDS)), 0.5) - 0.05) * RATE).astype(int)
    out = np.zeros_like(drums)
    for a, b in zip(np.clip(edges[:-1], 0, None), edges[1:], strict=True):
        to = int(np.clip(a + rng.normal(0.0, 0.004) * RATE, 0, len(drums) - 1))
        n = min(b - a, len(drums) - to, len(drums) - a)
        if n > 0:
            out[to : to + n] += drums[a : a + n] * np.float32(10 ** (rng.normal(0.0, 2.0) / 20))
    return {**stems, "drums": out}, grid, sections, voice


def taken_apart(known: Known) -> dict[str, Sound]:
    stems, grid, sections, voice = known
    sound = np.asarray(sum(stems.values()), dtype=np.float32)
    found: Separated = separate(sound, grid, sections, voice, RATE)
    parts = {"drums": found.drums, "bass": found.bass, "voice": found.voice}
    return {**parts, "music": sound - found.drums - found.bass - found.voice}


def _medians(stems: dict[str, Sound]) -> dict[str, Sound]:
    """Harmonic and percussive medians, and the bass as all that is low."""
    sound = np.asarray(sum(stems.values()), dtype=np.float32)
    parts = [librosa.effects.hpss(np.ascontiguousarray(sound[:, side])) for side in (0, 1)]
    harmonic, percussive = (np.stack([p[k] for p in parts], axis=1) for k in (0, 1))
    spectrum = np.fft.rfft(harmonic, axis=0)
    spectrum[round(190 * len(harmonic) / RATE) :] = 0
    bass = np.fft.irfft(spectrum, len(harmonic), axis=0)
    rest = harmonic - bass
    return {"drums": percussive, "bass": bass, "voice": rest, "music": rest}


def _ideal(stems: dict[str, Sound]) -> dict[str, Sound]:
    """The mixture through the masks that the true stems make: what no mask can be better than."""
    spectra = {n: librosa.stft(np.ascontiguousarray(s.T), n_fft=FRAME, hop_length=HOP) for n, s in stems.items()}
    whole, power = sum(spectra.values()), sum(np.abs(s) ** 2 for s in spectra.values()) + 1e-12
    length = len(stems["drums"])
    return {
        n: librosa.istft(whole * np.abs(s) ** 2 / power, hop_length=HOP, length=length).T for n, s in spectra.items()
    }


def _ratios(found: dict[str, Sound], truth: dict[str, Sound]) -> dict[str, float]:
    """The SI-SDR of each stem that there is."""
    ratios = {}
    for name, true in truth.items():
        if not np.any(true):
            continue
        ratios[name] = si_sdr(found[name], true)
    return ratios


def _words(of_songs: list[dict[str, float]]) -> str:
    means = {n: [r[n] for r in of_songs if n in r] for n in NAMES}
    return " / ".join(f"{np.mean(v):.1f}" if v else "-" for v in means.values())


def si_sdr(found: Sound, true: Sound) -> float:
    """How far a stem stands above what is wrong with it, in dB (J. Le Roux et al., SDR: half-baked or well done?,
    ICASSP 2019)."""
    e, r = found.ravel().astype(float), true.ravel().astype(float)
    target = np.dot(e, r) / np.dot(r, r) * r
    return float(10 * np.log10(np.dot(target, target) / np.dot(e - target, e - target)))
