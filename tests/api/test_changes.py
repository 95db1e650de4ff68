"""A change is answered by what it changed, where the request says which answer the page has."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.asking import bring_in, mix_of
from tests.conftest import Made


@pytest.fixture
def mix(client: TestClient, first: Made, second: Made) -> dict[str, Any]:
    ids = [bring_in(client, made) for made in (first, second)]
    made = mix_of(client, *ids, *ids, *ids)
    return dict(client.get(f"/api/mixes/{made['id']}").json())


def _after(before: dict[str, Any], change: dict[str, Any]) -> dict[str, Any]:
    """An answer with a change put in, as the page does it."""
    head = {name: value for name, value in change.items() if name not in ("plan", "since")}
    told = {}
    for name, now in change["plan"].items():
        told[name] = _list_after(before["plan"][name], now) if isinstance(now, dict) else now
    return {**head, "plan": told}


def _list_after(before: list[Any], change: dict[str, Any]) -> list[Any]:
    items = [*before[: change["length"]], *[None] * (change["length"] - len(before))]
    for at, item in zip(change["at"], change["items"], strict=True):
        items[at] = item
    return items


def _ask(client: TestClient, mix: dict[str, Any], path: str = "commands", **command: Any) -> dict[str, Any]:
    body: dict[str, Any] = {"version": mix["version"], "have": mix["tag"]}
    if command:
        body["command"] = command
    answer = client.post(f"/api/mixes/{mix['id']}/{path}", json=body)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def _as_it_is(client: TestClient, mix: dict[str, Any]) -> dict[str, Any]:
    whole = dict(client.get(f"/api/mixes/{mix['id']}").json())
    return {name: value for name, value in whole.items() if name != "tag"}


def test_changes_put_in_one_after_the_other_give_the_mix_as_it_is(client: TestClient, mix: dict[str, Any]) -> None:
    entries = [e["id"] for e in mix["plan"]["entries"]]
    pair = {"out_id": entries[1], "in_id": entries[2]}
    asked: list[tuple[str, dict[str, Any]]] = [
        ("commands", {"kind": "set_gain", "entry_id": entries[2], "gain_db": -5.0}),
        ("commands", {"kind": "apply_shape", "shape": "bass", **pair}),
        ("commands", {"kind": "place_transition", "out_at": 64.0, "in_at": 0.0, **pair}),
        ("commands", {"kind": "set_kind", "to": "fade", **pair}),
        ("commands", {"kind": "remove_entries", "entry_ids": entries[3:5]}),
        ("undo", {}),
        ("undo", {}),
        ("redo", {}),
        ("commands", {"kind": "move_entries", "entry_ids": entries[:1], "to": 3}),
        ("commands", {"kind": "rename_mix", "name": "Glasshouse"}),
    ]
    have = mix
    for path, command in asked:
        change = _ask(client, have, path, **command)
        assert change["since"] == have["tag"]
        have = _after(have, change)
        assert {name: value for name, value in have.items() if name != "tag"} == _as_it_is(client, mix)


def test_a_gain_tells_of_one_entry_alone(client: TestClient, mix: dict[str, Any]) -> None:
    entry = mix["plan"]["entries"][3]["id"]
    change = _ask(client, mix, kind="set_gain", entry_id=entry, gain_db=-5.0)
    assert change["plan"]["entries"]["at"] == [3]
    for name in ("transitions", "clocks", "sides", "manners", "layers", "warnings"):
        assert change["plan"][name]["at"] == []


def test_whoever_has_nothing_or_what_is_long_gone_gets_all(client: TestClient, mix: dict[str, Any]) -> None:
    entry = mix["plan"]["entries"][0]["id"]
    for number, have in enumerate((None, "0" * 32)):
        command = {"kind": "set_gain", "entry_id": entry, "gain_db": -1.0 - number}
        body = {"version": mix["version"] + number, "have": have, "command": command}
        answer = client.post(f"/api/mixes/{mix['id']}/commands", json=body).json()
        assert "since" not in answer
        assert len(answer["plan"]["entries"]) == 6


def test_an_answer_of_another_mix_is_nothing_to_tell_against(client: TestClient, mix: dict[str, Any]) -> None:
    other = client.get(f"/api/mixes/{client.post('/api/mixes', json={'name': 'x'}).json()['id']}").json()
    entry = mix["plan"]["entries"][0]["id"]
    command = {"kind": "set_gain", "entry_id": entry, "gain_db": -1.0}
    body = {"version": mix["version"], "have": other["tag"], "command": command}
    assert "since" not in client.post(f"/api/mixes/{mix['id']}/commands", json=body).json()
