"""The application that a server runs."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import APIRouter, FastAPI
from fastapi.openapi.docs import get_swagger_ui_html
from fastapi.responses import HTMLResponse
from starlette.middleware.trustedhost import TrustedHostMiddleware

from fernbrook import __version__
from fernbrook.api import desk, files, mixes, tracks
from fernbrook.api.frame import guard, page, problems
from fernbrook.service.services import Services


def create_app(services: Services, origins: frozenset[str] = frozenset()) -> FastAPI:
    """An application on a set of services, which it starts and stops.

    ``origins`` are pages that may ask besides its own, for development.
    """

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        services.start()
        services.warm_up()
        yield
        services.stop()

    app = FastAPI(
        title="Fernbrook",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        generate_unique_id_function=lambda route: route.name,
    )
    app.state.services = services
    problems.install(app)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=guard.LOCAL_HOSTS, www_redirect=False)
    app.add_middleware(guard.Guard, services=services, origins=origins)
    api = APIRouter(prefix="/api")
    for room in (tracks, mixes, files, desk):
        api.include_router(room.router)
    app.include_router(api)

    @app.get("/api/docs", include_in_schema=False)
    def api_page() -> HTMLResponse:
        """The API, to read and to try; its script and style ship with the page."""
        return get_swagger_ui_html(
            openapi_url="/api/openapi.json",
            title="Fernbrook: API",
            swagger_js_url="/api-page/swagger-ui-bundle.js",
            swagger_css_url="/api-page/swagger-ui.css",
            swagger_favicon_url="/fern.svg",
        )

    app.include_router(page.router)
    return app
