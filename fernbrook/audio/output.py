"""The files that a mix can be rendered to, said once: the writer, the API, the command line and the page follow."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class OutputFormat(StrEnum):
    """A kind of file, by name."""

    WAV_16 = "wav16"
    WAV_24 = "wav24"
    WAV_32_FLOAT = "wav32f"
    FLAC_16 = "flac16"
    FLAC_24 = "flac24"

    @property
    def spec(self) -> OutputSpec:
        """Its row of the table."""
        return OUTPUTS[self]

    @property
    def suffix(self) -> str:
        """What the file's name ends in."""
        return f".{self.spec.container.lower()}"


@dataclass(frozen=True)
class OutputSpec:
    """One row of the table.

    ``container`` and ``subtype`` are libsndfile's words, ``bits`` what the command line calls the coding, and
    ``share`` the size of a file of music against the same samples uncompressed.
    """

    container: str
    subtype: str
    bits: str
    bytes_per_value: int
    label: str
    hint: str
    share: float = 1.0

    def expected_bytes(self, seconds: float, rate: int) -> float:
        """About how large a stereo file becomes."""
        return seconds * rate * 2 * self.bytes_per_value * self.share


OUTPUTS: dict[OutputFormat, OutputSpec] = {
    OutputFormat.WAV_24: OutputSpec("WAV", "PCM_24", "24", 3, "WAV, 24 bit", "Lossless, for every editor and player"),
    OutputFormat.FLAC_24: OutputSpec("FLAC", "PCM_24", "24", 3, "FLAC, 24 bit", "Lossless, a third smaller", 0.66),
    OutputFormat.WAV_16: OutputSpec("WAV", "PCM_16", "16", 2, "WAV, 16 bit", "With dither, as on a disc"),
    OutputFormat.FLAC_16: OutputSpec("FLAC", "PCM_16", "16", 2, "FLAC, 16 bit", "With dither, the smallest", 0.65),
    OutputFormat.WAV_32_FLOAT: OutputSpec("WAV", "FLOAT", "32f", 4, "WAV, 32 bit float", "To go on working with it"),
}
"""All kinds of files, in the order in which they are offered; the first is the default."""
DEFAULT_OUTPUT = next(iter(OUTPUTS))


def output_named(suffix: str, bits: str) -> OutputFormat | None:
    """The kind of file with a suffix such as '.wav' and as many bits, if there is one."""
    return next((o for o, spec in OUTPUTS.items() if o.suffix == suffix.lower() and spec.bits == bits), None)
