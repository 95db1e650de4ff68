"""What may be wrong with a track's file, judged from what was measured of it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from pydantic import Field

from fernbrook.core.library.misread import is_misread
from fernbrook.core.value import Value

LOW_BIT_RATE = 191_000
SHORT_OF_HZ = 17_000.0
"""Music in a lossless file that ends below this has probably been through a lossy one."""
USUAL_RATES = frozenset({44_100, 48_000, 88_200, 96_000})
CLIPPED_RUNS = 20
OFFSET = 0.005
LONG_SILENCE_S = 8.0
LOSSLESS = frozenset({"WAV", "FLAC", "AIFF", "AIF"})


class FileDoubt(StrEnum):
    """A kind of doubt; its value is the word that a search knows it by."""

    LOW_BIT_RATE = "low-bit-rate"
    UPSCALED = "upscaled"
    MONO = "mono"
    CLIPPED = "clipped"
    RATE = "odd-rate"
    OFFSET = "offset"
    SILENCE = "silence"
    TWICE = "twice"
    MISSING = "missing"
    UNREADABLE = "unreadable"
    MISREAD = "misread"


class FileMeasures(Value):
    """What an analysis measured of a file's samples.

    ``top_hz`` is where its spectrum ends, None where that is not clear; ``clipped`` how many runs of samples lie at
    full scale; ``offset`` the mean of the samples; ``alike`` whether both channels are the same.
    """

    top_hz: float | None = Field(default=None, ge=0.0, le=1e6)
    clipped: int = Field(default=0, ge=0, le=1 << 40)
    offset: float = Field(default=0.0, ge=-10.0, le=10.0)
    alike: bool = False


@dataclass(frozen=True)
class FileFacts:
    """What else is known of a file. ``twin`` is the title of another track that is the same recording;
    ``names`` are its title and its artist."""

    kind: str
    rate: int
    channels: int
    duration_s: float
    bit_rate: int | None = None
    sound_start_s: float = 0.0
    sound_end_s: float | None = None
    missing: bool = False
    twin: str | None = None
    names: tuple[str, ...] = ()


def file_doubts(facts: FileFacts, measured: FileMeasures) -> dict[FileDoubt, str]:
    """All doubts about a file, each in a plain sentence."""
    lossless = facts.kind.upper() in LOSSLESS
    end = facts.duration_s if facts.sound_end_s is None else facts.sound_end_s
    silence = max(facts.sound_start_s, facts.duration_s - end)
    where = "start" if facts.sound_start_s >= facts.duration_s - end else "end"
    told = {
        FileDoubt.MISSING: facts.missing and "The file is missing.",
        FileDoubt.LOW_BIT_RATE: not lossless
        and facts.bit_rate is not None
        and facts.bit_rate < LOW_BIT_RATE
        and f"Only {facts.bit_rate / 1000:.0f} kbit/s: the high frequencies may sound dull or swirl.",
        FileDoubt.UPSCALED: lossless
        and measured.top_hz is not None
        and measured.top_hz < SHORT_OF_HZ
        and f"Nothing above {measured.top_hz / 1000:.1f} kHz: this lossless file was probably made from a lossy one.",
        FileDoubt.MONO: (facts.channels == 1 or measured.alike) and "Mono: both channels are the same.",
        FileDoubt.CLIPPED: measured.clipped >= CLIPPED_RUNS
        and f"Clipped in {measured.clipped} places: it was recorded or made too loud.",
        FileDoubt.RATE: facts.rate not in USUAL_RATES and f"An unusual sample rate: {facts.rate} Hz.",
        FileDoubt.OFFSET: abs(measured.offset) > OFFSET
        and f"The middle of its wave lies {100 * abs(measured.offset):.1f} % beside zero.",
        FileDoubt.SILENCE: silence > LONG_SILENCE_S and f"{silence:.0f} s of silence at its {where}.",
        FileDoubt.MISREAD: any(is_misread(name) for name in facts.names)
        and "Its name looks like signs of another script, misread. Choose it, then ‘Read names as’.",
        FileDoubt.TWICE: facts.twin is not None and f"The same recording as ‘{facts.twin}’.",
    }
    return {kind: sentence for kind, sentence in told.items() if isinstance(sentence, str)}
