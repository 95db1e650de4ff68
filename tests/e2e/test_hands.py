"""Every press counts: pressed fast, held, typed and gone on with, on a server that answers late."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.test_bench import transition
from tests.e2e.test_order import state
from tests.e2e.until import until

LATE_MS = 250
APART_MS = 30


@pytest.fixture
def late(page: Page) -> Page:
    """A page whose server answers late."""
    browser = page.context.new_cdp_session(page)
    browser.send("Network.enable")
    unlimited = {"downloadThroughput": -1, "uploadThroughput": -1}
    browser.send("Network.emulateNetworkConditions", {"offline": False, "latency": LATE_MS, **unlimited})
    return page


def test_four_presses_move_an_edge_by_four_bars_and_one_step_takes_them_back(late: Page, mix: str) -> None:
    late.goto(f"{mix}/transitions/1")
    length = late.get_by_label("Length in bars", exact=True)
    expect(length).to_have_value("4")
    end = late.get_by_role("slider", name="End of the overlap")
    end.focus()
    for _ in range(4):
        late.keyboard.press("ArrowRight")
        late.wait_for_timeout(APART_MS)
    expect(length).to_have_value("8")
    late.keyboard.press("Control+z")
    expect(length).to_have_value("4")
    assert transition(mix)["beats"] == 16.0


def test_presses_that_are_sent_one_by_one_are_still_one_step(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    length = page.get_by_label("Length in bars", exact=True)
    expect(length).to_have_value("4")
    before = state(mix)["version"]
    for bars in range(5, 8):
        page.keyboard.press("]")
        until(page, lambda bars=bars: transition(mix)["beats"] == 4.0 * bars)
    length.press("ArrowUp")
    until(page, lambda: transition(mix)["beats"] == 32.0)
    length.press("ArrowUp")
    until(page, lambda: transition(mix)["beats"] == 36.0)
    assert state(mix)["version"] >= before + 5
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    expect(length).to_have_value("7")
    page.keyboard.press("Control+z")
    expect(length).to_have_value("4")


def test_a_transition_is_moved_shaped_and_kept_by_keys_alone(late: Page, mix: str) -> None:
    late.goto(f"{mix}/transitions/1")
    length = late.get_by_label("Length in bars", exact=True)
    expect(length).to_have_value("4")
    before = transition(mix)
    for key in ("ArrowLeft", "ArrowLeft", "Shift+ArrowRight", "]", "]"):
        late.keyboard.press(key)
        late.wait_for_timeout(APART_MS)
    expect(length).to_have_value("6")
    until(late, lambda: transition(mix)["beats"] == before["beats"] + 8.0)
    assert transition(mix)["in_at"] == before["in_at"] + 7.0
    late.keyboard.press("Control+z")
    until(late, lambda: transition(mix)["in_at"] == before["in_at"])
    version = state(mix)["version"]
    late.keyboard.press("s")
    late.keyboard.press("s")
    until(late, lambda: state(mix)["version"] == version + 2)
    assert state(mix)["undo"].startswith("use the bass hand-over")
    late.keyboard.press("t")
    until(late, lambda: len(state(mix)["plan"]["transitions"][0]["takes"]) == 1)


def test_what_was_in_view_is_in_view_again(page: Page, mix: str) -> None:
    def shown() -> float:
        box = page.get_by_role("slider", name="Overlap", exact=True).locator("rect").bounding_box()
        assert box
        return box["width"]

    page.goto(f"{mix}/transitions/1")
    whole = shown()
    page.keyboard.press("+")
    page.keyboard.press("+")
    until(page, lambda: shown() > 2 * whole)
    larger = shown()
    page.keyboard.press("Shift+Digit3")
    page.wait_for_url("**/order")
    page.keyboard.press("Shift+Digit5")
    until(page, lambda: abs(shown() - larger) < 2)
    page.reload()
    until(page, lambda: abs(shown() - larger) < 2)
    page.keyboard.press("n")
    page.wait_for_url("**/transitions/2")
    page.keyboard.press("p")
    page.wait_for_url("**/transitions/1")
    until(page, lambda: abs(shown() - whole) < 2)


def test_each_view_has_its_number_whatever_shift_makes_of_it(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    expect(page.get_by_label("Length in bars", exact=True)).to_be_visible()
    for number, name in ((1, "tracks"), (3, "order"), (7, "render"), (5, "transitions")):
        page.keyboard.press(f"Shift+Digit{number}")
        page.wait_for_url(f"**/{name}**")
    page.keyboard.press("Shift+Digit9")
    expect(page.get_by_role("heading", name="Mixes")).to_be_visible()
    page.goto(f"{mix}/transitions/1")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.get_by_role("main")).to_be_focused()


def test_what_is_pressed_while_a_change_is_on_its_way_counts(late: Page, mix: str) -> None:
    late.goto(f"{mix}/transitions/1")
    expect(late.get_by_label("Fine, in ms", exact=True)).to_have_value("0")
    for _ in range(12):
        late.keyboard.press(".")
        late.wait_for_timeout(LATE_MS * 0.6)
    until(late, lambda: transition(mix)["nudge_ms"] == 12.0)
    late.keyboard.press(".")
    late.get_by_role("button", name="Transition 2:").click()
    until(late, lambda: transition(mix)["nudge_ms"] == 13.0)
    assert transition(mix, 1)["nudge_ms"] == 0.0


def test_a_point_of_a_curve_is_moved_by_each_press(late: Page, mix: str) -> None:
    late.goto(f"{mix}/transitions/1")
    point = late.get_by_role("slider", name="outgoing volume point 1")
    version = state(mix)["version"]
    point.focus()
    late.keyboard.press("ArrowRight")
    for _ in range(3):
        late.keyboard.press("ArrowDown")
        late.wait_for_timeout(APART_MS)
    until(late, lambda: state(mix)["version"] == version + 1)


def test_a_number_that_was_typed_gives_the_keys_back(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    length = page.get_by_label("Length in bars", exact=True)
    length.click()
    length.press("Control+a")
    page.keyboard.type("6b")
    expect(length).to_have_value("6")
    page.keyboard.press("Enter")
    expect(length).not_to_be_focused()
    until(page, lambda: transition(mix)["beats"] == 24.0)
    page.keyboard.press("Control+z")
    expect(length).to_have_value("4")
    length.click()
    length.press("Control+a")
    page.keyboard.type("9")
    page.keyboard.press("Escape")
    expect(length).to_have_value("4")
    expect(length).not_to_be_focused()
    assert transition(mix)["beats"] == 16.0


def test_one_comes_back_to_the_transition_that_one_left(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/2")
    expect(page.get_by_label("Length in bars", exact=True)).to_be_visible()
    page.get_by_text("Beat", exact=True).click()
    rail = page.get_by_role("navigation", name="Work")
    rail.get_by_role("link", name="Edits").click()
    expect(page).to_have_url(f"{mix}/edits/2")
    rail.get_by_role("link", name="Running order").click()
    rail.get_by_role("link", name="Transitions").click()
    expect(page).to_have_url(f"{mix}/transitions/2")
    page.reload()
    expect(page.get_by_role("radio", name="Beat", exact=True)).to_be_checked()


def test_views_of_a_mix_wait_for_one(page: Page, address: str) -> None:
    page.goto(address)
    rail = page.get_by_role("navigation", name="Work")
    expect(rail.get_by_role("link", name="Render")).to_be_disabled()
    expect(rail.get_by_role("link", name="Tracks")).to_be_enabled()


def test_what_was_pressed_outlives_the_page(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    expect(page.get_by_label("Fine, in ms", exact=True)).to_have_value("0")
    page.keyboard.press(".")
    page.reload()
    until(page, lambda: transition(mix)["nudge_ms"] == 1.0)


def test_a_key_is_changed_where_keys_are_listed_and_two_that_meet_are_swapped(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    number = page.locator(".number").first
    expect(number).to_contain_text("1 of")
    page.keyboard.press("?")
    page.get_by_role("button", name="Key for ‘Next transition’").click()
    page.keyboard.press("q")
    expect(page.get_by_role("button", name="Key for ‘Next transition’: Q")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.reload()
    expect(number).to_contain_text("1 of")
    page.keyboard.press("n")
    page.keyboard.press("q")
    expect(number).to_contain_text("2 of")
    page.get_by_role("button", name="Next transition").hover(force=True)
    expect(page.get_by_text("Next transition (Q)")).to_be_visible()

    page.keyboard.press("?")
    page.get_by_role("button", name="Key for ‘Previous transition’").click()
    page.keyboard.press("q")
    expect(page.get_by_text("Q is ‘Next transition’ in this view.")).to_be_visible()
    page.get_by_role("button", name="Swap the two").click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.keyboard.press("q")
    expect(number).to_contain_text("1 of")
    page.keyboard.press("?")
    page.get_by_role("button", name="Set all keys back").click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.keyboard.press("n")
    expect(number).to_contain_text("2 of")
