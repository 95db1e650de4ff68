"""States of the page that are not the happy path, and its ways around."""

from __future__ import annotations

import io
import re
import sqlite3
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRow
from tests.conftest import Made
from tests.e2e.conftest import start_from
from tests.e2e.server import free_port, running


@pytest.fixture(autouse=True)
def patient() -> None:
    expect.set_options(timeout=20_000)


def test_an_empty_library_says_what_to_do(page: Page, tmp_path: Path) -> None:
    with running(tmp_path) as address:
        page.goto(address)
        expect(page.get_by_role("heading", name="Begin with your own files")).to_be_visible()
        # Without a mix there is only one place to be, and nothing else is lit.
        expect(page.get_by_role("navigation").locator(".is-here")).to_have_count(0)
        page.get_by_role("link", name="Tracks").click()
        expect(page.get_by_role("navigation").locator(".is-here")).to_have_text("Tracks")
        expect(page.get_by_role("heading", name="The library is empty")).to_be_visible()
        page.goto(address)
        page.get_by_role("button", name="New mix").click()
        expect(page.get_by_text("Nothing in this mix yet")).to_be_visible()
        page.get_by_role("link", name="Transitions").click()
        expect(page.get_by_text("A transition needs two tracks")).to_be_visible()
        page.get_by_role("link", name="Render").click()
        expect(page.get_by_text("The mix is empty")).to_be_visible()


def _drop(page: Page, on: str, name: str, content: bytes) -> None:
    script = """async ([on, name, bytes]) => {
      const data = new DataTransfer()
      data.items.add(new File([new Uint8Array(bytes)], name, { type: 'audio/wav' }))
      const target = document.querySelector(on)
      for (const type of ['dragenter', 'dragover', 'drop'])
        target.dispatchEvent(new DragEvent(type, { dataTransfer: data, bubbles: true, cancelable: true }))
    }"""
    page.evaluate(script, [on, name, list(content)])


def test_files_dropped_anywhere_come_in(page: Page, address: str) -> None:
    page.goto(address)
    expect(page.get_by_role("heading", name="Mixes")).to_be_visible()
    _drop(page, "body", "a.txt.wav", b"not a sound at all")
    page.wait_for_url("**/tracks")
    expect(page.get_by_role("alert").filter(has_text="‘a.txt.wav’")).to_be_visible()


def test_files_dropped_on_the_running_order_come_in_where_they_were_let_go(page: Page, mix: str) -> None:
    sound = io.BytesIO()
    soundfile.write(sound, np.random.default_rng(0).uniform(-0.3, 0.3, 4 * 8000), 8000, format="WAV")
    page.goto(f"{mix}/order")
    rows = page.get_by_role("region", name="Running order").locator("[data-entry]")
    expect(rows.first).to_be_visible()
    before = rows.count()
    second = rows.nth(1).get_attribute("data-entry")
    _drop(page, f'[data-entry="{second}"]', "let go.wav", sound.getvalue())
    expect(rows).to_have_count(before + 1)
    expect(rows.nth(1)).to_contain_text("let go")
    expect(page.get_by_label("Files arriving")).to_contain_text("1 track brought in")
    _drop(page, f'[data-entry="{second}"]', "no.wav", b"not a sound at all")
    expect(page.get_by_role("alert").filter(has_text="‘no.wav’")).to_be_visible()
    expect(rows).to_have_count(before + 1)


def test_the_view_is_moved_by_wheel_and_keys(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    overlap = page.get_by_role("slider", name="Overlap", exact=True)
    expect(overlap).to_contain_text("4 bars")

    def width() -> float:
        box = overlap.locator("rect").bounding_box()
        assert box
        return box["width"]

    def left() -> float:
        box = overlap.locator("rect").bounding_box()
        assert box
        return box["x"]

    fitted, start = width(), left()
    seam = page.get_by_role("group", name=re.compile("Seam"))
    seam.focus()
    page.keyboard.press("+")
    assert width() == pytest.approx(fitted * 1.5, rel=0.02)
    page.keyboard.press("0")
    assert width() == pytest.approx(fitted, rel=0.02)
    page.keyboard.press("ArrowRight")
    assert left() == pytest.approx(start - 80, abs=2)
    box = seam.bounding_box()
    assert box
    page.mouse.move(box["x"] + 400, box["y"] + 150)
    before = width()
    page.mouse.wheel(0, -300)
    page.wait_for_timeout(150)
    assert width() > before * 1.2
    page.get_by_role("button", name="Fit").click()
    assert left() == pytest.approx(start, abs=2)


def test_beats_are_drawn_where_they_sound(page: Page, mix: str) -> None:
    """The kicks of both tracks stand on the same pixel columns at the line."""
    page.goto(f"{mix}/transitions/1")
    expect(page.get_by_role("slider", name="Overlap", exact=True)).to_contain_text("4 bars")
    start_from(page, "Even blend")
    page.wait_for_timeout(1500)
    heights = page.evaluate(
        """() => {
          const canvas = document.querySelector('.seam canvas')
          const { width, height } = canvas
          const pixels = canvas.getContext('2d').getImageData(0, 0, width, height).data
          const coloured = (x, y) => {
            const i = (y * width + x) * 4
            return pixels[i + 3] > 200 && Math.max(pixels[i], pixels[i + 1], pixels[i + 2]) -
              Math.min(pixels[i], pixels[i + 1], pixels[i + 2]) > 60
          }
          const reach = (x, step) => {
            let n = 0
            for (let y = height / 2 + 2 * step; y > 0 && y < height; y += step) if (coloured(x, Math.round(y))) n++
            return n
          }
          const columns = []
          for (let x = 0; x < width; x++) columns.push([reach(x, -1), reach(x, 1)])
          return columns
        }"""
    )
    box = page.get_by_role("slider", name="Overlap", exact=True).locator("rect").bounding_box()
    pane = page.locator(".seam").bounding_box()
    assert box
    assert pane
    start, per_beat = box["x"] - pane["x"], box["width"] / 16
    for beat in range(4, 12):
        at = round(start + beat * per_beat)
        before = at - round(per_beat / 4)
        for side in (0, 1):
            attack = max(heights[x][side] for x in range(at, at + 5))
            quiet = max(heights[x][side] for x in range(before - 3, before + 4))
            assert attack > quiet, (beat, side)


def test_many_tracks_are_searched_without_drawing_them_all(page: Page, tmp_path: Path) -> None:
    Services(Folders(tmp_path)).stop()
    services = Services(Folders(tmp_path))
    with services._database.write() as session:
        session.add_all(
            TrackRow(
                id=f"t{n}",
                content_hash=f"{n:064}",
                file_name=f"{n}.wav",
                path=f"audio/{n}.wav",
                title=f"Leaf {n}",
                artist=f"Branch {n % 40}",
                format="WAV",
                coding="Signed 16 bit PCM",
                rate=44_100,
                channels=2,
                duration_s=200.0 + n,
                bytes=1,
            )
            for n in range(3000)
        )
    services.stop()
    with running(tmp_path) as address:
        page.goto(f"{address}/tracks")
        rows = page.get_by_role("rowgroup").get_by_role("row")
        expect(rows.first).to_be_visible()
        assert rows.count() < 60
        page.get_by_role("columnheader", name="Length").click()
        expect(rows.first).to_contain_text("Leaf 0")
        page.get_by_role("columnheader", name="Length").click()
        expect(rows.first).to_contain_text("Leaf 2999")
        page.get_by_label("Search tracks").fill("leaf 1234")
        expect(rows).to_have_count(1)
        page.get_by_label("Search tracks").fill("no such leaf")
        expect(page.get_by_text("No track matches ‘no such leaf’.")).to_be_visible()


def test_a_lost_server_is_told_and_its_return_noticed(page: Page, tmp_path: Path) -> None:
    port = free_port()
    address = f"http://127.0.0.1:{port}"
    command = [sys.executable, "-m", "fernbrook", "serve", "--data", str(tmp_path), "--port", str(port)]

    def started() -> subprocess.Popen[bytes]:
        process = subprocess.Popen(command)
        for _ in range(300):
            try:
                urllib.request.urlopen(f"{address}/api/mixes", timeout=2).close()
                break
            except OSError:
                time.sleep(0.2)
        return process

    server = started()
    try:
        page.goto(address)
        expect(page.get_by_role("heading", name="Mixes")).to_be_visible()
        server.kill()
        server.wait()
        expect(page.get_by_role("alert")).to_contain_text("Fernbrook does not answer")
        services = Services(Folders(tmp_path))
        services.mixes.create("Made while it was away")
        services.stop()
        server = started()
        expect(page.get_by_role("alert")).to_have_count(0, timeout=30_000)
        expect(page.get_by_role("link", name=re.compile("Made while it was away"))).to_be_visible()
    finally:
        server.kill()
        server.wait()


def test_the_database_survives_a_kill_in_the_middle(page: Page, tmp_path: Path, first: Made) -> None:
    port = free_port()
    command = [sys.executable, "-m", "fernbrook", "serve", "--data", str(tmp_path), "--port", str(port)]
    server = subprocess.Popen(command)
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(300):
            try:
                urllib.request.urlopen(f"{address}/api/mixes", timeout=2).close()
                break
            except OSError:
                time.sleep(0.2)
        page.goto(f"{address}/tracks")
        page.get_by_label("Audio files").set_input_files([first.path])
        expect(page.get_by_text(re.compile("analys")).first).to_be_visible()
    finally:
        server.kill()
        server.wait()
    check = sqlite3.connect(tmp_path / "fernbrook.db")
    assert check.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    check.close()
    with running(tmp_path) as again:
        page.goto(f"{again}/tracks")
        expect(page.get_by_role("button", name=f"Listen to {first.song.title}")).to_be_visible(timeout=60_000)
