"""``python -m fernbrook`` is the command line."""

from fernbrook.cli import app

app()
