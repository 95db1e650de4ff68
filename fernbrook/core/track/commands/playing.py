"""Changes to how a track is played wherever it is used."""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from fernbrook.core.track.commands.command import MarkupCommand
from fernbrook.core.track.edits import MOST_EDITS, Edit
from fernbrook.core.track.markup import MOST_TRIM_DB, Markup


class KeepEdits(MarkupCommand):
    """Keep edits with the track, so that they are offered wherever it is used; none forgets those that there are."""

    kind: Literal["keep_edits"] = "keep_edits"
    edits: tuple[Edit, ...] = Field(max_length=MOST_EDITS)

    @override
    def rule(self, markup: Markup) -> Markup:
        return markup.model_copy(update={"kept": self.edits})

    @override
    def words(self) -> str:
        return "keep edits with the track" if self.edits else "forget the edits that were kept"


class SetTrim(MarkupCommand):
    """Play a track louder or softer than its loudness would have it."""

    kind: Literal["set_trim"] = "set_trim"
    db: float = Field(ge=-MOST_TRIM_DB, le=MOST_TRIM_DB)

    @override
    def rule(self, markup: Markup) -> Markup:
        return markup.model_copy(update={"trim_db": self.db})

    @override
    def words(self) -> str:
        return f"trim by {self.db:+g} dB"
