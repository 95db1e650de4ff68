"""What happens where there is very much of everything: tracks, mixes, a long history."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from time import perf_counter

from bench.material import facts, tracks
from bench.rows import Row, median_seconds
from bench.speed import row_of
from fernbrook.core.mix.commands import AddTracks, RenameMix
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from fernbrook.store.tables import MixRow, RevisionRow

MANY_TRACKS, MANY_MIXES, LONG_HISTORY = 50_000, 2_000, 20_000


def rows() -> Iterator[Row]:
    """All rows on quantity."""
    yield from _tracks()
    yield from _mixes()
    yield from _history()


def _once(ask: Callable[[], object]) -> float:
    begin = perf_counter()
    ask()
    return 1000 * (perf_counter() - begin)


def _tracks() -> Iterator[Row]:
    from fernbrook.api.schemas.tracks import track_table

    with tempfile.TemporaryDirectory() as folder:
        services = _filled(Path(folder), MANY_TRACKS)
        ids = [f"t{i}" for i in range(MANY_TRACKS)]
        asked: dict[str, Callable[[], object]] = {
            "first list": lambda: track_table(services.catalogue.tracks()),
            "list again": lambda: track_table(services.catalogue.tracks()),
            "searching a word": lambda: services.catalogue.find("artist"),
            "tagging all": lambda: services.collection.tag(ids, add=["new"]),
            "list after that": lambda: track_table(services.catalogue.tracks()),
            "undo of that": services.collection.undo,
        }
        plain = _once(lambda: list(map(str, ids)))
        for what, ask in asked.items():
            yield Row(
                f"{what}, {MANY_TRACKS:,} tracks", f"{_once(ask):,.0f} ms", f"str() of each id: {plain:.1f} ms", "-"
            )
        services.stop()


def _mixes() -> Iterator[Row]:
    with tempfile.TemporaryDirectory() as folder:
        services = _filled(Path(folder), 100)
        for number in range(MANY_MIXES):
            mix = services.mixes.create(f"Mix {number}")
            services.mixes.change(
                mix.id, mix.version, AddTracks(track_ids=tuple(f"t{i % 100}" for i in range(number, number + 10)))
            )
        yield _listed("first list of mixes", services)
        yield _listed("list while they are planned", services)
        yield Row("planning all", f"{_once(services.mixes.outcomes.note):,.0f} ms", "-", "-")
        yield _listed("list of mixes again", services)
        services.collection.rename_track("t7", "Another", "Name")
        yield _listed("list after one track changed, which 200 have", services)
        services.stop()


def _listed(what: str, services: Services) -> Row:
    return Row(f"{what}, {MANY_MIXES:,} of 10 entries", f"{_once(services.mixes.list):,.0f} ms", "-", "-")


def _history() -> Iterator[Row]:
    with tempfile.TemporaryDirectory() as folder:
        services = _filled(Path(folder), 60)
        mix = services.mixes.create("Long")
        services.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(f"t{i}" for i in range(20))))
        short = 1000 * median_seconds(lambda: _renamed(services, mix.id), 9)
        with services._database.write() as session:
            row = session.query(RevisionRow).order_by(RevisionRow.id.desc()).first()
            assert row is not None
            parent = row.id
            for number in range(LONG_HISTORY):
                again = RevisionRow(
                    subject=row.subject, parent=parent, label=f"step {number}", command=None, state=row.state,
                    track_ids=row.track_ids, counted_by=row.counted_by,
                )  # fmt: skip
                session.add(again)
                session.flush()
                parent = again.id
            session.get_one(MixRow, mix.id).head = parent
        asked: dict[str, Callable[[], object]] = {
            "a change": lambda: _renamed(services, mix.id),
            "an undo": lambda: services.mixes.undo(mix.id, services.mixes.open(mix.id).version),
            "the history": lambda: services.mixes.history(mix.id),
        }
        for what, ask in asked.items():
            ours = 1000 * median_seconds(ask, 5)
            yield Row(
                f"{what}, after {LONG_HISTORY:,} steps", f"{ours:.0f} ms", f"a change after two: {short:.0f} ms", "-"
            )
        services.stop()


def _renamed(services: Services, mix_id: str) -> None:
    opened = services.mixes.open(mix_id)
    services.mixes.change(mix_id, opened.version, RenameMix(name=f"Long {opened.version}"))


def _filled(folder: Path, count: int) -> Services:
    services = Services(Folders(folder))
    grid = facts(tracks()[4]).riding_grid.model_dump()
    with services._database.write() as session:
        session.add_all(row_of(i, grid) for i in range(count))
    return services
