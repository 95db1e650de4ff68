"""From what a plan says of a made sound to the sound, read like any file."""

from __future__ import annotations

from fernbrook.audio.sources import (
    MadeSound as Sound,
)
from fernbrook.audio.sources import Source, drum_roll, noise_sweep, reversed_hit, sub_drop, tone_rise
from fernbrook.core.mix.layers import MadeSound
from fernbrook.core.plan import RATE, MadeSource

MAKERS = {
    MadeSound.SWEEP: noise_sweep,
    MadeSound.RISE: tone_rise,
    MadeSound.REVERSED: reversed_hit,
    MadeSound.SUB_DROP: sub_drop,
}


def made_sound(made: MadeSource, drum: Source | None) -> Sound:
    """A made sound; ``drum`` is what a roll strikes."""
    frames = round(made.length_s * RATE)
    identity = (made, drum.identity if drum else None)
    if made.sound is MadeSound.ROLL:
        if drum is None:
            raise ValueError("a roll needs a drum to strike")
        return Sound(drum_roll(frames, RATE, made.hits, drum, made.hit_at_s), RATE, identity)
    return Sound(MAKERS[made.sound](frames, RATE), RATE, identity)
