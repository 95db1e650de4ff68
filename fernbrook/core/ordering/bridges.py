"""Over a jump: tracks that make two good steps of a bad one, and cheaper cures than another track."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from fernbrook.core.library import REACH
from fernbrook.core.mix.commands import AnyMixCommand, ApplyShape, PlaceTransition, SetCount, SetKeyShift
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.placing import placed, spans_of
from fernbrook.core.mix.transitions import Kind, ReadyShape, TempoPolicy
from fernbrook.core.ordering.candidate import Candidate, candidate_of
from fernbrook.core.ordering.step import SAME_ARTIST, SHIFTED, Step, best_count, meeting_cost, same_artist, step_between
from fernbrook.core.ordering.wishes import Weights
from fernbrook.core.track import FITTING, MOST_SHIFT, Relation, Tracks

WEIGHTS = Weights()
WORTH = 0.05
"""A cure is offered that makes things better by so much."""
NOTICEABLE = 0.02
"""A tempo bent by less needs no longer ramp."""
LONGEST_RAMP_BARS = 64


@dataclass(frozen=True)
class Bridge:
    """A track for a jump: the steps to it and from it, and what both cost together."""

    track_id: str
    before: Step
    after: Step
    cost: float


class CureKind(StrEnum):
    """What can be done about a jump without another track."""

    KEY_SHIFT = "key_shift"
    COUNT = "count"
    LONGER_RAMP = "longer_ramp"
    CUT = "cut"


@dataclass(frozen=True)
class Cure:
    """A command that makes a jump smaller, or less heard, and what it does in words."""

    kind: CureKind
    words: str
    command: AnyMixCommand


def plain_cost(out: Candidate, into: Candidate) -> float:
    """What a step costs where nothing is wished."""
    return meeting_cost(out, into, WEIGHTS) + (SAME_ARTIST if same_artist(out, into) else 0.0)


def bridges(
    out: Candidate, into: Candidate, others: Iterable[Candidate], pairings: Mapping[tuple[str, str], str], most: int
) -> list[Bridge]:
    """The tracks that make a jump smaller, each counted as it rides best: neither of the two steps is as hard as the
    one that there is. Those come first whose harder step is the easiest. None where no track helps."""
    jump = plain_cost(out, into)
    ranked = []
    for other in others:
        if other.track_id in (out.track_id, into.track_id):
            continue
        rides = other.counted(best_count(out, other)[0])
        steps = plain_cost(out, rides), plain_cost(rides, into)
        if max(steps) < jump - WORTH:
            ranked.append((round(max(steps), 4), round(sum(steps), 4), rides.track_id, rides))
    ranked.sort(key=lambda r: r[:3])
    return [
        Bridge(
            face.track_id,
            step_between(out, face, pairings.get((out.track_id, face.track_id))),
            step_between(face, into, pairings.get((face.track_id, into.track_id))),
            cost,
        )
        for _, cost, _, face in ranked[:most]
    ]


def cures(mix: Mix, tracks: Tracks, index: int) -> list[Cure]:
    """What can be done about the jump after an entry without another track, what helps most first."""
    faces = [candidate_of(e, tracks[e.track_id]) for e in mix.entries]
    found = [*_shifts(faces, index), *_counts(faces, index)]
    found.sort(key=lambda f: f[0])
    return [cure for _, cure in found] + _other_transitions(mix, tracks, faces, index)


def _around(faces: list[Candidate], place: int, face: Candidate) -> float:
    """What the steps to and from a place cost with a face there."""
    cost = plain_cost(faces[place - 1], face) if place else 0.0
    return cost + (plain_cost(face, faces[place + 1]) if place + 1 < len(faces) else 0.0)


def _shifts(faces: list[Candidate], index: int) -> list[tuple[float, Cure]]:
    """The one shift, of either side, that helps most; the neighbours beyond are heard as well."""
    step = step_between(faces[index], faces[index + 1])
    if step.relation is None or step.relation in FITTING:
        return []
    best: list[tuple[float, Cure]] = []
    for place in (index + 1, index):
        face, entry_id = faces[place], faces[place].entry_id
        now = _around(faces, place, face)
        for by in range(-MOST_SHIFT, MOST_SHIFT + 1):
            to = face.key_shift + by
            if not by or abs(to) > MOST_SHIFT or entry_id is None:
                continue
            shifted = face.shifted(by)
            gain = now - _around(faces, place, shifted) - SHIFTED * (abs(to) - abs(face.key_shift))
            pair = (faces[index], shifted) if place > index else (shifted, faces[index + 1])
            if gain > WORTH and step_between(*pair).relation in FITTING and shifted.key:
                semitones = f"{by:+d} semitone{'' if abs(by) == 1 else 's'}".replace("-", "−")
                words = f"Shift ‘{face.title}’ by {semitones}, to {shifted.key.name}: {step_between(*pair).key_words}"
                best.append((-gain, Cure(CureKind.KEY_SHIFT, words, SetKeyShift(entry_id=entry_id, semitones=to))))
    return [min(best, key=lambda b: b[0])] if best else []


def _counts(faces: list[Candidate], index: int) -> list[tuple[float, Cure]]:
    """The one count, of either side, that helps most."""
    best: list[tuple[float, Cure]] = []
    for place in (index + 1, index):
        face, entry_id = faces[place], faces[place].entry_id
        now = _real(faces, place, face)
        for count in face.counts:
            counted = face.counted(count)
            gain = now - _real(faces, place, counted)
            if gain > WORTH and entry_id is not None and counted.bpm:
                how = {0.5: "half", 1.0: "single", 2.0: "double"}[count]
                words = f"Count ‘{face.title}’ {how}: it rides at {counted.bpm:.4g} BPM"
                best.append((-gain, Cure(CureKind.COUNT, words, SetCount(entry_id=entry_id, count=count))))
    return [min(best, key=lambda b: b[0])] if best else []


def _real(faces: list[Candidate], place: int, face: Candidate) -> float:
    """How far tempi are bent around a place, at the counts that there are."""
    pairs = [(faces[place - 1], face)] if place else []
    pairs += [(face, faces[place + 1])] if place + 1 < len(faces) else []
    return sum(abs(bend) / REACH for a, b in pairs if (bend := step_between(a, b).bend) is not None)


def _other_transitions(mix: Mix, tracks: Tracks, faces: list[Candidate], index: int) -> list[Cure]:
    """A longer ramp where the tempo moves, and a cut where tempo or keys do not meet."""
    spans = spans_of(mix, tracks)
    here = placed(mix, spans)[index]
    step = step_between(faces[index], faces[index + 1])
    pair = {"out_id": here.transition.out_id, "in_id": here.transition.in_id}
    found = []
    bends = step.bend is not None and abs(step.bend) > NOTICEABLE
    bar = spans[index].bar
    room = min(here.room.out_to - here.transition.out_at, here.room.in_to - here.transition.in_at)
    earlier = here.transition.out_at - here.room.out_from
    longest = min(LONGEST_RAMP_BARS * bar, bar * ((room + earlier) // bar))
    wanted = min(2 * here.transition.beats, longest)
    is_ramp = here.transition.kind is Kind.BLEND and here.transition.tempo is TempoPolicy.RAMP
    if bends and is_ramp and wanted > here.transition.beats:
        out_at = min(here.transition.out_at, here.room.out_to - wanted)
        fits = here.transition.in_at + wanted <= here.room.in_to
        if fits:
            command = PlaceTransition(out_at=out_at, beats=wanted, **pair)
            words = f"Move the tempo over {wanted / bar:g} bars instead of {here.transition.beats / bar:g}"
            found.append(Cure(CureKind.LONGER_RAMP, words, command))
    if here.transition.kind is not Kind.CUT and (step.is_leap or step.relation is Relation.CLASH):
        words = "Cut on the beat: the two are never heard together"
        found.append(Cure(CureKind.CUT, words, ApplyShape(shape=ReadyShape.CLEAN_CUT, **pair)))
    return found
