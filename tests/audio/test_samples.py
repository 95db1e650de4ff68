"""Files with samples that are no sound: refused when they come in, and wherever they are read."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from fernbrook.audio.files.file import probe
from fernbrook.audio.sources.source import Source
from fernbrook.errors import AudioFileError

RATE = 44_100


def _file(folder: Path, bad: float, subtype: str = "FLOAT", at: int = 7 * RATE + 11) -> Path:
    sound = np.full((10 * RATE, 2), 0.1)
    sound[at, 1] = bad
    path = folder / "take 3.wav"
    soundfile.write(path, sound, RATE, subtype=subtype)
    return path


@pytest.mark.parametrize("subtype", ["FLOAT", "DOUBLE"])
@pytest.mark.parametrize(
    ("bad", "words"), [(np.inf, "no numbers"), (-np.inf, "no numbers"), (np.nan, "no numbers"), (3e38, "60 dB beyond")]
)
def test_one_such_sample_is_found_and_told_with_its_place(tmp_path: Path, bad: float, words: str, subtype: str) -> None:
    path = _file(tmp_path, bad, subtype)
    with pytest.raises(AudioFileError, match=rf"‘take 3\.wav’ holds samples .*{words}.* at 7\.00 s"):
        probe(path)
    with Source(path, RATE) as source, pytest.raises(AudioFileError, match="holds samples"):
        source.read(6 * RATE, 2 * RATE)


def test_a_file_that_is_merely_far_too_loud_is_taken(tmp_path: Path) -> None:
    assert probe(_file(tmp_path, 40.0)).frames == 10 * RATE
