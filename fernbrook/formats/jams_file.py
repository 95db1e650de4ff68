"""What is known of a recording as JAMS (E. J. Humphrey et al., "JAMS: a JSON annotated music specification for
reproducible MIR research", ISMIR 2014; schema 0.3): beats, sections, voices, cues, keys and tempo, by their moments."""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from fernbrook.core.track import MOST_BEATS, CueRole, Key, Marks, Moment, Span, Tick
from fernbrook.core.value import what_is_wrong
from fernbrook.errors import RefusedError
from fernbrook.formats.track_document import TrackDocument

VERSION = "0.3.5"
VOICE = "voice"
CUE_PREFIX = "cue: "
OLD_ALONE_FROM = "clear_by"
"""What the role was called in files that were written before it was renamed."""
BETWEEN = " · "
LARGEST = 64 << 20

Row = tuple[float, float, Any]
"""A moment, how long it lasts, both in seconds, and what is there."""


@dataclass(frozen=True)
class Annotated:
    """What is written of a recording. ``beats`` are moments with the place of each in its bar, from 1; the rest spans
    with what they are called, and moments that were marked with their roles and names."""

    title: str
    artist: str
    album: str
    duration_s: float
    beats: tuple[tuple[float, int], ...] = ()
    sections: tuple[tuple[float, float, str], ...] = ()
    voice: tuple[tuple[float, float], ...] = ()
    cues: tuple[tuple[float, str], ...] = ()
    keys: tuple[tuple[float, float, Key], ...] = ()
    tempi: tuple[tuple[float, float, float], ...] = ()
    document: TrackDocument | None = field(default=None, compare=False)


def write_jams(said: Annotated) -> str:
    """A recording as JAMS. A document of ours travels in the sandbox, so that it comes back as it was."""
    groups: list[tuple[str, str, list[Row]]] = [
        ("beat", "", [(at, 0.0, place) for at, place in said.beats]),
        ("segment_open", "", [(a, b - a, name) for a, b, name in said.sections]),
        ("segment_open", VOICE, [(a, b - a, VOICE) for a, b in said.voice]),
        ("tag_open", "", [(at, 0.0, f"{CUE_PREFIX}{name}") for at, name in said.cues]),
        ("key_mode", "", [(a, b - a, _key_mode(key)) for a, b, key in said.keys]),
        ("tempo", "", [(a, b - a, bpm) for a, b, bpm in said.tempi]),
    ]
    content = {
        "annotations": [_annotation(name, rules, rows, said.duration_s) for name, rules, rows in groups if rows],
        "file_metadata": {
            "title": said.title,
            "artist": said.artist,
            "release": said.album,
            "duration": said.duration_s,
            "identifiers": {},
            "jams_version": VERSION,
        },
        "sandbox": {"fernbrook": said.document.model_dump(mode="json")} if said.document else {},
    }
    return json.dumps(content, ensure_ascii=False, indent=1) + "\n"


def _annotation(namespace: str, rules: str, rows: Sequence[Row], duration_s: float) -> dict[str, Any]:
    sure = 1.0 if namespace == "tempo" else None
    return {
        "annotation_metadata": {
            "curator": {"name": "", "email": ""},
            "annotator": {},
            "version": "",
            "corpus": "",
            "annotation_tools": "Fernbrook",
            "annotation_rules": rules,
            "validation": "",
            "data_source": "",
        },
        "namespace": namespace,
        "data": [{"time": t, "duration": d, "value": value, "confidence": sure} for t, d, value in rows],
        "sandbox": {},
        "time": 0.0,
        "duration": duration_s,
    }


def _key_mode(key: Key) -> str:
    """A key as the namespace ``key_mode`` has it.

    >>> _key_mode(Key(tonic=1, minor=True))
    'C#:minor'
    """
    return f"{key.name.removesuffix('m')}:{'minor' if key.minor else 'major'}"


def read_jams(content: bytes) -> Marks:
    """What a JAMS file says of a track.

    Raises
    ------
    RefusedError
        When it is no such file, or holds what cannot be.
    """
    if len(content) > LARGEST:
        raise RefusedError("That file is larger than 64 MB: it is no annotation of one track.")
    try:
        said = json.loads(content)
        annotations = said["annotations"]
        own = said.get("sandbox", {}).get("fernbrook")
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise RefusedError("That is no JAMS file: it has no annotations that can be read.") from error
    try:
        marks = _marks(annotations)
        if own is None:
            return marks
        document = TrackDocument.model_validate(own)
    except (ValidationError, KeyError, TypeError, ValueError, AttributeError) as error:
        raise RefusedError(f"An annotation in that file is not as JAMS has it: {_short(error)}") from error
    return Marks(key=document.key, whole=document.markup)


def _marks(annotations: Iterable[dict[str, Any]]) -> Marks:
    beats: list[Tick] = []
    sections: list[Span] = []
    voice: list[Span] = []
    moments: list[Moment] = []
    key: str | None = None
    for each in annotations:
        namespace = str(each["namespace"])
        rows = list(_rows(each["data"]))
        if namespace in ("beat", "beat_position") and not beats:
            beats = [Tick(at_s=at, is_first=_is_first(value)) for at, _, value in rows[:MOST_BEATS]]
        elif namespace.startswith("segment") and each.get("annotation_metadata", {}).get("annotation_rules") == VOICE:
            voice = [Span(start_s=at, end_s=at + length) for at, length, _ in rows]
        elif namespace.startswith("segment") and not sections:
            sections = [Span(start_s=at, end_s=at + length, name=_words(value)) for at, length, value in rows]
        elif namespace == "tag_open":
            moments += [_moment(at, str(value)) for at, length, value in rows if length == 0.0]
        elif namespace == "key_mode" and rows and key is None:
            longest = max(rows, key=lambda r: r[1])
            key = str(longest[2]).replace(":", "")
    parsed = Key.parse(key or "")
    return Marks(
        beats=tuple(beats),
        sections=tuple(sections),
        voice=tuple(voice),
        moments=tuple(moments),
        key=parsed.name if parsed else None,
    )


def _rows(rows: Any) -> Iterator[Row]:
    """Observations, as rows or, as some write them, as columns."""
    if isinstance(rows, dict):
        keys = ("time", "duration", "value")
        rows = [dict(zip(keys, r, strict=True)) for r in zip(*(rows[k] for k in keys), strict=True)]
    for r in rows:
        at, length = float(r["time"]), float(r.get("duration") or 0.0)
        if not (math.isfinite(at) and math.isfinite(length)):
            raise ValueError("a time is no number")
        yield at, length, r.get("value")


def _is_first(value: Any) -> bool | None:
    place = value.get("position") if isinstance(value, dict) else value
    return None if place is None else float(place) == 1.0


def cue_words(role: CueRole, name: str) -> str:
    """A cue in one text: its role before its name.

    >>> cue_words(CueRole.MIX_IN, "short"), cue_words(CueRole.PLAIN, "claps"), cue_words(CueRole.START, "")
    ('mix_in · short', 'claps', 'start')
    """
    if role is CueRole.PLAIN:
        return name or "cue"
    return f"{role.value}{BETWEEN}{name}" if name else role.value


def _moment(at_s: float, text: str) -> Moment:
    """A tag as a cue: one of ours says its role before its name."""
    plain = text.removeprefix(CUE_PREFIX)
    role, _, name = plain.partition(BETWEEN)
    known = {r.value: r for r in CueRole} | {OLD_ALONE_FROM: CueRole.ALONE_FROM}
    if role in known:
        return Moment(at_s=at_s, name=name[:200], role=known[role])
    return Moment(at_s=at_s, name=plain[:200])


def _words(value: Any) -> str:
    return str(value.get("label", "") if isinstance(value, dict) else value or "")[:200]


def _short(error: Exception) -> str:
    """What is wrong, where one of our own rules says so."""
    return what_is_wrong(error) if isinstance(error, ValidationError) else "it is damaged"
