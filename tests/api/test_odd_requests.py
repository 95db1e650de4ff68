"""Nonsense in requests: numbers that are none or too large, odd names, the same thing many times at once."""

from __future__ import annotations

import json
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from fernbrook.api.app import create_app
from fernbrook.core.track import PutGrid
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from tests.conftest import Made
from tests.e2e.server import running
from tests.service.conftest import analysed, until

PROBLEM = "application/problem+json"
HOST = "http://127.0.0.1"
NONSENSE = ["NaN", "Infinity", "-Infinity", "1e308", "-1e308", "1e30"]


@pytest.fixture(scope="module")
def services(tmp_path_factory: pytest.TempPathFactory, first: Made) -> Iterator[Services]:
    """One analysed track."""
    services = Services(Folders(tmp_path_factory.mktemp("odd")), workers=1)
    services.library.bring_in_path(first.path)
    with TestClient(create_app(services), base_url=HOST):
        until(lambda: analysed(services))
        yield services


@pytest.fixture
def client(services: Services) -> TestClient:
    return TestClient(house_app(services), base_url=HOST, raise_server_exceptions=False)


def house_app(services: Services):
    app = create_app(services)
    app.router.lifespan_context = None  # type: ignore[assignment]
    return app


@pytest.mark.parametrize("number", NONSENSE)
@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("markup/snap", '"beat": {}'),
        ("markup/measure-from", '"beat": {}'),
        ("markup/measure", '"range": {{"low": {}, "high": 180}}'),
        ("markup/measure", '"range": {{"low": 60, "high": 180}}, "start_s": 0, "end_s": {}'),
        ("markup/follow", '"from_beat": 0, "to_beat": {}'),
        ("markup/tap", '"times_s": [0, 0.5, 1.0, {}]'),
        ("markup/commands", '"command": {{"kind": "count_from", "beat": {}}}'),
        ("markup/commands", '"command": {{"kind": "first_of_bar", "beat": {}}}'),
        ("markup/commands", '"command": {{"kind": "set_tempo", "bpm": 120, "about_beat": {}}}'),
        ("markup/commands", '"command": {{"kind": "tempo_from", "beat": {}, "bpm": 120}}'),
        ("markup/commands", '"command": {{"kind": "move_line", "beat": 4, "to_s": {}}}'),
        ("markup/commands", '"command": {{"kind": "scale_tempo", "factor": {}}}'),
        ("markup/commands", '"command": {{"kind": "put_voice", "voice": [{{"start": 0, "end": {}}}]}}'),
        ("straight", '"bpm": {}'),
    ],
)
def test_a_number_that_is_none_or_no_place_in_music_is_refused(
    client: TestClient, services: Services, path: str, body: str, number: str
) -> None:
    track = services.catalogue.tracks()[0]
    version = "" if path == "straight" else f'"version": {track.version}, '
    answer = client.post(
        f"/api/tracks/{track.id}/{path}",
        content=f"{{{version}{body.format(number)}}}",
        headers={"content-type": "application/json"},
    )
    assert answer.status_code == 422, answer.text
    assert answer.headers["content-type"] == PROBLEM
    assert answer.json()["detail"]
    assert services.catalogue.tracks()[0].version == track.version


def test_tapping_at_one_spot_or_backwards_is_refused_in_words(client: TestClient, services: Services) -> None:
    track = services.catalogue.tracks()[0]
    for times in ([1, 1, 1, 1], [4, 3, 2, 1], [0, 1e-9, 2e-9, 3e-9]):
        body = {"version": track.version, "times_s": times}
        answer = client.post(f"/api/tracks/{track.id}/markup/tap", json=body)
        assert answer.status_code == 409
        assert answer.json()["detail"]


@pytest.mark.parametrize(
    "name",
    ["a\x00b.wav", "x" * 300 + ".wav", "song." + "w" * 300, "\u202egpj.wav", "..", "a/../../b.wav", ".wav", "tab\t.wav"]
)  # fmt: skip
def test_odd_file_names_are_taken_and_shown_plainly(
    client: TestClient, services: Services, tmp_path: Path, name: str
) -> None:
    path = tmp_path / "x.wav"
    noise = 0.1 * np.random.default_rng(abs(hash(name)) % 2**32).standard_normal((2 * 44_100, 1))
    soundfile.write(path, noise, 44_100)
    boundary = "xxx"
    body = (
        f'--{boundary}\r\ncontent-disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode()
        + path.read_bytes()
        + f"\r\n--{boundary}--\r\n".encode()
    )
    answer = client.post(
        "/api/tracks", content=body, headers={"content-type": f"multipart/form-data; boundary={boundary}"}
    )
    assert answer.status_code == 201, answer.text
    track = answer.json()["track"]
    assert 0 < len(track["title"]) <= 300
    assert all(c.isprintable() for c in track["title"] + track["file_name"])
    assert services.files.find(track["id"]).is_relative_to(services.folders.audio)
    assert client.delete(f"/api/tracks/{track['id']}").status_code == 204


@pytest.mark.parametrize(
    "path", ["/" + "a" * 5000, "/a%00b", "/%ff%fe", "/assets/" + "b" * 300 + ".js", "/api/" + "c" * 5000]
)
def test_paths_that_can_be_no_file_are_answered_with_all_headers(client: TestClient, path: str) -> None:
    answer = client.get(path)
    assert answer.status_code in {200, 404, 503}
    assert "content-security-policy" in answer.headers


def test_what_nobody_foresaw_is_a_problem_with_all_headers(
    client: TestClient, services: Services, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken() -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(services.mixes, "list", broken)
    answer = client.get("/api/mixes")
    assert (answer.status_code, answer.headers["content-type"]) == (500, PROBLEM)
    assert "content-security-policy" in answer.headers
    monkeypatch.setattr(services.mixes, "list", lambda: (_ for _ in ()).throw(OSError(28, "No space left on device")))
    full = client.get("/api/mixes")
    assert (full.status_code, "The disk is full" in full.json()["detail"]) == (507, True)


def test_sound_that_breaks_off_is_never_taken_for_whole(services: Services, monkeypatch: pytest.MonkeyPatch) -> None:
    """The answer has begun: its own error ends the connection, and no second answer is sent after the first."""
    track = services.catalogue.tracks()[0]

    def broken(*_: object) -> tuple[int, Iterator[np.ndarray]]:
        def blocks() -> Iterator[np.ndarray]:
            yield np.zeros((100, 2), dtype=np.float32)
            raise OSError("the disk was pulled out")

        return 1000, blocks()

    monkeypatch.setattr(services.marking, "listen", broken)
    with pytest.raises(OSError, match="pulled out"):
        TestClient(house_app(services), base_url=HOST).get(f"/api/tracks/{track.id}/audio")


def test_a_method_that_is_not_there_says_which_are(client: TestClient) -> None:
    answer = client.put("/api/mixes", json={})
    assert answer.status_code == 405
    assert answer.headers["allow"] == "GET, POST"
    assert client.options("/api/tracks/x").headers["allow"] == "DELETE, GET, PUT"
    assert answer.headers["content-type"] == PROBLEM


@pytest.mark.slow
def test_the_same_file_many_times_at_once_comes_in_once(tmp_path: Path, first: Made) -> None:
    content = first.path.read_bytes()
    with running(tmp_path / "data") as address:

        def bring(number: int) -> httpx.Response:
            return httpx.post(f"{address}/api/tracks", files={"file": (f"{number}.wav", content)}, timeout=60.0)

        with ThreadPoolExecutor(6) as pool:
            answers = list(pool.map(bring, range(6)))
        assert {a.status_code for a in answers} == {201}
        assert len({a.json()["track"]["id"] for a in answers}) == 1
        assert sorted(a.json()["known"] for a in answers) == [False] + [True] * 5


@pytest.mark.slow
def test_many_previews_at_once_let_the_newest_be_heard(tmp_path: Path, first: Made, second: Made) -> None:
    folders = Folders(tmp_path / "data")
    services = Services(folders, workers=1)
    ids = [services.library.bring_in_path(m.path).track.id for m in (first, second)]
    for track, made in zip(ids, (first, second), strict=True):
        services.marking.change(track, None, PutGrid(grid=made.truth.grid))
    services.stop()
    with running(folders.root) as address, httpx.Client(base_url=f"{address}/api", timeout=60.0) as client:
        mix = client.post("/mixes", json={"name": "Night"}).json()
        command = {"kind": "add_tracks", "track_ids": ids}
        mix = client.post(f"/mixes/{mix['id']}/commands", json={"version": mix["version"], "command": command}).json()
        start = round(mix["plan"]["transitions"][0]["start_s"] * 44_100)

        def hear(number: int) -> tuple[int, str]:
            at = start + 5000 * number
            answer = client.get(f"/mixes/{mix['id']}/audio", params={"start": at, "end": at + 4096})
            return answer.status_code, answer.headers["content-type"]

        with ThreadPoolExecutor(50) as pool:
            heard = list(pool.map(hear, range(50)))
        assert {status for status, _ in heard} <= {200, 503}
        assert [status for status, _ in heard].count(200) >= 8
        assert all(kind == PROBLEM for status, kind in heard if status == 503)
        assert hear(0)[0] == 200


def test_answers_hold_no_number_that_json_has_not(client: TestClient) -> None:
    def refuse(text: str) -> None:
        raise AssertionError(text)

    for path in ("/api/tracks", "/api/mixes", "/api/controls", "/api/formats"):
        json.loads(client.get(path).text, parse_constant=refuse)
