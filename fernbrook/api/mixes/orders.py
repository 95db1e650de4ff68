"""Routes for orders that are found for a mix, and for what bridges its jumps."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.orders import JumpOut, NewSearch, SearchOut
from fernbrook.service.services import Services

router = APIRouter(prefix="/mixes/{mix_id}", tags=["orders"])


@router.post("/orders", status_code=202)
def find_orders(services: ServicesDep, mix_id: str, new: NewSearch) -> SearchOut:
    """Look for good orders of a mix; this takes the place of the search before."""
    among = None if new.library is None else _among(services, new.library.search, new.library.list_id)
    return SearchOut.of(services.orders.start(mix_id, new.wishes, among))


@router.get("/orders")
def get_orders(services: ServicesDep, mix_id: str) -> SearchOut | None:
    """The last search for orders of a mix, and what it has found."""
    search = services.orders.latest(mix_id)
    return SearchOut.of(search) if search else None


@router.get("/jumps/{entry_id}")
def get_jump(
    services: ServicesDep,
    mix_id: str,
    entry_id: str,
    search: Annotated[str, Query(max_length=2000)] = "",
    list_id: Annotated[str | None, Query(max_length=32)] = None,
) -> JumpOut:
    """What could be done about the jump after an entry: cures, and tracks of the library that bridge it."""
    among = _among(services, search, list_id) if search or list_id else None
    return JumpOut.of(services.orders.jump(mix_id, entry_id, among))


def _among(services: Services, search: str, list_id: str | None) -> list[str]:
    """The tracks that a search means, of a list where one is named."""
    return services.catalogue.find(search, among=services.collection.tracks_on(list_id) if list_id else None)
