"""The host's interface: uploads after the tus protocol 1.0.0 (https://tus.io/protocols/resumable-upload) with its
extensions creation and termination, and mixes as JSON. See ``docs/formats.md``."""

from __future__ import annotations

import asyncio
import base64
import binascii
from html import escape
from pathlib import Path
from typing import Annotated, Any

from fastapi import Depends, FastAPI, Header, Request, Response
from fastapi.responses import FileResponse, HTMLResponse, JSONResponse
from pydantic import BaseModel, Field
from starlette.requests import ClientDisconnect
from starlette.types import Receive, Scope, Send

from standins.host.shelf import HostError, Shelf

TUS = "1.0.0"
OFFSETS = "application/offset+octet-stream"


class TrackSaid(BaseModel):
    """A track of a mix: when it begins, and what it is."""

    start_s: float = Field(ge=0.0)
    title: str = Field(max_length=300)
    artist: str = Field(default="", max_length=300)


class MixSaid(BaseModel):
    """What is said of a mix when it is published; ``picture`` is a PNG or JPEG in Base64."""

    upload: str
    title: str = Field(min_length=1, max_length=200)
    tags: list[str] = Field(default_factory=list, max_length=20)
    tracks: list[TrackSaid] = Field(default_factory=list, max_length=500)
    picture: str = Field(default="", max_length=12_000_000)
    private: bool = False


class BrokenOff(Response):
    """A connection that breaks off: more is announced than is sent, and the server hangs up."""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:  # noqa: ARG002  (ASGI's)
        """Begin an answer and leave."""
        await send({"type": "http.response.start", "status": 204, "headers": [(b"content-length", b"1")]})


def create_host(root: Path) -> FastAPI:
    """A host that keeps everything in a folder."""
    shelf = Shelf(root)
    shelf.token()

    async def slowly() -> None:
        if delay := shelf.behaviour().slow_ms:
            await asyncio.sleep(delay / 1000.0)

    app = FastAPI(title="Host", docs_url=None, redoc_url=None, dependencies=[Depends(slowly)])

    @app.exception_handler(HostError)
    async def told(_: Request, error: HostError) -> JSONResponse:
        content = {"title": "Refused", "status": error.status, "detail": str(error)}
        return JSONResponse(content, error.status, media_type="application/problem+json")

    @app.options("/uploads", status_code=204)
    def can() -> Response:
        headers = {
            "Tus-Version": TUS,
            "Tus-Extension": "creation,termination",
            "Tus-Max-Size": str(shelf.behaviour().largest),
        }
        return Response(status_code=204, headers=headers)

    @app.post("/uploads", status_code=201)
    def begin(
        upload_length: Annotated[int, Header(ge=0)],
        authorization: Annotated[str, Header()] = "",
        upload_metadata: Annotated[str, Header()] = "",
    ) -> Response:
        shelf.check(authorization, "upload")
        upload = shelf.begin(upload_length, _metadata(upload_metadata))
        return _tus(201, {"Location": f"/uploads/{upload}"})

    @app.head("/uploads/{upload}")
    def look(upload: str, authorization: Annotated[str, Header()] = "") -> Response:
        shelf.check(authorization, "upload")
        here, length = shelf.said(upload)
        return _tus(200, {"Upload-Offset": str(here), "Upload-Length": str(length), "Cache-Control": "no-store"})

    @app.patch("/uploads/{upload}", status_code=204)
    async def append(
        upload: str,
        request: Request,
        upload_offset: Annotated[int, Header(ge=0)],
        content_type: Annotated[str, Header()] = "",
        authorization: Annotated[str, Header()] = "",
    ) -> Response:
        shelf.check(authorization, "upload")
        if content_type != OFFSETS:
            raise HostError(415, f"A part of an upload is sent as {OFFSETS}.")
        here, _ = shelf.said(upload)
        if upload_offset != here:
            raise HostError(409, f"{here} bytes are here: go on from there, not from {upload_offset}.")
        limit, came = shelf.behaviour().break_after, 0
        try:
            async for part in request.stream():
                room = len(part) if limit is None else max(0, limit - came)
                here = shelf.append(upload, part[:room])
                came += len(part)
                if limit is not None and came > limit:
                    return BrokenOff()
        except ClientDisconnect:
            pass  # what came is kept: that is what resuming is for
        return _tus(204, {"Upload-Offset": str(here)})

    @app.delete("/uploads/{upload}", status_code=204)
    def drop(upload: str, authorization: Annotated[str, Header()] = "") -> Response:
        shelf.check(authorization, "upload")
        shelf.drop(upload)
        return _tus(204, {})

    @app.post("/mixes", status_code=201)
    def publish(mix: MixSaid, authorization: Annotated[str, Header()] = "") -> dict[str, str]:
        shelf.check(authorization, "mix")
        made = shelf.publish(mix.upload, mix.model_dump(exclude={"upload"}))
        return {"id": made, "url": f"/mixes/{made}"}

    @app.get("/mixes/{mix}.json")
    def said(mix: str) -> dict[str, Any]:
        return shelf.mix(mix)[0]

    @app.get("/mixes/{mix}.sound", response_class=FileResponse)
    def sound(mix: str) -> FileResponse:
        return FileResponse(shelf.mix(mix)[1])

    @app.get("/mixes/{mix}", response_class=HTMLResponse)
    def page(mix: str) -> str:
        about, _ = shelf.mix(mix)
        tracks = "".join(
            f"<li>{_clock(t['start_s'])} {escape(t['artist'])} – {escape(t['title'])}</li>" for t in about["tracks"]
        )
        return (
            f"{HEAD}<h1>{escape(about['title'])}</h1><audio controls src='/mixes/{mix}.sound'></audio><ol>{tracks}</ol>"
        )

    @app.get("/", response_class=HTMLResponse)
    def home() -> str:
        rows = "".join(
            f"<li><a href='/mixes/{i}'>{escape(m['title'])}</a>{' (private)' if m['private'] else ''}</li>"
            for i, m in shelf.all_mixes()
        )
        return f"{HEAD}<h1>Mixes here</h1><ul>{rows or '<li>None yet.</li>'}</ul>"

    return app


HEAD = "<!doctype html><meta charset='utf-8'><title>Host</title><style>body{font:16px system-ui;margin:40px}</style>"


def _tus(status: int, headers: dict[str, str]) -> Response:
    """An answer of the protocol."""
    return Response(status_code=status, headers={"Tus-Resumable": TUS, **headers})


def _clock(seconds: float) -> str:
    return f"{int(seconds // 60)}:{int(seconds % 60):02}"


def _metadata(header: str) -> dict[str, str]:
    """Pairs of a key and a value in Base64, with commas between."""
    found = {}
    for pair in filter(None, (p.strip() for p in header.split(","))):
        key, _, value = pair.partition(" ")
        try:
            found[key] = base64.b64decode(value, validate=True).decode()
        except (binascii.Error, UnicodeDecodeError) as error:
            raise HostError(400, f"The metadata ‘{key}’ cannot be read.") from error
    return found
