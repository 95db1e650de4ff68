"""What sound is read from: files, stems, edits joined from pieces, repeats, made sounds, the click."""

from fernbrook.audio.sources.click import Click, clicking, with_click
from fernbrook.audio.sources.joining import Block, Reel, joined
from fernbrook.audio.sources.made_sounds import (
    PEAK,
    MadeSound,
    drum_roll,
    noise_sweep,
    reversed_hit,
    sub_drop,
    tone_rise,
)
from fernbrook.audio.sources.repeat import Repeat
from fernbrook.audio.sources.source import Readable, Sounding, Source
from fernbrook.audio.sources.splice import AHEAD_S, LENGTH_S, Splice, shares, splice
from fernbrook.audio.sources.stem_file import StemSource, write_stem
from fernbrook.audio.sources.unchanged import stamps_of, unchanged

__all__ = [
    "AHEAD_S",
    "LENGTH_S",
    "PEAK",
    "Block",
    "Click",
    "MadeSound",
    "Readable",
    "Reel",
    "Repeat",
    "Sounding",
    "Source",
    "Splice",
    "StemSource",
    "clicking",
    "drum_roll",
    "joined",
    "noise_sweep",
    "reversed_hit",
    "shares",
    "splice",
    "stamps_of",
    "sub_drop",
    "tone_rise",
    "unchanged",
    "with_click",
    "write_stem",
]
