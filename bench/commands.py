"""A change of a mix of 10, 60, 200 and 500 freely played entries, from the request to the whole answer.

Told in processor time, beside the bare reading of the answer as JSON: what the page must do at least.
"""

from __future__ import annotations

import json
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from itertools import count
from pathlib import Path

import numpy as np

from bench.rows import Row
from bench.speed import row_of
from fernbrook.core.track import Grid
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders

SIZES = (10, 60, 200, 500)
Do = Callable[[dict[str, object]], bytes]
RUNS = 7


def rows() -> Iterator[Row]:
    """The figures of each size, after a first mix that does not count: a process is slower in its first seconds."""
    with long_mix(10) as do:
        _gain(10, do)
    for entries in SIZES:
        with long_mix(entries) as do:
            yield _gain(entries, do)
            yield _move(entries, do)


def _gain(entries: int, do: Do) -> Row:
    numbers = count()

    def ask() -> bytes:
        return do({"kind": "set_gain", "entry_id": f"e{entries // 2}", "gain_db": -1.0 - next(numbers) % 9})

    return _row(f"a gain in a mix of {entries}", ask)


def _move(entries: int, do: Do) -> Row:
    """A transition in the middle goes a bar and back."""
    numbers = count()
    pair = {"out_id": f"e{entries // 2}", "in_id": f"e{entries // 2 + 1}"}

    def ask() -> bytes:
        return do({"kind": "place_transition", **pair, "out_at": 400.0 - 4.0 * (next(numbers) % 2), "in_at": 0.0})

    return _row(f"a transition moved in a mix of {entries}", ask)


def _row(what: str, ask: Callable[[], bytes]) -> Row:
    ask()
    answer = ask()
    ours, theirs = 1000 * _cpu(ask), 1000 * _cpu(lambda: json.loads(answer))
    return Row(
        f"{what}, processor time",
        f"{ours:.0f} ms, {len(answer) / 1000:.1f} kB",
        f"json.loads of the answer: {theirs:.2f} ms; ratio {ours / theirs:.0f}",
        "10, 20, 30, 40 ms; 10 kB",
    )


@contextmanager
def long_mix(entries: int) -> Iterator[Do]:
    """A mix of so many entries behind the API; gives what sends it a command as the page does."""
    from fastapi.testclient import TestClient

    from fernbrook.api.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        services = Services(Folders(Path(folder)))
        times = np.cumsum(0.5 + 0.01 * np.random.default_rng(0).standard_normal(480))
        grid = Grid.through(times, np.arange(480.0)).model_dump()
        with services._database.write() as session:
            session.add_all(row_of(i, grid) for i in range(entries))
        with TestClient(create_app(services), base_url="http://127.0.0.1") as client:
            opened = client.post("/api/mixes", json={"name": "long"}).json()
            at, known = f"/api/mixes/{opened['id']}/commands", {"version": opened["version"], "have": opened["tag"]}

            def do(command: dict[str, object]) -> bytes:
                answer = bytes(client.post(at, json={**known, "command": command}).raise_for_status().content)
                # What a page holds on to, without the time that reading it takes here.
                known["version"] += 1
                known["have"] = answer[: answer.index(b'"plan"')].rpartition(b'"tag":"')[2][:32].decode()
                return answer

            do({"kind": "add_tracks", "track_ids": [f"t{i}" for i in range(entries)]})
            yield do


def _cpu(work: Callable[[], object]) -> float:
    """The median processor time of a few runs, all threads, after one that does not count."""
    work()
    times = []
    for _ in range(RUNS):
        start = time.process_time()
        work()
        times.append(time.process_time() - start)
    return statistics.median(times)
