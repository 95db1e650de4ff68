"""Layers: where they lie, what becomes of them when the mix changes, what is doubtful about them, what is proposed."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.layers import Layer, Made, MadeSound, OfTrack, OnEntry, OnMix, OnTransition
from fernbrook.core.mix.model import Mix, Naming, recounted_mix
from fernbrook.core.mix.transitions import HeldCue
from fernbrook.core.plan import MixWarning, Plan, WarningKind, fitting_shift, layer_proposals, plan
from fernbrook.core.plan.planned_layer import Missing
from fernbrook.core.track import CueRole, Grid, Recount, Skip, Stem, StemsFact, TrackFacts
from tests.core.test_proposals import BAR, B, F, K, cue, keyed, sung, track
from tests.core.test_warnings import at, full, two

STEMS = StemsFact(coherent=0.7, is_clean=True, has_voice=True)
PAIR = {"out_id": "e1", "in_id": "e2"}


def over(track_id: str = "third", *, beat: float = 64.0, bars: int = 4, **more: object) -> Layer:
    sound = OfTrack(track_id=track_id, start=32.0, beats=bars * BAR, stem=more.pop("stem", None))
    fields = {"id": "l1", "sound": sound, "at": OnEntry(entry_id="e1", beat=beat), **more}
    return Layer.model_validate(fields)


def laid(*layers: Layer, third: TrackFacts | None = None, **more: TrackFacts) -> tuple[Mix, dict[str, TrackFacts]]:
    mix, tracks = two(more.get("out", full("out")), more.get("into", full("into")), at(70, 0, 16))
    tracks["third"] = third or full("third")
    return c.apply(mix, c.PutLayers(layers=layers), tracks), tracks


def told(planned: Plan, kind: WarningKind) -> list[MixWarning]:
    return [s for s in planned.warnings if s.layer is not None and s.kind is kind]


def starts(mix: Mix, tracks: dict[str, TrackFacts]) -> list[float]:
    return [x.start_beat for x in plan(mix, tracks).layers]


def test_it_lies_where_it_is_tied_to_and_moves_along() -> None:
    ties = [
        OnMix(beat=100.0),
        OnEntry(entry_id="e2", beat=8.0),
        OnEntry(entry_id="e1", beat=-4.0, cue=HeldCue(id="plain", name="here")),
        OnTransition(beat=-2.0, **PAIR),
    ]
    marked = full("out").model_copy(update={"cues": cue(20, CueRole.PLAIN)})
    layers = [over().model_copy(update={"id": f"l{n}", "at": tie}) for n, tie in enumerate(ties)]
    mix, tracks = laid(*layers, out=marked)
    assert starts(mix, tracks) == [100.0, 70 * BAR + 8.0, 76.0, 86 * BAR - 2.0]
    later = c.apply(mix, c.PlaceTransition(out_at=74 * BAR, **PAIR), tracks)
    assert starts(later, tracks) == [100.0, 74 * BAR + 8.0, 76.0, 90 * BAR - 2.0]
    tracks["out"] = marked.model_copy(update={"cues": cue(24, CueRole.PLAIN)})
    assert starts(mix, tracks)[2] == 92.0


def test_what_leads_up_ends_on_its_place_and_what_falls_begins_there() -> None:
    sweep, drop = (
        Layer(id=s, sound=Made(sound=s, beats=8.0), at=OnEntry(entry_id="e1", beat=64.0))
        for s in (MadeSound.SWEEP, MadeSound.SUB_DROP)
    )
    planned = plan(*laid(sweep, drop)).layers
    assert [(x.start_beat, x.end_beat) for x in planned] == [(56.0, 64.0), (64.0, 72.0)]


def test_one_whose_tie_is_gone_waits_and_is_there_again() -> None:
    mix, tracks = laid(over())
    gone = c.apply(mix, c.RemoveEntries(entry_ids=("e1",)), tracks)
    waiting = plan(gone, tracks)
    assert waiting.layers[0].waits.lacks is Missing.ENTRY
    assert waiting.layers[0].parts == ()
    assert len(told(waiting, WarningKind.LAYER)) == 1
    assert gone.layers == mix.layers
    held = over(at=OnEntry(entry_id="e1", beat=0.0, cue=HeldCue(id="c", name="the bell")))
    lost = plan(*laid(held))
    warning = told(lost, WarningKind.LAYER)[0]
    assert "‘the bell’" in warning.message
    mended = c.apply(lost.mix, warning.mends[0].command, tracks)
    assert plan(mended, tracks).layers[0].waits is None


def test_a_stem_that_is_not_there_is_not_played_whole() -> None:
    planned = plan(*laid(over(stem=Stem.VOICE)))
    assert planned.layers[0].parts == ()
    assert "voice stem" in told(planned, WarningKind.LAYER)[0].message
    with_stems = full("third").model_copy(update={"stems": STEMS})
    assert plan(*laid(over(stem=Stem.VOICE), third=with_stems)).layers[0].parts[0].turns_stems


def test_an_edit_of_the_entry_takes_it_along() -> None:
    mix, tracks = laid(over(beat=64.0))
    cut = c.apply(mix, c.PutEdits(entry_id="e1", edits=(Skip(id="s", start=16.0, end=32.0),)), tracks)
    assert cut.layers[0].at == OnEntry(entry_id="e1", beat=48.0)


@given(octave=st.sampled_from([0.5, 1.0, 2.0]), start=st.integers(0, 40), beats=st.integers(1, 32))
def test_a_grid_counted_otherwise_leaves_it_where_it_sounds(octave: float, start: int, beats: int) -> None:
    layer = over().model_copy(update={"sound": OfTrack(track_id="third", start=2.0 * start, beats=2.0 * beats)})
    mix, tracks = laid(layer)
    before = plan(mix, tracks).layers[0]
    grid = Grid.constant(120.0 * octave, 0.0)
    now = recounted_mix(mix, {"third": Recount(tracks["third"].riding_grid, grid)})
    after = plan(now, {**tracks, "third": tracks["third"].model_copy(update={"grid": grid})}).layers[0]
    assert (after.start_s, after.end_s) == pytest.approx((before.start_s, before.end_s))
    one, other = before.parts[0].segments[0], after.parts[0].segments[0]
    times = [one.start_s, one.end_s]
    assert other.time_map.source_at(times) == pytest.approx(one.time_map.source_at(times))


@pytest.mark.parametrize(
    "wrong",
    [{"times": 2, "apart": 8.0}, {"fade_in": 10.0, "fade_out": 8.0}, {"times": 0}, {"gain_db": 30.0}],
    ids=["over itself", "fades too long", "never", "too loud"],
)
def test_what_cannot_be_is_refused(wrong: dict[str, object]) -> None:
    with pytest.raises(ValueError, match=r"layer|greater|less"):
        over(**wrong)


def test_commands_name_what_they_lack() -> None:
    mix, tracks = two(full("out"), full("into"))
    with pytest.raises(c.CommandError, match="not in the library"):
        c.apply(mix, c.PutLayers(layers=(over("nobody"),)), tracks)
    with pytest.raises(c.CommandError, match="same id"):
        c.apply(mix, c.PutLayers(layers=(over("out"), over("into"))), tracks)
    with pytest.raises(c.CommandError, match="entry's"):
        c.apply(mix, c.PutLayers(layers=(over("out", id="e1"),)), tracks)


def test_put_again_it_is_replaced_and_taken_away_it_is_gone() -> None:
    mix, tracks = laid(over(), over(id="l2"))
    louder = c.apply(mix, c.PutLayers(layers=(over(gain_db=3.0),)), tracks)
    assert [x.id for x in louder.layers] == ["l1", "l2"]
    assert louder.layers[0].gain_db == 3.0
    assert [x.id for x in c.apply(louder, c.RemoveLayers(ids=("l1",)), tracks).layers] == ["l2"]
    assert louder.track_ids == {"out", "into", "third"}
    words = [x.words(Naming(mix, tracks)) for x in (c.PutLayers(layers=(over(),)), c.RemoveLayers(ids=("l1", "l2")))]
    assert words == ["change a part of ‘third’", "take 2 layers away"]


def test_two_that_sing_are_told_and_one_can_be_dropped() -> None:
    singer = full("third", voice=sung((8, 12)))
    out = full("out", voice=sung((16, 20))).model_copy(update={"stems": STEMS})
    mix, tracks = laid(over(beat=64.0), third=singer, out=out)
    warning = told(plan(mix, tracks), WarningKind.TWO_VOICES)[0]
    assert "16 beats" in warning.message
    mended = c.apply(mix, warning.mends[0].command, tracks)
    assert told(plan(mended, tracks), WarningKind.TWO_VOICES) == []
    elsewhere, _ = laid(over(beat=128.0), third=singer, out=out)
    silent = over(beat=48.0, bars=8)
    for early in (full("third", voice=sung((8, 10))), full("third", voice=sung((60, 70)))):
        assert told(plan(*laid(silent, third=early, out=out)), WarningKind.TWO_VOICES) == []
    assert told(plan(elsewhere, tracks), WarningKind.TWO_VOICES) == []


def test_a_key_that_clashes_is_told_and_shifted() -> None:
    third = full("third", key=keyed("Bbm"))
    mix, tracks = laid(over(), third=third, out=full("out", key=keyed("Am")))
    warning = told(plan(mix, tracks), WarningKind.KEYS)[0]
    mended = c.apply(mix, warning.mends[0].command, tracks)
    assert mended.layers[0].key_shift == -1
    planned = plan(mix, tracks)
    assert fitting_shift(planned.layers[0], planned.entries) == -1
    assert told(plan(mended, tracks), WarningKind.KEYS) == []
    drums, _ = laid(over(stem=Stem.DRUMS), third=third.model_copy(update={"stems": STEMS}))
    assert told(plan(drums, tracks), WarningKind.KEYS) == []


def test_one_that_lies_outside_the_mix_is_told() -> None:
    end = plan(*laid(over())).duration_s
    for beat, words in ((-100.0, "outside"), (-4.0, "cut off"), (2.0 * end + 8.0, "outside")):
        mix, tracks = laid(over(at=OnMix(beat=beat)))
        assert words in told(plan(mix, tracks), WarningKind.LAYER)[0].message
    assert told(plan(*laid(over(on=False, at=OnMix(beat=-100.0)))), WarningKind.LAYER) == []


OUT = [(B, 8), (F, 24), (K, 16), (F, 32), (B, 16)]


def proposed(**more: object) -> tuple[Plan, dict[str, Layer]]:
    out = track("out", OUT, key=keyed("Am"))
    into = track("into", [(B, 16), (F, 80)], key=keyed("Em"), voice=sung((30, 36))).model_copy(update=more)
    planned = plan(*two(out, into, at(80, 0, 16)))
    return planned, {p.layer.id.split("-")[0]: p.layer for p in layer_proposals(planned)}


def test_drums_a_voice_and_a_sweep_are_proposed_where_they_help() -> None:
    planned, found = proposed(stems=STEMS)
    assert set(found) == {"drums", "sweep", "voice"}
    drums = found["drums"]
    assert drums.at == OnEntry(entry_id="e1", beat=32 * BAR)
    assert isinstance(drums.sound, OfTrack)
    assert drums.sound.stem is Stem.DRUMS
    assert 11 * BAR < drums.length <= 15 * BAR
    assert found["sweep"].at == OnEntry(entry_id="e1", beat=48 * BAR)
    voice = found["voice"]
    assert isinstance(voice.sound, OfTrack)
    assert (voice.sound.start, voice.sound.beats) == (30 * BAR, 6 * BAR)
    taken = c.apply(planned.mix, c.PutLayers(layers=tuple(found.values())), {t.id: t for t in planned.tracks})
    again = plan(taken, {t.id: t for t in planned.tracks})
    assert layer_proposals(again) == ()
    assert [s for s in again.warnings if s.layer is not None] == []


def test_what_comes_before_and_after_the_music_is_no_break() -> None:
    out = track("out", [(K, 16), (F, 64), (K, 16)])
    assert layer_proposals(plan(*two(out, track("into", [(B, 16), (F, 80)]), at(80, 0, 8)))) == ()


def test_a_voice_is_announced_where_nobody_sings() -> None:
    out = track("out", OUT, key=keyed("Am"), voice=sung((62, 79)))
    into = track("into", [(B, 16), (F, 80)], key=keyed("Em"), voice=sung((30, 36)), stems=STEMS)
    planned = plan(*two(out, into, at(80, 0, 16)))
    voice = next(p.layer for p in layer_proposals(planned) if p.layer.id.startswith("voice"))
    assert voice.at == OnEntry(entry_id="e1", beat=56 * BAR)


def test_without_stems_drums_come_from_where_they_are_alone_and_no_voice_is_announced() -> None:
    found = proposed()[1]
    assert isinstance(found["drums"].sound, OfTrack)
    assert (found["drums"].sound.start, found["drums"].sound.stem) == (0.0, None)
    assert "voice" not in found


def test_a_voice_of_a_far_key_is_not_announced_and_one_of_a_far_tempo_not_bent() -> None:
    assert "voice" not in proposed(stems=STEMS, key=keyed("F#"))[1]
    assert proposed(stems=STEMS, key=keyed("Bbm"))[1]["voice"].key_shift == -1
    assert set(proposed(stems=STEMS, grid=Grid.constant(97.0, 0.0))[1]) == {"sweep"}
