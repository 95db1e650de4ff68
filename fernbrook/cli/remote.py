"""Work handed to the server that has the data folder."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx

from fernbrook.cli.desk import LOOK_EVERY_S, Desk, NamedMix, Report, Taken, opened_lines
from fernbrook.enclosed import open_regular
from fernbrook.errors import AudioFileError, FernbrookError
from fernbrook.formats.bundle import BundleAudio
from fernbrook.service.work.wish import RenderWish
from fernbrook.store.ownership import Owner
from fernbrook.whole import appearing

STARTING_S = 30.0
"""How long a server that has just taken the folder may take before it answers."""
OPEN = {"waiting", "running"}


class RemoteDesk(Desk):
    """A server's library and mixes, through its API."""

    def __init__(self, owner: Owner) -> None:
        self._owner = owner
        self._client = httpx.Client(base_url=f"http://127.0.0.1:{owner.port}/api", timeout=None, trust_env=False)

    def __enter__(self) -> RemoteDesk:
        end = time.monotonic() + STARTING_S
        while True:
            try:
                self._client.get("/formats")
                return self
            except httpx.TransportError:
                if time.monotonic() > end:
                    raise FernbrookError(
                        f"Process {self._owner.pid} has the data folder, but does not answer at port "
                        f"{self._owner.port}. End it, then try again."
                    ) from None
                time.sleep(LOOK_EVERY_S)

    def __exit__(self, *_: object) -> None:
        self._client.close()

    def bring_in(self, path: Path, in_place: bool) -> Taken:
        """Take a file into the server's library."""
        if in_place:
            headers = {"x-folder-token": self._owner.token}
            answer = self._ask("POST", "/tracks/in-place", json={"path": str(path.resolve())}, headers=headers)
        else:
            try:
                with open_regular(path) as file:
                    answer = self._ask("POST", "/tracks", files={"file": (_plain(path.name), file)})
            except OSError as error:
                raise AudioFileError(f"‘{_plain(path.name)}’ cannot be opened: {error.strerror or error}.") from error
        track = answer["track"]
        return Taken(track["title"], track["id"], answer["known"], answer["restored"])

    def waiting(self, track_ids: list[str]) -> float | None:
        """How far the analyses of some tracks are."""
        jobs = [self._ask("GET", f"/tracks/{i}")["analysis"] for i in track_ids]
        still = [j for j in jobs if j and j["state"] in OPEN]
        return (len(jobs) - len(still) + sum(j["progress"] for j in still)) / len(jobs) if still else None

    def mixes(self) -> list[NamedMix]:
        """All mixes of the server."""
        return [NamedMix(m["id"], m["name"]) for m in self._ask("GET", "/mixes")]

    def render(self, mix: NamedMix, out: Path, wish: RenderWish, report: Report) -> float:
        """Have the server render a mix, take the file, and leave nothing there, however this ends."""
        job = self._ask("POST", f"/mixes/{mix.id}/renders", json=wish.model_dump(mode="json"))
        try:
            self._waited(lambda: self._render_of(mix, job["id"]), report)
            self._fetch(f"/renders/{job['id']}/file", out)
        finally:
            if self._render_of(mix, job["id"])["state"] in OPEN:
                self._ask("POST", f"/jobs/{job['id']}/cancel")
            self._ask("DELETE", f"/renders/{job['id']}")
        return float(job["duration_s"])

    def bundle(self, mix: NamedMix, out: Path, audio: BundleAudio, history: bool, report: Report) -> None:
        """Have the server pack a mix, take the file, and leave nothing there."""
        at = f"/mixes/{mix.id}/bundles"
        made = self._ask("POST", at, json={"audio": audio.value, "with_history": history})
        try:
            self._waited(lambda: next(b["job"] for b in self._ask("GET", at) if b["id"] == made["id"]), report)
            self._fetch(f"/bundles/{made['id']}/file", out)
        finally:
            self._ask("DELETE", f"/bundles/{made['id']}")

    def open_bundle(self, file: Path, theirs: bool, report: Report) -> list[str]:
        """Have the server open a bundle."""
        with open_regular(file) as stream:
            arrived = self._ask("POST", "/arrived-bundles", files={"file": (_plain(file.name), stream)})
        at = f"/arrived-bundles/{arrived['id']}"
        differing = [t["id"] for t in arrived["tracks"] if t["arrival"] == "differs"]
        self._ask("POST", f"{at}/open", json={"take": differing if theirs else []})
        self._waited(lambda: self._ask("GET", f"{at}/opening")["job"], report)
        return opened_lines(arrived["name"], [(t["title"], t["arrival"]) for t in arrived["tracks"]], theirs)

    def _waited(self, look: Callable[[], Any], report: Report) -> None:
        while (job := look())["state"] in OPEN:
            report(job["progress"])
            time.sleep(LOOK_EVERY_S)
        if job["state"] != "done":
            raise FernbrookError(job["error"] or f"It ended as {job['state']}.")
        report(1.0)

    def _render_of(self, mix: NamedMix, job_id: str) -> Any:
        """A render of a mix as it stands."""
        return next(j for j in self._ask("GET", f"/mixes/{mix.id}/renders") if j["id"] == job_id)

    def _fetch(self, address: str, out: Path) -> None:
        """Write a file of the server's to a place of the caller's, whole or not at all."""
        with (
            appearing(out) as partial,
            self._client.stream("GET", address) as answer,
            partial.open("wb") as file,
        ):
            for piece in answer.raise_for_status().iter_bytes():
                file.write(piece)

    def _ask(self, method: str, path: str, **what: Any) -> Any:
        try:
            answer = self._client.request(method, path, **what)
        except httpx.TransportError as error:
            raise FernbrookError(
                f"The Fernbrook at port {self._owner.port} stopped answering. Start it, then try again."
            ) from error
        if answer.is_success:
            return answer.json() if answer.content else None
        problem = answer.json() if "json" in answer.headers.get("content-type", "") else {}
        words = problem.get("detail") or f"The server answered with {answer.status_code}."
        raise FernbrookError(words)


def _plain(name: str) -> str:
    """A file name that can be sent: bytes that are no UTF-8 are read as Latin-1."""
    from fernbrook.service.files import display_name

    return display_name(name)
