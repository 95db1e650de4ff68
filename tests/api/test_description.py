"""The API does what its description says: requests that are made from the description, of all sorts, find nothing."""

from __future__ import annotations

import tempfile
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import httpx
import numpy as np
import pytest
import schemathesis
import soundfile
from hypothesis import HealthCheck, Phase, given, settings

from fernbrook.api.app import create_app
from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track import Grid, PutGrid
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from tests.e2e.server import running

pytestmark = pytest.mark.slow

EXAMPLES = 20
"""Requests for each operation."""
ENDLESS = "/api/news"
SAME_EACH_TIME = settings(
    deadline=None,
    derandomize=True,
    database=None,
    phases=[Phase.generate],
    suppress_health_check=list(HealthCheck),
)


@dataclass(frozen=True)
class Described:
    """A running application, and what there is in it."""

    address: str
    known: dict[str, str]

    def state(self) -> tuple[dict[str, int], list[str]]:
        """The versions of the mix and of the track's markup now, and the ids of the entries."""
        mix = httpx.get(f"{self.address}/api/mixes/{self.known['mix_id']}").json()
        markup = httpx.get(f"{self.address}/api/tracks/{self.known['track_id']}/markup").json()
        versions = {"mixes": mix["version"], "tracks": markup["version"]}
        return versions, [entry["id"] for entry in mix["plan"]["entries"]]


def _meets(value: object, known: dict[str, object]) -> object:
    """A body with ids and a version that exist, so that what it asks for is done and not only looked for."""
    if isinstance(value, dict):
        return {k: known[k] if k in known else _meets(v, known) for k, v in value.items()}
    if isinstance(value, list):
        return [_meets(item, known) for item in value]
    return value


def _operations() -> dict[str, schemathesis.schemas.APIOperation]:
    with tempfile.TemporaryDirectory() as folder:
        services = Services(Folders(Path(folder)))
        schema = schemathesis.openapi.from_dict(create_app(services).openapi())
        services.stop()
    found = (result.ok() for result in schema.get_all_operations())
    return {op.label: op for op in found if op.path != ENDLESS}


OPERATIONS = _operations()


@pytest.fixture(scope="module")
def described(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Described]:
    """An application with a track in a mix."""
    yield from _described(tmp_path_factory.mktemp("described"))


@pytest.fixture
def untouched(tmp_path: Path) -> Iterator[Described]:
    """The same, that no other test has asked anything of."""
    yield from _described(tmp_path)


def _described(folder: Path) -> Iterator[Described]:
    soundfile.write(folder / "x.wav", 0.1 * np.random.default_rng(0).standard_normal((3 * 44_100, 2)), 44_100)
    services = Services(Folders(folder / "data"), workers=1)
    track = services.library.bring_in_path(folder / "x.wav").track
    services.marking.change(track.id, None, PutGrid(grid=Grid.constant(120.0, 0.0)))
    mix = services.mixes.create("Night")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track.id, track.id)))
    services.stop()
    with running(folder / "data") as address:
        yield Described(address, {"track_id": track.id, "mix_id": mix.id})


@pytest.mark.parametrize("label", OPERATIONS)
def test_an_operation_keeps_to_the_description(described: Described, label: str) -> None:
    deletes = label.startswith("DELETE")

    @settings(SAME_EACH_TIME, max_examples=EXAMPLES)
    @given(case=OPERATIONS[label].as_strategy())
    def keeps_to_it(case: schemathesis.Case) -> None:
        if not deletes:  # half of the requests reach what is there, the others ask for what is not
            known = {k: v for k, v in described.known.items() if k in case.path_parameters}
            case.path_parameters |= known if len(str(case.body)) % 2 == 0 else {}
        case.call_and_validate(base_url=described.address)

    keeps_to_it()


@pytest.mark.parametrize("label", [name for name in OPERATIONS if name.endswith("/commands")])
def test_commands_on_what_exists_keep_to_the_description(untouched: Described, label: str) -> None:
    answers: Counter[int] = Counter()

    @settings(SAME_EACH_TIME, max_examples=EXAMPLES * 10)
    @given(case=OPERATIONS[label].as_strategy())
    def keeps_to_it(case: schemathesis.Case) -> None:
        versions, entries = untouched.state()
        if len(entries) < 2:
            again = {"kind": "add_tracks", "track_ids": [untouched.known["track_id"]] * 2}
            change = {"version": versions["mixes"], "command": again}
            httpx.post(f"{untouched.address}/api/mixes/{untouched.known['mix_id']}/commands", json=change)
            versions, entries = untouched.state()
        case.path_parameters |= {k: v for k, v in untouched.known.items() if k in case.path_parameters}
        known = {
            "version": versions[label.split("/")[2]],
            "track_id": untouched.known["track_id"],
            "track_ids": [untouched.known["track_id"]],
            "entry_id": entries[0],
            "to_ids": entries[1:],
            "entry_ids": entries[:1],
            "out_id": entries[0],
            "in_id": entries[1],
        }
        case.body = _meets(case.body, known)
        answers[case.call_and_validate(base_url=untouched.address).status_code] += 1

    keeps_to_it()
    assert answers[404] < 0.2 * answers.total(), answers
    assert answers[200] > 0.2 * answers.total(), answers
