"""What is doubtful about one transition of a mix, and what would mend it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.mix.commands import (
    ApplyShape,
    LaneCurve,
    PlaceTransition,
    SetCurve,
    SetCurves,
    SetKeyShift,
    SetKind,
    UseProposal,
)
from fernbrook.core.mix.curves import Control, Curve, Law, Processor, controls_of, gain_of
from fernbrook.core.mix.placing import ON_IT, Span, basses_together, default_place, notes_together
from fernbrook.core.mix.transitions import Kind, ReadyShape, Side, Transition, handed, middle_phrase, shape_of
from fernbrook.core.plan.leaps import NOTICEABLE_STRETCH, Leap, ways_across
from fernbrook.core.plan.warning import Mend, MixWarning, WarningKind
from fernbrook.core.track import MOST_SHIFT, Relation, Stem, VoiceSpan, relation, shift_to_fit

HEARD = 0.4
"""A side whose volume is below this, as a fader position, is hardly heard."""
NEARLY_CLEAR = 0.01
"""An overlap that ends by so much of a beat after an ‘alone from’ cue ends by it."""
SURE_KEYS = 0.3
"""Keys that are believed less than this, both together, are no reason to warn."""
LONG_CHORDS = 8.0
"""Two keys for fewer beats are a surprise and no clash."""
LONG_TOGETHER = 2.0
"""Two voices for less than so many beats are no trouble."""
VOICE_RISE = 0.5
"""A voice that has waited comes in over so much of a beat."""
LONG_BASSES = 4.0
"""Two basses for less than so many beats are a hand-over."""
LOUDER_DB = 3.1
"""By more than this the level may not depart from a straight way, as far as the faders foretell it."""
LONG_SILENCE_S = 4.0
FINE = 257

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Met:
    """Two neighbours that meet: the transition as it was asked for and as it fits, where both sound and sing, and how
    far each is bent in it; ``shift`` is the key shift of the incoming. ``out_cues`` and ``in_cues`` say on which
    beats the cues of each lie now, by id; ``leap`` is what there is to bridge in tempo."""

    index: int
    asked: Transition
    transition: Transition
    out: Span
    into: Span
    out_voice: Sequence[VoiceSpan]
    in_voice: Sequence[VoiceSpan]
    speeds: tuple[float, float]
    into_title: str
    clear_name: str
    shift: int
    out_cues: Mapping[str, Sequence[float]]
    in_cues: Mapping[str, Sequence[float]]
    leap: Leap
    out_stems: Sequence[Stem]
    in_stems: Sequence[Stem]

    @property
    def pair(self) -> dict[str, str]:
        """The ids of the two."""
        return {"out_id": self.transition.out_id, "in_id": self.transition.in_id}

    def warning(self, kind: WarningKind, message: str, *mends: Mend) -> MixWarning:
        """A warning of this transition."""
        key = f"{kind.value} {self.transition.out_id} {self.transition.in_id}"
        return MixWarning(kind=kind, message=message, transition=self.index, key=key, mends=mends)

    @property
    def cut(self) -> Mend:
        """To cut instead."""
        return Mend(label="Cut instead", command=SetKind(to=Kind.CUT, **self.pair))

    def best_place(self, is_well: Callable[[Transition], bool]) -> tuple[Mend, ...]:
        """To go to the best place that is known, if it is well there."""
        out_at, in_at, beats = default_place(self.out, self.into)
        there = self.transition.model_copy(update={"out_at": out_at, "in_at": in_at, "beats": beats})
        if not is_well(there):
            return ()
        command = UseProposal(out_at=out_at, in_at=in_at, beats=beats, **self.pair)
        return (Mend(label="Use the best place", command=command),)


def warnings_of_transition(met: Met) -> list[MixWarning]:
    """All that is to be looked at in one transition."""
    found = [*_fit(met)]
    if met.transition.kind is Kind.BLEND:
        for each in (_bent, _keys, _voices, _basses, _bars, _loudness):
            found += each(met)
    found += [*_clear(met), *_silence(met), *_cues(met), *_stems(met)]
    return found


def _bent(met: Met) -> Iterator[MixWarning]:
    """Tracks that are bent far, unless that is done on purpose; one warning for each."""
    if met.leap.is_ridden:
        return
    for which, speed in zip(("outgoing", "incoming"), met.speeds, strict=True):
        if abs(speed - 1.0) > NOTICEABLE_STRETCH:
            way = "faster" if speed > 1 else "slower"
            message = f"The {which} track plays up to {abs(speed - 1):.1%} {way} than its own tempo."
            warning = met.warning(WarningKind.TEMPO_LEAP, message, *ways_across(met.leap))
            yield warning.model_copy(update={"key": f"{warning.key} {which}"})


def _fit(met: Met) -> Iterator[MixWarning]:
    """A transition that lies otherwise than it was set."""
    if met.asked == met.transition:
        return
    t = met.transition
    keep = PlaceTransition(out_at=t.out_at, in_at=t.in_at, beats=t.beats if t.kind is Kind.BLEND else None, **met.pair)
    message = "This transition no longer fits between its neighbours as it was set: it was made to fit."
    fits = t.kind is met.asked.kind
    yield met.warning(
        WarningKind.DOES_NOT_FIT, message, *([Mend(label="Keep it as it lies", command=keep)] if fits else [])
    )


def _keys(met: Met) -> Iterator[MixWarning]:
    """Two keys that clash, as they sound, while more than drums of both is heard for long."""
    out, into, t = met.out.key, met.into.key, met.transition
    outgoing, incoming = met.out.outgoing(), met.into.incoming()
    if out is None or into is None or outgoing is None or incoming is None:
        return

    def notes(t: Transition) -> float:
        return notes_together(outgoing, incoming, t.out_at, t.in_at, t.beats)

    together = notes(t)
    if together < LONG_CHORDS or out.sure * into.sure < SURE_KEYS:
        return
    if relation(out.key, into.key) is not Relation.CLASH:
        return
    by = shift_to_fit(out.key, into.key)
    words = f"{by:+d}".replace("-", "−")
    message = (
        f"{out.key.name} and {into.key.name} clash, and are together for {together:.0f} beats. "
        f"Shift the incoming by {words}, make the overlap shorter, or cut."
    )
    whole = met.shift + by
    shift = Mend(label=f"Shift by {words}", command=SetKeyShift(entry_id=t.in_id, semitones=whole))
    yield met.warning(
        WarningKind.KEYS,
        message,
        *([shift] if abs(whole) <= MOST_SHIFT else []),
        *met.best_place(lambda t: notes(t) < LONG_CHORDS),
        met.cut,
    )


def _voices(met: Met) -> Iterator[MixWarning]:
    """Both sides sing while both are heard."""
    together, first, last = _sung(met, met.transition)
    if together < LONG_TOGETHER:
        return
    bar = int(first // met.out.bar) + 1
    message = f"Two voices at once for {together:.0f} beats, from bar {bar} of the overlap on."
    earlier = met.out.bar * (first // met.out.bar)
    shorter = [PlaceTransition(beats=earlier, **met.pair)] if earlier >= met.out.bar else []
    mends = [*_without_voice(met, last), *(Mend(label=f"End it on bar {bar}", command=c) for c in shorter)]
    yield met.warning(
        WarningKind.TWO_VOICES, message, *mends, *met.best_place(lambda t: _sung(met, t)[0] < LONG_TOGETHER)
    )


def _without_voice(met: Met, last: float) -> Iterator[Mend]:
    """To let the incoming's voice wait until they have sung together, where its stems are there."""
    until, rise = last / met.transition.beats, VOICE_RISE / met.transition.beats
    if Stem.VOICE not in met.in_stems or until + rise >= 1.0:
        return
    waits = Curve.of((0.0, 0.0), (until, 0.0), (until + rise, 1.0), (1.0, 1.0))
    command = SetCurve(side=Side.INCOMING, control=Control.VOICE, curve=waits, **met.pair)
    yield Mend(label="Let the second voice wait", command=command)


def _sung(met: Met, t: Transition) -> tuple[float, float, float]:
    """For how many beats both sides of a transition sing while both are heard, and where in it that begins and ends."""
    both = [
        (start, end)
        for a in met.out_voice
        for b in met.in_voice
        if (start := max(a.start - t.out_at, b.start - t.in_at, 0.0))
        < (end := min(a.end - t.out_at, b.end - t.in_at, t.beats))
        and bool(_both_heard(t, Control.VOLUME, np.array((start + end) / 2.0)))
        and bool(_both_heard(t, Control.VOICE, np.array((start + end) / 2.0)))
    ]
    starts, ends = [start for start, _ in both], [end for _, end in both]
    return sum(ends) - sum(starts), min(starts, default=0.0), max(ends, default=0.0)


def _basses(met: Met) -> Iterator[MixWarning]:
    """Both sides have a bass while the low bands of both are open."""
    t, outgoing, incoming = met.transition, met.out.outgoing(), met.into.incoming()
    if outgoing is None or incoming is None:
        return
    beats = np.arange(t.beats) + 0.5
    if basses_together(outgoing, incoming, t.out_at, t.in_at, np.ones(len(beats), dtype=bool)) < LONG_BASSES:
        return
    heard = _both_heard(t, Control.LOW, beats) & _both_heard(t, Control.VOLUME, beats)
    heard &= _both_heard(t, Control.BASS, beats)
    together = basses_together(outgoing, incoming, t.out_at, t.in_at, heard)
    if together < LONG_BASSES:
        return
    shape = shape_of(ReadyShape.BASS, t.beats, met.out.bar)
    lanes = tuple(
        LaneCurve(side=side, control=Control.LOW, curve=getattr(shape, side.value).curve(Control.LOW)) for side in Side
    )
    swap = Mend(label="Let the bass change hands", command=SetCurves(curves=lanes, **met.pair))
    message = f"Two basses at once for {together:.0f} beats."
    yield met.warning(WarningKind.TWO_BASSES, message, *_without_bass(met), swap)


def _without_bass(met: Met) -> Iterator[Mend]:
    """To let the basses change hands as stems, kicks and all else untouched, where both have theirs."""
    if Stem.BASS not in met.out_stems or Stem.BASS not in met.in_stems:
        return
    leaves, comes = handed(
        middle_phrase(met.transition.beats, met.out.bar) / met.transition.beats, met.transition.beats
    )
    lanes = (
        LaneCurve(side=Side.OUTGOING, control=Control.BASS, curve=leaves),
        LaneCurve(side=Side.INCOMING, control=Control.BASS, curve=comes),
    )
    yield Mend(label="Drop the second bass up to the middle", command=SetCurves(curves=lanes, **met.pair))


def _bars(met: Met) -> Iterator[MixWarning]:
    """Bars of three are laid over bars of four, or a bar is odd on one side alone."""
    short, long = sorted((met.out.bar, met.into.bar))
    if long % short and met.transition.beats > long:
        message = (
            f"Bars of {met.out.bar:g} beats are laid over bars of {met.into.bar:g}: their first beats meet only now "
            "and then. Make it short, fade, or cut."
        )
        yield met.warning(WarningKind.BARS, message, met.cut)
        return
    t = met.transition
    odd = [
        [(round(beat - at, 3), beats) for beat, beats in span.lines.odd_bars(at, at + t.beats, span.bar)]
        for span, at in ((met.out, t.out_at), (met.into, t.in_at))
    ]
    if odd[0] == odd[1]:
        return
    beat, beats = min({*odd[0]} ^ {*odd[1]})
    side, span, at = ("outgoing", met.out, t.out_at) if (beat, beats) in odd[0] else ("incoming", met.into, t.in_at)
    bar = int(span.lines.bar_of(at + beat)) + 1
    message = (
        f"Bar {bar} of the {side} has {beats:g} beats and not {span.bar:g}: first beats meet no longer after it. End "
        "the overlap before it, or begin after it."
    )
    shorter = [PlaceTransition(beats=beat, **met.pair)] if beat >= span.bar else []
    yield met.warning(
        WarningKind.BARS, message, *(Mend(label=f"End it before bar {bar}", command=c) for c in shorter), met.cut
    )


def _loudness(met: Met) -> Iterator[MixWarning]:
    """The level dips or swells over the overlap, as far as the faders foretell it for two that are equally loud."""
    t = met.transition
    worst = _worst_db(*(t.curves(side).curve(Control.VOLUME) for side in Side), t.volume_law)
    if abs(worst) <= LOUDER_DB:
        return
    way = "dips" if worst < 0 else "swells"
    message = f"The level {way} by about {abs(worst):.0f} dB within the overlap, as the volume curves have it."
    even = Mend(label="Fade at even power", command=ApplyShape(shape=ReadyShape.EVEN_BLEND, **met.pair))
    yield met.warning(WarningKind.LOUDNESS, message, even)


@lru_cache(maxsize=256)
def _worst_db(out: Curve, into: Curve, law: Law) -> float:
    """How far the sum of two faders departs from the level of one, where it does so most; most pairs are alike."""
    place = np.linspace(0.0, 1.0, FINE)
    one, other = (gain_of(curve.value_at(place), law) for curve in (out, into))
    power = 10.0 * np.log10(np.maximum(one**2 + other**2, 1e-6))
    return float(power[np.argmax(np.abs(power))])


def _clear(met: Met) -> Iterator[MixWarning]:
    """The outgoing is still there after an ‘alone from’ cue that somebody has set in the incoming."""
    clear, t = met.into.own_clear, met.transition
    late = t.in_at + t.beats - clear if clear is not None else 0.0
    if clear is None or late < NEARLY_CLEAR:
        return
    message = f"The overlap ends {late:g} beats after {met.clear_name} of ‘{met.into_title}’."
    beats = clear - t.in_at
    mends = [Mend(label="End it there", command=PlaceTransition(beats=beats, **met.pair))]
    yield met.warning(WarningKind.NOT_CLEAR, message, *(mends if t.kind is Kind.BLEND and beats > 0 else []))


def _cues(met: Met) -> Iterator[MixWarning]:
    """A cue that the transition was put on is gone, or lies elsewhere now; one warning for each end."""
    t = met.asked
    ends = (
        ("goes out", "leaves", "out_at", t.out_at, t.out_cue, met.out_cues),
        ("comes in", "arrives", "in_at", t.in_at, t.in_cue, met.in_cues),
    )
    for does, end, field, at, held, cues in ends:
        now = min(cues.get(held.id, ()), key=lambda beat: abs(beat - at), default=None) if held else None
        if held is None or (now is not None and abs(now - at) <= ON_IT):
            continue
        mends = [Mend(label="Stay here", command=PlaceTransition.model_validate({field: at, **met.pair}))]
        if now is None:
            message = f"The cue ‘{held.name}’, on which this transition {does}, is gone. It stays where the cue was."
        else:
            message = f"The cue ‘{held.name}’, on which this transition {does}, has moved by {abs(now - at):g} beats."
            mends.insert(0, Mend(label="Go with it", command=PlaceTransition.model_validate({field: now, **met.pair})))
        warning = met.warning(WarningKind.CUE, message, *mends)
        yield warning.model_copy(update={"key": f"{warning.key} {end} {held.id}"})


def _silence(met: Met) -> Iterator[MixWarning]:
    """A pause in which listeners look up."""
    t = met.transition
    if t.kind is Kind.APART and t.seconds > LONG_SILENCE_S:
        shorter = Mend(label="Make it 1 s", command=PlaceTransition(seconds=1.0, **met.pair))
        yield met.warning(WarningKind.SILENCE, f"Nothing is heard for {t.seconds:.0f} seconds.", shorter)


def _stems(met: Met) -> Iterator[MixWarning]:
    """Stems are turned of a track that has none, or of which they would mislead."""
    for side, has in ((Side.OUTGOING, met.out_stems), (Side.INCOMING, met.in_stems)):
        turned = [c for c in controls_of(Processor.STEM) if c in met.transition.curves(side).moving]
        missing = [c for c in turned if Stem(c.value) not in has]
        if missing:
            names = " and ".join(c.value for c in missing)
            message = f"The {side.value} track has no such stems to turn: {names}. Make its stems first."
            warning = met.warning(WarningKind.STEMS, message)
            yield warning.model_copy(update={"key": f"{warning.key} {side.value}"})


def _both_heard(t: Transition, control: Control, beats: Floats) -> NDArray[np.bool_]:
    """Whether a fader of both sides is open at beats of the overlap; same shape."""
    out, into = (t.curves(side).curve(control).value_at(beats / t.beats) >= HEARD for side in Side)
    return np.asarray(out & into)
