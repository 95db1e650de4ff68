"""Edits of an entry as a person makes them: chosen, taken out, repeated, heard as recorded, undone."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.sound import expect_sound, hear_both
from tests.e2e.test_order import state
from tests.e2e.until import until

pytestmark = pytest.mark.slow


def edited(mix: str, index: int = 0) -> dict:
    return dict(state(mix)["plan"]["entries"][index]["edited"] or {"edits": [], "as_recorded": False})


def kinds(mix: str) -> list[str]:
    return sorted(e["kind"] for e in edited(mix)["edits"])


@pytest.fixture
def edits(page: Page, mix: str) -> str:
    page.goto(f"{mix}/edits/1")
    expect(page.get_by_role("group", name="The original track")).to_be_visible()
    return mix


def choose(page: Page, place: float) -> None:
    wave = page.get_by_role("group", name="The original track")
    box = wave.bounding_box()
    assert box
    wave.click(position={"x": box["width"] * place, "y": 40})


def test_a_phrase_is_cut_repeated_and_the_original_is_heard(page: Page, edits: str) -> None:
    length = state(edits)["plan"]["duration_s"]
    choose(page, 0.3)
    page.get_by_role("button", name="Cut", exact=True).click()
    until(page, lambda: kinds(edits) == ["skip"])
    assert state(edits)["plan"]["duration_s"] < length
    choose(page, 0.6)
    page.keyboard.press("r")
    until(page, lambda: kinds(edits) == ["repeat", "skip"])
    listed = page.get_by_label("Edits of this entry").get_by_role("listitem")
    expect(listed).to_have_count(2)
    page.get_by_label("Original or edited", exact=True).get_by_text("Original", exact=True).click()
    until(page, lambda: edited(edits)["as_recorded"])
    assert state(edits)["plan"]["duration_s"] == pytest.approx(length, abs=0.01)
    page.get_by_label("Original or edited", exact=True).get_by_text("Edited", exact=True).click()
    listed.first.get_by_role("switch").click()
    until(page, lambda: sorted(e["on"] for e in edited(edits)["edits"]) == [False, True])
    for _ in range(3):
        page.keyboard.press("Control+z")
    until(page, lambda: not edited(edits)["as_recorded"] and all(e["on"] for e in edited(edits)["edits"]))
    page.reload()
    expect(listed).to_have_count(2)
    page.get_by_role("link", name="Running order").click()
    page.get_by_role("link", name="2 edits").click()
    expect(listed).to_have_count(2)
    page.get_by_role("group", name="As heard in the mix").dblclick(position={"x": 200, "y": 50})
    expect_sound(page)
    page.get_by_role("button", name="Remove all edits").click()
    expect(listed).to_have_count(0)


def test_any_span_is_dragged_set_by_number_and_silenced(page: Page, edits: str) -> None:
    box = page.get_by_role("group", name="The original track").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] * 0.3, box["y"] + 40)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + 40, steps=4)
    page.mouse.up()
    field = page.get_by_label("From bar", exact=True)
    field.fill("5")
    field.press("Enter")
    page.get_by_role("button", name="Silence", exact=True).click()
    until(page, lambda: kinds(edits) == ["drop_out"])
    edit = edited(edits)["edits"][0]
    assert edit["start"] == 16.0
    assert edit["end"] % 4 == 0


def test_a_fold_is_heard_and_used_and_the_mix_goes_on_over_the_join(page: Page, edits: str) -> None:
    page.get_by_label("By how many bars").select_option("by 2 bars")
    places = page.get_by_role("list", name="Joins that are hardly heard").get_by_role("listitem")
    places.first.get_by_role("button", name="Hear place 1").click()
    expect_sound(page)
    assert edited(edits)["edits"] == []
    places.first.get_by_role("button", name="Use place 1").click()
    until(page, lambda: kinds(edits) == ["skip"])
    page.get_by_role("link", name="Transitions").click()
    hear_both(page)
    expect_sound(page)


def test_stems_are_split_the_drums_are_dropped_and_turned(page: Page, edits: str) -> None:
    stems = page.get_by_role("group", name="Stems of")
    stems.get_by_role("button", name="Split stems of").click()
    expect(stems.get_by_role("button", name="Delete stems")).to_be_visible(timeout=120_000)
    choose(page, 0.3)
    page.get_by_role("button", name="Drop drums").click()
    until(page, lambda: [e.get("stems") for e in edited(edits)["edits"]] == [["drums"]])
    page.get_by_role("group", name="As heard in the mix").dblclick(position={"x": 200, "y": 50})
    expect_sound(page)
    page.get_by_role("link", name="Transitions").click()
    page.get_by_role("button", name="+ lane").click()
    page.get_by_role("menuitem", name="Drums").click()
    lane = page.get_by_role("group", name="Drums curves")
    box = lane.bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.6)
    until(page, lambda: any("drums" in side for side in state(edits)["plan"]["sides"]))
    hear_both(page)
    expect_sound(page)


def test_a_span_of_the_course_is_kept_with_the_track_and_used_again(page: Page, edits: str) -> None:
    """Selected on the course, dropped, kept with the track, and used where the track is put in once more."""
    ribbon = page.get_by_title("Drag within the chosen one")
    box = ribbon.bounding_box()
    assert box
    share = state(edits)["plan"]["entries"][0]["end_s"] / state(edits)["plan"]["duration_s"]
    y = box["y"] + box["height"] * 0.7
    page.mouse.move(box["x"] + box["width"] * share * 0.3, y)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * share * 0.5, y, steps=6)
    page.mouse.up()
    expect(page.get_by_role("region", name="Chosen span")).to_be_visible()
    page.keyboard.press("d")
    until(page, lambda: kinds(edits) == ["drop_out"])
    kept = page.get_by_role("region", name="Kept with the track")
    kept.get_by_role("button", name="Keep these").click()
    expect(kept).to_contain_text("1 edit, offered")
    first = state(edits)["plan"]["entries"][0]
    page.request.post(
        f"{edits.replace('/mix/', '/api/mixes/')}/commands",
        data={
            "version": state(edits)["version"],
            "command": {"kind": "duplicate_entries", "entry_ids": [first["id"]]},
        },
        headers={"origin": edits.split("/mix/", maxsplit=1)[0]},
    )
    until(page, lambda: len(state(edits)["plan"]["entries"]) == 4)
    places = [i for i, e in enumerate(state(edits)["plan"]["entries"]) if e["track_id"] == first["track_id"]]
    again = next(i for i in places if state(edits)["plan"]["entries"][i]["id"] != first["id"])
    page.goto(f"{edits}/edits/{again + 1}")
    page.get_by_role("button", name=re.compile("^Remove: Silent")).click()
    until(page, lambda: edited(edits, again)["edits"] == [])
    kept.get_by_role("button", name="Use them").click()
    until(page, lambda: len(edited(edits, again)["edits"]) == 1)
    kept.get_by_role("button", name="forget").click()
    expect(kept).not_to_contain_text("offered")


def test_a_saved_loop_is_repeated_by_one_click(page: Page, edits: str) -> None:
    address = edits.split("/mix/", maxsplit=1)[0]
    track = f"{address}/api/tracks/{state(edits)['plan']['entries'][0]['track_id']}/markup"

    def change(command: dict) -> None:
        version = page.request.get(track).json()["version"]
        page.request.post(
            f"{track}/commands", data={"version": version, "command": command}, headers={"origin": address}
        )

    change({"kind": "put_loops", "loops": [{"id": "ten", "start": 32, "beats": 8, "name": "ten"}]})
    page.reload()
    page.get_by_role("button", name="Hear ten, bar 9.1, 2 bars twice").click()
    until(page, lambda: kinds(edits) == ["repeat"])
    assert (edited(edits)["edits"][0]["start"], edited(edits)["edits"][0]["end"]) == (32, 40)
    change({"kind": "remove_loops", "ids": ["ten"]})
