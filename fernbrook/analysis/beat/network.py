"""A small network that scores alternatives by what speaks for each.

One hidden layer of a few units beside a straight sum: single pieces of evidence that mean something else together
(much between the beats speaks for a shuffle at one tempo and against the tempo at another) can be weighed so. It is
trained by ``bench/fitting.py`` and kept as JSON beside the code, a few hundred numbers.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

Array = NDArray[np.float64]


class Stored(BaseModel):
    """A network as it is written: what its evidence is called, what it is less and divided by, and its weights."""

    evidence: list[str]
    mean: list[float]
    scale: list[float]
    hidden: list[list[float]]
    bias: list[float]
    out: list[float]
    straight: list[float]


@dataclass(frozen=True)
class Network:
    """Scores rows of evidence: ``tanh(z hidden + bias) out + z straight``, z the evidence standardised.

    ``hidden`` has shape (evidence, units), ``bias`` and ``out`` (units,), the others (evidence,).
    """

    evidence: tuple[str, ...]
    mean: Array
    scale: Array
    hidden: Array
    bias: Array
    out: Array
    straight: Array

    @classmethod
    def of(cls, stored: Stored) -> Network:
        """A network from what is written of it."""
        arrays = (np.asarray(getattr(stored, n)) for n in ("mean", "scale", "hidden", "bias", "out", "straight"))
        return cls(tuple(stored.evidence), *arrays)

    def scores(self, evidence: Array) -> Array:
        """A score for each row, shape (rows,); exp of it is in proportion to how probable the row is.

        Evidence that is not known (not a number) is taken for what it is on average.
        """
        z = np.nan_to_num((evidence - self.mean) / self.scale)
        return np.asarray(np.tanh(z @ self.hidden + self.bias) @ self.out + z @ self.straight)


@lru_cache(maxsize=4)
def network(name: str) -> Network:
    """The network of that name, as shipped."""
    text = files("fernbrook.analysis.beat").joinpath(f"{name}.json").read_text(encoding="utf-8")
    return Network.of(Stored.model_validate_json(text))


def probabilities(scores: Array) -> Array:
    """How probable each of several alternatives is; shape like ``scores``, in sum 1."""
    share = np.exp(scores - scores.max())
    return np.asarray(share / share.sum())
