"""What a library has been through: an upgrade that places otherwise, and tags in another encoding than they say."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
import soundfile
from mutagen.id3 import ID3, TIT2, TPE1
from playwright.sync_api import Page, expect

from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track import PutGrid
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from fernbrook.store.mixes import MIX
from fernbrook.store.tables import MixRow
from tests.conftest import Made
from tests.e2e.server import running
from tests.service.conftest import without_analyses

pytestmark = pytest.mark.slow


@pytest.fixture
def older(tmp_path: Path, first: Made, second: Made) -> tuple[Path, str]:
    """A data folder of an older Fernbrook: a mix whose transition lay eight beats earlier, and a name in CP1251."""
    services = Services(Folders(tmp_path / "data"), workers=1)
    ids = []
    for made in (first, second):
        ids.append(services.library.bring_in_path(made.path).track.id)
        services.marking.change(ids[-1], None, PutGrid(grid=made.truth.grid))
    misread = tmp_path / "1.mp3"
    soundfile.write(misread, first.sound()[:200_000], 44_100, format="MP3")
    tags = ID3()
    for frame, text in ((TIT2, "Ночь в оранжерее"), (TPE1, "Зоопарк")):
        tags.add(frame(encoding=0, text=text.encode("cp1251").decode("latin-1")))
    tags.save(misread)
    services.library.bring_in_path(misread)
    mix = services.mixes.create("Night")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(ids)))
    without_analyses(services)
    services.mixes.outcomes.note()
    with services._database.write() as session:
        row = session.get_one(MixRow, mix.id)
        heard = MIX.from_bytes(row.heard or b"")
        (met,) = heard.transitions
        earlier = met.model_copy(update={"out_at": met.out_at - 8.0})
        row.heard, row.heard_rules = MIX.to_bytes(heard.model_copy(update={"transitions": (earlier,)})), 0
    services.stop()
    return tmp_path / "data", mix.id


@pytest.fixture
def upgraded(older: tuple[Path, str]) -> Iterator[tuple[str, str]]:
    """The address of the application on that folder, and of the mix in it."""
    expect.set_options(timeout=20_000)
    with running(older[0]) as address:
        yield address, f"{address}/mix/{older[1]}"


def test_what_stayed_over_an_upgrade_is_said_placed_again_and_taken_back(page: Page, upgraded: tuple[str, str]) -> None:
    page.goto(f"{upgraded[1]}/transitions/1")
    line = page.get_by_role("status", name="Transitions that stayed")
    expect(line).to_contain_text("stayed in place")
    bar = page.get_by_label("Mix-out at bar", exact=True)
    before = float(bar.input_value())
    line.get_by_role("button", name="Place again").click()
    expect(line).to_have_count(0)
    expect(bar).to_have_value(str(int(before + 2)))
    page.keyboard.press("Control+z")
    expect(bar).to_have_value(str(int(before)))
    line.get_by_role("button", name="Leave in place").click()
    expect(line).to_have_count(0)
    page.reload()
    expect(bar).to_have_value(str(int(before)))
    expect(line).to_have_count(0)


def test_names_in_another_encoding_are_read_as_what_they_could_be(page: Page, upgraded: tuple[str, str]) -> None:
    page.goto(f"{upgraded[0]}/tracks")
    page.get_by_role("row").filter(has_text="Íî÷ü").first.get_by_text("Íî÷ü").click()
    page.get_by_role("button", name="Read names as").click()
    page.get_by_role("menuitem", name="Cyrillic: Ночь в оранжерее – Зоопарк").click()
    row = page.get_by_role("row").filter(has_text="Ночь в оранжерее")
    expect(row).to_contain_text("Зоопарк")
    expect(page.get_by_role("button", name="Read names as")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("row").filter(has_text="Íî÷ü").first).to_be_visible()
