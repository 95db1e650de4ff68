"""What changes sound: filters, equaliser, echo, reverb, the limiter."""

from fernbrook.audio.effects.convolver import Response, Spectrum
from fernbrook.audio.effects.echo import repeats
from fernbrook.audio.effects.eq import equalise
from fernbrook.audio.effects.limiter import after, limit
from fernbrook.audio.effects.reverb import room
from fernbrook.audio.effects.sweep import swept
from fernbrook.audio.effects.zero_phase import CONTEXT, band_beyond

__all__ = [
    "CONTEXT",
    "Response",
    "Spectrum",
    "after",
    "band_beyond",
    "equalise",
    "limit",
    "repeats",
    "room",
    "swept",
]
