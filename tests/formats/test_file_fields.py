from __future__ import annotations

from pathlib import Path

import av
import mutagen
import numpy as np
import pytest

from fernbrook.errors import AudioFileError
from fernbrook.formats.file_fields import Field, read_fields, write_fields

RATE = 44_100


@pytest.fixture
def m4a(tmp_path: Path) -> Path:
    """A second of noise as AAC in MP4."""
    path = tmp_path / "take.m4a"
    with av.open(path, "w", format="mp4") as container:
        stream = container.add_stream("aac", rate=RATE)
        stream.layout = "stereo"
        noise = np.random.default_rng(2).uniform(-0.3, 0.3, (2, RATE)).astype(np.float32)
        frame = av.AudioFrame.from_ndarray(noise, format="fltp", layout="stereo")
        frame.rate = RATE
        for packet in (*stream.encode(frame), *stream.encode(None)):
            container.mux(packet)
    return path


def test_mp4_holds_all_fields_and_loses_none_of_its_own(m4a: Path) -> None:
    file = mutagen.File(m4a)
    file["\xa9alb"] = ["Late"]
    file.save()
    wanted = {f: f"{f.value} ß 1" for f in Field}
    write_fields(m4a, wanted)
    assert read_fields(m4a) == wanted
    write_fields(m4a, {Field.BPM: None, Field.TITLE: None, Field.MARKUP: None})
    assert read_fields(m4a) == {**wanted, Field.BPM: None, Field.TITLE: None, Field.MARKUP: None}
    assert mutagen.File(m4a)["\xa9alb"] == ["Late"]
    with av.open(m4a) as container:
        assert sum(f.samples for f in container.decode(audio=0)) >= RATE


def test_what_holds_no_tags_is_named(tmp_path: Path) -> None:
    text = tmp_path / "shopping list.mp3"
    text.write_text("milk, bread")
    with pytest.raises(AudioFileError, match=r"shopping list\.mp3"):
        read_fields(text)
