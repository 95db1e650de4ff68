"""The transition bench as a person works with it: kinds, lanes, shapes, takes, play all, changes heard at once."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.e2e.conftest import start_from
from tests.e2e.hands import drag, tap
from tests.e2e.sound import RATE, expect_sound, expect_state, frame, hear_both, listening, release, run, run_until
from tests.e2e.test_order import state
from tests.e2e.until import until

pytestmark = pytest.mark.slow
HELD_MS = 400
"""A press that lasts longer is held."""


def transition(mix: str, index: int = 0) -> dict:
    """A transition with its curves and manner, as the server has it."""
    plan = state(mix)["plan"]
    shaped = plan["transitions"][index]["transition"]
    return {
        **plan["transitions"][index],
        **shaped,
        **plan["manners"][shaped["manner"]],
        **{side: plan["sides"][shaped[side]] for side in ("outgoing", "incoming")},
    }


def lane(page: Page, name: str) -> Locator:
    return page.get_by_role("group", name=f"{name} curves")


def fold_out(page: Page, name: str) -> None:
    head = page.get_by_role("button", name=re.compile(f"^{name}"))
    if head.get_attribute("aria-expanded") == "false":
        head.click()


@pytest.fixture
def bench(page: Page, mix: str) -> str:
    """The first transition of a mix, open."""
    page.goto(f"{mix}/transitions/1")
    expect(page.get_by_role("slider", name="Overlap", exact=True)).to_contain_text("bars")
    return mix


def test_each_kind_has_its_place_its_numbers_and_its_sound(page: Page, bench: str) -> None:
    page.get_by_label("Kind", exact=True).get_by_text("Fade", exact=True).click()
    expect(page.get_by_label("Length in seconds", exact=True)).to_be_visible()
    page.get_by_label("Length in seconds", exact=True).fill("5")
    page.get_by_label("Length in seconds", exact=True).press("Enter")
    expect(page.get_by_role("slider", name="Overlap", exact=True)).to_contain_text("fade of 5 s")
    page.get_by_label("Volume", exact=True).select_option("In a straight line")
    hear_both(page)
    expect_sound(page)
    kept = transition(bench)
    assert (kept["kind"], kept["seconds"], kept["volume_law"]) == ("fade", 5.0, "linear")
    page.get_by_label("Kind", exact=True).get_by_text("Apart", exact=True).click()
    page.get_by_label("Pause in seconds", exact=True).fill("2")
    page.get_by_label("Pause in seconds", exact=True).press("Enter")
    expect(page.get_by_role("slider", name="Overlap", exact=True)).to_contain_text("2 s apart")
    drag(page, page.get_by_role("slider", name="Start of the incoming track"), 60)
    expect(page.get_by_label("Pause in seconds", exact=True)).not_to_have_value("2")
    until(page, lambda: transition(bench)["seconds"] > 2.0)
    page.get_by_label("Kind", exact=True).get_by_text("Cut", exact=True).click()
    page.get_by_label("Lead in bars", exact=True).fill("2")
    page.get_by_label("Lead in bars", exact=True).press("Enter")
    expect(lane(page, "volume").get_by_role("slider")).to_have_count(2)
    page.get_by_label("Kind", exact=True).get_by_text("Blend", exact=True).click()
    expect(page.get_by_label("Length in bars", exact=True)).to_be_visible()


def test_a_lane_is_added_by_key_swept_by_hand_and_folded(page: Page, bench: str) -> None:
    start_from(page, "Even blend")
    expect(lane(page, "filter")).to_have_count(0)
    for _ in range(5):
        page.keyboard.press("a")
    filters = lane(page, "filter")
    expect(filters.get_by_role("slider")).to_have_count(4)
    last = filters.get_by_role("slider", name="outgoing filter point 2")
    box = last.bounding_box()
    assert box
    page.mouse.move(box["x"] + 5, box["y"] + 5)
    page.mouse.down()
    page.mouse.move(box["x"] + 5, box["y"] - 30, steps=5)
    page.mouse.up()
    expect(last).to_have_attribute("aria-valuetext", "above 10 kHz")
    until(page, lambda: transition(bench)["outgoing"].get("filter", [[0, 0]])[-1][1] == 1.0)
    last.focus()
    last.press("s")
    expect(page.get_by_role("region", name="Chosen point")).to_be_visible()
    page.get_by_role("button", name="Fold the echo lane away").click()
    expect(lane(page, "echo")).to_have_count(0)
    expect(page.get_by_role("button", name="Fold the filter lane away")).to_have_count(0)


def test_several_points_are_framed_moved_and_given_another_way_on(page: Page, bench: str) -> None:
    start_from(page, "Bass hand-over")
    volume = lane(page, "volume")
    expect(volume.get_by_role("slider")).to_have_count(6)
    box = volume.bounding_box()
    assert box
    page.keyboard.down("Shift")
    page.mouse.move(box["x"] + 4, box["y"] + 1)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] - 4, box["y"] + 20, steps=6)
    page.mouse.up()
    page.keyboard.up("Shift")
    expect(volume.locator(".ring")).not_to_have_count(0)
    chosen = volume.locator(".ring").count()
    assert chosen >= 3
    chosen_point = page.get_by_role("region", name="Chosen point")
    expect(chosen_point).to_contain_text(f"{chosen} points")
    chosen_point.get_by_text("Smooth", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_be_enabled()
    both = ("outgoing", "incoming")
    until(page, lambda: {p[2] for side in both for p in transition(bench)[side]["volume"]} == {"smooth", "straight"})
    page.get_by_role("button", name="Mirror").click()
    expect(volume.get_by_role("slider")).to_have_count(6)


def test_a_gap_an_echo_and_a_longer_way_are_set_in_the_panel(page: Page, bench: str) -> None:
    fold_out(page, "Gap")
    page.get_by_label("Beats left out").select_option("2 beats")
    page.get_by_label("Whose beats").select_option("of the outgoing")
    fold_out(page, "Effects")
    page.get_by_label("Echo every").select_option("½ beat")
    page.get_by_label("Tempo", exact=True).select_option("In steps")
    page.get_by_label("Steps of", exact=True).fill("2")
    page.get_by_label("Steps of", exact=True).press("Enter")
    page.get_by_label("Begin earlier by", exact=True).fill("2")
    page.get_by_label("Begin earlier by", exact=True).press("Enter")
    expect(page.get_by_label("Begin earlier by", exact=True)).to_have_value("2")
    until(page, lambda: transition(bench)["way"]["before"] == 8.0)
    kept = transition(bench)
    assert (kept["gap"]["beats"], kept["gap"]["side"]) == (2.0, "outgoing")
    assert kept["effects"]["echo_beats"] == 0.5
    assert (kept["tempo"], kept["way"]["step_bpm"], kept["way"]["before"]) == ("steps", 2.0, 8.0)


def test_a_hand_over_is_saved_used_for_all_and_deleted(page: Page, bench: str) -> None:
    start_from(page, "Filter sweep")
    expect(lane(page, "filter")).to_have_count(1)
    page.get_by_role("button", name="Shapes…").click()
    dialog = page.get_by_role("dialog", name="Shapes")
    dialog.get_by_label("Save this shape as").fill("Fern sweep")
    dialog.get_by_role("button", name="Save", exact=True).click()
    row = dialog.get_by_role("row").filter(has=page.get_by_role("button", name="Delete Fern sweep"))
    row.get_by_role("button", name="for all").click()
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_be_enabled()
    until(page, lambda: all("filter" in transition(bench, i)["outgoing"] for i in (0, 1)))
    row.get_by_role("button", name="for untouched").click()
    expect(dialog.get_by_text("Transitions that nobody has shaped")).to_contain_text("Fern sweep")
    row.get_by_role("button", name="Delete Fern sweep").click()
    expect(row).to_have_count(0)


def test_takes_are_kept_used_and_compared_blind(page: Page, bench: str) -> None:
    start_from(page, "Echo out")
    page.get_by_role("button", name="Save take").click()
    takes = page.get_by_role("list", name="Takes").get_by_role("listitem")
    expect(takes).to_have_count(2)
    page.get_by_label("Name of take 2").fill("Echo")
    page.get_by_label("Name of take 2").press("Enter")
    takes.nth(0).get_by_role("button", name="1", exact=True).click()
    expect(takes.nth(0).get_by_role("button", name="1", exact=True)).to_have_attribute("aria-pressed", "true")
    until(page, lambda: transition(bench)["kind"] == "blend")
    page.get_by_role("button", name="Compare blind").click()
    dialog = page.get_by_role("dialog", name="Compare by ear")
    expect(dialog.get_by_role("button", name="B", exact=True)).to_be_visible(timeout=60_000)
    expect_sound(page)
    before = frame(page)
    dialog.get_by_role("button", name="B", exact=True).click()
    expect(dialog.get_by_role("button", name="B", exact=True)).to_have_attribute("aria-pressed", "true")
    run(page, 0.8)
    expect_state(page, "playing")
    assert frame(page) > before
    expect(dialog.get_by_text("Echo", exact=True)).to_have_count(0)
    dialog.get_by_role("button", name="this one").last.click()
    expect(dialog.get_by_role("status")).to_contain_text("B is")
    dialog.get_by_role("button", name="Use it").click()
    expect(dialog).to_have_count(0)


def test_a_change_is_heard_while_it_plays_at_the_same_place(page: Page, bench: str) -> None:
    start_from(page, "Even blend")
    hear_both(page)
    expect_sound(page)
    asked: list[str] = []
    page.on("request", lambda r: asked.append(r.url) if "/audio?" in r.url else None)
    before = frame(page)
    lane(page, "volume").get_by_role("slider", name="incoming volume point 1").press("ArrowUp")
    page.wait_for_function(
        "() => performance.getEntriesByType('resource').filter(r => r.name.includes('/audio?')).length > 1"
    )
    run(page, 0.6)
    assert len(asked) == 1
    expect_state(page, "playing")
    assert 0 < frame(page) - before < 2 * RATE
    assert transition(bench)["incoming"]["volume"][0][1] > 0.0


def test_a_proposal_is_seen_heard_and_used(page: Page, bench: str) -> None:
    found = page.get_by_role("list", name="Proposed places").get_by_role("listitem")
    expect(found.first).to_contain_text("bar")
    use = page.get_by_role("button", name=re.compile("^Use proposal")).first
    use.hover()
    expect(page.locator(".ghost.pointed")).to_have_count(1)
    before = transition(bench)
    page.get_by_role("button", name="Hear proposal 2").click()
    expect_sound(page)
    assert transition(bench)["out_at"] == before["out_at"]
    use.click()
    expect(page.get_by_role("button", name="As if untouched")).to_be_visible()
    place = ("out_at", "in_at", "beats")
    until(page, lambda: [transition(bench)[p] for p in place] != [before[p] for p in place])


@pytest.mark.usefixtures("bench")
def test_play_all_goes_through_all_transitions_and_marks_stay(page: Page) -> None:
    page.keyboard.press("w")
    expect_sound(page)
    expect(page.get_by_role("button", name="Stop", exact=True)).to_be_visible()
    page.keyboard.press("x")
    marks = page.get_by_role("group", name="Marked places")
    expect(marks.get_by_role("button", name=re.compile("Forget"))).to_have_count(1)
    bar = page.get_by_role("slider", name="Playing position").bounding_box()
    assert bar
    page.mouse.click(bar["x"] + bar["width"] * 0.96, bar["y"] + 10)
    release(page)
    page.wait_for_url(re.compile(r"/transitions/2$"), timeout=40_000)
    expect(page.get_by_text("2 of 2")).to_be_visible()
    expect_sound(page)
    page.get_by_role("button", name="Stop", exact=True).click()
    page.reload()
    marks.get_by_role("button").first.click()
    page.wait_for_url(re.compile(r"/transitions/1$"))
    expect_sound(page)
    marks.get_by_role("button", name=re.compile("Forget")).click()
    expect(marks).to_have_count(0)


def test_a_side_is_heard_only_as_long_as_its_button_is_held(page: Page, bench: str) -> None:
    start_from(page, "Even blend")
    tap(page, "b")
    expect_sound(page)
    box = page.get_by_role("button", name="Incoming alone").bounding_box()
    assert box
    page.mouse.move(box["x"] + 10, box["y"] + 10)
    page.mouse.down()
    run_until(page, lambda: "incoming" in listening(page).inner_text())
    page.wait_for_timeout(HELD_MS)
    page.mouse.up()
    run_until(page, lambda: "incoming" not in listening(page).inner_text())
    expect_state(page, "playing")
    page.keyboard.down("o")
    run_until(page, lambda: "outgoing" in listening(page).inner_text())
    page.wait_for_timeout(HELD_MS)
    page.keyboard.up("o")
    run_until(page, lambda: "outgoing" not in listening(page).inner_text())
    expect_state(page, "playing")
    assert transition(bench)["kind"] == "blend"


def test_a_warning_is_mended_by_a_click_and_another_is_meant(page: Page, bench: str) -> None:
    page.get_by_label("Kind", exact=True).get_by_text("Apart", exact=True).click()
    page.get_by_label("Pause in seconds", exact=True).fill("9")
    page.get_by_label("Pause in seconds", exact=True).press("Enter")
    shown = page.get_by_role("status", name="Warnings of this transition")
    expect(shown).to_contain_text("Nothing is heard for 9 seconds.")
    shown.get_by_role("button", name="Ignore").click()
    expect(shown.get_by_role("button", name="Show again")).to_be_visible()
    page.get_by_role("button", name=re.compile("warnings?( left)?$")).click()
    listed = page.locator(".ant-drawer-content")
    warning = listed.get_by_role("listitem").filter(has_text="Nothing is heard")
    warning.get_by_role("button", name="Show again").click()
    warning.get_by_role("button", name="Make it 1 s").click()
    expect(warning).to_have_count(0)
    until(page, lambda: transition(bench)["seconds"] == 1.0)


def test_the_history_is_looked_at_named_and_gone_back_to(page: Page, bench: str) -> None:
    start_from(page, "Echo out")
    start_from(page, "Even blend")
    page.get_by_role("button", name="Mix menu").click()
    page.get_by_role("menuitem", name="History…").click()
    steps = page.get_by_role("list", name="Steps").get_by_role("listitem")
    expect(steps.first).to_contain_text("even blend")
    expect(steps.nth(1)).to_contain_text("echo out")
    field = steps.nth(1).get_by_role("textbox")
    field.fill("with the echo")
    field.press("Enter")
    steps.nth(1).get_by_role("button", name=re.compile("^Hear step")).click()
    expect_sound(page)
    expect(listening(page)).to_contain_text("as it was")
    assert transition(bench)["kind"] == "blend"
    steps.nth(1).get_by_role("button", name="go there").click()
    expect(steps.nth(1)).to_contain_text("now")
    until(page, lambda: transition(bench)["kind"] == "cut")
    page.get_by_label("only points with a name").check()
    expect(steps).to_have_count(1)
    expect(steps.first.get_by_role("textbox")).to_have_value("with the echo")


def test_a_whole_mix_is_held_at_one_tempo_and_its_bands_are_set(page: Page, bench: str) -> None:
    page.get_by_role("button", name="Mix menu").click()
    page.get_by_role("menuitem", name="Tempo and bands…").click()
    page.get_by_role("button", name=re.compile(r"^Use \d+ BPM")).click()
    page.get_by_label("Low band ends at", exact=True).fill("180")
    page.get_by_label("Low band ends at", exact=True).press("Enter")
    until(page, lambda: state(bench)["crossovers"]["low_hz"] == 180.0)
    assert len({e["tempo"] for e in state(bench)["plan"]["entries"]}) == 1
    page.get_by_role("button", name="Back to original tempi").click()
    until(page, lambda: {e["tempo"] for e in state(bench)["plan"]["entries"]} == {None})


def test_a_fader_that_is_moved_while_it_plays_becomes_the_curve(page: Page, bench: str) -> None:
    start_from(page, "Even blend")
    fold_out(page, "Ride")
    page.get_by_label("What is ridden").select_option("High")
    hear_both(page)
    expect_sound(page)
    start = transition(bench)["start_s"]
    run_until(page, lambda: frame(page) > (start + 1.0) * RATE)
    fader = page.get_by_label("Outgoing", exact=True)
    box = fader.bounding_box()
    assert box
    middle = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] - 8, middle)
    page.mouse.down()
    for step in range(6):
        page.mouse.move(box["x"] + box["width"] * (0.9 - 0.1 * step), middle)
        run(page, 0.1)
    lowest = float(fader.input_value())
    page.mouse.up()
    until(page, lambda: "high" in transition(bench)["outgoing"])
    ridden = transition(bench)["outgoing"]["high"]
    assert ridden[0][:2] == [0.0, 1.0]
    assert 0.3 < lowest < 0.5
    assert min(p[1] for p in ridden) == pytest.approx(lowest, abs=0.02)
    page.get_by_role("button", name=re.compile("^Undo")).click()
    until(page, lambda: "high" not in transition(bench)["outgoing"])
