"""The transition bench: how fast its effects are, how soon one hears them, and where it would mix."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from functools import partial
from itertools import permutations
from pathlib import Path

import numpy as np
from scipy.signal import butter, oaconvolve, sosfilt

from bench.material import facts, mix_of, paths, tracks
from bench.rows import Row, median_seconds
from fernbrook.audio.effects import Response, room, swept
from fernbrook.audio.sources import write_stem
from fernbrook.audio.stretch import KeptBlocks
from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve, Processor, controls_of
from fernbrook.core.mix.layers import Edge, Layer, Made, MadeSound, OfTrack, OnTransition
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.placing import placed, proposals_for, spans_of
from fernbrook.core.mix.transitions import ReadyShape, Side
from fernbrook.core.plan import RATE, Mode, Plan, plan, stem_key
from fernbrook.core.track import KEPT, Stem, StemsFact, TrackFacts
from fernbrook.demo import arrange
from fernbrook.render.blocks import BLOCK
from fernbrook.render.renderer import render

SECONDS = 20
STEMS = StemsFact(coherent=1.0, is_clean=True, has_voice=True)


def rows() -> Iterator[Row]:
    yield _filter()
    yield _reverb()
    yield from _overlaps()
    yield _with_stems_and_layers()
    yield _whole_mix()
    yield from _first_sounds()
    yield _proposals()


def _noise() -> np.ndarray:
    return np.random.default_rng(4).standard_normal((SECONDS * RATE, 2))


def _filter() -> Row:
    noise = _noise()
    cutoff = np.geomspace(20_000.0, 80.0, len(noise))
    share = np.ones(len(noise))
    swept(noise[:BLOCK], cutoff[:BLOCK], share[:BLOCK], 0.3, False, RATE)
    ours = SECONDS / median_seconds(lambda: swept(noise, cutoff, share, 0.3, False, RATE))
    fixed = butter(4, 800.0, fs=RATE, output="sos")
    theirs = SECONDS / median_seconds(lambda: sosfilt(fixed, noise, axis=0))
    figure = f"{ours:.0f} x real time"
    return Row(
        "filter swept at every sample", figure, f"scipy's, not swept: {theirs:.0f} x; ratio {ours / theirs:.2f}", "-"
    )


def _reverb() -> Row:
    noise = _noise()
    impulse = room(4.0, 0.5, RATE)
    response = Response(impulse, BLOCK)
    blocks = [noise[i : i + BLOCK] for i in range(0, len(noise) - BLOCK, BLOCK)]

    def ours() -> None:
        spectra: list[np.ndarray | None] = []
        for before, block in zip([np.zeros((BLOCK, 2)), *blocks], blocks, strict=False):
            spectra.append(response.spectrum(before, block))
            response.convolved(spectra[::-1][: response.blocks])

    fast = SECONDS / median_seconds(ours)
    theirs = SECONDS / median_seconds(lambda: oaconvolve(noise, impulse, axes=0))
    return Row(
        "reverb of 4 s", f"{fast:.0f} x real time", f"scipy's, whole: {theirs:.0f} x; ratio {fast / theirs:.2f}", "-"
    )


def with_everything(known: dict[str, TrackFacts] | None = None, *more: c.AnyMixCommand) -> Plan:
    """The overlap of the demo's fifth and seventh track with all controls in use, and what else is done to it."""
    known = known or {f.id: f for f in (facts(tracks()[4]), facts(tracks()[6]))}
    mix = c.apply(Mix(name="bench"), c.AddTracks(track_ids=tuple(known)), known)
    pair = {"out_id": mix.entries[0].id, "in_id": mix.entries[1].id}
    mix = c.apply(mix, c.ApplyShape(shape=ReadyShape.FILTER_SWEEP, **pair), known)
    sends = Curve.of((0.0, 0.0), (0.2, 0.7), (1.0, 0.7))
    back = Curve.of((0.0, 0.7), (0.8, 0.7), (1.0, 0.0))
    lanes = [
        c.LaneCurve(side=side, control=control, curve=curve)
        for side, curve in ((Side.OUTGOING, sends), (Side.INCOMING, back))
        for control in (Control.ECHO, Control.REVERB, Control.WIDTH)
    ]
    for command in (c.SetCurves(curves=tuple(lanes), **pair), *more):
        mix = c.apply(mix, command, known)
    return plan(mix, known)


def _overlaps() -> Iterator[Row]:
    for name, resolved in (("bass hand-over", mix_of(5, 7)), ("all controls in use", with_everything())):
        t = resolved.transitions[0]
        start, end = round(t.start_s * RATE), round(t.end_s * RATE)
        kept = KeptBlocks(1 << 30)
        seconds = (end - start) / RATE
        first = seconds / median_seconds(partial(_heard, resolved, start, end, None), 3)
        again = seconds / median_seconds(partial(_heard, resolved, start, end, kept), 3)
        yield Row(
            f"overlap on two cores, {name}",
            f"{first:.0f} x real time",
            f"again, with blocks kept: {again:.0f} x",
            ">= 40 x",
        )


def _with_stems_and_layers() -> Row:
    """All lanes in use, those of all stems too, and two layers over it: a voice through the stretch, and a sweep."""
    two = (tracks()[4], tracks()[6])
    known = {t.song.file: facts(t).model_copy(update={"stems": STEMS}) for t in two}
    ids = {"out_id": "e1", "in_id": "e2"}
    falls, rises = Curve.of((0.0, 1.0), (1.0, 0.2)), Curve.of((0.0, 0.2), (1.0, 1.0))
    stems = tuple(
        c.LaneCurve(side=side, control=control, curve=curve)
        for side, curve in ((Side.OUTGOING, falls), (Side.INCOMING, rises))
        for control in controls_of(Processor.STEM)
    )
    at = OnTransition(edge=Edge.START, **ids)
    voice = OfTrack(track_id=two[0].song.file, start=96.0, beats=64.0, stem=Stem.VOICE)
    layers = (Layer(id="v", sound=voice, at=at), Layer(id="s", sound=Made(sound=MadeSound.SWEEP, beats=64.0), at=at))
    with tempfile.TemporaryDirectory() as folder:
        files = paths()
        for track in two:
            parts, _ = arrange.play(track.song)
            for stem in KEPT:
                path = Path(folder) / f"{track.song.file}.{stem.value}.flac"
                write_stem(path, parts[stem.value], RATE)
                files[stem_key(track.song.file, stem)] = path
        resolved = with_everything(known, c.SetCurves(curves=stems, **ids), c.PutLayers(layers=layers))
        t = resolved.transitions[0]
        start, end = round(t.start_s * RATE), round(t.end_s * RATE)
        seconds = median_seconds(lambda: sum(len(b) for b in render(resolved, files, start, end)), 3)
    plain = with_everything()
    theirs = median_seconds(partial(_heard, plain, start, end, None), 3)
    return Row(
        "overlap on two cores, all lanes, all stems, two layers",
        f"{(end - start) / RATE / seconds:.0f} x real time",
        f"without stems and layers: {(end - start) / RATE / theirs:.0f} x; ratio {theirs / seconds:.2f}",
        ">= 15 x",
    )


def _heard(resolved: Plan, start: int, end: int, kept: KeptBlocks | None) -> int:
    return sum(len(block) for block in render(resolved, paths(), start, end, kept=kept))


def _whole_mix() -> Row:
    resolved = mix_of(*range(1, len(tracks()) + 1))
    begun = time.perf_counter()
    frames = _heard(resolved, 0, resolved.frames, None)
    fast = frames / RATE / (time.perf_counter() - begun)
    stretched = sum(s.end_s - s.start_s for e in resolved.entries for s in e.segments if s.mode is Mode.STRETCH)
    return Row(
        "a whole mix of ten", f"{fast:.0f} x real time", f"{stretched / resolved.duration_s:.0%} stretched", ">= 80 x"
    )


def _first_sounds() -> Iterator[Row]:
    resolved = with_everything()
    t = resolved.transitions[0]
    starts = np.linspace(t.start_s, t.end_s + 3.0, 16)
    kept = KeptBlocks(1 << 30)
    list(render(resolved, paths(), round((t.start_s - 2) * RATE), round((t.end_s + 4) * RATE), kept=kept))
    for name, keeps in (("first sound with all controls, never heard before", None), ("the same, heard once", kept)):
        taken = []
        for at in starts:
            begun = time.perf_counter()
            next(render(resolved, paths(), round(float(at) * RATE), kept=keeps))
            taken.append(1000 * (time.perf_counter() - begun))
        figure = f"median {np.median(taken):.0f}, worst {max(taken):.0f} ms"
        yield Row(name, figure, "-", "300 ms")


def _proposals() -> Row:
    all_facts = [facts(t) for t in tracks()]
    taken = []
    for out, into in list(permutations(all_facts, 2))[:40]:
        known: dict[str, TrackFacts] = {out.id: out, into.id: into}
        mix = c.apply(Mix(name="bench"), c.AddTracks(track_ids=(out.id, into.id)), known)
        spans = spans_of(mix, known)
        taken.append(1000 * median_seconds(partial(proposals_for, placed(mix, spans)[0].room, *spans), 3))
    return Row("proposals for a pair", f"median {np.median(taken):.0f}, worst {max(taken):.0f} ms", "-", "300 ms")
