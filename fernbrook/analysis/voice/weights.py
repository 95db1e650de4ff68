"""The voice network's weights, where they are installed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

PATH = Path(__file__).with_name("network.npz")
"""What ``checkpoint.py`` writes, 40 MB in half precision; it comes with the set-up and is not in the repository."""
VOICE, REST = 0, 1
"""The two networks, by their order in the checkpoint."""
KINDS = ("kernel", "bias", "gamma", "beta", "moving_mean", "moving_variance")
"""What the arrays of a layer are called."""
LAYERS = 6
EPSILON = 1e-3

Floats = NDArray[np.float32]


@dataclass(frozen=True)
class Layer:
    """A convolution and what follows it: ``scale`` and ``shift`` are the batch normalisation's.

    ``kernel`` is a matrix: (25 * inputs, outputs) on the way down, (inputs, 25 * outputs) on the way up.
    """

    kernel: Floats
    bias: Floats
    scale: Floats
    shift: Floats


@dataclass(frozen=True)
class Branch:
    """The network of one sound: the voice, or all else. ``last`` is (4, 4, 2), its bias (2,)."""

    down: tuple[Layer, ...]
    up: tuple[Layer, ...]
    last: Floats
    last_bias: Floats


def are_installed() -> bool:
    """Whether the network can be run."""
    return PATH.is_file()


@lru_cache(maxsize=2)
def branch(which: int) -> Branch:
    """The network of the voice, or that of all else; each takes 40 MB, and only where it is asked for.

    Raises
    ------
    FileNotFoundError
        Where the weights are not installed.
    """
    with np.load(PATH) as stored:
        return _branch(stored, which)


def _branch(stored: Mapping[str, NDArray[np.float16]], which: int) -> Branch:
    def layer(name: str, number: int) -> dict[str, Floats]:
        beginning = f"{name}_{number}/" if number else f"{name}/"
        return {k: stored[beginning + k].astype(np.float32) for k in KINDS if beginning + k in stored}

    down, up = [], []
    for i in range(LAYERS):
        way_down = layer("conv2d", which * (LAYERS + 1) + i)
        kernel = way_down["kernel"]
        matrix = np.ascontiguousarray(kernel.reshape(-1, kernel.shape[3]))
        down.append(Layer(matrix, way_down["bias"], *_normalised(layer("batch_normalization", which * 12 + i))))
        way_up = layer("conv2d_transpose", which * LAYERS + i)
        kernel = way_up["kernel"]
        matrix = np.ascontiguousarray(kernel.transpose(3, 0, 1, 2).reshape(kernel.shape[3], -1))
        up.append(Layer(matrix, way_up["bias"], *_normalised(layer("batch_normalization", which * 12 + LAYERS + i))))
    last = layer("conv2d", which * (LAYERS + 1) + LAYERS)
    return Branch(tuple(down), tuple(up), last["kernel"][:, :, 0], last["bias"])


def _normalised(layer: dict[str, Floats]) -> tuple[Floats, Floats]:
    """Batch normalisation (S. Ioffe and C. Szegedy, ICML 2015) as one factor and one summand."""
    scale = layer["gamma"] / np.sqrt(layer["moving_variance"] + np.float32(EPSILON))
    return scale, layer["beta"] - layer["moving_mean"] * scale
