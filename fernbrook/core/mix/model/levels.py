"""How loud each entry plays: equally loud first, and as loud as that allows.

All entries without a gain of their own are brought to one level. It is the mix's target where every one of them can
reach that within the ceiling, else the level that the one with the least headroom can reach; the limiter may take as
many dB off its peaks as the mix allows.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fernbrook.core.mix.entries import CEILING_DBTP
from fernbrook.core.mix.model.mix import Loudness, Mix
from fernbrook.core.remembered import remembered
from fernbrook.core.track import TrackFacts

NEAR_DB = 0.05
"""Less than this is no difference worth a word."""


@dataclass(frozen=True)
class Level:
    """The gain of an entry in dB, why it is that, and by how much its peaks then pass the ceiling."""

    gain_db: float
    why: str
    over_db: float


@dataclass(frozen=True)
class Levels:
    """The levels of all entries, in order.

    ``reached`` is what the entries are brought to, None where they are left as they are. Where that is below the
    target, ``held_by`` is the place of the entry that cannot reach more.
    """

    entries: tuple[Level, ...]
    reached: float | None
    held_by: int | None


def measured(track: TrackFacts, by: Loudness) -> float | None:
    """How loud a track is by a measure, in LUFS or, by its peak, in dBTP; None where that is not known."""
    match by:
        case Loudness.INTEGRATED:
            return track.loudness_lufs
        case Loudness.LOUDEST:
            return track.short_term_max_lufs if track.short_term_max_lufs is not None else track.loudness_lufs
        case Loudness.PEAK:
            return track.true_peak_dbtp


def reach(track: TrackFacts, by: Loudness, limiting_db: float) -> float | None:
    """The highest level, by a measure, that a track can be brought to; None where its peak is not known.

    >>> quiet = TrackFacts(id="t", title="T", duration_s=60.0, loudness_lufs=-18.0, true_peak_dbtp=-0.5)
    >>> reach(quiet, Loudness.INTEGRATED, limiting_db=2.0)
    -16.5
    """
    loud, peak = measured(track, by), track.true_peak_dbtp
    if loud is None or peak is None:
        return None
    return loud + CEILING_DBTP + limiting_db - peak - track.trim_db


def levels_of(mix: Mix, tracks: Sequence[TrackFacts]) -> Levels:
    """The levels of a mix's entries, whose tracks are given in their order."""
    target = mix.target_lufs
    if target is not None and mix.loudness is Loudness.PEAK:
        target = CEILING_DBTP
    reaches = [
        (height, place)
        for place, (entry, track) in enumerate(zip(mix.entries, tracks, strict=True))
        if entry.gain_db is None and (height := reach(track, mix.loudness, mix.limiting_db)) is not None
    ]
    least, holder = min(reaches, default=(target, None))
    held = target is not None and least is not None and least < target - NEAR_DB
    reached = least if held else target
    return Levels(
        entries=tuple(
            _level(e.gain_db, t, mix.loudness, reached, held) for e, t in zip(mix.entries, tracks, strict=True)
        ),
        reached=reached,
        held_by=holder if held else None,
    )


def level_of(track: TrackFacts, mix: Mix, levels: Levels) -> float:
    """The gain in dB at which a track would play in a mix whose entries have these levels."""
    return _gain(None, track, mix.loudness, levels.reached, levels.held_by is not None)[0]


@remembered
def _level(by_hand: float | None, track: TrackFacts, by: Loudness, reached: float | None, held: bool) -> Level:
    gain, why = _gain(by_hand, track, by, reached, held)
    over = 0.0 if track.true_peak_dbtp is None else track.true_peak_dbtp + gain - CEILING_DBTP
    return Level(round(gain, 2), why, max(0.0, round(over, 2)))


def _gain(
    by_hand: float | None, track: TrackFacts, by: Loudness, reached: float | None, held: bool
) -> tuple[float, str]:
    if by_hand is not None:
        return by_hand, "set by hand"
    trim = f", trimmed by {track.trim_db:+.1f} dB".replace("-", "−") if track.trim_db else ""
    loud = measured(track, by)
    if reached is None:
        return track.trim_db, f"as it is{trim}"
    if loud is None:
        return track.trim_db, f"not measured yet{trim}"
    unit = "dBTP" if by is Loudness.PEAK else "LUFS"
    all_can = ", which all can reach" if held else ""
    return reached - loud + track.trim_db, f"brought to {_signed(reached)} {unit}{all_can}{trim}"


def _signed(level: float) -> str:
    return f"{level:.1f}".removesuffix(".0").replace("-", "−")
