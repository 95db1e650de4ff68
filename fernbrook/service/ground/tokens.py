"""Tokens for hosts: in the system's keyring where there is one, else in a file that only the user can read."""

from __future__ import annotations

import json
from contextlib import suppress
from pathlib import Path

import keyring
from keyring.errors import KeyringError

from fernbrook.whole import appearing

SERVICE = "fernbrook"
FILE = "tokens.json"


class Tokens:
    """Keeps a token for each host, by its address."""

    def __init__(self, root: Path) -> None:
        self._path = root / FILE

    def get(self, host: str) -> str | None:
        """The token for a host; None where there is none."""
        try:
            found = keyring.get_password(SERVICE, host)
        except (KeyringError, OSError, RuntimeError):
            found = None
        return found or self._in_file().get(host)

    def put(self, host: str, token: str) -> bool:
        """Keep a token; whether the keyring has it, and not the file."""
        try:
            keyring.set_password(SERVICE, host, token)
            if keyring.get_password(SERVICE, host) == token:
                self._write({k: v for k, v in self._in_file().items() if k != host})
                return True
        except (KeyringError, OSError, RuntimeError):
            pass  # there is no keyring, or it is locked: the file takes it
        self._write({**self._in_file(), host: token})
        return False

    def forget(self, host: str) -> None:
        """Forget a token."""
        with suppress(KeyringError, OSError, RuntimeError):
            keyring.delete_password(SERVICE, host)
        self._write({k: v for k, v in self._in_file().items() if k != host})

    def _in_file(self) -> dict[str, str]:
        try:
            said = json.loads(self._path.read_text())
        except (OSError, ValueError):
            return {}
        return {str(k): str(v) for k, v in said.items()} if isinstance(said, dict) else {}

    def _write(self, tokens: dict[str, str]) -> None:
        if not tokens:
            self._path.unlink(missing_ok=True)
            return
        with appearing(self._path, mode=0o600) as partial:
            partial.write_text(json.dumps(tokens))
