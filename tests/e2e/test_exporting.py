"""Exports through the page: a part of a mix as MP3, lists, the cue card, a backup."""

from __future__ import annotations

import json
import re
import zipfile
from pathlib import Path

import mutagen
import pytest
from playwright.sync_api import Page, expect

from standins.host.app import create_host
from standins.host.shelf import Behaviour, Shelf
from standins.player.app import create_player
from tests.conftest import Made
from tests.e2e.conftest import ask, downloaded, tracks_by_title
from tests.e2e.test_order import state
from tests.standins.serving import served

pytestmark = pytest.mark.slow


def saved_as(page: Page, name: str, folder: Path) -> Path:
    page.get_by_role("button", name="Save as…").click()
    with page.expect_download() as caught:
        page.get_by_role("menuitem", name=name).click()
    path = folder / caught.value.suggested_filename
    caught.value.save_as(path)
    return path


def test_one_transition_becomes_an_mp3_and_the_list_is_saved_in_several_forms(
    page: Page, mix: str, library: list[Made], tmp_path: Path
) -> None:
    page.goto(f"{mix}/render")
    page.get_by_role("radio", name="MP3, 320 kbit/s").check()
    between = f"{library[0].song.title} → {library[1].song.title}"
    page.get_by_label("What", exact=True).select_option(label=between)
    page.get_by_label("Level", exact=True).select_option(label="to −16 LUFS (podcasts)")
    expect(page.get_by_text("It is rendered twice")).to_be_visible()
    page.get_by_role("button", name="Render MP3, 320 kbit/s").click()
    expect(page.get_by_role("article")).to_be_in_viewport()
    expect(page.get_by_role("article")).to_have_attribute("data-state", "done", timeout=120_000)
    file = mutagen.File(downloaded(page, "Download", tmp_path))
    turn = state(mix)["plan"]["transitions"][0]
    assert file.info.length == pytest.approx(turn["end_s"] - turn["start_s"] + 30.0, abs=0.5)
    assert len(file.tags.getall("CHAP")) == 2
    page.get_by_label("Times", exact=True).select_option(label="where each is alone")
    said = json.loads(saved_as(page, "JSON", tmp_path).read_text())
    assert said["tracks"][1]["start_s"] == pytest.approx(turn["end_s"], abs=0.01)
    assert saved_as(page, "CUE sheet", tmp_path).read_text().count("INDEX 01") == len(library)
    assert library[1].song.title in saved_as(page, "Cue card, HTML", tmp_path).read_text()
    assert saved_as(page, "Cue card to play it live, PDF", tmp_path).read_bytes().startswith(b"%PDF")
    _published(page, tmp_path)


def _published(page: Page, folder: Path) -> None:
    """The file goes to a host that breaks off once and has another token at first."""
    shelf = Shelf(folder / "host")
    shelf.behave(Behaviour(break_after=400_000))
    with served(create_host(folder / "host")) as host:
        for token, words in (("wrong", "not known here"), (shelf.token(), "Published at")):
            page.get_by_role("button", name="Publish…").click()
            page.get_by_label("Host", exact=True).fill(host)
            if token != "wrong":
                page.get_by_role("button", name="forget it", exact=True).click()
            page.get_by_label("Token", exact=True).fill(token)
            page.get_by_role("button", name="Send it").click()
            expect(page.get_by_role("article").get_by_text(words)).to_be_visible(timeout=60_000)
        ((_, said),) = shelf.all_mixes()
        assert len(said["tracks"]) == 2
        assert said["private"]


def test_a_mix_goes_into_a_bundle_and_is_opened_beside_what_is_there(
    page: Page, address: str, mix: str, library: list[Made], tmp_path: Path
) -> None:
    page.goto(f"{mix}/render")
    box = page.get_by_role("region", name="Bundle for another computer")
    box.get_by_label("The music in the bundle").select_option(label="without the music")
    box.get_by_role("button", name="Make bundle").click()
    expect(box.get_by_role("link", name="Download")).to_be_visible(timeout=60_000)
    packed = downloaded(page, "Download", tmp_path)
    track = tracks_by_title(page, address)[library[1].song.title]
    at = f"{address}/api/tracks/{track}/markup"
    version = page.request.get(at).json()["version"]
    cue = {"kind": "put_cues", "cues": [{"id": "later", "at": 24.0, "name": "later"}]}
    ask(page, f"{at}/commands", {"version": version, "command": cue})
    page.goto(address)
    page.get_by_label("Open a bundle").set_input_files(packed)
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("here already")).to_have_count(2)
    dialog.get_by_role("button", name="compare").click()
    expect(dialog.get_by_text("later")).to_be_visible()
    dialog.get_by_role("button", name="Open the mix").click()
    expect(page).to_have_url(re.compile(r"/mix/\w+/transitions"))
    assert page.url.split("/mix/")[1].split("/")[0] not in mix
    assert state(page.url.split("/transitions")[0])["plan"]["duration_s"] == state(mix)["plan"]["duration_s"]
    page.goto(address)
    page.get_by_label("Open a bundle").set_input_files(library[0].path)
    expect(page.get_by_text(re.compile("no whole bundle"))).to_be_visible()
    ask(page, f"{at}/undo", {"version": page.request.get(at).json()["version"]})


def test_a_stick_is_filled_played_and_what_was_changed_on_it_is_taken(
    page: Page, address: str, mix: str, library: list[Made], tmp_path: Path
) -> None:
    stick = tmp_path / "stick"
    stick.mkdir()
    page.goto(f"{address}/stick")
    field = page.get_by_label("The whole path of the stick")
    field.fill(str(stick / "nowhere"))
    field.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("There is no folder at")
    field.fill(str(stick))
    field.press("Enter")
    page.locator(f"input[value='{mix.rsplit('/', 1)[-1]}']").check()
    page.get_by_role("button", name="Fill stick").click()
    expect(page.get_by_text("all checked")).to_be_visible(timeout=60_000)
    page.get_by_text("there already").wait_for()
    with served(create_player(stick)) as player:
        page.goto(player)
        page.get_by_role("row").filter(has_text=library[0].song.title).click()
        page.get_by_role("button", name="Add a cue here").click()
        name = page.get_by_label("Name of the cue").first
        name.fill("from the booth")
        name.press("Enter")
        page.wait_for_timeout(300)
    page.goto(f"{address}/stick")
    expect(page.get_by_text("from the booth")).to_be_visible()
    page.get_by_role("button", name="Take selected").click()
    expect(page.get_by_text("Nothing was marked otherwise")).to_be_visible()
    track = tracks_by_title(page, address)[library[0].song.title]
    at = f"{address}/api/tracks/{track}/markup"
    opened = page.request.get(at).json()
    assert "from the booth" in [c["name"] for c in opened["markup"]["cues"]]
    ask(page, f"{at}/undo", {"version": opened["version"]})


def test_what_a_file_says_of_a_track_is_seen_before_it_is_taken(
    page: Page, address: str, library: list[Made], tmp_path: Path
) -> None:
    labels = tmp_path / "labels.txt"
    labels.write_text("4.0\t4.0\tclaps\n0.5\t16.5\tintro\n")
    track = tracks_by_title(page, address)[library[0].song.title]
    page.goto(f"{address}/grid/{track}")
    reading = page.get_by_label("A file that says something of this track")
    reading.set_input_files(labels)
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("0:04.000 claps")).to_be_visible()
    dialog.get_by_role("checkbox", name="Sections").uncheck()
    dialog.get_by_role("button", name="Take selected").click()
    expect(dialog).to_have_count(0)
    at = f"{address}/api/tracks/{track}/markup"
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_be_enabled()
    assert "claps" in [c["name"] for c in page.request.get(at).json()["markup"]["cues"]]
    page.get_by_role("button", name=re.compile("^Undo")).click()
    labels.write_text("ferns")
    reading.set_input_files(labels)
    expect(page.get_by_text("is no label")).to_be_visible()


@pytest.mark.usefixtures("library")
def test_a_backup_is_made_and_saved_elsewhere(page: Page, address: str, tmp_path: Path) -> None:
    page.goto(address)
    page.get_by_label("with the music").uncheck()
    page.get_by_role("button", name="Back up now").click()
    save = page.get_by_role("link", name="Save elsewhere")
    expect(save).to_be_visible(timeout=60_000)
    with page.expect_download() as caught:
        save.click()
    path = tmp_path / "kept.zip"
    caught.value.save_as(path)
    assert "fernbrook.db" in zipfile.ZipFile(path).namelist()
    page.get_by_role("region", name="Backup").get_by_role("button", name="Delete").click()
    expect(save).to_have_count(0)
