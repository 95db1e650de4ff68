"""How a route reaches the services."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Request

from fernbrook.service.services import Services


def _services(request: Request) -> Services:
    services: Services = request.app.state.services
    return services


ServicesDep = Annotated[Services, Depends(_services)]
