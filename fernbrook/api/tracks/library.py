"""Routes for what tracks are gathered in, and what is done to many of them."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Response, UploadFile

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.library import (
    FilterIn,
    GatheredOut,
    ImportedListOut,
    ListChange,
    ListIn,
    Made,
    MissingOut,
    PairingIn,
    ReadAs,
    ReadingOut,
    ReadOut,
    Tagging,
    TagName,
    TracksIn,
)
from fernbrook.service.files import display_name

MOST_BYTES = 20_000_000
router = APIRouter(prefix="/library", tags=["library"])


@router.get("")
def get_library(services: ServicesDep) -> GatheredOut:
    """All lists, saved filters, tags and pairings, and what undo and redo would do."""
    return GatheredOut.of(services.collection.gathered(), services.catalogue.tags())


@router.post("/tags", status_code=204)
def tag_tracks(services: ServicesDep, tagging: Tagging) -> Response:
    """Give tags to some tracks, and take others from them."""
    services.collection.tag(tagging.track_ids, tagging.add, tagging.remove)
    return Response(status_code=204)


@router.post("/readings")
def list_readings(services: ServicesDep, some: TracksIn) -> list[ReadingOut]:
    """How the names of some tracks could be read in another encoding, what fits most of them first."""
    return [ReadingOut.of(reading) for reading in services.misreading.readings(some.track_ids)]


@router.post("/readings/use")
def read_names(services: ServicesDep, read: ReadAs) -> ReadOut:
    """Read the names of some tracks from their files again, in another encoding; undo brings those of before back."""
    return ReadOut(tracks=services.misreading.read_as(read.track_ids, read.encoding))


@router.put("/tags/{tag}", status_code=204)
def rename_tag(services: ServicesDep, tag: str, name: TagName) -> Response:
    """Call a tag otherwise on all tracks, joining it with one of that name."""
    services.collection.rename_tag(tag, name.name)
    return Response(status_code=204)


@router.delete("/tags/{tag}", status_code=204)
def remove_tag(services: ServicesDep, tag: str) -> Response:
    """Take a tag from all tracks."""
    services.collection.rename_tag(tag, None)
    return Response(status_code=204)


@router.post("/lists", status_code=201)
def make_list(services: ServicesDep, new: ListIn) -> Made:
    """Begin a list."""
    return Made(id=services.collection.make_list(new.name, new.track_ids))


@router.post("/lists/import", status_code=201)
def import_list(services: ServicesDep, file: Annotated[UploadFile, File()]) -> ImportedListOut:
    """Make a list of what an M3U8 or XSPF file names."""
    content = file.file.read(MOST_BYTES)
    came = services.collection.import_list(content, display_name(file.filename or "list"))
    return ImportedListOut(id=came.id, entries=came.entries, missing=list(came.missing))


@router.put("/lists/{list_id}", status_code=204)
def change_list(services: ServicesDep, list_id: str, change: ListChange) -> Response:
    """Call a list otherwise, or give it other tracks or another order."""
    services.collection.change_list(list_id, change.name, change.track_ids)
    return Response(status_code=204)


@router.post("/lists/{list_id}/tracks", status_code=204)
def add_to_list(services: ServicesDep, list_id: str, tracks: TracksIn) -> Response:
    """Put tracks at the end of a list."""
    services.collection.add_to_list(list_id, tracks.track_ids)
    return Response(status_code=204)


@router.post("/lists/{list_id}/duplicate", status_code=201)
def duplicate_list(services: ServicesDep, list_id: str) -> Made:
    """Begin a list as a copy of another."""
    return Made(id=services.collection.duplicate_list(list_id))


@router.delete("/lists/{list_id}", status_code=204)
def remove_list(services: ServicesDep, list_id: str) -> Response:
    """Take a list away; its tracks stay."""
    services.collection.remove_list(list_id)
    return Response(status_code=204)


@router.post("/filters", status_code=201)
def save_filter(services: ServicesDep, new: FilterIn) -> Made:
    """Give a search a name."""
    return Made(id=services.collection.save_filter(new.name, new.search))


@router.put("/filters/{filter_id}", status_code=204)
def change_filter(services: ServicesDep, filter_id: str, change: FilterIn) -> Response:
    """Change a saved filter."""
    services.collection.save_filter(change.name, change.search, filter_id)
    return Response(status_code=204)


@router.delete("/filters/{filter_id}", status_code=204)
def remove_filter(services: ServicesDep, filter_id: str) -> Response:
    """Take a saved filter away."""
    services.collection.remove_filter(filter_id)
    return Response(status_code=204)


@router.put("/pairings/{first}/{second}", status_code=204)
def pair_tracks(services: ServicesDep, first: str, second: str, pairing: PairingIn) -> Response:
    """Note that the second track goes well after the first."""
    services.collection.pair(first, second, pairing.note)
    return Response(status_code=204)


@router.delete("/pairings/{first}/{second}", status_code=204)
def unpair_tracks(services: ServicesDep, first: str, second: str) -> Response:
    """Take a pairing away."""
    services.collection.pair(first, second, None)
    return Response(status_code=204)


@router.post("/undo")
def undo_library(services: ServicesDep) -> GatheredOut:
    """Take the last step back."""
    return GatheredOut.of(services.collection.undo(), services.catalogue.tags())


@router.post("/redo")
def redo_library(services: ServicesDep) -> GatheredOut:
    """Bring again the step that was taken back last."""
    return GatheredOut.of(services.collection.redo(), services.catalogue.tags())


@router.post("/files")
def look_for_files(services: ServicesDep) -> MissingOut:
    """See which files are missing."""
    return MissingOut(track_ids=services.catalogue.look_for_files())
