"""Where a command does its work: in the data folder itself, or through the server that has the folder."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from fernbrook.errors import FernbrookError, NotFoundError
from fernbrook.formats.bundle import BundleAudio
from fernbrook.service.work.wish import RenderWish

if TYPE_CHECKING:
    pass

Report = Callable[[float], None]
LOOK_EVERY_S = 0.3


@dataclass(frozen=True)
class Taken:
    """What came of a file that was brought in."""

    title: str
    track_id: str
    known: bool
    restored: bool


@dataclass(frozen=True)
class NamedMix:
    """A mix by id and name."""

    id: str
    name: str


class Desk(Protocol):
    """What commands ask for."""

    def bring_in(self, path: Path, in_place: bool) -> Taken:
        """Take a file into the library."""

    def waiting(self, track_ids: list[str]) -> float | None:
        """How far the analyses of some tracks are, 0..1; None when all have ended."""

    def mixes(self) -> list[NamedMix]:
        """All mixes."""

    def render(self, mix: NamedMix, out: Path, wish: RenderWish, report: Report) -> float:
        """Render a mix to a file and return how many seconds it lasts."""

    def bundle(self, mix: NamedMix, out: Path, audio: BundleAudio, history: bool, report: Report) -> None:
        """Pack a mix into a file."""

    def open_bundle(self, file: Path, theirs: bool, report: Report) -> list[str]:
        """Open a bundle, and say line by line what became of what is in it."""


def opened_lines(name: str, tracks: Sequence[tuple[str, str]], theirs: bool) -> list[str]:
    """What became of the tracks of a bundle, each with how it arrived."""
    words = {
        "new": "new",
        "same": "was here",
        "differs": "was here; its markup is now the bundle's" if theirs else "was here with other markup, which stays",
        "missing": "its music is not here: import it, and it is found again",
    }
    return [f"‘{name}’ is in the library.", *(f"  {title}: {words[arrival]}" for title, arrival in tracks)]


def one_named(mixes: list[NamedMix], wanted: str) -> NamedMix:
    """The mix with that name or id.

    Raises
    ------
    NotFoundError
        When there is none; the message lists the names.
    FernbrookError
        When several have the name; the message lists their ids.
    """
    found = [m for m in mixes if wanted in (m.id, m.name)]
    if not found:
        raise NotFoundError(f"There is no mix ‘{wanted}’. The mixes are: {', '.join(m.name for m in mixes)}")
    if len(found) > 1:
        raise FernbrookError(f"{len(found)} mixes are called ‘{wanted}’. Say which by its id: "
                             f"{', '.join(m.id for m in found)}")  # fmt: skip
    return found[0]
