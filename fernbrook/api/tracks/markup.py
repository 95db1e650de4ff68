"""Routes for what is changed by hand on a track: grid, sections, voice spans."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import FileResponse

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.markup import (
    Analysed,
    AtBeat,
    Follow,
    MarkupChange,
    Measure,
    MeasureFrom,
    OffsetsOut,
    OnMarkup,
    OpenTrackOut,
    Taps,
)

router = APIRouter(prefix="/tracks/{track_id}", tags=["markup"])


@router.get("/markup")
def get_markup(services: ServicesDep, track_id: str) -> OpenTrackOut:
    """The grid, sections and voice spans of a track as they stand."""
    return OpenTrackOut.of(services.marking.open(track_id))


@router.post("/markup/commands")
def change_markup(services: ServicesDep, track_id: str, change: MarkupChange) -> OpenTrackOut:
    """Change a track by hand."""
    return OpenTrackOut.of(services.marking.change(track_id, change.version, change.command, change.gesture))


@router.post("/markup/accept")
def accept_suggested(services: ServicesDep, track_id: str) -> OpenTrackOut:
    """Make real what is suggested for start, mix-in, mix-out and alone from, where there is none yet."""
    return OpenTrackOut.of(services.marking.accept_suggested(track_id))


@router.post("/markup/undo")
def undo_markup(services: ServicesDep, track_id: str, on: OnMarkup) -> OpenTrackOut:
    """Take the last change back."""
    return OpenTrackOut.of(services.marking.undo(track_id, on.version))


@router.post("/markup/redo")
def redo_markup(services: ServicesDep, track_id: str, on: OnMarkup) -> OpenTrackOut:
    """Bring the last undone change again."""
    return OpenTrackOut.of(services.marking.redo(track_id, on.version))


@router.post("/markup/snap")
def snap_grid(services: ServicesDep, track_id: str, at: AtBeat) -> OpenTrackOut:
    """Slide the grid so that the line of a beat meets the onset nearest to it, or to a moment."""
    return OpenTrackOut.of(services.marking.snap(track_id, at.version, at.beat, at.at_s))


@router.post("/markup/measure")
def measure_grid(services: ServicesDep, track_id: str, how: Measure) -> OpenTrackOut:
    """Find the grid again."""
    span = None if how.start_s is None or how.end_s is None else (how.start_s, how.end_s)
    return OpenTrackOut.of(services.marking.measure(track_id, how.version, how.range.in_order, span))


@router.post("/markup/measure-from")
def measure_tempo_from(services: ServicesDep, track_id: str, at: MeasureFrom) -> OpenTrackOut:
    """A new tempo from a beat on, measured on what follows. Where a moment is given, the beat's line is put on the
    onset nearest to it first; the lines before it stay."""
    within = at.range.in_order if at.range else None
    return OpenTrackOut.of(services.marking.measure_from(track_id, at.version, at.beat, at.at_s, within))


@router.post("/markup/follow")
def follow_player(services: ServicesDep, track_id: str, how: Follow) -> OpenTrackOut:
    """Put anchors where the player is heard."""
    span = None if how.from_beat is None or how.to_beat is None else (how.from_beat, how.to_beat)
    return OpenTrackOut.of(services.marking.follow(track_id, how.version, span, how.every))


@router.post("/markup/tap")
def tap_grid(services: ServicesDep, track_id: str, taps: Taps) -> OpenTrackOut:
    """The steady grid through taps."""
    return OpenTrackOut.of(services.marking.tap(track_id, taps.version, taps.times_s))


@router.post("/markup/analysed")
def back_to_analysed(services: ServicesDep, track_id: str, what: Analysed) -> OpenTrackOut:
    """Take the grid, the sections or the voice spans that the last analysis found."""
    return OpenTrackOut.of(services.marking.back_to_analysed(track_id, what.version, what.facet))


@router.get("/offsets")
def get_offsets(services: ServicesDep, track_id: str) -> OffsetsOut:
    """How far the heard onsets lie from the grid."""
    return OffsetsOut.of(services.marking.offsets(track_id))


@router.get("/onsets", response_class=FileResponse)
def get_onsets(services: ServicesDep, track_id: str) -> FileResponse:
    """Onset strengths to draw: for each 128 samples at 44.1 kHz one byte for low sounds and one for all."""
    return FileResponse(services.marking.onsets_picture(track_id), media_type="application/octet-stream")
