"""Making bundles: a mix as one file, with its past and its music as is wished."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from glob import escape
from pathlib import Path

from sqlalchemy.orm import Session

from fernbrook.core.track import KEPT
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.formats.bundle import LARGEST_JSON, MIX, TRACKS, BundleAudio, BundledMix, BundledTrack, BundledTracks
from fernbrook.service.exporting.bundled import bundled_mix, bundled_tracks
from fernbrook.service.files import SoundFiles, file_name
from fernbrook.service.ground import new_id
from fernbrook.service.jobs import Job, JobKind, Jobs, nothing_more
from fernbrook.service.mixes import Mixes
from fernbrook.service.work.bundle import PackedFile, PackOrder, pack_bundle
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import JobState, jobs_of_kind
from fernbrook.store.mixes import MIX as MIX_STATE
from fernbrook.store.stored import Stored
from fernbrook.store.tables import JobRow, MixRow
from fernbrook.whole import write_whole

PACK = "bundle"


@dataclass(frozen=True)
class MadeBundle:
    """A bundle that was made here, or is under way."""

    job: Job
    audio: BundleAudio
    with_history: bool
    bytes: int | None


class Bundles:
    """All use cases that concern bundles that are made here."""

    def __init__(self, folders: Folders, database: Database, jobs: Jobs, files: SoundFiles, mixes: Mixes) -> None:
        self._folders = folders
        self._database = database
        self._jobs = jobs
        self._files = files
        self._mixes = mixes
        self._pack = JobKind(PACK, Stored(PackOrder, {}), pack_bundle, nothing_more, again=True, light=True)
        jobs.register(self._pack)

    def made_of(self, mix_id: str) -> list[MadeBundle]:
        """All bundles of a mix that lie here, the newest first."""
        with self._database.read() as session:
            return [self._view(row) for row in jobs_of_kind(session, PACK, mix_id)]

    def start(self, mix_id: str, audio: BundleAudio, *, with_history: bool) -> MadeBundle:
        """Queue the packing of a mix as it is now.

        Raises
        ------
        AudioFileError
            When the music is to go along and a file of it is missing or was changed. What only the past of the mix had
            is left out where it is missing.
        """
        job_id = new_id()
        self._mixes.outcomes.note()
        with self._database.read() as session:
            row = _mix(session, mix_id)
            mix = bundled_mix(session, row, with_history=with_history)
            tracks = bundled_tracks(session, mix)
            name = row.name
        paths = self._music(mix, tracks) if audio is not BundleAudio.NONE else {}
        files: list[PackedFile] = []
        said = [self._packed(t, n, audio, paths.get(t.id), files) for n, t in enumerate(tracks, 1)]
        texts = {MIX: mix.model_dump_json(), TRACKS: BundledTracks(tracks=tuple(said)).model_dump_json()}
        if any(len(text.encode()) > LARGEST_JSON for text in texts.values()):
            raise RefusedError("Too much has been done to this mix for one bundle. Make it without its history.")
        kept = {}
        for each, text in texts.items():
            path = self._folders.bundles / f"{job_id}.{each}"
            write_whole(path, text.encode())
            kept[each] = self._folders.stored(path)
        made_at = datetime.now(UTC).isoformat(timespec="seconds")
        order = PackOrder(
            target=f"{self._folders.bundles.name}/{job_id}.zip",
            said={"made_at": made_at, "name": name, "audio": audio.value, "with_history": with_history},
            texts=kept,
            files=tuple(files),
        )
        expected = {"audio": audio.value, "with_history": with_history}
        with self._database.write() as session:
            job = self._jobs.add(session, self._pack, mix_id, name, order, expected, job_id)
        self._jobs.announce(job)
        return self._view(job)

    def _music(self, mix: BundledMix, tracks: Iterable[BundledTrack]) -> dict[str, Path]:
        """The files of the tracks of a mix, and of what its past had as far as they are there."""
        head = next(s for s in mix.revisions if s.id == mix.head)
        needed = MIX_STATE.from_json(head.state).track_ids
        paths = self._files.checked(needed)
        return paths | self._files.checked_each(t.id for t in tracks if t.id not in needed)[0]

    def file(self, job_id: str) -> tuple[Path, str]:
        """A bundle that is done, and the name to give it."""
        with self._database.read() as session:
            row = _job(session, job_id)
        path = self._path(row)
        if row.state != JobState.DONE or not path.is_file():
            raise NotFoundError("That bundle is not there: it is not made yet, or was deleted.")
        return path, f"{file_name(row.title)} bundle.zip"

    def delete(self, job_id: str) -> None:
        """Delete a bundle that was made here."""
        with self._database.write() as session:
            row = _job(session, job_id)
            if self._jobs.view(row).is_open:
                raise RefusedError("It is being made. Cancel it first.")
            path = self._path(row)
            session.delete(row)
        for beside in path.parent.glob(f"{escape(path.stem)}.*"):
            beside.unlink(missing_ok=True)

    def delete_all(self, mix_id: str) -> None:
        """Delete all bundles of a mix; those under way are cancelled first."""
        for made in self.made_of(mix_id):
            if made.job.is_open:
                self._jobs.cancel(made.job.id)
            self.delete(made.job.id)

    def _packed(
        self, track: BundledTrack, number: int, audio: BundleAudio, path: Path | None, files: list[PackedFile]
    ) -> BundledTrack:
        """A track with its files, which are added to those that are packed."""
        if path is None:
            return track
        content = track.columns.content_hash
        as_flac = audio is BundleAudio.FLAC and path.suffix.lower() != ".flac"
        suffix = ".flac" if as_flac else path.suffix.lower()
        name = f"audio/{number:03} {file_name(track.columns.title)}{suffix}"
        files.append(PackedFile(name=name, path=self._folders.stored(path), as_flac=as_flac))
        beside = {
            "peaks": self._folders.pictures_of(content),
            "stems": [p for stem in KEPT if (p := self._folders.stem_file(content, stem.value)).is_file()],
        }
        named = {folder: tuple(f"{folder}/{p.name}" for p in found) for folder, found in beside.items()}
        for folder, found in beside.items():
            files += [PackedFile(name=f"{folder}/{p.name}", path=self._folders.stored(p)) for p in found]
        return track.model_copy(update={"audio": name, **named})

    def _path(self, row: JobRow) -> Path:
        return self._folders.ours(str(self._jobs.order_of(row).target), self._folders.bundles)

    def _view(self, row: JobRow) -> MadeBundle:
        result = row.result or {}
        return MadeBundle(
            job=self._jobs.view(row),
            audio=next((a for a in BundleAudio if a == result.get("audio")), BundleAudio.ORIGINAL),
            with_history=bool(result.get("with_history")),
            bytes=result.get("bytes"),
        )


def _mix(session: Session, mix_id: str) -> MixRow:
    row = session.get(MixRow, mix_id)
    if row is None:
        raise NotFoundError("That mix is not there any more.")
    return row


def _job(session: Session, job_id: str) -> JobRow:
    row = session.get(JobRow, job_id)
    if row is None or row.kind != PACK:
        raise NotFoundError("That bundle is not there any more.")
    return row
