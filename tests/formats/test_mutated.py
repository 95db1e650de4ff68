"""Files that were damaged at random: whatever comes of them is refused in words, or read; nothing else.

``FERNBROOK_MUTATIONS`` says how many of each are tried; docs/measures.md tells of 2,000.
"""

from __future__ import annotations

import os
import random
from collections.abc import Callable
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile

from fernbrook.audio.files.file import check_whole, decodes, probe
from fernbrook.audio.files.transcode import transcode
from fernbrook.errors import FernbrookError
from fernbrook.formats.file_fields import read_fields
from fernbrook.formats.jams_file import Annotated, write_jams
from fernbrook.formats.mark_files import read_marks
from fernbrook.formats.midi_map import write_midi_map
from fernbrook.formats.playlists import read_playlist
from fernbrook.formats.track_document import read_document
from fernbrook.service.files.tags import read_tags

pytestmark = pytest.mark.slow
TIMES = int(os.environ.get("FERNBROOK_MUTATIONS", "150"))
ODD_NUMBERS = (b"1e999", b"-1", b"99999999999999999999", b"NaN", b"\xff", b"", b"\xc2\xb2")

XSPF = (
    b'<?xml version="1.0" encoding="UTF-8"?><playlist version="1" xmlns="http://xspf.org/ns/0/"><trackList><track>'
    b"<location>file:///a%20b.flac</location><title>x</title><duration>12000</duration></track></trackList></playlist>"
)
DOCUMENT = (
    b'{"fernbrook":"track","version":1,"changed_at":"2026-01-01T00:00:00Z","of":"","duration_s":10.0,"key":null,'
    b'"tags":[],"markup":{"grid":{"anchors":[{"time_s":0.1,"beat":0}],"bpm_before":120,"bpm_after":120,'
    b'"beats_per_bar":4},"sections":[],"voice":[],"cues":[{"id":"a","at":4}],"loops":[]}}'
)
BEATS = tuple((0.5 * n, n % 4 + 1) for n in range(60))
TEXTS: dict[str, bytes] = {
    "xspf": XSPF,
    "m3u": b"#EXTM3U\n#EXTINF:12,Ines - Wet\nsets/a.flac\n#EXTINF:-1,\nhttp://[::1]/y.mp3\n",
    "pls": b"[playlist]\nFile1=a.wav\nTitle1=b - c\nLength1=12\n",
    "mid": write_midi_map(np.arange(0.2, 30, 0.5), np.arange(60) % 4 == 0, 31.0, [(3.0, "in")], "Night"),
    "jams": write_jams(Annotated("Moss", "A", "", 60.0, beats=BEATS, sections=((0.0, 30.0, "Intro"),))).encode(),
    "txt": b"0.0\t10.0\tIntro\n10.0\t10.0\tcue\n20\t30\tFull\n",
    "beats": b"0.5\n1.0\n1.5\n",
    "cue": b'FILE "a.wav" WAVE\n  TRACK 01 AUDIO\n    TITLE "y"\n    INDEX 01 00:00:00\n',
    "csv": b'start,end,name\n0,31.5,"Intro, long"\n40,40,drop\n',
    "json": DOCUMENT,
}
READERS: dict[str, Callable[[bytes], object]] = {
    **{k: lambda content, k=k: read_playlist(content, f"x.{k}") for k in ("xspf", "m3u", "pls")},
    **{k: lambda content, k=k: read_marks(f"x.{k}", content) for k in TEXTS if k not in ("xspf", "m3u", "pls")},
}


def mutated(content: bytes, dice: random.Random) -> bytes:
    """The same with some bytes changed, lost, doubled, or put in; numbers become odd ones."""
    made = bytearray(content)
    for _ in range(dice.choice((1, 1, 2, 5, 20))):
        if not made:
            break
        at, how = dice.randrange(len(made)), dice.random()
        if how < 0.4:
            made[at] = dice.randrange(256)
        elif how < 0.55:
            del made[at : at + dice.choice((1, 4, 50, 2000))]
        elif how < 0.7:
            made[at:at] = dice.randbytes(dice.choice((1, 4, 50)))
        elif how < 0.8:
            del made[at:]
        elif how < 0.9:
            begin = dice.randrange(len(made))
            made[at:at] = made[begin : begin + dice.choice((4, 100))]
        elif (digit := next((n for n in range(at, len(made)) if 48 <= made[n] <= 57), None)) is not None:
            made[digit : digit + 1] = dice.choice(ODD_NUMBERS)
    return bytes(made)


def refusal(read: Callable[..., object], *what: object) -> str:
    """In which words something is refused; none where it is read."""
    try:
        read(*what)
    except FernbrookError as error:
        return str(error)
    return ""


@pytest.mark.parametrize("kind", TEXTS)
def test_a_damaged_text_is_refused_or_read(kind: str) -> None:
    dice, told = random.Random(kind), 0
    for _ in range(TIMES):
        content = mutated(TEXTS[kind], dice)
        told += bool(refusal(READERS[kind], content))
        read_document(content.decode("latin-1"))
    assert told, "some of them are damaged beyond reading"


def encoded(path: Path, container: str, codec: str) -> None:
    t = np.arange(88_200) / 44_100
    sound = (0.3 * np.sin(2 * np.pi * 330 * t)).astype(np.float32)[None].repeat(2, 0)
    with av.open(str(path), "w", format=container) as out:
        stream = out.add_stream(codec, rate=44_100, layout="stereo")
        stream.bit_rate = 128_000
        for begin in range(0, sound.shape[1], 1024):
            part = np.ascontiguousarray(sound[:, begin : begin + 1024])
            frame = av.AudioFrame.from_ndarray(part, format="fltp", layout="stereo")
            frame.sample_rate, frame.pts = 44_100, begin
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


@pytest.mark.parametrize("kind", ["wav", "flac", "ogg", "mp3", "aiff", "m4a", "wv"])
def test_damaged_sound_is_refused_or_read(tmp_path: Path, kind: str) -> None:
    path, target = tmp_path / f"take.{kind}", tmp_path / "decoded.flac"
    if kind in ("m4a", "wv"):
        encoded(path, *{"m4a": ("ipod", "aac"), "wv": ("wv", "wavpack")}[kind])
    else:
        noise = 0.2 * np.random.default_rng(1).standard_normal((44_100, 2))
        soundfile.write(path, noise, 44_100, format="MP3" if kind == "mp3" else None)
    content, dice = path.read_bytes(), random.Random(kind)
    for _ in range(max(20, TIMES // 4)):
        path.write_bytes(mutated(content, dice))
        read_tags(path, path.name)
        refusal(read_fields, path)
        assert "Error" not in refusal(taken, path, target)


def taken(path: Path, target: Path) -> None:
    """What an import does with the sound of a file."""
    if not decodes(path):
        transcode(path, target)
        path = target
    check_whole(path, path.name, probe(path))
