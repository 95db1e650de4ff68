"""Tempo maps as standard MIDI files (MIDI 1.0, RP-001): written from the beats of a mix, and read for a track.

A file counts in quarters whose tempo stays the same from one event to the next. A tempo that changes all the time is
written beat by beat, each lasting what it lasts, so that no beat is farther off than a rounding.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

import mido
import numpy as np
from mido.midifiles.meta import KeySignatureError, MetaSpec_key_signature, add_meta_spec
from numpy.typing import NDArray

from fernbrook.errors import RefusedError

TICKS = 960
"""A quarter."""
LONGEST_US = (1 << 24) - 1
DEFAULT_US = 500_000
MOST_BEATS = 200_000

Named = tuple[float, str]
"""A moment, in seconds, and what it is called."""


@dataclass(frozen=True)
class MidiMap:
    """What a file says: moments of its beats in seconds, how many of them a bar has from which beat on, and markers."""

    beats_s: NDArray[np.float64]
    bars: tuple[tuple[int, int], ...]
    markers: tuple[Named, ...]


def write_midi_map(
    moments: NDArray[np.float64], firsts: NDArray[np.bool_], end_s: float, markers: Sequence[Named], name: str
) -> bytes:
    """A file whose beats fall on ``moments``, of which ``firsts`` begin a bar, up to ``end_s``.

    Second 0 of the file is that of the mix. What comes before the first beat is a quarter of its own, however short,
    in a bar of its own.
    """
    edges, lines = _edges(moments, firsts, end_s)
    track = mido.MidiTrack([mido.MetaMessage("track_name", name=name)])
    file = mido.MidiFile(type=1, ticks_per_beat=TICKS, charset="utf-8")
    file.tracks.append(track)
    events: list[tuple[int, mido.MetaMessage]] = []
    written_s, last_us, last_bar = edges[0], 0, 0
    lengths = np.diff(edges)
    for n in range(len(lengths)):
        # Each beat makes up for what the ones before were rounded by.
        tempo_us = min(max(round((edges[n + 1] - written_s) * 1e6), 1), LONGEST_US)
        written_s += tempo_us / 1e6
        if tempo_us != last_us:
            events.append((n * TICKS, mido.MetaMessage("set_tempo", tempo=tempo_us)))
            last_us = tempo_us
        if lines[n]:
            bar = int(np.argmax(lines[n + 1 :])) + 1 if lines[n + 1 :].any() else last_bar or len(lengths) - n
            if bar != last_bar:
                events.append((n * TICKS, mido.MetaMessage("time_signature", numerator=min(bar, 255), denominator=4)))
                last_bar = bar
    ticks = np.arange(len(edges)) * TICKS
    events += [(round(float(np.interp(s, edges, ticks))), mido.MetaMessage("marker", text=text)) for s, text in markers]
    events.sort(key=lambda e: e[0])
    at = 0
    for tick, message in events:
        track.append(message.copy(time=tick - at))
        at = tick
    track.append(mido.MetaMessage("end_of_track", time=max(int(ticks[-1]) - at, 0)))
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


LONGEST_QUARTER_S = 16.0
"""A tempo has 24 bits of microseconds, which are 16.7 s."""
DAMAGED = "That is no whole standard MIDI file: it is damaged, or cut off."


def _edges(
    moments: NDArray[np.float64], firsts: NDArray[np.bool_], end_s: float
) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """Where quarters begin and the last one ends, from second 0 on, and which of them begin a bar."""
    near = 1e-6
    edges, lines = moments[moments < end_s - near], firsts[moments < end_s - near]
    if not len(edges) or edges[0] > near:
        edges, lines = np.concatenate(([0.0], edges)), np.concatenate(([True], lines))
        if len(lines) > 1 and not lines[1:].any():
            lines[1] = True
    lines[0] = True
    return _divided(np.append(edges, end_s), np.append(lines, False))


def _divided(edges: NDArray[np.float64], lines: NDArray[np.bool_]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """The same with what is longer than a quarter can be in several: before a late first beat, or after the last."""
    parts = np.maximum(np.ceil(np.diff(edges) / LONGEST_QUARTER_S), 1).astype(int)
    starts = np.repeat(edges[:-1], parts)
    within = np.arange(len(starts)) - np.repeat(np.cumsum(parts) - parts, parts)
    moments = starts + within * np.repeat(np.diff(edges) / parts, parts)
    return np.append(moments, edges[-1]), np.append(np.repeat(lines[:-1], parts) & (within == 0), False)


class _AnyKeySignature(MetaSpec_key_signature):  # type: ignore[misc]
    """A key signature that may say what there is not: nothing here depends on it."""

    def decode(self, message: mido.MetaMessage, data: list[int]) -> None:
        """Read what it says, or no key."""
        try:
            super().decode(message, data)
        except (KeySignatureError, IndexError, ValueError):
            message.key = "C"


add_meta_spec(_AnyKeySignature)


def _parsed(content: bytes) -> mido.MidiFile:
    """A MIDI file whose texts are UTF-8, or Latin-1 as the standard once had them."""
    for charset in ("utf-8", "latin-1"):
        try:
            return mido.MidiFile(file=io.BytesIO(content), charset=charset)
        except UnicodeDecodeError:
            continue
        except (OSError, EOFError, ValueError, KeyError, IndexError, LookupError, TypeError, OverflowError) as error:
            raise RefusedError(DAMAGED) from error
    raise RefusedError(DAMAGED)


def read_midi_map(content: bytes) -> MidiMap:
    """What a standard MIDI file says of tempo, bars and markers.

    Raises
    ------
    RefusedError
        When it is no such file, counts by time code, or goes on for ever.
    """
    file = _parsed(content)
    if file.ticks_per_beat <= 0 or file.ticks_per_beat >= 1 << 15:
        raise RefusedError("That MIDI file counts by time code and not by beats: it has no tempo map.")
    events: list[tuple[int, mido.MetaMessage]] = []
    end = 0
    for track in file.tracks:
        at = 0
        for message in track:
            at += message.time
            if message.is_meta and message.type in ("set_tempo", "time_signature", "marker", "cue_marker"):
                events.append((at, message))
        end = max(end, at)
    beats = end // file.ticks_per_beat + 1
    if beats > MOST_BEATS:
        raise RefusedError(f"That MIDI file has {beats:,} beats. Up to {MOST_BEATS:,} are read.")
    events.sort(key=lambda e: e[0])
    tempi = [(tick, m.tempo) for tick, m in events if m.type == "set_tempo"]
    if not tempi or tempi[0][0] > 0:
        tempi.insert(0, (0, DEFAULT_US))
    ticks = np.array([tick for tick, _ in tempi], dtype=np.float64)
    per_tick = np.array([tempo for _, tempo in tempi]) / 1e6 / file.ticks_per_beat
    starts = np.concatenate(([0.0], np.cumsum(np.diff(ticks) * per_tick[:-1])))

    def seconds(at: NDArray[np.float64]) -> NDArray[np.float64]:
        here = np.searchsorted(ticks, at, side="right") - 1
        return np.asarray(starts[here] + (at - ticks[here]) * per_tick[here])

    marks = [(tick, m.text) for tick, m in events if m.type in ("marker", "cue_marker") and m.text.strip()]
    bars = [
        (tick // file.ticks_per_beat, max(1, round(m.numerator * 4 / m.denominator)))
        for tick, m in events
        if m.type == "time_signature"
    ]
    moments = seconds(np.arange(beats, dtype=np.float64) * file.ticks_per_beat)
    at_marks = seconds(np.array([tick for tick, _ in marks], dtype=np.float64))
    return MidiMap(moments, tuple(bars), tuple((float(s), text) for s, (_, text) in zip(at_marks, marks, strict=True)))
