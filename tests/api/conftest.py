from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from fernbrook.api.app import create_app
from fernbrook.service.services import Services
from fernbrook.service.tracks.library import Library
from fernbrook.store.folders import Folders


@pytest.fixture(autouse=True)
def _no_analyses(monkeypatch: pytest.MonkeyPatch) -> None:
    """What comes in during a test is not analysed beside it: that takes seconds of every core. Modules whose tests
    are about what an analysis finds bring their track in before."""
    monkeypatch.setattr(Library, "_queue_analysis", lambda *_: None)


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    """The API on a data folder of its own."""
    with TestClient(create_app(Services(Folders(tmp_path), workers=1)), base_url="http://127.0.0.1") as client:
        yield client
