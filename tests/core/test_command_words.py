"""Every command there is, told in the history in words of its own."""

from __future__ import annotations

from typing import get_args

import pytest
from pydantic import TypeAdapter

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve, Law
from fernbrook.core.mix.entries import Entry, Follows
from fernbrook.core.mix.layers import Layer
from fernbrook.core.mix.model import Crossovers, Loudness, Mix, Naming
from fernbrook.core.mix.transitions import Kind, ReadyShape, SavedShape, Side, TempoPolicy
from fernbrook.core.track import Repeat, Skip
from fernbrook.core.track import commands as m
from fernbrook.core.value import Command
from tests.core.test_commands import TRACKS, mix_of, pair
from tests.core.test_shapes import made

MIX = mix_of("a", "b", "c")
HERE = pair(MIX, 0)
E1, E2, E3 = (e.id for e in MIX.entries)
SKIP, REPEAT = Skip(id="s", start=16.0, end=32.0), Repeat(id="r", start=16.0, end=32.0)
OVER = TypeAdapter(Layer).validate_python(
    {
        "id": "l",
        "sound": {"of": "made", "sound": "rise", "beats": 8.0},
        "at": {"to": "entry", "entry_id": E1, "beat": 8.0},
    }
)
SAVED = SavedShape.of("Mine", made(ReadyShape.BASS, 32.0), 4.0)
ONE, TWO = Entry(id="x", track_id="a"), Entry(id="y", track_id="b")
WORDS: list[tuple[c.AnyMixCommand, str]] = [
    (c.RenameMix(name="Late"), "rename the mix"),
    (c.SetTarget(lufs=-9.0), "set the target loudness"),
    (c.SetLoudness(loudness=Loudness.INTEGRATED), "choose what is equally loud"),
    (c.SetLimiting(db=2.5), "allow 2.5 dB of limiting"),
    (c.SetCrossovers(crossovers=Crossovers()), "set the equaliser's bands"),
    (c.SetUntouched(untouched=ReadyShape.BASS), "choose what an untouched transition is"),
    (c.SettlePlaces(again=True), "place again what nobody shaped"),
    (c.SettlePlaces(again=False), "leave as they are what nobody shaped"),
    (c.MarkAsMeant(key="k", meant=True), "mark a warning as meant"),
    (c.AddTracks(track_ids=("a",)), "add ‘A’"),
    (c.AddTracks(track_ids=("a", "b")), "add 2 tracks"),
    (c.AddTracks(track_ids=("gone",)), "add a track"),
    (c.RemoveEntries(entry_ids=(E1,)), "take out ‘A’"),
    (c.MoveEntries(entry_ids=(E1, E2), to=2), "move 2 entries in the order"),
    (c.DuplicateEntries(entry_ids=(E2,)), "put in ‘B’ once more"),
    (c.ReplaceTrack(entry_id=E1, track_id="c"), "replace ‘A’ by ‘C’"),
    (c.ReplaceTrack(entry_id=E1, track_id="gone"), "replace a track"),
    (c.KeepTogether(entry_ids=(E1, E2)), "keep 2 entries together"),
    (c.KeepTogether(entry_ids=(E1, E2), together=False), "let 2 entries go"),
    (c.FixEntry(entry_id=E1, place=2), "fix the place of ‘A’"),
    (c.FixEntry(entry_id="gone", place=None), "let an entry go"),
    (c.SortEntries(by=c.SortBy.TEMPO), "sort by tempo"),
    (c.UseOrder(seats=(c.Seat(entry_id=E1),)), "use another order"),
    (c.PutPair(out=ONE, into=TWO), "put in ‘A’ → ‘B’ as tried"),
    (c.SetFollows(entry_id=E1, follows=Follows.OWN), "let ‘A’ keep its own tempo"),
    (c.SetFollows(entry_id=E1, follows=Follows.STEADY), "make the tempo of ‘A’ steady"),
    (c.SetFollows(entry_id=E1, follows=Follows.MIX), "let ‘A’ go at the tempo of the mix"),
    (c.SetFollows(entry_id=E1, follows=None), "let ‘A’ go as its track suggests"),
    (c.SetGain(entry_id=E3, gain_db=-2.0), "set the gain of ‘C’"),
    (c.SetKeyLock(entry_id=E1, key_lock=False), "switch key lock off for ‘A’"),
    (c.SetKeyShift(entry_id=E1, semitones=-2), "shift the key of ‘A’ −2"),
    (c.SetKeyShift(entry_id=E1, semitones=0), "shift the key of ‘A’ back"),
    (c.SetHomeTempo(entry_id=E1, bpm=124.0), "set the tempo of ‘A’"),
    (c.SetCount(entry_id=E1, count=2.0), "set the count of ‘A’"),
    (c.PutEdits(entry_id=E1, edits=(SKIP,)), "leave out a part of ‘A’"),
    (c.PutEdits(entry_id=E1, edits=(SKIP, REPEAT)), "edit ‘A’"),
    (c.EditEntries(entries=(c.EntryEdits(entry_id=E2, edits=(SKIP,)),)), "edit ‘B’"),
    (c.RemoveEdits(entry_id=E1, ids=("s",)), "take an edit of ‘A’ back"),
    (c.RemoveEdits(entry_id=E1), "take all edits of ‘A’ back"),
    (c.PlayAsRecorded(entry_id=E1, as_recorded=True), "play ‘A’ as recorded"),
    (c.CopyEdits(entry_id=E1, to_ids=(E2, E3)), "copy the edits of ‘A’ to 2 entries"),
    (c.PutLayers(layers=(OVER,)), "lay a tone rise"),
    (c.RemoveLayers(ids=("l", "k")), "take 2 layers away"),
    (c.HoldTempo(bpm=124.0), "play the whole mix at 124 BPM"),
    (c.HoldTempo(bpm=None, entry_ids=(E1,)), "give ‘A’ its own tempo"),
    (c.SetTempoMarks(marks=()), "set the tempo by hand"),
    (c.PlaceTransition(in_at=4.0, **HERE), "move the mix-in of ‘B’"),
    (c.PlaceTransition(out_at=4.0, **HERE), "move the mix-out before ‘B’"),
    (c.PlaceTransition(beats=4.0, **HERE), "change the length of the transition into ‘B’"),
    (c.PlaceTransition(out_at=4.0, beats=4.0, **HERE), "move the transition into ‘B’"),
    (c.SetTempoPolicy(tempo=TempoPolicy.RAMP, **HERE), "set the tempo into ‘B’"),
    (c.UseProposal(out_at=1.0, in_at=0.0, beats=4.0, **HERE), "use a proposal into ‘B’"),
    (c.SetKind(to=Kind.APART, **HERE), "pause into ‘B’"),
    (c.SetNudge(ms=3.0, **HERE), "move ‘B’ by milliseconds"),
    (c.ResetTransition(**HERE), "reset the transition into ‘B’"),
    (c.SetCurve(side=Side.OUTGOING, control=Control.LOW, curve=Curve.flat(), **HERE), "shape the low of ‘A’"),
    (
        c.SetCurves(curves=(c.LaneCurve(side=Side.INCOMING, control=Control.LOW, curve=Curve.flat()),), **HERE),
        "shape the transition into ‘B’",
    ),
    (
        c.RecordRide(side=Side.INCOMING, control=Control.HIGH, moves=(c.Move(0.0, 1.0), c.Move(0.5, 0.5)), **HERE),
        "ride the high of ‘B’",
    ),
    (c.SetVolumeLaw(law=Law.LINEAR, **HERE), "shape the transition into ‘B’"),
    (c.SetEffects(resonance=0.5, **HERE), "set the effects into ‘B’"),
    (c.SetGap(beats=2.0, **HERE), "leave out the beats before ‘B’"),
    (c.SetGap(beats=0, **HERE), "put back the beats before ‘B’"),
    (c.ApplyShape(shape=SAVED, **HERE), "use the ‘Mine’ into ‘B’"),
    (c.ShapeTransitions(shape=ReadyShape.ECHO_OUT), "use the echo out for all transitions"),
    (c.KeepTake(**HERE), "keep a take into ‘B’"),
    (c.UseTake(number=2, **HERE), "use take 2 into ‘B’"),
    (c.DescribeTake(number=2, **HERE), "describe take 2 into ‘B’"),
    (c.DropTake(number=2, **HERE), "forget take 2 into ‘B’"),
]


def _all_of(union: object) -> set[type[Command]]:
    return set(get_args(get_args(union)[0]))


@pytest.mark.parametrize(("command", "words"), WORDS, ids=lambda x: x if isinstance(x, str) else "")
def test_a_command_says_what_it_does_to_which(command: c.AnyMixCommand, words: str) -> None:
    assert command.words(Naming(MIX, TRACKS)) == words


def test_no_command_is_without_a_test_of_its_words() -> None:
    assert {type(command) for command, _ in WORDS} == _all_of(c.AnyMixCommand)
    assert len(_all_of(m.AnyMarkupCommand)) == 25


def test_a_command_without_words_cannot_be_made() -> None:
    class Wordless(c.MixCommand):
        kind: str = "wordless"

        def rule(self, mix: Mix, tracks: object) -> Mix:  # noqa: ARG002
            return mix

    with pytest.raises(TypeError, match="words"):
        Wordless()  # type: ignore[abstract]
