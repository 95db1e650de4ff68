"""Orders, jumps and trials through the API."""

from __future__ import annotations

import time

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.asking import PROBLEM, bring_in, do, mix_of
from tests.conftest import Made


@pytest.fixture
def mix(client: TestClient, first: Made, second: Made, other_rate: Made) -> dict:
    """Two tracks, the first once more after them; a third waits in the library."""
    one, two, three = (bring_in(client, m) for m in (first, second, other_rate))
    for track_id, bpm in ((one, 120.0), (two, 126.0), (three, 123.0)):
        client.post(
            f"/api/tracks/{track_id}/markup/commands",
            json={"version": None, "command": {"kind": "set_tempo", "bpm": bpm, "about": 0.0}},
        )
    return mix_of(client, one, two, one)


def _ended(client: TestClient, mix: dict) -> dict:
    for _ in range(600):
        search: dict = client.get(f"/api/mixes/{mix['id']}/orders").json()
        if search["job"]["state"] not in ("waiting", "running"):
            return search
        time.sleep(0.1)
    raise AssertionError("the search never ended")


def test_an_entry_says_how_it_sounds_and_a_step_how_two_relate(client: TestClient, mix: dict) -> None:
    entry, step = mix["plan"]["entries"][0], mix["plan"]["transitions"][0]["step"]
    assert (entry["key_shift"], entry["fixed"], entry["with_next"]) == (0, None, False)
    assert set(step) == {
        "bend", "relation", "shift", "pairing", "is_leap", "tempo_words", "key_words", "energy_words",
    }  # fmt: skip
    shifted = do(client, mix, {"kind": "set_key_shift", "entry_id": entry["id"], "semitones": 3}).json()
    assert shifted["undo"].startswith("shift the key of")
    assert shifted["plan"]["entries"][0]["key_shift"] == 3


@pytest.mark.slow
def test_a_search_is_asked_for_answered_and_used(client: TestClient, mix: dict) -> None:
    assert client.get(f"/api/mixes/{mix['id']}/orders").json() is None
    wishes = {"shape": "drawn", "drawn": [[0.0, 0.2], [1.0, 0.9]], "shifts": True}
    asked = client.post(f"/api/mixes/{mix['id']}/orders", json={"wishes": wishes, "library": {"search": ""}})
    assert asked.status_code == 202
    search = _ended(client, mix)
    assert search["job"]["state"] == "done", search["job"]["error"]
    assert search["wishes"]["drawn"] == [[0.0, 0.2], [1.0, 0.9]]
    assert [s["title"] for s in search["present"]["seats"]] == [e["title"] for e in mix["plan"]["entries"]]
    best = search["proposals"][0]
    assert "together" in best["aims"]
    assert best["gap"] == 0.0
    assert best["seats"][0]["step"] is None
    assert all(s["step"] for s in best["seats"][1:])
    used = do(client, mix, {"kind": "use_order", "seats": [s["seat"] for s in best["seats"]]})
    assert used.status_code == 200
    assert [e["title"] for e in used.json()["plan"]["entries"]] == [s["title"] for s in best["seats"]]
    assert used.json()["undo"] == "use another order"


@pytest.mark.parametrize(
    ("wishes", "said"),
    [
        ({"shape": "drawn"}, "two points"),
        ({"drawn": [[0.9, 0.1], [0.1, 0.5]]}, "from left to right"),
        ({"weights": {"tempo": 9}}, "less than or equal to 4"),
        ({"length_s": 3}, "greater than or equal to 60"),
        ({"start_key": {"tonic": 12, "minor": False}}, "less than or equal to 11"),
    ],
)
def test_wishes_that_cannot_be_are_refused(client: TestClient, mix: dict, wishes: dict, said: str) -> None:
    answer = client.post(f"/api/mixes/{mix['id']}/orders", json={"wishes": wishes})
    assert answer.status_code in (409, 422)
    assert answer.headers["content-type"] == PROBLEM
    assert said in answer.text


def test_a_gap_has_cures_and_bridges_and_both_can_be_tried(client: TestClient, mix: dict) -> None:
    entries = mix["plan"]["entries"]
    jump = client.get(f"/api/mixes/{mix['id']}/jumps/{entries[0]['id']}").json()
    assert jump["bridges"] == [], "the only other track would make no step smaller"
    used = {e["track_id"] for e in entries}
    other = next(i for i in client.get("/api/tracks").json()["id"] if i not in used)
    for command in (
        *(cure["command"] for cure in jump["cures"]),
        {"kind": "add_tracks", "track_ids": [other], "at": 1},
    ):
        trial = client.post(f"/api/mixes/{mix['id']}/trials", json=command)
        assert trial.status_code == 201
        start = round(trial.json()["plan"]["transitions"][0]["start_s"] * 44_100)
        heard = client.get(
            f"/api/mixes/{mix['id']}/audio",
            params={"start": start, "end": start + 4410, "trial": trial.json()["id"]},
        )
        assert np.frombuffer(heard.content, "<f4").any()
    assert client.get(f"/api/mixes/{mix['id']}").json()["version"] == mix["version"]
    assert client.get(f"/api/mixes/{mix['id']}/jumps/{entries[2]['id']}").status_code == 404
    gone = client.get(f"/api/mixes/{mix['id']}/audio", params={"trial": "gone"})
    assert gone.status_code == 404
    assert "Try it again" in gone.json()["detail"]
    assert (
        client.post(f"/api/mixes/{mix['id']}/trials", json={"kind": "remove_entries", "entry_ids": ["e9"]}).status_code
        == 409
    )


def test_a_list_narrows_what_may_bridge(client: TestClient, mix: dict) -> None:
    entry = mix["plan"]["entries"][0]
    made = client.post("/api/library/lists", json={"name": "Nothing", "track_ids": []}).json()
    params = {"list_id": made["id"]}
    jump = client.get(f"/api/mixes/{mix['id']}/jumps/{entry['id']}", params=params).json()
    assert jump["bridges"] == []
    odd = client.get(f"/api/mixes/{mix['id']}/jumps/{entry['id']}", params={"search": "bpm:loud"})
    assert odd.status_code in (409, 422)
    assert odd.headers["content-type"] == PROBLEM


def test_a_mix_takes_its_searches_along_when_it_goes(client: TestClient, mix: dict) -> None:
    client.post(f"/api/mixes/{mix['id']}/orders", json={})
    assert client.delete(f"/api/mixes/{mix['id']}").status_code == 204
    assert client.get(f"/api/mixes/{mix['id']}/orders").status_code == 404
