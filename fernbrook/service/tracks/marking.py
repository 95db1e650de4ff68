"""Changing the markup of a track by hand, measuring it again, undoing, and hearing it with a click or in rounds."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from fernbrook.analysis import mend
from fernbrook.analysis.features import Features
from fernbrook.audio.sources import Click, Repeat, Source, with_click
from fernbrook.core.mix.entries import suggested_gain
from fernbrook.core.mix.model import DEFAULT_TARGET_LUFS
from fernbrook.core.plan import RATE
from fernbrook.core.track import (
    AS_ANALYSED,
    STAND_IN,
    Cue,
    CueRole,
    Energy,
    Facet,
    Grid,
    Key,
    Loop,
    Markup,
    MarkupCommand,
    PutCues,
    PutGrid,
    PutLoops,
    PutSections,
    PutVoice,
    Section,
    SuggestedCue,
    SuggestedLoop,
    VoiceSpan,
    apply,
    as_found,
    tapped,
)
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.files import SoundFiles
from fernbrook.service.ground import Events, Steps, Undoing, steps
from fernbrook.service.jobs import Jobs
from fernbrook.store import markup as kept
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRevisionRow, TrackRow
from fernbrook.store.tracks import as_facts

LISTEN_BLOCK = 16_384

Blocks = Iterator[NDArray[np.float32]]
Measure = Callable[[Features, Markup], Grid]


@dataclass(frozen=True)
class OpenTrack:
    """A track's markup as it stands, and what else the last analysis found."""

    id: str
    version: int
    markup: Markup
    steps: Steps
    mean_bpm: float | None
    findings: Findings
    suggested_cues: tuple[SuggestedCue, ...]
    suggested_loops: tuple[SuggestedLoop, ...]


@dataclass(frozen=True)
class Findings:
    """What an analysis found and nobody changes by hand; None where it did not. ``energy`` is by bar."""

    has_grid: bool
    second_key: Key | None
    key_confidence: float | None
    tuning_cents: float | None
    runner_up_bpm: float | None
    swing: float | None
    short_term_max_lufs: float | None
    suggested_gain_db: float | None
    first_bar: int
    energy: tuple[float, ...]

    @classmethod
    def of(cls, row: TrackRow, grid: Grid | None) -> Findings:
        """The findings of a row, by the bars of a grid."""
        found = row.findings or {}
        energy = kept.found_energy(row, grid) or Energy(first_bar=0, by_bar=())
        return cls(
            has_grid=kept.found_markup(row).grid is not None,
            second_key=Key.parse(found.get("second_key") or ""),
            key_confidence=found.get("key_confidence"),
            tuning_cents=found.get("tuning_cents"),
            runner_up_bpm=found.get("runner_up_bpm"),
            swing=found.get("swing"),
            short_term_max_lufs=found.get("short_term_max_lufs"),
            suggested_gain_db=suggested_gain(row.loudness_lufs, row.true_peak_dbtp, DEFAULT_TARGET_LUFS),
            first_bar=energy.first_bar,
            energy=energy.by_bar,
        )


FARTHEST_BEATS = 1e5
"""Bar 1 may lie so far from a track: four hours at 400 BPM are as much."""
LONGEST_BAR_S = 30.0
BEFORE_S = 2.0
"""A cue may lie so long before a file begins: on the first beat of a bar that is cut off."""


@dataclass(frozen=True)
class Heard:
    """What is listened to of a track, in samples at the mix's rate, with a click on its beats where a level is given.

    Where there is a sample to go ``back_to``, what is heard are ``times`` rounds between it and ``end``.
    """

    start: int = 0
    end: int | None = None
    click_db: float | None = None
    back_to: int | None = None
    times: int = 1


@dataclass(frozen=True)
class Offsets:
    """For each beat from ``first`` on: how late its onsets are in seconds, how clear they are, 0 where not heard."""

    first: int
    late_s: NDArray[np.float64]
    clear: NDArray[np.float64]


class Marking(Undoing[TrackRow, TrackRevisionRow, OpenTrack]):
    """All use cases that concern the grid, sections, voice spans, cues and loops of a track."""

    BEGINNING = "what the analysis found"

    def __init__(self, folders: Folders, database: Database, events: Events, jobs: Jobs, files: SoundFiles) -> None:
        super().__init__(database)
        self._folders = folders
        self._events = events
        self._jobs = jobs
        self._files = files

    def open(self, track_id: str) -> OpenTrack:
        """A track's markup as it stands. What waits to be done about it is done next."""
        self._jobs.look_at(track_id)
        with self._database.read() as session:
            return self._opened(session, self._get(session, track_id))

    def change(
        self, track_id: str, version: int | None, command: MarkupCommand, gesture: str | None = None
    ) -> OpenTrack:
        """Apply a command to the version of the markup that the caller has seen, or to the present one without it.
        Changes in a row that belong to the same ``gesture`` are one step to undo.

        Raises
        ------
        StaleError
            When the markup has moved on since. Nothing is done.
        RefusedError
            When the command cannot be done.
        """
        put = _marks_in(command)
        if put:
            with self._database.read() as session:
                row = self._get(session, track_id)
                _refuse_outside(kept.markup_of(session, row), put, row.duration_s)
        return self._advance(track_id, version, command.words(), lambda markup: apply(markup, command), gesture)

    def put(self, track_id: str, version: int, label: str, change: Callable[[Markup], Markup]) -> OpenTrack:
        """Change a markup by what came from elsewhere, as one step called so; raises as ``change`` does."""
        return self._advance(track_id, version, label, change)

    def accept_suggested(self, track_id: str) -> OpenTrack:
        """Make real what is suggested for the roles that a mix is placed by; plain cues stay in pencil."""
        with self._database.read() as session:
            facts = as_facts(session, self._get(session, track_id))
        cues = tuple(p.cue for p in facts.suggested_cues if p.cue.role is not CueRole.PLAIN) if facts.grid else ()
        if not cues:
            return self.open(track_id)
        command = PutCues(cues=cues, why=f"accept {len(cues)} suggested cues")
        return self.change(track_id, None, command)

    def snap(self, track_id: str, version: int, beat: float, at_s: float | None = None) -> OpenTrack:
        """Slide the grid so that the line of a beat meets the onset nearest to it, or to the moment ``at_s``."""
        return self._measured(
            track_id, version, "snap to the onset", lambda f, m: mend.snapped(f, _grid(m), beat, at_s)
        )

    def measure(
        self, track_id: str, version: int, tempo_range: tuple[float, float], span_s: tuple[float, float] | None
    ) -> OpenTrack:
        """Find the grid again within a range of tempi: that of all of the track, or of a span of it, whose lines alone
        are others then."""
        return self._measured(
            track_id, version, "measure again", lambda f, m: mend.measured(f, tempo_range, span_s, m.grid)
        )

    def measure_from(
        self,
        track_id: str,
        version: int,
        beat: float,
        at_s: float | None = None,
        tempo_range: tuple[float, float] | None = None,
    ) -> OpenTrack:
        """A new tempo from a beat on, or from the onset nearest to ``at_s``, measured on what follows."""
        return self._measured(
            track_id,
            version,
            f"measured tempo from beat {beat:g}",
            lambda f, m: mend.measured_from(f, _grid(m), beat, at_s, tempo_range),
        )

    def follow(self, track_id: str, version: int, span_beats: tuple[float, float] | None, every: int) -> OpenTrack:
        """Put anchors where the player is heard."""
        return self._measured(
            track_id, version, "follow the player", lambda f, m: mend.following(f, _grid(m), span_beats, every)
        )

    def tap(self, track_id: str, version: int, times_s: list[float]) -> OpenTrack:
        """The steady grid through taps."""

        def put(markup: Markup) -> Markup:
            per_bar = markup.grid.beats_per_bar if markup.grid else 4
            return apply(markup, PutGrid(grid=tapped(times_s, per_bar)))

        return self._advance(track_id, version, "tap along", put)

    def back_to_analysed(self, track_id: str, version: int, facet: Facet = Facet.GRID) -> OpenTrack:
        """Take the grid, the sections or the voice spans that the last analysis found."""
        with self._database.read() as session:
            found = kept.found_markup(self._get(session, track_id))
        return self._advance(track_id, version, AS_ANALYSED[facet], lambda markup: as_found(markup, found, facet))

    def offsets(self, track_id: str, grid: Grid | None = None) -> Offsets:
        """How far the heard onsets lie from the track's grid, or from another one that is being tried."""
        with self._database.read() as session:
            row = self._get(session, track_id)
            used = grid or kept.markup_of(session, row).grid
        if used is None:
            return Offsets(0, np.zeros(0), np.zeros(0))
        return Offsets(*mend.offsets(self._features(row), used))

    def onsets_picture(self, track_id: str) -> Path:
        """The file with the onset strengths to draw: two bytes a frame of 128 samples, low and all."""
        with self._database.read() as session:
            path = self._folders.onsets_file(self._get(session, track_id).content_hash)
        if not path.is_file():
            raise NotFoundError("This track was analysed by an older version. Analyse it again to see its onsets.")
        return path

    def listen(self, track_id: str, span: Heard) -> tuple[int, Blocks]:
        """A track's own sound.

        Returns how many samples there are, and blocks of shape (n, 2) at the mix's rate.
        """
        with self._database.read() as session:
            row = self._get(session, track_id)
            grid = kept.markup_of(session, row).grid
        source = Source(self._files.checked([track_id])[track_id], RATE, row.title)
        begin = min(max(span.start, 0), source.frames)
        stop = source.frames if span.end is None else min(max(span.end, begin), source.frames)
        click = Click(grid.ticks, span.click_db) if grid and span.click_db is not None else None
        rounds = None if span.back_to is None else Repeat(source, min(span.back_to, begin), stop)

        def blocks() -> Blocks:
            with source:
                for at, block in rounds.blocks(begin, span.times) if rounds else _straight(source, begin, stop):
                    yield with_click(block, at, RATE, click) if click else block

        return rounds.frames * span.times if rounds else stop - begin, blocks()

    def _measured(self, track_id: str, version: int, label: str, measure: Measure) -> OpenTrack:
        with self._database.read() as session:
            features = self._features(self._get(session, track_id))
        return self._advance(
            track_id, version, label, lambda markup: apply(markup, PutGrid(grid=measure(features, markup)))
        )

    def _advance(
        self,
        track_id: str,
        version: int | None,
        label: str,
        change: Callable[[Markup], Markup],
        gesture: str | None = None,
    ) -> OpenTrack:
        with self._database.write() as session:
            row = self._get(session, track_id) if version is None else self._current(session, track_id, version)
            markup = kept.markup_of(session, row)
            changed = change(markup)
            if changed.grid is not None and changed.grid != markup.grid:
                _refuse_far(changed.grid, row.duration_s)
            if changed != markup:
                begun = self._begun(session, track_id, kept.head_of(session, row), gesture)
                kept.advance(session, row, changed, label, in_place=begun)
                self._note(track_id, row.head, gesture)
            opened = self._opened(session, row)
        self._tell(opened)
        return opened

    def _features(self, row: TrackRow) -> Features:
        path = self._folders.features_file(row.content_hash)
        if not path.is_file():
            raise RefusedError("This track was analysed by an older version. Analyse it again first.")
        return _read_features(path, path.stat().st_mtime_ns)

    def _get(self, session: Session, subject: str) -> TrackRow:
        row = session.get(TrackRow, subject)
        if row is None:
            raise NotFoundError("That track is not in the library any more.")
        return row

    def _head(self, session: Session, row: TrackRow) -> TrackRevisionRow | None:
        return kept.head_of(session, row)

    def _move(self, row: TrackRow, revision: TrackRevisionRow) -> None:
        kept.move_head(row, revision)

    def _opened(self, session: Session, row: TrackRow) -> OpenTrack:
        facts = as_facts(session, row)
        return OpenTrack(
            id=row.id,
            version=row.version,
            markup=kept.markup_of(session, row),
            suggested_cues=facts.suggested_cues if facts.grid else (),
            suggested_loops=facts.suggested_loops if facts.grid else (),
            steps=steps(session, kept.head_of(session, row)),
            mean_bpm=row.bpm,
            findings=Findings.of(row, facts.grid),
        )

    def _tell(self, opened: OpenTrack) -> None:
        self._events.tell({"type": "track", "id": opened.id, "version": opened.version})
        self._events.tell({"type": "tracks"})


def _straight(source: Source, begin: int, stop: int) -> Iterator[tuple[int, NDArray[np.float32]]]:
    for at in range(begin, stop, LISTEN_BLOCK):
        yield at, source.read(at, min(LISTEN_BLOCK, stop - at))


@lru_cache(maxsize=4)
def _read_features(path: Path, _written: int) -> Features:
    """The features of a track; the last few are kept, because one edit follows another."""
    return Features.from_bytes(path.read_bytes())


def _grid(markup: Markup) -> Grid:
    if markup.grid is None:
        raise RefusedError("No grid yet. Tap along, set a tempo, or measure again first.")
    return markup.grid


def _refuse_far(grid: Grid, duration_s: float) -> None:
    """Refuse a count that begins so far from the track that places in it are no beats of any music."""
    first, last = grid.beat_at([0.0, duration_s])
    away = max(float(first), -float(last))
    if away > FARTHEST_BEATS:
        where = "before" if first > 0.0 else "after"
        raise RefusedError(f"Bar 1 would lie {away:.0f} beats {where} the track. Count from a beat within it.")


Mark = Cue | Loop | Section | VoiceSpan
WORDS: dict[type, str] = {Cue: "cue", Loop: "loop", Section: "section", VoiceSpan: "voice span"}


def _marks_in(command: MarkupCommand) -> Sequence[Mark]:
    """What a command puts somewhere in a track."""
    match command:
        case PutCues():
            return command.cues
        case PutLoops():
            return command.loops
        case PutSections():
            return command.sections
        case PutVoice():
            return command.voice
    return ()


def _refuse_outside(markup: Markup, put: Sequence[Mark], duration_s: float) -> None:
    """Refuse what is put where the track has no sound: nobody would find it. A span may begin in the first bar."""
    grid = markup.grid or STAND_IN
    for mark in put:
        beat = mark.at if isinstance(mark, Cue) else mark.start
        at_s = float(grid.time_at(beat))
        early = BEFORE_S if isinstance(mark, Cue | Loop) else LONGEST_BAR_S
        if not -early <= at_s < duration_s:
            what = WORDS[type(mark)]
            where = "after the end" if at_s > 0.0 else "before the start"
            raise RefusedError(f"That {what} would lie {where} of the track. Put it within the track.")
