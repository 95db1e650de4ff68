"""Whoever uses the page with a keyboard, a screen reader, a small screen or large type."""

from __future__ import annotations

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Locator, Page, expect

from tests.conftest import Made
from tests.e2e.conftest import tracks_by_title
from tests.e2e.sound import expect_sound, expect_state, hear_both

GRAVE = {"serious", "critical"}
VIEWS = ["start", "tracks", "grid", "order", "transitions", "render", "stick"]


@pytest.fixture
def patient() -> None:
    expect.set_options(timeout=20_000)


def _go(page: Page, address: str, mix: str, view: str, library: list[Made]) -> None:
    track = tracks_by_title(page, address)[library[0].song.title]
    paths = {"start": "/", "tracks": "/tracks", "grid": f"/grid/{track}", "stick": "/stick"}
    page.goto(f"{address}{paths[view]}" if view in paths else f"{mix}/{view}")
    ready: dict[str, Locator] = {
        "start": page.get_by_role("heading", name="Begin with your own files"),
        "tracks": page.get_by_role("button", name=re.compile("Listen to")).first,
        "grid": page.get_by_role("region", name="Weave"),
        "order": page.get_by_role("region", name="Running order").get_by_role("listitem").first,
        "transitions": page.get_by_role("slider", name="Overlap", exact=True),
        "render": page.get_by_role("button", name=re.compile("Render WAV")),
        "stick": page.get_by_label("The whole path of the stick"),
    }
    expect(ready[view]).to_be_visible()


@pytest.mark.parametrize("view", VIEWS)
def test_no_view_has_grave_faults_of_access(page: Page, address: str, mix: str, library: list[Made], view: str) -> None:
    _go(page, address, mix, view, library)
    for scheme in ("light", "dark"):
        page.emulate_media(color_scheme=scheme)  # type: ignore[arg-type]
        found = _grave_faults(page)
        # Colours that are still changing are no colours: a busy machine takes its time over that, a fault stays.
        for _ in range(10):
            if not found:
                break
            page.wait_for_timeout(1000)
            found = _grave_faults(page)
        assert found == [], scheme


def _grave_faults(page: Page) -> list[str]:
    return [
        f"{v['id']}: {v['help']} ({node['target']})"
        for v in Axe().run(page).response["violations"]
        if v["impact"] in GRAVE
        for node in v["nodes"]
    ]


@pytest.mark.parametrize("view", VIEWS)
def test_each_view_is_usable_on_a_small_screen_and_at_twice_the_size(
    page: Page, address: str, mix: str, library: list[Made], view: str
) -> None:
    """640 x 400 is what a screen of 1280 x 800 leaves at 200 % zoom. No button lies under or beyond another part."""
    for width, height in ((1024, 700), (640, 400)):
        page.set_viewport_size({"width": width, "height": height})
        _go(page, address, mix, view, library)
        _nothing_is_covered(page)


def _nothing_is_covered(page: Page) -> None:
    covered = page.evaluate(
        """() => [...document.querySelectorAll('main button, main a, main input')].filter((element) => {
          element.scrollIntoView({ block: 'center', inline: 'center' })
          const box = element.getBoundingClientRect()
          if (!box.width || element.closest('.visually-hidden') || element.matches('.visually-hidden')) return false
          const at = document.elementFromPoint(box.left + box.width / 2, box.top + box.height / 2)
          return !at || !(element.contains(at) || at.contains(element) || at.closest('label')?.contains(element))
        }).map((element) => element.ariaLabel || element.textContent.trim() || element.outerHTML.slice(0, 80))"""
    )
    assert covered == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")


def test_space_plays_and_pauses_wherever_the_focus_is_but_in_text(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    hear_both(page)
    expect_sound(page)
    page.keyboard.press("Space")
    expect_state(page, "paused")
    page.get_by_role("switch", name="Click on the beats").click()
    expect(page.get_by_role("switch", name="Click on the beats")).to_be_checked()
    page.keyboard.press("Space")
    expect_sound(page)
    expect(page.get_by_role("switch", name="Click on the beats")).to_be_checked()
    page.goto(f"{mix}/order")
    page.get_by_label("Search the library").press_sequentially("a b")
    expect(page.get_by_label("Search the library")).to_have_value("a b")


def test_all_keys_of_a_view_are_told(page: Page, address: str, mix: str, library: list[Made]) -> None:
    page.goto(f"{mix}/transitions/1")
    expect(page.get_by_role("slider", name="Overlap", exact=True)).to_be_visible()
    page.keyboard.press("?")
    keys = page.get_by_role("dialog", name="Keys")
    expect(keys).to_contain_text("Hear both")
    expect(keys).to_contain_text("Undo")
    page.keyboard.press("n")  # what is behind the dialog does not hear it
    expect(page).to_have_url(re.compile("transitions/1"))
    page.keyboard.press("Escape")
    expect(keys).to_be_hidden()
    _go(page, address, mix, "grid", library)
    page.get_by_role("button", name="Keys").click()
    expect(keys).to_contain_text("Snap to the onset")
    expect(keys).not_to_contain_text("Hear both")


def test_the_small_buttons_of_a_number_say_what_they_change(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    field = page.get_by_label("Mix-in at bar", exact=True)
    before = float(field.input_value())
    field.hover()
    page.get_by_role("button", name="Mix-in at bar: more").click()
    expect(field).to_have_value(str(int(before + 1)))
    page.get_by_role("button", name="Mix-in at bar: less").click()
    expect(field).to_have_value(str(int(before)))
