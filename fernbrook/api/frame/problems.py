"""Errors as problem details (RFC 9457), and their place in the API's description."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.openapi.utils import get_openapi
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException
from starlette.routing import compile_path

from fernbrook.disk import full, is_full
from fernbrook.errors import (
    AudioFileError,
    DiskFullError,
    FernbrookError,
    InUseError,
    NotFoundError,
    RefusedError,
    StaleError,
)
from fernbrook.service.ground import OvertakenError
from fernbrook.service.services import Services

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
    RefusedError: (409, "Cannot be done"),
    OvertakenError: (503, "Overtaken"),
    InUseError: (409, "Still in use"),
    StaleError: (409, "Changed elsewhere"),
    AudioFileError: (409, "File cannot be used"),
    DiskFullError: (507, "Disk full"),
    FernbrookError: (500, "Unforeseen"),
}
TITLES = {400: "Malformed request", 403: "Refused", 404: "Not found", 405: "Not possible here"}
DOCUMENTED = {
    400: "The request cannot be read.",
    403: "The request does not come from this machine's own page.",
    404: "There is no such thing.",
    409: "As things stand it cannot be done: the detail says why. A stale change is told by the present version.",
    422: "The request is malformed: a field is missing, or a number lies out of bounds.",
    503: "Newer requests of the same kind were served first.",
    507: "The disk is full.",
}


def install(app: FastAPI) -> None:
    """Have all errors answered as problems, and described as such."""
    app.add_exception_handler(FernbrookError, _known)
    app.add_exception_handler(RequestValidationError, _malformed)
    app.add_exception_handler(HTTPException, _http)
    app.openapi = lambda: _described(app)  # type: ignore[method-assign]


def problem(
    status: int, title: str, detail: str, version: int | None = None, headers: dict[str, str] | None = None
) -> JSONResponse:
    """A response that tells of a problem."""
    body = Problem(title=title, status=status, detail=detail, version=version)
    return JSONResponse(body.model_dump(exclude_none=True), status, media_type=MEDIA_TYPE, headers=headers)


def unforeseen(error: Exception, services: Services) -> JSONResponse:
    """What is answered where nothing foresaw an error: a full disk is told as such."""
    if is_full(error, services.folders.root):
        status, title = STATUS[DiskFullError]
        return problem(status, title, str(full("what was asked for was not done")))
    return problem(500, "Unforeseen", "A fault in Fernbrook: what happened is told in the terminal that it runs in.")


async def _known(_: Request, error: Exception) -> JSONResponse:
    status, title = next(STATUS[kind] for kind in type(error).__mro__ if kind in STATUS)
    return problem(status, title, str(error), error.version if isinstance(error, StaleError) else None)


async def _malformed(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    first = jsonable_encoder(error.errors(), custom_encoder={float: str, bytes: repr})[0]
    place = ".".join(str(part) for part in first["loc"] if part not in {"body", "query", "path"})
    detail = first["msg"].removeprefix("Value error, ")
    words = f"{place}: {detail}" if place else detail
    # What our own rules say of a request of the right shape, such as that points must rise, is no matter of its form.
    if first["type"] == "value_error":
        return problem(*STATUS[RefusedError], words)
    return problem(422, "Malformed request", words)


async def _http(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    headers = dict(error.headers) if error.headers else None
    if error.status_code == 405:
        headers = {"allow": ", ".join(sorted(_methods_at(request)))}
    return problem(error.status_code, TITLES.get(error.status_code, "Refused"), str(error.detail), headers=headers)


def _methods_at(request: Request) -> set[str]:
    """All methods that there are at an address of the API; the framework names only those of the first route."""
    paths = request.app.openapi()["paths"].items()
    return {m.upper() for path, methods in paths if compile_path(path)[0].match(request.url.path) for m in methods}


def _described(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI description, in which every operation may answer with a problem."""
    if app.openapi_schema is None:
        schema = get_openapi(
            title=app.title, version=app.version, routes=app.routes, separate_input_output_schemas=True
        )
        shapes = schema["components"]["schemas"]
        for name in ("HTTPValidationError", "ValidationError"):
            shapes.pop(name, None)
        shapes["Problem"] = Problem.model_json_schema()
        content = {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}
        for operations in schema["paths"].values():
            for operation in operations.values():
                for status, words in DOCUMENTED.items():
                    operation["responses"][str(status)] = {"description": words, "content": content}
        app.openapi_schema = schema
    return app.openapi_schema
