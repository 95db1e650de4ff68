"""What tests share: short demo tracks, made once a run, and tracks and plans of them."""

from __future__ import annotations

import subprocess
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import settings

from fernbrook.core.track import TrackFacts
from fernbrook.demo.make import make, read_truth
from fernbrook.demo.song import Song, Truth
from tests import songs

# How long an example takes depends on what else the machine does: it is no failure.
settings.register_profile("any machine", deadline=None)
settings.load_profile("any machine")


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--quick", action="store_true", help="leave out what is slow, and begin with what was changed")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    if not config.getoption("--quick"):
        return
    slow = [i for i in items if i.get_closest_marker("slow") and not i.get_closest_marker("vital")]
    config.hook.pytest_deselected(items=slow)
    changed = _changed_areas(config.rootpath)
    items[:] = sorted(
        (item for item in items if item not in slow),
        key=lambda item: not changed & {item.path.stem, *item.path.relative_to(config.rootpath).parts},
    )


def _changed_areas(root: Path) -> set[str]:
    """The packages and the test files in which something is not committed."""
    listed = subprocess.run(
        ["git", "status", "--porcelain", "--untracked-files=all"], cwd=root, capture_output=True, text=True, check=False
    )
    paths = [Path(line[3:].split(" -> ")[-1]) for line in listed.stdout.splitlines()]
    return {p.parts[1] for p in paths if p.parts[0] == "fernbrook" and len(p.parts) > 2} | {
        p.stem for p in paths if p.parts[0] == "tests"
    }


@dataclass(frozen=True)
class Made:
    """A made track: its file, its truth, and what the rules know of it."""

    song: Song
    path: Path
    truth: Truth

    @property
    def facts(self) -> TrackFacts:
        name = self.path.stem
        return TrackFacts(id=name, title=self.song.title, duration_s=self.truth.duration_s, grid=self.truth.grid)

    def sound(self) -> np.ndarray:
        return soundfile.read(self.path, dtype="float32", always_2d=True)[0]


@pytest.fixture(scope="session")
def made_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("made")


def _made(song: Song, folder: Path) -> Made:
    path = make(song, folder)
    return Made(song, path, read_truth(folder, song))


@pytest.fixture(scope="session")
def first(made_folder: Path) -> Made:
    """120 BPM, WAV at 44.1 kHz."""
    return _made(songs.FIRST, made_folder)


@pytest.fixture(scope="session")
def second(made_folder: Path) -> Made:
    """126 BPM, FLAC."""
    return _made(songs.SECOND, made_folder)


@pytest.fixture(scope="session")
def wandering(made_folder: Path) -> Made:
    """A player who strays within 1.5 % of 118 BPM."""
    return _made(songs.WANDERING, made_folder)


@pytest.fixture(scope="session")
def other_rate(made_folder: Path) -> Made:
    """122 BPM at 48 kHz."""
    return _made(songs.OTHER_RATE, made_folder)
