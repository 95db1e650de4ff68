"""The markup of tracks in the database: a tree of revisions for each track, and a head that says which one counts."""

from __future__ import annotations

from sqlalchemy.orm import Session

from fernbrook.core.track import STAND_IN, Energy, Grid, Markup, plate_of
from fernbrook.store.history import passed
from fernbrook.store.stored import Stored
from fernbrook.store.tables import TrackRevisionRow, TrackRow
from fernbrook.store.upgrades import as_it_was, with_plain_words

MARKUP = Stored(Markup, {1: as_it_was, 2: as_it_was, 3: as_it_was, 4: with_plain_words, 5: as_it_was, 6: as_it_was})


def markup_of(session: Session, row: TrackRow) -> Markup:
    """The markup of a track as it stands. A track from before there was markup has only a grid."""
    head = head_of(session, row)
    if head is not None:
        return markup_in(head.state)
    grid = Grid.model_validate(row.grid) if row.grid else None
    return Markup(grid=grid, by_hand=row.grid_by_hand)


def found_markup(row: TrackRow) -> Markup:
    """The markup that the last analysis of a track found; an empty one before the first."""
    found = (row.findings or {}).get("markup")
    return MARKUP.from_json(found) if found else Markup()


def found_energy(row: TrackRow, grid: Grid | None) -> Energy | None:
    """The energy that the last analysis found, by the bars of the grid that there is now; None before the first."""
    found = row.findings or {}
    if not found.get("energy"):
        return None
    energy = Energy(first_bar=found.get("first_bar", 0), by_bar=found["energy"])
    counted_by = found_markup(row).grid if row.grid_by_hand else None
    return energy.recounted(counted_by, grid) if counted_by and grid else energy


def head_of(session: Session, row: TrackRow) -> TrackRevisionRow | None:
    """The revision that a track is at; None before the first."""
    return session.get(TrackRevisionRow, row.head) if row.head else None


def markup_in(state: bytes) -> Markup:
    """The markup that a revision holds."""
    return MARKUP.from_bytes(state)


def advance(session: Session, row: TrackRow, markup: Markup, label: str, *, in_place: bool = False) -> None:
    """Add a revision after the head, or ``in_place`` of it, and move on to it. What was there before the first one is
    kept as its parent."""
    head = head_of(session, row)
    if head is None:
        _add(session, row, markup_of(session, row), "analysed")
    elif in_place:
        row.head = passed(head)
    _add(session, row, markup, label)
    put(row, markup)


def begin(session: Session, row: TrackRow, markup: Markup) -> None:
    """Start the history of a track with what the analysis found."""
    row.head = None
    _add(session, row, markup, "analysed")
    put(row, markup)


def move_head(row: TrackRow, revision: TrackRevisionRow) -> None:
    """Go to another revision, for undo and redo."""
    row.head = revision.id
    put(row, markup_in(revision.state))


def put(row: TrackRow, markup: Markup) -> None:
    """Give a row what follows from its markup."""
    grid = markup.grid
    row.grid = grid.model_dump() if grid else None
    ends = (row.sound_start_s, row.sound_end_s or row.duration_s)
    row.bpm = grid.mean_bpm(*ends) if grid else None
    row.comes_bpm, row.leaves_bpm = grid.tempi_at_ends(*ends) if grid else (None, None)
    row.steady = grid is not None and grid.is_constant
    row.grid_by_hand, row.checked = markup.by_hand, markup.checked
    row.voice_share = _voice_share(row, markup)
    moments = (grid or STAND_IN).time_at([c.at for c in markup.cues])
    row.cue_marks = [(round(float(t), 2), plate_of(c)) for t, c in zip(moments, markup.cues, strict=True)]
    row.version += 1


def _voice_share(row: TrackRow, markup: Markup) -> float | None:
    """The share of a track in which somebody sings; None before its analysis."""
    if markup.grid is None or row.analysis_version is None:
        return None
    spans = [markup.grid.time_at([v.start, v.end]) for v in markup.voice]
    return round(sum(float(end - start) for start, end in spans) / max(row.duration_s, 1.0), 4)


def _add(session: Session, row: TrackRow, markup: Markup, label: str) -> None:
    revision = TrackRevisionRow(subject=row.id, parent=row.head, label=label, state=MARKUP.to_bytes(markup))
    session.add(revision)
    session.flush()
    row.head = revision.id
