"""Running the application on a data folder."""

from __future__ import annotations

import socket
import webbrowser
from threading import Timer

import uvicorn

from fernbrook.api.app import create_app
from fernbrook.cli.at_desk import wait_for_end
from fernbrook.cli.screen import progress, say
from fernbrook.demo.filling import Filling
from fernbrook.demo.library import install, is_wanted
from fernbrook.demo.make import make_all
from fernbrook.errors import FernbrookError
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from fernbrook.store.ownership import FolderInUseError

HOST = "127.0.0.1"


def serve_folder(folders: Folders, port: int, demo: bool, open_page: bool) -> bool:
    """Serve a folder until it is ended; False where another server has the folder.

    Raises
    ------
    FernbrookError
        When the port is taken.
    """
    services = None
    while services is None:
        try:
            services = Services(folders, what="fernbrook serve")
        except FolderInUseError as error:
            if error.owner is None or error.owner.port is not None:
                return _already(error, open_page)
            wait_for_end(folders, error)
    try:
        listening = _bound(port)
    except FernbrookError:
        services.stop()
        raise
    services.ownership.serves_at(port)
    address = f"http://{HOST}:{port}/"
    say(f"Fernbrook is at {address}  (Ctrl+C ends it)")
    if open_page:
        Timer(1.0, webbrowser.open, [address]).start()
    filling = Filling(services) if demo and is_wanted(services) else None
    if filling is not None:
        say("The demo mix is being made meanwhile: its tracks appear in the page as they are ready.")
        filling.start()
    elif demo:
        say("The library has tracks already: the demo was left out.")
    config = uvicorn.Config(create_app(services), log_level="warning", timeout_graceful_shutdown=3)
    try:
        uvicorn.Server(config).run(sockets=[listening])
    finally:
        if filling is not None:
            filling.stop()
    return True


def _already(error: FolderInUseError, open_page: bool) -> bool:
    """Say who serves a folder already; its page is what was asked for where one was to be opened."""
    say(str(error))
    if open_page and error.owner is not None and error.owner.port is not None:
        webbrowser.open(f"http://{HOST}:{error.owner.port}/")
        return True
    return False


def _bound(port: int) -> socket.socket:
    """A socket on a port, taken before anything is said or opened."""
    listening = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((HOST, port))
    except OSError as error:
        listening.close()
        raise FernbrookError(
            f"Port {port} cannot be used: {error.strerror or error}. Choose another with --port, such as {port + 1}."
        ) from error
    return listening


def install_demo(folders: Folders) -> None:
    """Make the demo tracks and put them into a library, where that is empty or was cut off.

    Raises
    ------
    FolderInUseError
        When another process has the folder.
    """
    services = Services(folders, what="fernbrook demo")
    try:
        if not is_wanted(services):
            say("The library has tracks already: the demo was left out.")
            return
        with progress("Making eleven tracks") as report:
            tracks = make_all(folders.root / "demo", lambda done, of: report(done / of))
            report(1.0)
        services.start()
        with progress("Analysing them") as report:
            install(services, tracks, report)
            report(1.0)
        say("The demo mix is ready.")
    finally:
        services.stop()
