"""What goes wrong in any command is said in a line, and told by the exit code; nobody sees a trace for it."""

from __future__ import annotations

import logging
from typing import Any

import typer
from typer.core import TyperGroup

from fernbrook.errors import FernbrookError, NotFoundError

log = logging.getLogger(__name__)


class Plainly(TyperGroup):
    """The commands. The exit code is 2 for what was asked wrongly, 1 for what could not be done."""

    def invoke(self, ctx: Any) -> Any:
        """Run the command that was asked for."""
        from fernbrook.cli.screen import complain

        try:
            return super().invoke(ctx)
        except FernbrookError as error:
            complain(str(error))
            raise typer.Exit(2 if isinstance(error, NotFoundError) else 1) from None
        except OSError as error:
            reason = error.strerror or "no reason is known"
            complain(f"‘{error.filename or 'A file'}’ cannot be read or written: {reason}.")
            raise typer.Exit(1) from None
        except Exception as error:
            if isinstance(error, typer.Abort) or hasattr(error, "exit_code"):  # the parser's own way of ending
                raise
            log.exception("a fault in Fernbrook")
            complain("A fault in Fernbrook ended this; what happened is told above. Nothing that was kept is lost.")
            raise typer.Exit(1) from None
