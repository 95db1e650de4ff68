from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.conftest import Made
from tests.e2e.chromium import find
from tests.e2e.server import running
from tests.e2e.sound import HOLD_THE_CLOCK

CHROMIUM = {
    "executable_path": find(),
    "args": [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--autoplay-policy=no-user-gesture-required",
    ],
}


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    return CHROMIUM


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, object]:
    return {"viewport": {"width": 1280, "height": 800}, "accept_downloads": True}


@pytest.fixture(scope="session")
def address(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """One application for all tests of the page; each test makes a mix of its own."""
    expect.set_options(timeout=20_000)
    with running(tmp_path_factory.mktemp("library")) as address:
        yield address


@pytest.fixture
def page(page: Page) -> Iterator[Page]:
    """A page that fails its test when anything goes wrong in it unseen. Its sound goes on when the test says so."""
    page.context.add_init_script(HOLD_THE_CLOCK)
    errors: list[str] = []
    page.on("pageerror", lambda e: errors.append(str(e)))
    page.on("request", lambda r: errors.append(r.url) if not r.url.startswith(("http://127.0.0.1", "data:")) else None)
    yield page
    assert not errors


@pytest.fixture
def library(page: Page, address: str, first: Made, second: Made, other_rate: Made) -> list[Made]:
    """Three tracks in the library, brought in through the page and analysed; once for all tests."""
    made = [first, second, other_rate]
    table = page.request.get(f"{address}/api/tracks").json()
    known = {title for title, ready in zip(table["title"], table["has_peaks"], strict=True) if ready}
    if known >= {m.song.title for m in made}:
        return made
    page.goto(f"{address}/tracks")
    page.get_by_label("Audio files").set_input_files([m.path for m in made])
    expect(page.get_by_label("Files arriving").get_by_role("status")).to_be_visible(timeout=60_000)
    for m in made:
        expect(page.get_by_role("button", name=f"Listen to {m.song.title}")).to_be_visible(timeout=240_000)
    return made


@pytest.fixture
def mix(page: Page, address: str, library: list[Made]) -> str:
    """A new mix of the three tracks, with its running order open; gives its address. That a person can make one through
    the page is a test of its own."""
    ids = tracks_by_title(page, address)
    made = ask(page, f"{address}/api/mixes", {"name": "New mix"})
    command = {"kind": "add_tracks", "track_ids": [ids[m.song.title] for m in library]}
    ask(page, f"{address}/api/mixes/{made['id']}/commands", {"version": made["version"], "command": command})
    page.goto(f"{address}/mix/{made['id']}/order")
    expect(rows_of(page)).to_have_count(len(library))
    return f"{address}/mix/{made['id']}"


def ask(page: Page, url: str, body: dict[str, object]) -> dict[str, Any]:
    """Post something to the API as the page itself would."""
    answer = page.request.post(url, data=body, headers={"origin": url.split("/api/", maxsplit=1)[0]})
    assert answer.ok, answer.text()
    return dict(answer.json())


def start_from(page: Page, shape: str) -> None:
    """Start the transition that is open from a shape."""
    page.get_by_role("button", name="Start from a shape").click()
    item = page.get_by_role("menuitem", name=re.compile(f"^{shape}"))
    item.click()
    expect(item).to_have_count(0)


def rows_of(page: Page) -> Locator:
    """The rows of the running order."""
    return page.get_by_role("region", name="Running order").get_by_role("listitem")


def tracks_by_title(page: Page, address: str) -> dict[str, str]:
    """The ids of all tracks of the library."""
    table = page.request.get(f"{address}/api/tracks").json()
    return dict(zip(table["title"], table["id"], strict=True))


def downloaded(page: Page, name: str, folder: Path) -> Path:
    """Click a link that downloads, and keep the file."""
    with page.expect_download() as caught:
        page.get_by_role("link", name=name).first.click()
    path = folder / caught.value.suggested_filename
    caught.value.save_as(path)
    return path
