"""Track lists of mixes: which tracks, when, and where their files lie."""

from __future__ import annotations

from fernbrook.core.plan import Plan, TimesAt, listed
from fernbrook.formats.track_list import Line, ListFormat, TrackList, written
from fernbrook.service.files import file_name
from fernbrook.service.mixes import Mixes
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRow


class TrackLists:
    """Writes the track lists of mixes."""

    def __init__(self, folders: Folders, database: Database, mixes: Mixes) -> None:
        self._folders = folders
        self._database = database
        self._mixes = mixes

    def written(self, mix_id: str, kind: ListFormat, at: TimesAt) -> tuple[str, str]:
        """A list of a mix as it stands, and the name of its file."""
        plan = self._mixes.open(mix_id).plan
        name = file_name(plan.mix.name)
        return written(self.of(plan, at, f"{name}.wav"), kind), f"{name}.{kind.value}"

    def of(self, plan: Plan, at: TimesAt, audio: str, start_s: float = 0.0, end_s: float | None = None) -> TrackList:
        """The tracks of a plan, or of a part of it, that will lie in a file of that name."""
        rows = listed(plan, at, start_s, end_s)
        with self._database.read() as session:
            tracks = {x.entry.track.id: session.get(TrackRow, x.entry.track.id) for x in rows}
            paths = {i: str(self._folders.audio_file(t.path)) for i, t in tracks.items() if t is not None}
        stop = plan.duration_s if end_s is None else min(end_s, plan.duration_s)
        lines = []
        for x in rows:
            track, key = x.entry.track, x.entry.entry.key_of(x.entry.track)
            lines.append(
                Line(
                    number=x.number,
                    start_s=x.start_s,
                    title=track.title,
                    artist=track.artist,
                    duration_s=track.duration_s,
                    bpm=x.entry.home_bpm if track.grid else None,
                    key=key.key.name if key else None,
                    path=paths.get(track.id, ""),
                )
            )
        return TrackList(plan.mix.name, stop - start_s, tuple(lines), audio)
