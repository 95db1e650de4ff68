"""The files that a mix can be rendered to, said once: the writer, the API, the command line and the page follow."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum


class OutputFormat(StrEnum):
    """A kind of file, by name."""

    WAV_16 = "wav16"
    WAV_24 = "wav24"
    WAV_32_FLOAT = "wav32f"
    FLAC_16 = "flac16"
    FLAC_24 = "flac24"
    MP3_V0 = "mp3v0"
    MP3_320 = "mp3_320"
    VORBIS = "vorbis"
    OPUS = "opus"
    AAC = "aac"
    VIDEO_H264 = "video_h264"
    VIDEO_VP9 = "video_vp9"

    @property
    def spec(self) -> OutputSpec:
        """Its row of the table."""
        return OUTPUTS[self]

    @property
    def suffix(self) -> str:
        """What the file's name ends in."""
        return f".{self.spec.suffix or self.spec.container.lower()}"


class Encoder(StrEnum):
    """What writes a kind of file."""

    LIBSNDFILE = "libsndfile"
    FFMPEG = "ffmpeg"


@dataclass(frozen=True)
class VideoSpec:
    """How pictures are encoded: by the first of some encoders that is there."""

    encoders: tuple[str, ...]
    settings: Mapping[str, str]


@dataclass(frozen=True)
class OutputSpec:
    """One row of the table.

    ``container`` and ``subtype`` are the words of what writes it, ``bits`` what the command line calls the coding, and
    ``share`` the size of a file of music against the same samples uncompressed; ``kbps`` says it of what loses
    something. ``rate`` is the only rate that it can have, ``settings`` are the encoder's. ``pace`` is about how many
    seconds of a mix are made in one, as long as nothing was measured.
    """

    container: str
    subtype: str
    bits: str
    bytes_per_value: int
    label: str
    hint: str
    share: float = 1.0
    suffix: str = ""
    encoder: Encoder = Encoder.LIBSNDFILE
    kbps: float | None = None
    rate: int | None = None
    settings: Mapping[str, str] = field(default_factory=dict)
    video: VideoSpec | None = None
    pace: float = 30.0

    @property
    def is_lossless(self) -> bool:
        """Whether the samples come back as they were, but for their number of bits."""
        return self.kbps is None

    def rate_for(self, wanted: int) -> int:
        """The rate that a file has for which one is wished."""
        return self.rate or wanted

    def expected_bytes(self, seconds: float, rate: int) -> float:
        """About how large a stereo file becomes."""
        if self.kbps is not None:
            return seconds * self.kbps * 125.0
        return seconds * rate * 2 * self.bytes_per_value * self.share


FFMPEG = Encoder.FFMPEG
OUTPUTS: dict[OutputFormat, OutputSpec] = {
    OutputFormat.WAV_24: OutputSpec("WAV", "PCM_24", "24", 3, "WAV, 24 bit", "Lossless, for every editor and player"),
    OutputFormat.FLAC_24: OutputSpec("FLAC", "PCM_24", "24", 3, "FLAC, 24 bit", "Lossless, a third smaller", 0.66),
    OutputFormat.WAV_16: OutputSpec("WAV", "PCM_16", "16", 2, "WAV, 16 bit", "With dither, as on a disc"),
    OutputFormat.FLAC_16: OutputSpec("FLAC", "PCM_16", "16", 2, "FLAC, 16 bit", "With dither, the smallest", 0.65),
    OutputFormat.WAV_32_FLOAT: OutputSpec("WAV", "FLOAT", "32f", 4, "WAV, 32 bit float", "To go on working with it"),
    OutputFormat.MP3_320: OutputSpec(
        "mp3", "libmp3lame", "320", 2, "MP3, 320 kbit/s", "Plays everywhere: what hosts ask for",
        encoder=FFMPEG, kbps=320, settings={"b": "320000"}, pace=13.0,
    ),
    OutputFormat.MP3_V0: OutputSpec(
        "mp3", "libmp3lame", "V0", 2, "MP3, V0", "Plays everywhere, a quarter smaller",
        encoder=FFMPEG, kbps=270, settings={"flags": "+qscale", "global_quality": "0"}, pace=13.0,
    ),
    OutputFormat.AAC: OutputSpec(
        "ipod", "aac", "256", 2, "AAC in M4A", "For phones; podcast players show its chapters",
        suffix="m4a", encoder=FFMPEG, kbps=256, settings={"b": "256000"}, pace=12.0,
    ),
    OutputFormat.OPUS: OutputSpec(
        "ogg", "libopus", "160", 2, "Opus", "The smallest that is as good; always 48 kHz",
        suffix="opus", encoder=FFMPEG, kbps=160, rate=48_000, settings={"b": "160000"},
    ),
    OutputFormat.VORBIS: OutputSpec(
        "OGG", "VORBIS", "Q8", 2, "Ogg Vorbis", "Free of licences, for players that know it", kbps=256, suffix="ogg",
    ),
    OutputFormat.VIDEO_H264: OutputSpec(
        "mp4", "aac", "h264", 2, "Video, H.264 in MP4", "The mix overview moving, with titles",
        encoder=FFMPEG, kbps=490, rate=48_000, settings={"b": "256000"}, pace=2.5,
        video=VideoSpec(("libx264", "libopenh264"), {"preset": "veryfast", "crf": "22"}),
    ),
    OutputFormat.VIDEO_VP9: OutputSpec(
        "webm", "libopus", "vp9", 2, "Video, VP9 in WebM", "The same, free of licences", encoder=FFMPEG, kbps=850,
        rate=48_000, settings={"b": "160000"}, pace=2.5,
        video=VideoSpec(
            ("libvpx-vp9",),
            {"deadline": "realtime", "cpu-used": "8", "crf": "34", "b": "0", "row-mt": "1", "tile-columns": "2"},
        ),
    ),
}  # fmt: skip
"""All kinds of files, in the order in which they are offered; the first is the default."""
DEFAULT_OUTPUT = next(iter(OUTPUTS))
RATES = (44_100, 48_000)
"""Samples per second that a file may have."""


def output_named(suffix: str, bits: str) -> OutputFormat | None:
    """The kind of file with a suffix such as '.wav' and as many bits; of what loses something, the first with it."""
    named = [o for o in OUTPUTS if o.suffix == suffix.lower()]
    exact = next((o for o in named if o.spec.bits.lower() == bits.lower()), None)
    return exact or next((o for o in named if not o.spec.is_lossless), None)
