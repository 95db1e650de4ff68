"""Warnings of transitions: each is told where it is so and nowhere else, and what is offered mends it."""

from __future__ import annotations

import pytest

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import Kind, ReadyShape, Side
from fernbrook.core.plan import MixWarning, WarningKind, plan
from fernbrook.core.track import Cue, CueRole, Doubt, DoubtKind, Grid, KeyFact, SectionKind, StemsFact, TrackFacts
from tests.core.test_commands import pair
from tests.core.test_proposals import BAR, B, F, K, bars_of, keyed, sung, track

FULL = Curve.of((0.0, 1.0), (1.0, 1.0))


def two(out: TrackFacts, into: TrackFacts, *commands: c.AnyMixCommand) -> tuple[Mix, dict[str, TrackFacts]]:
    tracks = {"out": out, "into": into}
    mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("out", "into")), tracks)
    for command in commands:
        mix = c.apply(mix, command, tracks)
    return mix, tracks


def full(name: str, **more: object) -> TrackFacts:
    return track(name, [(F, 96)], **more)


def at(out_bar: float, in_bar: float, bars: float) -> c.AnyMixCommand:
    ids = {"out_id": "e1", "in_id": "e2"}
    return c.PlaceTransition(out_at=out_bar * BAR, in_at=in_bar * BAR, beats=bars * BAR, **ids)


def told(mix: Mix, tracks: dict[str, TrackFacts], kind: WarningKind) -> list[MixWarning]:
    return [s for s in plan(mix, tracks).warnings if s.kind is kind]


SET = {side: c.SetCurve(side=side, control=Control.LOW, curve=FULL, out_id="e1", in_id="e2") for side in Side}
EVEN = c.ApplyShape(shape=ReadyShape.EVEN_BLEND, out_id="e1", in_id="e2")
LOUD = c.SetCurves(
    curves=tuple(c.LaneCurve(side=side, control=Control.VOLUME, curve=FULL) for side in Side), out_id="e1", in_id="e2"
)
QUIET = c.SetCurve(
    side=Side.OUTGOING,
    control=Control.VOLUME,
    curve=Curve.of((0.0, 1.0), (0.3, 0.0), (1.0, 0.0)),
    out_id="e1",
    in_id="e2",
)
THREE = TrackFacts(id="into", title="into", duration_s=180.0, grid=Grid.constant(120.0, 0.0, beats_per_bar=3))
AWAY = track("out", [(F, 80), (B, 16)])
CASES = {
    WarningKind.TWO_BASSES: (full("out"), full("into"), [at(70, 0, 16), EVEN]),
    WarningKind.TWO_VOICES: (full("out", voice=sung((60, 90))), full("into", voice=sung((4, 30))), [at(70, 0, 16)]),
    WarningKind.KEYS: (full("out", key=keyed("Am")), full("into", key=keyed("Bbm")), [at(70, 0, 16)]),
    WarningKind.LOUDNESS: (full("out"), full("into"), [at(70, 0, 16), EVEN, QUIET]),
    WarningKind.BARS: (full("out"), THREE, [at(70, 0, 8)]),
    WarningKind.SILENCE: (
        full("out"), full("into"),
        [c.SetKind(to=Kind.APART, out_id="e1", in_id="e2"), c.PlaceTransition(seconds=9.0, out_id="e1", in_id="e2")],
    ),
    WarningKind.TEMPO_LEAP: (
        full("out"), track("into", [(F, 96)]).model_copy(update={"grid": Grid.constant(140.0, 0.0)}), [at(70, 0, 16)],
    ),
}  # fmt: skip


@pytest.mark.parametrize("kind", list(CASES))
def test_each_is_a_sentence_that_offers_what_mends_it(kind: WarningKind) -> None:
    out, into, commands = CASES[kind]
    mix, tracks = two(out, into, *commands)
    found = told(mix, tracks, kind)
    assert found
    for warning in found:
        assert warning.message[0].isupper()
        assert warning.message.endswith(".")
        assert warning.transition == 0
        for mend in warning.mends:
            after = c.apply(mix, mend.command, tracks)
            assert warning.key not in {s.key for s in plan(after, tracks).warnings}, mend.label
    assert found[0].mends


@pytest.mark.parametrize("kind", list(CASES))
def test_none_of_them_is_told_where_it_is_not_so(kind: WarningKind) -> None:
    into = track("into", [(B, 16), (F, 80)])
    mix, tracks = two(AWAY, into)
    assert plan(mix, tracks).transitions[0].transition.out_at == (bars_of(AWAY) - 16) * BAR
    assert told(mix, tracks, kind) == []


def test_notes_that_are_not_heard_together_do_not_clash() -> None:
    out = AWAY.model_copy(update={"key": keyed("Am")})
    into = track("into", [(B, 16), (F, 80)], key=keyed("Bbm"))
    mix, tracks = two(out, into)
    assert told(mix, tracks, WarningKind.KEYS) == []
    earlier = c.apply(mix, at(60, 16, 16), tracks)
    assert len(told(earlier, tracks, WarningKind.KEYS)) == 1


def test_a_warning_that_is_meant_says_so_until_it_is_not() -> None:
    out, into, commands = CASES[WarningKind.TWO_BASSES]
    mix, tracks = two(out, into, *commands)
    key = told(mix, tracks, WarningKind.TWO_BASSES)[0].key
    meant = c.apply(mix, c.MarkAsMeant(key=key, meant=True), tracks)
    assert [s.is_meant for s in told(meant, tracks, WarningKind.TWO_BASSES)] == [True]
    back = c.apply(meant, c.MarkAsMeant(key=key, meant=False), tracks)
    assert [s.is_meant for s in told(back, tracks, WarningKind.TWO_BASSES)] == [False]


def test_a_transition_made_to_fit_can_be_kept_as_it_lies() -> None:
    a, b, d = (full(n) for n in ("a", "b", "d"))
    tracks = {"a": a, "b": b, "d": d}
    mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("a", "b", "d")), tracks)
    mix = c.apply(mix, c.PlaceTransition(out_at=80 * BAR, beats=16 * BAR, **pair(mix, 0)), tracks)
    mix = c.apply(mix, c.PlaceTransition(out_at=16.0 * BAR, beats=8 * BAR, **pair(mix, 1)), tracks)
    mix = c.apply(mix, c.PlaceTransition(out_at=20.0 * BAR, **pair(mix, 1)), tracks)
    shorter = b.model_copy(update={"duration_s": 40.0, "sound_end_s": 40.0})
    found = [s for s in plan(mix, tracks | {"b": shorter}).warnings if s.kind is WarningKind.DOES_NOT_FIT]
    for warning in found:
        mended = c.apply(mix, warning.mends[0].command, tracks | {"b": shorter})
        assert warning.key not in {s.key for s in plan(mended, tracks | {"b": shorter}).warnings}
    assert found


def test_a_leap_is_crossed_by_count_rise_steps_or_a_cut_at_a_break() -> None:
    out = track("out", [(F, 48), (K, 16), (F, 16), (SectionKind.RISE, 8), (F, 8)])
    into = track("into", [(B, 16), (F, 80)]).model_copy(update={"grid": Grid.constant(62.0, 0.0)})
    mix, tracks = two(out, into, c.SetCount(entry_id="e2", count=1.0), at(72, 0, 16))
    (warning,) = [s for s in told(mix, tracks, WarningKind.TEMPO_LEAP) if s.key.endswith("incoming")]
    done = {m.label: plan(c.apply(mix, m.command, tracks), tracks) for m in warning.mends}
    for label, after in done.items():
        assert WarningKind.TEMPO_LEAP not in {s.kind for s in after.warnings}, label
    assert list(done)[2:] == ["In 4 steps before it", "Cut at its break", "Cut instead"]
    assert done["Count it double"].entries[1].home_bpm == 124.0
    rise = done["Ride through its rise"].transitions[0].transition
    assert (rise.out_at, rise.in_at, rise.beats) == (80 * BAR, 8 * BAR, 8 * BAR)
    cut = done["Cut at its break"].transitions[0].transition
    assert (cut.kind, cut.out_at, cut.in_at) == (Kind.CUT, 48 * BAR, 0.0)
    tempi = [p.bpm for p in done["In 4 steps before it"].tempo.points]
    assert sorted(set(tempi), reverse=True) == pytest.approx([120.0, 105.5, 91.0, 76.5, 62.0])


def placed_on_a_cue(*moved: tuple[float, str]) -> tuple[Mix, dict[str, TrackFacts]]:
    """A transition that was put on the outgoing's cue ‘short way’; then its cues are others."""
    way = Cue(id="c", at=72 * BAR, role=CueRole.MIX_OUT, name="short way", preferred=True)
    mix, tracks = two(full("out", cues=(way,)), full("into"), at(72, 0, 16))
    now = tuple(Cue(id=i, at=bar * BAR, name="short way") for bar, i in moved)
    return mix, tracks | {"out": tracks["out"].model_copy(update={"cues": now})}


def test_a_cue_that_a_transition_was_put_on_is_missed_when_it_goes() -> None:
    mix, tracks = placed_on_a_cue()
    found = told(mix, tracks, WarningKind.CUE)
    assert [s.message for s in found] == [
        "The cue ‘out · short way’, on which this transition goes out, is gone. It stays where the cue was."
    ]
    (stay,) = found[0].mends
    assert told(c.apply(mix, stay.command, tracks), tracks, WarningKind.CUE) == []


def test_a_transition_can_go_with_a_cue_that_has_moved() -> None:
    mix, tracks = placed_on_a_cue((76, "c"))
    (warning,) = told(mix, tracks, WarningKind.CUE)
    assert "has moved by 16 beats" in warning.message
    go, stay = warning.mends
    gone = c.apply(mix, go.command, tracks)
    assert plan(gone, tracks).transitions[0].transition.out_at == 76 * BAR
    for after in (gone, c.apply(mix, stay.command, tracks)):
        assert told(after, tracks, WarningKind.CUE) == []


def test_a_cue_that_stays_or_was_never_used_is_no_warning() -> None:
    assert told(*placed_on_a_cue((72, "c")), WarningKind.CUE) == []
    assert told(*placed_on_a_cue((72, "c"), (4, "other")), WarningKind.CUE) == []
    mix, tracks = placed_on_a_cue((4, "c"))
    elsewhere = c.apply(mix, at(60, 0, 16), tracks)
    assert told(elsewhere, tracks, WarningKind.CUE) == []


def test_another_track_in_the_place_of_an_entry_has_none_of_its_cues() -> None:
    mix, tracks = placed_on_a_cue((72, "c"))
    tracks["new"] = full("new")
    changed = c.apply(mix, c.ReplaceTrack(entry_id="e1", track_id="new"), tracks)
    assert told(changed, tracks, WarningKind.CUE) == []


@pytest.mark.parametrize(
    ("doubts", "checked", "count"),
    [([DoubtKind.OCTAVE], False, 1), ([DoubtKind.OCTAVE], True, 0), ([DoubtKind.KEY], False, 0), ([], False, 0)],
)
def test_a_doubtful_grid_is_told_until_it_is_checked(doubts: list[DoubtKind], checked: bool, count: int) -> None:
    said = tuple(Doubt(kind=kind, text="It may be half as fast: 64 BPM.") for kind in doubts)
    mix, tracks = two(full("out", doubts=said, checked=checked), full("into"))
    found = told(mix, tracks, WarningKind.GRID)
    assert [s.entry for s in found] == [0] * count
    for warning in found:
        assert warning.message.startswith("‘out’: It may be half as fast: 64 BPM. Listen")


def test_tracks_held_at_one_tempo_far_from_their_own_are_told_and_there_is_no_leap_to_cross() -> None:
    far = track("into", [(F, 96)]).model_copy(update={"grid": Grid.constant(140.0, 0.0)})
    mix, tracks = two(full("out"), far, c.HoldTempo(bpm=120.0), at(70, 0, 16))
    (warning,) = told(mix, tracks, WarningKind.TEMPO_LEAP)
    assert [m.label for m in warning.mends] == ["Cut instead"]


def test_the_second_voice_can_wait_where_its_stems_are_there() -> None:
    apart = StemsFact(coherent=0.7, is_clean=True, has_voice=True)
    sings = {"voice": sung((4, 8), (10, 30))}
    out, into = full("out", voice=sung((72, 76), (81, 83))), full("into", stems=apart, **sings)
    mix, tracks = two(out, into, at(70, 0, 16))
    (warning,) = told(mix, tracks, WarningKind.TWO_VOICES)
    waits = next(m for m in warning.mends if m.label == "Let the second voice wait")
    after = c.apply(mix, waits.command, tracks)
    assert told(after, tracks, WarningKind.TWO_VOICES) == []
    curve = plan(after, tracks).transitions[0].transition.incoming.curve(Control.VOICE)
    assert [float(curve.value_at(bar / 16)) for bar in (5, 12, 14)] == [0.0, 0.0, 1.0]
    without = tracks | {"into": into.model_copy(update={"stems": None})}
    assert "Let the second voice wait" not in {m.label for m in told(mix, without, WarningKind.TWO_VOICES)[0].mends}


def test_of_two_basses_that_have_stems_the_second_can_be_dropped() -> None:
    stems = {"stems": StemsFact(coherent=0.7, is_clean=True, has_voice=False)}
    mix, tracks = two(full("out").model_copy(update=stems), full("into").model_copy(update=stems), at(70, 0, 16), EVEN)
    warning = told(mix, tracks, WarningKind.TWO_BASSES)[0]
    mend = next(m for m in warning.mends if m.label.startswith("Drop the second bass"))
    mended = c.apply(mix, mend.command, tracks)
    assert told(mended, tracks, WarningKind.TWO_BASSES) == []
    curves = plan(mended, tracks).transitions[0].transition
    assert Control.LOW not in curves.incoming.moving
    assert curves.incoming.curve(Control.BASS).value_at(0.25) == 0.0


def test_a_long_fade_is_no_silence() -> None:
    ids = {"out_id": "e1", "in_id": "e2"}
    mix, tracks = two(full("out"), full("into"), c.SetKind(to=Kind.FADE, **ids), c.PlaceTransition(seconds=9.0, **ids))
    assert plan(mix, tracks).transitions[0].transition.seconds == 9.0
    assert told(mix, tracks, WarningKind.SILENCE) == []


@pytest.mark.parametrize(("sureness", "count"), [(1.0, 1), (0.3, 0)])
def test_keys_of_which_nobody_can_be_sure_do_not_clash(sureness: float, count: int) -> None:
    unsure = {name: KeyFact(key=keyed(key).key, confidence=sureness) for name, key in (("out", "Am"), ("into", "Bbm"))}
    mix, tracks = two(full("out", key=unsure["out"]), full("into", key=unsure["into"]), at(70, 0, 16))
    assert len(told(mix, tracks, WarningKind.KEYS)) == count


def test_a_break_early_in_a_track_is_none_to_leave_it_at() -> None:
    into = full("into").model_copy(update={"grid": Grid.constant(90.0, 0.0)})
    labels = {}
    for name, parts in (("early", [(F, 8), (K, 16), (F, 72)]), ("late", [(F, 48), (K, 16), (F, 32)])):
        mix, tracks = two(track("out", parts), into, at(72, 0, 16))
        labels[name] = {m.label for s in told(mix, tracks, WarningKind.TEMPO_LEAP) for m in s.mends}
    assert "Cut at its break" in labels["late"]
    assert "Cut at its break" not in labels["early"]
