"""Reads the weights of the trained listener out of its package: ``python -m bench.listener_weights WHEEL``.

    pip download --no-deps BeatNet==1.1.3

The wheel's SHA-256 is checked; its pickle is read as plain arrays, nothing in it is run, and no framework is needed.
"""

from __future__ import annotations

import hashlib
import io
import pickle
import sys
import zipfile
from collections import OrderedDict
from pathlib import Path
from typing import Any

import numpy as np

from fernbrook.analysis.beat import listener

WHEEL_SHA256 = "1ecfa17bdcbe899975a88bdb6efebd6970d846a4f3b6cfd5c6f320647c641c7e"
MODEL = "BeatNet/models/model_1_weights.pt"
Array = np.ndarray


class _Plain(pickle.Unpickler):
    """Gives each tensor as (storage, offset, shape)."""

    def find_class(self, module: str, name: str) -> object:
        if (module, name) == ("collections", "OrderedDict"):
            return OrderedDict
        if name == "_rebuild_tensor_v2":
            return lambda storage, offset, shape, *_: (storage, offset, shape)
        return name

    def persistent_load(self, pid: tuple[object, ...]) -> object:
        return pid[2]


def main() -> None:
    """Write ``listener.npz`` beside the code that reads it."""
    wheel = Path(sys.argv[1])
    if hashlib.sha256(wheel.read_bytes()).hexdigest() != WHEEL_SHA256:
        raise SystemExit(f"{wheel} is not the wheel that is meant.")
    with zipfile.ZipFile(wheel) as outer, zipfile.ZipFile(io.BytesIO(outer.read(MODEL))) as inner:
        found = _Plain(io.BytesIO(inner.read("archive/data.pkl"))).load()

        def array(name: str) -> Array:
            storage, offset, shape = found[name]
            values = np.frombuffer(inner.read(f"archive/data/{storage}"), "<f4")
            return values[offset : offset + int(np.prod(shape))].reshape(shape).astype(np.float16)

        arrays: dict[str, Any] = {
            "kernels": array("conv1.weight")[:, 0],
            "kernel_bias": array("conv1.bias"),
            "linear": array("linear0.weight"),
            "linear_bias": array("linear0.bias"),
            "out": array("linear.weight"),
            "out_bias": array("linear.bias"),
        }
        for i in range(2):
            arrays[f"into_{i}"] = array(f"lstm.weight_ih_l{i}")
            arrays[f"own_{i}"] = array(f"lstm.weight_hh_l{i}")
            arrays[f"bias_{i}"] = array(f"lstm.bias_ih_l{i}") + array(f"lstm.bias_hh_l{i}")
    np.savez_compressed(Path(listener.__file__).with_name("listener.npz"), **arrays)


if __name__ == "__main__":
    main()
