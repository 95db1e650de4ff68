"""The commands that run the stand-ins for things outside: a player with a stick, and a host for mixes."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

PortOption = Annotated[int, typer.Option(help="The port to listen on, on this machine only.", min=1, max=65_535)]


def player(
    stick: Annotated[Path, typer.Option("--stick", metavar="DIR", help="The stick, as a folder.")],
    port: PortOption = 8430,
) -> None:
    """Run a player that reads a stick, to try what was put on it; a stand-in for one that stands in a booth."""
    from fernbrook.cli.screen import complain, say
    from fernbrook.outside.player.app import create_player
    from fernbrook.outside.player.stick import StickError

    try:
        app = create_player(stick)
    except StickError as error:
        complain(str(error))
        raise typer.Exit(1) from None
    say(f"The player is at http://127.0.0.1:{port}/  (Ctrl+C ends it)")
    _serve(app, port)


def host(
    data: Annotated[Path, typer.Option("--data", metavar="DIR", help="Where the host keeps everything.")],
    port: PortOption = 8440,
    slow: Annotated[int, typer.Option(help="Milliseconds to wait before each answer.", min=0)] = 0,
    break_after: Annotated[int, typer.Option(help="Break off each part after so many bytes; 0 for never.", min=0)] = 0,
    refuse: Annotated[str, typer.Option(help="Refuse for a reason: quota, token, kind, title or busy.")] = "",
) -> None:
    """Run a host for mixes, to try publishing; a stand-in for one on the net."""
    from fernbrook.cli.screen import complain, say
    from fernbrook.outside.host.app import create_host
    from fernbrook.outside.host.shelf import REFUSALS, Behaviour, Shelf

    if refuse and refuse not in REFUSALS:
        complain(f"It cannot refuse for ‘{refuse}’. Choose one of {', '.join(REFUSALS)}.")
        raise typer.Exit(2)
    shelf = Shelf(data)
    shelf.behave(Behaviour(slow, break_after or None, refuse))
    say(f"The host is at http://127.0.0.1:{port}/  (Ctrl+C ends it). Its token: {shelf.token()}")
    _serve(create_host(data), port)


def _serve(app: object, port: int) -> None:
    import uvicorn

    uvicorn.run(app, host="127.0.0.1", port=port, log_level="warning")  # type: ignore[arg-type]
