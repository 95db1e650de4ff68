"""``python -m fernbrook`` is the command line."""

from fernbrook.cli.app import app

app()
