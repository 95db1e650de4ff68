"""What a host keeps: uploads under way, mixes, the tokens that it knows, and how it is told to behave."""

from __future__ import annotations

import json
import secrets
from dataclasses import dataclass
from pathlib import Path
from typing import Any


class HostError(Exception):
    """What the host refuses: a status, and why in words."""

    def __init__(self, status: int, detail: str) -> None:
        super().__init__(detail)
        self.status = status


@dataclass(frozen=True)
class Behaviour:
    """How a host behaves: it waits so long before each answer, breaks off after so many bytes of each request, refuses
    for a reason (quota, token, kind, title), or takes no file larger than so much."""

    slow_ms: int = 0
    break_after: int | None = None
    refuse: str = ""
    largest: int = 8 << 30


REFUSALS = {
    "quota": (413, "Your account has no room left for this mix: delete an older one, or make a smaller file."),
    "token": (401, "This token was withdrawn. Make a new one on your account's page."),
    "kind": (415, "Only MP3, M4A, FLAC, Ogg and WAV files are taken."),
    "title": (422, "A mix of that title is there already. Give it another."),
    "busy": (503, "The host is being looked after. Try again in a while."),
}


class Shelf:
    """A folder in which a host keeps everything."""

    def __init__(self, root: Path) -> None:
        self._root = root
        for folder in (self.uploads, self.mixes):
            folder.mkdir(parents=True, exist_ok=True)

    @property
    def uploads(self) -> Path:
        """Where uploads under way lie."""
        return self._root / "uploads"

    @property
    def mixes(self) -> Path:
        """Where mixes lie."""
        return self._root / "mixes"

    def token(self) -> str:
        """The token of this host's one account, made the first time."""
        path = self._root / "token.txt"
        if not path.is_file():
            path.write_text(secrets.token_urlsafe(24))
        return path.read_text().strip()

    def behave(self, how: Behaviour) -> None:
        """Behave so from now on."""
        (self._root / "behaviour.json").write_text(json.dumps(how.__dict__))

    def behaviour(self) -> Behaviour:
        """How it was told to behave."""
        path = self._root / "behaviour.json"
        return Behaviour(**json.loads(path.read_text())) if path.is_file() else Behaviour()

    def check(self, authorization: str, at: str) -> None:
        """Refuse who is not known, and what it was told to refuse; ``at`` says where one is: at an upload or a mix."""
        how = self.behaviour()
        where = {"quota": "upload", "kind": "upload", "title": "mix", "token": "", "busy": ""}
        if not secrets.compare_digest(authorization, f"Bearer {self.token()}"):
            raise HostError(401, "That token is not known here. Copy it from your account's page once more.")
        if how.refuse and where.get(how.refuse) in ("", at):
            raise HostError(*REFUSALS[how.refuse])

    def begin(self, length: int, metadata: dict[str, str]) -> str:
        """Begin an upload of so many bytes; its id."""
        if length > self.behaviour().largest:
            raise HostError(413, f"Files of up to {self.behaviour().largest / 1e6:.0f} MB are taken.")
        upload = secrets.token_hex(8)
        (self.uploads / f"{upload}.json").write_text(json.dumps({"length": length, "metadata": metadata}))
        (self.uploads / f"{upload}.part").touch()
        return upload

    def said(self, upload: str) -> tuple[int, int]:
        """How many bytes of an upload are here, and how many it has."""
        path = self._part(upload)
        length = int(json.loads((self.uploads / f"{upload}.json").read_text())["length"])
        return path.stat().st_size, length

    def append(self, upload: str, content: bytes) -> int:
        """Add bytes to an upload; how many are here then."""
        here, length = self.said(upload)
        with self._part(upload).open("ab") as file:
            file.write(content[: length - here])
        return self.said(upload)[0]

    def drop(self, upload: str) -> None:
        """Throw an upload away."""
        self._part(upload).unlink()
        (self.uploads / f"{upload}.json").unlink()

    def publish(self, upload: str, said: dict[str, Any]) -> str:
        """Make a mix of an upload that is whole; its id."""
        here, length = self.said(upload)
        if here != length:
            raise HostError(409, f"That upload is not whole: {here} of {length} bytes are here.")
        mix = secrets.token_hex(6)
        (self.mixes / f"{mix}.json").write_text(json.dumps(said))
        self._part(upload).replace(self.mixes / f"{mix}.sound")
        (self.uploads / f"{upload}.json").unlink()
        return mix

    def mix(self, mix: str) -> tuple[dict[str, Any], Path]:
        """What is said of a mix, and its sound."""
        path = self.mixes / f"{mix}.json"
        if not mix.isalnum() or not path.is_file():
            raise HostError(404, "There is no such mix.")
        return json.loads(path.read_text()), self.mixes / f"{mix}.sound"

    def all_mixes(self) -> list[tuple[str, dict[str, Any]]]:
        """All mixes by their ids."""
        return [(p.stem, json.loads(p.read_text())) for p in sorted(self.mixes.glob("*.json"))]

    def _part(self, upload: str) -> Path:
        path = self.uploads / f"{upload}.part"
        if not upload.isalnum() or not path.is_file():
            raise HostError(404, "There is no such upload. It may have been published or deleted: start it again.")
        return path
