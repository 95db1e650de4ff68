"""How loud sound is, and how high between its samples."""

from fernbrook.audio.measures.loudness import Loudness, LoudnessMeter, lufs
from fernbrook.audio.measures.true_peak import FINE_TAPS, peak_against

__all__ = [
    "FINE_TAPS",
    "Loudness",
    "LoudnessMeter",
    "lufs",
    "peak_against",
]
