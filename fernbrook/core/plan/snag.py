"""Snags: things to look at before rendering, each said in plain words."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum

from fernbrook.core.mix.control import Control
from fernbrook.core.mix.entry import CEILING_DBTP
from fernbrook.core.mix.levels import NEAR_DB, Levels
from fernbrook.core.mix.mix import Loudness, Mix
from fernbrook.core.mix.played import Played
from fernbrook.core.mix.transition import Kind, Transition
from fernbrook.core.track.cue import CueRole, chosen
from fernbrook.core.track.facts import KeyFact, TrackFacts
from fernbrook.core.track.relation import Relation, relation, shift_to_fit
from fernbrook.core.track.section import VoiceSpan
from fernbrook.core.value import Value

NOTICEABLE_STRETCH = 0.06
HEARD = 0.4
"""A side whose volume is below this, as a fader position, is hardly heard."""
NEARLY_CLEAR = 0.01
"""An overlap that ends by so much of a beat after a clear-by cue ends by it."""
SURE_KEYS = 0.3
"""Keys that are believed less than this, both together, are no reason to warn."""
LONG_CHORDS = 8.0
"""Two keys for fewer beats are a surprise and no clash."""
LONG_TOGETHER = 2.0
"""Two voices for less than so many beats are no trouble."""


class SnagKind(StrEnum):
    """What sort of thing it is."""

    NO_GRID = "no_grid"
    TEMPO_LEAP = "tempo_leap"
    DOES_NOT_FIT = "does_not_fit"
    KEYS = "keys"
    TWO_VOICES = "two_voices"
    NOT_CLEAR = "not_clear"
    LEVEL = "level"
    LIMITER = "limiter"


class Snag(Value):
    """One thing to look at; ``transition`` or ``entry`` is the index that it belongs to."""

    kind: SnagKind
    message: str
    entry: int | None = None
    transition: int | None = None


def snags_of_entry(index: int, track: TrackFacts) -> list[Snag]:
    """What is doubtful about one entry."""
    if track.grid is not None:
        return []
    return [
        Snag(
            kind=SnagKind.NO_GRID,
            message=f"‘{track.title}’ has no beat grid yet: it is laid out at 120 BPM until the analysis has one.",
            entry=index,
        )
    ]


def snags_of_levels(mix: Mix, tracks: Sequence[TrackFacts], levels: Levels) -> list[Snag]:
    """The entry that keeps the whole mix below its target, and those whose peaks pass the ceiling by too much."""
    found = []
    if levels.held_by is not None and levels.reached is not None:
        held = levels.held_by
        target = CEILING_DBTP if mix.loudness is Loudness.PEAK else mix.target_lufs or 0.0
        message = (
            f"‘{tracks[held].title}’ can be brought to {levels.reached:.1f} and not to {target:g}, so all are: equally "
            f"loud comes first. Allow {target - levels.reached:.1f} dB more limiting, or give it a gain by hand."
        )
        found.append(Snag(kind=SnagKind.LEVEL, message=message.replace(" -", " −"), entry=held))
    for place, level in enumerate(levels.entries):
        if level.over_db > mix.limiting_db + NEAR_DB:
            message = (
                f"‘{tracks[place].title}’ passes the ceiling by {level.over_db:.1f} dB, which the limiter takes; "
                f"{mix.limiting_db:g} dB are allowed. Lower its gain."
            )
            found.append(Snag(kind=SnagKind.LEVEL, message=message, entry=place))
    return found


def snags_of_transition(
    index: int, asked: Transition, got: Transition, out_speed: float, in_speed: float
) -> list[Snag]:
    """What is doubtful about one transition: how far the tracks are bent, and whether it fits as it was shaped."""
    found: list[Snag] = []
    if got.kind is Kind.BLEND:
        for which, speed in (("outgoing", out_speed), ("incoming", in_speed)):
            if abs(speed - 1.0) > NOTICEABLE_STRETCH:
                way = "faster" if speed > 1 else "slower"
                found.append(
                    Snag(
                        kind=SnagKind.TEMPO_LEAP,
                        message=f"The {which} track plays up to {abs(speed - 1):.1%} {way} than its own tempo.",
                        transition=index,
                    )
                )
    if asked != got:
        found.append(
            Snag(
                kind=SnagKind.DOES_NOT_FIT,
                message="This transition no longer fits between its neighbours as it was set: it was made to fit.",
                transition=index,
            )
        )
    return found


def snags_of_keys(index: int, out: KeyFact | None, into: KeyFact | None, together: float) -> list[Snag]:
    """Where two keys that clash, as they sound, are heard together for long: more than drums of both, for so many
    beats."""
    if out is None or into is None or together < LONG_CHORDS:
        return []
    if out.sure * into.sure < SURE_KEYS or relation(out.key, into.key) is not Relation.CLASH:
        return []
    shift = f"{shift_to_fit(out.key, into.key):+d}".replace("-", "−")
    message = (
        f"{out.key.name} and {into.key.name} clash, and are together for {together:.0f} beats. "
        f"Shift the incoming by {shift}, make the overlap shorter, or cut."
    )
    return [Snag(kind=SnagKind.KEYS, message=message, transition=index)]


def snags_of_clear_by(index: int, transition: Transition, into: TrackFacts, played: Played) -> list[Snag]:
    """Where the outgoing is still there after the clear-by cue of the incoming, and for how long."""
    cue = chosen(into.cues, CueRole.CLEAR_BY)
    if cue is None:
        return []
    late = transition.in_at + transition.beats - played.of_grid(cue.at)
    if late < NEARLY_CLEAR:
        return []
    name = f"‘{cue.name}’" if cue.name else "its clear-by cue"
    message = f"‘{into.title}’ is to be alone by {name}: the overlap ends {late:g} beats after it."
    return [Snag(kind=SnagKind.NOT_CLEAR, message=message, transition=index)]


def snags_of_voices(
    index: int, transition: Transition, out: Sequence[VoiceSpan], into: Sequence[VoiceSpan], bar: float
) -> list[Snag]:
    """Where both sides sing while both are heard.

    Parameters
    ----------
    out, into : voice spans of both entries, in their beats
    """
    both = [
        (start, end)
        for a in out
        for b in into
        if (start := max(a.start - transition.out_at, b.start - transition.in_at, 0.0))
        < (end := min(a.end - transition.out_at, b.end - transition.in_at, transition.beats))
        and _both_heard(transition, (start + end) / 2.0)
    ]
    together = sum(end - start for start, end in both)
    if together < LONG_TOGETHER:
        return []
    first_bar = int(min(start for start, _ in both) // bar) + 1
    message = f"Two voices at once for {together:.0f} beats, from bar {first_bar} of the overlap on."
    return [Snag(kind=SnagKind.TWO_VOICES, message=message, transition=index)]


def _both_heard(transition: Transition, beat: float) -> bool:
    place = beat / transition.beats
    return all(
        float(side.curve(Control.VOLUME).value_at(place)) >= HEARD
        for side in (transition.outgoing, transition.incoming)
    )
