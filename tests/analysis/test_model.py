"""Models of the user's own, by the contract in ``docs/stems.md``: small ones, made here."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
import onnx
import pytest
from onnx import TensorProto, helper

from fernbrook.analysis.separation.model import ModelError, SeparationModel
from fernbrook.core.track import Stem

RATE = 44_100
SHARES = (0.25, 0.5)


def saved(
    folder: Path,
    *,
    stems: str | None = "drums,vocals",
    length: int | str = "n",
    shares: tuple[float, ...] = SHARES,
    rate: str | None = None,
    ramp: bool = False,
) -> Path:
    """A model that gives shares of what it is given; with a ramp, they rise over each chunk from 0.9 to 1.1 of that."""
    factor = np.array(shares, np.float32).reshape(1, len(shares), 1, 1)
    if ramp:
        assert isinstance(length, int)
        factor = factor * np.linspace(0.9, 1.1, length, dtype=np.float32)
    nodes = [
        helper.make_node("Unsqueeze", ["mix", "one"], ["lifted"]),
        helper.make_node("Mul", ["lifted", "shares"], ["stems"]),
    ]
    graph = helper.make_graph(
        nodes,
        "apart",
        [helper.make_tensor_value_info("mix", TensorProto.FLOAT, [1, 2, length])],
        [helper.make_tensor_value_info("stems", TensorProto.FLOAT, [1, len(shares), 2, length])],
        [
            helper.make_tensor("one", TensorProto.INT64, [1], [1]),
            helper.make_tensor("shares", TensorProto.FLOAT, factor.shape, factor.ravel()),
        ],
    )
    model = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 17)], ir_version=9)
    given = {"stems": stems, "sample_rate": rate}
    helper.set_model_props(model, {k: v for k, v in given.items() if v is not None})
    path = folder / "small.onnx"
    onnx.save(model, path)
    return path


def noise(seconds: float) -> np.ndarray:
    return 0.1 * np.random.default_rng(3).standard_normal((round(seconds * RATE), 2)).astype(np.float32)


@pytest.mark.parametrize(("length", "seconds"), [("n", 3.0), ("n", 27.3), (RATE, 5.1), (RATE, 0.3)])
def test_a_model_takes_a_track_of_any_length_apart_without_seams(
    tmp_path: Path, length: int | str, seconds: float
) -> None:
    model = SeparationModel(saved(tmp_path, length=length), RATE)
    sound = noise(seconds)
    told: list[float] = []
    found = model.separate(sound, told.append)
    assert list(found) == [Stem.DRUMS, Stem.VOICE]
    for part, share in zip(found.values(), SHARES, strict=True):
        assert np.abs(part - share * sound).max() < 1e-6
    assert told == sorted(told)
    assert told[-1] == 1.0


def test_where_chunks_differ_at_their_edges_they_are_faded_into_each_other(tmp_path: Path) -> None:
    model = SeparationModel(saved(tmp_path, length=RATE, ramp=True, shares=(1.0,), stems="bass"), RATE)
    level = np.full((5 * RATE, 2), 0.5, np.float32)
    steps = np.abs(np.diff(model.separate(level)[Stem.BASS][:, 0]))
    assert steps.max() < 2e-5


@pytest.mark.parametrize(
    ("how", "words"),
    [
        ({"stems": None}, "does not say what it gives"),
        ({"stems": "drums,horns"}, "does not say what it gives"),
        ({"stems": "drums,drums"}, "does not say what it gives"),
        ({"stems": "drums,bass,voice"}, "must give one tensor"),
        ({"rate": "48000"}, "48000 samples a second"),
        ({"length": 100}, "at least 4096"),
    ],
)
def test_what_does_not_keep_to_the_contract_is_refused(tmp_path: Path, how: dict[str, object], words: str) -> None:
    with pytest.raises(ModelError, match=words):
        SeparationModel(saved(tmp_path, **how), RATE)  # type: ignore[arg-type]


def test_what_is_no_model_is_refused(tmp_path: Path) -> None:
    with pytest.raises(ModelError, match="no file at"):
        SeparationModel(tmp_path / "nowhere.onnx", RATE)
    text = tmp_path / "text.onnx"
    text.write_text("not a model")
    with pytest.raises(ModelError, match="no ONNX model"):
        SeparationModel(text, RATE)


def test_what_gives_no_sound_fails_with_words(tmp_path: Path) -> None:
    model = SeparationModel(saved(tmp_path, shares=(float("nan"), 1.0)), RATE)
    with pytest.raises(ModelError, match="no sound"):
        model.separate(noise(1.0))


def test_where_models_cannot_be_run_it_is_said_how_they_can(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = saved(tmp_path)
    monkeypatch.setitem(sys.modules, "onnxruntime", None)
    with pytest.raises(ModelError, match="pip install onnxruntime"):
        SeparationModel(path, RATE)
