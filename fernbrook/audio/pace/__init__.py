"""Other rates and other pitches: interpolation, files at another rate, key shifts."""

from fernbrook.audio.pace.at_rate import at_rate, frames_at
from fernbrook.audio.pace.interpolate import SHORT_WIDTH, interpolate, margin
from fernbrook.audio.pace.pitch import shifted

__all__ = [
    "SHORT_WIDTH",
    "at_rate",
    "frames_at",
    "interpolate",
    "margin",
    "shifted",
]
