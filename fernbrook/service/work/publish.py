"""Sending a file to a host in parts, going on from where a connection broke off (tus 1.0.0), then saying what it is."""

from __future__ import annotations

import base64
import json
import time
from collections.abc import Collection, Iterator
from pathlib import Path

import httpx

from fernbrook.core.value import Value
from fernbrook.errors import FernbrookError
from fernbrook.service.ground import Tokens
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders
from fernbrook.whole import write_whole

TUS = "1.0.0"
PART = 8 << 20
SLICE = 1 << 18
MOST_FAILURES = 8
"""So often in a row nothing may come through before it is given up."""
WAIT_S = 0.25
LONGEST_WAIT_S = 20.0
BUSY = {423, 429, 500, 502, 503, 504}


class HostError(FernbrookError):
    """A host that refuses, or does not answer. The message says what it said."""


class PublishedTrack(Value):
    """A track as it is told to a host."""

    start_s: float
    title: str
    artist: str = ""


class PublishOrder(Value):
    """A file, where it goes, and what is said of it. ``state`` is where the upload's address is noted, so that one that
    was cut off goes on; paths are relative to the data folder."""

    file: str
    name: str
    host: str
    title: str
    tags: tuple[str, ...] = ()
    tracks: tuple[PublishedTrack, ...] = ()
    picture: str | None = None
    private: bool = False
    state: str


def publish(order: PublishOrder, root: Path, report: Report) -> Result:
    """Send a file to a host and return where the mix is."""
    folders = Folders(root)
    file, state = (folders.ours(noted, folders.renders) for noted in (order.file, order.state))
    picture = folders.ours(order.picture, folders.renders).read_bytes() if order.picture else b""
    token = Tokens(root).get(order.host)
    if token is None:
        raise HostError(f"No token for {order.host} is kept here. Give it once more.")
    headers = {"authorization": f"Bearer {token}", "tus-resumable": TUS}
    timeout = httpx.Timeout(30.0, connect=10.0)
    with httpx.Client(base_url=order.host, headers=headers, timeout=timeout, trust_env=False) as client:
        upload = _sent(client, order, file, state, report)
        body = {
            "upload": upload.rsplit("/", 1)[-1],
            "title": order.title,
            "tags": order.tags,
            "tracks": [t.model_dump() for t in order.tracks],
            "picture": base64.b64encode(picture).decode(),
            "private": order.private,
        }
        answer = _asked(client, "POST", "/mixes", json=body)
    state.unlink(missing_ok=True)
    report(1.0)
    return {"url": _published_at(order.host, answer)}


def _published_at(host: str, answer: httpx.Response) -> str:
    """Where a host says that a mix is; the host itself where it says nothing that can be followed."""
    try:
        return _own_address(host, str(answer.json()["url"]))
    except (HostError, ValueError, KeyError, TypeError):
        return host


def _sent(client: httpx.Client, order: PublishOrder, path: Path, state: Path, report: Report) -> str:
    """Send the file, from where it was broken off; the address of the upload."""
    size = path.stat().st_size
    upload = _known(client, state, size) or _begun(client, order, state, size)
    failures, here = 0, -1
    while True:
        try:
            offset = _offset(_asked(client, "HEAD", upload), order.host)
            failures = 0 if offset > here else failures + 1
            here = offset
            report(0.99 * here / max(size, 1))
            if here >= size:
                return upload
            _part(client, upload, path, here, report, size)
        except httpx.TransportError as error:
            failures += 1
            if failures > MOST_FAILURES:
                raise HostError(
                    f"{order.host} does not answer any more. What has come through is kept there: try again."
                ) from error
        if failures:
            time.sleep(min(WAIT_S * 2.0**failures, LONGEST_WAIT_S))


def _begun(client: httpx.Client, order: PublishOrder, state: Path, size: int) -> str:
    name = base64.b64encode(order.name.encode()).decode()
    answer = _asked(
        client, "POST", "/uploads", headers={"upload-length": str(size), "upload-metadata": f"filename {name}"}
    )
    address = _own_address(order.host, answer.headers.get("location", ""))
    write_whole(state, json.dumps({"upload": address, "bytes": size}).encode())
    return str(address)


def _own_address(host: str, address: str) -> str:
    """An address that a host gives, which must be its own: nobody else is sent the token, or led to.

    Raises
    ------
    HostError
        When it is another's, or none.
    """
    whole, own = httpx.URL(host).join(address), httpx.URL(host)
    if not address or (whole.scheme, whole.host, whole.port) != (own.scheme, own.host, own.port):
        raise HostError(
            f"{host} answers with an address that is not its own: ‘{address[:80]}’. Nothing was sent there."
        )
    return str(whole)


def _offset(answer: httpx.Response, host: str) -> int:
    """How far an upload has come, as a host says."""
    try:
        return int(answer.headers["upload-offset"])
    except (KeyError, ValueError) as error:
        raise HostError(f"{host} does not say how far the upload has come: it does not speak tus {TUS}.") from error


def _known(client: httpx.Client, state: Path, size: int) -> str | None:
    """The address of an upload of this file that was begun before, where the host still has it."""
    try:
        said = json.loads(state.read_text())
    except (OSError, ValueError):
        return None
    if said.get("bytes") != size:
        return None
    answer = client.head(said["upload"])
    return str(said["upload"]) if answer.is_success else None


def _part(client: httpx.Client, upload: str, path: Path, offset: int, report: Report, size: int) -> None:
    """Send one part, told as it goes."""

    def content() -> Iterator[bytes]:
        with path.open("rb") as file:
            file.seek(offset)
            left = PART
            while left > 0 and (piece := file.read(min(SLICE, left))):
                yield piece
                left -= len(piece)
                report(0.99 * (offset + PART - left) / max(size, 1))

    headers = {
        "upload-offset": str(offset),
        "content-type": "application/offset+octet-stream",
        "content-length": str(min(PART, size - offset)),
    }
    _check(client.patch(upload, content=content(), headers=headers), again={409, *BUSY})


def _asked(client: httpx.Client, method: str, path: str, **what: object) -> httpx.Response:
    """An answer that is no refusal. Where the host is busy it is asked again, less and less often."""
    for turn in range(MOST_FAILURES + 1):
        try:
            answer = client.request(method, path, **what)  # type: ignore[arg-type]
        except httpx.TransportError as error:
            if turn == MOST_FAILURES:
                raise HostError(
                    f"{client.base_url} does not answer. Is the address right, and are you online?"
                ) from error
        else:
            if answer.status_code not in BUSY or turn == MOST_FAILURES:
                return _check(answer)
        time.sleep(min(WAIT_S * 2.0**turn, LONGEST_WAIT_S))
    raise HostError(f"{client.base_url} does not answer.")


def _check(answer: httpx.Response, again: Collection[int] = ()) -> httpx.Response:
    """Raise what a host refuses with, in its own words."""
    if answer.is_success or answer.status_code in again:
        return answer
    detail = ""
    if "json" in answer.headers.get("content-type", ""):
        said = answer.json()
        detail = said.get("detail", "") if isinstance(said, dict) else ""
    words = detail if isinstance(detail, str) and detail else f"it answered with {answer.status_code} and no reason"
    raise HostError(f"{answer.url.host} refuses it: {words}")
