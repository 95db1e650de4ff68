from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track import CueRole, DoubtKind, Facet, Grid, VoiceSpan
from fernbrook.core.track import commands as m
from fernbrook.errors import RefusedError, StaleError
from fernbrook.service.services import Services
from fernbrook.service.tracks.marking import Heard
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRow
from tests.conftest import Made
from tests.listen import pitch_hz
from tests.service.conftest import analysed, until

RATE = 44_100


@pytest.fixture(scope="module")
def analysed_folder(tmp_path_factory: pytest.TempPathFactory, first: Made) -> Path:
    """A data folder with the first track, analysed; each test works on a copy."""
    folders = Folders(tmp_path_factory.mktemp("analysed"))
    services = Services(folders, workers=1)
    services.library.bring_in_path(first.path)
    services.start()
    until(lambda: analysed(services))
    services.stop()
    return folders.root


@pytest.fixture
def services(analysed_folder: Path, tmp_path: Path) -> Iterator[Services]:
    shutil.copytree(analysed_folder, tmp_path / "data")
    services = Services(Folders(tmp_path / "data"), workers=1)
    yield services
    services.stop()


@pytest.fixture
def track(services: Services) -> str:
    return str(services.catalogue.tracks()[0].id)


def _grid(services: Services, track: str) -> Grid:
    grid = services.marking.open(track).markup.grid
    assert grid is not None
    return grid


def _late(grid: Grid, true: Grid) -> float:
    """The largest distance of two grids over the track, in seconds."""
    beats = np.arange(0.0, 120.0)
    return float(np.abs(grid.time_at(beats) - true.time_at(beats)).max())


def _late_ms(services: Services, track: str) -> np.ndarray:
    found = services.marking.offsets(track)
    return np.asarray(found.late_s[found.clear > 0] * 1000.0)


def test_an_analysed_track_tells_what_was_found(services: Services, track: str) -> None:
    opened = services.marking.open(track)
    assert not opened.markup.by_hand
    assert opened.steps.undo is None
    kinds = [s.kind.value for s in opened.markup.sections]
    assert kinds == ["beat", "full", "beat"]
    assert [s.start for s in opened.markup.sections] == [0.0, 32.0, 96.0]
    assert np.abs(_late_ms(services, track)).max() < 3.0
    assert services.library.get(track).key
    assert services.marking.onsets_picture(track).stat().st_size > 10_000


def test_offsets_show_a_grid_that_is_off(services: Services, track: str) -> None:
    version = services.marking.open(track).version
    opened = services.marking.change(track, version, m.Slide(by_s=-0.015))
    assert np.median(_late_ms(services, track)) == pytest.approx(15.0, abs=2.0)
    services.marking.change(track, opened.version, m.SetTempo(bpm=119.8, about_beat=0.0))
    late = _late_ms(services, track)
    assert late[-1] < late[0] - 60.0


def test_every_change_is_taken_back_exactly_and_brought_again(services: Services, track: str) -> None:
    states = [services.marking.open(track)]
    for command in (
        m.Slide(by_s=0.01),
        m.ScaleTempo(factor=2.0),
        m.MoveLine(beat=8.0, to_s=4.0),
        m.CountFrom(beat=4.0),
    ):
        states.append(services.marking.change(track, states[-1].version, command))
    for before in reversed(states[:-1]):
        opened = services.marking.undo(track, services.marking.open(track).version)
        assert opened.markup == before.markup
    with pytest.raises(RefusedError, match="nothing left to undo"):
        services.marking.undo(track, opened.version)
    assert opened.steps.redo == "slide the grid by +10 ms"
    for after in states[1:]:
        opened = services.marking.redo(track, opened.version)
        assert opened.markup == after.markup


def test_lines_moved_in_one_gesture_go_back_in_one_step_and_a_mix_stays_where_it_was(
    services: Services, track: str
) -> None:
    mix = services.mixes.create("Night")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track,)))
    opened = before = services.marking.open(track)
    for _ in range(3):
        opened = services.marking.change(track, opened.version, m.Slide(by_s=0.004), "held")
        entry = services.mixes.open(mix.id).plan.entries[0]
        assert entry.track.grid == opened.markup.grid
    assert opened.markup.grid is not None
    assert before.markup.grid is not None
    assert opened.markup.grid.time_at(0.0) == pytest.approx(before.markup.grid.time_at(0.0) + 0.012, abs=1e-9)
    assert services.marking.undo(track, opened.version).markup == before.markup


def test_a_change_on_an_old_version_does_nothing(services: Services, track: str) -> None:
    version = services.marking.open(track).version
    services.marking.change(track, version, m.Slide(by_s=0.01))
    before = services.marking.open(track).markup
    with pytest.raises(StaleError):
        services.marking.change(track, version, m.Slide(by_s=0.5))
    assert services.marking.open(track).markup == before


@pytest.mark.parametrize("beat", [2e5, -2e5])
def test_bar_1_stays_near_its_track(services: Services, track: str, beat: float) -> None:
    before = services.marking.open(track)
    with pytest.raises(RefusedError, match="Count from a beat within it"):
        services.marking.change(track, before.version, m.CountFrom(beat=beat))
    assert services.marking.open(track) == before
    assert services.marking.change(track, before.version, m.CountFrom(beat=-32.0)).version > before.version


def test_a_spoilt_grid_is_right_again_after_one_measured_action(services: Services, track: str) -> None:
    true = _grid(services, track)

    def spoil(command: m.MarkupCommand) -> int:
        return services.marking.change(track, None, command).version

    version = spoil(m.Slide(by_s=0.02))
    services.marking.snap(track, version, 16.0)
    assert float(_grid(services, track).time_at(16.0)) == pytest.approx(float(true.time_at(16.0)), abs=0.003)

    version = spoil(m.SetTempo(bpm=117.0, about_beat=3.0))
    services.marking.measure(track, version, (85.0, 170.0), None)
    assert _late(_grid(services, track), true) < 0.002

    version = spoil(m.TempoFrom(beat=64.0, bpm=119.5))
    services.marking.measure_from(track, version, 64.0)
    assert _grid(services, track).bpm_after == pytest.approx(120.0, abs=0.02)

    version = spoil(m.SetTempo(bpm=119.9, about_beat=0.0))
    services.marking.follow(track, version, None, 1)
    assert _late(_grid(services, track), true) < 0.005

    version = spoil(m.ScaleTempo(factor=0.5))
    services.marking.back_to_analysed(track, version)
    assert services.marking.open(track).markup.grid == true


def test_a_range_of_tempi_chooses_the_octave(services: Services, track: str) -> None:
    version = services.marking.open(track).version
    opened = services.marking.measure(track, version, (50.0, 70.0), None)
    assert opened.markup.grid is not None
    assert opened.markup.grid.bpm_after == pytest.approx(60.0, abs=0.02)


def test_a_player_is_followed_in_a_span_alone(services: Services, track: str) -> None:
    true = _grid(services, track)
    version = services.marking.change(track, None, m.Slide(by_s=0.012)).version
    followed = services.marking.follow(track, version, (32.0, 64.0), 4).markup.grid
    assert followed is not None
    inside, outside = np.arange(36.0, 60.0), np.arange(80.0, 120.0)
    assert np.abs(followed.time_at(inside) - true.time_at(inside)).max() < 0.004
    assert np.allclose(followed.time_at(outside) - true.time_at(outside), 0.012, atol=1e-6)


def test_taps_and_what_cannot_be_measured(services: Services, track: str) -> None:
    version = services.marking.open(track).version
    opened = services.marking.tap(track, version, [1.0, 1.5, 2.0, 2.5, 3.0])
    assert opened.markup.grid is not None
    assert opened.markup.grid.bpm_after == pytest.approx(120.0)
    assert float(opened.markup.grid.time_at(0.0)) == pytest.approx(1.0)
    waltz = services.marking.change(track, opened.version, m.SetBeatsPerBar(beats=3))
    opened = services.marking.tap(track, waltz.version, [1.0, 1.6, 2.2, 2.8, 3.4])
    assert opened.markup.grid is not None
    assert opened.markup.grid.beats_per_bar == 3
    with pytest.raises(RefusedError, match="four beats"):
        services.marking.tap(track, opened.version, [1.0, 1.2])
    with pytest.raises(RefusedError, match="No beat between 60 and 200 BPM"):
        services.marking.measure(track, opened.version, (60.0, 200.0), (0.0, 3.0))


@pytest.mark.slow
def test_a_checked_grid_outlasts_another_analysis(services: Services, track: str) -> None:
    services.marking.change(track, None, m.MarkChecked(checked=True))
    services.library.analyse_again(track, (50.0, 70.0))
    services.start()
    until(lambda: analysed(services))
    opened = services.marking.open(track)
    assert opened.markup.checked
    assert opened.markup.grid is not None
    assert opened.markup.grid.bpm_after == pytest.approx(120.0)
    services.marking.back_to_analysed(track, opened.version)
    assert _grid(services, track).bpm_after == pytest.approx(60.0, abs=0.02)


@pytest.mark.slow
def test_what_a_newer_analysis_found_otherwise_is_something_to_look_at(services: Services, track: str) -> None:
    services.library.analyse_again(track, (50.0, 70.0))
    services.start()
    until(lambda: analysed(services))
    assert not _differences(services, track)
    with services.jobs._database.write() as session:
        row = session.get(TrackRow, track)
        assert row is not None
        row.analysis_version = 1
    services.library.analyse_again(track, (100.0, 140.0))
    until(lambda: analysed(services))
    assert "60.00 BPM is 120.00 now" in _differences(services, track)[0]
    services.library.analyse_again(track, (100.0, 140.0))
    until(lambda: analysed(services))
    assert not _differences(services, track)


def _differences(services: Services, track: str) -> list[str]:
    return [d.text for d in services.library.get(track).doubts if d.kind is DoubtKind.CHANGED]


@pytest.mark.slow
def test_sections_and_voice_changed_by_hand_outlast_another_analysis_and_can_be_taken_back(
    services: Services, track: str
) -> None:
    found = services.marking.open(track).markup
    named = tuple(s.model_copy(update={"name": "door"}) for s in found.sections)
    voice = (VoiceSpan(start=40.0, end=48.0),)
    services.marking.change(track, None, m.PutSections(sections=named))
    services.marking.change(track, None, m.PutVoice(voice=voice))
    services.library.analyse_again(track, (50.0, 70.0))
    services.start()
    until(lambda: analysed(services))
    again = services.marking.open(track)
    assert again.markup.grid is not None
    assert again.markup.grid.bpm_after == pytest.approx(60.0, abs=0.02)
    assert {s.name for s in again.markup.sections} == {"door"}
    assert (again.markup.voice[0].start, again.markup.voice[0].end) == pytest.approx((20.0, 24.0), abs=0.05)
    services.marking.back_to_analysed(track, again.version, Facet.SECTIONS)
    services.marking.back_to_analysed(track, again.version + 1, Facet.VOICE)
    after = services.marking.open(track).markup
    assert after.grid == again.markup.grid
    assert {s.name for s in after.sections} == {""}
    assert after.voice == ()


def test_the_click_lies_on_the_beats_to_the_sample(services: Services, track: str) -> None:
    plain = np.concatenate(list(services.marking.listen(track, Heard(0, 20 * RATE))[1]))
    clicked = np.concatenate(list(services.marking.listen(track, Heard(0, 20 * RATE, -12.0))[1]))
    added = clicked - plain
    extra = np.abs(added).max(axis=1)
    grid = _grid(services, track)
    for beat in range(30):
        at = round(float(grid.time_at(beat)) * RATE)
        assert not extra[at - 50 : at].any() or beat == 0
        assert extra[at] > 0.0
    accent, other = (extra[round(float(grid.time_at(b)) * RATE)] for b in (4, 5))
    assert accent > 1.2 * other
    high, low = (pitch_hz(added[round(float(grid.time_at(b)) * RATE) :][:1200]) for b in (4, 5))
    assert high > 1.3 * low
    later = np.concatenate(list(services.marking.listen(track, Heard(5 * RATE + 7, 6 * RATE, -12.0))[1]))
    assert np.array_equal(later, clicked[5 * RATE + 7 : 6 * RATE])


def test_a_track_that_is_not_analysed_yet_can_be_changed(tmp_path: Path, first: Made) -> None:
    services = Services(Folders(tmp_path / "fresh"), workers=1)
    try:
        track = services.library.bring_in_path(first.path).track.id
        with pytest.raises(RefusedError, match="No grid"):
            services.marking.change(track, None, m.Slide(by_s=0.01))
        opened = services.marking.change(track, None, m.SetTempo(bpm=100.0))
        with pytest.raises(RefusedError, match="Analyse it again"):
            services.marking.snap(track, opened.version, 0.0)
        assert services.marking.undo(track, opened.version).markup.grid is None
    finally:
        services.stop()


def test_what_is_suggested_for_the_roles_is_accepted_at_once(services: Services, track: str) -> None:
    suggested = [p.cue for p in services.marking.open(track).suggested_cues if p.cue.role is not CueRole.PLAIN]
    assert {c.role for c in suggested} == set(CueRole) - {CueRole.PLAIN}
    accepted = services.marking.accept_suggested(track)
    assert sorted(c.role for c in accepted.markup.cues) == sorted(c.role for c in suggested)
    assert services.marking.accept_suggested(track).version == accepted.version
    assert services.marking.undo(track, accepted.version).markup.cues == ()
