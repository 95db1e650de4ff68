"""What goes elsewhere and comes back through the API: covers, JAMS, files of markup, bundles, sticks, hosts."""

from __future__ import annotations

import io
import json
import time
import zipfile
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tests.api.asking import PROBLEM, bring_in, mix_of
from tests.conftest import Made

pytestmark = pytest.mark.slow


@pytest.fixture
def mix(client: TestClient, first: Made, second: Made) -> dict:
    return mix_of(client, bring_in(client, first), bring_in(client, second))


def picture(width: int, height: int, kind: str = "JPEG") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (width, height), (200, 40, 40)).save(out, kind)
    return out.getvalue()


def test_a_picture_of_one_s_own_becomes_the_cover_and_goes_again(client: TestClient, mix: dict) -> None:
    at = f"/api/mixes/{mix['id']}/cover"
    made = client.get(at).content
    assert client.get(f"{at}/origin").json() == {"is_own": False}
    for kind, size in (("JPEG", (3000, 2000)), ("PNG", (300, 500)), ("WEBP", (64, 64))):
        assert client.put(at, files={"file": ("me", picture(*size, kind))}).status_code == 204
        own = Image.open(io.BytesIO(client.get(at).content))
        side = min(*size, 1400)
        assert (own.format, own.size) == ("PNG", (side, side))
        assert all(abs(a - b) < 6 for a, b in zip(own.getpixel((5, 5)), (200, 40, 40), strict=True))
    assert client.get(f"{at}/origin").json() == {"is_own": True}
    for bad in (b"ferns", b"", picture(40, 40)[:300], b"%PDF-1.4"):
        answer = client.put(at, files={"file": ("me", bad)})
        assert (answer.status_code, answer.headers["content-type"]) == (409, PROBLEM)
        assert "PNG, JPEG and WebP" in answer.json()["detail"]
    assert client.delete(at).status_code == 204
    assert client.get(at).content == made
    assert client.put("/api/mixes/gone/cover", files={"file": ("me", picture(9, 9))}).status_code == 404


def test_paces_are_known_before_anything_was_rendered(client: TestClient) -> None:
    paces = client.get("/api/render-paces").json()
    assert set(paces["files"]) >= {f["id"] for f in client.get("/api/formats").json()}
    assert all(p > 0 for p in [*paces["files"].values(), paces["lanes"]])
    assert paces["beside"] == 0


def test_formats_say_which_are_videos_and_which_lose_nothing(client: TestClient) -> None:
    formats = {f["id"]: f for f in client.get("/api/formats").json()}
    assert [i for i, f in formats.items() if f["is_video"]] == [i for i in formats if i.startswith("video")]
    assert formats["flac24"]["is_lossless"]
    assert not formats["opus"]["is_lossless"]


def test_what_is_known_is_a_file_and_a_file_is_looked_into(client: TestClient, mix: dict) -> None:
    track = mix["plan"]["entries"][0]["track_id"]
    at = f"/api/tracks/{track}/markup"
    kept = client.get(f"{at}/file", params={"form": "jams"})
    assert ".jams" in kept.headers["content-disposition"]
    assert json.loads(kept.content)["file_metadata"]["jams_version"]
    assert client.get(f"{at}/file", params={"form": "json"}).json()["fernbrook"] == "track"
    assert client.get(f"{at}/file", params={"form": "tape"}).status_code == 422
    labels = {"file": ("a.txt", b"1.0\t9.0\tverse\n2.0\t2.0\tclaps\n")}
    looked = client.post(f"{at}/file/look", files=labels).json()
    assert [(p["facet"], p["differs"]) for p in looked] == [("sections", True), ("cues", True)]
    version = client.get(at).json()["version"]
    taken = client.post(f"{at}/file/take", files=labels, data={"version": str(version), "facets": ["cues"]})
    assert [c["name"] for c in taken.json()["markup"]["cues"]] == ["claps"]
    stale = client.post(f"{at}/file/take", files=labels, data={"version": str(version), "facets": ["cues"]})
    assert (stale.status_code, stale.json()["version"]) == (409, taken.json()["version"])
    odd = client.post(f"{at}/file/look", files={"file": ("a.pdf", b"%PDF")})
    assert (odd.status_code, odd.headers["content-type"]) == (409, PROBLEM)
    of_mix = json.loads(client.get(f"/api/mixes/{mix['id']}/jams").content)
    assert {a["namespace"] for a in of_mix["annotations"]} >= {"beat", "segment_open", "tag_open", "tempo"}
    packed = client.get(f"/api/mixes/{mix['id']}/tracks-jams").content
    assert len(zipfile.ZipFile(io.BytesIO(packed)).namelist()) == 2
    card = client.get(f"/api/mixes/{mix['id']}/cue-card", params={"kind": "pdf"})
    assert card.headers["content-type"] == "application/pdf"
    assert card.content.startswith(b"%PDF")


def test_a_bundle_is_made_brought_looked_at_and_opened(client: TestClient, mix: dict) -> None:
    at = f"/api/mixes/{mix['id']}/bundles"
    made = client.post(at, json={"audio": "none", "with_history": False})
    assert made.status_code == 202
    for _ in range(300):
        (found,) = client.get(at).json()
        if found["job"]["state"] == "done":
            break
        time.sleep(0.1)
    content = client.get(f"/api/bundles/{found['id']}/file").content
    arrived = client.post("/api/arrived-bundles", files={"file": ("a.zip", content)})
    assert arrived.status_code == 201
    said = arrived.json()
    assert {t["arrival"] for t in said["tracks"]} <= {"same", "differs"}, "as far as their analyses are"
    assert (said["name"], said["states"], said["needs"]) == ("Night", 1, 0)
    here = f"/api/arrived-bundles/{said['id']}"
    assert client.get(f"{here}/opening").status_code == 404
    assert client.post(f"{here}/open", json={"take": []}).status_code == 202
    for _ in range(300):
        opening = client.get(f"{here}/opening").json()
        if opening["job"]["state"] not in ("waiting", "running"):
            break
        time.sleep(0.1)
    assert opening["mix_id"] in {m["id"] for m in client.get("/api/mixes").json()}
    assert client.post(f"{here}/open", json={"take": []}).status_code == 404
    second = client.post(at, json={"audio": "none", "with_history": True}).json()["id"]
    assert client.delete(f"/api/bundles/{found['id']}").status_code == 204
    assert [b["id"] for b in client.get(at).json()] == [second]
    assert client.delete(f"/api/mixes/{mix['id']}").status_code == 204
    assert client.get(at).json() == []
    assert client.post("/api/arrived-bundles", files={"file": ("a.zip", b"ferns")}).status_code == 409
    assert client.delete("/api/arrived-bundles/gone").status_code == 204


def test_a_stick_is_planned_filled_and_read(client: TestClient, mix: dict, tmp_path: Path) -> None:
    stick = tmp_path / "stick"
    stick.mkdir()
    wish = {"path": str(stick), "mixes": [mix["id"]]}
    plan = client.post("/api/sticks/plan", json=wish).json()
    assert [f["action"] for f in plan["files"]] == ["copy", "copy"]
    assert (plan["lists"], plan["problem"]) == (["Night"], "")
    assert 0 < plan["needs"] < plan["free"]
    assert client.get("/api/sticks/filling").json()["job"] is None
    assert client.post("/api/sticks/fill", json=wish).status_code == 202
    for _ in range(300):
        filling = client.get("/api/sticks/filling").json()
        if filling["job"]["state"] not in ("waiting", "running"):
            break
        time.sleep(0.1)
    assert (filling["job"]["state"], filling["written"], filling["kept"]) == ("done", 2, 0)
    assert str(stick) in client.get("/api/sticks/places").json()
    read = client.get("/api/sticks/read", params={"path": str(stick)}).json()
    assert (read["changed"], read["played"]) == ([], [])
    track = mix["plan"]["entries"][0]["track_id"]
    take = {"path": str(stick), "track_id": track, "facets": ["cues"]}
    assert client.post("/api/sticks/take", json=take).status_code == 204
    leave = {"path": str(stick), "track_id": track}
    assert client.post("/api/sticks/leave", json=leave).status_code == 204
    assert client.post("/api/sticks/leave", json={**leave, "track_id": "gone"}).status_code == 404
    for path in ("relative", str(tmp_path / "gone"), " "):
        answer = client.post("/api/sticks/plan", json={"path": path})
        assert (answer.status_code, answer.headers["content-type"]) == (409, PROBLEM)
    assert client.post("/api/sticks/fill", json={"path": str(stick)}).status_code == 409
    assert client.post("/api/sticks/fill", json={**wish, "mixes": ["gone"]}).status_code == 404
    assert client.post("/api/sticks/played", json={"path": str(stick)}).status_code == 409


def test_publishing_is_refused_in_words_until_there_is_something_to_publish(client: TestClient, mix: dict) -> None:
    assert client.get("/api/publishing-host").json() == {"host": "", "has_token": False}
    wish = {"host": "https://mixes.example", "token": "x", "title": "Night"}
    assert client.post("/api/renders/gone/publish", json=wish).status_code == 404
    assert client.post("/api/renders/gone/publish", json={**wish, "title": ""}).status_code == 422
    refused = client.post("/api/renders/gone/publish", json={**wish, "host": "http://far.example"})
    assert (refused.status_code, "https" in refused.json()["detail"]) == (409, True)
    assert client.get(f"/api/mixes/{mix['id']}/published").json() == []
    assert client.delete("/api/published/gone").status_code == 404
    assert client.delete("/api/publishing-host").status_code == 204
