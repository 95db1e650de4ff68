"""An entry as its neighbours meet it, wherever in the mix it lies: what is heard of its track, in its own beats."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from fernbrook.core.mix.entries import Arrangement
from fernbrook.core.mix.placing import Span
from fernbrook.core.remembered import remembered
from fernbrook.core.track import Section, TrackFacts, VoiceSpan


@dataclass(frozen=True)
class Face:
    """What its neighbours see of an entry. ``span`` is where it sounds; ``count`` and ``key_shift`` are the entry's."""

    track: TrackFacts
    heard: Arrangement
    span: Span
    count: float
    key_shift: int

    @cached_property
    def voice(self) -> tuple[VoiceSpan, ...]:
        """Where somebody sings, in the entry's beats."""
        return self.heard.voice(self.track.voice)

    @cached_property
    def cues(self) -> dict[str, list[float]]:
        """The cues of its track that were set by hand: on which beats of the entry they are heard, by id."""
        return {c.id: self.heard.places_of(c.at) for c in self.track.cues}

    @cached_property
    def sections(self) -> tuple[Section, ...]:
        """What it consists of, in the entry's beats."""
        return self.heard.sections(self.track.sections)


@remembered
def face_of(track: TrackFacts, heard: Arrangement, span: Span, count: float, key_shift: int) -> Face:
    """The face of an entry; the same again as long as nothing of this changes."""
    return Face(track, heard, span, count, key_shift)
