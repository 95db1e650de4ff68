"""How one entry of a mix leaves and the next arrives."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum

from pydantic import ConfigDict, Field, RootModel, model_validator

from fernbrook.core.mix.curves import CONTROLS, Control, Curve, Law
from fernbrook.core.mix.transitions.effects import Effects
from fernbrook.core.mix.transitions.gap import Gap
from fernbrook.core.value import MOST_BEATS, Beat, Value

LONGEST_FADE_S = 300.0
MOST_NUDGE_MS = 100.0
LONGEST_WAY = 1024.0


class Kind(StrEnum):
    """A blend locks the beats of both tracks; a cut switches from one to the other on a beat.

    In a fade each goes at its own tempo, from one moment to another; apart, one ends before the other begins.
    """

    BLEND = "blend"
    CUT = "cut"
    FADE = "fade"
    APART = "apart"


class TempoPolicy(StrEnum):
    """How the mix moves from the tempo of the outgoing entry to that of the incoming."""

    RAMP = "ramp"
    STEPS = "steps"
    SWITCH_AT_START = "switch_at_start"
    SWITCH_AT_END = "switch_at_end"


class TempoWay(Value):
    """How long the tempo takes: from ``before`` beats before the overlap to ``after`` beats after it.

    Steps are of ``step_bpm`` each, one every ``step_bars`` bars from where the way begins, until the tempo is there.
    """

    before: float = Field(default=0.0, ge=0.0, le=LONGEST_WAY)
    after: float = Field(default=0.0, ge=0.0, le=LONGEST_WAY)
    step_bpm: float = Field(default=5.0, ge=0.1, le=50.0)
    step_bars: int = Field(default=4, ge=1, le=64)


class HeldCue(Value):
    """A cue of a track that one end of a transition was put on, and what it was called."""

    id: str = Field(max_length=32)
    name: str = Field(max_length=80)


class Side(StrEnum):
    """One of the two entries that meet in a transition."""

    OUTGOING = "outgoing"
    INCOMING = "incoming"


class SideCurves(RootModel[dict[Control, Curve]]):
    """The curves of one side of a transition, by control. A control without one stays neutral.

    A curve that is as good as none, level and with no points of its own, is left out.
    """

    model_config = ConfigDict(frozen=True)

    @model_validator(mode="after")
    def _in_order(self) -> SideCurves:
        drawn = {c: self.root[c] for c in CONTROLS if c in self.root and self.root[c] != _level(c)}
        self.root.clear()
        self.root.update(drawn)
        return self

    @classmethod
    def of(cls, **curves: Curve) -> SideCurves:
        """Curves by the name of their control: ``SideCurves.of(volume=..., low=...)``."""
        return cls({Control(name): curve for name, curve in curves.items()})

    def curve(self, control: Control) -> Curve:
        """The curve of one control."""
        return self.root.get(control) or _level(control)

    def with_curve(self, control: Control, curve: Curve) -> SideCurves:
        """The same curves with one replaced."""
        return SideCurves({**self.root, control: curve})

    @property
    def moving(self) -> Mapping[Control, Curve]:
        """The controls that have something to do, in the order of the table."""
        return {c: curve for c, curve in self.root.items() if not curve.stays_at(CONTROLS[c].neutral)}

    def __hash__(self) -> int:
        return hash(tuple(self.root.items()))


def _level(control: Control) -> Curve:
    """A control that is left alone."""
    return Curve.flat(CONTROLS[control].neutral)


NO_BEATS = {
    Kind.CUT: "a cut has no length",
    Kind.FADE: "a fade lasts seconds, not beats",
    Kind.APART: "two tracks that are apart do not overlap",
}


class Transition(Value):
    """How two neighbours meet.

    ``out_at`` is a beat of the outgoing entry, ``in_at`` the beat of the incoming entry that falls on it, ``beats``
    the length of the overlap in beats of the mix. Beats of an entry are counted as it is played in the
    mix (``played.py``): an entry with count 2 has two for each beat of its grid.

    A cut has no overlap: the outgoing's curves run over the last ``lead`` beats before it. A fade lasts ``seconds``,
    which are no beats of the mix; apart, so many seconds lie between the two. ``volume_law`` is what the faders mean.
    ``nudge_ms`` moves the sound of the incoming against the beats of the outgoing, later where above 0. ``out_cue`` and
    ``in_cue`` are the cues that it was placed on, if it was.
    """

    out_id: str = Field(max_length=32)
    in_id: str = Field(max_length=32)
    kind: Kind
    out_at: Beat
    in_at: Beat
    beats: float = Field(ge=0.0, le=MOST_BEATS)
    lead: float = Field(default=0.0, ge=0.0, le=MOST_BEATS)
    seconds: float = Field(default=0.0, ge=0.0, le=LONGEST_FADE_S)
    tempo: TempoPolicy
    way: TempoWay = TempoWay()
    outgoing: SideCurves
    incoming: SideCurves
    volume_law: Law = Law.FADER
    effects: Effects = Effects()
    gap: Gap | None = None
    nudge_ms: float = Field(default=0.0, ge=-MOST_NUDGE_MS, le=MOST_NUDGE_MS)
    out_cue: HeldCue | None = None
    in_cue: HeldCue | None = None

    @model_validator(mode="after")
    def _sound(self) -> Transition:
        if (self.kind is Kind.BLEND) != (self.beats > 0):
            raise ValueError(
                "a blend must last longer than 0 beats" if self.kind is Kind.BLEND else NO_BEATS[self.kind]
            )
        if self.kind is Kind.FADE and self.seconds <= 0:
            raise ValueError("a fade must last longer than 0 seconds")
        if self.lead and self.kind is not Kind.CUT:
            raise ValueError("only a cut has a lead: the curves of anything else run over its overlap")
        if self.volume_law not in (Law.FADER, Law.LINEAR):
            raise ValueError(f"a volume is turned by a fader, not by the law ‘{self.volume_law}’")
        for control, curve in self.outgoing.root.items():
            if curve.points[0].value != CONTROLS[control].neutral:
                raise ValueError(
                    f"the outgoing {control} must start neutral, or it would jump where the overlap starts"
                )
        for control, curve in self.incoming.root.items():
            if curve.points[-1].value != CONTROLS[control].neutral:
                raise ValueError(f"the incoming {control} must end neutral, or it would jump where the overlap ends")
        return self

    @property
    def pair(self) -> tuple[str, str]:
        """The ids of the two entries that meet."""
        return (self.out_id, self.in_id)

    @property
    def is_locked(self) -> bool:
        """Whether the beats of both go by one clock."""
        return self.kind in (Kind.BLEND, Kind.CUT)

    def curves(self, side: Side) -> SideCurves:
        """The curves of one side."""
        return self.outgoing if side is Side.OUTGOING else self.incoming

    def beats_on(self, side: Side, fade_beats: float) -> float:
        """How many beats of a side its curves run over, where its seconds take ``fade_beats`` of them."""
        match self.kind:
            case Kind.BLEND:
                return self.beats
            case Kind.CUT:
                return self.lead if side is Side.OUTGOING else 0.0
            case Kind.FADE:
                return fade_beats
            case Kind.APART:
                return 0.0
