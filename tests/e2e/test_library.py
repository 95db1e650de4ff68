"""The library in Chromium: found as typed, tagged at once and taken back, on lists, written into files."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Locator, Page, expect

from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRow
from tests.conftest import Made
from tests.e2e.conftest import tracks_by_title
from tests.e2e.server import running

MANY = 10_000


@pytest.fixture(scope="module")
def large(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    folders = Folders(tmp_path_factory.mktemp("large"))
    services = Services(folders)
    with services._database.write() as session:
        session.add_all(
            TrackRow(
                id=f"t{n}", content_hash=f"{n:064}", file_name=f"{n}.wav", path=f"audio/{n}.wav", title=f"Leaf {n}",
                artist=f"Branch {n % 90}", format="WAV", coding="", rate=44_100, channels=2, duration_s=200.0 + n % 60,
                bytes=1, bpm=100.0 + n % 40, key=("Am", "C", "Eb")[n % 3], voice_share=0.2 * (n % 2), energy=0.5,
                analysis_version=5,
            )
            for n in range(MANY)
        )  # fmt: skip
    services.stop()
    with running(folders.root) as address:
        yield address


def rows(page: Page) -> Locator:
    return page.get_by_role("rowgroup").get_by_role("row")


def open_tracks(page: Page, address: str) -> None:
    page.goto(f"{address}/tracks")
    expect(rows(page).first).to_be_visible()


def test_ten_thousand_rows_are_found_as_typed_and_scrolled(page: Page, large: str) -> None:
    open_tracks(page, large)
    assert rows(page).count() < 60
    page.get_by_label("Search tracks").press_sequentially("instrumental bpm:118-122 fits:Am", delay=15)
    expect(page.get_by_text(f"of {MANY}")).to_contain_text("500 of")
    page.get_by_label("Search tracks").fill("leaf 123")
    expect(page.get_by_text(f"of {MANY}")).to_contain_text("20 of")
    page.get_by_label("Search tracks").fill("")
    nodes = page.evaluate("document.querySelectorAll('*').length")
    box = page.locator(".rows")
    for share in (0.2, 0.5, 0.9, 0.4, 1.0):
        box.evaluate("(b, s) => (b.scrollTop = s * b.scrollHeight)", share)
        page.wait_for_timeout(60)
    expect(rows(page).last).to_contain_text("Leaf")
    assert page.evaluate("document.querySelectorAll('*').length") < nodes * 1.5


def test_forty_are_tagged_at_once_and_taken_back(page: Page, large: str) -> None:
    open_tracks(page, large)
    page.get_by_label("Search tracks").fill('artist:"Branch 7" bpm:<120')
    expect(page.get_by_text(f"of {MANY}")).not_to_contain_text(f"{MANY} of")
    page.keyboard.press("Escape")
    page.locator("h1").click()
    page.keyboard.press("ArrowDown")
    for _ in range(39):
        page.keyboard.press("Shift+ArrowDown")
    expect(page.get_by_text("40 chosen")).to_be_visible()
    page.keyboard.press("t")
    page.get_by_role("combobox", name="Tags for the chosen tracks").fill("dub, late")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="dub 40")).to_be_visible()
    page.get_by_role("button", name="dub 40").click()
    expect(page.get_by_label("Search tracks")).to_have_value('artist:"Branch 7" bpm:<120 tag:dub')
    page.get_by_label("Search tracks").fill("tag:dub")
    expect(page.get_by_text(f"of {MANY}")).to_contain_text("40 of")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="dub 40")).to_have_count(0)
    expect(page.get_by_text(f"of {MANY}")).to_contain_text("0 of")


def test_a_filter_is_built_by_clicks_and_saved(page: Page, large: str) -> None:
    open_tracks(page, large)
    page.get_by_role("button", name="Filter").click()
    page.get_by_label("BPM from").fill("118")
    page.get_by_label("BPM to").fill("120")
    page.get_by_text("Instrumental", exact=True).click()
    page.get_by_label("Fits the key").select_option("Am")
    expect(page.get_by_label("Search tracks")).to_have_value("bpm:118-120 instrumental fits:Am")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Save this search").click()
    page.get_by_role("dialog").get_by_label("Name").fill("Warm up")
    page.get_by_role("button", name="Save", exact=True).click()
    saved = page.get_by_role("button", name="Warm up")
    expect(saved).to_be_visible()
    page.get_by_label("Search tracks").fill("")
    saved.click()
    expect(page.get_by_label("Search tracks")).to_have_value("bpm:118-120 instrumental fits:Am")
    expect(rows(page).first).to_contain_text("Leaf")


def test_what_cannot_be_understood_is_told_and_the_list_stays(page: Page, large: str) -> None:
    open_tracks(page, large)
    page.get_by_label("Search tracks").fill("leaf 42")
    expect(page.get_by_text(f"of {MANY}")).to_be_visible()
    page.get_by_label("Search tracks").fill("leaf 42 tempi:120")
    expect(page.get_by_role("alert")).to_contain_text("There is no field ‘tempi’")
    expect(rows(page).first).to_contain_text("Leaf")


def test_tracks_go_to_a_list_and_what_fits_is_shown_and_paired(page: Page, large: str) -> None:
    open_tracks(page, large)
    page.get_by_label("Search tracks").fill('"leaf 9999"')
    expect(rows(page)).to_have_count(1)
    rows(page).first.get_by_text("Leaf 9999").click()
    page.keyboard.press("w")
    pane = page.get_by_role("complementary", name="What fits")
    expect(pane.get_by_role("listitem").first).to_contain_text("same tempo")
    pane.get_by_role("button", name="Pair", exact=True).first.click()
    page.get_by_role("dialog").get_by_label("Note").fill("at the drop")
    page.get_by_role("button", name="Pair them").click()
    expect(pane.get_by_role("listitem").first).to_contain_text("paired: at the drop")
    expect(pane.get_by_role("button", name="Paired", exact=True)).to_have_count(1)
    page.get_by_role("button", name="To a list").click()
    page.get_by_role("menuitem", name="A new list").click()
    made = page.get_by_role("navigation", name="Lists, filters and tags").get_by_role("button", name="New list 1")
    made.click()
    page.get_by_label("Search tracks").fill("")
    expect(rows(page)).to_have_count(1)


def test_marks_are_written_into_a_file_after_a_look_at_what_changes(
    page: Page, address: str, library: list[Made]
) -> None:
    title = library[0].song.title
    track = tracks_by_title(page, address)[title]
    open_tracks(page, address)
    rows(page).filter(has_text=title).get_by_text(title).click()
    page.get_by_role("button", name="Write tags").click()
    table = page.get_by_role("table", name="What will change")
    expect(table).to_contain_text("Grid, cues, loops, tags")
    page.get_by_role("button", name="Write", exact=True).click()
    expect(page.get_by_role("status").filter(has_text="the same to the sample")).to_be_visible(timeout=30_000)
    expect(table.get_by_role("row")).to_have_count(1)
    with page.expect_download() as taken:
        page.evaluate("u => { const a = document.createElement('a'); a.href = u; a.download = ''; a.click() }",
                      f"/api/tracks/{track}/file")  # fmt: skip
    assert b"FERNBROOK_MARKUP" in taken.value.path().read_bytes()
    page.get_by_role("button", name="Bring the old fields back").click()
    expect(page.get_by_role("status").filter(has_text="Brought back in 1 file")).to_be_visible(timeout=30_000)


def test_a_list_is_put_into_another_order_by_keys_and_by_drag(page: Page, large: str) -> None:
    made = page.request.post(
        f"{large}/api/library/lists", data={"name": "Doors", "track_ids": ["t3", "t1", "t2"]}
    ).json()["id"]

    def order() -> list[str]:
        lists = page.request.get(f"{large}/api/library").json()["lists"]
        return next(x["track_ids"] for x in lists if x["id"] == made)

    open_tracks(page, large)
    page.get_by_role("button", name="Doors 3").click()
    expect(rows(page)).to_have_count(3)
    expect(rows(page).first).to_contain_text("1Leaf 3")
    rows(page).first.get_by_text("Leaf 3").click()
    page.keyboard.press("]")
    expect(rows(page).nth(1)).to_contain_text("2Leaf 3")
    assert order() == ["t1", "t3", "t2"]
    rows(page).nth(1).drag_to(rows(page).first)
    expect(rows(page).first).to_contain_text("1Leaf 3")
    rows(page).first.drag_to(page.get_by_role("button", name="Doors 3"))
    expect(page.get_by_role("button", name="Doors 4")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Doors 3")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(rows(page).nth(1)).to_contain_text("2Leaf 3")
    page.request.delete(f"{large}/api/library/lists/{made}")


def test_suggested_cues_of_many_tracks_are_accepted_at_once(page: Page, address: str, library: list[Made]) -> None:
    ids = tracks_by_title(page, address)
    titles = [m.song.title for m in library[:2]]
    open_tracks(page, address)
    for number, title in enumerate(titles):
        rows(page).filter(has_text=title).get_by_text(title).click(modifiers=["Control"] if number else [])
    page.get_by_role("button", name="Accept suggested cues").click()
    expect(page.get_by_text("The cues of 2 tracks are set.")).to_be_visible()
    for title in titles:
        markup = page.request.get(f"{address}/api/tracks/{ids[title]}/markup").json()
        roles = {c["role"] for c in markup["markup"]["cues"]}
        assert roles >= {"start", "mix_in", "mix_out", "alone_from"}
        # For the other tests all is as it was.
        removal = {"kind": "remove_cues", "ids": [c["id"] for c in markup["markup"]["cues"]]}
        page.request.post(f"{address}/api/tracks/{ids[title]}/markup/commands",
                          data={"version": markup["version"], "command": removal})  # fmt: skip


def test_a_name_is_typed_into_a_dialog_at_once(page: Page, large: str) -> None:
    open_tracks(page, large)
    page.get_by_role("button", name="New list", exact=True).click()
    name = page.get_by_role("dialog").get_by_label("Name")
    expect(name).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Type a name")
    page.keyboard.type("Doors")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("button", name="Doors")).to_be_visible()
