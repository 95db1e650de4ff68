"""How one entry of a mix leaves and the next arrives."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field, model_validator

from fernbrook.core.curve import NEUTRAL, Curve
from fernbrook.core.value import Value


class Kind(StrEnum):
    """A blend locks the beats of both tracks; a cut switches from one to the other on a beat."""

    BLEND = "blend"
    CUT = "cut"


class TempoPolicy(StrEnum):
    """How the mix moves from the tempo of the outgoing entry to that of the incoming."""

    RAMP = "ramp"
    SWITCH_AT_START = "switch_at_start"
    SWITCH_AT_END = "switch_at_end"


class Control(StrEnum):
    """What a curve turns."""

    VOLUME = "volume"
    LOW = "low"
    MID = "mid"
    HIGH = "high"


class Side(StrEnum):
    """One of the two entries that meet in a transition."""

    OUTGOING = "outgoing"
    INCOMING = "incoming"


class SideCurves(Value):
    """The four controls of one side of a transition."""

    volume: Curve = Curve.flat()
    low: Curve = Curve.flat()
    mid: Curve = Curve.flat()
    high: Curve = Curve.flat()

    def of(self, control: Control) -> Curve:
        """The curve of one control."""
        curve: Curve = getattr(self, control.value)
        return curve

    def with_curve(self, control: Control, curve: Curve) -> SideCurves:
        """The same curves with one replaced."""
        return self.model_copy(update={control.value: curve})

    @property
    def eq_is_neutral(self) -> bool:
        """Whether the equaliser has nothing to do."""
        return self.low.is_neutral and self.mid.is_neutral and self.high.is_neutral


class Transition(Value):
    """The overlap of two neighbours.

    ``out_at`` is a beat of the outgoing entry, ``in_at`` the beat of the incoming entry that falls on it, ``beats``
    the length of the overlap in beats of the mix (0 for a cut). Beats of an entry are counted as it rides in the
    mix: an entry with count 2 has two for each beat of its grid.
    """

    out_id: str
    in_id: str
    kind: Kind
    out_at: float
    in_at: float
    beats: float = Field(ge=0.0)
    tempo: TempoPolicy
    outgoing: SideCurves
    incoming: SideCurves

    @model_validator(mode="after")
    def _sound(self) -> Transition:
        if self.kind is Kind.BLEND and self.beats <= 0:
            raise ValueError("a blend must last longer than 0 beats")
        if self.kind is Kind.CUT and self.beats != 0:
            raise ValueError("a cut has no length")
        for control in Control:
            if self.outgoing.of(control).points[0].value != NEUTRAL:
                raise ValueError(
                    f"the outgoing {control} must start neutral, or it would jump where the overlap starts"
                )
            if self.incoming.of(control).points[-1].value != NEUTRAL:
                raise ValueError(f"the incoming {control} must end neutral, or it would jump where the overlap ends")
        return self

    @property
    def pair(self) -> tuple[str, str]:
        """The ids of the two entries that meet."""
        return (self.out_id, self.in_id)

    def curves(self, side: Side) -> SideCurves:
        """The curves of one side."""
        return self.outgoing if side is Side.OUTGOING else self.incoming
