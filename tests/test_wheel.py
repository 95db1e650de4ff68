"""The wheel that is built runs by itself: the page, the migrations and the faces are inside, and no Node is needed."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import httpx
import pytest

from tests.e2e.server import running

ROOT = Path(__file__).parents[1]
PIP = [sys.executable, "-m", "pip", "-q", "--disable-pip-version-check"]
pytestmark = pytest.mark.slow


def test_an_installed_wheel_serves_the_page_and_a_library(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    source, wheels, site = tmp_path / "source", tmp_path / "wheels", tmp_path / "site"
    shutil.copytree(ROOT / "fernbrook", source / "fernbrook", ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copytree(ROOT / "LICENSES", source / "LICENSES")
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, source / name)
    subprocess.run([*PIP, "wheel", "--no-deps", "--no-build-isolation", "-w", wheels, source], check=True)
    (wheel,) = wheels.iterdir()
    subprocess.run([*PIP, "install", "--no-deps", "--no-index", "--target", site, wheel], check=True)
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("PYTHONPATH", os.fspath(site))
    where = subprocess.check_output([sys.executable, "-c", "import fernbrook; print(fernbrook.__file__)"], text=True)
    assert Path(where.strip()).is_relative_to(site)
    assert not (site / "standins").exists()
    # Whose weights are inside must be named with them.
    assert len(list(site.glob("fernbrook-*.dist-info/licenses/LICENSES/*"))) == len(list((ROOT / "LICENSES").iterdir()))
    with running(tmp_path / "data") as address:
        page = httpx.get(f"{address}/")
        assert 'id="app"' in page.text
        script = page.text.split('src="')[1].split('"')[0]
        assert httpx.get(f"{address}{script}").status_code == 200
        made = httpx.post(f"{address}/api/mixes", json={"name": "Late"}, headers={"origin": address})
        assert made.status_code == 201
