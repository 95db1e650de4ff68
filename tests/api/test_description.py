"""The API does what its description says: requests that are made from the description, of all sorts, find nothing."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
import schemathesis
import soundfile
from hypothesis import HealthCheck, Phase, given, settings

from fernbrook.api.app import create_app
from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track.commands import PutGrid
from fernbrook.core.track.grid import Grid
from fernbrook.service.house import House
from fernbrook.store.folders import Folders
from tests.e2e.server import running

pytestmark = pytest.mark.slow

EXAMPLES = 20
"""Requests for each operation."""
ENDLESS = "/api/news"


@dataclass(frozen=True)
class Described:
    """A running application, and what there is in it."""

    address: str
    known: dict[str, str]


def _operations() -> dict[str, schemathesis.schemas.APIOperation]:
    with tempfile.TemporaryDirectory() as folder:
        house = House(Folders(Path(folder)))
        schema = schemathesis.openapi.from_dict(create_app(house).openapi())
        house.stop()
    found = (result.ok() for result in schema.get_all_operations())
    return {op.label: op for op in found if op.path != ENDLESS}


OPERATIONS = _operations()


@pytest.fixture(scope="module")
def described(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Described]:
    """An application with a track in a mix."""
    folder = tmp_path_factory.mktemp("described")
    soundfile.write(folder / "x.wav", 0.1 * np.random.default_rng(0).standard_normal((3 * 44_100, 2)), 44_100)
    house = House(Folders(folder / "data"), workers=1)
    track = house.library.bring_in_path(folder / "x.wav").track
    house.marking.change(track.id, None, PutGrid(grid=Grid.constant(120.0, 0.0)))
    mix = house.mixes.create("Night")
    house.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track.id, track.id)))
    house.stop()
    with running(folder / "data") as address:
        yield Described(address, {"track_id": track.id, "mix_id": mix.id})


@pytest.mark.parametrize("label", OPERATIONS)
def test_an_operation_keeps_to_the_description(described: Described, label: str) -> None:
    deletes = label.startswith("DELETE")

    @settings(
        max_examples=EXAMPLES,
        deadline=None,
        derandomize=True,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(case=OPERATIONS[label].as_strategy())
    def keeps_to_it(case: schemathesis.Case) -> None:
        if not deletes:  # half of the requests reach what is there, the others ask for what is not
            known = {k: v for k, v in described.known.items() if k in case.path_parameters}
            case.path_parameters |= known if len(str(case.body)) % 2 == 0 else {}
        case.call_and_validate(base_url=described.address)

    keeps_to_it()
