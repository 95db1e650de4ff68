"""What the tests of the API ask for again and again."""

from __future__ import annotations

from fastapi.testclient import TestClient
from httpx import Response

from tests.conftest import Made

PROBLEM = "application/problem+json"


def bring_in(client: TestClient, made: Made) -> str:
    """Import a file; the id of its track."""
    answer = client.post("/api/tracks", files={"file": (made.path.name, made.path.read_bytes())})
    assert answer.status_code == 201
    return str(answer.json()["track"]["id"])


def mix_of(client: TestClient, *track_ids: str) -> dict:
    """A new mix of some tracks."""
    mix = client.post("/api/mixes", json={"name": "Night"}).json()
    return dict(do(client, mix, {"kind": "add_tracks", "track_ids": track_ids}).json())


def do(client: TestClient, mix: dict, command: dict) -> Response:
    """Send a command on the version of a mix that is known."""
    body = {"version": mix["version"], "command": command}
    return client.post(f"/api/mixes/{mix['id']}/commands", json=body)
