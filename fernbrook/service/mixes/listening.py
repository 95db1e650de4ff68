"""Hearing a mix: the same renderer as the file, streamed as it goes."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.measures import LoudnessMeter
from fernbrook.audio.sources import Click, clicking
from fernbrook.audio.stretch import KeptBlocks
from fernbrook.core.plan import RATE, Part, Plan
from fernbrook.errors import RefusedError
from fernbrook.render.renderer import EVERYTHING, Listen, render
from fernbrook.service.files import SoundFiles
from fernbrook.service.ground import Turns
from fernbrook.service.mixes.mixes import Mixes

Blocks = Iterator[NDArray[np.float32]]
AT_ONCE = 4
"""So many previews are begun at a time. The newest goes first: it is the one that somebody waits for."""
KEPT_BYTES = 192 << 20
"""Of what was stretched: four minutes of two tracks."""


class Listening:
    """Previews of mixes."""

    def __init__(self, mixes: Mixes, files: SoundFiles) -> None:
        self._mixes = mixes
        self._files = files
        self._turns = Turns(AT_ONCE)
        self._kept = KeptBlocks(KEPT_BYTES)

    def preview(
        self,
        mix_id: str,
        start: int,
        end: int | None,
        entry_ids: frozenset[str] | None,
        click_db: float | None = None,
        trial: str | None = None,
        gain_db: float = 0.0,
    ) -> tuple[int, Blocks]:
        """Samples [start, end) of a mix as it stands: how many they are, and blocks of shape (n, 2).

        With a level for it, a click is heard on the beats of the mix; with a trial, the mix as that would have it; all
        of it by ``gain_db`` louder, so that two versions can be compared at one loudness.

        All files of the span are checked and the first block is rendered before this returns, so that what is wrong
        with a file is known in time.

        Raises
        ------
        AudioFileError
            When a file has gone, was changed, or cannot be read.
        RefusedError
            When the span holds nothing.
        OvertakenError
            When so many newer previews were asked for that nobody can be waiting for this one any more.
        """
        plan = self._plan(mix_id, trial)
        listen = Listen(entry_ids)
        stop = plan.frames if end is None else min(end, plan.frames)
        with self._turns.turn():
            blocks = self._blocks(plan, start, stop, listen)
            first = next(blocks, None)
        if first is None:
            raise RefusedError("There is nothing to hear there: the mix is shorter than that.")
        sound: Blocks = chain([first], blocks)
        if gain_db:
            gain = np.float32(10.0 ** (gain_db / 20.0))
            sound = (block * gain for block in sound)
        if click_db is not None:
            return stop - start, clicking(sound, start, RATE, Click(plan.bars.ticks, click_db))
        return stop - start, sound

    def loudness(self, mix_id: str, start: int, end: int, trial: str | None = None) -> float | None:
        """How loud samples [start, end) of a mix are in LUFS, or of a trial of it; None where they are silent.

        Raises
        ------
        AudioFileError
            As above.
        """
        plan = self._plan(mix_id, trial)
        meter = LoudnessMeter(RATE)
        for block in self._blocks(plan, start, min(end, plan.frames), EVERYTHING):
            meter.add(block)
        return meter.result().integrated_lufs

    def _plan(self, mix_id: str, trial: str | None) -> Plan:
        return self._mixes.open(mix_id).plan if trial is None else self._mixes.tried(trial)

    def _blocks(self, plan: Plan, start: int, stop: int, listen: Listen) -> Blocks:
        parts = (p for p in plan.parts if listen.hears(p) and _sounds(p, start, stop))
        heard = [key for part in parts for key in part.sources]
        return render(plan, self._files.checked_all(heard), start, stop, listen, kept=self._kept)


def _sounds(part: Part, start: int, stop: int) -> bool:
    """Whether a part is heard, or read for what surrounds it, between two samples."""
    around = 1.0
    return part.start_s - around < stop / RATE and part.silent_s + around > start / RATE
