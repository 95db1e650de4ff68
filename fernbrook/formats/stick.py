"""A stick for a player: a folder with music, lists, markup and a manifest of it all. See ``docs/formats.md``."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Annotated, Literal, TypeVar

from pydantic import AfterValidator, Field, ValidationError

from fernbrook.core.value import Value
from fernbrook.errors import RefusedError
from fernbrook.formats.archive import is_plain
from fernbrook.formats.track_document import TrackDocument

MANIFEST, PLAYER, PLAYED = "stick.json", "player.json", "played.json"
MUSIC, MARKUP, LISTS = "music", "markup", "lists"
LARGEST = 256 << 20

M = TypeVar("M", bound=Value)


def _within(folder: str) -> AfterValidator:
    """A file right in one of the stick's folders: what a manifest names lies nowhere else."""

    def check(name: str) -> str:
        if not is_plain(name) or name.split("/")[:-1] != [folder]:
            raise ValueError(f"‘{name[:80]}’ is no file in ‘{folder}’")
        return name

    return AfterValidator(check)


InMusic = Annotated[str, _within(MUSIC)]
InMarkup = Annotated[str, _within(MARKUP)]
InLists = Annotated[str, _within(LISTS)]


class Takes(Value):
    """What a player takes: kinds of files by their suffixes, samples per second, and bits of what is not compressed."""

    kinds: tuple[str, ...] = ("wav", "flac", "mp3")
    rates: tuple[int, ...] = (44_100, 48_000)
    bits: tuple[int, ...] = (16, 24)


class PlayerSaid(Value):
    """What a player says of itself on its stick."""

    name: str = Field(default="", max_length=200)
    takes: Takes = Takes()


class StickTrack(Value):
    """A track on a stick. ``of`` is the content that it was imported as, ``made_from`` what its file was made of and
    how; ``document`` is what its markup was when it was written, so that what a player changed can be told."""

    of: str = Field(pattern="^[0-9a-f]{64}$")
    title: str
    artist: str = ""
    file: InMusic
    bytes: int
    sha256: str
    made_from: str
    markup: InMarkup
    document: TrackDocument


class StickList(Value):
    """A list on a stick: its name and its file."""

    name: str
    file: InLists


class StickManifest(Value):
    """All that Fernbrook put on a stick; what else lies there is not its own."""

    fernbrook: Literal["stick"] = "stick"
    version: Literal[1] = 1
    exported_at: datetime
    tracks: tuple[StickTrack, ...] = ()
    lists: tuple[StickList, ...] = ()


class PlayedTrack(Value):
    """A track that a player noted as played."""

    file: str = Field(max_length=1000)
    at: datetime
    seconds: float = 0.0


class Played(Value):
    """What was played, in order."""

    played: tuple[PlayedTrack, ...] = Field(default=(), max_length=100_000)


def read_manifest(root: Path) -> StickManifest | None:
    """What Fernbrook put on a stick; None where there is nothing of it."""
    return _read(root, MANIFEST, StickManifest)


def read_player(root: Path) -> PlayerSaid:
    """What the player of a stick says of itself; what most take where none has."""
    return _read(root, PLAYER, PlayerSaid) or PlayerSaid()


def read_played(root: Path) -> tuple[PlayedTrack, ...]:
    """What was played from a stick."""
    found = _read(root, PLAYED, Played)
    return found.played if found else ()


def read_document(root: Path, name: str) -> TrackDocument | None:
    """What a stick says of a track; None where its file is gone."""
    return _read(root, name, TrackDocument)


def _read(root: Path, name: str, kind: type[M]) -> M | None:
    path = root / name
    try:
        if path.stat().st_size > LARGEST:
            raise RefusedError(f"‘{name}’ on the stick is impossibly large. It was not read.")
        return kind.model_validate_json(path.read_bytes())
    except FileNotFoundError:
        return None
    except OSError as error:
        raise RefusedError(f"The stick at {root} cannot be read: {error.strerror or error}. Is it still in?") from error
    except ValidationError as error:
        raise RefusedError(
            f"‘{name}’ on the stick is damaged, or of a newer version: {error.errors()[0]['msg']}."
        ) from error
