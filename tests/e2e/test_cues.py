"""Cues and loops in Chromium: set while the track plays, accepted, moved, heard, seen at the seam."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Made
from tests.e2e.conftest import tracks_by_title
from tests.e2e.hands import drag
from tests.e2e.sound import RATE, expect_sound, expect_state, frame, run
from tests.e2e.until import until


class Board:
    """The cues of one track in the page, and what the server has of them."""

    def __init__(self, page: Page, address: str, made: Made) -> None:
        self.page = page
        self.id = tracks_by_title(page, address)[made.song.title]
        self.at = f"{address}/api/tracks/{self.id}"
        self.grid = made.truth.grid
        page.goto(f"{address}/grid/{self.id}")
        page.get_by_text("Cues & loops", exact=True).click()
        expect(page.get_by_role("complementary", name="Cues & loops")).to_be_visible()

    @property
    def markup(self) -> dict:
        return self.page.request.get(f"{self.at}/markup").json()["markup"]

    def cues(self) -> dict[str, float]:
        return {c["role"]: c["at"] for c in self.markup["cues"]}

    def until(self, condition: Callable[[], bool]) -> None:
        until(self.page, condition)

    def wait_for(self, count: int) -> list[dict]:
        self.until(lambda: len(self.markup["cues"]) == count)
        return list(self.markup["cues"])

    def clear(self) -> None:
        version = self.page.request.get(f"{self.at}/markup").json()["version"]
        ids = {"remove_cues": self.markup["cues"], "remove_loops": self.markup["loops"]}
        for kind, there in ids.items():
            if there:
                command = {"kind": kind, "ids": [x["id"] for x in there]}
                self.page.request.post(f"{self.at}/markup/commands", data={"version": version, "command": command})
                version += 1


@pytest.fixture
def board(page: Page, address: str, library: list[Made]) -> Board:
    board = Board(page, address, library[0])
    board.clear()
    page.reload()
    expect(page.get_by_text("None yet.").first).to_be_visible()
    return board


def test_a_cue_that_is_set_while_it_plays_lies_on_the_beat_that_was_heard(page: Page, board: Board) -> None:
    page.get_by_role("button", name="Play from the cursor").click()
    expect_sound(page)
    heard = frame(page) / RATE
    page.keyboard.press("o")
    (cue,) = board.wait_for(1)
    assert (cue["role"], cue["at"] % 1.0) == ("mix_out", 0.0)
    moment = float(board.grid.time_at(cue["at"]))
    # On the beat that is nearest to what was heard; the way to the ears is longer than none and shorter than a beat.
    half = 30.0 / board.grid.bpm_after
    assert heard - half - 0.2 < moment < heard + half + 0.06
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Cue out").first).to_be_visible()


def test_what_is_suggested_is_accepted_one_by_one_or_all(page: Page, board: Board) -> None:
    suggested = page.request.get(f"{board.at}/markup").json()["suggested_cues"]
    roles = {p["cue"]["role"] for p in suggested}
    assert roles >= {"start", "mix_in", "mix_out", "alone_from"}
    page.get_by_role("button", name="Accept Mix-in").click()
    board.wait_for(1)
    page.keyboard.press("Shift+Y")
    board.wait_for(len(suggested))
    expect(page.get_by_role("heading", name="Suggested")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    board.wait_for(1)


def test_a_cue_is_nudged_dragged_named_and_removed(page: Page, board: Board) -> None:
    page.keyboard.press("i")
    (cue,) = board.wait_for(1)
    page.keyboard.press("]")
    page.keyboard.press(">")
    wanted = float(board.grid.time_at(cue["at"] + 1)) + 0.01
    board.until(lambda: abs(float(page.get_by_label("Second", exact=True).input_value()) - wanted) < 0.003)
    page.get_by_label("Name of the cue").fill("door")
    page.get_by_label("Name of the cue").press("Enter")
    stake = page.locator(".stage").get_by_role("button", name="Cue in · door")
    expect(stake).to_be_visible()
    at = board.cues()["mix_in"]
    drag(page, stake, 160)
    board.until(lambda: board.cues()["mix_in"] != at)
    moved = board.cues()["mix_in"]
    assert moved > at
    assert moved % 1.0 == 0.0
    page.keyboard.press("Delete")
    board.wait_for(0)


def test_a_key_that_is_held_plays_from_the_cue_and_goes_back(page: Page, board: Board) -> None:
    page.get_by_label("Middle", exact=True).click()
    page.keyboard.press("p")
    (cue,) = board.wait_for(1)
    page.get_by_label("First", exact=True).click()
    page.keyboard.down("h")
    expect_sound(page)
    assert frame(page) / RATE > float(board.grid.time_at(cue["at"])) - 0.1
    page.keyboard.up("h")
    expect_state(page, "paused")


def test_a_loop_goes_round_and_is_made_into_a_series(page: Page, board: Board) -> None:
    page.get_by_role("button", name="Set a loop").click()
    expect(page.get_by_label("Kind of the loop")).to_be_visible()
    page.get_by_role("button", name="Halve the loop").click()
    page.get_by_role("button", name="Halve the loop").click()
    page.get_by_role("button", name="Again after it").click()
    expect(page.get_by_role("button", name="Hear the loop Loop")).to_have_count(2)
    board.until(lambda: [x["beats"] for x in board.markup["loops"]] == [4.0, 4.0])
    loops = board.markup["loops"]
    assert loops[1]["start"] == loops[0]["start"] + 4.0
    page.get_by_role("button", name="Hear the loop Loop").first.click()
    expect_sound(page)
    end = float(board.grid.time_at(loops[1]["start"])) * RATE
    run(page, 2.5)  # a bar lasts two seconds: it has gone round by now
    assert frame(page) <= end + 1
    expect_state(page, "playing")
    page.keyboard.press("Space")


def test_cues_place_what_nobody_shaped_and_stand_at_the_seam(
    page: Page, board: Board, address: str, library: list[Made]
) -> None:
    ids = tracks_by_title(page, address)
    other = ids[library[1].song.title]
    cue = {"id": "x", "at": 16.0, "role": "mix_in", "name": "door", "preferred": True}
    opened = page.request.get(f"{address}/api/tracks/{other}/markup").json()
    command = {"kind": "put_cues", "cues": [cue]}
    page.request.post(
        f"{address}/api/tracks/{other}/markup/commands", data={"version": opened["version"], "command": command}
    )
    mix = page.request.post(f"{address}/api/mixes", data={"name": "By cues"}).json()
    added = {"kind": "add_tracks", "track_ids": [board.id, other]}
    page.request.post(f"{address}/api/mixes/{mix['id']}/commands", data={"version": mix["version"], "command": added})
    page.goto(f"{address}/mix/{mix['id']}/transitions/1")
    expect(page.get_by_role("button", name="Cue in · door")).to_be_visible()
    expect(page.get_by_role("spinbutton", name="Mix-in at bar")).to_have_value("5")
    removal = {"kind": "remove_cues", "ids": ["x"]}
    page.request.post(f"{address}/api/tracks/{other}/markup/commands",
                      data={"version": opened["version"] + 1, "command": removal})  # fmt: skip
    page.request.delete(f"{address}/api/mixes/{mix['id']}")
