"""What is doubtful about one entry of a mix, and about how loud all of them are."""

from __future__ import annotations

from collections.abc import Sequence

from fernbrook.core.mix.commands import RemoveEdits, SetGain, SetLimiting
from fernbrook.core.mix.entries import CEILING_DBTP, Arrangement, Entry
from fernbrook.core.mix.model import NEAR_DB, Levels, Loudness, Mix
from fernbrook.core.plan.bar_beat import bar_beat
from fernbrook.core.plan.warning import Mend, MixWarning, WarningKind
from fernbrook.core.track import Skip, TrackFacts

MOST_LIMITING_DB = 12.0
LEAST_GAIN_DB = -40.0


def warnings_of_entry(index: int, entry_id: str, track: TrackFacts) -> list[MixWarning]:
    """What is doubtful about one entry."""
    if track.grid is not None:
        return _of_grid(index, entry_id, track)
    return [
        MixWarning(
            kind=WarningKind.NO_GRID,
            message=f"‘{track.title}’ has no beat grid yet: it is laid out at 120 BPM until the analysis has one.",
            entry=index,
            key=f"no_grid {entry_id}",
        )
    ]


def warnings_of_edits(index: int, entry: Entry, title: str, heard: Arrangement, end: float) -> list[MixWarning]:
    """Edits of an entry that nobody hears, because it has left by then; ``end`` is its last beat."""
    found = []
    for edit in entry.edits if not entry.as_recorded else ():
        at = heard.place_of(edit.end if isinstance(edit, Skip) else edit.start)
        if not edit.on or at is None or at < end:
            continue
        found.append(
            MixWarning(
                kind=WarningKind.EDIT,
                message=f"‘{title}’ has left before its edit at bar {bar_beat(at, heard.bar_lines)} would be heard. "
                "Delete the edit, or let the track leave later.",
                entry=index,
                key=f"edit {entry.id} {edit.id}",
                mends=(Mend(label="Delete the edit", command=RemoveEdits(entry_id=entry.id, ids=(edit.id,))),),
            )
        )
    return found


def _of_grid(index: int, entry_id: str, track: TrackFacts) -> list[MixWarning]:
    """A grid that the analysis was not sure of and nobody has looked at."""
    doubt = track.grid_doubt
    if doubt is None:
        return []
    message = f"‘{track.title}’: {doubt.text.rstrip('.')}. Listen to its grid with the click, then mark it as checked."
    return [MixWarning(kind=WarningKind.GRID, message=message, entry=index, key=f"grid {entry_id}")]


def warnings_of_levels(mix: Mix, tracks: Sequence[TrackFacts], levels: Levels) -> list[MixWarning]:
    """The entry that keeps the whole mix below its target, and those whose peaks pass the ceiling by too much."""
    found = []
    if levels.held_by is not None and levels.reached is not None:
        held = levels.held_by
        target = CEILING_DBTP if mix.loudness is Loudness.PEAK else mix.target_lufs or 0.0
        message = (
            f"‘{tracks[held].title}’ can be brought to {levels.reached:.1f} and not to {target:g}, so all are: equally "
            f"loud comes first. Allow {target - levels.reached:.1f} dB more limiting, or give it a gain by hand."
        )
        allowed = round(mix.limiting_db + target - levels.reached + 0.05, 1)
        fits = allowed <= MOST_LIMITING_DB
        mends = [Mend(label=f"Allow {allowed:g} dB", command=SetLimiting(db=allowed))] if fits else []
        found.append(
            MixWarning(
                kind=WarningKind.LEVEL,
                message=message.replace(" -", " −"),
                entry=held,
                key=f"held {mix.entries[held].id}",
                mends=tuple(mends),
            )
        )
    for place, level in enumerate(levels.entries):
        if level.over_db > mix.limiting_db + NEAR_DB:
            message = (
                f"‘{tracks[place].title}’ passes the ceiling by {level.over_db:.1f} dB, which the limiter takes; "
                f"{mix.limiting_db:g} dB are allowed. Lower its gain."
            )
            entry = mix.entries[place]
            gain = round(level.gain_db - level.over_db + mix.limiting_db, 1)
            command = SetGain(entry_id=entry.id, gain_db=gain) if gain >= LEAST_GAIN_DB else None
            lower = [Mend(label=f"Gain to {gain:g} dB".replace("-", "−"), command=command)] if command else []
            found.append(
                MixWarning(
                    kind=WarningKind.LEVEL,
                    message=message,
                    entry=place,
                    key=f"over {entry.id}",
                    mends=tuple(lower),
                )
            )
    return found
