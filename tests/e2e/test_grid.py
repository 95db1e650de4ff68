"""The Grid & cues view in Chromium: a wrong grid is seen, and mended by number, by key and by drag."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from fernbrook.core.track import Grid
from fernbrook.demo.make import make
from fernbrook.demo.song import true_grid
from fernbrook.demo.songs import SONGS
from tests.conftest import Made
from tests.e2e.conftest import tracks_by_title
from tests.e2e.hands import drag
from tests.e2e.sound import RATE, expect_sound, expect_state, frame, run
from tests.e2e.until import until
from tests.songs import short


class Desk:
    """One track in the view, and what the server knows of it."""

    def __init__(self, page: Page, address: str, made: Made) -> None:
        self.page = page
        self.id = tracks_by_title(page, address)[made.song.title]
        self.at = f"{address}/api/tracks/{self.id}"
        self.true, self.duration_s = made.truth.grid, made.truth.duration_s
        page.goto(f"{address}/grid/{self.id}")
        expect(page.get_by_role("region", name="Weave")).to_be_visible()

    @property
    def markup(self) -> dict:
        return self.page.request.get(f"{self.at}/markup").json()

    @property
    def grid(self) -> Grid:
        return Grid.model_validate(self.markup["markup"]["grid"])

    def late_ms(self, beat: float = 0.0) -> float:
        """How much later than the truth the grid has a beat."""
        return float(self.grid.time_at(beat) - self.true.time_at(beat)) * 1000.0

    def after_change(self, act: object) -> None:
        """Do something and wait until the page has its new version."""
        version = self.markup["version"]
        act()  # type: ignore[operator]
        until(self.page, lambda: self.markup["version"] > version)


@pytest.fixture
def desk(page: Page, address: str, library: list[Made]) -> Iterator[Desk]:
    desk = Desk(page, address, library[0])
    yield desk
    # The server is one for all tests: the next finds the track as it was analysed.
    for facet in ("grid", "sections", "voice"):
        page.request.post(f"{desk.at}/markup/analysed", data={"version": desk.markup["version"], "facet": facet})


def test_a_wrong_tempo_is_seen_and_mended_by_number(page: Page, desk: Desk) -> None:
    panel = page.get_by_role("complementary", name="Grid")
    expect(panel.get_by_text("which is fine")).to_be_visible()
    tempo = page.get_by_label("Tempo in BPM", exact=True)

    def set_tempo(value: str) -> None:
        tempo.fill(value)
        tempo.press("Enter")

    desk.after_change(lambda: set_tempo("119.8"))
    expect(panel.get_by_text("which can be heard")).to_be_visible()
    page.get_by_role("button", name="Next doubtful place").click()
    expect(page.get_by_label("Go to bar", exact=True)).not_to_have_value("1")
    page.get_by_role("button", name="Start", exact=True).or_(page.get_by_label("First", exact=True)).first.click()
    desk.after_change(lambda: set_tempo("120"))
    expect(panel.get_by_text("which is fine")).to_be_visible()
    assert abs(desk.late_ms(100.0)) < 3.0


def test_a_late_grid_is_slid_by_keys_and_taken_back(page: Page, desk: Desk) -> None:
    desk.after_change(lambda: page.keyboard.press(">"))
    desk.after_change(lambda: page.keyboard.press("."))
    assert desk.late_ms() == pytest.approx(11.0, abs=1.5)
    expect(page.get_by_text("changed by you")).to_be_visible()
    desk.after_change(lambda: page.keyboard.press("s"))
    assert abs(desk.late_ms()) < 3.0
    for _ in range(3):
        desk.after_change(lambda: page.keyboard.press("Control+z"))
    assert abs(desk.late_ms()) < 3.0
    desk.after_change(lambda: page.keyboard.press("h"))
    assert desk.grid.bpm_after == pytest.approx(60.0)
    desk.after_change(lambda: page.keyboard.press("d"))
    desk.after_change(lambda: page.keyboard.press("c"))
    expect(page.get_by_text("checked by you")).to_be_visible()
    page.reload()
    expect(page.get_by_text("checked by you")).to_be_visible()


def test_threads_are_dragged_aside_and_straight(page: Page, desk: Desk) -> None:
    cloth = page.locator(".cloth")
    box = cloth.bounding_box()
    assert box
    # A bar of two seconds lies across the cloth: a fortieth of it is 50 ms.
    desk.after_change(lambda: drag(page, cloth, box["width"] / 40, at=(0.5, 0.2)))
    assert desk.late_ms() == pytest.approx(-50.0, abs=4.0)
    desk.after_change(lambda: drag(page, cloth, -box["width"] / 40, at=(0.5, 0.2)))
    assert abs(desk.late_ms()) < 5.0
    page.get_by_text("Stretch", exact=True).click()
    desk.after_change(lambda: drag(page, cloth, box["width"] / 100, at=(0.5, 0.9)))
    assert abs(desk.late_ms(0.0)) < 5.0
    row = 0.9 * 33 * 4
    assert desk.late_ms(row) == pytest.approx(-20.0, abs=6.0)


def test_a_line_is_dragged_to_an_onset_between_anchors(page: Page, desk: Desk) -> None:
    stage = page.locator(".stage")
    for _ in range(2):
        page.get_by_role("button", name="Zoom in").click()
    per_second = float(stage.get_attribute("data-per-second") or 0)
    desk.after_change(lambda: page.keyboard.press("ArrowRight") or page.keyboard.press("a"))
    line = page.get_by_label("Line of 1.4", exact=True)
    desk.after_change(lambda: drag(page, line, 0.02 * per_second))
    assert desk.late_ms(3.0) == pytest.approx(20.0, abs=8.0)
    assert abs(desk.late_ms(1.0)) < 3.0
    assert abs(desk.late_ms(0.0)) < 3.0
    line.focus()
    before, version = desk.late_ms(3.0), desk.markup["version"]
    for _ in range(4):
        line.press("Shift+ArrowLeft")
    until(page, lambda: desk.late_ms(3.0) < before - 39.0)
    assert desk.late_ms(3.0) == pytest.approx(before - 40.0, abs=0.5)
    assert desk.markup["version"] == version + 1


def test_the_click_is_heard_in_a_loop(page: Page, desk: Desk) -> None:
    expect(page.get_by_role("switch", name="Click on the beats")).to_be_checked()
    page.get_by_role("main").get_by_label("Loop", exact=True).select_option(label="Loop 1 bar")
    with page.expect_request(re.compile(r"/audio\?start=\d+&end=\d+&back_to=\d+&click_db=-6")):
        page.get_by_role("button", name="Play from the cursor").click()
    expect_sound(page)
    bar = 60.0 / desk.grid.bpm_after * 4.0
    for _ in range(4):
        run(page, bar / 2)
        assert frame(page) < bar * RATE + 1
    with page.expect_request(re.compile(r"/audio\?start=\d+&end=\d+&back_to=\d+$")):
        page.keyboard.press("k")
    expect_state(page, "playing")
    page.keyboard.press("k")


def test_sections_are_split_named_and_joined(page: Page, desk: Desk) -> None:
    sections = page.get_by_role("group", name="Sections")
    expect(sections.get_by_role("button")).to_have_count(3)
    sections.get_by_role("button").nth(1).click()
    desk.after_change(page.get_by_text("Split at the cursor").click)
    expect(sections.get_by_role("button")).to_have_count(4)
    border = sections.get_by_role("slider").nth(1)
    border.focus()
    for key in ("ArrowRight",) * 4 + ("ArrowLeft",) * 3:
        border.press(key)
    until(page, lambda: [s["start"] for s in desk.markup["markup"]["sections"]] == [0.0, 32.0, 68.0, 96.0])
    sections.get_by_role("button").nth(2).click()
    page.get_by_role("menuitem", name="Rename…").click()
    page.get_by_label("Name", exact=True).fill("door")
    desk.after_change(page.get_by_role("button", name="Rename", exact=True).click)
    expect(sections.get_by_role("button").nth(2)).to_have_text("door")
    sections.get_by_role("button").nth(1).click()
    desk.after_change(page.get_by_role("menuitem", name="Join with the next").last.click)
    expect(sections.get_by_role("button")).to_have_count(3)


def test_a_voice_is_marked_by_drag_moved_by_key_split_and_taken_away(page: Page, desk: Desk) -> None:
    row = page.get_by_role("group", name="Voice")
    spans = row.locator(".span")
    expect(row).to_contain_text("No voice heard")

    def voice() -> list[tuple[float, float]]:
        return [(v["start"], v["end"]) for v in desk.markup["markup"]["voice"]]

    box = row.bounding_box()
    assert box
    desk.after_change(lambda: drag(page, row, 120, at=(0.6, 0.5)))
    expect(spans).to_have_count(1)
    ((start, end),) = voice()
    assert end - start == pytest.approx(desk.true.beat_at(120 / box["width"] * desk.duration_s), abs=2)
    edge = spans.get_by_role("slider", name="End of the voice")
    edge.focus()
    for _ in range(3):
        edge.press("ArrowRight")
    until(page, lambda: voice() == [(start, end + 3)])
    spans.get_by_role("button").click()
    desk.after_change(page.get_by_role("menuitem", name="Split at the cursor").click)
    expect(spans).to_have_count(2)
    spans.first.get_by_role("button").click()
    desk.after_change(page.get_by_role("menuitem", name="No voice here").click)
    assert len(voice()) == 1
    page.get_by_role("button", name="Undo").click()
    expect(spans).to_have_count(2)
    spans.first.get_by_role("button").click()
    desk.after_change(page.get_by_role("menuitem", name="All voice as analysed").click)
    expect(row).to_contain_text("No voice heard")


def test_two_voices_at_once_are_seen_and_told_in_the_transition(page: Page, address: str, mix: str) -> None:
    tracks = tracks_by_title(page, address)
    marked = []
    for track in tracks.values():
        at = f"{address}/api/tracks/{track}/markup"
        command = {"kind": "put_voice", "voice": [{"start": 0, "end": 400}]}
        version = page.request.get(at).json()["version"]
        marked.append((at, page.request.post(f"{at}/commands", data={"version": version, "command": command}).json()))
    page.goto(f"{mix}/transitions/1")
    expect(page.get_by_label("two voices at once")).to_have_count(1)
    expect(page.get_by_role("status").filter(has_text="Two voices at once for")).to_be_visible()
    for at, opened in marked:
        page.request.post(f"{at}/undo", data={"version": opened["version"]})
    expect(page.get_by_label("two voices at once")).to_have_count(0)


@pytest.mark.usefixtures("desk")
def test_what_the_analysis_found_is_told_on_demand(page: Page) -> None:
    page.get_by_title("All that the analysis found").click()
    told = page.get_by_role("tooltip").filter(has_text="What the analysis found")
    for words in ("Key", "LUFS", "dBTP", "cents from A = 440 Hz", "WAV, 44.1 kHz, stereo"):
        expect(told).to_contain_text(words)


def test_a_second_tab_follows(page: Page, desk: Desk) -> None:
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.get_by_role("region", name="Weave")).to_be_visible()
    desk.after_change(lambda: page.keyboard.press("d"))
    expect(other.get_by_label("Tempo in BPM", exact=True)).to_have_value("240")
    other.close()


def test_a_ramp_from_the_cursor_is_drawn_and_taken_back(page: Page, desk: Desk) -> None:
    panel = page.get_by_role("complementary", name="Grid")
    page.keyboard.press("3")  # to the middle of the track
    first = desk.grid.bpm_before
    to = panel.get_by_label("Ramp from here to, in BPM", exact=True)
    to.fill("150")
    to.press("Enter")
    panel.get_by_label("Beats of the ramp", exact=True).fill("16")
    desk.after_change(lambda: panel.get_by_role("button", name="Ramp", exact=True).click())
    ramp = next(a for a in desk.grid.anchors if a.ramp != 1.0)
    assert desk.grid.bpm_at([ramp.beat, ramp.beat + 8.0, ramp.beat + 16.0]).tolist() == pytest.approx(
        [first, (first + 150.0) / 2, 150.0]
    )
    expect(page.get_by_role("img", name=re.compile("Tempo over the track"))).to_be_visible()
    expect(page.get_by_text(re.compile(r"→ 150 BPM"))).to_be_visible()
    desk.after_change(lambda: page.keyboard.press("Control+z"))
    expect(page.get_by_role("img", name=re.compile("Tempo over the track"))).to_be_hidden()


def test_what_is_done_at_the_cursor_is_done_there_and_not_at_its_line(page: Page, desk: Desk) -> None:
    bar = page.get_by_label("Go to bar", exact=True)
    bar.fill("9")
    bar.press("Enter")
    expect(page.get_by_text("beat 1 of 4", exact=True)).to_be_visible()
    for act in ("Line here", "Snap to the onset"):
        slid = page.request.post(
            f"{desk.at}/markup/commands",
            data={"version": desk.markup["version"], "command": {"kind": "slide", "by_s": 0.12}},
        )
        assert slid.ok
        expect(page.get_by_text("beat 1 of 4, 120 ms before its line")).to_be_visible()
        desk.after_change(page.get_by_role("button", name=act).click)
        assert desk.late_ms(32.0) == pytest.approx(0.0, abs=3.0)
        expect(page.get_by_text("beat 1 of 4", exact=True)).to_be_visible()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_text("beat 2 of 4", exact=True)).to_be_visible()


def test_a_new_tempo_begins_at_the_cursor(page: Page, desk: Desk) -> None:
    bar = page.get_by_label("Go to bar", exact=True)
    bar.fill("9")
    bar.press("Enter")
    true, at_s = desk.grid, float(desk.grid.time_at(32.0))
    desk.after_change(lambda: page.keyboard.press("<"))
    for _ in range(3):
        desk.after_change(lambda: page.keyboard.press("<"))
    tempo = page.get_by_label("New tempo from here in BPM", exact=True)
    tempo.fill("121")
    desk.after_change(lambda: tempo.press("Enter"))
    grid = desk.grid
    assert float(grid.time_at(32.0)) == pytest.approx(at_s, abs=1e-6)
    assert float(grid.time_at(40.0)) == pytest.approx(at_s + 8 * 60 / 121, abs=1e-6)
    assert float(grid.time_at(31.0)) == pytest.approx(float(true.time_at(31.0)) - 0.04, abs=1e-6)
    expect(page.get_by_text("2 in all")).to_be_hidden()
    expect(page.get_by_text("3 in all")).to_be_visible()


def test_bars_start_again_at_the_cursor_and_go_on_again(page: Page, desk: Desk) -> None:
    panel = page.get_by_role("complementary", name="Grid")
    before = desk.grid
    for _ in range(2):
        page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(panel.get_by_text("beat 3 of 4")).to_be_visible()
    desk.after_change(lambda: page.keyboard.press("Shift+B"))
    (anew,) = desk.grid.bars_from
    assert (anew.beat % 4, anew.beats) == (2, 4)
    expect(panel.get_by_text("beat 1 of 4")).to_be_visible()
    expect(page.locator(".ruler").get_by_title("A bar of 2 beats")).to_be_visible()
    bar = int(panel.get_by_label("Go to bar", exact=True).input_value())
    page.keyboard.press("Shift+ArrowLeft")
    expect(panel.get_by_text("beat 1 of 2")).to_be_visible()
    expect(panel.get_by_label("Go to bar", exact=True)).to_have_value(str(bar - 1))
    page.keyboard.press("Shift+ArrowRight")
    length = panel.get_by_label("Beats a bar from here on", exact=True)
    length.fill("3")
    desk.after_change(lambda: length.press("Enter"))
    assert [(b.beat, b.beats) for b in desk.grid.bars_from] == [(anew.beat, 3)]
    desk.after_change(lambda: panel.get_by_role("button", name="Bars count on here").click())
    assert desk.grid == before


def test_a_track_that_goes_from_136_to_174_is_gridded_in_four_acts(page: Page, address: str, tmp_path: Path) -> None:
    song = short(SONGS[5], "route.wav", title="Weir", bpm=136.0, second_bpm=174.0, rate=44_100, swing=0.0)
    make(song, tmp_path)
    true = true_grid(song)
    sent = page.request.post(
        f"{address}/api/tracks",
        multipart={"file": {"name": song.file, "mimeType": "audio/wav", "buffer": (tmp_path / song.file).read_bytes()}},
    )
    track = sent.json()["track"]["id"]
    at = f"{address}/api/tracks/{track}"

    def markup() -> dict:
        return page.request.get(f"{at}/markup").json()

    until(page, lambda: markup()["markup"]["grid"] is not None)
    wrong = Grid.constant(100.0, 0.3).model_dump()
    put = {"version": markup()["version"], "command": {"kind": "put_grid", "grid": wrong}}
    assert page.request.post(f"{at}/markup/commands", data=put).ok
    page.goto(f"{address}/grid/{track}")
    expect(page.get_by_role("region", name="Weave")).to_be_visible()

    def after(act: Callable[[], object]) -> Grid:
        version = markup()["version"]
        act()
        until(page, lambda: markup()["version"] > version)
        return Grid.model_validate(markup()["markup"]["grid"])

    stage = page.locator(".stage")
    begin, per_second = (float(stage.get_attribute(f"data-{name}") or 0) for name in ("from", "per-second"))
    wave = page.locator(".stage .wave")
    wave.click(position={"x": (0.06 - begin) * per_second, "y": 60})  # on the first kick
    whole = after(lambda: page.keyboard.press("e"))
    assert whole.bpm_after == pytest.approx(136.0, abs=0.05)
    bar = page.get_by_label("Go to bar", exact=True)
    step = round(float(whole.beat_at(true.anchors[-1].time_s)) / 4)
    bar.fill(str(step + 1))
    bar.press("Enter")
    grid = after(lambda: page.keyboard.press("e"))
    times = true.time_at(np.arange(song.beat_of(song.bars)))
    beats = grid.beat_at(times)
    assert np.abs(grid.time_at(np.rint(beats)) - times).max() < 0.005
    assert grid.tempi_at_ends(0.0, float(times[-1])) == (pytest.approx(136.0, abs=0.05), pytest.approx(174.0, abs=0.05))
    assert page.request.delete(at).ok
