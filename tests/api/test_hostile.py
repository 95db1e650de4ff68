"""What a hostile page or a broken client may ask: it is refused in words, and nothing is spoiled."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from fastapi.testclient import TestClient
from httpx import Response

from fernbrook.formats.track_list import ListFormat
from tests.api.asking import PROBLEM, bring_in, do, mix_of
from tests.conftest import Made

FAR = 999_999.0
Put = Callable[[float], dict]


def test_an_empty_mix_has_an_empty_list_and_card(client: TestClient) -> None:
    mix = client.post("/api/mixes", json={"name": "Night"}).json()["id"]
    for kind in ListFormat:
        assert client.get(f"/api/mixes/{mix}/track-list", params={"kind": kind.value}).status_code == 200, kind
    for kind in ("html", "pdf"):
        assert client.get(f"/api/mixes/{mix}/cue-card", params={"kind": kind}).status_code == 200, kind


@pytest.mark.parametrize(
    "command",
    [
        {"kind": "use_proposal", "out_at": 0.0, "in_at": 0.0, "beats": FAR},
        {"kind": "use_proposal", "out_at": FAR, "in_at": -FAR, "beats": 16.0},
        {"kind": "use_proposal", "out_at": -FAR, "in_at": FAR, "beats": 1e-9},
        {"kind": "place_transition", "beats": FAR},
        {"kind": "set_kind", "to": "cut", "out_at": FAR, "in_at": FAR},
    ],
)
@pytest.mark.parametrize("before", ["cut", "fade", "blend"])
def test_a_place_far_outside_is_refused(
    client: TestClient, first: Made, second: Made, command: dict, before: str
) -> None:
    mix = mix_of(client, bring_in(client, first), bring_in(client, second))
    pair = {"out_id": mix["plan"]["entries"][0]["id"], "in_id": mix["plan"]["entries"][1]["id"]}
    mix = do(client, mix, {"kind": "set_kind", "to": before, **pair}).json()
    answer = do(client, mix, {**command, **pair})
    assert answer.status_code in (200, 409), answer.text
    if answer.status_code == 409:
        assert answer.headers["content-type"] == PROBLEM
        assert "fault" not in answer.json()["detail"]
    assert client.get(f"/api/mixes/{mix['id']}").status_code == 200


@pytest.mark.parametrize("at", [FAR, -FAR, 1e6 - 8.0])
@pytest.mark.parametrize(
    "put",
    [
        lambda at: {"kind": "put_cues", "cues": [{"id": "c", "at": at}]},
        lambda at: {"kind": "put_loops", "loops": [{"id": "l", "start": at, "beats": 16.0}]},
        lambda at: {"kind": "put_voice", "voice": [{"start": at, "end": at + 1.0}]},
        lambda at: {"kind": "put_sections", "sections": [{"kind": "full", "start": at, "end": at + 1.0}]},
    ],
)
def test_what_would_lie_outside_of_the_track_is_refused(client: TestClient, first: Made, put: Put, at: float) -> None:
    track = bring_in(client, first)

    def change(command: dict) -> Response:
        version = client.get(f"/api/tracks/{track}/markup").json()["version"]
        return client.post(f"/api/tracks/{track}/markup/commands", json={"version": version, "command": command})

    assert change({"kind": "set_tempo", "bpm": 120.0}).status_code == 200
    answer = change(put(at))
    assert (answer.status_code, answer.headers["content-type"]) == (409, PROBLEM)
    assert "of the track" in answer.json()["detail"]
    assert change(put(8.0)).status_code == 200
    for command in ({"kind": "count_from", "beat": -999_999.0}, {"kind": "count_from", "beat": 999_999.0}):
        assert change(command).status_code in (200, 409), "what would lie too far out is refused"
    assert client.get("/api/tracks").status_code == 200
    assert client.get(f"/api/tracks/{track}/grid").status_code == 200


@pytest.mark.parametrize(
    ("method", "path", "headers", "passes"),
    [
        ("GET", "/api/mixes", {"sec-fetch-site": "cross-site"}, False),
        ("GET", "/api/mixes", {"sec-fetch-site": "same-site"}, False),
        ("POST", "/api/mixes/x/undo", {"sec-fetch-site": "cross-site"}, False),
        ("GET", "/fern.svg", {"sec-fetch-site": "cross-site", "sec-fetch-mode": "no-cors"}, False),
        ("GET", "/api/tracks", {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"}, False),
        (
            "GET",
            "/",
            {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate", "sec-fetch-dest": "document"},
            True,
        ),
        ("GET", "/", {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate", "sec-fetch-dest": "iframe"}, False),
        ("GET", "/api/mixes", {"sec-fetch-site": "same-origin"}, True),
        ("GET", "/api/mixes", {"sec-fetch-site": "none"}, True),
        ("GET", "/api/mixes", {"origin": "http://elsewhere.example"}, False),
        ("GET", "/api/mixes", {"origin": "http://127.0.0.1", "sec-fetch-site": "same-origin"}, True),
    ],
)
def test_what_another_site_asks_for_is_refused(
    client: TestClient, method: str, path: str, headers: dict, passes: bool
) -> None:
    answer = client.request(method, path, headers=headers)
    assert (answer.status_code != 403) is passes


def test_no_answer_tells_of_the_program(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    def explode(*_: object) -> None:
        raise KeyError("row['owner'] at 0x7f32")

    monkeypatch.setattr("fernbrook.service.mixes.mixes.Mixes.list", explode)
    answer = client.get("/api/mixes")
    assert (answer.status_code, answer.headers["content-type"]) == (500, PROBLEM)
    assert answer.json()["detail"].startswith("A fault in Fernbrook")
    assert "KeyError" not in answer.text


@pytest.mark.parametrize(("path", "kept"), [("/fern.svg", "max-age=86400"), ("/tracks", "no-cache")])
def test_a_picture_of_the_page_is_kept_and_what_is_run_is_asked_for(client: TestClient, path: str, kept: str) -> None:
    assert client.get(path).headers["cache-control"] == kept
