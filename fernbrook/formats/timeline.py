"""Lanes and markers as an OpenTimelineIO file (https://opentimelineio.readthedocs.io), for editors that read it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from urllib.parse import quote

import opentimelineio as otio

from fernbrook.formats.marker_list import MarkerLine


@dataclass(frozen=True)
class LaneFile:
    """A lane: what it is called, its file beside the timeline's, and where something is heard on it, in samples."""

    name: str
    file: str
    start: int
    end: int


def timeline(name: str, lanes: Sequence[LaneFile], markers: Sequence[MarkerLine], frames: int, rate: int) -> str:
    """A timeline in JSON: a track a lane, on which it lies where it is heard. Counted in samples at ``rate``."""

    def at(samples: int) -> otio.opentime.RationalTime:
        return otio.opentime.RationalTime(samples, rate)

    result = otio.schema.Timeline(name)
    for lane in lanes:
        whole = otio.opentime.TimeRange(at(0), at(frames))
        heard = otio.opentime.TimeRange(at(lane.start), at(lane.end - lane.start))
        media = otio.schema.ExternalReference(target_url=quote(lane.file), available_range=whole)
        track = otio.schema.Track(lane.name, kind=otio.schema.TrackKind.Audio)
        if lane.start:
            track.append(otio.schema.Gap(source_range=otio.opentime.TimeRange(at(0), at(lane.start))))
        track.append(otio.schema.Clip(lane.name, media_reference=media, source_range=heard))
        result.tracks.append(track)
    for marker in markers:
        span = otio.opentime.TimeRange(at(round(marker.at_s * rate)), at(0))
        result.tracks.markers.append(otio.schema.Marker(name=marker.name, marked_range=span))
    return str(otio.adapters.write_to_string(result, "otio_json"))
