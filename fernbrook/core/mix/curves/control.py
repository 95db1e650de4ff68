"""The controls of a transition, said once: which there are, what they do to the sound, where they are neutral.

The curves of a side, the renderer, the API and the lanes of the page all follow from this table. To add a control:
add its name and its row here, and a processor to ``render/processors`` if it is of a new kind.
"""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from fernbrook.core.mix.curves.law import MIDDLE, Law
from fernbrook.core.value import Value


class Control(StrEnum):
    """What a curve turns."""

    VOLUME = "volume"
    LOW = "low"
    MID = "mid"
    HIGH = "high"
    FILTER = "filter"
    WIDTH = "width"
    ECHO = "echo"
    REVERB = "reverb"
    DRUMS = "drums"
    BASS = "bass"
    VOICE = "voice"
    MUSIC = "music"


class Processor(StrEnum):
    """What turns the positions into sound; what one hears of it, and for how long, is the renderer's to know."""

    LEVEL = "level"
    EQUALISER = "equaliser"
    FILTER = "filter"
    WIDTH = "width"
    ECHO = "echo"
    REVERB = "reverb"
    STEM = "stem"


class ControlSpec(Value):
    """One row of the table. Positions go from ``low`` to ``high`` and leave the sound alone at ``neutral``."""

    control: Control
    label: str
    processor: Processor
    law: Law
    neutral: float = 1.0
    low: float = 0.0
    high: float = 1.0
    unit: str = Field(default="dB", description="What a position is shown in, by its law.")
    always: bool = Field(default=False, description="Whether its lane is shown where it is not used, too.")


CONTROLS: dict[Control, ControlSpec] = {
    spec.control: spec
    for spec in (
        ControlSpec(control=Control.VOLUME, label="Volume", processor=Processor.LEVEL, law=Law.FADER, always=True),
        ControlSpec(control=Control.LOW, label="Low", processor=Processor.EQUALISER, law=Law.FADER, always=True),
        ControlSpec(control=Control.MID, label="Mid", processor=Processor.EQUALISER, law=Law.FADER),
        ControlSpec(control=Control.HIGH, label="High", processor=Processor.EQUALISER, law=Law.FADER),
        ControlSpec(
            control=Control.FILTER,
            label="Filter",
            processor=Processor.FILTER,
            law=Law.FILTER,
            neutral=MIDDLE,
            unit="Hz",
        ),
        ControlSpec(
            control=Control.WIDTH,
            label="Mono below",
            processor=Processor.WIDTH,
            law=Law.EDGE,
            neutral=0.0,
            unit="Hz",
        ),
        ControlSpec(control=Control.ECHO, label="Echo", processor=Processor.ECHO, law=Law.FADER, neutral=0.0),
        ControlSpec(control=Control.REVERB, label="Reverb", processor=Processor.REVERB, law=Law.FADER, neutral=0.0),
        ControlSpec(control=Control.DRUMS, label="Drums", processor=Processor.STEM, law=Law.FADER),
        ControlSpec(control=Control.BASS, label="Bass", processor=Processor.STEM, law=Law.FADER),
        ControlSpec(control=Control.VOICE, label="Voice", processor=Processor.STEM, law=Law.FADER),
        ControlSpec(control=Control.MUSIC, label="Music", processor=Processor.STEM, law=Law.FADER),
    )
}
"""All controls, in the order in which they are shown."""


def controls_of(processor: Processor) -> tuple[Control, ...]:
    """The controls that one processor works with, in order."""
    return tuple(c for c, spec in CONTROLS.items() if spec.processor is processor)
