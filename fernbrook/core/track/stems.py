"""What a track can be taken apart into, and how that was done."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from fernbrook.core.value import Value


class Stem(StrEnum):
    """A part of a track; the sum of all four is the track."""

    DRUMS = "drums"
    BASS = "bass"
    VOICE = "voice"
    MUSIC = "music"


STEMS = tuple(Stem)
KEPT = (Stem.DRUMS, Stem.BASS, Stem.VOICE)
"""Those that are kept as files: the music is what they leave of the track."""
LEAST_COHERENT = 0.25
"""Where less of a track recurs, what was found of its drums would mislead; but for one whose drums are alone somewhere,
for there they are known, however faint they are beside the rest."""

STEMS_VERSION = 2
"""Raised whenever the built-in way takes tracks apart otherwise than before."""

TURNED_DOWN = "A voice is turned down, not gone."


class StemsFact(Value):
    """The stems of a track. ``coherent`` is the share of it that recurs, from 0 to 1, ``is_clean`` whether drums are
    heard alone somewhere; ``has_voice`` whether it was known where somebody sings. ``given`` are those that came as
    files of the user's own, or from the ``model`` that is named; none where the program took the track apart itself.
    ``by_network`` tells that the trained network heard the voice, ``version`` by which built-in way they were made."""

    given: tuple[Stem, ...] = ()
    model: str = ""
    coherent: float = Field(ge=0.0)
    is_clean: bool
    has_voice: bool
    by_network: bool = False
    version: int = 1

    @property
    def is_outdated(self) -> bool:
        """Whether the built-in way does better now than when these were made."""
        return not self.given and self.version < STEMS_VERSION

    @property
    def offered(self) -> tuple[Stem, ...]:
        """The stems that are worth turning: none where the drums are nowhere alone and little recurs, no voice where
        nobody is known to sing."""
        if self.given:
            return tuple(s for s in STEMS if s in self.given or s is Stem.MUSIC)
        if not self.is_clean and self.coherent < LEAST_COHERENT:
            return ()
        return tuple(s for s in STEMS if s is not Stem.VOICE or self.has_voice)

    @property
    def words(self) -> str:
        """How sure they are, in a sentence."""
        if self.given:
            whose = f"By your model ‘{self.model}’" if self.model else "Your own"
            return f"{whose}: {', '.join(s.value for s in self.given)}. The rest of the track is the music."
        if not self.offered:
            return "Too little of this track recurs to take its drums out: what was found would mislead."
        more = "" if self.by_network or not self.has_voice else f" {TURNED_DOWN}"
        more += " Made by an older version: split again, and they get better." if self.is_outdated else ""
        if not self.is_clean:
            return f"Rough: nowhere are the drums alone, so some of the rest stays with them.{more}"
        return f"Drums and bass come apart well, as the drums are alone somewhere.{more}"
