"""How exact: beats in a render, previews, untouched tracks, grids."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import soundfile

from bench.material import mix_of, paths, tracks
from bench.rows import Row
from fernbrook.analysis.analyse import analyse
from fernbrook.core.mix.transitions import ReadyShape
from fernbrook.core.plan import RATE
from fernbrook.render.renderer import Listen, render
from tests.listen import mono, offset_ms

OUT, INTO = 5, 7


def rows() -> Iterator[Row]:
    """Heliconia (120 BPM) into Stomata (125 BPM): an even blend with a ramp."""
    plan = mix_of(OUT, INTO, shape=ReadyShape.EVEN_BLEND)
    t, entry = plan.transitions[0], plan.entries[0]
    begin, end = round(t.start_s * RATE) - RATE, round(t.end_s * RATE) + RATE
    source = mono(soundfile.read(tracks()[OUT - 1].path, always_2d=True)[0])
    alone = mono(np.concatenate(list(render(plan, paths(), begin, end, Listen(frozenset({entry.entry.id}))))))
    beats = np.arange(np.ceil(t.start_beat) + 2, np.floor(t.end_beat) - 16)
    wanted = plan.tempo.time_at(beats)
    own = entry.played.time_at(beats - entry.offset)
    errors = [offset_ms(source, float(s), alone, float(m) - begin / RATE) for s, m in zip(own, wanted, strict=True)]
    theirs = _rubberband(source, own, wanted)
    yardstick = "rubberband (finer engine, with a time map): not installed"
    if theirs is not None:
        yardstick = f"rubberband (finer engine, with a time map): {_mean_max(theirs)}"
    yield Row("beat position in a ramp, 120 to 125 BPM", _mean_max(errors), yardstick, "mean ≤ 1 ms, max ≤ 3 ms")

    whole = np.concatenate(list(render(plan, paths())))
    middle = (begin + end) // 2
    preview = np.concatenate(list(render(plan, paths(), middle, middle + 20 * RATE)))
    differing = int(np.any(preview != whole[middle : middle + 20 * RATE], axis=1).sum())
    yield Row(
        "preview against file, from mid-overlap", f"{differing} of {len(preview)} samples differ", "the file", "0"
    )

    untouched = soundfile.read(tracks()[OUT - 1].path, dtype="float32", always_2d=True)[0][: begin - RATE]
    same = np.array_equal(whole[: len(untouched)], untouched)
    yield Row("an untouched track", "bit-exact" if same else "differs", "the source", "bit-exact")
    yield from _grids()


def _mean_max(errors: list[float]) -> str:
    size = np.abs(errors)
    return f"mean {size.mean():.2f}, max {size.max():.2f} ms"


def _rubberband(source: np.ndarray, own: np.ndarray, wanted: np.ndarray) -> list[float] | None:
    """The same span by the command-line tool, its time map given at each beat."""
    if shutil.which("rubberband") is None:
        return None
    first, last = round((own[0] - 1) * RATE), round((own[-1] + 1) * RATE)
    shift = wanted[0] - own[0]
    with tempfile.TemporaryDirectory() as folder:
        piece, out, times = (str(Path(folder) / n) for n in ("in.wav", "out.wav", "map.txt"))
        soundfile.write(piece, source[first:last], RATE)
        pairs = [(round(o * RATE) - first, round((w - shift) * RATE) - first) for o, w in zip(own, wanted, strict=True)]
        Path(times).write_text("".join(f"{a} {b}\n" for a, b in pairs))
        length = (pairs[-1][1] + RATE) / RATE
        command = ["rubberband", "-q", "--fine", "--timemap", times, "--duration", f"{length}", piece, out]
        subprocess.run(command, check=True, capture_output=True)
        heard = soundfile.read(out)[0]
    return [
        offset_ms(source, float(o), heard, float(w - shift) - first / RATE)
        for o, w in zip(own[1:-1], wanted[1:-1], strict=True)
    ]


def _grids() -> Iterator[Row]:
    """The grids of the steady demo tracks against the truth."""
    steady = [t for t in tracks() if t.steady]
    right, tempo, phase = 0, [], []
    for track in steady:
        grid = analyse(track.path).grid
        if grid is None:
            continue
        tempo.append(abs(grid.bpm_after - track.grid.bpm_after))
        beat = float(track.grid.beat_at(grid.time_at(0.0)))
        phase.append(abs(beat) * 60_000 / track.grid.bpm_after)
        right += tempo[-1] <= 0.02 and phase[-1] <= 5
    figure = f"{right} of {len(steady)} right; worst {max(tempo):.3f} BPM, {max(phase):.1f} ms from the first downbeat"
    yield Row("grids of the steady demo tracks", figure, "the truth of the generator", "≥ 95 %: 0.02 BPM, 5 ms")
