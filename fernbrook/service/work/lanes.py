"""A mix as aligned lanes in a folder for an audio editor, with its click, tempo map, markers and a word about them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path

import numpy as np

from fernbrook.audio.files import Dressing, OutputFormat, write_audio
from fernbrook.audio.pace import at_rate, frames_at
from fernbrook.audio.sources import Block, Click, clicking
from fernbrook.core.plan import RATE, Plan, markers
from fernbrook.formats.archive import archive_at
from fernbrook.formats.marker_list import MarkerLine, marker_list
from fernbrook.formats.midi_map import write_midi_map
from fernbrook.formats.sleeve import Mark, write_cues
from fernbrook.formats.timeline import LaneFile, timeline
from fernbrook.render.blocks import BLOCK
from fernbrook.render.lanes import Lane, lane_blocks, lanes_of
from fernbrook.render.to_file import Report
from fernbrook.service.files import file_name
from fernbrook.service.work.wish import RenderWish
from fernbrook.whole import under_way

HEADROOM_DB = 6.0
"""Files that cannot hold more than full scale are so much quieter: a track alone may be louder than the limited mix."""
CLICK_DB = -9.0
CLICK = "click.wav"


def write_lanes(plan: Plan, paths: Mapping[str, Path], target: Path, wish: RenderWish, report: Report) -> float:
    """Write the lanes of a mix to an archive, and return how many seconds each lasts."""
    rate = wish.output.spec.rate_for(wish.rate)
    frames = frames_at(plan.frames, RATE, rate)
    lanes = lanes_of(plan, by_stem=wish.by_stem, curves=wish.curves)
    marks = [MarkerLine(m.at_s, m.kind.value, m.name) for m in markers(plan)]
    gain_db = lane_gain_db(wish.output)
    files = [_lane_file(lane, wish.output.suffix, frames, rate) for lane in lanes]
    with under_way(target) as folder, archive_at(target) as archive:
        is_packed = wish.output.suffix == ".wav"  # a lane is mostly silence
        for n, (lane, file) in enumerate(zip(lanes, files, strict=True)):
            path = folder / file.file
            blocks = at_rate(lane_blocks(lane, paths, plan.frames, gain_db), plan.frames, RATE, rate)
            write_audio(path, _told(blocks, frames, report, n, len(lanes) + 1), frames, rate, wish.output)
            archive.add(file.file, path, pack=is_packed)
            path.unlink()
        click = folder / CLICK
        cues = [Mark(m.at_s, m.name) for m in marks]
        dressing = Dressing(finish=lambda p: write_cues(p, cues, rate))
        write_audio(click, _click(plan, frames, rate), frames, rate, OutputFormat.WAV_16, dressing)
        archive.add(CLICK, click, pack=True)
        moments, firsts = plan.bars.ticks(0.0, plan.duration_s)
        named = [(m.at_s, m.name) for m in marks]
        tempo = write_midi_map(moments, firsts, plan.duration_s, named, plan.mix.name)
        archive.add_bytes("tempo map.mid", tempo)
        archive.add_bytes("markers.csv", marker_list(marks, rate).encode())
        with_click = [*files, LaneFile("click", CLICK, 0, frames)]
        archive.add_bytes("mix.otio", timeline(plan.mix.name, with_click, marks, frames, rate).encode())
        archive.add_bytes("readme.txt", _readme(plan, wish, files, gain_db, rate).encode())
    report(1.0)
    return plan.duration_s


def lane_gain_db(output: OutputFormat) -> float:
    """The gain at which lanes are written to a kind of file."""
    return 0.0 if output is OutputFormat.WAV_32_FLOAT else -HEADROOM_DB


def _lane_file(lane: Lane, suffix: str, frames: int, rate: int) -> LaneFile:
    """How a lane's file is called, and where it is heard."""
    name = f"{'layer ' if lane.is_layer else ''}{lane.number:02} {file_name(lane.name)}"
    if lane.stem is not None:
        name += f" ({lane.stem.value})"
    start, end = (min(max(round(s * rate), 0), frames) for s in (lane.start_s, lane.end_s))
    return LaneFile(name, f"{name}{suffix}", start, max(end, start))


def _told(blocks: Iterator[Block], frames: int, report: Report, number: int, of: int) -> Iterator[Block]:
    done = 0
    for block in blocks:
        yield block
        done += len(block)
        report((number + done / frames) / of)


def _click(plan: Plan, frames: int, rate: int) -> Iterator[Block]:
    silence = (np.zeros((min(BLOCK, frames - at), 2), np.float32) for at in range(0, frames, BLOCK))
    return clicking(silence, 0, rate, Click(plan.bars.ticks, CLICK_DB))


def _readme(plan: Plan, wish: RenderWish, files: list[LaneFile], gain_db: float, rate: int) -> str:
    level = (
        "They are as loud as in the mix."
        if gain_db == 0.0
        else f"They are {-gain_db:g} dB quieter than in the mix, so that none is clipped: turn the sum up by as much."
    )
    faded = (
        "Faded, turned and with their effects as in the mix:\r\ntogether they are the mix before its limiter"
        f" (ceiling {wish.ceiling_dbtp:g} dBTP)."
        if wish.curves
        else "Without the curves of the mix: each at its own level, ready to be mixed again."
    )
    listed = "\r\n".join(f"  {f.file}" for f in files)
    return (
        f"{plan.mix.name}\r\n\r\n"
        f"Lanes of {plan.duration_s:.3f} s at {rate} Hz. All begin at zero and are equally long: put each on a\r\n"
        f"track of its own, at the start. {faded}\r\n{level}\r\n\r\n{listed}\r\n\r\n"
        f"{CLICK}: a click on every beat, higher on the first of a bar; its cue points are where tracks come in,\r\n"
        "take over and go.\r\n"
        "tempo map.mid: tempo, bars and markers as a standard MIDI file. Its zero is that of the lanes.\r\n"
        "markers.csv: the same markers as a table.\r\n"
        "mix.otio: lanes and markers as an OpenTimelineIO file.\r\n"
    )
