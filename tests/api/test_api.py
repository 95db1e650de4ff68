from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from fernbrook.api.frame import page
from fernbrook.api.schema_file import schema_text
from fernbrook.core.track import Grid
from tests.api.asking import PROBLEM, bring_in, do, mix_of
from tests.conftest import Made


def test_from_file_to_sound(client: TestClient, first: Made, second: Made) -> None:
    ids = [bring_in(client, m) for m in (first, second)]
    assert set(client.get("/api/tracks").json()["id"]) == set(ids)
    mix = mix_of(client, *ids)
    assert len(mix["plan"]["transitions"]) == 1
    answer = client.get(f"/api/mixes/{mix['id']}/audio", params={"start": 100, "end": 44_200})
    assert answer.headers["x-frames"] == "44100"
    sound = np.frombuffer(answer.content, "<f4").reshape(-1, 2)
    expected = first.sound()[100:44_200] * np.float32(1.0)
    assert np.corrcoef(sound[:, 0], expected[:, 0])[0, 1] > 0.9999


def test_one_side_alone(client: TestClient, first: Made, second: Made) -> None:
    mix = mix_of(client, *(bring_in(client, m) for m in (first, second)))
    entry = mix["plan"]["entries"][1]
    answer = client.get(f"/api/mixes/{mix['id']}/audio", params={"start": 0, "end": 44_100, "entry": entry["id"]})
    assert not np.frombuffer(answer.content, "<f4").any()


def test_a_commands_answer_stays_small_however_freely_the_tracks_are_played(
    client: TestClient, wandering: Made
) -> None:
    """A grid goes out once for each version of its track, never with a mix."""
    track = bring_in(client, wandering)
    times = np.cumsum(0.5 + 0.01 * np.random.default_rng(0).standard_normal(200))
    grid = Grid.through(times, np.arange(200.0)).model_dump()
    version = client.get(f"/api/tracks/{track}/markup").json()["version"]
    put = {"version": version, "command": {"kind": "put_grid", "grid": grid}}
    assert client.post(f"/api/tracks/{track}/markup/commands", json=put).status_code == 200
    mix = mix_of(client, *[track] * 60)
    answer = do(client, mix, {"kind": "set_gain", "entry_id": mix["plan"]["entries"][30]["id"], "gain_db": -2.0})
    assert len(answer.content) < 69_000
    assert len(client.get(f"/api/tracks/{track}/grid").json()["grid"]["anchors"]) == 200


def test_a_known_file_is_told_apart(client: TestClient, first: Made) -> None:
    bring_in(client, first)
    again = client.post("/api/tracks", files={"file": ("x.wav", first.path.read_bytes())})
    assert again.json()["known"] is True


@pytest.mark.parametrize(("name", "content", "words"), [
    ("song.mp3", b"not a song at all", "not what its name says"),
    ("song.m4a", b"not a song at all" * 100, "song.m4a"),
    ("song.flac", b"", "empty (0 bytes)"),
    ("cover.jpg", b"\xff\xd8\xff\xe0" + bytes(2000), "not what its name says"),
])  # fmt: skip
def test_a_bad_file_is_a_problem_with_its_name_and_nothing_of_it_is_kept(
    client: TestClient, tmp_path: Path, name: str, content: bytes, words: str
) -> None:
    answer = client.post("/api/tracks", files={"file": (name, content)})
    assert answer.status_code == 409
    assert answer.headers["content-type"] == PROBLEM
    assert f"‘{name}’" in answer.json()["detail"]
    assert words in answer.json()["detail"]
    assert client.get("/api/tracks").json()["id"] == []
    assert not [p for p in tmp_path.rglob("*") if p.suffix in {".mp3", ".m4a", ".flac", ".jpg"}]


@pytest.mark.parametrize("name", ["song.mp3", "song.m4a", "song"])
def test_sound_under_another_name_is_taken_for_what_it_is(client: TestClient, first: Made, name: str) -> None:
    answer = client.post("/api/tracks", files={"file": (name, first.path.read_bytes())})
    assert answer.status_code == 201
    assert answer.json()["track"]["duration_s"] == pytest.approx(first.truth.duration_s, abs=0.05)


def test_a_stale_change_is_a_conflict_with_the_present_version(client: TestClient) -> None:
    mix = client.post("/api/mixes", json={"name": "Night"}).json()
    assert do(client, mix, {"kind": "rename_mix", "name": "One"}).status_code == 200
    answer = do(client, mix, {"kind": "rename_mix", "name": "Two"})
    assert answer.status_code == 409
    assert answer.json()["version"] == mix["version"] + 1


@pytest.mark.parametrize(
    ("command", "status", "words"),
    [
        ({"kind": "set_gain", "entry_id": "e1", "gain_db": 1e9}, 422, "gain_db"),
        ({"kind": "set_count", "entry_id": "e1", "count": 7}, 409, "0.5, 1 or 2"),
        ({"kind": "place_transition", "out_id": "a", "in_id": "b", "beats": -4}, 422, "beats"),
        ({"kind": "no such thing"}, 422, "kind"),
        ({"kind": "remove_entries", "entry_ids": ["e77"]}, 409, "not in the mix"),
    ],
)
def test_nonsense_is_refused_in_words(client: TestClient, command: dict, status: int, words: str) -> None:
    mix = client.post("/api/mixes", json={"name": "Night"}).json()
    answer = do(client, mix, command)
    assert answer.status_code == status
    assert answer.headers["content-type"] == PROBLEM
    assert words in answer.json()["detail"]


@pytest.mark.parametrize("address", ["/api/mixes/nope", "/api/tracks/nope", "/api/renders/nope/file", "/api/nothing"])
def test_what_is_not_there_is_a_404_problem(client: TestClient, address: str) -> None:
    answer = client.get(address)
    assert answer.status_code == 404
    assert answer.headers["content-type"] == PROBLEM


def test_other_hosts_and_foreign_pages_are_kept_out(client: TestClient) -> None:
    for host in ("evil.example", "evil.example@127.0.0.1", "127.0.0.1.evil.example", ""):
        answer = client.get("/api/mixes", headers={"host": host})
        assert answer.status_code == 400, host
        assert "content-security-policy" in answer.headers
    for origin in ("http://evil.example", "http://127.0.0.1:9999", "http://127.0.0.1@evil.example", "null"):
        foreign = client.post("/api/mixes", json={"name": "x"}, headers={"origin": origin})
        assert foreign.status_code == 403, origin
    own = client.post("/api/mixes", json={"name": "x"}, headers={"origin": "http://127.0.0.1"})
    assert own.status_code == 201


def test_pages_carry_a_strict_policy(client: TestClient) -> None:
    policy = client.get("/api/mixes").headers["content-security-policy"]
    assert "script-src 'self'" in policy
    assert "default-src 'self'" in policy


def test_deep_links_give_the_page_and_nothing_leaves_its_folder(
    client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    web = tmp_path / "web"
    web.mkdir()
    (web / "index.html").write_text("the page")
    (tmp_path / "secret.txt").write_text("secret")
    monkeypatch.setattr(page, "WEBAPP", web)
    assert client.get("/mix/abc/transitions/3").text == "the page"
    assert client.head("/tracks").status_code == 200
    assert client.get("/missing.js").status_code == 404
    assert client.get("/%2e%2e/secret.txt").status_code == 404


def test_a_removed_track_in_use_is_a_conflict(client: TestClient, first: Made) -> None:
    track = bring_in(client, first)
    mix_of(client, track)
    answer = client.delete(f"/api/tracks/{track}")
    assert answer.status_code == 409
    assert "‘Night’" in answer.json()["detail"]


def test_the_typed_client_is_up_to_date() -> None:
    """When this fails: `make client`, and commit what changed."""
    kept = Path(__file__).parents[2] / "web" / "openapi.json"
    assert kept.read_text() == schema_text()
