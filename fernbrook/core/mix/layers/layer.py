"""Layers: pieces of sound that are laid over a mix, on its beats.

A layer is a span of any track of the library, or of one of its stems, or a sound that the program makes. It lies on a
beat of the mix, or is tied to an entry, a cue of its track, or a transition, and then moves along with it.
"""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fernbrook.core.mix.entries import Count, GainDb, KeyShift
from fernbrook.core.mix.transitions import Effects, HeldCue, SideCurves
from fernbrook.core.track import Stem
from fernbrook.core.value import Beat, Value

MOST_LAYERS = 200
MOST_TIMES = 64
SHORTEST = 0.25
LONGEST = 1024.0
"""The shortest and the longest span of a layer, in beats."""

Length = Annotated[float, Field(ge=SHORTEST, le=LONGEST)]


class MadeSound(StrEnum):
    """A sound that is computed: what leads up to a beat, and one that falls from it."""

    SWEEP = "sweep"
    RISE = "rise"
    REVERSED = "reversed"
    ROLL = "roll"
    SUB_DROP = "sub_drop"
    HUSH = "hush"


class MadeSpec(Value):
    """One row of the table: what it is called, for how many bars it is laid at first, and whether it leads up to a
    beat, so that its place is where it ends."""

    sound: MadeSound
    label: str
    bars: int
    leads_up: bool = True


MADE_SOUNDS: dict[MadeSound, MadeSpec] = {
    spec.sound: spec
    for spec in (
        MadeSpec(sound=MadeSound.SWEEP, label="Noise sweep", bars=8),
        MadeSpec(sound=MadeSound.RISE, label="Tone rise", bars=4),
        MadeSpec(sound=MadeSound.REVERSED, label="Reversed hit", bars=1),
        MadeSpec(sound=MadeSound.ROLL, label="Drum roll", bars=2),
        MadeSpec(sound=MadeSound.SUB_DROP, label="Sub drop", bars=2, leads_up=False),
        MadeSpec(sound=MadeSound.HUSH, label="Silence with a tail", bars=1),
    )
}
"""All made sounds, in the order in which they are offered."""


class OfTrack(Value):
    """A span of a track, or of a stem of it, in beats of its grid; ``count`` beats of the mix are one of them.

    What does not ``follow`` the beat plays at its own speed from where it begins, as does what has no grid.
    """

    of: Literal["track"] = "track"
    track_id: str = Field(max_length=32)
    start: Beat
    beats: Length
    stem: Stem | None = None
    count: Count = 1.0
    follows: bool = True

    @property
    def length(self) -> float:
        """How many beats of the mix it takes."""
        return self.beats * self.count


class Made(Value):
    """A made sound, so many beats of the mix long."""

    of: Literal["made"] = "made"
    sound: MadeSound
    beats: Length

    @property
    def length(self) -> float:
        """How many beats of the mix it takes."""
        return self.beats


class OnMix(Value):
    """A beat of the mix, wherever its entries go."""

    to: Literal["mix"] = "mix"
    beat: Beat


class OnEntry(Value):
    """A beat of an entry; counted from where a cue of its track is heard, where one is named."""

    to: Literal["entry"] = "entry"
    entry_id: str = Field(max_length=32)
    beat: Beat
    cue: HeldCue | None = None


class Edge(StrEnum):
    """A place of a transition."""

    START = "start"
    MIDDLE = "middle"
    END = "end"


class OnTransition(Value):
    """So many beats after a place of the transition between two entries."""

    to: Literal["transition"] = "transition"
    out_id: str = Field(max_length=32)
    in_id: str = Field(max_length=32)
    edge: Edge = Edge.END
    beat: Beat = 0.0


LayerSound = Annotated[OfTrack | Made, Field(discriminator="of")]
Tie = Annotated[OnMix | OnEntry | OnTransition, Field(discriminator="to")]


class Layer(Value):
    """A piece of sound over the mix.

    It is heard so many ``times``, one time after the other, or ``apart`` beats from one start to the next. Its
    ``gain_db`` is on top of the level that its track would play at; ``key_shift`` moves it by semitones. It fades in
    and out over beats of each time that it is heard by itself; the ``curves`` run over all of it.
    """

    id: str = Field(min_length=1, max_length=32)
    name: str = Field(default="", max_length=60)
    sound: LayerSound
    at: Tie
    times: int = Field(default=1, ge=1, le=MOST_TIMES)
    apart: Length | None = None
    gain_db: GainDb = 0.0
    key_shift: KeyShift = 0
    fade_in: float = Field(default=0.0, ge=0.0, le=LONGEST)
    fade_out: float = Field(default=0.0, ge=0.0, le=LONGEST)
    curves: SideCurves = SideCurves({})
    effects: Effects = Effects()
    on: bool = True

    @model_validator(mode="after")
    def _fits(self) -> Layer:
        if self.apart is not None and self.apart < self.sound.length:
            raise ValueError(
                f"a layer of {self.sound.length:g} beats cannot begin again after {self.apart:g}: it would lie over "
                "itself"
            )
        if self.fade_in + self.fade_out > self.run:
            raise ValueError(f"the fades of a layer must fit into its {self.run:g} beats")
        return self

    @property
    def is_back_to_back(self) -> bool:
        """Whether it is one sound on end. A made sound begins again each time."""
        if isinstance(self.sound, Made) and self.times > 1:
            return False
        return self.times == 1 or self.apart is None or self.apart == self.sound.length

    @property
    def times_on_end(self) -> int:
        """How many times of it are heard in one go."""
        return self.times if self.is_back_to_back else 1

    @property
    def run(self) -> float:
        """For how many beats it is heard in one go."""
        return self.sound.length * self.times_on_end

    @property
    def length(self) -> float:
        """Beats of the mix from where it begins to where it has ended for the last time."""
        return self.sound.length + (self.times - 1) * (self.apart or self.sound.length)

    @property
    def starts(self) -> tuple[float, ...]:
        """The beats after its own start on which it begins each time."""
        return tuple(n * (self.apart or self.sound.length) for n in range(self.times))

    @property
    def is_hush(self) -> bool:
        """Whether it silences what it lies over, and sounds in no other way."""
        return isinstance(self.sound, Made) and self.sound.sound is MadeSound.HUSH

    @property
    def ends_on_its_place(self) -> bool:
        """Whether its place is where it ends."""
        return isinstance(self.sound, Made) and MADE_SOUNDS[self.sound.sound].leads_up
