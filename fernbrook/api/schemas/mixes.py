"""Requests and answers: mixes and of their plans. Grids are not among them: they go out once, by track and version."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, NamedTuple
from uuid import uuid4

from pydantic import Field

from fernbrook.api.schemas.api_model import ApiModel, Gesture, rounded
from fernbrook.api.schemas.bar_lines import BarLinesOut
from fernbrook.api.schemas.edits import EditedOut
from fernbrook.api.schemas.layers import LayerOut
from fernbrook.api.schemas.transitions import Places, TransitionOut
from fernbrook.core.mix.commands import AnyMixCommand, Id
from fernbrook.core.mix.entries import Follows
from fernbrook.core.mix.model import MAX_ENTRIES, Crossovers, Loudness, Naming, TempoMark, Untouched
from fernbrook.core.mix.transitions import Manner, SideCurves
from fernbrook.core.ordering import Running, RunningEntry
from fernbrook.core.plan import RATE, MixWarning, Plan, PlannedEntry
from fernbrook.core.remembered import remembered
from fernbrook.core.tempo_map import TempoMap
from fernbrook.service.mixes import Course, CourseEntry, MixSummary, OpenMix, Trial

Version = Annotated[int, Field(ge=0, le=2**53)]


class NewMix(ApiModel):
    """The name of a mix to begin."""

    name: str = Field(max_length=200)


class NewTry(ApiModel):
    """Two tracks that are to be tried, one after the other."""

    first: Id
    second: Id


class OnVersion(ApiModel):
    """The version of the mix that a request was made on."""

    version: Version
    have: str | None = Field(
        default=None, max_length=32, description="The tag of the answer that the change may be told against."
    )


class PutTry(OnVersion):
    """Where the two tracks of a try go in a mix: before the place ``at``, or at its end."""

    at: int | None = Field(default=None, ge=0, le=MAX_ENTRIES)


class Change(OnVersion):
    """A command on a mix."""

    command: AnyMixCommand
    gesture: Gesture = None


class EntryOut(ApiModel):
    """An entry in its place. Beats are as played in the mix: ``count`` of them are one of the track's grid."""

    id: str
    index: int
    track_id: str
    track_version: int
    title: str
    artist: str
    count: float
    bar: float = Field(description="Beats as played in a bar.")
    bars: BarLinesOut | None = Field(description="None where all have so many, and the first begins with beat 0.")
    key_lock: bool
    key_shift: int
    key: str | None = Field(description="The key in which it sounds, its shift included.")
    key_wheel: str | None
    walk: int | None = Field(description="Where its key lies on the walk round the circle of fifths, not wrapped.")
    energy: list[float | None] = Field(description="Its own energy, 0..1, over its time in the mix; empty if unknown.")
    fixed: int | None = Field(description="The place that it keeps: 1 is the first, -1 the last.")
    with_next: bool = Field(description="Whether the entry after it stays after it.")
    tempo: float | None
    own_bpm: float
    home_bpm: float = Field(description="Its tempo where it begins to sound.")
    leaves_bpm: float = Field(description="Its tempo where it goes out.")
    follows: Follows | None = Field(description="What its tempo goes by, where that was set.")
    goes_by: Follows
    course: list[float] = Field(description="Its tempo over its time in the mix; empty where it has one.")
    gain_db: float
    gain_by_hand: bool
    gain_why: str = Field(description="Why the gain is what it is.")
    over_db: float = Field(description="By how much its peaks pass the ceiling; the limiter takes it.")
    clock: int = Field(description="The place, in the plan's ``clocks``, of the clock by which it goes.")
    edited: EditedOut | None = Field(description="What is heard otherwise than recorded.")
    offset: float = Field(description="The beat of its clock on which its beat 0 lies.")
    start_s: float
    end_s: float

    @classmethod
    def of(cls, planned: PlannedEntry, shown: RunningEntry, clock: int) -> EntryOut:
        """The answer for an entry in its place; ``clock`` is the place of its clock."""
        return _entry_out(planned, shown, clock)


def _leaves_at(planned: PlannedEntry) -> float:
    leaves = planned.departure.transition.out_at if planned.departure else planned.span.last_sound
    return planned.span.bpm_at(leaves)


@remembered
def _entry_out(planned: PlannedEntry, shown: RunningEntry, clock: int) -> EntryOut:
    entry, track = planned.entry, planned.track
    return EntryOut(
        id=entry.id,
        index=planned.index,
        track_id=track.id,
        track_version=track.version,
        title=track.title,
        artist=track.artist,
        count=entry.count,
        bar=planned.played.bar,
        bars=BarLinesOut.of(planned.heard.bar_lines),
        key_lock=entry.key_lock,
        key_shift=entry.key_shift,
        key=shown.key.name if shown.key else None,
        key_wheel=shown.key.wheel if shown.key else None,
        walk=shown.walk,
        energy=[None if e is None else round(e, 2) for e in shown.energy],
        fixed=entry.fixed,
        with_next=entry.with_next,
        tempo=entry.tempo,
        own_bpm=rounded(entry.own_bpm(track)),
        home_bpm=rounded(planned.home_bpm),
        leaves_bpm=rounded(_leaves_at(planned)),
        follows=entry.follows,
        goes_by=entry.goes_by(track),
        course=[round(bpm, 2) for bpm in shown.course],
        gain_db=planned.gain_db,
        gain_by_hand=entry.gain_db is not None,
        gain_why=planned.level.why,
        over_db=planned.level.over_db,
        clock=clock,
        edited=EditedOut.of(planned),
        offset=rounded(planned.offset),
        start_s=rounded(planned.start_s),
        end_s=rounded(planned.end_s),
    )


class TempoPointOut(NamedTuple):
    """The tempo in BPM at a beat of the mix; a pair of numbers."""

    beat: float
    bpm: float


class ClockOut(ApiModel):
    """A clock. It is zero at ``origin_beat``; tempo is linear in beats between the points."""

    origin_beat: float
    tempo: list[TempoPointOut]

    @classmethod
    def of(cls, tempo: TempoMap) -> ClockOut:
        """The answer for a tempo map."""
        return _clock_out(tempo)


@remembered
def _clock_out(tempo: TempoMap) -> ClockOut:
    points = [TempoPointOut(rounded(p.beat), rounded(p.bpm)) for p in tempo.points]
    return ClockOut(origin_beat=tempo.origin_beat, tempo=points)


class PlanOut(ApiModel):
    """The resolved mix. ``clocks`` are that of the mix as a whole first, then those of its entries, each once.

    ``sides`` are the curves of the transitions' sides, and ``manners`` how they are made, each once: most of a mix is
    handed over in few ways.
    """

    rate: int
    frames: int
    duration_s: float
    clocks: list[ClockOut]
    entries: list[EntryOut]
    transitions: list[TransitionOut]
    sides: list[SideCurves]
    manners: list[Manner]
    layers: list[LayerOut]
    warnings: list[MixWarning]

    @classmethod
    def of(cls, plan: Plan, running: Running) -> PlanOut:
        """The answer for a plan, with what the running order shows beside it."""
        sides: Places[SideCurves] = Places()
        manners: Places[Manner] = Places()
        played = (*(e.tempo for e in plan.entries), *(x.tempo for x in plan.layers))
        tempi = list({id(tempo): tempo for tempo in (plan.tempo, *played)}.values())
        clocks = {id(tempo): n for n, tempo in enumerate(tempi)}
        naming = Naming(plan.mix, {t.id: t for t in plan.tracks})
        pairs = zip(plan.transitions, running.steps, strict=True)
        transitions = [
            TransitionOut.of(t, step, plan.mix.takes_of(t.transition.pair), sides, manners) for t, step in pairs
        ]
        return cls(
            rate=RATE,
            frames=plan.frames,
            duration_s=rounded(plan.duration_s),
            clocks=[ClockOut.of(tempo) for tempo in tempi],
            entries=[
                EntryOut.of(e, shown, clocks[id(e.tempo)])
                for e, shown in zip(plan.entries, running.entries, strict=True)
            ],
            transitions=transitions,
            sides=sides.values,
            manners=manners.values,
            layers=[LayerOut.of(x, naming.layer(x.layer), clocks[id(x.tempo)], plan.entries) for x in plan.layers],
            warnings=list(plan.warnings),
        )


class MixSummaryOut(ApiModel):
    """A mix in the list of mixes. How many entries it has and how long it is may not be known yet."""

    id: str
    name: str
    entries: int | None
    duration_s: float | None
    changed_at: datetime
    is_try: bool = Field(description="Whether it is only two tracks that are tried.")
    problem: str = Field(description="Why it cannot be opened; empty where it can.")

    @classmethod
    def of(cls, summary: MixSummary) -> MixSummaryOut:
        """The answer for a mix in the list."""
        return cls(**{name: getattr(summary, name) for name in cls.model_fields})


class MixHead(ApiModel):
    """A mix as it stands, but for its plan.

    ``undo`` and ``redo`` say what they would do, or are None. ``kept`` are the indexes of those transitions that nobody
    shaped and that stayed where they were when the rules of placing changed. ``tag`` stands for the answer.
    """

    id: str
    version: int
    name: str
    is_try: bool
    target_lufs: float | None
    loudness: Loudness
    limiting_db: float
    crossovers: Crossovers
    untouched: Untouched
    tempo_marks: list[TempoMark]
    kept: list[int]
    undo: str | None
    redo: str | None
    tag: str


class MixOut(MixHead):
    """A mix as it stands, resolved."""

    plan: PlanOut

    @classmethod
    def of(cls, opened: OpenMix) -> MixOut:
        """The answer for an open mix."""
        mix = opened.plan.mix
        return cls(
            tag=uuid4().hex,
            id=opened.id,
            version=opened.version,
            name=mix.name,
            is_try=opened.is_try,
            target_lufs=mix.target_lufs,
            loudness=mix.loudness,
            limiting_db=mix.limiting_db,
            crossovers=mix.crossovers,
            untouched=mix.untouched,
            tempo_marks=list(mix.tempo_marks),
            kept=[t.index for t in opened.plan.transitions if t.transition.pair in mix.kept],
            undo=opened.steps.undo,
            redo=opened.steps.redo,
            plan=PlanOut.of(opened.plan, opened.running),
        )


class TrialOut(ApiModel):
    """What a command would make of a mix."""

    id: str
    plan: PlanOut

    @classmethod
    def of(cls, trial: Trial) -> TrialOut:
        """The answer for a trial."""
        return cls(id=trial.id, plan=PlanOut.of(trial.plan, trial.running))


class LoudnessOut(ApiModel):
    """How loud something is; None where it is silent."""

    lufs: float | None


class CourseEntryOut(ApiModel):
    """How loud an entry is, 0..255, in each column from ``first`` on; no levels while there is no waveform."""

    first: int
    columns: int
    low: list[int]
    full: list[int]

    @classmethod
    def of(cls, entry: CourseEntry) -> CourseEntryOut:
        """The answer for an entry of the course."""
        return cls(first=entry.first, columns=entry.columns, low=entry.low.tolist(), full=entry.full.tolist())


class CourseOut(ApiModel):
    """A whole mix in columns of equal time, an item an entry in order."""

    columns: int
    entries: list[CourseEntryOut]
    limiting: list[float] = Field(description="By how many dB the limiter will be busy in each column.")
    warnings: list[MixWarning] = Field(description="Where that is too much.")

    @classmethod
    def of(cls, course: Course) -> CourseOut:
        """The answer for a course."""
        return cls(
            columns=len(course.limiting),
            entries=[CourseEntryOut.of(e) for e in course.entries],
            limiting=[round(float(db), 2) for db in course.limiting],
            warnings=list(course.warnings),
        )
