from __future__ import annotations

from collections.abc import Iterator
from urllib.parse import unquote

import numpy as np
import pytest
from fastapi.testclient import TestClient

from fernbrook.api.app import create_app
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from tests.conftest import Made
from tests.service.conftest import until

RATE = 44_100


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    folders = Folders(tmp_path_factory.mktemp("markup"))
    with TestClient(create_app(Services(folders, workers=1)), base_url="http://127.0.0.1") as client:
        yield client


@pytest.fixture(scope="module")
def track(client: TestClient, first: Made) -> str:
    """The address of a track that has been analysed."""
    form = {"tempo_low": "85", "tempo_high": "170"}
    answer = client.post("/api/tracks", files={"file": ("first.wav", first.path.read_bytes())}, data=form)
    at = f"/api/tracks/{answer.json()['track']['id']}"
    until(lambda: client.get(at).json()["has_peaks"])
    return at


def test_the_whole_way_of_a_mended_grid(client: TestClient, track: str) -> None:
    opened = client.get(f"{track}/markup").json()
    assert opened["markup"]["grid"]["bpm_after"] == 120.0
    assert opened["energy"]
    command = {"kind": "slide", "by_s": 0.05}
    slid = client.post(f"{track}/markup/commands", json={"version": opened["version"], "command": command}).json()
    assert slid["undo"] == "slide the grid by +50 ms"
    late = client.get(f"{track}/offsets").json()
    assert np.median(late["late_ms"]) == pytest.approx(-50.0, abs=3.0)
    snapped = client.post(f"{track}/markup/snap", json={"version": slid["version"], "beat": 8}).json()
    assert snapped["markup"]["by_hand"]
    followed = client.post(f"{track}/markup/follow", json={"version": snapped["version"], "every": 4})
    assert followed.status_code == 200
    wanted = {"version": followed.json()["version"], "range": {"low": 170, "high": 85}}
    measured = client.post(f"{track}/markup/measure", json=wanted).json()
    assert measured["mean_bpm"] == pytest.approx(120.0, abs=0.02)
    back = client.post(f"{track}/markup/undo", json={"version": measured["version"]}).json()
    assert back["redo"] == "measure again"
    again = client.post(f"{track}/markup/redo", json={"version": back["version"]}).json()
    done = client.post(f"{track}/markup/analysed", json={"version": again["version"]}).json()
    assert done["markup"]["grid"] == opened["markup"]["grid"]


def test_a_track_is_told_alike_alone_and_in_the_list(client: TestClient, track: str) -> None:
    table = client.get("/api/tracks").json()
    alone = client.get(track).json()
    assert table.pop("analyses") == {}
    # What follows from the rest of the library is told in the list alone.
    assert [table.pop(name) for name in ("file_doubts", "lists", "used_in")] == [[[]]] * 3
    assert table.pop("misread") == [False]
    listed = {name: column[0] for name, column in table.items()}
    rounded = {"duration_s": 3, "loudness_lufs": 2, "true_peak_dbtp": 2, "bpm": 3}
    assert listed == {n: round(alone[n], rounded[n]) if n in rounded else alone[n] for n in listed}
    listed |= {"analysis": alone["analysis"]}
    assert (listed["bpm"], listed["outdated"], listed["analysis"]) == (120.0, False, None)
    assert listed["key_wheel"]


def test_what_is_refused_says_why(client: TestClient, track: str) -> None:
    version = client.get(f"{track}/markup").json()["version"]
    stale = client.post(f"{track}/markup/undo", json={"version": version - 1})
    assert (stale.status_code, stale.json()["version"]) == (409, version)
    few = client.post(f"{track}/markup/tap", json={"version": version, "times_s": [1, 2]})
    assert few.status_code == 422
    for command, status in (
        ({"kind": "set_tempo", "bpm": 1000}, 422),
        ({"kind": "remove_anchor", "beat": 3.5}, 409),
        ({"kind": "put_sections", "sections": [{"kind": "full", "start": 8, "end": 4}]}, 409),
        ({"kind": "dance"}, 422),
    ):
        answer = client.post(f"{track}/markup/commands", json={"version": version, "command": command})
        assert answer.status_code == status, command
        assert answer.json()["detail"]
    assert client.get("/api/tracks/nothing/markup").status_code == 404


def test_sound_with_a_click_and_between_two_samples(client: TestClient, track: str, first: Made) -> None:
    part = client.get(f"{track}/audio", params={"start": RATE, "end": RATE + 100})
    assert np.array_equal(np.frombuffer(part.content, "<f4").reshape(-1, 2), first.sound()[RATE : RATE + 100])
    clicked = client.get(f"{track}/audio", params={"start": 0, "end": RATE, "click_db": -12})
    extra = np.frombuffer(clicked.content, "<f4").reshape(-1, 2) - first.sound()[:RATE]
    begins = int(np.flatnonzero(np.abs(extra).max(axis=1))[0])
    assert begins == pytest.approx(0.05 * RATE, abs=RATE * 0.003)
    assert client.get(f"{track}/audio", params={"click_db": 30}).status_code == 422


def test_a_preview_has_one_click_for_both_sides(client: TestClient, track: str) -> None:
    mix = client.post("/api/mixes", json={"name": "clicked"}).json()
    command = {"kind": "add_tracks", "track_ids": [track.rsplit("/", 1)[1]]}
    change = {"version": mix["version"], "command": command}
    mix = client.post(f"/api/mixes/{mix['id']}/commands", json=change).json()
    sounds = [
        np.frombuffer(client.get(f"/api/mixes/{mix['id']}/audio", params={"end": 4 * RATE} | more).content, "<f4")
        for more in ({}, {"click_db": -12.0})
    ]
    extra = np.abs(sounds[1] - sounds[0]).reshape(-1, 2).max(axis=1)
    starts = np.flatnonzero((extra[1:] > 0) & (extra[:-1] == 0)) + 1
    assert np.allclose(np.diff(starts[:6]), RATE / 2, atol=1)


def test_straight_renders_are_listed_with_a_suggested_tempo(client: TestClient, track: str) -> None:
    assert client.get(f"{track}/straight").json()["suggested_bpm"] == 120.0
    made = client.post(f"{track}/straight", json={"bpm": 118, "output": "flac16"}).json()
    until(lambda: client.get(f"{track}/straight").json()["renders"][0]["state"] == "done")
    file = client.get(f"/api/straight/{made['id']}/file")
    assert "118 BPM" in unquote(file.headers["content-disposition"])
    imported = client.post(f"/api/straight/{made['id']}/import").json()
    grid = client.get(f"/api/tracks/{imported['track']['id']}/markup").json()["markup"]["grid"]
    assert grid["bpm_after"] == 118.0
    assert client.delete(f"/api/straight/{made['id']}").status_code == 204
    assert client.post(f"{track}/straight", json={"bpm": 1}).status_code == 422


def test_onsets_to_draw(client: TestClient, track: str) -> None:
    content = client.get(f"{track}/onsets").content
    rows = np.frombuffer(content, np.uint8).reshape(-1, 2)
    beat = round(0.05 * RATE / 128)
    assert rows[beat - 2 : beat + 3, 0].max() > 120
