"""The shapes of answers. Values of the core are given as they are; the rest is laid out here."""

from __future__ import annotations

from datetime import datetime
from functools import lru_cache
from typing import Any

from pydantic import BaseModel, Field

from fernbrook.audio.writer import OutputFormat
from fernbrook.core.grid import Grid
from fernbrook.core.key import Key
from fernbrook.core.markup import Markup
from fernbrook.core.mix import DEFAULT_TARGET_LUFS, Mix, suggested_gain
from fernbrook.core.plan import RATE, Plan, PlannedEntry, PlannedTransition
from fernbrook.core.section import VoiceSpan
from fernbrook.core.snag import Snag
from fernbrook.core.time_map import Mode
from fernbrook.core.track import Doubt
from fernbrook.core.transition import Transition
from fernbrook.service.jobs import seconds_taken
from fernbrook.service.library import CURRENT_ANALYSIS, Listed
from fernbrook.service.marking import Offsets, OpenTrack
from fernbrook.service.mixes import MixSummary, OpenMix
from fernbrook.store.jobs import JobState
from fernbrook.store.tables import JobRow, TrackRow
from fernbrook.store.tracks import LISTED


class JobOut(BaseModel):
    """A piece of long work that has not ended well, or not yet."""

    id: str
    state: JobState
    progress: float
    error: str | None

    @classmethod
    def of(cls, row: JobRow) -> JobOut:
        return cls(id=row.id, state=JobState(row.state), progress=row.progress, error=row.error)


class TrackOut(BaseModel):
    """A track of the library."""

    id: str
    title: str
    artist: str
    file_name: str
    key_tag: str | None
    bpm: float | None
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
    checked: bool
    grid_by_hand: bool
    doubts: list[Doubt] | None
    outdated: bool = Field(description="Whether a newer version of the analysis would find more.")
    has_peaks: bool
    analysis: JobOut | None

    @classmethod
    def of(cls, row: TrackRow, job: JobRow | None) -> TrackOut:
        return cls.model_validate(listed_track(Listed({c.key: getattr(row, c.key) for c in LISTED}, job)))


def listed_track(listed: Listed) -> dict[str, Any]:
    """What ``TrackOut`` says of a track, as plain values: ten thousand models would take half a second."""
    columns = dict(listed.track)
    version = columns.pop("analysis_version")
    columns["key"] = columns["key"] or columns["key_tag"]
    columns["key_wheel"] = _wheel_of(columns["key"])
    columns["doubts"] = columns["doubts"] or []
    columns["outdated"] = version is not None and version < CURRENT_ANALYSIS
    columns["has_peaks"] = version is not None
    columns["analysis"] = JobOut.of(listed.job).model_dump(mode="json") if listed.job else None
    return columns


@lru_cache(maxsize=256)
def _wheel_of(key: str | None) -> str | None:
    parsed = Key.parse(key) if key else None
    return parsed.wheel if parsed else None


class ImportedOut(BaseModel):
    """A file that was brought in; ``known`` when the library had it already."""

    track: TrackOut
    known: bool


class OpenTrackOut(BaseModel):
    """A track's markup as it stands. ``undo`` and ``redo`` say what they would do, or are None."""

    id: str
    version: int
    markup: Markup
    undo: str | None
    redo: str | None
    mean_bpm: float | None
    has_analysed: bool = Field(description="Whether there is an analysed grid to go back to.")
    second_key: str | None
    second_key_wheel: str | None
    key_confidence: float | None
    tuning_cents: float | None
    runner_up_bpm: float | None
    short_term_max_lufs: float | None
    suggested_gain_db: float | None
    first_bar: int
    energy: list[float]

    @classmethod
    def of(cls, opened: OpenTrack) -> OpenTrackOut:
        row = opened.row
        found = row.findings or {}
        second = Key.parse(found.get("second_key") or "")
        return cls(
            id=row.id,
            version=row.version,
            markup=opened.markup,
            undo=opened.steps.undo,
            redo=opened.steps.redo,
            mean_bpm=row.bpm,
            has_analysed=bool(found.get("markup", {}).get("grid")),
            second_key=second.name if second else None,
            second_key_wheel=second.wheel if second else None,
            key_confidence=found.get("key_confidence"),
            tuning_cents=found.get("tuning_cents"),
            runner_up_bpm=found.get("runner_up_bpm"),
            short_term_max_lufs=found.get("short_term_max_lufs"),
            suggested_gain_db=suggested_gain(row.loudness_lufs, row.true_peak_dbtp, DEFAULT_TARGET_LUFS),
            first_bar=found.get("first_bar", 0),
            energy=found.get("energy", []),
        )


class OffsetsOut(BaseModel):
    """For each beat from ``first`` on: how many ms late its onsets are, and how clear they are, 0 where not heard."""

    first: int
    late_ms: list[float]
    clear: list[float]

    @classmethod
    def of(cls, offsets: Offsets) -> OffsetsOut:
        return cls(
            first=offsets.first,
            late_ms=[round(float(x) * 1000.0, 2) for x in offsets.late_s],
            clear=[round(float(x), 3) for x in offsets.clear],
        )


class SegmentOut(BaseModel):
    """A stretch of an entry played in one way."""

    start_s: float
    end_s: float
    mode: Mode


class EntryOut(BaseModel):
    """An entry in its place."""

    id: str
    index: int
    track_id: str
    title: str
    artist: str
    track_duration_s: float
    grid: Grid
    has_grid: bool
    count: float
    key_lock: bool
    tempo: float | None
    own_bpm: float
    home_bpm: float
    gain_db: float
    gain_by_hand: bool
    offset: float = Field(description="The mix beat of the entry's beat 0.")
    span_start: float = Field(description="The entry's beat at which its sound starts.")
    span_end: float
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    segments: list[SegmentOut]
    voice: list[VoiceSpan]

    @classmethod
    def of(cls, planned: PlannedEntry) -> EntryOut:
        entry, track = planned.entry, planned.track
        return cls(
            id=entry.id,
            index=planned.index,
            track_id=track.id,
            title=track.title,
            artist=track.artist,
            track_duration_s=track.duration_s,
            grid=track.riding_grid,
            has_grid=track.grid is not None,
            count=entry.count,
            key_lock=entry.key_lock,
            tempo=entry.tempo,
            own_bpm=entry.model_copy(update={"tempo": None}).home_bpm(track),
            home_bpm=planned.home_bpm,
            gain_db=planned.gain_db,
            gain_by_hand=entry.gain_db is not None,
            offset=planned.offset,
            span_start=planned.span.start,
            span_end=planned.span.end,
            start_beat=planned.start_beat,
            end_beat=planned.end_beat,
            start_s=planned.start_s,
            end_s=planned.end_s,
            segments=[SegmentOut(start_s=s.start_s, end_s=s.end_s, mode=s.mode) for s in planned.segments],
            voice=list(planned.voice),
        )


class RoomOut(BaseModel):
    """The spans, in beats of the two entries, within which the overlap must stay."""

    out_from: float
    out_to: float
    in_from: float
    in_to: float


class TransitionOut(BaseModel):
    """A transition in its place."""

    index: int
    transition: Transition
    room: RoomOut
    shaped: bool
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float

    @classmethod
    def of(cls, planned: PlannedTransition, plan: Plan) -> TransitionOut:
        after = plan.entries[planned.index + 1].departure
        room = planned.room
        in_to = room.in_to if after is None else max(room.in_to, after.transition.out_at)
        return cls(
            index=planned.index,
            transition=planned.transition,
            room=RoomOut(out_from=room.out_from, out_to=room.out_to, in_from=room.in_from, in_to=in_to),
            shaped=planned.shaped,
            start_beat=planned.start_beat,
            end_beat=planned.end_beat,
            start_s=planned.start_s,
            end_s=planned.end_s,
        )


class TempoPointOut(BaseModel):
    beat: float
    bpm: float


class PlanOut(BaseModel):
    """The resolved mix. The clock is zero at ``origin_beat``; tempo is linear in beats between the points."""

    rate: int
    frames: int
    duration_s: float
    origin_beat: float
    tempo: list[TempoPointOut]
    entries: list[EntryOut]
    transitions: list[TransitionOut]
    snags: list[Snag]

    @classmethod
    def of(cls, plan: Plan) -> PlanOut:
        return cls(
            rate=RATE,
            frames=plan.frames,
            duration_s=plan.duration_s,
            origin_beat=plan.tempo.origin_beat,
            tempo=[TempoPointOut(beat=p.beat, bpm=p.bpm) for p in plan.tempo.points],
            entries=[EntryOut.of(e) for e in plan.entries],
            transitions=[TransitionOut.of(t, plan) for t in plan.transitions],
            snags=list(plan.snags),
        )


class MixSummaryOut(BaseModel):
    """A mix in the list of mixes."""

    id: str
    name: str
    entries: int
    changed_at: datetime

    @classmethod
    def of(cls, summary: MixSummary) -> MixSummaryOut:
        row = summary.row
        return cls(id=row.id, name=row.name, entries=summary.entries, changed_at=row.changed_at)


class MixOut(BaseModel):
    """A mix as it stands. ``undo`` and ``redo`` say what they would do, or are None."""

    id: str
    version: int
    name: str
    target_lufs: float | None
    undo: str | None
    redo: str | None
    plan: PlanOut

    @classmethod
    def of(cls, opened: OpenMix) -> MixOut:
        mix: Mix = opened.plan.mix
        return cls(
            id=opened.row.id,
            version=opened.row.version,
            name=mix.name,
            target_lufs=mix.target_lufs,
            undo=opened.steps.undo,
            redo=opened.steps.redo,
            plan=PlanOut.of(opened.plan),
        )


class StraightOut(BaseModel):
    """A straightened render of a track, under way or done."""

    id: str
    name: str
    bpm: float
    output: OutputFormat
    state: JobState
    progress: float
    error: str | None
    bytes: int | None

    @classmethod
    def of(cls, row: JobRow) -> StraightOut:
        result = row.result or {}
        return cls(
            id=row.id,
            name=row.title,
            bpm=result["bpm"],
            output=OutputFormat(result["output"]),
            state=JobState(row.state),
            progress=row.progress,
            error=row.error,
            bytes=result.get("bytes"),
        )


class StraightListOut(BaseModel):
    """The straightened renders of a track, and the tempo that is suggested; None without a grid."""

    suggested_bpm: float | None
    renders: list[StraightOut]


class RenderOut(BaseModel):
    """A render, under way or done. ``speed`` is how many seconds of mix it makes in a second."""

    id: str
    name: str
    output: OutputFormat
    state: JobState
    progress: float
    error: str | None
    duration_s: float
    bytes: int | None
    seconds: float | None
    speed: float | None
    created_at: datetime

    @classmethod
    def of(cls, row: JobRow) -> RenderOut:
        result = row.result or {}
        seconds = seconds_taken(row)
        made = row.progress * result["duration_s"]
        return cls(
            id=row.id,
            name=row.title,
            output=OutputFormat(result["output"]),
            state=JobState(row.state),
            progress=row.progress,
            error=row.error,
            duration_s=result["duration_s"],
            bytes=result.get("bytes"),
            seconds=seconds,
            speed=made / seconds if seconds and made else None,
            created_at=row.created_at,
        )
