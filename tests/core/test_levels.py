"""Equal first, loud second."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix.commands import AddTracks, SetGain, SetLimiting, SetLoudness, SetTarget, apply
from fernbrook.core.mix.entries import CEILING_DBTP
from fernbrook.core.mix.model import Loudness, Mix
from fernbrook.core.plan import Plan, WarningKind, plan
from fernbrook.core.track import Grid, TrackFacts


def track(number: int, lufs: float, peak: float, trim: float = 0.0) -> TrackFacts:
    return TrackFacts(
        id=f"t{number}",
        title=f"T{number}",
        duration_s=200.0,
        grid=Grid.constant(120.0, 0.0),
        loudness_lufs=lufs,
        short_term_max_lufs=lufs + 3.0,
        true_peak_dbtp=peak,
        trim_db=trim,
    )


def planned(*tracks: TrackFacts, **changes: object) -> Plan:
    by_id = {t.id: t for t in tracks}
    mix = apply(Mix(name="m"), AddTracks(track_ids=tuple(by_id)), by_id)
    return plan(mix.model_copy(update=changes), by_id)


heard = st.tuples(st.floats(-30.0, -6.0), st.floats(-12.0, 1.0))


@given(
    tracks=st.lists(heard, min_size=1, max_size=8),
    target=st.floats(-24.0, -6.0),
    limiting=st.floats(0.0, 6.0),
    loudness=st.sampled_from(Loudness),
)
def test_all_are_equally_loud_and_as_loud_as_that_allows(
    tracks: list[tuple[float, float]], target: float, limiting: float, loudness: Loudness
) -> None:
    facts = [track(i, *t) for i, t in enumerate(tracks)]
    got = planned(*facts, target_lufs=target, limiting_db=limiting, loudness=loudness)
    gains = [e.gain_db for e in got.entries]
    loud = {
        Loudness.INTEGRATED: [t.loudness_lufs for t in facts],
        Loudness.LOUDEST: [t.short_term_max_lufs for t in facts],
        Loudness.PEAK: [t.true_peak_dbtp for t in facts],
    }[loudness]
    reached = [a + g for a, g in zip(loud, gains, strict=True)]  # type: ignore[operator]
    wanted = CEILING_DBTP if loudness is Loudness.PEAK else target
    assert max(reached) - min(reached) < 0.02
    over = [t.true_peak_dbtp + g - CEILING_DBTP for t, g in zip(facts, gains, strict=True)]  # type: ignore[operator]
    assert max(over) < limiting + 0.07
    # Louder than this one of them would pass what is allowed, or all would pass the target.
    assert abs(reached[0] - wanted) < 0.07 or max(over) > limiting - 0.02
    assert [e.level.over_db for e in got.entries] == pytest.approx([max(0.0, o) for o in over], abs=0.02)
    warnings = [s for s in got.warnings if s.kind is WarningKind.LEVEL]
    assert bool(warnings) == (reached[0] < wanted - 0.06) or abs(reached[0] - wanted) < 0.07


def test_the_one_that_holds_all_back_is_named_with_what_would_help() -> None:
    pieces = [track(i, lufs, 0.0) for i, lufs in enumerate((-15.0, -16.0, -17.0, -17.5, -18.0, -19.0))]
    got = planned(*pieces)
    assert [e.gain_db for e in got.entries] == pytest.approx([-3.0, -2.0, -1.0, -0.5, 0.0, 1.0])
    (warning,) = (s for s in got.warnings if s.kind is WarningKind.LEVEL)
    assert warning.entry == 5
    assert "‘T5’ can be brought to −18.0 and not to −14" in warning.message
    assert "Allow 4.0 dB more limiting" in warning.message
    assert got.entries[0].level.why == "brought to −18 LUFS, which all can reach"
    more = planned(*pieces, limiting_db=6.0)
    assert [e.gain_db for e in more.entries] == pytest.approx([1.0, 2.0, 3.0, 3.5, 4.0, 5.0])
    assert not [s for s in more.warnings if s.kind is WarningKind.LEVEL]
    assert more.entries[0].level.why == "brought to −14 LUFS"


def test_trims_and_gains_by_hand_are_kept_and_told() -> None:
    tracks = {t.id: t for t in (track(0, -10.0, -1.0), track(1, -10.0, -1.0, trim=-1.5), track(2, -20.0, -0.5))}
    mix = apply(Mix(name="m"), AddTracks(track_ids=tuple(tracks)), tracks)
    mix = apply(mix, SetGain(entry_id="e3", gain_db=6.0), tracks)
    got = plan(mix, tracks)
    assert [e.gain_db for e in got.entries] == pytest.approx([-4.0, -5.5, 6.0])
    assert got.entries[1].level.why == "brought to −14 LUFS, trimmed by −1.5 dB"
    assert got.entries[2].level.why == "set by hand"
    assert [s.message for s in got.warnings if s.kind is WarningKind.LEVEL] == [
        "‘T2’ passes the ceiling by 6.5 dB, which the limiter takes; 2 dB are allowed. Lower its gain."
    ]
    left = plan(apply(mix, SetTarget(lufs=None), tracks), tracks)
    assert [e.gain_db for e in left.entries] == pytest.approx([0.0, -1.5, 6.0])
    changed = apply(apply(mix, SetLimiting(db=8.0), tracks), SetLoudness(loudness=Loudness.LOUDEST), tracks)
    assert plan(changed, tracks).entries[0].gain_db == pytest.approx(-7.0)
    assert not [s for s in plan(changed, tracks).warnings if s.kind is WarningKind.LEVEL]


def test_a_trim_upwards_leaves_less_room_for_all() -> None:
    got = planned(track(0, -15.0, -1.0, trim=1.0), track(1, -15.0, -1.0), limiting_db=0.0)
    assert [e.gain_db for e in got.entries] == pytest.approx([0.0, -1.0])
    assert [e.level.over_db for e in got.entries] == [0.0, 0.0]
