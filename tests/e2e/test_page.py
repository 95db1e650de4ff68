"""The real page in Chromium, used as a person uses it."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from tests.conftest import Made
from tests.e2e.conftest import downloaded, rows_of, start_from
from tests.e2e.hands import drag, tap
from tests.e2e.sound import RATE, expect_sound, expect_state, frame, hear_both, listening, run, run_until
from tests.listen import level_db


def number(page: Page, label: str) -> float:
    return float(page.get_by_label(label, exact=True).input_value())


def test_from_tracks_to_a_file_that_is_heard(page: Page, address: str, library: list[Made], tmp_path: Path) -> None:
    page.goto(address)
    page.get_by_role("button", name="New mix").click()
    page.wait_for_url(re.compile(r"/mix/\w+/order"))
    for m in library:
        page.get_by_role("button", name=f"Add {m.song.title}").click()
        expect(rows_of(page).filter(has_text=m.song.title)).to_be_visible()
    page.get_by_role("link", name="Transitions", exact=True).click()
    expect(page.get_by_label("Mix-in at bar", exact=True)).to_have_value("1")
    hear_both(page)
    expect_sound(page)

    page.get_by_role("link", name="Render").click()
    page.get_by_text("FLAC, 16 bit", exact=True).click()
    page.get_by_role("button", name="Render FLAC, 16 bit").click()
    expect(page.get_by_role("article")).to_have_attribute("data-state", "done", timeout=120_000)
    path = downloaded(page, "Download", tmp_path)
    info = soundfile.info(path)
    assert (info.format, info.subtype, info.samplerate, info.channels) == ("FLAC", "PCM_16", RATE, 2)
    total = sum(m.truth.duration_s for m in library)
    assert 0.6 * total < info.duration < total
    sound = soundfile.read(path, dtype="float32")[0]
    windows = np.array([level_db(w) for w in np.array_split(sound, int(info.duration))])
    assert windows[:-3].min() > -50, "there is a gap in the mix"
    assert np.abs(sound).max() <= 10 ** (-1 / 20) + 1e-3
    names = downloaded(page, "Track list", tmp_path).read_text()
    assert all(m.song.title in names for m in library)


def test_the_overlap_is_dragged_and_taken_back(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    expect(page.get_by_label("Length in bars", exact=True)).to_have_value("4")
    out, length = number(page, "Mix-out at bar"), number(page, "Length in bars")

    drag(page, page.get_by_role("slider", name="Start of the overlap"), -200)
    expect(page.get_by_label("Length in bars", exact=True)).not_to_have_value(f"{length:g}")
    assert number(page, "Mix-out at bar") < out
    assert number(page, "Mix-out at bar") % 1 == 0, "the edge snaps to bars"
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Length in bars", exact=True)).to_have_value(f"{length:g}")

    drag(page, page.get_by_role("slider", name="Mix-in of the incoming track"), -150, (0.6, 0.5))
    expect(page.get_by_label("Mix-in at bar", exact=True)).not_to_have_value("1")
    assert number(page, "Mix-out at bar") == out
    moved = number(page, "Mix-in at bar")
    page.reload()
    expect(page.get_by_label("Mix-in at bar", exact=True)).to_have_value(f"{moved:g}")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Mix-in at bar", exact=True)).to_have_value("1")
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_label("Mix-in at bar", exact=True)).to_have_value(f"{moved:g}")


def test_keys_and_numbers_do_what_drags_do(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    overlap = page.get_by_role("slider", name="Overlap", exact=True)
    out = number(page, "Mix-out at bar")
    overlap.press("ArrowLeft")
    expect(page.get_by_label("Mix-out at bar", exact=True)).to_have_value(f"{out - 1:g}")
    page.get_by_text("Beat", exact=True).click()
    overlap.press("ArrowRight")
    expect(page.get_by_label("Mix-out at bar", exact=True)).to_have_value(f"{out - 0.75:g}")
    field = page.get_by_label("Length in bars", exact=True)
    field.fill("2")
    field.press("Enter")
    expect(page.get_by_role("slider", name="Overlap", exact=True)).to_contain_text("2 bars")


def test_the_overlap_does_not_leave_its_room(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    field = page.get_by_label("Length in bars", exact=True)
    field.fill("900")
    field.press("Enter")
    expect(page.get_by_text("would outlast the outgoing track")).to_be_visible()
    expect(field).to_have_value("4")
    drag(page, page.get_by_role("slider", name="End of the overlap"), 900)
    expect(field).not_to_have_value("4")
    assert number(page, "Length in bars") < 40


def test_curves_get_points_lose_them_and_are_heard(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    start_from(page, "Even blend")
    page.get_by_role("button", name="+ lane").click()
    page.get_by_role("menuitem", name="Mid").click()
    lane = page.get_by_role("group", name="mid curves")
    points = lane.get_by_role("slider")
    expect(points).to_have_count(4)
    box = lane.bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.6)
    expect(points).to_have_count(5)
    added = lane.get_by_role("slider", name=re.compile("point 2")).first
    before = int(added.get_attribute("aria-valuenow") or 0)
    added.press("ArrowDown")
    expect(added).not_to_have_attribute("aria-valuenow", str(before))
    added.press("Delete")
    expect(points).to_have_count(4)
    start_from(page, "Clean cut")
    expect(page.get_by_text("A clean cut has no curves")).to_be_visible()
    hear_both(page)
    expect_sound(page)


def test_one_side_is_heard_alone_looped_and_paused(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    expect(page.get_by_label("Length in bars", exact=True)).to_have_value("4")
    tap(page, "i")
    expect(listening(page)).to_contain_text("incoming")
    tap(page, "o")
    run_until(page, lambda: "outgoing" in listening(page).inner_text())
    expect_sound(page)
    page.get_by_role("button", name="Pause").click()
    expect_state(page, "paused")
    held = frame(page)
    run(page, 0.3)
    assert frame(page) == held
    page.get_by_role("button", name="Loop").click()
    start = frame(page)
    bar = page.get_by_role("slider", name="Playing position").bounding_box()
    assert bar
    page.mouse.click(bar["x"] + bar["width"] * 0.985, bar["y"] + 10)
    expect_state(page, "playing")
    run_until(page, lambda: frame(page) < start)
    expect_sound(page)


def test_a_second_tab_follows_the_first(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    other = page.context.new_page()
    other.goto(f"{mix}/transitions/1")
    expect(other.get_by_label("Length in bars", exact=True)).to_have_value("4")
    field = page.get_by_label("Length in bars", exact=True)
    field.fill("3")
    field.press("Enter")
    expect(other.get_by_label("Length in bars", exact=True)).to_have_value("3")
    other.get_by_role("button", name="Undo").click()
    expect(field).to_have_value("4")


def test_the_order_is_changed_by_drag_and_by_keys(page: Page, mix: str, library: list[Made]) -> None:
    page.goto(f"{mix}/order")
    rows = rows_of(page)
    titles = [m.song.title for m in library]
    grip = page.get_by_role("button", name=re.compile(f"Move {titles[0]}"))
    grip.press("ArrowDown")
    expect(rows.nth(1)).to_contain_text(titles[0])
    page.get_by_role("button", name="Undo").click()
    expect(rows.nth(0)).to_contain_text(titles[0])

    box, last = grip.bounding_box(), rows.nth(2).bounding_box()
    assert box
    assert last
    page.mouse.move(box["x"] + 8, box["y"] + 8)
    page.mouse.down()
    for step in range(1, 16):
        page.mouse.move(box["x"] + 8, box["y"] + 8 + (last["y"] + 40 - box["y"]) * step / 15)
        page.wait_for_timeout(20)
    page.mouse.up()
    expect(rows.nth(2)).to_contain_text(titles[0])
    page.reload()
    expect(rows.nth(2)).to_contain_text(titles[0])
    rows.nth(2).get_by_role("button", name=re.compile("More")).click()
    page.get_by_role("menuitem", name="Take out of the mix").click()
    expect(rows).to_have_count(2)


def test_a_broken_file_is_explained_and_the_good_one_comes_in(
    page: Page, address: str, tmp_path: Path, library: list[Made]
) -> None:
    page.goto(f"{address}/tracks")
    bad, good = tmp_path / "shopping list.mp3", tmp_path / "Sparse Title.wav"
    bad.write_text("milk, bread, ferns")
    soundfile.write(good, 0.1 * np.random.default_rng(0).standard_normal((3 * RATE, 2)), RATE)
    page.get_by_label("Audio files").set_input_files([bad, good, library[0].path])
    expect(page.get_by_role("alert")).to_contain_text("‘shopping list.mp3’ is no audio file that can be read")
    expect(page.get_by_label("Files arriving").get_by_role("status")).to_contain_text(
        "1 track brought in · 1 had been there already"
    )
    row = page.get_by_role("row").filter(has_text="Sparse Title")
    expect(row).to_contain_text("none", timeout=60_000)
    row.get_by_role("button", name="More for Sparse Title").click()
    page.get_by_role("menuitem", name="Remove").click()
    page.get_by_role("button", name="Remove", exact=True).click()
    expect(row).to_have_count(0)


def test_tracks_are_searched_sorted_and_heard(page: Page, address: str, library: list[Made]) -> None:
    page.goto(f"{address}/tracks")
    page.get_by_label("Search tracks").fill("kelp stom")
    rows = page.get_by_role("rowgroup").get_by_role("row")
    expect(rows).to_have_count(1)
    page.get_by_label("Search tracks").fill("")
    page.get_by_role("columnheader", name="BPM").get_by_role("button").click()
    expect(rows.first).to_contain_text("120")
    page.get_by_role("columnheader", name="BPM").get_by_role("button").click()
    expect(rows.first).to_contain_text("126")
    wave = page.get_by_role("button", name="Listen to Stomata")
    box = wave.bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + 10)
    expect_sound(page)
    middle = library[1].truth.duration_s / 2 * RATE
    assert frame(page) == pytest.approx(middle, abs=6 * RATE)


def test_mixes_are_renamed_copied_and_deleted(page: Page, mix: str) -> None:
    page.goto(f"{mix}/order")

    def choose(item: str) -> None:
        entry = page.get_by_role("menuitem", name=item, exact=True)
        page.get_by_role("button", name="Mix menu").click()
        entry.click()
        expect(entry).to_be_hidden()

    choose("Rename")
    field = page.get_by_label("Name of the mix")
    field.fill("Orchid room")
    field.press("Enter")
    expect(page.get_by_role("heading", name="Orchid room", exact=True)).to_be_visible()
    choose("Duplicate")
    expect(page.get_by_role("heading", name="Orchid room (copy)")).to_be_visible()
    choose("Delete…")
    page.get_by_role("button", name="Delete the mix").click()
    expect(page.get_by_role("heading", name="Mixes")).to_be_visible()
    expect(page.get_by_role("link", name=re.compile(r"Orchid room \(copy\)"))).to_have_count(0)
    page.get_by_role("link", name=re.compile("Orchid room")).click()
    expect(page.get_by_role("slider", name="Overlap", exact=True)).to_be_visible()


def test_the_api_s_own_page_works_offline(page: Page, address: str) -> None:
    page.goto(f"{address}/api/docs")
    expect(page.get_by_role("heading", name=re.compile("Fernbrook"))).to_be_visible()
    expect(page.get_by_text("/api/tracks/find")).to_be_visible()  # of many only those are drawn that are seen


def test_an_address_of_nothing_leads_back(page: Page, address: str) -> None:
    page.goto(f"{address}/mix/none/transitions/1")
    expect(page.get_by_text("That mix is not there any more")).to_be_visible()
    page.goto(f"{address}/nowhere")
    page.get_by_role("link", name="Go to the mixes").click()
    expect(page.get_by_role("heading", name="Mixes")).to_be_visible()
