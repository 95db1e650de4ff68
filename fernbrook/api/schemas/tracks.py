"""Requests and answers: tracks."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import Field
from pydantic_core import to_json

from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.jobs import JobOut
from fernbrook.core.track import Cue, Doubt, Grid, Loop, Section, SuggestedCue, TrackFacts, VoiceSpan
from fernbrook.service.tracks import Brought, Imported, Track


class CueMark(ApiModel):
    """A cue's moment in seconds, and what stands on its plate."""

    at_s: float
    plate: str


class TrackOut(ApiModel):
    """A track of the library."""

    id: str
    version: int = Field(description="Counts every change of what is known of the track.")
    title: str
    artist: str
    file_name: str
    key_tag: str | None
    bpm: float | None
    comes_bpm: float | None = Field(description="Its tempo where it begins to sound, where it means to change it.")
    leaves_bpm: float | None = Field(description="And where its sound ends.")
    steady: bool
    clarity: float | None
    format: str
    coding: str
    rate: int
    channels: int
    duration_s: float
    loudness_lufs: float | None
    true_peak_dbtp: float | None
    added_at: datetime
    key: str | None
    key_wheel: str | None
    album: str
    genre: str
    comment: str
    year: int | None
    bit_rate: int | None
    energy: float | None
    voice_share: float | None
    tags: list[str]
    cue_marks: list[CueMark]
    checked: bool
    grid_by_hand: bool
    doubts: list[Doubt]
    outdated: bool = Field(description="Whether a newer version of the analysis would find more.")
    has_peaks: bool
    analysis: JobOut | None

    @classmethod
    def of(cls, track: Track) -> TrackOut:
        """The shape of one track."""
        apart = {"doubts", "analysis", "tags", "cue_marks"}
        seen = {name: getattr(track, name) for name in cls.model_fields if name not in apart}
        return cls(
            **seen,
            doubts=list(track.doubts),
            tags=list(track.tags),
            cue_marks=[CueMark(at_s=at, plate=plate) for at, plate in track.cue_marks],
            analysis=JobOut.of(track.job) if track.job else None,
        )


class TrackTableOut(ApiModel):
    """All tracks as columns of one length, newest first: without ten thousand times the same names."""

    id: list[str]
    version: list[int]
    title: list[str]
    artist: list[str]
    album: list[str]
    genre: list[str]
    comment: list[str]
    year: list[int | None]
    file_name: list[str]
    bpm: list[float | None]
    comes_bpm: list[float | None]
    leaves_bpm: list[float | None]
    steady: list[bool]
    key: list[str | None]
    key_wheel: list[str | None]
    energy: list[float | None]
    voice_share: list[float | None]
    format: list[str]
    bit_rate: list[int | None]
    rate: list[int]
    channels: list[int]
    duration_s: list[float]
    loudness_lufs: list[float | None]
    true_peak_dbtp: list[float | None]
    added_at: list[datetime]
    tags: list[list[str]]
    cue_marks: list[list[CueMark]]
    checked: list[bool]
    doubts: list[list[str]] = Field(description="What should be looked at, in plain sentences.")
    file_doubts: list[list[str]] = Field(description="What may be wrong with the file, in plain sentences.")
    misread: list[bool] = Field(description="Whether its name looks as one does that is read in another encoding.")
    lists: list[list[str]] = Field(description="The lists that it is on.")
    used_in: list[list[str]] = Field(description="The mixes that have it.")
    outdated: list[bool]
    has_peaks: list[bool]
    analyses: dict[str, JobOut] = Field(description="By track, analyses that have not ended well, or not yet.")


ROUNDED = {"bpm": 3, "comes_bpm": 3, "leaves_bpm": 3, "duration_s": 3, "loudness_lufs": 2, "true_peak_dbtp": 2}


def track_table(tracks: list[Track]) -> bytes:
    """What ``TrackTableOut`` says, as JSON: models of ten thousand tracks would take half a second."""
    columns = [name for name in TrackTableOut.model_fields if name != "analyses"]
    table: dict[str, Any] = {name: [getattr(t, name) for t in tracks] for name in columns}
    table["doubts"] = [[d.text for d in doubts] for doubts in table["doubts"]]
    table["file_doubts"] = [list(doubts.values()) for doubts in table["file_doubts"]]
    for name, digits in ROUNDED.items():
        table[name] = [None if x is None else round(x, digits) for x in table[name]]
    table["cue_marks"] = [[{"at_s": at, "plate": plate} for at, plate in marks] for marks in table["cue_marks"]]
    table["analyses"] = {t.id: JobOut.of(t.job).model_dump(mode="json") for t in tracks if t.job}
    return to_json(table)


class ImportedOut(ApiModel):
    """A file that was brought in.

    ``known`` when the library had it already, ``restored`` when the library had lost its file and has it again.
    """

    track: TrackOut
    known: bool
    restored: bool
    brought: Brought = Field(description="What the file brought of what was once set by hand.")

    @classmethod
    def of(cls, imported: Imported) -> ImportedOut:
        """The shape of what came of a file."""
        return cls(
            track=TrackOut.of(imported.track),
            known=imported.known,
            restored=imported.restored,
            brought=imported.brought,
        )


class GridOut(ApiModel):
    """What is counted in a track: its grid, or a stand-in where it has none, and what lies on its beats."""

    track_id: str
    version: int
    grid: Grid
    sections: list[Section]
    voice: list[VoiceSpan]
    cues: list[Cue]
    suggested_cues: list[SuggestedCue]
    loops: list[Loop]
    sound_start_s: float
    sound_end_s: float
    telling_s: float = Field(description="From where a few seconds tell most of it.")

    @classmethod
    def of(cls, facts: TrackFacts) -> GridOut:
        """The shape of what the rules know of a track."""
        return cls(
            track_id=facts.id,
            version=facts.version,
            grid=facts.riding_grid,
            sections=list(facts.sections),
            voice=list(facts.voice),
            cues=list(facts.cues),
            loops=list(facts.loops),
            sound_start_s=facts.sound_start_s,
            sound_end_s=facts.last_sound_s,
            suggested_cues=list(facts.suggested_cues) if facts.grid else [],
            telling_s=facts.telling_s,
        )
