"""Tried apart from a mix, or done to several: two tracks on a bench of their own, tempo by hand, many transitions."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Made
from tests.e2e.conftest import rows_of
from tests.e2e.sound import expect_sound, expect_state, hear_both
from tests.e2e.test_bench import fold_out, transition
from tests.e2e.test_library import rows
from tests.e2e.test_order import choose, state
from tests.e2e.until import until

pytestmark = pytest.mark.slow


def test_two_tracks_are_tried_heard_noted_as_a_pairing_and_put_into_a_mix(
    page: Page, mix: str, library: list[Made], address: str
) -> None:
    page.goto(f"{mix}/order")
    choose(rows_of(page).nth(0))
    title = library[2].song.title
    shelf = page.get_by_label("Library", exact=True)
    shelf.get_by_text(title, exact=True).hover()
    shelf.get_by_role("button", name=f"Try {title} after the chosen one").click()
    page.wait_for_url(re.compile(r"/transitions/1\?for="))
    tried = page.url.split("/transitions")[0]
    page.get_by_label("Kind", exact=True).get_by_text("Cut", exact=True).click()
    until(page, lambda: transition(tried)["kind"] == "cut")
    hear_both(page)
    expect_sound(page)
    page.get_by_role("button", name="Save pair").click()
    expect(page.get_by_role("button", name="Pair saved")).to_be_visible()
    page.get_by_role("button", name="Add to mix").click()
    page.get_by_role("menuitem", name="after its 1st track").click()
    page.wait_for_url(re.compile(re.escape(mix) + "/transitions/1"))
    assert [e["title"] for e in state(mix)["plan"]["entries"]][1] == title
    assert transition(mix)["kind"] == "cut"
    page.goto(address)
    tries = page.get_by_role("region", name="Tried pairs")
    expect(tries.get_by_role("listitem")).to_have_count(1)
    tries.get_by_role("button", name=re.compile("^Delete ")).click()
    expect(tries).to_have_count(0)


def test_two_chosen_tracks_are_tried_and_thrown_away(page: Page, library: list[Made], address: str) -> None:
    page.goto(f"{address}/tracks")
    for number, made in enumerate(library[:2]):
        title = made.song.title
        rows(page).filter(has_text=title).get_by_text(title).click(modifiers=["Control"] if number else [])
    page.get_by_role("button", name="Try pair").click()
    page.wait_for_url(re.compile("/transitions/1"))
    page.get_by_role("button", name="Delete").click()
    page.wait_for_url(re.compile("/tracks"))
    page.goto(address)
    expect(page.get_by_role("button", name="New mix")).to_be_visible()
    expect(page.get_by_role("region", name="Tried pairs")).to_have_count(0)


def test_the_tempo_is_set_by_hand_on_the_line_and_by_number(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    course = page.get_by_role("group", name="Tempo points").first
    box = course.bounding_box()
    assert box
    course.dblclick(position={"x": box["width"] * 0.15, "y": 6})
    points = course.get_by_role("slider")
    expect(points).to_have_count(3)
    until(page, lambda: len(state(mix)["tempo_marks"]) == 3)
    before = state(mix)["tempo_marks"][1]["bpm"]
    points.nth(1).press("Shift+ArrowUp")
    until(page, lambda: state(mix)["tempo_marks"][1]["bpm"] == pytest.approx(before + 1.0))
    points.nth(1).press("s")
    until(page, lambda: state(mix)["tempo_marks"][1]["onward"] == "smooth")
    fold_out(page, "Tempo by hand")
    field = page.get_by_label("Tempo point 2 in BPM", exact=True)
    field.fill("131.5")
    field.press("Enter")
    until(page, lambda: state(mix)["tempo_marks"][1]["bpm"] == 131.5)
    tempi = [bpm for _, bpm in state(mix)["plan"]["clocks"][0]["tempo"]]
    assert max(tempi) >= 131.5
    points.nth(1).press("Delete")
    expect(points).to_have_count(2)
    page.get_by_role("button", name="Take all away").click()
    expect(points).to_have_count(0)


def test_a_tempo_point_is_dragged_on_the_lane(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    lane = page.get_by_role("group", name="Tempo points").last
    box = lane.bounding_box()
    assert box
    lane.dblclick(position={"x": box["width"] * 0.5, "y": 20})
    until(page, lambda: len(state(mix)["tempo_marks"]) >= 2)
    marks = state(mix)["tempo_marks"]
    point = lane.get_by_role("slider").nth(1)
    spot = point.bounding_box()
    assert spot
    page.mouse.move(spot["x"] + 4, spot["y"] + 4)
    page.mouse.down()
    page.mouse.move(spot["x"] + 44, spot["y"] - 8, steps=4)
    page.mouse.up()
    until(page, lambda: state(mix)["tempo_marks"] != marks)
    moved = max(state(mix)["tempo_marks"], key=lambda m: m["bpm"])
    assert moved["bpm"] > max(m["bpm"] for m in marks)


def test_several_transitions_start_from_one_hand_over(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    page.get_by_role("button", name=re.compile("^Transition 2:")).click(modifiers=["Shift"])
    page.get_by_role("button", name="Start 2 from a shape").click()
    page.get_by_role("menuitem", name=re.compile("^Clean cut")).click()
    until(page, lambda: [transition(mix, i)["kind"] for i in (0, 1)] == ["cut", "cut"])


def test_some_entries_are_held_at_one_tempo(page: Page, mix: str) -> None:
    page.goto(f"{mix}/order")
    choose(rows_of(page).nth(0))
    choose(rows_of(page).nth(1), add=True)
    page.get_by_role("button", name="Tempo", exact=True).click()
    field = page.get_by_label("Tempo of the chosen in BPM", exact=True)
    field.fill("127")
    field.press("Enter")
    until(page, lambda: [e["tempo"] for e in state(mix)["plan"]["entries"]][:2] == [127.0, 127.0])
    assert state(mix)["plan"]["entries"][2]["tempo"] is None
    page.get_by_role("button", name="Original tempi").click()
    until(page, lambda: {e["tempo"] for e in state(mix)["plan"]["entries"]} == {None})


def test_the_incoming_is_nudged_by_keys_and_kept_as_a_slide_of_its_grid(page: Page, mix: str) -> None:
    page.goto(f"{mix}/transitions/1")
    expect(page.get_by_label("Fine, in ms", exact=True)).to_have_value("0")
    hear_both(page)
    expect_sound(page)
    for _ in range(7):
        page.keyboard.press(".")
    until(page, lambda: transition(mix)["nudge_ms"] == 7.0)
    expect_state(page, "playing")
    track = state(mix)["plan"]["entries"][1]["track_id"]
    address = mix.rsplit("/mix/", 1)[0]
    anchors = lambda: page.request.get(f"{address}/api/tracks/{track}/markup").json()["markup"]["grid"]["anchors"]  # noqa: E731
    before = anchors()[0]["time_s"]
    page.get_by_role("button", name="Keep it as a slide of its grid").click()
    until(page, lambda: transition(mix)["nudge_ms"] == 0.0)
    assert anchors()[0]["time_s"] == pytest.approx(before - 0.007, abs=0.0005)
    version = page.request.get(f"{address}/api/tracks/{track}/markup").json()["version"]
    page.request.post(f"{address}/api/tracks/{track}/markup/undo", data={"version": version})
