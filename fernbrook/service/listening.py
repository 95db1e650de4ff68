"""Hearing a mix: the same renderer as the file, streamed as it goes."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.click import Click, clicking
from fernbrook.core.plan import RATE, Plan
from fernbrook.render.renderer import Listen, render
from fernbrook.service.errors import RefusedError
from fernbrook.service.mixes import Mixes
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRow

BEATS_PER_BAR = 4
Blocks = Iterator[NDArray[np.float32]]


class Listening:
    """Previews of mixes."""

    def __init__(self, folders: Folders, database: Database, mixes: Mixes) -> None:
        self._folders = folders
        self._database = database
        self._mixes = mixes

    def paths(self, plan: Plan) -> dict[str, Path]:
        """The audio file of each track of a plan."""
        with self._database.read() as session:
            rows = {e.track.id: session.get(TrackRow, e.track.id) for e in plan.entries}
        return {track_id: self._folders.audio_file(row.path) for track_id, row in rows.items() if row is not None}

    def preview(
        self,
        mix_id: str,
        start: int,
        end: int | None,
        entry_ids: frozenset[str] | None,
        click_db: float | None = None,
    ) -> tuple[int, Blocks]:
        """Samples [start, end) of a mix as it stands: how many they are, and blocks of shape (n, 2).

        With a level for it, a click is heard on the beats of the mix.

        The first block is rendered before this returns, so that what is wrong with a file is known in time.

        Raises
        ------
        AudioFileError
            When a file has gone or cannot be read.
        RefusedError
            When the span holds nothing.
        """
        plan = self._mixes.open(mix_id).plan
        listen = Listen()
        if entry_ids is not None:
            listen = Listen(frozenset(e.index for e in plan.entries if e.entry.id in entry_ids))
        stop = plan.frames if end is None else min(end, plan.frames)
        blocks = render(plan, self.paths(plan), start, stop, listen)
        first = next(blocks, None)
        if first is None:
            raise RefusedError("There is nothing to hear there: the mix is shorter than that.")
        heard = chain([first], blocks)
        if click_db is not None:
            click = Click(plan.tempo.time_at, plan.tempo.beat_at, BEATS_PER_BAR, click_db)
            return stop - start, clicking(heard, start, RATE, click)
        return stop - start, heard
