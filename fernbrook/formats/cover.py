"""A picture for a mix: its own course, line by line, as one reads, or one that somebody chose."""

from __future__ import annotations

import io
import warnings
from collections.abc import Sequence

import numpy as np
from PIL import Image, UnidentifiedImageError

from fernbrook.errors import RefusedError
from fernbrook.formats.ribbon import PAPER, Band, ribbon

SIDE = 1000
LINES = 6
MARGIN = 70
COLUMNS = LINES * (SIDE - 2 * MARGIN)
LARGEST = 1400
"""A picture that was chosen is made no larger than so many pixels a side: what podcast players ask for."""
MOST_BYTES = 32 << 20


def cover(bands: Sequence[Band]) -> bytes:
    """A square PNG of a course in ``COLUMNS`` columns."""
    picture = np.empty((SIDE, SIDE, 3), np.uint8)
    picture[:] = PAPER
    line, width = (SIDE - 2 * MARGIN) / LINES, SIDE - 2 * MARGIN
    height = round(line * 0.88)
    for n in range(LINES):
        top = MARGIN + round((n + 0.5) * line) - height // 2
        picture[top : top + height, MARGIN : MARGIN + width] = ribbon(bands, n * width, width, height)
    return _png(Image.fromarray(picture))


def cover_of(content: bytes) -> bytes:
    """A picture that somebody chose, as it goes on files: cut to a square, no larger than it need be, as PNG.

    Raises
    ------
    RefusedError
        When it is no picture that can be read, or far too large.
    """
    if len(content) > MOST_BYTES:
        raise RefusedError("That picture is larger than 32 MB. Save it smaller, then choose it again.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(content), formats=("PNG", "JPEG", "WEBP")).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError, Warning) as error:
        raise RefusedError(
            "That is no picture that can be read: PNG, JPEG and WebP can, up to 90 megapixels."
        ) from error
    side = min(picture.size)
    left, top = ((length - side) // 2 for length in picture.size)
    square = picture.crop((left, top, left + side, top + side))
    return _png(square.resize((LARGEST, LARGEST), Image.Resampling.LANCZOS) if side > LARGEST else square)


def _png(picture: Image.Image) -> bytes:
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()
