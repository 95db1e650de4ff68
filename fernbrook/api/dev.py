"""The server for `make dev`: on the demo data, and started again when the code changes."""

from __future__ import annotations

from pathlib import Path

import uvicorn
from fastapi import FastAPI

from fernbrook.api.app import create_app
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders

DEV_PAGE = frozenset({"http://localhost:5173", "http://127.0.0.1:5173"})
PROJECT = Path(__file__).parents[2]


def app() -> FastAPI:
    """The application on the demo's data folder."""
    return create_app(Services(Folders(PROJECT / ".demo"), what="make dev"), DEV_PAGE)


if __name__ == "__main__":
    uvicorn.run(
        "fernbrook.api.dev:app",
        factory=True,
        port=8420,
        reload=True,
        reload_dirs=[str(PROJECT / "fernbrook")],
        timeout_graceful_shutdown=1,
    )
