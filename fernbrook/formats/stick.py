"""A stick for a player: a folder with music, lists, markup and a manifest of it all. See ``docs/formats.md``."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal, TypeVar

from pydantic import AfterValidator, Field, ValidationError

from fernbrook.core.value import MOST_SECONDS, Value, When
from fernbrook.enclosed import is_plain, read_inside
from fernbrook.errors import RefusedError
from fernbrook.formats.track_document import TrackDocument

MANIFEST, PLAYER, PLAYED, FILLING = "stick.json", "player.json", "played.json", "filling.json"
MUSIC, MARKUP, LISTS = "music", "markup", "lists"
LARGEST = 256 << 20
MOST_TRACKS = 100_000
MOST_BYTES = 1 << 50

M = TypeVar("M", bound=Value)


class DamagedError(RefusedError):
    """A file on a stick that says nothing which can be understood."""


def _within(*folders: str) -> AfterValidator:
    """A file right in one of the stick's folders: what a manifest names lies nowhere else."""

    def check(name: str) -> str:
        folder, _, rest = name.partition("/")
        if not is_plain(name) or folder not in folders or not rest or "/" in rest or rest.startswith("."):
            raise ValueError(f"‘{name[:80]}’ is no file in ‘{'’ or ‘'.join(folders)}’")
        return name

    return AfterValidator(check)


InMusic = Annotated[str, _within(MUSIC)]
InMarkup = Annotated[str, _within(MARKUP)]
InLists = Annotated[str, _within(LISTS)]
OnStick = Annotated[str, _within(MUSIC, MARKUP, LISTS)]


class Takes(Value):
    """What a player takes: kinds of files by their suffixes, samples per second, and bits of what is not compressed."""

    kinds: tuple[Annotated[str, Field(max_length=16)], ...] = Field(default=("wav", "flac", "mp3"), max_length=100)
    rates: tuple[Annotated[int, Field(ge=1, le=10**6)], ...] = Field(default=(44_100, 48_000), max_length=100)
    bits: tuple[Annotated[int, Field(ge=1, le=64)], ...] = Field(default=(16, 24), max_length=100)


class PlayerSaid(Value):
    """What a player says of itself on its stick."""

    name: str = Field(default="", max_length=200)
    takes: Takes = Takes()


class StickTrack(Value):
    """A track on a stick. ``of`` is the content that it was imported as, ``made_from`` what its file was made of and
    how; ``document`` is what its markup was when it was written, so that what a player changed can be told."""

    of: str = Field(pattern="^[0-9a-f]{64}$")
    title: str = Field(max_length=1000)
    artist: str = Field(default="", max_length=1000)
    file: InMusic
    bytes: int = Field(ge=0, le=MOST_BYTES)
    sha256: str = Field(pattern="^([0-9a-f]{64})?$")
    made_from: str = Field(max_length=200)
    markup: InMarkup
    document: TrackDocument


class StickList(Value):
    """A list on a stick: its name and its file."""

    name: str = Field(max_length=1000)
    file: InLists


class StickManifest(Value):
    """All that Fernbrook put on a stick; what else lies there is not its own."""

    fernbrook: Literal["stick"] = "stick"
    version: Literal[1] = 1
    exported_at: When
    tracks: tuple[StickTrack, ...] = Field(default=(), max_length=MOST_TRACKS)
    lists: tuple[StickList, ...] = Field(default=(), max_length=MOST_TRACKS)

    @property
    def files(self) -> set[str]:
        """All files that were put on the stick, within the folders that are Fernbrook's on it."""
        return {n for t in self.tracks for n in (t.file, t.markup)} | {x.file for x in self.lists}


class Filling(Value):
    """The files that are being put on a stick: where that is cut off, they are known as Fernbrook's all the same."""

    files: tuple[OnStick, ...] = Field(default=(), max_length=3 * MOST_TRACKS)


class PlayedTrack(Value):
    """A track that a player noted as played."""

    file: str = Field(max_length=1000)
    at: When
    seconds: float = Field(default=0.0, ge=0.0, le=MOST_SECONDS)


class Played(Value):
    """What was played, in order."""

    played: tuple[PlayedTrack, ...] = Field(default=(), max_length=100_000)


def read_manifest(root: Path) -> StickManifest | None:
    """What Fernbrook put on a stick; None where there is nothing of it.

    Raises
    ------
    RefusedError
        When that cannot be told.
    """
    try:
        return _read(root, MANIFEST, StickManifest)
    except DamagedError as error:
        raise RefusedError(
            f"‘{MANIFEST}’ on the stick is damaged, or was written by a newer Fernbrook. Delete it there, then fill "
            "the stick again."
        ) from error


def files_of(root: Path) -> set[str]:
    """All files on a stick that are Fernbrook's: those of its manifest, and of a filling that was cut off."""
    manifest = read_manifest(root)
    try:
        filling = _read(root, FILLING, Filling)
    except DamagedError:
        filling = None
    return (manifest.files if manifest else set()) | set(filling.files if filling else ())


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
    try:
        return kind.model_validate_json(read_inside(root, name, LARGEST))
    except FileNotFoundError:
        return None
    except OSError as error:
        raise RefusedError(f"‘{name}’ on the stick cannot be read: {error.strerror or error}.") from error
    except (ValidationError, RecursionError) as error:
        raise DamagedError(
            f"‘{name}’ on the stick is damaged, or was written by a newer Fernbrook: what it says is left out."
        ) from error
