"""Errors as problem details (RFC 9457)."""

from __future__ import annotations

from fastapi import FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from fernbrook.audio.errors import AudioFileError
from fernbrook.service.errors import InUseError, NotFoundError, RefusedError, ServiceError, StaleError

MEDIA_TYPE = "application/problem+json"


class Problem(BaseModel):
    """What went wrong. ``detail`` is for the user; ``version`` is the present one where a change was stale."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    version: int | None = None


STATUS: dict[type[Exception], tuple[int, str]] = {
    NotFoundError: (404, "Not found"),
    RefusedError: (422, "Cannot be done"),
    InUseError: (409, "Still in use"),
    StaleError: (409, "Changed elsewhere"),
    AudioFileError: (422, "File cannot be used"),
}


def install(app: FastAPI) -> None:
    """Have all errors answered as problems."""
    app.add_exception_handler(ServiceError, _known)
    app.add_exception_handler(AudioFileError, _known)
    app.add_exception_handler(RequestValidationError, _malformed)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(Exception, _unforeseen)


def problem(status: int, title: str, detail: str, version: int | None = None) -> JSONResponse:
    """A response that tells of a problem."""
    body = Problem(title=title, status=status, detail=detail, version=version)
    return JSONResponse(body.model_dump(exclude_none=True), status, media_type=MEDIA_TYPE)


async def _known(_: Request, error: Exception) -> JSONResponse:
    status, title = next(STATUS[kind] for kind in type(error).__mro__ if kind in STATUS)
    return problem(status, title, str(error), error.version if isinstance(error, StaleError) else None)


async def _malformed(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    first = jsonable_encoder(error.errors())[0]
    place = ".".join(str(part) for part in first["loc"] if part not in {"body", "query", "path"})
    detail = first["msg"].removeprefix("Value error, ")
    return problem(422, "Malformed request", f"{place}: {detail}" if place else detail)


async def _http(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    return problem(error.status_code, "Not found" if error.status_code == 404 else "Refused", str(error.detail))


async def _unforeseen(_: Request, error: Exception) -> JSONResponse:
    return problem(500, "Unforeseen", f"Something went wrong that should not have: {type(error).__name__}. Try again.")
