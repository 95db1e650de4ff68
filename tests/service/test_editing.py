"""Proposals for edits of analysed tracks."""

from __future__ import annotations

import pytest

from fernbrook.core.mix.commands import AddTracks
from fernbrook.errors import NotFoundError
from fernbrook.service.services import Services
from tests.conftest import Made
from tests.service.conftest import analysed, until

pytestmark = pytest.mark.slow


def test_an_entry_is_made_shorter_and_longer_where_it_is_alike(services: Services, first: Made, second: Made) -> None:
    ids = tuple(services.library.bring_in_path(m.path).track.id for m in (first, second))
    services.start()
    until(lambda: analysed(services))
    made = services.mixes.create("Night")
    opened = services.mixes.change(made.id, made.version, AddTracks(track_ids=ids))
    shorter = services.editing.folds(opened.id, "e1", 2, longer=False)
    longer = services.editing.folds(opened.id, "e1", 2, longer=True)
    assert shorter
    assert [p.fold for p in shorter] == [p.fold for p in longer]
    bar_s = 4 * 60.0 / opened.plan.entries[0].home_bpm
    for way, by in ((shorter[0], -2 * bar_s), (longer[0], 2 * bar_s)):
        assert way.seconds == pytest.approx(by)
        tried = services.mixes.trial(opened.id, way.command)
        assert tried.plan.duration_s - opened.plan.duration_s == pytest.approx(by, abs=0.05)
    wanted = opened.plan.duration_s - 8 * bar_s
    to = services.editing.to_length(opened.id, wanted)
    if to.command is not None:
        after = services.mixes.trial(opened.id, to.command).plan.duration_s
        assert after == pytest.approx(to.duration_s, abs=0.01)
        assert abs(after - wanted) < abs(opened.plan.duration_s - wanted)
    assert services.editing.to_length(opened.id, opened.plan.duration_s).command is None
    with pytest.raises(NotFoundError):
        services.editing.folds(opened.id, "e9", 4, longer=False)
