"""States of every version that there has been are read, and mean what they meant."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from pydantic import BaseModel

from fernbrook.core.mix.curves import Control
from fernbrook.core.mix.transitions import Gap, GapBefore, ReadyShape
from fernbrook.core.track import Cue, CueRole, Markup
from fernbrook.service.exporting.renders import KIND as RENDER
from fernbrook.service.mixes.orders import KIND as ORDER
from fernbrook.service.tracks.library import ANALYSE_ORDER
from fernbrook.service.tracks.stems import ORDER as SEPARATE
from fernbrook.service.tracks.straightening import KIND as STRAIGHTEN
from fernbrook.store.markup import MARKUP
from fernbrook.store.mixes import MIX
from fernbrook.store.stored import NewerStateError, OutOfBoundsError, Stored

EXAMPLES = Path(__file__).parent / "examples"
STORED: dict[str, Stored[Any]] = {
    "mix": MIX,
    "markup": MARKUP,
    "analyse": ANALYSE_ORDER,
    "render": RENDER.order,
    "order": ORDER.order,
    "straighten": STRAIGHTEN.order,
    "separate": SEPARATE,
}


def _example(name: str) -> dict[str, Any]:
    example: dict[str, Any] = json.loads((EXAMPLES / f"{name}.json").read_text())
    return example


@pytest.mark.parametrize("path", sorted(EXAMPLES.glob("*.json")), ids=lambda p: p.stem)
def test_each_stored_example_is_read_and_means_the_same_as_the_newest(path: Path) -> None:
    kind, _ = path.stem.split("-")
    stored = STORED[kind]
    assert stored.from_json(_example(path.stem)) == stored.from_json(_example(f"{kind}-{stored.version}"))


@pytest.mark.parametrize("kind", STORED)
def test_every_version_has_an_example_and_the_newest_is_what_is_written(kind: str) -> None:
    stored = STORED[kind]
    assert {p.stem for p in EXAMPLES.glob(f"{kind}-*.json")} == {f"{kind}-{v + 1}" for v in range(stored.version)}
    newest = _example(f"{kind}-{stored.version}")
    assert stored.to_json(stored.from_json(newest)) == newest
    assert stored.from_bytes(stored.to_bytes(stored.from_json(newest))) == stored.from_json(newest)


def test_curves_of_the_first_version_are_the_curves_they_were() -> None:
    old = _example("mix-1")["transitions"][0]
    new = MIX.from_json(_example("mix-1")).transitions[0]
    for side in ("outgoing", "incoming"):
        for control in (Control.VOLUME, Control.LOW, Control.MID, Control.HIGH):
            points = [(p["at"], p["value"]) for p in old[side][control.value]["points"]]
            assert [p[:2] for p in getattr(new, side).curve(control).points] == points


def test_orders_of_the_first_version_name_no_folder_any_more() -> None:
    render = RENDER.order.from_json(_example("render-1"))
    assert render.target == "renders/abc123.flac"
    assert render.paths["elsewhere"] == "/home/someone/Music/02.flac"
    ours = [p for p in render.paths.values() if p != render.paths["elsewhere"]]
    assert [p.startswith("audio/") for p in ours] == [True]
    assert STORED["analyse"].from_json(_example("analyse-1")).path.startswith("audio/")


def test_a_state_of_a_newer_version_is_told_apart() -> None:
    newer = {"version": MIX.version + 1, "state": {}}
    with pytest.raises(NewerStateError, match="newer Fernbrook"):
        MIX.from_json(newer)


class _Small(BaseModel):
    a: int
    c: int


def test_upgrades_run_one_after_the_other_from_where_a_state_is() -> None:
    def step(name: str) -> Callable[[dict[str, Any]], dict[str, Any]]:
        return lambda state: {**{k: v for k, v in state.items() if k != "b"}, name: len(state)}

    stored = Stored(_Small, {1: lambda s: {**s, "b": 5}, 2: step("c")})
    assert stored.from_json({"a": 1}) == _Small(a=1, c=2)
    assert stored.from_json({"version": 2, "state": {"a": 1, "b": 7}}) == _Small(a=1, c=2)
    assert stored.version == 3


def test_what_could_not_be_read_again_is_not_written() -> None:
    far = Markup(cues=(Cue(id="c", at=1e6),))
    MARKUP.from_bytes(MARKUP.to_bytes(far))
    moved = far.model_copy(update={"cues": (far.cues[0].model_copy(update={"at": 1e6 + 1.0}),)})
    with pytest.raises(OutOfBoundsError, match="of number 1 of ‘cues’"):
        MARKUP.to_bytes(moved)


def test_a_breath_and_a_clear_by_cue_of_before_are_a_gap_and_an_alone_from_cue() -> None:
    mix = _example("mix-8")
    mix["state"]["transitions"][0]["breath"] = {"beats": 4.0, "before": "end", "side": "both", "rings": False}
    mix["state"]["untouched"] = "breath_and_drop"
    read = MIX.from_json(mix)
    assert read.transitions[0].gap == Gap(beats=4.0, before=GapBefore.END, rings=False)
    assert read.untouched is ReadyShape.GAP_AND_DROP

    markup = _example("markup-4")
    markup["state"]["cues"] = [{"id": "a", "at": 8.0, "role": "clear_by", "name": "clear_by"}]
    cue = MARKUP.from_json(markup).cues[0]
    assert (cue.role, cue.name) == (CueRole.ALONE_FROM, "clear_by"), "what somebody wrote stays"
