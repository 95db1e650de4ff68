"""One part as it is heard in the mix: played, equalised, filtered, faded, and ringing on."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.sources import Sounding, Source, StemSource
from fernbrook.audio.stretch import KeptBlocks
from fernbrook.core.mix.curves import Control, Processor, controls_of
from fernbrook.core.mix.transitions import LONGEST_TAIL_S
from fernbrook.core.plan import RATE, Part, stem_key
from fernbrook.core.track import KEPT
from fernbrook.render.blocks import BLOCK, Kept
from fernbrook.render.made import made_sound
from fernbrook.render.player import Player
from fernbrook.render.processors import Chain, ringings, turned_in

EDGE = 176
"""Samples (4 ms) over which a part that does not fade by itself comes in before a beat and goes before one."""

Sound = NDArray[np.float64]
NOTHING = np.zeros((0, 2), np.float32)


class Channel:
    """Renders a part in blocks; blocks in order are cheap, a leap begins afresh with the same result."""

    def __init__(self, part: Part, paths: Mapping[str, Path], kept: KeptBlocks | None = None) -> None:
        """``paths`` has the file of the part's source, and those of its stems where they are turned."""
        self._part = part
        self._source = Source(paths[part.source], RATE, part.name) if part.source else None
        self._stems = (
            {stem: StemSource(paths[stem_key(part.source, stem)], RATE, part.name) for stem in KEPT}
            if part.turns_stems
            else None
        )
        self._player = Player(part, self._sounding(), kept, self._stems)
        self._start = round(part.start_s * RATE)
        self._end = round(part.end_s * RATE)
        self._gain = 10.0 ** (part.gain_db / 20.0)
        self._played = np.zeros((0, 2))
        self._played_from = 0
        self._chain = Chain(part, self._played_span)
        self._kept = kept
        self._known_by = _PartOf(self._player.identity, part) if kept is not None else None
        self._heard = Kept(self._hear, 2 + int(LONGEST_TAIL_S * RATE) // BLOCK)
        self._ringings = [r for a in part.automations for r in ringings(a, part.tempo, self._heard)]

    def _sounding(self) -> Sounding:
        """What the part plays: a file, or what is made."""
        if self._part.made is not None:
            return made_sound(self._part.made, self._source)
        if self._source is None:
            raise ValueError(f"‘{self._part.name}’ has nothing to play")
        return self._source

    @property
    def first(self) -> int:
        """The sample from which the part may be heard."""
        return self._start - (EDGE if self._part.comes_in else 0)

    @property
    def end(self) -> int:
        """The sample at which it is silent again, its echoes included."""
        return round(self._part.silent_s * RATE)

    def close(self) -> None:
        """Let go of the files."""
        for source in (self._source, *(self._stems or {}).values()):
            if source is not None:
                source.close()

    def block(self, number: int) -> Sound | None:
        """Block ``number`` of the mix, shape (BLOCK, 2); None where nothing is heard."""
        return self._once("rung", number, self._rung) if self._ringings else self._rung(number)

    def _rung(self, number: int) -> Sound | None:
        """A block with what rings in it."""
        # What rings goes first: it may need blocks from before this one, and these are cheaper in order.
        rings = [ringing(number) for ringing in self._ringings]
        total = self._heard(number)
        for sound in rings:
            if sound is not None:
                rung = sound * self._open(number)[:, None]
                total = rung if total is None else total + rung
        return total

    def _hear(self, number: int) -> Sound | None:
        """A block without what rings in it."""
        start, end = number * BLOCK, (number + 1) * BLOCK
        if end <= self.first or start >= self._end:
            return None
        # What rings is made of all that was heard for seconds before it, wherever one begins to listen.
        return self._once("heard", number, self._turned) if self._ringings else self._turned(number)

    def _turned(self, number: int) -> Sound:
        """A block as its inserts and its levels have it."""
        return self._chain(number) * self._level(number * BLOCK, (number + 1) * BLOCK)[:, None]

    def _once(self, what: str, number: int, make: Callable[[int], Sound | None]) -> Sound | None:
        """A block of a part that rings, made once where blocks are kept: in single precision, kept or not."""

        def made() -> NDArray[np.float32]:
            sound = make(number)
            return NOTHING if sound is None else sound.astype(np.float32)

        block = made() if self._kept is None else self._kept.value((self._known_by, what, number), made)
        return block.astype(np.float64) if len(block) else None

    def _played_span(self, start: int, end: int) -> Sound:
        """What the player plays; it is kept from where the span begins, for the next one begins no earlier."""
        known = self._played_from + len(self._played)
        if not self._played_from <= start <= known:
            self._played, self._played_from, known = np.zeros((0, 2)), start, start
        fresh = self._player.render(known, end) if end > known else np.zeros((0, 2))
        self._played = np.concatenate((self._played[start - self._played_from :], fresh))
        self._played_from = start
        return self._played[: end - start]

    def _level(self, start: int, end: int) -> NDArray[np.float64]:
        """The linear gain of each sample: the part's own, its edges, its silences, its faders."""
        level = np.full(end - start, self._gain)
        if self._part.comes_in and start < self._start:
            level *= _risen((np.arange(start, end) - self._start + EDGE) / EDGE)
        if self._part.goes and end > self._end - EDGE:
            level *= _risen((self._end - np.arange(start, end)) / EDGE)
        level[max(self._end - start, 0) :] = 0.0
        for silence in self._part.silences:
            _leave_out(level, start, silence.start_s, silence.end_s)
        for turned in turned_in(self._part, start, end):
            for control in controls_of(Processor.LEVEL):
                level *= turned.gains(control)
        for automation in self._part.automations:
            if end <= automation.start_s * RATE:
                level *= automation.gains(Control.VOLUME, np.zeros(1))
        return level

    def _open(self, number: int) -> NDArray[np.float64]:
        """How much of what rings is heard: none in a silence through which nothing rings, nor after its end.
        Shape (BLOCK,)."""
        level = np.ones(BLOCK)
        level[max(self.end - number * BLOCK, 0) :] = 0.0
        for silence in self._part.silences:
            if not silence.rings:
                _leave_out(level, number * BLOCK, silence.start_s, silence.end_s)
        return level


class _PartOf:
    """A part of a source as a key, whose hash is worked out once."""

    def __init__(self, source: Hashable, part: Part) -> None:
        self._is = (source, part)
        self._hash = hash(self._is)

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _PartOf) and self._hash == other._hash and self._is == other._is


def _leave_out(level: NDArray[np.float64], start: int, from_s: float, to_s: float) -> None:
    """Close the level of samples from ``start`` on, in place, from one moment to another; both edges lie before the
    beat that they belong to, so that this one is whole or not there at all."""
    begin, stop = round(from_s * RATE), round(to_s * RATE)
    if begin - EDGE >= start + len(level) or stop <= start:
        return
    n = np.arange(start, start + len(level))
    level *= np.maximum(_risen((begin - n) / EDGE), _risen((n - stop + EDGE) / EDGE))


def _risen(share: NDArray[np.float64]) -> NDArray[np.float64]:
    """An edge at shares of its way, a raised cosine: exactly 0 before it and 1 after it, and without a corner, which
    would be heard as a click in what has no highs; same shape."""
    return 0.5 - 0.5 * np.cos(np.pi * np.clip(share, 0.0, 1.0))
