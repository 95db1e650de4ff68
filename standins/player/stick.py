"""What a stick holds, as a player sees it: files in open formats, read afresh each time. See ``docs/formats.md``."""

from __future__ import annotations

import json
import os
from bisect import bisect_right
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import mutagen

PLAYER, PLAYED, MANIFEST = "player.json", "played.json", "stick.json"
TAKES = {"kinds": ["wav", "flac", "mp3"], "rates": [44_100, 48_000], "bits": [16, 24]}
NAME = "Fernbrook's player stand-in"
STAND_IN = {"anchors": [{"time_s": 0.0, "beat": 0.0}], "bpm_before": 120.0, "bpm_after": 120.0, "beats_per_bar": 4}


class StickError(Exception):
    """A stick that cannot be read or written; the message says why."""


@dataclass(frozen=True)
class Marked:
    """A track of a stick and the file that says what was marked on it; ``document`` is all that this says."""

    file: str
    markup: str | None
    document: dict[str, Any]
    title: str
    artist: str
    seconds: float
    problem: str = ""


class Stick:
    """A folder that was filled for a player."""

    def __init__(self, root: Path) -> None:
        self._root = root

    def introduce(self) -> None:
        """Say on the stick what this player takes, so that whoever fills it knows."""
        if not self._root.is_dir():
            raise StickError(f"There is no stick at {self._root}.")
        if not (self._root / PLAYER).is_file():
            self._write(PLAYER, {"name": NAME, "takes": TAKES})

    def tracks(self) -> list[Marked]:
        """All tracks that the stick's own list names, in order, with what is wrong with each."""
        return [self._marked(t) for t in self._manifest().get("tracks", [])]

    def lists(self) -> list[tuple[str, list[str]]]:
        """The lists on the stick: their names, and the files that each names, relative to the stick."""
        found = []
        for path in sorted((self._root / "lists").glob("*.m3u8")):
            entries = [line.strip() for line in path.read_text("utf-8-sig").splitlines()]
            files = [os.path.normpath(Path("lists") / e).replace("\\", "/") for e in entries if e and e[0] != "#"]
            found.append((path.stem, files))
        return found

    def sound(self, file: str) -> Path:
        """Where a track of the stick lies."""
        if file not in {t.get("file") for t in self._manifest().get("tracks", [])}:
            raise StickError(f"‘{file}’ is not on the stick.")
        return self._root / file

    def put_cue(self, file: str, cue_id: str | None, at_s: float, name: str | None) -> dict[str, Any]:
        """Add a cue to a track, or move or rename one."""
        marked = self._of(file)
        cues: list[dict[str, Any]] = list(marked.document["markup"].get("cues", []))
        beat = beat_at(grid_of(marked.document), at_s)
        beat = float(round(beat)) if abs(beat - round(beat)) < 0.05 else beat
        cue = next((c for c in cues if c["id"] == cue_id), None)
        if cue is None:
            taken = {c["id"] for c in cues}
            free = next(f"p{n}" for n in range(1, len(cues) + 2) if f"p{n}" not in taken)
            cue = {"id": free, "role": "plain", "name": "", "hue": None, "note": "", "preferred": False}
            cues.append(cue)
        cue["at"] = beat
        if name is not None:
            cue["name"] = name[:60]
        self._put_cues(marked, cues)
        return cue

    def remove_cue(self, file: str, cue_id: str) -> None:
        """Take a cue away."""
        marked = self._of(file)
        self._put_cues(marked, [c for c in marked.document["markup"].get("cues", []) if c["id"] != cue_id])

    def note_played(self, file: str, seconds: float) -> None:
        """Note that a track was played, and for how long."""
        noted = self.played()
        noted.append(
            {"file": file, "at": datetime.now(UTC).isoformat(timespec="seconds"), "seconds": round(seconds, 1)}
        )
        self._write(PLAYED, {"played": noted})

    def played(self) -> list[dict[str, Any]]:
        """What was played, in order."""
        said = self._read(PLAYED)
        return list(said.get("played", [])) if said else []

    def _of(self, file: str) -> Marked:
        marked = next((t for t in self.tracks() if t.file == file), None)
        if marked is None or marked.markup is None:
            raise StickError(f"Nothing is marked on ‘{file}’ that could be changed.")
        return marked

    def _put_cues(self, marked: Marked, cues: list[dict[str, Any]]) -> None:
        cues.sort(key=lambda c: c["at"])
        document = {**marked.document, "changed_at": datetime.now(UTC).isoformat()}
        document["markup"] = {**document["markup"], "cues": cues}
        self._write(str(marked.markup), document)

    def _marked(self, said: dict[str, Any]) -> Marked:
        file, markup = str(said.get("file", "")), said.get("markup")
        document = (self._read(markup) if markup else None) or {"markup": {}}
        path = self._root / file
        title, artist, seconds, problem = str(said.get("title", file)), str(said.get("artist", "")), 0.0, ""
        try:
            if path.stat().st_size != said.get("bytes"):
                problem = "the file is not as long as the list says"
            sound = mutagen.File(path, easy=True)
            if sound is None:
                problem = "this player does not take that kind of file"
            else:
                seconds = float(sound.info.length)
        except OSError:
            problem = "the file is missing"
        except mutagen.MutagenError:
            problem = "the file cannot be read"
        return Marked(file, markup, document, title, artist, seconds, problem)

    def _manifest(self) -> dict[str, Any]:
        said = self._read(MANIFEST)
        if said is None:
            raise StickError("Nothing was put on this stick yet.")
        return said

    def _read(self, name: str) -> dict[str, Any] | None:
        try:
            said = json.loads((self._root / name).read_text("utf-8"))
        except FileNotFoundError:
            return None
        except (OSError, ValueError) as error:
            raise StickError(f"‘{name}’ on the stick cannot be read: {error}") from error
        return said if isinstance(said, dict) else None

    def _write(self, name: str, content: dict[str, Any]) -> None:
        try:
            file = self._root / name
            new = file.with_name(f".{file.name}.new")
            new.write_text(json.dumps(content, ensure_ascii=False, indent=1), "utf-8")
            new.replace(file)
        except OSError as error:
            raise StickError(f"The stick cannot be written to: {error.strerror}.") from error


def beat_at(grid: dict[str, Any], at_s: float) -> float:
    """The beat of a moment: straight between anchors, at the outer tempi beyond them.

    >>> beat_at(STAND_IN, 2.5)
    5.0
    """
    anchors = grid["anchors"]
    n = bisect_right([a["time_s"] for a in anchors], at_s)
    if n == 0:
        first = anchors[0]
        return float(first["beat"] + (at_s - first["time_s"]) * grid["bpm_before"] / 60.0)
    last = anchors[n - 1]
    if n == len(anchors):
        return float(last["beat"] + (at_s - last["time_s"]) * grid["bpm_after"] / 60.0)
    then = anchors[n]
    slope = (then["beat"] - last["beat"]) / (then["time_s"] - last["time_s"])
    return float(last["beat"] + (at_s - last["time_s"]) * slope)


def time_at(grid: dict[str, Any], beat: float) -> float:
    """The moment of a beat; the inverse of ``beat_at``.

    >>> time_at(STAND_IN, 5.0)
    2.5
    """
    turned = {
        "anchors": [{"time_s": a["beat"], "beat": a["time_s"]} for a in grid["anchors"]],
        "bpm_before": 3600.0 / grid["bpm_before"],
        "bpm_after": 3600.0 / grid["bpm_after"],
    }
    return beat_at(turned, beat)


def grid_of(document: dict[str, Any]) -> dict[str, Any]:
    """The grid of a track; a stand-in where it has none."""
    grid: dict[str, Any] | None = document.get("markup", {}).get("grid")
    return grid or STAND_IN
