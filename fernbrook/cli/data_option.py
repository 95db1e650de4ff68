"""The option that says where everything is kept."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

DataOption = Annotated[
    Path | None,
    typer.Option("--data", metavar="DIR", help="Where everything is kept; the user's data folder without it."),
]
