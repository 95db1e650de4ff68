"""All that was set by hand on a track as one JSON text: what travels in its file. See ``docs/formats.md``."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, ValidationError

from fernbrook.core.track import Markup
from fernbrook.core.value import Value, When

LONGEST = 4_000_000


class TrackDocument(Value):
    """A track's markup, its tags and its key, when it was last changed, and how long its sound is.

    ``of`` is the hash of the file as it was first imported, by which a library knows it again; ``duration_s`` guards
    against a field that was copied from another file.
    """

    fernbrook: Literal["track"] = "track"
    version: Literal[1] = 1
    changed_at: When
    of: str = Field(default="", max_length=64)
    duration_s: float = Field(ge=0.0)
    key: str | None = Field(default=None, max_length=8)
    tags: tuple[str, ...] = Field(default=(), max_length=100)
    markup: Markup


def document_text(document: TrackDocument) -> str:
    """A document as it is written."""
    return document.model_dump_json(exclude_defaults=False)


def read_document(text: str | None) -> TrackDocument | None:
    """A document as it was written; None where there is none, or none that is understood."""
    if not text or len(text) > LONGEST:
        return None
    try:
        return TrackDocument.model_validate_json(text)
    except ValidationError:
        return None
