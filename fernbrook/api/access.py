"""How a route reaches the services."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Request

from fernbrook.service.house import House


def _house(request: Request) -> House:
    house: House = request.app.state.house
    return house


HouseDep = Annotated[House, Depends(_house)]
