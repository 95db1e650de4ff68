"""Names for new things."""

from __future__ import annotations

import secrets


def new_id() -> str:
    """A short random id that is safe in URLs and file names."""
    return secrets.token_hex(6)
