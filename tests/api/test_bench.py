"""The routes of the transition bench: shapes, history, proposals, loudness."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from tests.conftest import Made


@pytest.fixture
def mix(client: TestClient, first: Made, second: Made) -> str:
    """A mix of two tracks, by its id."""
    ids = []
    for made in (first, second):
        with made.path.open("rb") as file:
            answer = client.post("/api/tracks", files={"file": (made.path.name, file)})
        ids.append(answer.json()["track"]["id"])
    made_mix = client.post("/api/mixes", json={"name": "Night"}).json()
    change(client, made_mix["id"], kind="add_tracks", track_ids=ids)
    return str(made_mix["id"])


def change(client: TestClient, mix: str, **command: object) -> dict:
    version = client.get(f"/api/mixes/{mix}").json()["version"]
    answer = client.post(f"/api/mixes/{mix}/commands", json={"version": version, "command": command})
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


PAIR = {"out_id": "e1", "in_id": "e2"}


def test_a_hand_over_is_saved_listed_applied_renamed_and_forgotten(client: TestClient, mix: str) -> None:
    change(client, mix, kind="apply_shape", shape="filter_sweep", **PAIR)
    saved = client.post("/api/shapes", json={"name": "Mine", "mix_id": mix, "transition": 0})
    assert saved.status_code == 201
    listed = client.get("/api/shapes").json()
    assert len(listed["ready"]) == 11
    assert [s["shape"]["name"] for s in listed["saved"]] == ["Mine"]
    shape = listed["saved"][0]["shape"]
    change(client, mix, kind="apply_shape", shape="clean_cut", **PAIR)
    again = change(client, mix, kind="apply_shape", shape=shape, **PAIR)
    side = again["plan"]["sides"][again["plan"]["transitions"][0]["transition"]["outgoing"]]
    assert "filter" in side
    assert "‘Mine’" in again["undo"]
    one = saved.json()["id"]
    assert client.put(f"/api/shapes/{one}", json={"name": "Ours"}).json()["shape"]["name"] == "Ours"
    assert client.delete(f"/api/shapes/{one}").status_code == 204
    missing = client.delete(f"/api/shapes/{one}")
    assert (missing.status_code, missing.headers["content-type"]) == (404, "application/problem+json")
    assert client.post("/api/shapes", json={"name": "x", "mix_id": mix, "transition": 9}).status_code == 404


def test_a_point_of_the_history_is_named_tried_and_gone_to(client: TestClient, mix: str) -> None:
    change(client, mix, kind="set_kind", to="apart", **PAIR)
    change(client, mix, kind="rename_mix", name="Later")
    steps = client.get(f"/api/mixes/{mix}/history").json()
    assert [s["is_here"] for s in steps] == [True, False, False, False]
    apart = steps[1]
    assert client.put(f"/api/mixes/{mix}/history/{apart['id']}/name", json={"name": "apart"}).status_code == 204
    tried = client.post(f"/api/mixes/{mix}/history/{apart['id']}/trial").json()
    assert tried["plan"]["manners"][0]["kind"] == "apart"
    version = client.get(f"/api/mixes/{mix}").json()["version"]
    gone = client.post(f"/api/mixes/{mix}/history/{apart['id']}/go", json={"version": version})
    assert gone.json()["name"] == "Night"
    stale = client.post(f"/api/mixes/{mix}/history/{apart['id']}/go", json={"version": version})
    assert (stale.status_code, stale.json()["version"]) == (409, version + 1)
    assert client.post(f"/api/mixes/{mix}/history/999999/trial").status_code == 404


def test_loudness_is_measured_sound_made_softer_and_places_proposed(client: TestClient, mix: str) -> None:
    span = {"start": 44_100, "end": 5 * 44_100}
    loud = client.get(f"/api/mixes/{mix}/loudness", params=span).json()["lufs"]
    assert -40.0 < loud < 0.0
    full, soft = (
        client.get(f"/api/mixes/{mix}/audio", params=span | {"gain_db": gain}).content for gain in (0.0, -12.0)
    )
    assert len(full) == len(soft)
    assert full != soft
    assert isinstance(client.get(f"/api/mixes/{mix}/transitions/0/proposals").json(), list)
    assert client.get(f"/api/mixes/{mix}/transitions/7/proposals").status_code == 404
    assert client.get(f"/api/mixes/{mix}/audio", params=span | {"gain_db": 3.0}).status_code == 422


def kind_of(mix: dict, index: int) -> str:
    manner = mix["plan"]["transitions"][index]["transition"]["manner"]
    return str(mix["plan"]["manners"][manner]["kind"])


def the_try(client: TestClient, mix: str) -> dict:
    """The two tracks of a mix, tried apart from it as a cut."""
    first, second = (e["track_id"] for e in client.get(f"/api/mixes/{mix}").json()["plan"]["entries"])
    made = client.post("/api/mixes/tries", json={"first": first, "second": second})
    assert made.status_code == 201
    assert made.json()["is_try"]
    change(client, made.json()["id"], kind="set_gain", entry_id="e2", gain_db=-7.0)
    change(client, made.json()["id"], kind="keep_take", name="as it came", **PAIR)
    return change(client, made.json()["id"], kind="set_kind", to="cut", **PAIR)


def test_a_try_is_listed_apart_and_makes_no_track_used(client: TestClient, mix: str) -> None:
    tried = the_try(client, mix)
    listed = {m["id"]: m["is_try"] for m in client.get("/api/mixes").json()}
    assert listed == {mix: False, tried["id"]: True}
    assert client.get("/api/tracks").json()["used_in"] == [["Night"], ["Night"]]
    assert client.delete(f"/api/mixes/{tried['id']}").status_code == 204
    assert client.post("/api/mixes/tries", json={"first": "gone", "second": "gone"}).status_code == 409


def test_what_was_tried_comes_into_a_mix_as_it_was(client: TestClient, mix: str) -> None:
    tried = the_try(client, mix)
    version = client.get(f"/api/mixes/{mix}").json()["version"]
    put = client.post(f"/api/mixes/{mix}/pairs-of/{tried['id']}", json={"version": version}).json()
    ids = [e["id"] for e in put["plan"]["entries"]]
    assert ids == ["e1", "e2", "e3", "e4"]
    assert put["plan"]["entries"][3]["gain_db"] == -7.0
    met = put["plan"]["transitions"][2]
    assert (kind_of(put, 2), met["transition"]["out_id"], met["transition"]["in_id"]) == ("cut", "e3", "e4")
    assert [t["name"] for t in met["takes"]] == ["as it came"]
    assert "as tried" in put["undo"]
    stale = client.post(f"/api/mixes/{mix}/pairs-of/{tried['id']}", json={"version": version})
    assert stale.status_code == 409
    empty = client.post("/api/mixes", json={"name": "Empty"}).json()["id"]
    none = client.post(f"/api/mixes/{mix}/pairs-of/{empty}", json={"version": put["version"]})
    assert (none.status_code, "no two tracks" in none.json()["detail"]) == (409, True)


def test_after_its_own_first_track_only_the_second_of_a_try_comes_in(client: TestClient, mix: str) -> None:
    tried = the_try(client, mix)
    version = client.get(f"/api/mixes/{mix}").json()["version"]
    put = client.post(f"/api/mixes/{mix}/pairs-of/{tried['id']}", json={"version": version, "at": 1}).json()
    assert [e["id"] for e in put["plan"]["entries"]] == ["e1", "e3", "e2"]
    assert kind_of(put, 0) == "cut"
