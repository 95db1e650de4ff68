"""What leaves: files of every kind, lists, the cue card, the cover, and backups."""

from __future__ import annotations

import io
import json
import time
import zipfile

import mutagen
import pyloudnorm
import pytest
import soundfile
from fastapi.testclient import TestClient

from tests.api.asking import PROBLEM, bring_in, mix_of
from tests.conftest import Made

pytestmark = pytest.mark.slow


def rendered(client: TestClient, mix: dict, **wish: object) -> bytes:
    """A render, from the wish to the file."""
    asked = client.post(f"/api/mixes/{mix['id']}/renders", json=wish)
    assert asked.status_code == 202, asked.text
    for _ in range(600):
        found = next(r for r in client.get(f"/api/mixes/{mix['id']}/renders").json() if r["id"] == asked.json()["id"])
        if found["state"] not in ("waiting", "running"):
            break
        time.sleep(0.1)
    assert found["state"] == "done", found["error"]
    return client.get(f"/api/renders/{found['id']}/file").content


def test_a_part_of_a_mix_becomes_an_mp3_with_its_chapters_at_the_loudness_that_is_wished(
    client: TestClient, first: Made, second: Made
) -> None:
    mix = mix_of(client, bring_in(client, first), bring_in(client, second))
    turn = mix["plan"]["transitions"][0]
    start, end = turn["start_s"] - 4.0, turn["end_s"] + 4.0
    wish = {"output": "mp3_320", "start_s": start, "end_s": end, "loudness_lufs": -20.0, "ceiling_dbtp": -2.0}
    content = rendered(client, mix, **wish)
    file = mutagen.File(io.BytesIO(content))
    sound, rate = soundfile.read(io.BytesIO(content))
    assert pyloudnorm.Meter(rate).integrated_loudness(sound) == pytest.approx(-20.0, abs=0.4)
    assert file.info.length == pytest.approx(end - start, abs=0.1)
    chapters = sorted(file.tags.getall("CHAP"), key=lambda c: c.start_time)
    assert [str(c.sub_frames["TIT2"]).split(" – ")[-1] for c in chapters] == [first.song.title, second.song.title]
    assert chapters[0].start_time == 0
    assert str(file.tags["TIT2"]) == "Night"
    assert first.song.title in str(file.tags.getall("COMM")[0])
    assert file.tags.getall("APIC")[0].data.startswith(b"\x89PNG")


def test_a_mix_at_another_rate_has_its_length(client: TestClient, first: Made) -> None:
    mix = mix_of(client, bring_in(client, first))
    content = rendered(client, mix, output="flac16", rate=48000, end_s=5.0)
    info = soundfile.info(io.BytesIO(content))
    assert (info.samplerate, info.frames, info.subtype) == (48000, 240_000, "PCM_16")
    at = f"/api/mixes/{mix['id']}/renders"
    for wrong in ({"rate": 45000}, {"loudness_lufs": 3.0}, {"output": "mp4"}, {"ceiling_dbtp": 2.0}):
        assert client.post(at, json={"output": "wav24", **wrong}).status_code == 422
    nothing = client.post(at, json={"output": "wav24", "start_s": 9.0, "end_s": 8.0})
    assert (nothing.status_code, nothing.headers["content-type"]) == (409, PROBLEM)


def test_lists_the_card_and_the_cover_are_files_with_names(client: TestClient, first: Made, second: Made) -> None:
    mix = mix_of(client, bring_in(client, first), bring_in(client, second))
    at = f"/api/mixes/{mix['id']}"
    for form in ("txt", "csv", "json", "cue", "m3u8", "xspf", "vtt"):
        answer = client.get(f"{at}/track-list", params={"form": form})
        assert answer.status_code == 200
        assert f'filename="Night.{form}"' in answer.headers["content-disposition"]
        assert second.song.title in answer.text
    starts = [
        json.loads(client.get(f"{at}/track-list", params={"form": "json", "at": when}).text)["tracks"][1]["start_s"]
        for when in ("first_sound", "hand_over", "alone")
    ]
    assert starts == sorted(starts)
    assert starts[0] < starts[2]
    card = client.get(f"{at}/cue-card")
    assert card.headers["content-type"].startswith("text/html")
    assert "of the last, on bar" in card.text
    assert "BPM" in card.text
    assert client.get(f"{at}/cover").content.startswith(b"\x89PNG")
    for gone in ("track-list", "cue-card", "cover"):
        assert client.get(f"/api/mixes/gone/{gone}").status_code == 404


def test_a_backup_is_made_downloaded_and_deleted(client: TestClient, first: Made) -> None:
    mix_of(client, bring_in(client, first))
    made = client.post("/api/backups", json={"with_audio": True}).json()
    for _ in range(300):
        (found,) = client.get("/api/backups").json()
        if found["bytes"]:
            break
        time.sleep(0.1)
    answer = client.get(f"/api/backups/{made['id']}/file")
    names = zipfile.ZipFile(io.BytesIO(answer.content)).namelist()
    assert "fernbrook.db" in names
    assert any(n.startswith("audio/") for n in names)
    assert (
        client.put("/api/backups/schedule", json={"every_days": 7, "keep": 2, "with_audio": False}).status_code == 200
    )
    assert client.get("/api/backups/schedule").json()["every_days"] == 7
    assert client.put("/api/backups/schedule", json={"every_days": 0, "keep": 2}).status_code == 422
    assert client.delete(f"/api/backups/{made['id']}").status_code == 204
    assert client.get("/api/backups").json() == []
    assert client.get(f"/api/backups/{made['id']}/file").status_code == 404
