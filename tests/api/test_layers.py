"""The routes of layers, of what is kept with a track, and of the model that takes tracks apart."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from fernbrook.service.ground import settings
from tests.analysis.test_model import saved
from tests.api.asking import PROBLEM, bring_in, do, mix_of
from tests.conftest import Made

SWEEP = {"of": "made", "sound": "sweep", "beats": 8.0}


def layer(**more: object) -> dict[str, object]:
    return {"id": "l1", "sound": SWEEP, "at": {"to": "entry", "entry_id": "e1", "beat": 16.0}, **more}


def put(client: TestClient, mix: dict, *layers: dict[str, object]) -> dict:
    answer = do(client, mix, {"kind": "put_layers", "layers": list(layers)})
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def test_a_layer_is_told_in_its_place_heard_alone_and_undone(client: TestClient, first: Made) -> None:
    mix = mix_of(client, bring_in(client, first))
    assert mix["plan"]["layers"] == []
    laid = put(client, mix, layer())
    (told,) = laid["plan"]["layers"]
    assert (told["words"], told["waits"], told["key"], told["fitting_shift"]) == ("a noise sweep", "", None, None)
    assert (told["start_beat"], told["end_beat"]) == (8.0, 16.0)
    assert told["heard"] == [{"start_s": told["start_s"], "end_s": told["end_s"]}]
    assert laid["undo"] == "lay a noise sweep"
    start, end = (round(told[name] * 44_100) for name in ("start_s", "end_s"))
    audio = f"/api/mixes/{mix['id']}/audio"
    alone = np.frombuffer(client.get(audio, params={"start": 0, "end": end + 9000, "entry": "l1"}).content, np.float32)
    frames = alone.reshape(-1, 2)
    assert not frames[: start - 300].any()
    assert np.abs(frames[end - 4000 : end - 300]).max() > 0.05
    assert not frames[end:].any()
    back = client.post(f"/api/mixes/{mix['id']}/undo", json={"version": laid["version"]}).json()
    assert back["plan"]["layers"] == []


@pytest.mark.parametrize(
    ("wrong", "status", "words"),
    [
        ({"fade_in": 6.0, "fade_out": 6.0}, 409, "must fit"),
        ({"times": 2, "apart": 4.0}, 409, "over itself"),
        ({"sound": {"of": "track", "track_id": "gone", "start": 0.0, "beats": 4.0}}, 409, "not in the library"),
        ({"id": "e1"}, 409, "entry's"),
        ({"sound": {"of": "made", "sound": "trumpet", "beats": 4.0}}, 422, "sweep"),
    ],
)
def test_what_is_no_layer_is_refused_in_words(
    client: TestClient, first: Made, wrong: dict[str, object], status: int, words: str
) -> None:
    mix = mix_of(client, bring_in(client, first))
    answer = do(client, mix, {"kind": "put_layers", "layers": [layer(**wrong)]})
    assert (answer.status_code, answer.headers["content-type"]) == (status, PROBLEM)
    assert words in answer.text
    assert client.get(f"/api/mixes/{mix['id']}").json()["version"] == mix["version"]


def test_a_layer_of_another_track_waits_while_its_entry_is_gone(client: TestClient, first: Made, second: Made) -> None:
    one, other = bring_in(client, first), bring_in(client, second)
    mix = mix_of(client, one)
    part = {"of": "track", "track_id": other, "start": 0.0, "beats": 16.0}
    laid = put(client, mix, layer(sound=part, times=2))
    assert laid["plan"]["layers"][0]["title"] == second.song.title
    gone = do(client, laid, {"kind": "remove_entries", "entry_ids": ["e1"]}).json()
    assert gone["plan"]["layers"] == []
    twice = mix_of(client, one, one)
    held = put(client, twice, layer(sound=part, at={"to": "entry", "entry_id": "e2", "beat": 0.0}))
    without = do(client, held, {"kind": "remove_entries", "entry_ids": ["e2"]}).json()
    (waiting,) = without["plan"]["layers"]
    assert "not in the mix" in waiting["waits"]
    assert waiting["heard"] == []
    (warning,) = [s for s in without["plan"]["warnings"] if s["kind"] == "layer"]
    assert warning["layer"] == 0
    cured = do(client, without, warning["mends"][0]["command"]).json()
    assert cured["plan"]["layers"] == []


def test_a_trial_of_a_layer_is_heard_and_nothing_is_changed(client: TestClient, first: Made) -> None:
    mix = mix_of(client, bring_in(client, first))
    command = {"kind": "put_layers", "layers": [layer()]}
    trial = client.post(f"/api/mixes/{mix['id']}/trials", json=command).json()
    assert len(trial["plan"]["layers"]) == 1
    audio = f"/api/mixes/{mix['id']}/audio"
    span = {"start": 3 * 44_100, "end": 5 * 44_100}
    tried = client.get(audio, params={**span, "trial": trial["id"]}).content
    assert tried != client.get(audio, params=span).content
    assert client.get(f"/api/mixes/{mix['id']}").json()["plan"]["layers"] == []


def test_proposals_are_told_for_a_mix(client: TestClient, first: Made) -> None:
    mix = mix_of(client, bring_in(client, first))
    assert client.get(f"/api/mixes/{mix['id']}/layer-proposals").json() == []
    assert client.get("/api/mixes/gone/layer-proposals").status_code == 404


def test_edits_are_kept_with_a_track_and_forgotten(client: TestClient, first: Made) -> None:
    track = bring_in(client, first)
    at = f"/api/tracks/{track}/markup"
    skip = {"kind": "skip", "id": "x", "start": 8.0, "end": 16.0, "on": True}
    version = client.get(at).json()["version"]
    kept = client.post(
        f"{at}/commands", json={"version": version, "command": {"kind": "keep_edits", "edits": [skip]}}
    ).json()
    assert kept["markup"]["kept"] == [skip]
    assert kept["undo"] == "keep edits with the track"
    halved = {"kind": "set_tempo", "bpm": 60.0}
    set_once = {"kind": "set_tempo", "bpm": 120.0}
    for command in (set_once, halved):
        kept = client.post(f"{at}/commands", json={"version": kept["version"], "command": command}).json()
    assert kept["markup"]["kept"][0]["end"] == 8.0
    none = client.post(
        f"{at}/commands", json={"version": kept["version"], "command": {"kind": "keep_edits", "edits": []}}
    ).json()
    assert none["markup"]["kept"] == []


@pytest.mark.parametrize("is_there", [True, False])
def test_it_is_said_whether_the_network_that_hears_voices_is_there(
    is_there: bool, client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(settings, "are_installed", lambda: is_there)
    said = client.get("/api/settings/separation-model").json()
    assert said == {"path": None, "stems": [], "problem": "", "hears_voices": is_there}


def test_the_model_is_set_by_its_path_and_taken_back(client: TestClient, tmp_path: Path) -> None:
    at = "/api/settings/separation-model"
    assert client.get(at).json()["path"] is None
    refused = client.put(at, json={"path": str(tmp_path / "nowhere.onnx")})
    assert (refused.status_code, refused.headers["content-type"]) == (409, PROBLEM)
    assert "no file at" in refused.json()["detail"]
    path = saved(tmp_path)
    used = client.put(at, json={"path": str(path)}).json()
    assert (used["path"], used["stems"]) == (str(path), ["drums", "voice"])
    path.write_text("nothing")
    assert "no ONNX model" in client.get(at).json()["problem"]
    assert client.put(at, json={"path": None}).json()["path"] is None
