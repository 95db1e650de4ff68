"""What a track consists of: sections with a kind, and spans in which a voice is heard. Both are counted in beats."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum
from itertools import pairwise

from pydantic import Field, model_validator

from fernbrook.core.value import Beat, Value


class SectionKind(StrEnum):
    """What is heard in a section. Beat only is where mixing is safe: drums, nothing pitched."""

    BEAT = "beat"
    BASS = "bass"
    FULL = "full"
    BREAK = "break"
    RISE = "rise"
    BEATLESS = "beatless"


class Section(Value):
    """A stretch of a track from one beat to another; ``name`` replaces the kind where the user gave one."""

    kind: SectionKind
    start: Beat
    end: Beat
    name: str = Field(default="", max_length=60)

    @model_validator(mode="after")
    def _forwards(self) -> Section:
        if self.end <= self.start:
            raise ValueError(f"a section must end after it starts, not from beat {self.start:g} to {self.end:g}")
        return self


class VoiceSpan(Value):
    """A stretch in which somebody sings or speaks."""

    start: Beat
    end: Beat

    @model_validator(mode="after")
    def _forwards(self) -> VoiceSpan:
        if self.end <= self.start:
            raise ValueError(f"a voice span must end after it starts, not from beat {self.start:g} to {self.end:g}")
        return self


def check_apart(spans: Sequence[Section | VoiceSpan]) -> None:
    """Raise ValueError where spans overlap or are out of order."""
    pairs: list[tuple[Section | VoiceSpan, Section | VoiceSpan]] = list(pairwise(spans))
    for earlier, later in pairs:
        if later.start < earlier.end - 1e-9:
            raise ValueError(
                f"spans must follow each other: one starts at beat {later.start:g}, "
                f"before the one from beat {earlier.start:g} ends at {earlier.end:g}"
            )
