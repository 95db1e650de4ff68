"""Shapes of mixes and of their plans. Grids are not among them: they go out once, by track and version."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Generic, NamedTuple, TypeVar

from pydantic import BaseModel, Field

from fernbrook.api.schemas.shape import Shape, rounded
from fernbrook.core.mix.commands import Command
from fernbrook.core.mix.hand_over import Manner, manner_of
from fernbrook.core.mix.meeting import handed_over_at
from fernbrook.core.mix.mix import Crossovers, Loudness, TempoMark, Untouched
from fernbrook.core.mix.take import Take
from fernbrook.core.mix.transition import Side, SideCurves, Transition
from fernbrook.core.ordering.running import Running, RunningEntry
from fernbrook.core.ordering.step import Step
from fernbrook.core.plan.plan import RATE, Plan, PlannedEntry, PlannedSide, PlannedTransition
from fernbrook.core.plan.snag import Snag
from fernbrook.core.plan.tempo_map import TempoMap
from fernbrook.core.track.relation import Relation
from fernbrook.service.courses import Course, CourseEntry
from fernbrook.service.mixes import MixSummary, OpenMix, Trial

T = TypeVar("T", bound=BaseModel)
Version = Annotated[int, Field(ge=0, le=2**53)]


class NewMix(Shape):
    """The name of a mix to begin."""

    name: str = Field(max_length=200)


class OnVersion(Shape):
    """The version of the mix that a request was made on."""

    version: Version


class Change(OnVersion):
    """A command on a mix."""

    command: Command


class EntryOut(Shape):
    """An entry in its place. Beats are as played in the mix: ``count`` of them are one of the track's grid."""

    id: str
    index: int
    track_id: str
    track_version: int
    title: str
    artist: str
    count: float
    bar: float = Field(description="Beats as played in a bar.")
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
    home_bpm: float
    gain_db: float
    gain_by_hand: bool
    gain_why: str = Field(description="Why the gain is what it is.")
    over_db: float = Field(description="By how much its peaks pass the ceiling; the limiter takes it.")
    clock: int = Field(description="The place, in the plan's ``clocks``, of the clock by which it goes.")
    offset: float = Field(description="The beat of its clock on which its beat 0 lies.")
    start_s: float
    end_s: float

    @classmethod
    def of(cls, planned: PlannedEntry, shown: RunningEntry, clock: int) -> EntryOut:
        """The shape of an entry in its place; ``clock`` is the place of its clock."""
        entry, track = planned.entry, planned.track
        return cls(
            id=entry.id,
            index=planned.index,
            track_id=track.id,
            track_version=track.version,
            title=track.title,
            artist=track.artist,
            count=entry.count,
            bar=planned.played.bar,
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
            gain_db=planned.gain_db,
            gain_by_hand=entry.gain_db is not None,
            gain_why=planned.level.why,
            over_db=planned.level.over_db,
            clock=clock,
            offset=rounded(planned.offset),
            start_s=rounded(planned.start_s),
            end_s=rounded(planned.end_s),
        )


class RoomOut(Shape):
    """The spans, in beats of the two entries, within which the overlap must stay."""

    out_from: float
    out_to: float
    in_from: float
    in_to: float


class ShapedOut(Shape):
    """A transition as it fits. ``outgoing`` and ``incoming`` are places in the plan's ``sides``, ``manner`` is one in
    its ``manners``."""

    out_id: str
    in_id: str
    out_at: float
    in_at: float
    beats: float
    nudge_ms: float
    manner: int
    outgoing: int
    incoming: int

    @classmethod
    def of(cls, transition: Transition, sides: Places[SideCurves], manners: Places[Manner]) -> ShapedOut:
        """The shape of a transition."""
        decided = {n: getattr(transition, n) for n in ("out_id", "in_id", "out_at", "in_at", "beats", "nudge_ms")}
        places = {side.value: sides.place_of(transition.curves(side)) for side in Side}
        return cls(**decided, **places, manner=manners.place_of(manner_of(transition)))


class Places(Generic[T]):
    """Values, each once, and the places that they have."""

    def __init__(self) -> None:
        self.values: list[T] = []
        self._places: dict[str, int] = {}

    def place_of(self, value: T) -> int:
        """Where a value is, or one that is the same."""
        alike = value.model_dump_json()
        if alike not in self._places:
            self._places[alike] = len(self.values)
            self.values.append(value)
        return self._places[alike]


class StepOut(Shape):
    """What lies between two neighbours, in numbers and words."""

    bend: float | None = Field(description="By which share the incoming must play faster to ride at the same tempo.")
    relation: Relation | None
    shift: int = Field(description="The semitones after which the incoming's key would fit.")
    pairing: str | None = Field(description="The note of a saved pairing of the two; empty where it has none.")
    is_leap: bool = Field(description="Whether the tempo is out of reach, however it is counted.")
    tempo_words: str
    key_words: str
    energy_words: str

    @classmethod
    def of(cls, step: Step) -> StepOut:
        """The shape of a step."""
        shown = {name: getattr(step, name) for name in cls.model_fields}
        return cls(**shown | {"bend": None if step.bend is None else round(step.bend, 5)})


class SpanOut(Shape):
    """Where the curves of one side of a transition run, by the clock of its entry; what it leaves out lies from
    ``breath_start_s`` to ``breath_end_s``."""

    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    breath_start_s: float | None
    breath_end_s: float | None

    @classmethod
    def of(cls, side: PlannedSide, planned: PlannedTransition) -> SpanOut | None:
        """The shape of a side; None where it runs over just the transition and leaves nothing out."""
        left_out = side.silence
        if left_out is None and (side.start_beat, side.end_beat) == (planned.start_beat, planned.end_beat):
            return None
        return cls(
            start_beat=rounded(side.start_beat),
            end_beat=rounded(side.end_beat),
            start_s=rounded(side.start_s),
            end_s=rounded(side.end_s),
            breath_start_s=None if left_out is None else rounded(left_out.start_s),
            breath_end_s=None if left_out is None else rounded(left_out.end_s),
        )


class TakeOut(Shape):
    """A version of a transition that was kept. ``is_this`` tells whether the transition is as it was then."""

    number: int
    name: str
    note: str
    is_this: bool


class TransitionOut(Shape):
    """A transition in its place."""

    index: int
    step: StepOut
    transition: ShapedOut
    room: RoomOut
    shaped: bool
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    hand_over_beat: float = Field(description="The beat of the mix on which the incoming takes over.")
    out_span: SpanOut | None = Field(description="None where it is the span of the transition.")
    in_span: SpanOut | None = Field(description="None where it is the span of the transition.")
    takes: list[TakeOut]

    @classmethod
    def of(
        cls,
        planned: PlannedTransition,
        step: Step,
        takes: Sequence[Take],
        sides: Places[SideCurves],
        manners: Places[Manner],
    ) -> TransitionOut:
        """The shape of a transition in its place."""
        room = planned.room
        return cls(
            index=planned.index,
            step=StepOut.of(step),
            transition=ShapedOut.of(planned.transition, sides, manners),
            room=RoomOut(
                out_from=rounded(room.out_from),
                out_to=rounded(room.out_to),
                in_from=rounded(room.in_from),
                in_to=rounded(room.in_to),
            ),
            shaped=planned.shaped,
            start_beat=rounded(planned.start_beat),
            end_beat=rounded(planned.end_beat),
            start_s=rounded(planned.start_s),
            end_s=rounded(planned.end_s),
            hand_over_beat=rounded(planned.start_beat + handed_over_at(planned.transition)),
            out_span=SpanOut.of(planned.outgoing, planned),
            in_span=SpanOut.of(planned.incoming, planned),
            takes=[
                TakeOut(number=t.number, name=t.name, note=t.note, is_this=t.transition == planned.transition)
                for t in takes
            ],
        )


class TempoPointOut(NamedTuple):
    """The tempo in BPM at a beat of the mix; a pair of numbers."""

    beat: float
    bpm: float


class ClockOut(Shape):
    """A clock. It is zero at ``origin_beat``; tempo is linear in beats between the points."""

    origin_beat: float
    tempo: list[TempoPointOut]

    @classmethod
    def of(cls, tempo: TempoMap) -> ClockOut:
        """The shape of a tempo map."""
        return cls(
            origin_beat=tempo.origin_beat, tempo=[TempoPointOut(rounded(p.beat), rounded(p.bpm)) for p in tempo.points]
        )


class PlanOut(Shape):
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
    snags: list[Snag]

    @classmethod
    def of(cls, plan: Plan, running: Running) -> PlanOut:
        """The shape of a plan, with what the running order shows beside it."""
        sides: Places[SideCurves] = Places()
        manners: Places[Manner] = Places()
        tempi = [plan.tempo]
        for entry in plan.entries:
            if all(entry.tempo is not known for known in tempi):
                tempi.append(entry.tempo)
        clocks = {id(tempo): n for n, tempo in enumerate(tempi)}
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
            snags=list(plan.snags),
        )


class MixSummaryOut(Shape):
    """A mix in the list of mixes."""

    id: str
    name: str
    entries: int
    duration_s: float
    changed_at: datetime

    @classmethod
    def of(cls, summary: MixSummary) -> MixSummaryOut:
        """The shape of a mix in the list."""
        return cls(**{name: getattr(summary, name) for name in cls.model_fields})


class MixOut(Shape):
    """A mix as it stands. ``undo`` and ``redo`` say what they would do, or are None."""

    id: str
    version: int
    name: str
    target_lufs: float | None
    loudness: Loudness
    limiting_db: float
    crossovers: Crossovers
    untouched: Untouched
    tempo_marks: list[TempoMark]
    undo: str | None
    redo: str | None
    plan: PlanOut

    @classmethod
    def of(cls, opened: OpenMix) -> MixOut:
        """The shape of an open mix."""
        mix = opened.plan.mix
        return cls(
            id=opened.id,
            version=opened.version,
            name=mix.name,
            target_lufs=mix.target_lufs,
            loudness=mix.loudness,
            limiting_db=mix.limiting_db,
            crossovers=mix.crossovers,
            untouched=mix.untouched,
            tempo_marks=list(mix.tempo_marks),
            undo=opened.steps.undo,
            redo=opened.steps.redo,
            plan=PlanOut.of(opened.plan, opened.running),
        )


class TrialOut(Shape):
    """What a command would make of a mix."""

    id: str
    plan: PlanOut

    @classmethod
    def of(cls, trial: Trial) -> TrialOut:
        """The shape of a trial."""
        return cls(id=trial.id, plan=PlanOut.of(trial.plan, trial.running))


class CourseEntryOut(Shape):
    """How loud an entry is, 0..255, in each column from ``first`` on; no levels while there is no waveform."""

    first: int
    columns: int
    low: list[int]
    full: list[int]

    @classmethod
    def of(cls, entry: CourseEntry) -> CourseEntryOut:
        """The shape of an entry of the course."""
        return cls(first=entry.first, columns=entry.columns, low=entry.low.tolist(), full=entry.full.tolist())


class CourseOut(Shape):
    """A whole mix in columns of equal time, an item an entry in order."""

    columns: int
    entries: list[CourseEntryOut]
    limiting: list[float] = Field(description="By how many dB the limiter will be busy in each column.")
    snags: list[Snag] = Field(description="Where that is too much.")

    @classmethod
    def of(cls, course: Course) -> CourseOut:
        """The shape of a course."""
        return cls(
            columns=len(course.limiting),
            entries=[CourseEntryOut.of(e) for e in course.entries],
            limiting=[round(float(db), 2) for db in course.limiting],
            snags=list(course.snags),
        )
