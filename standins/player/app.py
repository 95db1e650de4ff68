"""The player's page and what stands behind it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, HTMLResponse, JSONResponse
from pydantic import BaseModel, Field

from standins.player.stick import Marked, Stick, StickError, grid_of, time_at

PAGE = Path(__file__).parent / "page.html"


class CuePlace(BaseModel):
    """Where a cue is put: a new one where it has no id."""

    file: str
    id: str | None = None
    at_s: float = Field(ge=0.0)
    name: str | None = Field(default=None, max_length=60)


class CueGone(BaseModel):
    """A cue that goes."""

    file: str
    id: str


class Played(BaseModel):
    """A track that was played, and for how long."""

    file: str
    seconds: float = Field(ge=0.0)


def create_player(root: Path) -> FastAPI:
    """The player on a stick."""
    stick = Stick(root)
    stick.introduce()
    app = FastAPI(title="Player", docs_url=None, redoc_url=None)

    @app.exception_handler(StickError)
    async def told(_: Request, error: StickError) -> JSONResponse:
        return JSONResponse({"detail": str(error)}, 409)

    @app.get("/", response_class=HTMLResponse)
    def page() -> str:
        return PAGE.read_text("utf-8")

    @app.get("/stick")
    def look() -> dict[str, Any]:
        return {
            "tracks": [_track(t) for t in stick.tracks()],
            "lists": [{"name": name, "files": files} for name, files in stick.lists()],
            "played": stick.played(),
        }

    @app.get("/sound/{file:path}", response_class=FileResponse)
    def sound(file: str) -> FileResponse:
        return FileResponse(stick.sound(file))

    @app.post("/cues")
    def put_cue(cue: CuePlace) -> dict[str, Any]:
        return stick.put_cue(cue.file, cue.id, cue.at_s, cue.name)

    @app.post("/cues/remove")
    def remove_cue(cue: CueGone) -> dict[str, Any]:
        stick.remove_cue(cue.file, cue.id)
        return {}

    @app.post("/played")
    def note_played(played: Played) -> dict[str, Any]:
        stick.note_played(played.file, played.seconds)
        return {}

    return app


def _track(marked: Marked) -> dict[str, Any]:
    markup, grid = marked.document.get("markup", {}), grid_of(marked.document)
    return {
        "file": marked.file,
        "title": marked.title,
        "artist": marked.artist,
        "seconds": marked.seconds,
        "problem": marked.problem,
        "key": marked.document.get("key"),
        "bpm": grid["bpm_after"] if markup.get("grid") else None,
        "first_beat_s": time_at(grid, 0.0),
        "cues": [
            {"id": c["id"], "at_s": time_at(grid, c["at"]), "name": c.get("name", ""), "role": c.get("role", "plain")}
            for c in markup.get("cues", [])
        ],
        "loops": [
            {
                "start_s": time_at(grid, x["start"]),
                "end_s": time_at(grid, x["start"] + x["beats"]),
                "name": x.get("name", ""),
            }
            for x in markup.get("loops", [])
        ],
    }
