"""What an analysis keeps of the sound: enough to draw it, and to measure a grid again without reading the file.

Stored as one compressed file of arrays. Strengths are bytes, the square root of the strength scaled to the band's
largest; that is finer than anything that is read off them.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.beat.listener import Heard
from fernbrook.analysis.beat.onsets import LOW_BANDS, Onsets
from fernbrook.analysis.tone.harmony import Harmony
from fernbrook.analysis.voice.movement import MOST, Movement
from fernbrook.analysis.voice.presence import Presence


@dataclass(frozen=True)
class Features:
    """Onsets and harmony of a track, where a trained listener hears beats, and how much of it is a voice.

    ``heard`` is None where an analysis before version 7 kept none. Where the voice's network is not installed there is
    no ``presence``, and ``movement`` tells of voices; it has no frames where there is.
    """

    onsets: Onsets
    harmony: Harmony
    movement: Movement
    heard: Heard | None = None
    presence: Presence | None = None

    def to_bytes(self) -> bytes:
        """As stored."""
        bands = self.onsets.bands
        scale = np.maximum(bands.max(axis=1, keepdims=True, initial=0.0), 1e-9)
        arrays: dict[str, Any] = dict(
            bands=np.rint(np.sqrt(bands / scale) * 255.0).astype(np.uint8),
            scale=scale.astype(np.float32),
            onset_rate=self.onsets.rate,
            chroma=self.harmony.chroma.astype(np.float16),
            level=self.harmony.level.astype(np.float16),
            fine=self.harmony.fine,
            harmony_rate=self.harmony.rate,
            together=np.rint(np.clip(self.movement.together / MOST, -1.0, 1.0) * 127.0).astype(np.int8),
            movement_rate=self.movement.rate,
        )
        if self.harmony.bass is not None:
            arrays["bass"] = self.harmony.bass.astype(np.float16)
        if self.heard is not None:
            arrays["heard"] = self.heard.stored()
        if self.presence is not None:
            arrays["presence"] = self.presence.stored()
        buffer = io.BytesIO()
        np.savez_compressed(buffer, **arrays)
        return buffer.getvalue()

    @classmethod
    def from_bytes(cls, stored: bytes) -> Features:
        """Read what ``to_bytes`` gave; features of version 2 know nothing of movement."""
        with np.load(io.BytesIO(stored), allow_pickle=False) as arrays:
            bands = (arrays["bands"].astype(np.float32) / 255.0) ** 2 * arrays["scale"]
            harmony = Harmony(
                arrays["chroma"].astype(np.float32),
                arrays["level"].astype(np.float32),
                float(arrays["harmony_rate"]),
                arrays["fine"],
                arrays["bass"].astype(np.float32) if "bass" in arrays else None,
            )
            together, rate = (
                (arrays["together"], float(arrays["movement_rate"])) if "together" in arrays else (np.zeros(0), 1.0)
            )
            movement = Movement(together.astype(np.float32) * np.float32(MOST / 127.0), rate)
            heard = Heard.of(arrays["heard"]) if "heard" in arrays else None
            presence = Presence.of(arrays["presence"]) if "presence" in arrays else None
            return cls(Onsets(bands, float(arrays["onset_rate"])), harmony, movement, heard, presence)

    def picture(self) -> NDArray[np.uint8]:
        """Onset strengths to draw: low, and all together; shape (frames, 2), evened out and scaled to 255."""
        bands = self.onsets.evened
        rows = np.stack((bands[LOW_BANDS].mean(axis=0), bands.mean(axis=0)), axis=1)
        top = np.maximum(np.percentile(rows, 99.5, axis=0), 1e-9) if len(rows) else np.ones(2)
        return np.asarray(np.clip(np.rint(np.sqrt(rows / top) * 255.0), 0, 255), dtype=np.uint8)
