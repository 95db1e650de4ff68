"""What the command line prints: as it is written, never as markup, and nothing that steers a terminal."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from rich.console import Console
from rich.progress import BarColumn, Progress, TaskProgressColumn, TextColumn, TimeElapsedColumn, TimeRemainingColumn
from rich.text import Text

from fernbrook.service.files import shortened

LONGEST_LINE = 400

_out = Console()
_err = Console(stderr=True)


def say(line: str) -> None:
    """Print a line."""
    _out.print(Text(shortened(line, LONGEST_LINE)), soft_wrap=True)


def complain(line: str) -> None:
    """Print a line about what went wrong."""
    _err.print(Text(shortened(line, LONGEST_LINE * 2), style="red"), soft_wrap=True)


@contextmanager
def progress(what: str) -> Iterator[Callable[[float], None]]:
    """Show a bar while the block works; gives what is to be told the share done, 0..1."""
    columns = (
        TextColumn("{task.description}", markup=False),
        BarColumn(),
        TaskProgressColumn(),
        TimeElapsedColumn(),
        TimeRemainingColumn(),
    )
    with Progress(*columns, console=_err) as bar:
        task = bar.add_task(shortened(what, 60), total=1.0)
        yield lambda share: bar.update(task, completed=share)
