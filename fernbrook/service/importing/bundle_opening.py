"""Opening bundles that come from elsewhere: what is here already is recognised, nothing is overwritten unasked."""

from __future__ import annotations

import shutil
import zipfile
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path, PurePosixPath
from typing import BinaryIO

from pydantic import ValidationError
from sqlalchemy.orm import Session

from fernbrook.core.track import MarkFacet, Markup, told
from fernbrook.core.value import what_is_wrong
from fernbrook.disk import full, writing
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.formats.archive import UNREADABLE, Archive, ArchiveError, read_archive, read_text
from fernbrook.formats.bundle import (
    BUNDLE,
    LARGEST_JSON,
    MIX,
    TRACKS,
    BundleAudio,
    BundledMix,
    BundledTrack,
    BundledTracks,
)
from fernbrook.service.files import file_name, note_kept
from fernbrook.service.ground import Events, new_id
from fernbrook.service.importing.bundled import add_mix, add_states, add_track, take_state
from fernbrook.service.importing.mark_files import FacetRead
from fernbrook.service.jobs import Job, JobKind, Jobs
from fernbrook.service.work.bundle import UnpackOrder, unpack_bundle
from fernbrook.service.work.worker import Result
from fernbrook.store.database import Database
from fernbrook.store.folders import ARRIVED, Folders
from fernbrook.store.jobs import JobState, jobs_of_kind
from fernbrook.store.markup import MARKUP, markup_of
from fernbrook.store.mixes import MIX as MIX_STATE
from fernbrook.store.stored import NewerStateError, Stored
from fernbrook.store.tables import JobRow, TrackRow
from fernbrook.store.tracks import by_hash

UNPACK = "open-bundle"
PART = 1 << 20
COMPARED = (MarkFacet.GRID, MarkFacet.SECTIONS, MarkFacet.VOICE, MarkFacet.CUES, MarkFacet.LOOPS)


class WrongError(ValueError):
    """What does not hang together in a bundle, in words."""


class Arrival(StrEnum):
    """What becomes of a track that comes in a bundle: it is new; it is here and the same; it is here with other markup,
    of which one is chosen; or its music is neither here nor in the bundle."""

    NEW = "new"
    SAME = "same"
    DIFFERS = "differs"
    MISSING = "missing"


@dataclass(frozen=True)
class ArrivingTrack:
    """A track of a bundle, by its id there, what differs from what is here, and which of its files are needed."""

    id: str
    title: str
    artist: str
    arrival: Arrival
    parts: tuple[FacetRead, ...] = ()
    wanted: tuple[str, ...] = ()


@dataclass(frozen=True)
class ArrivedBundle:
    """A bundle that was brought here, and is to be opened. ``needs`` is how many bytes that takes."""

    id: str
    name: str
    made_at: str
    audio: BundleAudio
    states: int
    needs: int
    tracks: tuple[ArrivingTrack, ...]


@dataclass(frozen=True)
class OpenedBundle:
    """How far the opening of a bundle is, and the mix that it became."""

    job: Job
    mix_id: str | None


class BundleOpening:
    """All use cases that concern bundles from elsewhere."""

    def __init__(self, folders: Folders, database: Database, events: Events, jobs: Jobs) -> None:
        self._folders = folders
        self._database = database
        self._events = events
        self._jobs = jobs
        self._unpack = JobKind(UNPACK, Stored(UnpackOrder, {}), unpack_bundle, self._opened, again=True, light=True)
        jobs.register(self._unpack)

    def clear(self) -> None:
        """Throw bundles away that were brought here and are not being opened: at a start nobody waits for them."""
        with self._database.read() as session:
            waiting = {row.subject for row in jobs_of_kind(session, UNPACK) if self._jobs.view(row).is_open}
        for path in self._folders.bundles.glob(f"*{ARRIVED}"):
            if path.stem not in waiting:
                path.unlink(missing_ok=True)

    def bring(self, stream: BinaryIO, name: str) -> ArrivedBundle:
        """Take a bundle here and say what is in it; nothing is opened yet.

        Raises
        ------
        ArchiveError
            When it cannot be used; nothing of it is kept.
        """
        bundle_id = new_id()
        path = self._arrived(bundle_id)
        try:
            with writing(f"‘{name}’ was not brought here", path), path.open("wb") as file:
                shutil.copyfileobj(stream, file, PART)
            return self.look(bundle_id)
        except ArchiveError as error:
            path.unlink(missing_ok=True)
            raise ArchiveError(str(error).replace(path.name, name)) from error
        except BaseException:
            path.unlink(missing_ok=True)
            raise

    def look(self, bundle_id: str) -> ArrivedBundle:
        """What is in a bundle that was brought here, beside what the library has."""
        path = self._arrived(bundle_id)
        if not path.is_file():
            raise NotFoundError("That bundle is not here any more. Bring it again.")
        archive, mix, tracks = read_bundle(path)
        with self._database.read() as session:
            arriving = tuple(_arriving(session, t) for t in tracks)
        return ArrivedBundle(
            id=bundle_id,
            name=mix.name,
            made_at=str(archive.said.get("made_at", "")),
            audio=_audio_of(archive),
            states=len(mix.revisions),
            needs=sum(archive.files[name][0] for t in arriving for name in t.wanted),
            tracks=arriving,
        )

    def open(self, bundle_id: str, take: Iterable[str] = ()) -> OpenedBundle:
        """Queue the opening of a bundle. Of tracks that are here with other markup, ``take`` names those whose markup
        is to be that of the bundle, as a change that can be undone; that of the others stays.

        Raises
        ------
        DiskFullError
            When there is no room for what is new.
        """
        arrived = self.look(bundle_id)
        path = self._arrived(bundle_id)
        if shutil.disk_usage(self._folders.root).free < arrived.needs:
            raise full(f"the bundle ‘{arrived.name}’ was not opened")
        order = UnpackOrder(
            source=self._folders.stored(path),
            names=tuple(name for t in arrived.tracks for name in t.wanted),
            stage=self._folders.stored(_stage(path)),
            take=tuple(take),
        )
        with self._database.write() as session:
            if any(self._jobs.view(r).is_open for r in jobs_of_kind(session, UNPACK, bundle_id)):
                raise RefusedError(f"‘{arrived.name}’ is being opened already.")
            job = self._jobs.add(session, self._unpack, bundle_id, arrived.name, order)
        self._jobs.announce(job)
        return OpenedBundle(self._jobs.view(job), None)

    def opening(self, bundle_id: str) -> OpenedBundle:
        """How far the opening of a bundle is; what has been opened is not kept."""
        with self._database.read() as session:
            row = next(iter(jobs_of_kind(session, UNPACK, bundle_id)), None)
        if row is None:
            raise NotFoundError("That bundle is not being opened.")
        if row.state == JobState.DONE:
            self.leave(bundle_id)
        return OpenedBundle(self._jobs.view(row), (row.result or {}).get("mix_id"))

    def leave(self, bundle_id: str) -> None:
        """Throw a bundle away that was brought here."""
        path = self._arrived(bundle_id)
        path.unlink(missing_ok=True)
        shutil.rmtree(_stage(path), ignore_errors=True)

    def _opened(self, session: Session, row: JobRow, _result: Result) -> None:
        """Put the files of a bundle in their places, and its tracks and its mix into the library, in one transaction.

        What it was taken from stays until that is through: where the disk is full, it is tried again.
        """
        order: UnpackOrder = self._jobs.order_of(row)
        path, stage = order.places(self._folders)
        _, mix, tracks = read_bundle(path)
        ids: dict[str, str] = {}
        states: dict[str, Mapping[int, int]] = {}
        label = f"from the bundle ‘{mix.name[:100]}’"
        for bundled in tracks:
            here = _here(session, bundled)
            is_new = here is None
            track = here or self._added(session, bundled, stage)
            track.hidden = False
            ids[bundled.id] = track.id
            states[bundled.id] = add_states(session, track, bundled, label)
            theirs = states[bundled.id].get(bundled.head or 0)
            if theirs is not None and (is_new or bundled.id in order.take):
                take_state(session, track, theirs, label)
            self._put_beside(track, bundled, stage, is_new=is_new)
        made = add_mix(session, new_id(), mix, ids, states)
        row.result = {**(row.result or {}), "mix_id": made.id}
        self._events.tell({"type": "tracks"})
        self._events.tell({"type": "mixes"})

    def _added(self, session: Session, bundled: BundledTrack, stage: Path) -> TrackRow:
        content = bundled.columns.content_hash
        suffix = PurePosixPath(bundled.audio or bundled.columns.file_name).suffix.lower()
        place = self._folders.audio / content[:2] / f"{content}{suffix}"
        came = stage / bundled.audio if bundled.audio else None
        if came is not None and came.is_file():
            place.parent.mkdir(parents=True, exist_ok=True)
            came.replace(place)
        free_id = new_id() if session.get(TrackRow, bundled.id) else bundled.id
        track = add_track(session, free_id, bundled, self._folders.stored(place))
        if place.is_file():
            note_kept(session, track, place)
        return track

    def _put_beside(self, track: TrackRow, bundled: BundledTrack, stage: Path, *, is_new: bool) -> None:
        """Pictures and stems, where there are none yet."""
        for name in bundled.peaks:
            _move_in(stage / name, self._folders.peaks / PurePosixPath(name).name)
        if bundled.stems and (is_new or track.stems is None):
            for name in bundled.stems:
                _move_in(stage / name, self._folders.stems / PurePosixPath(name).name)
            stems = bundled.columns.stems
            track.stems = stems.model_dump(mode="json") if stems else None

    def _arrived(self, bundle_id: str) -> Path:
        return self._folders.bundles / f"{file_name(bundle_id)}{ARRIVED}"


def read_bundle(path: Path) -> tuple[Archive, BundledMix, list[BundledTrack]]:
    """What a bundle holds, all that is read of it checked.

    Raises
    ------
    ArchiveError
        When it is no whole bundle, was made by a newer version, or says what cannot be.
    """
    archive = read_archive(path, BUNDLE)
    if not {MIX, TRACKS} <= archive.files.keys():
        raise ArchiveError(f"‘{path.name}’ holds no mix. Use another bundle.")
    try:
        with zipfile.ZipFile(path) as opened:
            mix = BundledMix.model_validate_json(read_text(opened, path, MIX, LARGEST_JSON))
            tracks = BundledTracks.model_validate_json(read_text(opened, path, TRACKS, LARGEST_JSON)).tracks
        _check(archive, mix, tracks)
    except NewerStateError as error:
        raise ArchiveError(
            f"‘{path.name}’ was made by a newer Fernbrook. Bring this one up to date, then open it again."
        ) from error
    except (*UNREADABLE, ValidationError, TypeError, OSError) as error:
        wrong = what_is_wrong(error) if isinstance(error, ValidationError) else "it cannot be read"
        words = str(error) if isinstance(error, WrongError) else wrong
        raise ArchiveError(f"‘{path.name}’ is damaged: {words}. Use another one.") from error
    return archive, mix, list(tracks)


def _check(archive: Archive, mix: BundledMix, tracks: Iterable[BundledTrack]) -> None:
    """Raise WrongError where a bundle does not hang together; its states are read, so that all of them can be."""
    known = {t.id for t in tracks}
    seen: set[int] = set()
    for state in mix.revisions:
        if state.parent is not None and state.parent not in seen:
            raise WrongError(f"state {state.id} comes before the one that it was made from")
        seen.add(state.id)
    for state in mix.states:
        if strange := MIX_STATE.from_json(state.state).track_ids - known:
            raise WrongError(f"a track of the mix, {sorted(strange)[0]}, is not in it")
    if mix.head not in seen:
        raise WrongError("the state that counts is not in it")
    for track in tracks:
        files = (*([track.audio] if track.audio else []), *track.peaks, *track.stems)
        if lost := set(files) - set(archive.files):
            raise WrongError(f"{sorted(lost)[0]} is not in it")
        if large := [f for f in files if archive.files[f][0] > track.most_bytes]:
            raise WrongError(f"{large[0]} is larger than ‘{track.columns.title[:80]}’ can be")
        for state in track.revisions:
            MARKUP.from_json(state.state)
        findings = track.columns.findings
        if findings is not None and findings.markup is not None:
            MARKUP.from_json(findings.markup)
        content = track.columns.content_hash
        if not all(PurePosixPath(n).name.startswith(content) for n in (*track.peaks, *track.stems)):
            raise WrongError(f"a file of ‘{track.columns.title}’ belongs to another track")


def _arriving(session: Session, track: BundledTrack) -> ArrivingTrack:
    columns = track.columns
    row = _here(session, track)
    if row is None:
        arrival = Arrival.NEW if track.audio else Arrival.MISSING
        wanted = (*([track.audio] if track.audio else []), *track.peaks, *track.stems)
        return ArrivingTrack(track.id, columns.title, columns.artist, arrival, wanted=wanted)
    theirs = next((MARKUP.from_json(s.state) for s in track.revisions if s.id == track.head), Markup())
    mine = markup_of(session, row)
    parts = tuple(FacetRead(f, tuple(told(mine, None, f)), tuple(told(theirs, None, f))) for f in COMPARED)
    differing = tuple(p for p in parts if p.differs)
    arrival = Arrival.DIFFERS if differing else Arrival.SAME
    wanted = track.stems if row.stems is None else ()
    return ArrivingTrack(track.id, columns.title, columns.artist, arrival, differing, wanted)


def _here(session: Session, track: BundledTrack) -> TrackRow | None:
    """The same track in this library: as it was imported, or as its file has been since tags were written into it."""
    found = by_hash(session, track.columns.content_hash)
    return found or (by_hash(session, track.kept_hash) if track.kept_hash else None)


def _audio_of(archive: Archive) -> BundleAudio:
    said = archive.said.get("audio")
    return BundleAudio(said) if said in list(BundleAudio) else BundleAudio.NONE


def _stage(path: Path) -> Path:
    """Where the files of a bundle are taken out to; cleared away at a start, and made again."""
    return path.with_name(f".{path.stem}.opened.part")


def _move_in(came: Path, place: Path) -> None:
    if came.is_file() and not place.exists():
        came.replace(place)
