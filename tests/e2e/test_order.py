"""The running order as a person works with it: kept together, fixed, found, compared, heard, used, bridged."""

from __future__ import annotations

import json
import re
import urllib.request

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.conftest import Made
from tests.e2e.conftest import rows_of
from tests.e2e.sound import expect_sound
from tests.e2e.until import until

pytestmark = pytest.mark.slow


def titles(page: Page) -> list[str]:
    return [str(t) for t in page.locator("li.entry .names strong").all_inner_texts()]


def state(mix: str) -> dict:
    """The mix as the server has it; asked for on a connection of its own, which no server closes as idle meanwhile."""
    address, mix_id = mix.rsplit("/mix/", 1)
    with urllib.request.urlopen(f"{address}/api/mixes/{mix_id}", timeout=20) as answer:
        return dict(json.load(answer))


def choose(row: Locator, *, add: bool = False) -> None:
    row.locator(".names").click(modifiers=["Control"] if add else [])


@pytest.fixture
def order(page: Page, mix: str) -> str:
    """A mix of five entries: the three tracks, and two of them once more."""
    page.goto(f"{mix}/order")
    choose(rows_of(page).nth(0))
    choose(rows_of(page).nth(1), add=True)
    page.keyboard.press("d")
    expect(rows_of(page)).to_have_count(5)
    return mix


@pytest.mark.usefixtures("order")
def test_what_is_kept_together_moves_as_one_and_what_is_fixed_stays(page: Page) -> None:
    rows = rows_of(page)
    before = titles(page)
    choose(rows.nth(2))
    choose(rows.nth(4), add=True)
    page.get_by_role("button", name="Keep together").click()
    expect(page.locator(".line.kept-on")).to_have_count(1)
    assert titles(page) == [before[0], before[1], before[2], before[4], before[3]]
    number = page.get_by_role("spinbutton", name=re.compile("Place of")).nth(4)
    number.fill("1")
    number.press("Enter")
    expect(rows.first).to_contain_text(before[3])
    rows.nth(3).get_by_role("button", name=re.compile("^Move ")).press("ArrowUp")
    expect(page.locator("li.entry").nth(2).locator(".line.kept-on")).to_have_count(1)
    rows.first.get_by_role("button", name=re.compile("More for")).click()
    page.get_by_role("menuitem", name="Fix as the last").click()
    expect(rows.nth(4)).to_contain_text(before[3])
    rows.nth(4).get_by_role("button", name=re.compile("^Move ")).press("ArrowUp")
    expect(page.get_by_role("alert").or_(page.locator(".ant-message"))).to_contain_text("is fixed as the last")
    rows.nth(4).get_by_role("button", name=re.compile("let .* go")).click()
    expect(page.get_by_role("button", name=re.compile("Fixed as the last"))).to_have_count(0)
    for _ in range(5):
        with page.expect_response(lambda answer: answer.url.endswith("/undo")):
            page.get_by_role("button", name="Undo").click()
    expect(page.locator(".line.kept-on")).to_have_count(0)
    until(page, lambda: titles(page) == before)


def test_many_are_dragged_at_once(page: Page, order: str) -> None:
    rows = rows_of(page)
    before = [e["id"] for e in state(order)["plan"]["entries"]]
    choose(rows.nth(0))
    choose(rows.nth(1), add=True)
    grip, last = rows.nth(0).locator(".grip").bounding_box(), rows.nth(4).bounding_box()
    assert grip
    assert last
    page.mouse.move(grip["x"] + 8, grip["y"] + 8)
    page.mouse.down()
    for step in range(1, 13):
        page.mouse.move(grip["x"] + 8, grip["y"] + 8 + (last["y"] - grip["y"]) * step / 12)
    page.mouse.up()
    until(page, lambda: [e["id"] for e in state(order)["plan"]["entries"]] == before[2:] + before[:2])


def test_an_order_is_found_compared_heard_used_and_undone(page: Page, order: str) -> None:
    rows = rows_of(page)
    before = [e["id"] for e in state(order)["plan"]["entries"]]
    choose(rows.nth(4))
    page.keyboard.press("f")
    expect(page.get_by_role("button", name=re.compile("Fixed at place 5"))).to_be_visible()
    page.get_by_role("button", name="Find an order").click()
    expect(page).to_have_url(re.compile("find"))
    expect(page.get_by_text("1 fixed: they stay so.")).to_be_visible()
    page.get_by_role("combobox", name="Shape of the energy").select_option("any")
    page.get_by_role("button", name="Find orders").click()
    proposals = page.get_by_role("article")
    expect(proposals.nth(1)).to_be_visible(timeout=60_000)
    expect(proposals.first).to_contain_text("As it is")
    expect(proposals.nth(1)).to_contain_text("proven: none is better")
    assert proposals.locator(".better").count() > 0
    page.reload()
    expect(proposals.nth(1)).to_be_visible()
    expect(page.get_by_role("combobox", name="Shape of the energy")).to_have_value("any")

    proposals.nth(1).get_by_role("button", name=re.compile("Listen to .* into")).first.click()
    expect_sound(page)
    assert [e["id"] for e in state(order)["plan"]["entries"]] == before

    proposals.nth(1).get_by_role("button", name="Use this order").click()
    expect(rows).to_have_count(5)
    used = [e["id"] for e in state(order)["plan"]["entries"]]
    assert used != before
    assert used[4] == before[4]
    expect(page.get_by_text(re.compile("transitions are new"))).to_be_visible()
    page.get_by_role("button", name="Undo: use another order").or_(page.get_by_role("button", name="Undo")).click()
    until(page, lambda: [e["id"] for e in state(order)["plan"]["entries"]] == before)


def test_a_gap_is_cured_or_bridged_and_what_was_shaped_stays(page: Page, mix: str, library: list[Made]) -> None:
    page.goto(f"{mix}/order")
    rows = rows_of(page)
    choose(rows.nth(2))
    page.keyboard.press("Delete")
    expect(rows).to_have_count(2)
    shift = page.get_by_role("spinbutton", name=f"Key shift of {library[1].song.title}")
    shift.fill("1")  # so that it fits the track that is to lie between
    shift.press("Enter")
    page.goto(f"{mix}/transitions/1")
    page.get_by_label("Length in bars", exact=True).fill("3")
    page.get_by_label("Length in bars", exact=True).press("Enter")
    until(page, lambda: state(mix)["plan"]["transitions"][0]["transition"]["beats"] == 12.0)
    page.goto(f"{mix}/order")
    page.get_by_role("button", name=f"Add {library[0].song.title}").click()
    expect(rows).to_have_count(3)
    page.get_by_role("button", name="They are fine").click()
    shaped = state(mix)["plan"]["transitions"][0]["transition"]

    rows.nth(1).get_by_role("button", name=re.compile("^Bridge from")).click()
    between = page.get_by_role("list", name="Tracks between them")
    title = library[2].song.title
    expect(between).to_contain_text(title)
    between.get_by_role("button", name=re.compile(f"Listen to {title} into")).click()
    expect_sound(page)
    expect(page.get_by_role("contentinfo")).to_contain_text(title)
    expect(rows).to_have_count(3)
    expect(between.get_by_role("button", name=f"Insert {title}")).to_be_visible()
    page.keyboard.press("1")
    expect(rows).to_have_count(4)
    expect(rows.nth(2)).to_contain_text(title)
    expect(page.get_by_text("2 transitions are new")).to_be_visible()
    assert state(mix)["plan"]["transitions"][0]["transition"] == shaped

    page.keyboard.press("n")
    expect(page).to_have_url(re.compile("transitions/2"))
    page.get_by_role("button", name="1 new").click()
    expect(page).to_have_url(re.compile("transitions/3"))
    expect(page.get_by_role("button", name=re.compile("^[0-9] new"))).to_have_count(0)
    page.goto(f"{mix}/order")
    expect(rows).to_have_count(4)
    expect(page.get_by_text(re.compile("transitions? (is|are) new"))).to_have_count(0)


def test_keys_are_shifted_sorted_and_read_in_the_profiles(page: Page, mix: str, library: list[Made]) -> None:
    page.goto(f"{mix}/order")
    rows = rows_of(page)
    title = library[0].song.title
    shift = page.get_by_role("spinbutton", name=f"Key shift of {title}")
    own = rows.first.locator(".key .name").inner_text()
    shift.fill("2")
    shift.press("Enter")
    expect(rows.first.locator(".key .name")).not_to_have_text(own)
    assert state(mix)["plan"]["entries"][0]["key_shift"] == 2
    expect(page.get_by_role("switch", name=f"Key lock of {title}")).to_be_disabled()
    page.get_by_role("button", name=re.compile("Sort")).click()
    page.get_by_role("menuitem", name="Tempo, falling").click()
    own_tempi = sorted((e["home_bpm"] for e in state(mix)["plan"]["entries"]), reverse=True)
    until(page, lambda: [e["home_bpm"] for e in state(mix)["plan"]["entries"]] == own_tempi)
    picture = page.get_by_role("img", name="Tempo, key and energy from track to track").bounding_box()
    assert picture
    page.mouse.move(picture["x"] + 30, picture["y"] + 120)
    expect(page.locator(".read")).to_contain_text(f"2. {titles(page)[1]}")
    expect(page.locator(".read")).to_contain_text(re.compile(r"[\d.]+ BPM · .+ · energy \d+ %"))
    page.get_by_role("button", name=re.compile("^Listen to .* into")).first.click()
    expect_sound(page)


def test_another_track_takes_an_entry_s_place(page: Page, mix: str, library: list[Made]) -> None:
    page.goto(f"{mix}/order")
    rows = rows_of(page)
    first, _, third = (m.song.title for m in library)
    kept = state(mix)["plan"]["entries"][0]["id"]
    rows.first.get_by_role("button", name=re.compile("More for")).click()
    page.get_by_role("menuitem", name=re.compile("Replace by")).click()
    expect(page.get_by_text(f"What takes the place of {first}?")).to_be_visible()
    page.get_by_role("button", name=f"Use {third}").click()
    expect(rows.first).to_contain_text(third)
    expect(page.get_by_text("What takes the place of")).to_have_count(0)
    assert state(mix)["plan"]["entries"][0]["id"] == kept


def test_a_track_is_dragged_from_the_library_between_two(page: Page, mix: str, library: list[Made]) -> None:
    page.goto(f"{mix}/order")
    title = library[0].song.title
    track = page.get_by_role("complementary", name="Library").get_by_role("listitem").filter(has_text=title)
    track.drag_to(rows_of(page).nth(2), target_position={"x": 300, "y": 20})
    expect(rows_of(page)).to_have_count(4)
    expect(rows_of(page).nth(2)).to_contain_text(title)
    assert np.count_nonzero(np.array(titles(page)) == title) == 2


def test_an_entry_keeps_its_own_tempo_is_made_steady_or_goes_at_that_of_the_mix(
    page: Page, mix: str, library: list[Made]
) -> None:
    first, second = (e["home_bpm"] for e in state(mix)["plan"]["entries"][:2])
    page.goto(f"{mix}/order")
    title = library[1].song.title
    page.get_by_role("button", name=f"More for {title}").click()
    page.get_by_role("menuitem", name="Go at the tempo of the mix").click()
    until(page, lambda: state(mix)["plan"]["entries"][1]["goes_by"] == "mix")
    assert state(mix)["plan"]["entries"][1]["home_bpm"] == pytest.approx(first)
    assert state(mix)["undo"] == f"let ‘{title}’ go at the tempo of the mix"
    page.reload()
    page.get_by_role("button", name=f"More for {title}").click()
    page.get_by_role("menuitem", name="Make it steady").click()
    until(page, lambda: state(mix)["plan"]["entries"][1]["home_bpm"] == pytest.approx(second))
