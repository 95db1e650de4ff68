"""Every change to a track by hand: a value with its rule and its words; ``apply`` makes the track after it."""

from fernbrook.core.track.commands.apply import AnyMarkupCommand, apply
from fernbrook.core.track.commands.command import MarkupCommand
from fernbrook.core.track.commands.grid import (
    AddAnchor,
    CountFrom,
    FirstOfBar,
    FromHere,
    GridCommand,
    MarkChecked,
    MoveLine,
    PutGrid,
    RampFrom,
    RemoveAnchor,
    RoundTempo,
    ScaleFrom,
    ScaleTempo,
    SetBeatsPerBar,
    SetTempo,
    Slide,
    TempoFrom,
)
from fernbrook.core.track.commands.marks import PutCues, PutLoops, PutSections, PutVoice, RemoveCues, RemoveLoops
from fernbrook.core.track.commands.playing import KeepEdits, SetTrim

__all__ = [
    "AddAnchor",
    "AnyMarkupCommand",
    "CountFrom",
    "FirstOfBar",
    "FromHere",
    "GridCommand",
    "KeepEdits",
    "MarkChecked",
    "MarkupCommand",
    "MoveLine",
    "PutCues",
    "PutGrid",
    "PutLoops",
    "PutSections",
    "PutVoice",
    "RampFrom",
    "RemoveAnchor",
    "RemoveCues",
    "RemoveLoops",
    "RoundTempo",
    "ScaleFrom",
    "ScaleTempo",
    "SetBeatsPerBar",
    "SetTempo",
    "SetTrim",
    "Slide",
    "TempoFrom",
    "apply",
]
