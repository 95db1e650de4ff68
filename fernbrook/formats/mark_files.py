"""Files from elsewhere that say something of a track: JAMS, markup as JSON, labels as text, MIDI, CUE sheets."""

from __future__ import annotations

import csv
import math
import re
from collections.abc import Callable
from pathlib import PurePath

from pydantic import ValidationError

from fernbrook.core.track import Marks, Markup, Moment, Span, Tick
from fernbrook.core.value import what_is_wrong
from fernbrook.errors import RefusedError
from fernbrook.formats.jams_file import read_jams
from fernbrook.formats.midi_map import read_midi_map
from fernbrook.formats.text import decoded
from fernbrook.formats.track_document import LONGEST, read_document
from fernbrook.formats.track_list import FRAMES_A_SECOND

AN_INSTANT_S = 0.02
"""A label that is no longer marks a moment."""
MOST_SPAN_NAMES = 200


def read_marks(name: str, content: bytes) -> Marks:
    """What a file says of a track; its name says which kind it is.

    Raises
    ------
    RefusedError
        When it is of no kind that is read, is damaged, or says nothing.
    """
    kind = PurePath(name).suffix.lower()
    read = KINDS.get(kind)
    if read is None:
        raise RefusedError(f"‘{name[:80]}’ is of no kind that is read here. Those are {', '.join(KINDS)}.")
    try:
        marks = read(content)
    except ValidationError as error:
        raise RefusedError(f"‘{name[:80]}’ says what cannot be: {what_is_wrong(error)}.") from error
    if not marks.facets:
        raise RefusedError(f"‘{name[:80]}’ says nothing of a track: no beats, sections, cues or key.")
    return marks


def _json(content: bytes) -> Marks:
    """Markup as JSON: the document that travels in files, or the markup alone."""
    text = _text(content)
    document = read_document(text)
    if document is not None:
        return Marks(key=document.key, whole=document.markup)
    try:
        return Marks(whole=Markup.model_validate_json(text[:LONGEST]))
    except ValidationError:
        return read_jams(content)


def _labels(content: bytes) -> Marks:
    """Labels, one a line: start and end in seconds and a name, with tabs between them. Spans are sections, moments are
    cues; where all moments are called 1, 2, 3 … they are beats."""
    spans: list[Span] = []
    moments: list[Moment] = []
    lines = _text(content).splitlines()
    if (alone := _moments_alone(lines)) is not None:
        return Marks(beats=tuple(Tick(at_s=s) for s in alone))
    for number, line in enumerate(lines, 1):
        if not line.strip() or line.startswith("\\"):
            continue  # a line that begins with a backslash carries frequencies of the label before it
        fields = line.split("\t")
        try:
            start, end = float(fields[0]), float(fields[1])
            name = fields[2].strip() if len(fields) > 2 else ""
        except (ValueError, IndexError) as error:
            raise RefusedError(
                f"Line {number} is no label: ‘{line[:60]}’. It takes start, end and a name, with tabs between."
            ) from error
        if not (math.isfinite(start) and math.isfinite(end)) or end < start:
            raise RefusedError(f"Line {number} ends before it starts: ‘{line[:60]}’.")
        if end - start > AN_INSTANT_S:
            spans.append(Span(start_s=start, end_s=end, name=name[:MOST_SPAN_NAMES]))
        else:
            moments.append(Moment(at_s=start, name=name[:MOST_SPAN_NAMES]))
    if len(moments) > 1 and all(re.fullmatch(r"\d{1,2}", m.name) for m in moments):
        beats = tuple(Tick(at_s=m.at_s, is_first=m.name == "1") for m in moments)
        return Marks(beats=beats, sections=tuple(spans))
    return Marks(sections=tuple(spans), moments=tuple(moments))


def _moments_alone(lines: list[str]) -> list[float] | None:
    """The moments of a list of beats that has a number a line, and nothing else; None of any other."""
    numbers = [line.strip().replace(",", ".") for line in lines if line.strip()]
    if len(numbers) < 2 or not all(re.fullmatch(r"[0-9]+(\.[0-9]+)?([eE][-+]?[0-9]+)?", n) for n in numbers):
        return None
    return [float(n) for n in numbers]


def _csv(content: bytes) -> Marks:
    """A table with a comma, a semicolon or a tab between its columns, with or without a line of names: start, end and
    name; or start and name; or moments alone."""
    text = _text(content)
    begin = text[:4096]
    between = max(",;\t", key=begin.count)
    try:
        table = list(csv.reader(text.splitlines(), delimiter=between))
    except csv.Error as error:
        raise RefusedError("That is no table: a cell of it never ends, or is impossibly long.") from error
    rows = [[cell.strip() for cell in row] for row in table if any(row)]
    if rows and not _is_number(rows[0][0]):
        rows = rows[1:]  # the names of the columns
    lines = []
    for row in rows:
        moments = [cell.replace(",", ".") for cell in row[:2] if _is_number(cell)]
        name = [cell.replace("\t", " ") for cell in row[len(moments) : len(moments) + 1]]
        lines.append("\t".join([*(moments * 2 if len(moments) == 1 and name else moments), *name]))
    return _labels("\n".join(lines).encode())


def _is_number(cell: str) -> bool:
    return re.fullmatch(r"[0-9]+([.,][0-9]+)?", cell) is not None


def _midi(content: bytes) -> Marks:
    """The tempo map and the markers of a standard MIDI file."""
    said = read_midi_map(content)
    firsts: set[int] = set()
    bars = [*said.bars] if said.bars and said.bars[0][0] == 0 else [(0, 4), *said.bars]
    ends = [*(beat for beat, _ in bars[1:]), len(said.beats_s)]
    for (begin, per_bar), end in zip(bars, ends, strict=True):
        firsts |= set(range(begin, end, per_bar))
    beats = [Tick(at_s=float(s), is_first=n in firsts) for n, s in enumerate(said.beats_s)]
    if len(beats) > 2 and _is_pick_up(beats):
        beats = beats[1:]  # what lies before the first beat, in a quarter of its own
    return Marks(beats=tuple(beats), moments=tuple(Moment(at_s=s, name=text[:200]) for s, text in said.markers))


def _is_pick_up(beats: list[Tick]) -> bool:
    """Whether the first quarter is one that only fills the time up to the first beat: it has a bar to itself."""
    first, second = beats[1].at_s - beats[0].at_s, beats[2].at_s - beats[1].at_s
    return bool(beats[1].is_first) and not math.isclose(first, second, rel_tol=0.02)


def _cue_sheet(content: bytes) -> Marks:
    """The tracks of a CUE sheet as cues, each called by its title."""
    moments: list[Moment] = []
    title, performer, within = "", "", False
    for line in _text(content).splitlines():
        words = next(csv.reader([line.strip()], delimiter=" ", skipinitialspace=True), [])
        said_of = [w for w in words if w]
        match [w.upper() for w in said_of[:1]] + said_of[1:]:
            case ["TRACK", *_]:
                title, performer, within = "", "", True
            case ["TITLE", said, *_] if within:
                title = said
            case ["PERFORMER", said, *_] if within:
                performer = said
            case ["INDEX", ("01" | "1"), time, *_]:
                name = " – ".join(w for w in (performer, title) if w)
                moments.append(Moment(at_s=_cue_seconds(time), name=name[:200]))
    return Marks(moments=tuple(moments))


def _cue_seconds(time: str) -> float:
    """Minutes, seconds and frames of 1/75 s.

    >>> _cue_seconds("01:02:15")
    62.2
    """
    match = re.fullmatch(r"(\d{1,4}):(\d{1,2}):(\d{1,2})", time)
    if match is None:
        raise RefusedError(f"‘{time[:20]}’ in that CUE sheet is no time: it takes minutes, seconds and frames.")
    minutes, seconds, frames = (int(x) for x in match.groups())
    return minutes * 60 + seconds + frames / FRAMES_A_SECOND


def _text(content: bytes) -> str:
    """A text, whatever it is written in."""
    return decoded(content)


KINDS: dict[str, Callable[[bytes], Marks]] = {
    ".jams": read_jams,
    ".json": _json,
    ".txt": _labels,
    ".tsv": _labels,
    ".csv": _csv,
    ".beats": _labels,
    ".mid": _midi,
    ".midi": _midi,
    ".cue": _cue_sheet,
}
"""What reads each kind of file, by its suffix."""
