"""Sound read from files and written to them: what there is to write, encoders, whole files at any rate."""

from fernbrook.audio.files.decoded import loudness_of
from fernbrook.audio.files.downmix import to_stereo
from fernbrook.audio.files.encoder import Pictures, can_write, encoder_of
from fernbrook.audio.files.file import AudioInfo, check_usable, check_whole, decodes, probe
from fernbrook.audio.files.output import OUTPUTS, OutputFormat, output_named
from fernbrook.audio.files.samples import check_samples
from fernbrook.audio.files.transcode import to_flac, transcode
from fernbrook.audio.files.writer import Dressing, write_audio

__all__ = [
    "OUTPUTS",
    "AudioInfo",
    "Dressing",
    "OutputFormat",
    "Pictures",
    "can_write",
    "check_samples",
    "check_usable",
    "check_whole",
    "decodes",
    "encoder_of",
    "loudness_of",
    "output_named",
    "probe",
    "to_flac",
    "to_stereo",
    "transcode",
    "write_audio",
]
