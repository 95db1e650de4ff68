"""Fields in the tags of audio files: ID3 in MP3, WAV and AIFF, Vorbis comments in FLAC, Ogg and Opus, and MP4.

Read and written by name, whatever the file calls them. A field that is None is not there.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from pathlib import Path
from typing import Any

import mutagen
from mutagen.id3 import COMM, TXXX, Frames
from mutagen.mp4 import AtomDataType, MP4FreeForm

from fernbrook.errors import AudioFileError


class Field(StrEnum):
    """A field that can be written. ``MARKUP`` is our own: all that was set by hand, as JSON."""

    TITLE = "title"
    BPM = "bpm"
    KEY = "key"
    COMMENT = "comment"
    GAIN = "gain"
    MARKUP = "markup"


ID3 = {Field.TITLE: "TIT2", Field.BPM: "TBPM", Field.KEY: "TKEY"}
OWN = {Field.GAIN: "REPLAYGAIN_TRACK_GAIN", Field.MARKUP: "FERNBROOK_MARKUP"}
VORBIS = {Field.TITLE: "title", Field.BPM: "bpm", Field.KEY: "initialkey", Field.COMMENT: "comment"} | OWN
MP4 = {Field.TITLE: "\xa9nam", Field.COMMENT: "\xa9cmt"}
MP4_OWN = "----:com.apple.iTunes:"
MP4_FREE = {Field.BPM: "BPM", Field.KEY: "initialkey"} | OWN
LANGUAGE = "eng"


def read_fields(path: Path) -> dict[Field, str | None]:
    """All fields of a file.

    Raises
    ------
    AudioFileError
        When its tags cannot be read.
    """
    file = _open(path)
    get = _reader(file)
    return {field: get(field) for field in Field}


def write_fields(path: Path, values: Mapping[Field, str | None]) -> None:
    """Set some fields of a file and leave all others; None takes one away.

    Raises
    ------
    AudioFileError
        When its tags cannot be written.
    """
    file = _open(path)
    try:
        if file.tags is None:
            file.add_tags()
        put = _writer(file)
        for field, value in values.items():
            put(field, value)
        file.save()
    except (mutagen.MutagenError, ValueError, TypeError) as error:
        raise AudioFileError(f"The tags of ‘{path.name}’ cannot be written: the file is damaged.") from error


def _open(path: Path) -> Any:
    try:
        file = mutagen.File(path)
    except Exception as error:  # mutagen raises almost anything on broken tags
        raise AudioFileError(f"The tags of ‘{path.name}’ cannot be read: they are damaged.") from error
    if file is None:
        raise AudioFileError(f"‘{path.name}’ is of a kind that holds no tags.")
    return file


def _kind(file: Any) -> str:
    if hasattr(file.tags, "getall") or type(file).__name__ in ("MP3", "WAVE", "AIFF"):
        return "id3"
    return "mp4" if type(file).__name__ == "MP4" else "vorbis"


def _reader(file: Any) -> Any:
    tags = file.tags
    if tags is None:
        return lambda _: None
    return {"id3": _from_id3, "mp4": _from_mp4, "vorbis": _from_vorbis}[_kind(file)](tags)


def _from_id3(tags: Any) -> Any:
    def get(field: Field) -> str | None:
        if field is Field.COMMENT:
            found = next((c for c in tags.getall("COMM") if not c.desc), None)
            return _text(found.text) if found else None
        name = ID3.get(field)
        frame = tags.get(name) if name else next((t for t in tags.getall("TXXX") if t.desc == OWN[field]), None)
        return _text(frame.text) if frame is not None else None

    return get


def _from_mp4(tags: Any) -> Any:
    def get(field: Field) -> str | None:
        return _text(tags.get(MP4.get(field) or f"{MP4_OWN}{MP4_FREE[field]}"))

    return get


def _from_vorbis(tags: Any) -> Any:
    return lambda field: _text(tags.get(VORBIS[field]))


def _text(value: Any) -> str | None:
    first = value[0] if isinstance(value, list) and value else value
    if first is None or (isinstance(first, list) and not first):
        return None
    return bytes(first).decode(errors="replace") if isinstance(first, bytes) else str(first)


def _writer(file: Any) -> Any:
    return {"id3": _to_id3, "mp4": _to_mp4, "vorbis": _to_vorbis}[_kind(file)](file.tags)


def _to_id3(tags: Any) -> Any:
    def put(field: Field, value: str | None) -> None:
        if field is Field.COMMENT:
            others = [c for c in tags.getall("COMM") if c.desc]
            mine = [COMM(encoding=3, lang=LANGUAGE, desc="", text=value)] if value is not None else []  # type: ignore[no-untyped-call]
            tags.setall("COMM", [*others, *mine])
        elif field in ID3:
            frames = [Frames[ID3[field]](encoding=3, text=value)] if value is not None else []
            tags.setall(ID3[field], frames)
        else:
            texts = [t for t in tags.getall("TXXX") if t.desc != OWN[field]]
            if value is not None:
                texts.append(TXXX(encoding=3, desc=OWN[field], text=value))  # type: ignore[no-untyped-call]
            tags.setall("TXXX", texts)

    return put


def _to_mp4(tags: Any) -> Any:
    def put(field: Field, value: str | None) -> None:
        name = MP4.get(field) or f"{MP4_OWN}{MP4_FREE[field]}"
        if value is None:
            tags.pop(name, None)
        elif field in MP4:
            tags[name] = [value]
        else:
            tags[name] = [MP4FreeForm(value.encode(), dataformat=AtomDataType.UTF8)]  # type: ignore[no-untyped-call]

    return put


def _to_vorbis(tags: Any) -> Any:
    def put(field: Field, value: str | None) -> None:
        name = VORBIS[field]
        if value is not None:
            tags[name] = [value]
        elif name in tags:
            del tags[name]

    return put
