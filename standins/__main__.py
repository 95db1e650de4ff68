"""Run one of them: ``python -m standins player --stick DIR``, ``python -m standins host --data DIR``."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer
import uvicorn
from fastapi import FastAPI

from standins.host.app import create_host
from standins.host.shelf import REFUSALS, Behaviour, Shelf
from standins.player.app import create_player
from standins.player.stick import StickError

app = typer.Typer(help="A player and a host, to try what is made for them.", no_args_is_help=True, add_completion=False)

PortOption = Annotated[int, typer.Option(help="The port to listen on, on this machine only.", min=1, max=65_535)]


@app.command()
def player(
    stick: Annotated[Path, typer.Option("--stick", metavar="DIR", help="The stick, as a folder.")],
    port: PortOption = 8430,
) -> None:
    """Run a player that reads a stick, to try what was put on it; a stand-in for one that stands in a booth."""

    try:
        served = create_player(stick)
    except StickError as error:
        typer.secho(str(error), fg="red", err=True)
        raise typer.Exit(1) from None
    typer.echo(f"The player is at http://127.0.0.1:{port}/  (Ctrl+C ends it)")
    _serve(served, port)


@app.command()
def host(
    data: Annotated[Path, typer.Option("--data", metavar="DIR", help="Where the host keeps everything.")],
    port: PortOption = 8440,
    slow: Annotated[int, typer.Option(help="Milliseconds to wait before each answer.", min=0)] = 0,
    break_after: Annotated[int, typer.Option(help="Break off each part after so many bytes; 0 for never.", min=0)] = 0,
    refuse: Annotated[str, typer.Option(help="Refuse for a reason: quota, token, kind, title or busy.")] = "",
) -> None:
    """Run a host for mixes, to try publishing; a stand-in for one on the net."""

    if refuse and refuse not in REFUSALS:
        typer.secho(f"It cannot refuse for ‘{refuse}’. Choose one of {', '.join(REFUSALS)}.", fg="red", err=True)
        raise typer.Exit(2)
    shelf = Shelf(data)
    shelf.behave(Behaviour(slow, break_after or None, refuse))
    typer.echo(f"The host is at http://127.0.0.1:{port}/  (Ctrl+C ends it). Its token: {shelf.token()}")
    _serve(create_host(data), port)


def _serve(served: FastAPI, port: int) -> None:
    uvicorn.run(served, host="127.0.0.1", port=port, log_level="warning")


if __name__ == "__main__":
    app()
