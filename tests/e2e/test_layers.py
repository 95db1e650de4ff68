"""Layers over a mix, as a person lays, hears and takes them away."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from tests.conftest import Made
from tests.e2e.conftest import ask
from tests.e2e.test_order import state
from tests.e2e.until import until


def opened(page: Page, mix: str) -> None:
    page.goto(f"{mix}/layers")
    expect(page.get_by_text("No layers yet")).to_be_visible()


def bar(page: Page, name: str) -> Locator:
    return page.get_by_role("slider", name=f"Layer: {name}")


def first(mix: str) -> dict:
    return dict(state(mix)["plan"]["layers"][0])


def test_a_sound_is_laid_moved_lengthened_heard_and_undone(page: Page, mix: str) -> None:
    opened(page, mix)
    page.get_by_role("button", name="Drum roll").click()
    expect(page).to_have_url(re.compile(r"/layers/\w+"))
    roll = bar(page, "a drum roll")
    expect(roll).to_be_visible()
    was = first(mix)
    box = roll.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 9)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2 + 90, box["y"] + 9, steps=5)
    page.mouse.up()
    until(page, lambda: first(mix)["start_beat"] > was["start_beat"])
    moved = first(mix)
    assert (moved["layer"]["at"]["beat"] - was["layer"]["at"]["beat"]) % 4 == 0
    roll.focus()
    roll.press("ArrowLeft")
    until(page, lambda: first(mix)["layer"]["at"]["beat"] == moved["layer"]["at"]["beat"] - 4)
    roll.press("Control+ArrowLeft")
    until(page, lambda: first(mix)["layer"]["sound"]["beats"] == 4)
    page.get_by_label("Gain", exact=True).fill("-6")
    page.get_by_label("Gain", exact=True).press("Enter")
    until(page, lambda: first(mix)["layer"]["gain_db"] == -6)
    page.get_by_role("button", name="Alone").click()
    expect(page.get_by_role("contentinfo")).to_contain_text("a drum roll")
    page.keyboard.press("Control+z")
    until(page, lambda: first(mix)["layer"]["gain_db"] == 0)
    page.reload()
    expect(bar(page, "a drum roll")).to_be_visible()
    bar(page, "a drum roll").press("Delete")
    expect(page.get_by_text("No layers yet")).to_be_visible()


def test_a_part_of_another_track_is_laid_and_tied_to_a_transition(page: Page, mix: str, library: list[Made]) -> None:
    opened(page, mix)
    page.get_by_role("combobox", name="Track").fill(library[1].song.title)
    page.get_by_role("option", name=re.compile(library[1].song.title)).click()
    part = page.get_by_label("Which part")
    expect(part).to_be_visible()
    part.select_option(index=0)
    page.get_by_role("button", name="Lay it here").click()
    fields = page.get_by_role("region", name=re.compile("^Layer:"))
    expect(fields).to_be_visible()
    before = first(mix)
    fields.get_by_label("Tied to").select_option(index=4)
    until(page, lambda: first(mix)["layer"]["at"]["to"] == "transition")
    assert abs(first(mix)["start_s"] - before["start_s"]) < 0.01
    fields.get_by_label("Times", exact=True).fill("3")
    fields.get_by_label("Times", exact=True).press("Enter")
    until(page, lambda: len(first(mix)["heard"]) == 3)
    fields.get_by_label("Name of the layer").fill("congas on top")
    fields.get_by_label("Name of the layer").press("Enter")
    expect(bar(page, "‘congas on top’")).to_be_visible()
    page.get_by_role("switch", name="Layer is on").click()
    until(page, lambda: first(mix)["layer"]["on"] is False)
    page.get_by_role("link", name=re.compile("^Layer: ‘congas on top’")).hover()


def test_a_curve_of_a_layer_is_drawn_and_the_bench_shows_it(page: Page, mix: str) -> None:
    opened(page, mix)
    page.get_by_role("button", name="Noise sweep").click()
    page.get_by_role("button", name="+ lane").click()
    page.get_by_role("menuitem", name="Filter").click()
    point = page.get_by_role("slider", name="layer volume point 2")
    point.focus()
    point.press("ArrowDown")
    until(page, lambda: "volume" in first(mix)["layer"]["curves"])
    box = page.get_by_role("group", name="Filter curves").bounding_box()
    assert box is not None
    under = bar(page, "a noise sweep").bounding_box()
    assert under is not None
    page.mouse.click(under["x"] + under["width"] / 2, box["y"] + 12)
    until(page, lambda: len(first(mix)["layer"]["curves"].get("filter", [])) == 3)
    entry = state(mix)["plan"]["entries"][0]
    page.goto(f"{mix}/transitions/1")
    expect(page.get_by_role("link", name="Layers", exact=True).first).to_be_visible()
    assert entry["id"] == first(mix)["layer"]["at"]["entry_id"]


def test_what_would_help_is_heard_and_taken(page: Page, mix: str) -> None:
    """A long break, marked by hand, gets drums of the neighbour or a sweep into what follows."""
    address = mix.split("/mix/", maxsplit=1)[0]
    entry = state(mix)["plan"]["entries"][0]
    markup = f"{address}/api/tracks/{entry['track_id']}/markup"
    kinds = (("full", 0, 24), ("break", 24, 72), ("full", 72, 100))
    sections = [{"kind": k, "start": a, "end": b, "name": ""} for k, a, b in kinds]
    version = page.request.get(markup).json()["version"]
    marked = ask(
        page, f"{markup}/commands", {"version": version, "command": {"kind": "put_sections", "sections": sections}}
    )
    opened(page, mix)
    proposals = page.get_by_role("list", name="Proposed layers").get_by_role("listitem")
    expect(proposals.filter(has_text=entry["title"])).not_to_have_count(0)
    page.get_by_role("button", name="Hear proposal 1").click()
    expect(page.get_by_role("contentinfo")).not_to_contain_text("Nothing to hear")
    assert state(mix)["plan"]["layers"] == []
    before = proposals.count()
    page.get_by_role("button", name="Use proposal 1").click()
    until(page, lambda: len(state(mix)["plan"]["layers"]) == 1)
    expect(proposals).to_have_count(before - 1)
    ask(page, f"{markup}/undo", {"version": marked["version"]})
