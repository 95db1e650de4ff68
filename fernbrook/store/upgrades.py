"""From each version of a stored state to the next. Plain JSON in and out: these outlive the models of their time."""

from __future__ import annotations

import json
from pathlib import PurePath
from typing import Any

Json = dict[str, Any]

FADERS = ("volume", "low", "mid", "high")
LEVEL = [[0.0, 1.0], [1.0, 1.0]]


def as_it_was(state: Json) -> Json:
    """Nothing but the version is new."""
    return state


def mix_1_to_2(mix: Json) -> Json:
    """Curves became a table by control, without those that do nothing; and lists of pairs."""
    return {**mix, "transitions": [_transition_1_to_2(t) for t in mix.get("transitions", [])]}


def _transition_1_to_2(transition: Json) -> Json:
    return {**transition, **{side: _curves_1_to_2(transition[side]) for side in ("outgoing", "incoming")}}


def _curves_1_to_2(curves: Json) -> Json:
    pairs = {
        name: [[p["at"], p["value"]] for p in curves[name]["points"]] for name in FADERS if curves.get(name) is not None
    }
    return {name: points for name, points in pairs.items() if points != LEVEL}


def _inside(path: str, folder: str) -> str:
    """A path that was noted in full, as it lies in a folder of the data folder."""
    return f"{folder}/{PurePath(path.replace(chr(92), '/')).name}"


def _kept(path: str) -> str:
    """The path of an audio file: relative where it lies in the data folder, as it is where it stayed in its place."""
    parts = PurePath(path).parts
    is_ours = len(parts) >= 3 and parts[-3] == "audio" and parts[-1].startswith(parts[-2])
    return "/".join(parts[-3:]) if is_ours else path


def analyse_order_1_to_2(order: Json) -> Json:
    """Paths became relative to the data folder, which is not named any more."""
    return {k: v for k, v in order.items() if k != "root"} | {"path": _kept(order["path"])}


def render_order_1_to_2(order: Json) -> Json:
    """Paths became relative; the mix and its tracks are values in place of JSON in a string."""
    return {
        "mix": mix_1_to_2(json.loads(order["mix"])),
        "tracks": [json.loads(t) for t in order["tracks"]],
        "paths": {track: _kept(path) for track, path in order["paths"].items()},
        "target": _inside(order["target"], "renders"),
        "output": order["output"],
    }


def straighten_order_1_to_2(order: Json) -> Json:
    """As for renders."""
    return {
        **order,
        "track": json.loads(order["track"]),
        "path": _kept(order["path"]),
        "target": _inside(order["target"], "renders"),
    }


def render_order_6_to_7(order: Json) -> Json:
    """What is wished of a render became more than the kind of its file."""
    return {k: v for k, v in order.items() if k != "output"} | {"wish": {"output": order["output"]}}


def steady_entries(mix: Json) -> Json:
    """An entry may go by the tempo of its track, and does so by itself where that changes on purpose. Those that there
    were are steady, as they were."""
    return {**mix, "entries": [{"follows": "steady", **entry} for entry in mix["entries"]]}


def render_order_11_to_12(order: Json) -> Json:
    """As for mixes."""
    return {**order, "mix": steady_entries(order["mix"])}


PLAIN_KEYS: dict[str, str] = {"breath": "gap", "arrives": "comes_in", "leaves": "goes_out"}
PLAIN_VALUES: dict[tuple[str, str], str] = {
    ("role", "clear_by"): "alone_from",
    ("untouched", "breath_and_drop"): "gap_and_drop",
}


def with_plain_words(state: Json) -> Json:
    """A breath is called a gap, and a clear-by cue ‘alone from’, wherever a state has one: in a mix, its takes and the
    shape of its untouched transitions, in the markup of a track, and in orders that hold either. What
    arrives and leaves, in a search for an order, comes in and goes out."""
    renamed: Json = _renamed(state)
    return renamed


def _renamed(value: Any) -> Any:
    if isinstance(value, list):
        return [_renamed(each) for each in value]
    if not isinstance(value, dict):
        return value
    return {
        PLAIN_KEYS.get(key, key): PLAIN_VALUES[key, of]
        if isinstance(of, str) and (key, of) in PLAIN_VALUES
        else _renamed(of)
        for key, of in value.items()
    }
