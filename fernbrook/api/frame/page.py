"""Serving the built page: its files by name, and the page itself for every other address."""

from __future__ import annotations

from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import FileResponse, PlainTextResponse, Response
from starlette.exceptions import HTTPException

WEBAPP = Path(__file__).parents[2] / "webapp"

router = APIRouter(include_in_schema=False)

NOT_BUILT = "The page is not built. Run `make web` in the project's folder, then reload."


@router.api_route("/{path:path}", methods=["GET", "HEAD"])
def page(path: str) -> Response:
    """A file of the page, or the page, so that deep links and reloads work."""
    if path.startswith("api/"):
        raise HTTPException(404, "There is nothing at this address.")
    file = _file(path)
    if file is not None:
        return FileResponse(file, headers={"cache-control": _kept(path)})
    if Path(path).suffix:
        raise HTTPException(404, f"There is no file {path}.")
    index = WEBAPP / "index.html"
    if not index.is_file():
        return PlainTextResponse(NOT_BUILT, 503)
    return FileResponse(index, headers={"cache-control": "no-cache"})


def _kept(path: str) -> str:
    """How long a browser may keep a file. Those whose names tell their content stay; a picture stays for a day; what is
    run is asked for each time, so that after an upgrade all of it is of one version."""
    if path.startswith("assets/"):
        return "max-age=31536000, immutable"
    return "max-age=86400" if path.endswith(".svg") else "no-cache"


def _file(path: str) -> Path | None:
    """The page's file of that name; None where there is none, or where no file could have that name."""
    try:
        file = (WEBAPP / path).resolve()
        return file if file.is_relative_to(WEBAPP.resolve()) and file.is_file() else None
    except (OSError, ValueError):
        return None
