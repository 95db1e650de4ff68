"""The stand-ins as commands: each in a process of its own."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import httpx
import pytest
from typer.testing import CliRunner

from standins.__main__ import app
from standins.host.shelf import Shelf
from tests.e2e.server import free_port

pytestmark = pytest.mark.slow
run = CliRunner()


def first_line(*words: str) -> tuple[subprocess.Popen[str], str]:
    """A command that was started, and the first thing that it says."""
    command = [sys.executable, "-m", "standins", *words]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    return process, process.stdout.readline()


def answered(url: str) -> httpx.Response:
    return httpx.Client(transport=httpx.HTTPTransport(retries=8)).get(url)


def test_a_host_says_its_token_and_behaves_as_it_is_told(tmp_path: Path) -> None:
    port = free_port()
    process, said = first_line("host", "--data", str(tmp_path), "--port", str(port), "--refuse", "quota")
    try:
        shelf = Shelf(tmp_path)
        assert str(port) in said
        assert shelf.behaviour().refuse == "quota"
        assert "Mixes here" in answered(f"http://127.0.0.1:{port}/").text
        headers = {"authorization": f"Bearer {shelf.token()}", "upload-length": "5"}
        refused = httpx.post(f"http://127.0.0.1:{port}/uploads", headers=headers)
        assert (refused.status_code, "no room left" in refused.json()["detail"]) == (413, True)
    finally:
        process.kill()
        process.wait()


def test_a_player_says_on_its_stick_what_it_takes(tmp_path: Path) -> None:
    port = free_port()
    process, said = first_line("player", "--stick", str(tmp_path), "--port", str(port))
    try:
        assert str(port) in said
        assert "Player" in answered(f"http://127.0.0.1:{port}/").text
        assert "wav" in json.loads((tmp_path / "player.json").read_text())["takes"]["kinds"]
    finally:
        process.kill()
        process.wait()


def test_what_cannot_be_run_is_said(tmp_path: Path) -> None:
    gone = run.invoke(app, ["player", "--stick", str(tmp_path / "gone")])
    assert (gone.exit_code, "There is no stick" in gone.output) == (1, True)
    odd = run.invoke(app, ["host", "--data", str(tmp_path), "--refuse", "weather"])
    assert (odd.exit_code, "quota" in odd.output) == (2, True)
