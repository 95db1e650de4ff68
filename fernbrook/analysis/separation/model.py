"""A track taken apart by a model that the user has on their own disk. None is shipped, and none is fetched.

What a model must take and give is the contract in ``docs/stems.md``: an ONNX file that maps a stretch of stereo sound
to several, and says in its metadata which is which. A track is given to it in chunks that overlap by a quarter and are
faded into each other, so that no seam is heard where the model answers differently at its edges.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.separation.bands import Sound
from fernbrook.core.track import STEMS, Stem
from fernbrook.errors import RefusedError

STEMS_KEY, RATE_KEY = "stems", "sample_rate"
"""What stands in the metadata: the names of the outputs in order, and samples per second, 44,100 where it says none."""
WORDS = {**{s.value: s for s in STEMS}, "vocals": Stem.VOICE, "other": Stem.MUSIC}
CHUNK_S = 10.0
"""A model that takes any length is given so many seconds at a time."""
OVERLAP = 0.25
SHORTEST = 4096
CHANNELS = 2
THREADS = 1
"""Tracks are taken apart beside each other; each takes a core."""


class ModelError(RefusedError):
    """The file is no model that keeps to the contract; the message says what is missing."""


class SeparationModel:
    """An ONNX model that separates. ``stems`` are what it gives, in the order of its outputs."""

    def __init__(self, path: Path, rate: int) -> None:
        """Open a model for sound at ``rate``.

        Raises
        ------
        ModelError
            When the file cannot be read, is no ONNX model, or does not keep to the contract.
        """
        self.name = path.stem
        if not _is_file(path):
            raise ModelError(f"There is no file at {str(path)[:200]}. Give the whole path of an ONNX model.")
        self._session = _session(path)
        described = self._session.get_modelmeta().custom_metadata_map
        said = str(described.get(RATE_KEY, rate))
        if said != str(rate):
            raise ModelError(f"‘{self.name}’ is made for {said[:20]} samples a second, not {rate}.")
        self.stems = _stems(self.name, described)
        self._input, self._output, length = _shapes(self.name, self._session, len(self.stems))
        self.chunk = length or round(CHUNK_S * rate)

    def separate(self, sound: Sound, progress: Callable[[float], None] = lambda _: None) -> dict[Stem, Sound]:
        """Take a sound of shape (n, 2) apart; each stem that the model knows has that shape too.

        Raises
        ------
        ModelError
            When the model fails, or gives what is no sound.
        """
        step = max(1, round(self.chunk * (1.0 - OVERLAP)))
        count = max(1, -(-max(len(sound) - self.chunk, 0) // step) + 1)
        total = np.zeros((len(self.stems), len(sound), CHANNELS), dtype=np.float32)
        for n in range(count):
            start = n * step
            heard = sound[start : start + self.chunk]
            weight = _weight(len(heard), self.chunk - step, first=n == 0, last=n == count - 1)
            total[:, start : start + len(heard)] += self._chunk(heard) * weight[:, None]
            progress((n + 1) / count)
        return dict(zip(self.stems, total, strict=True))

    def _chunk(self, heard: Sound) -> NDArray[np.float32]:
        """A chunk taken apart; shape (stems, len(heard), 2)."""
        padded = np.zeros((self.chunk, CHANNELS), dtype=np.float32)
        padded[: len(heard)] = heard
        try:
            (given,) = self._session.run([self._output], {self._input: np.ascontiguousarray(padded.T[None])})
        except Exception as error:
            raise ModelError(f"‘{self.name}’ failed at this track. Use another model, or none.") from error
        if given.shape != (1, len(self.stems), CHANNELS, self.chunk) or not np.isfinite(given).all():
            raise ModelError(f"‘{self.name}’ gave what is no sound: {given.shape}, see docs/stems.md.")
        return np.asarray(given[0].transpose(0, 2, 1)[:, : len(heard)], dtype=np.float32)


def _is_file(path: Path) -> bool:
    try:
        return path.is_file()
    except (OSError, ValueError):  # a name that no system takes
        return False


def _session(path: Path) -> Any:
    try:
        import onnxruntime
    except ModuleNotFoundError as error:
        raise ModelError(
            "A separation model needs ONNX Runtime, which is not installed. Install it into Fernbrook's environment "
            "with ‘pip install onnxruntime’, then start Fernbrook again."
        ) from error

    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = options.inter_op_num_threads = THREADS
    options.log_severity_level = 4
    try:
        return onnxruntime.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])
    except Exception as error:
        raise ModelError(f"‘{path.name}’ is no ONNX model that can be run here. See docs/stems.md.") from error


def _stems(name: str, described: Mapping[str, str]) -> tuple[Stem, ...]:
    """The stems that a model says it gives."""
    words = [w.strip().lower() for w in described.get(STEMS_KEY, "").split(",") if w.strip()]
    if not words or len(set(words)) < len(words) or any(w not in WORDS for w in words):
        known = ", ".join(s.value for s in STEMS)
        raise ModelError(
            f"‘{name}’ does not say what it gives: its metadata must have ‘{STEMS_KEY}’, some of {known}, in the "
            "order of its outputs."
        )
    return tuple(WORDS[w] for w in words)


def _shapes(name: str, session: Any, stems: int) -> tuple[str, str, int | None]:
    """The names of the input and the output, and the length that the model takes; None where it takes any."""
    takes, gives = session.get_inputs()[0], session.get_outputs()[0]
    is_sound = len(session.get_inputs()) == 1 and takes.type == "tensor(float)" and len(takes.shape) == 3
    if not is_sound or (takes.shape[1] not in (CHANNELS, None) and not isinstance(takes.shape[1], str)):
        raise ModelError(f"‘{name}’ must take one tensor of floats, (1, {CHANNELS}, samples); it takes {takes.shape}.")
    if len(gives.shape) != 4 or (isinstance(gives.shape[1], int) and gives.shape[1] != stems):
        raise ModelError(
            f"‘{name}’ must give one tensor (1, {stems}, {CHANNELS}, samples) for the stems that it names; it gives "
            f"{gives.shape}."
        )
    length = takes.shape[2]
    if isinstance(length, int) and length < SHORTEST:
        raise ModelError(f"‘{name}’ takes {length} samples at a time; at least {SHORTEST} are needed.")
    return takes.name, gives.name, length if isinstance(length, int) else None


def _weight(frames: int, overlap: int, *, first: bool, last: bool) -> NDArray[np.float32]:
    """How much a chunk counts at each of its samples; where two overlap, theirs add up to 1."""
    weight = np.ones(frames, dtype=np.float32)
    ramp = (np.arange(min(overlap, frames), dtype=np.float32) + 0.5) / max(overlap, 1)
    if not first:
        weight[: len(ramp)] *= ramp
    if not last:
        weight[frames - len(ramp) :] *= ramp[::-1]
    return weight
