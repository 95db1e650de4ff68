"""A mix as one file a track, split where each takes over: played one after the other, they are the mix."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from itertools import accumulate
from pathlib import Path

from fernbrook.audio.files import Dressing, write_audio
from fernbrook.audio.sources import Reel
from fernbrook.core.plan import RATE, Plan, TimesAt, listed
from fernbrook.formats.archive import archive_at
from fernbrook.formats.sleeve import Sleeve, write_sleeve
from fernbrook.formats.track_list import Line, ListFormat, TrackList, written
from fernbrook.render.to_file import Report, settled_sound
from fernbrook.service.files import file_name
from fernbrook.service.work.wish import RenderWish
from fernbrook.whole import under_way


def write_tracks(
    plan: Plan, paths: Mapping[str, Path], target: Path, wish: RenderWish, sleeve: Sleeve | None, report: Report
) -> float:
    """Write the tracks of a mix, or of a part of it, to an archive, and return how many seconds they last together."""
    how = wish.rendering(plan)
    frames, rate = how.frames(plan), wish.output.spec.rate_for(how.rate)
    rows = listed(plan, TimesAt.HAND_OVER, wish.start_s or 0.0, wish.end_s)
    total = round(frames * rate / RATE)
    # One that is gone before it could take over has no time of its own.
    cuts = [*accumulate((0, *(min(round(x.start_s * rate), total) for x in rows[1:])), max), total]
    lines: list[Line] = []
    with (
        settled_sound(plan, paths, rate, report, how, target) as blocks,
        under_way(target) as folder,
        archive_at(target) as archive,
    ):
        reel = Reel(blocks)
        for n, row in enumerate(rows):
            track, length = row.entry.track, cuts[n + 1] - cuts[n]
            if length <= 0:
                continue
            line = Line(row.number, 0.0, track.title, track.artist, length / rate)
            name = f"{row.number:02} {file_name(line.name)}{wish.output.suffix}"
            path = folder / name
            dressing = _dressing(sleeve, line, len(rows), wish, plan)
            write_audio(path, reel.take(length), length, rate, wish.output, dressing)
            archive.add(name, path)
            path.unlink()
            lines.append(replace(line, path=name))
        list_ = TrackList(plan.mix.name, frames / RATE, tuple(lines))
        archive.add_bytes(f"{file_name(plan.mix.name)}.m3u8", written(list_, ListFormat.M3U8).encode())
    return frames / RATE


def _dressing(sleeve: Sleeve | None, line: Line, of: int, wish: RenderWish, plan: Plan) -> Dressing:
    """What stands on one track: itself, and the mix as its album."""
    if sleeve is None:
        return Dressing()
    own = replace(
        sleeve,
        title=line.title,
        artist=line.artist,
        album=plan.mix.name,
        number=(line.number, of),
        comment="",
        chapters=(),
    )
    return Dressing(finish=lambda path: write_sleeve(path, wish.output.suffix, own, line.duration_s))
