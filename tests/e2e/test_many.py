"""Long mixes and large libraries: what is drawn and asked for does not grow with them."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from fernbrook.analysis.analyse import VERSION
from fernbrook.analysis.peaks import BUCKETS
from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track import Grid, PutGrid
from fernbrook.service.services import Services
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRow
from tests.e2e.conftest import rows_of
from tests.e2e.server import running

TRACKS = 120
LONG = 61
SECONDS = 200


@pytest.fixture(scope="module")
def many(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """Many tracks with waveforms but no sound, and two mixes of them: one long, one as long as may be."""
    folders = Folders(tmp_path_factory.mktemp("many"))
    Services(folders).stop()
    database = Database(folders.database)
    peaks = {b: np.full((SECONDS * 44_100 // b, 3), 90, dtype=np.uint8).tobytes() for b in BUCKETS}
    with database.write() as session:
        for n in range(TRACKS):
            row = TrackRow(
                id=f"t{n}", content_hash=f"{n:064}", file_name=f"{n}.wav", path=f"audio/{n}.wav", title=f"Leaf {n}",
                artist="Branch", format="WAV", coding="Signed 16 bit PCM", rate=44_100, channels=2,
                duration_s=float(SECONDS), bytes=1, analysis_version=VERSION, sound_end_s=float(SECONDS),
            )  # fmt: skip
            session.add(row)
            for bucket, content in peaks.items():
                folders.peaks_file(row.content_hash, bucket).write_bytes(content)
    database.close()
    services = Services(folders)
    for n in range(TRACKS):
        services.marking.change(f"t{n}", None, PutGrid(grid=Grid.constant(118.0 + n % 5, 0.1)))
    for name, entries in (("Long", LONG), ("Longest", 500)):
        mix = services.mixes.create(name)
        ids = tuple(f"t{n % TRACKS}" for n in range(entries))
        services.mixes.change(mix.id, mix.version, AddTracks(track_ids=ids))
    services.stop()
    with running(folders.root) as address:
        yield address


def _open(page: Page, address: str, name: str) -> str:
    page.goto(address)
    page.get_by_role("link").filter(has=page.get_by_text(name, exact=True)).click()
    expect(page.get_by_role("slider", name="Overlap", exact=True)).to_be_visible()
    return page.url.split("/transitions")[0]


@pytest.mark.parametrize("name", ["Longest"])
def test_the_course_of_a_long_mix_is_one_answer(page: Page, many: str, name: str) -> None:
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    _open(page, many, name)
    page.wait_for_timeout(2500)
    assert len([a for a in asked if "/course" in a and "columns=1200" in a]) == 1
    assert len([a for a in asked if "/peaks/" in a]) <= 6
    assert len([a for a in asked if "/api/tracks/" in a]) <= 12
    before = len(asked)
    page.wait_for_timeout(1000)
    assert len(asked) == before


def test_an_entry_is_dragged_far_through_a_long_order(page: Page, many: str) -> None:
    mix = _open(page, many, "Longest")
    page.goto(f"{mix}/order")
    rows = rows_of(page)
    expect(rows.first).to_contain_text("Leaf 0")
    assert rows.count() < 30
    assert page.evaluate("document.querySelectorAll('*').length") < 4000
    grip = page.get_by_role("button", name=re.compile("Move Leaf 2:"))
    box = grip.bounding_box()
    frame = page.locator(".box").first.bounding_box()
    assert box
    assert frame
    page.mouse.move(box["x"] + 6, box["y"] + 8)
    page.mouse.down()
    for step in range(1, 11):
        page.mouse.move(box["x"] + 6, box["y"] + 8 + (frame["y"] + frame["height"] - 12 - box["y"]) * step / 10)
    scrolled = 0.0
    for _ in range(100):  # at the edge the list runs along, as fast as the machine lets it
        page.wait_for_timeout(100)
        scrolled = page.locator(".box").first.evaluate("box => box.scrollTop")
        if scrolled > 300:
            break
    assert scrolled > 300
    page.mouse.up()
    moved = page.request.get(f"{many}/api/mixes/{mix.rsplit('/', 1)[1]}")
    place = 2
    for _ in range(40):  # the change of so long a mix takes a moment beside other work
        page.wait_for_timeout(250)
        order = page.request.get(moved.url).json()["plan"]["entries"]
        place = [e["id"] for e in order].index("e3")
        if place != 2:
            break
    assert place > 2 + scrolled / 94
    expect(page.get_by_role("button", name=re.compile("Move Leaf 2:")).first).to_be_visible()
    with page.expect_response(lambda answer: answer.url.endswith("/undo")):
        page.get_by_role("button", name="Undo").click()
    assert [e["id"] for e in page.request.get(moved.url).json()["plan"]["entries"]].index("e3") == 2


def test_a_list_that_cannot_be_had_says_so(page: Page, many: str) -> None:
    page.route("**/api/tracks", lambda route: route.fulfill(status=500, json={"detail": "The list is broken."}))
    page.goto(f"{many}/tracks")
    told = page.get_by_role("alert").filter(has_text="could not be loaded")
    expect(told).to_contain_text("The list is broken.", timeout=30_000)
    page.unroute("**/api/tracks")
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_role("row").nth(3)).to_be_visible()


def test_typing_a_search_draws_no_more_than_is_seen(page: Page, many: str) -> None:
    page.goto(f"{many}/tracks")
    table = page.get_by_role("table", name="Tracks")
    expect(table).to_have_attribute("aria-rowcount", str(TRACKS + 1))
    page.get_by_label("Search tracks").press_sequentially("leaf 11")
    expect(table).to_have_attribute("aria-rowcount", "12")
    expect(page.get_by_role("rowgroup").get_by_role("row")).to_have_count(11)
