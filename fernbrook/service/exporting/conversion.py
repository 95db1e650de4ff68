"""What a file has to become for a player that does not take it as it is."""

from __future__ import annotations

from fernbrook.audio.files import OutputFormat
from fernbrook.formats.stick import Takes


def target_of(kind: str, rate: int, bits: int | None, takes: Takes) -> tuple[OutputFormat, int, str] | None:
    """What a file is to become for a player, at which rate, and why; None where the player takes it as it is.

    ``bits`` are those of a sample where it is not compressed with loss.
    """
    reasons = []
    if kind not in takes.kinds:
        reasons.append(f"the player does not take {kind.upper()}")
    if rate not in takes.rates:
        reasons.append(f"it does not take {rate / 1000:g} kHz")
    if bits is not None and bits not in takes.bits:
        reasons.append(f"it does not take {bits} bits")
    if not reasons:
        return None
    deep = 24 in takes.bits and (bits or 24) > 16
    lossless = {"flac": (OutputFormat.FLAC_16, OutputFormat.FLAC_24), "wav": (OutputFormat.WAV_16, OutputFormat.WAV_24)}
    output = next((pair[deep] for name, pair in lossless.items() if name in takes.kinds), OutputFormat.MP3_320)
    return output, _rate_for(rate, takes), "; ".join(reasons)


def _rate_for(rate: int, takes: Takes) -> int:
    """The rate that is taken: its own, else the smallest above it, else the largest."""
    if rate in takes.rates or not takes.rates:
        return rate
    above = [r for r in takes.rates if r > rate]
    return min(above) if above else max(takes.rates)
