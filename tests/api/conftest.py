from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from fernbrook.api.app import create_app
from fernbrook.service.house import House
from fernbrook.store.folders import Folders


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    """The API on a data folder of its own."""
    with TestClient(create_app(House(Folders(tmp_path), workers=1)), base_url="http://127.0.0.1") as client:
        yield client
