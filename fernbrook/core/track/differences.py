"""What a newer analysis found otherwise than the one before, in a sentence."""

from __future__ import annotations

from fernbrook.core.track.grid import Grid
from fernbrook.core.track.markup import Markup, recounted
from fernbrook.core.track.section import Section, VoiceSpan

SAME_BPM, SAME_S = 0.005, 0.010
SAME_BORDER = 0.5
"""Borders that lie nearer, in beats, are the same."""
NOTED_VOICE_S = 4.0
"""Voices that differ by less altogether are not worth a word."""


def differences(before: Markup, now: Markup, key_before: str | None, key_now: str | None) -> str | None:
    """What is otherwise, as one sentence, or None where nothing is that one would look at."""
    parts = [*_of_the_grid(before.grid, now.grid), *_of_the_key(key_before, key_now), *_of_the_spans(before, now)]
    if not parts:
        return None
    return f"The new analysis differs: {', '.join(parts)}. What is placed in mixes keeps its place in the sound."


def _of_the_grid(before: Grid | None, now: Grid | None) -> list[str]:
    if before is None or now is None:
        return [] if before is now else ["a grid where there was none" if before is None else "no grid any more"]
    was, is_now = before.bpm_after, now.bpm_after
    if abs(was - is_now) > SAME_BPM:
        return [f"{was:.2f} BPM is {is_now:.2f} now"]
    if before.beats_per_bar != now.beats_per_bar:
        return [f"bars of {before.beats_per_bar} are bars of {now.beats_per_bar} now"]
    at_s = float(before.time_at(0.0))
    off = float(now.beat_at(at_s))
    turned = round(float(now.bar_lines.within(round(off))))
    if turned:
        later = (now.beats_per_bar - turned) % now.beats_per_bar
        return [f"bars begin {later} {'beat' if later == 1 else 'beats'} later"]
    moved_s = float(now.time_at(round(off))) - at_s
    return [f"beats lie {moved_s * 1000.0:+.0f} ms from before"] if abs(moved_s) > SAME_S else []


def _of_the_key(before: str | None, now: str | None) -> list[str]:
    return [f"{before} is {now} now"] if before and now and before != now else []


def _of_the_spans(before: Markup, now: Markup) -> list[str]:
    if before.grid is None or now.grid is None:
        return []
    was = recounted(before, now.grid)
    parts = []
    new = sum(not any(_is_same(s, old) for old in was.sections) for s in now.sections)
    if was.sections and new:
        parts.append(f"{new} of {len(now.sections)} sections")
    sung, sung_now = (_voice_s(m.voice, now.grid) for m in (was, now))
    if abs(sung - sung_now) > NOTED_VOICE_S:
        parts.append(f"{sung:.0f} s of voice are {sung_now:.0f} now")
    return parts


def _is_same(a: Section, b: Section) -> bool:
    return a.kind is b.kind and abs(a.start - b.start) < SAME_BORDER and abs(a.end - b.end) < SAME_BORDER


def _voice_s(spans: tuple[VoiceSpan, ...], grid: Grid) -> float:
    return sum(float(grid.time_at(v.end)) - float(grid.time_at(v.start)) for v in spans)
