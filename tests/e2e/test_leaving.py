"""What leaves through the page: a part of a mix as MP3, lists, the cue card, a backup."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

import mutagen
import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Made
from tests.e2e.conftest import downloaded
from tests.e2e.test_order import state

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
    page.get_by_label("What", exact=True).select_option(index=1)
    page.get_by_label("Level", exact=True).select_option(label="to −16 LUFS (podcasts)")
    expect(page.get_by_text("it is rendered twice")).to_be_visible()
    page.get_by_role("button", name="Render MP3, 320 kbit/s").click()
    expect(page.get_by_role("article")).to_have_attribute("data-state", "done", timeout=120_000)
    file = mutagen.File(downloaded(page, "Download", tmp_path))
    turn = state(mix)["plan"]["transitions"][0]
    assert file.info.length == pytest.approx(turn["end_s"] - turn["start_s"] + 30.0, abs=0.5)
    assert len(file.tags.getall("CHAP")) == 2
    page.get_by_label("Times", exact=True).select_option(label="where each is alone")
    said = json.loads(saved_as(page, "JSON", tmp_path).read_text())
    assert said["tracks"][1]["start_s"] == pytest.approx(turn["end_s"], abs=0.01)
    assert saved_as(page, "CUE sheet", tmp_path).read_text().count("INDEX 01") == len(library)
    assert library[1].song.title in saved_as(page, "Cue card", tmp_path).read_text()


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
    page.get_by_role("region", name="Keep it safe").get_by_role("button", name="Delete").click()
    expect(save).to_have_count(0)
