"""Requests and answers: what tracks are gathered in."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.core.library import SCRIPTS, Encoding, Fit
from fernbrook.core.track import Relation
from fernbrook.service.files import Change as FileChange
from fernbrook.service.files import Wanted
from fernbrook.service.tracks import Gathered, OtherReading

LONGEST_SHOWN = 400
Id = Annotated[str, StringConstraints(max_length=32)]
Name = Annotated[str, StringConstraints(min_length=1, max_length=120)]
Ids = Annotated[list[Id], Field(max_length=100_000)]


class TracksIn(ApiModel):
    """Some tracks."""

    track_ids: Ids


class Tagging(TracksIn):
    """Tags for some tracks, and tags to be taken from them."""

    add: list[Name] = Field(default=[], max_length=50)
    remove: list[Name] = Field(default=[], max_length=50)


class ReadingOut(ApiModel):
    """How names could be read: an encoding, what it is called, and a title and an artist in it."""

    encoding: Encoding
    script: str
    title: str
    artist: str

    @classmethod
    def of(cls, reading: OtherReading) -> ReadingOut:
        """The answer for a reading."""
        script = SCRIPTS[reading.encoding]
        return cls(encoding=reading.encoding, script=script, title=reading.title, artist=reading.artist)


class ReadAs(ApiModel):
    """The tracks whose names are to be read again, and in which encoding."""

    track_ids: Ids = Field(min_length=1)
    encoding: Encoding


class ReadOut(ApiModel):
    """How many tracks have other names now."""

    tracks: int


class TagName(ApiModel):
    """What a tag is to be called."""

    name: Name


class ListIn(ApiModel):
    """A new list."""

    name: Name
    track_ids: Ids = Field(default=[])


class ListChange(ApiModel):
    """What is to be changed of a list; what is None stays."""

    name: Name | None = None
    track_ids: Ids | None = None


class FilterIn(ApiModel):
    """A search and its name."""

    name: Name
    search: str = Field(max_length=1000)


class PairingIn(ApiModel):
    """What is to be noted of two tracks."""

    note: str = Field(default="", max_length=500)


class Made(ApiModel):
    """What was made."""

    id: str


class MissingOut(ApiModel):
    """Tracks whose files are missing."""

    track_ids: list[str]


class ListOut(ApiModel):
    """A list of tracks, in its own order."""

    id: str
    name: str
    track_ids: list[str]


class FilterOut(ApiModel):
    """A search that was given a name."""

    id: str
    name: str
    search: str


class PairingOut(ApiModel):
    """Two tracks, in that order, that go well together."""

    first: str
    second: str
    note: str


class GatheredOut(ApiModel):
    """All that tracks are gathered in. ``undo`` and ``redo`` say what they would do, or are None."""

    lists: list[ListOut]
    filters: list[FilterOut]
    pairings: list[PairingOut]
    tags: dict[str, int] = Field(description="How many tracks have each; those of most first.")
    undo: str | None
    redo: str | None

    @classmethod
    def of(cls, gathered: Gathered, tags: dict[str, int]) -> GatheredOut:
        """The shape of what there is."""
        return cls(
            lists=[ListOut(id=x.id, name=x.name, track_ids=list(x.track_ids)) for x in gathered.lists],
            filters=[FilterOut(id=f.id, name=f.name, search=f.search) for f in gathered.filters],
            pairings=[PairingOut(first=p.first, second=p.second, note=p.note) for p in gathered.pairings],
            tags=tags,
            undo=gathered.steps.undo,
            redo=gathered.steps.redo,
        )


class FoundOut(ApiModel):
    """The tracks that a search means, in order."""

    ids: list[str]


class FitOut(ApiModel):
    """How well a track fits. ``bend`` is how much faster than its own tempo it would play, as a share."""

    id: str
    bend: float | None
    count: float
    relation: Relation | None
    shift: int = Field(description="The semitones after which its key would fit.")
    paired: bool
    reasons: list[str]

    @classmethod
    def of(cls, fit: Fit) -> FitOut:
        """The answer for a fit."""
        seen = {name: getattr(fit, name) for name in cls.model_fields if name != "reasons"}
        return cls(**seen, reasons=list(fit.reasons))


class ImportedListOut(ApiModel):
    """What came of a list that was read."""

    id: str
    entries: int
    missing: list[str] = Field(description="A plain word on each entry that is not in the library.")


class WantedIn(ApiModel):
    """What is to be written into files. ``title`` and ``comment`` are patterns such as ‘{bpm} {key} {artist}’."""

    bpm: bool = False
    key: Literal["music", "wheel"] | None = None
    comment: str | None = Field(default=None, max_length=500)
    title: str | None = Field(default=None, max_length=500)
    gain: bool = False
    markup: bool = Field(default=False, description="All that was set by hand, so that it travels in the file.")

    @property
    def wanted(self) -> Wanted:
        """As the service takes it."""
        return Wanted(**self.model_dump())


class FieldChangeOut(ApiModel):
    """A field that would be, or was, changed; None where it is not there."""

    field: str = Field(description="title, bpm, key, comment, gain or markup")
    before: str | None
    after: str | None

    @classmethod
    def of(cls, change: FileChange) -> FieldChangeOut:
        """The answer for a change; what is our own is told by its length."""
        short = {side: _short(getattr(change, side)) for side in ("before", "after")}
        return cls(field=change.field.value, **short)


def _short(value: str | None) -> str | None:
    return value if value is None or len(value) < LONGEST_SHOWN else f"{len(value)} letters of JSON"
