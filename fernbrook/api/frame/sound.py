"""Sound as a response: interleaved stereo in 32-bit floats, streamed as it is made."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any

import numpy as np
from fastapi import Query
from fastapi.responses import StreamingResponse
from numpy.typing import NDArray

from fernbrook.core.plan import RATE

MOST_SAMPLES = 10**10
"""Over two days: more than the longest mix."""
Sample = Annotated[int, Query(ge=0, le=MOST_SAMPLES)]
MEDIA_TYPE = "application/octet-stream"
RESPONSES: dict[int | str, dict[str, Any]] = {
    200: {"content": {MEDIA_TYPE: {}}, "description": "Little-endian float32, left and right in turn."}
}


def sound_response(frames: int, blocks: Iterator[NDArray[np.float32]]) -> StreamingResponse:
    """Stream blocks of shape (n, 2); headers tell the number of frames and the rate."""
    headers = {"x-frames": str(frames), "x-rate": str(RATE), "cache-control": "no-store"}
    return StreamingResponse((b.astype("<f4").tobytes() for b in blocks), media_type=MEDIA_TYPE, headers=headers)
