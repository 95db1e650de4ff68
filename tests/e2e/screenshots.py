"""Pictures of the main views, made from the demo mix: ``python -m tests.e2e.screenshots FOLDER --data DIR``."""

from __future__ import annotations

import argparse
import re
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

from playwright.sync_api import Page, expect, sync_playwright

from standins.player.stick import Stick
from tests.e2e.conftest import CHROMIUM, rows_of, start_from, tracks_by_title
from tests.e2e.server import running

MIX = "Glasshouse Late"


def take(folder: Path, data: Path) -> None:
    """Start the application on the demo data and picture its views."""
    folder.mkdir(parents=True, exist_ok=True)
    with running(data, "--demo") as address, sync_playwright() as play:
        browser = play.chromium.launch(**CHROMIUM)
        light = browser.new_page(viewport={"width": 1280, "height": 800})
        mix = _open_mix(light, address)

        def shot(page: Page, name: str) -> None:
            page.wait_for_timeout(900)
            page.screenshot(path=folder / f"{name}.png")

        light.goto(address)
        expect(light.get_by_role("link").filter(has_text=MIX)).to_have_count(2, timeout=1_800_000)
        expect(light.get_by_text("Making the demo mix")).to_have_count(0, timeout=60_000)
        shot(light, "start")
        light.goto(f"{mix}/transitions/3")
        expect(light.get_by_role("slider", name="Overlap", exact=True)).to_contain_text("bars")
        shot(light, "transitions")
        light.keyboard.press("b")
        expect(light.get_by_role("contentinfo")).to_have_attribute("data-state", "playing", timeout=20_000)
        light.get_by_label("outgoing volume point 2").focus()
        light.wait_for_timeout(7000)
        shot(light, "transitions-playing")
        light.keyboard.press("Escape")
        light.goto(f"{mix}/transitions/4")
        start_from(light, "Filter sweep")
        light.get_by_role("button", name="Save take").click()
        expect(light.get_by_role("list", name="Takes").get_by_role("listitem")).to_have_count(2)
        start_from(light, "Echo out")
        light.get_by_label("Lead in bars", exact=True).fill("4")
        light.get_by_label("Lead in bars", exact=True).press("Enter")
        light.get_by_role("button", name="+ lane").click()
        light.get_by_role("menuitem", name="Filter").click()
        light.get_by_role("button", name=re.compile("^Gap")).click()
        light.get_by_label("Beats left out").select_option("2 beats")
        light.get_by_role("button", name=re.compile("^Suggested places")).click()
        light.get_by_role("button", name=re.compile("^Effects")).click()
        light.get_by_label("outgoing echo point 3").focus()
        shot(light, "transitions-effects")
        light.get_by_role("button", name=re.compile("^Suggested places")).click()
        for _ in range(5):
            light.get_by_role("button", name=re.compile("^Undo")).click()
            light.wait_for_timeout(300)
        _edits(light, mix, shot)
        light.goto(f"{mix}/transitions/7")
        light.get_by_label("Kind", exact=True).get_by_text("Apart", exact=True).click()
        light.get_by_label("Pause in seconds", exact=True).fill("6")
        light.get_by_label("Pause in seconds", exact=True).press("Enter")
        light.get_by_role("button", name=re.compile("warnings?( left)?$")).click()
        shot(light, "warnings")
        light.keyboard.press("Escape")
        light.wait_for_timeout(600)
        for _ in range(2):
            light.get_by_role("button", name=re.compile("^Undo")).click()
            light.wait_for_timeout(300)
        light.goto(f"{mix}/order")
        expect(rows_of(light).first).to_be_visible()
        shot(light, "running-order")
        rows_of(light).nth(4).locator(".names").click()
        light.keyboard.press("Delete")
        expect(rows_of(light)).to_have_count(9)
        rows_of(light).nth(3).get_by_role("button", name="Bridge").click()
        expect(light.get_by_role("list", name="Tracks between them")).to_be_visible()
        shot(light, "running-order-bridge")
        light.get_by_role("button", name="Undo").click()
        expect(rows_of(light)).to_have_count(10)
        light.get_by_role("button", name="Find an order").click()
        light.get_by_role("button", name=re.compile("Find (orders|again)")).click()
        light.wait_for_timeout(1000)  # what was found at another time goes first
        expect(light.get_by_role("article", name="As it is")).to_be_visible(timeout=60_000)
        expect(light.get_by_role("button", name="Find again")).to_be_visible(timeout=60_000)
        shot(light, "orders")
        light.goto(f"{address}/tracks")
        shot(light, "tracks")
        light.get_by_label("Search tracks").fill("bpm:112-126 -tag:peak")
        expect(light.get_by_text(re.compile("^6 of 11"))).to_be_visible()
        light.locator("h1").click()
        light.keyboard.press("ArrowDown")
        light.keyboard.press("w")
        expect(light.get_by_role("complementary", name="What fits").get_by_role("listitem").first).to_be_visible()
        shot(light, "tracks-fits")
        light.keyboard.press("w")
        light.get_by_label("Search tracks").fill("")
        tracks = tracks_by_title(light, address)
        light.goto(f"{address}/grid/{tracks['Ripe Figs']}")
        expect(light.get_by_role("region", name="Weave")).to_be_visible()
        light.get_by_label("Quarter", exact=True).click()
        light.mouse.move(640, 20)
        shot(light, "grid")
        light.goto(f"{address}/grid/{tracks['Heliconia']}")
        tempo = light.get_by_label("Tempo in BPM", exact=True)
        tempo.fill("119.97")
        tempo.press("Enter")
        expect(light.get_by_text("which can be heard")).to_be_visible()
        light.get_by_role("button", name="Undo").click()
        light.get_by_label("First", exact=True).click()
        light.keyboard.press("g")
        light.get_by_role("complementary", name="Cues & loops").locator("li .item").nth(1).click()
        light.mouse.move(640, 20)
        shot(light, "cues")
        light.keyboard.press("g")
        light.goto(f"{mix}/render")
        light.wait_for_timeout(2000)
        if not light.locator("article[data-state=done]").count():
            light.get_by_text("FLAC, 24 bit", exact=True).click()
            light.get_by_role("button", name="Render FLAC, 24 bit").click()
            expect(light.locator("article[data-state=done]")).to_have_count(1, timeout=300_000)
        shot(light, "render")
        light.set_content(light.request.get(f"{address}/api/mixes/{mix.rsplit('/', 1)[-1]}/cue-card").text())
        shot(light, "cue-card")
        _stick(light, address, mix, shot)

        dark = browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme="dark")
        dark.goto(f"{mix}/transitions/7")
        shot(dark, "transitions-dark")
        browser.close()


def _edits(page: Page, mix: str, shot: Callable[[Page, str], None]) -> None:
    """An entry with edits, and lanes for its stems; all of it is undone again."""
    page.goto(f"{mix}/edits/4")
    wave = page.get_by_role("group", name="The original track")
    box = wave.bounding_box()
    assert box
    for place, key in ((0.45, "v"), (0.62, "x"), (0.95, "r"), (0.3, "")):
        wave.click(position={"x": box["width"] * place, "y": 60})
        if key:
            page.keyboard.press(key)
            page.wait_for_timeout(700)
    shot(page, "edits")
    for _ in range(3):
        page.get_by_role("button", name=re.compile("^Undo")).click()
        page.wait_for_timeout(400)
    page.goto(f"{mix}/transitions/4")
    page.get_by_role("button", name=re.compile("^Suggested places")).click()
    page.get_by_role("button", name=re.compile("^Stems")).click()
    shot(page, "transitions-stems")
    page.get_by_role("button", name=re.compile("^Suggested places")).click()
    page.goto(f"{mix}/layers/voice")
    page.wait_for_timeout(1500)
    shot(page, "layers")


def _stick(page: Page, address: str, mix: str, shot: Callable[[Page, str], None]) -> None:
    """A stick that was filled, then changed and played by a player."""
    with TemporaryDirectory(prefix="GLASSHOUSE-") as root:
        page.goto(f"{address}/stick")
        field = page.get_by_label("The whole path of the stick")
        field.fill(root)
        field.press("Enter")
        page.locator(f"input[value='{mix.rsplit('/', 1)[-1]}']").check()
        page.get_by_role("button", name="Fill stick").click()
        expect(page.get_by_text("all checked")).to_be_visible(timeout=120_000)
        stick = Stick(Path(root))
        for track in stick.tracks():
            if track.title == "Heliconia":
                stick.put_cue(track.file, None, 61.2, "hands up")
                stick.put_cue(track.file, track.document["markup"]["cues"][0]["id"], 4.05, None)
                stick.note_played(track.file, 201.0)
            if track.title == "Wet Glass":
                stick.put_cue(track.file, None, 33.0, "claps from here")
                stick.note_played(track.file, 144.0)
        page.get_by_role("button", name="Check again").click()
        expect(page.get_by_text("hands up")).to_be_visible()
        shot(page, "stick")


def _open_mix(page: Page, address: str) -> str:
    page.goto(address)
    page.get_by_role("link").filter(has_text=MIX).filter(has_not_text="untouched").click()
    page.wait_for_url("**/transitions*")
    return page.url.split("/transitions")[0]


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--data", type=Path, required=True)
    arguments = parser.parse_args()
    take(arguments.folder, arguments.data)
