"""What is known of a track leaves as a file and comes back; what others say is shown before it replaces anything."""

from __future__ import annotations

import io
import json
import zipfile
from itertools import pairwise

import pytest

from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track import Cue, CueRole, Grid, MarkFacet, PutCues, PutGrid, tempo_from
from fernbrook.core.track.grid_edits import bars_from
from fernbrook.errors import NotFoundError, RefusedError, StaleError
from fernbrook.service.importing.mark_files import MarkForm
from fernbrook.service.services import Services
from tests.conftest import Made

LABELS = b"0.5\t16.5\tintro\n4.5\t4.5\tclaps\n"


@pytest.fixture
def track(services: Services, first: Made) -> str:
    track_id = services.library.bring_in_path(first.path).track.id
    services.marking.change(track_id, None, PutGrid(grid=Grid.constant(120.0, 0.5)))
    cue = Cue(id="c1", at=16.0, role=CueRole.MIX_OUT, name="long", note="no voice")
    services.marking.change(track_id, None, PutCues(cues=(cue,)))
    return track_id


def test_it_is_shown_beside_what_there_is_and_taken_in_part_as_one_step(services: Services, track: str) -> None:
    before = services.marking.open(track)
    read = {r.facet: r for r in services.mark_files.read(track, "a.txt", LABELS)}
    assert services.marking.open(track) == before
    assert set(read) == {MarkFacet.SECTIONS, MarkFacet.CUES}
    assert (read[MarkFacet.SECTIONS].here, read[MarkFacet.SECTIONS].there) == ((), ("0:00.500 beat",))
    assert read[MarkFacet.CUES].there == ("0:04.500 claps", "0:08.500 out · long")
    assert read[MarkFacet.CUES].differs
    taken = services.mark_files.take(track, before.version, "a.txt", LABELS, [MarkFacet.CUES])
    assert [(c.at, c.name) for c in taken.markup.cues] == [(8.0, "claps"), (16.0, "long")]
    assert taken.markup.sections == ()
    assert "a.txt" in (taken.steps.undo or "")
    assert services.marking.undo(track, taken.version).markup == before.markup
    with pytest.raises(StaleError):
        services.mark_files.take(track, before.version, "a.txt", LABELS, [MarkFacet.CUES])
    with pytest.raises(RefusedError, match="Nothing was chosen"):
        services.mark_files.take(track, before.version, "a.txt", LABELS, [MarkFacet.KEY])
    with pytest.raises(NotFoundError):
        services.mark_files.read("gone", "a.txt", LABELS)


@pytest.mark.parametrize("form", list(MarkForm))
def test_a_track_s_own_file_brings_all_of_it_back(services: Services, track: str, second: Made, form: MarkForm) -> None:
    content, name = services.mark_files.written(track, form)
    assert name.endswith(f".{form}")
    if form is MarkForm.JAMS:
        beats = next(a["data"] for a in json.loads(content)["annotations"] if a["namespace"] == "beat")
        assert [(r["time"], r["value"]) for r in beats[:6]] == [(0.5 * n, (n - 1) % 4 + 1) for n in range(6)]
    mine = services.marking.open(track).markup
    assert not any(r.differs for r in services.mark_files.read(track, name, content.encode()))
    other = services.library.bring_in_path(second.path).track.id
    version = services.marking.open(other).version
    taken = services.mark_files.take(other, version, name, content.encode(), tuple(MarkFacet)).markup
    assert (taken.grid, taken.cues, taken.loops) == (mine.grid, mine.cues, mine.loops)


def test_a_key_is_taken_too(services: Services, track: str) -> None:
    row = {"time": 0.0, "duration": 9.0, "value": "F#:minor", "confidence": None}
    content = json.dumps({"annotations": [{"namespace": "key_mode", "data": [row]}]}).encode()
    (read,) = services.mark_files.read(track, "a.jams", content)
    assert (read.facet, read.there) == (MarkFacet.KEY, ("F#m",))
    services.mark_files.take(track, services.marking.open(track).version, "a.jams", content, [MarkFacet.KEY])
    assert services.library.get(track).key == "F#m"


def test_a_mix_is_written_with_its_beats_tracks_and_cues(services: Services, track: str, second: Made) -> None:
    other = services.library.bring_in_path(second.path).track.id
    services.marking.change(other, None, PutGrid(grid=second.truth.grid))
    mix = services.mixes.create("Night")
    opened = services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track, other)))
    content, name = services.mark_files.of_mix(mix.id)
    said = json.loads(content)
    assert name == "Night.jams"
    by_name = {a["namespace"]: a["data"] for a in said["annotations"]}
    moments, firsts = opened.plan.bars.ticks(0.0, opened.plan.duration_s)
    assert [r["time"] for r in by_name["beat"]] == pytest.approx(moments.tolist())
    assert [r["value"] == 1 for r in by_name["beat"]][8:60] == firsts.tolist()[8:60]
    assert [r["value"] for r in by_name["segment_open"]] == [e.track.title for e in opened.plan.entries]
    assert any("long" in r["value"] for r in by_name["tag_open"])
    spans = [(r["time"], r["time"] + r["duration"], r["value"]) for r in by_name["tempo"]]
    assert (spans[0][0], spans[-1][1]) == (0.0, pytest.approx(opened.plan.duration_s))
    assert all(one[1] == pytest.approx(other[0]) for one, other in pairwise(spans))
    beats = opened.plan.tempo.beat_at([0.0, opened.plan.duration_s])
    assert sum((b - a) * bpm / 60.0 for a, b, bpm in spans) == pytest.approx(float(beats[1] - beats[0]))
    packed, _ = services.mark_files.of_tracks(mix.id)
    names = zipfile.ZipFile(io.BytesIO(packed)).namelist()
    assert [n[:3] for n in names] == ["01 ", "02 "]
    assert all(n.endswith(".jams") for n in names)


def test_a_track_that_changes_its_tempo_is_written_with_each(services: Services, track: str) -> None:
    step = tempo_from(Grid.constant(120.0, 0.0), 32.0, 150.0)
    services.marking.change(track, None, PutGrid(grid=step))
    content, _ = services.mark_files.written(track, MarkForm.JAMS)
    (tempi,) = (a["data"] for a in json.loads(content)["annotations"] if a["namespace"] == "tempo")
    assert [(r["time"], r["value"]) for r in tempi] == [(0.0, pytest.approx(120.0)), (16.0, pytest.approx(150.0))]


def test_odd_bars_leave_with_a_track_and_come_back(services: Services, track: str, second: Made) -> None:
    odd = bars_from(bars_from(Grid.constant(120.0, 0.5), 18.0, 4), 36.0, 3)
    services.marking.change(track, None, PutGrid(grid=odd))
    content, name = services.mark_files.written(track, MarkForm.JAMS)
    beats = next(a["data"] for a in json.loads(content)["annotations"] if a["namespace"] == "beat")
    assert [r["value"] for r in beats[1:42]] == [*[1, 2, 3, 4] * 4, 1, 2, *[1, 2, 3, 4] * 4, 1, 2, *[1, 2, 3] * 1, 1, 2]
    other = services.library.bring_in_path(second.path).track.id
    taken = services.mark_files.take(
        other, services.marking.open(other).version, name, content.encode(), [MarkFacet.GRID]
    )
    assert taken.markup.grid == odd
