"""The routes of stems and of edits."""

from __future__ import annotations

import io

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from tests.api.asking import PROBLEM, bring_in, do, mix_of
from tests.conftest import Made

pytestmark = pytest.mark.slow


def as_wav(sound: np.ndarray, rate: int) -> bytes:
    file = io.BytesIO()
    soundfile.write(file, sound, rate, format="WAV", subtype="FLOAT")
    return file.getvalue()


def test_stems_are_sent_told_of_and_thrown_away(client: TestClient, first: Made) -> None:
    track = bring_in(client, first)
    at = f"/api/tracks/{track}/stems"
    assert client.get(at).json() == {"made": False, "offered": [], "words": "", "job": None}
    sound, rate = soundfile.read(first.path, dtype="float32", always_2d=True)
    sent = client.post(f"{at}/files", files={"drums": ("drums.wav", as_wav(sound * 0.5, rate))})
    assert sent.status_code == 201
    assert sent.json()["offered"] == ["drums", "music"]
    wrong = np.random.default_rng(1).standard_normal((rate, 2)).astype(np.float32)
    refused = client.post(f"{at}/files", files={"bass": ("bass.wav", as_wav(wrong, rate))})
    assert (refused.status_code, refused.headers["content-type"]) == (409, PROBLEM)
    assert "not the stems" in refused.json()["detail"]
    assert client.delete(at).status_code == 204
    assert client.get(at).json()["made"] is False
    for ask in (client.get, client.post, client.delete):
        assert ask("/api/tracks/gone/stems").status_code == 404


def test_edits_are_told_with_their_pieces_and_folds_need_an_analysis(client: TestClient, first: Made) -> None:
    mix = mix_of(client, bring_in(client, first))
    assert mix["plan"]["entries"][0]["edited"] is None
    skip = {"kind": "skip", "id": "x", "start": 8.0, "end": 16.0, "on": True}
    edited = do(client, mix, {"kind": "put_edits", "entry_id": "e1", "edits": [skip]}).json()
    shown = edited["plan"]["entries"][0]["edited"]
    assert shown["edits"] == [skip]
    assert [(p["start"], p["end"], p["shift"]) for p in shown["pieces"]] == [(None, 8.0, 0.0), (8.0, None, -8.0)]
    assert "leave out a part" in edited["undo"]
    folds = client.get(f"/api/mixes/{mix['id']}/entries/e1/folds")
    assert (folds.status_code, folds.headers["content-type"]) == (409, PROBLEM)
    assert client.get(f"/api/mixes/{mix['id']}/entries/e9/folds").status_code == 404
    length = client.get(f"/api/mixes/{mix['id']}/to-length", params={"seconds": 10.0}).json()
    assert (length["cuts"], length["command"]) == (0, None)
