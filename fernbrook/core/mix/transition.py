"""How one entry of a mix leaves and the next arrives."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum

from pydantic import ConfigDict, Field, RootModel, model_validator

from fernbrook.core.mix.control import CONTROLS, Control
from fernbrook.core.mix.curve import Curve
from fernbrook.core.value import MOST_BEATS, Beat, Value


class Kind(StrEnum):
    """A blend locks the beats of both tracks; a cut switches from one to the other on a beat."""

    BLEND = "blend"
    CUT = "cut"


class TempoPolicy(StrEnum):
    """How the mix moves from the tempo of the outgoing entry to that of the incoming."""

    RAMP = "ramp"
    SWITCH_AT_START = "switch_at_start"
    SWITCH_AT_END = "switch_at_end"


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


class Transition(Value):
    """The overlap of two neighbours.

    ``out_at`` is a beat of the outgoing entry, ``in_at`` the beat of the incoming entry that falls on it, ``beats``
    the length of the overlap in beats of the mix (0 for a cut). Beats of an entry are counted as it is played in the
    mix (``played.py``): an entry with count 2 has two for each beat of its grid.
    """

    out_id: str = Field(max_length=32)
    in_id: str = Field(max_length=32)
    kind: Kind
    out_at: Beat
    in_at: Beat
    beats: float = Field(ge=0.0, le=MOST_BEATS)
    tempo: TempoPolicy
    outgoing: SideCurves
    incoming: SideCurves

    @model_validator(mode="after")
    def _sound(self) -> Transition:
        if self.kind is Kind.BLEND and self.beats <= 0:
            raise ValueError("a blend must last longer than 0 beats")
        if self.kind is Kind.CUT and self.beats != 0:
            raise ValueError("a cut has no length")
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

    def curves(self, side: Side) -> SideCurves:
        """The curves of one side."""
        return self.outgoing if side is Side.OUTGOING else self.incoming
