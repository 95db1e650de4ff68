"""Publishing rendered files to hosts: as jobs that go on where they were cut off."""

from __future__ import annotations

from dataclasses import dataclass
from glob import escape
from urllib.parse import urlsplit

from pydantic import Field
from sqlalchemy.orm import Session

from fernbrook.core.value import Value
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.exporting.renders import Renders
from fernbrook.service.ground import Settings, Tokens, new_id
from fernbrook.service.jobs import Job, JobKind, Jobs, nothing_more
from fernbrook.service.work.publish import PublishedTrack, PublishOrder, publish
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import jobs_of_kind
from fernbrook.store.stored import Stored
from fernbrook.store.tables import JobRow
from fernbrook.whole import write_whole

PUBLISH, SETTING = "publish", "publish_host"


class PublishWish(Value):
    """Where a rendered file goes, and what is said of it. The token is kept once it was given."""

    host: str = Field(min_length=1, max_length=300)
    token: str | None = Field(default=None, max_length=1000)
    title: str = Field(min_length=1, max_length=200)
    tags: tuple[str, ...] = Field(default=(), max_length=20)
    private: bool = False


@dataclass(frozen=True)
class Published:
    """A file on its way to a host, or there; ``url`` is where, once it is."""

    job: Job
    render_id: str
    host: str
    url: str | None


@dataclass(frozen=True)
class KnownHost:
    """The host that was used last, and whether its token is kept."""

    host: str
    has_token: bool


class Publishing:
    """All use cases that concern hosts."""

    def __init__(self, folders: Folders, database: Database, jobs: Jobs, settings: Settings, renders: Renders) -> None:
        self._folders = folders
        self._database = database
        self._jobs = jobs
        self._settings = settings
        self._renders = renders
        self._tokens = Tokens(folders.root)
        self._kind = JobKind(PUBLISH, Stored(PublishOrder, {}), publish, nothing_more, again=True, light=True)
        jobs.register(self._kind)

    def host(self) -> KnownHost:
        """The host that was used last; none at first."""
        host = self._settings.get(SETTING) or ""
        return KnownHost(host, bool(host) and self._tokens.get(host) is not None)

    def forget_token(self, host: str) -> None:
        """Forget the token for a host."""
        self._tokens.forget(_address(host))

    def of_mix(self, mix_id: str) -> list[Published]:
        """What was published of a mix, the newest first."""
        with self._database.read() as session:
            return [self._view(row) for row in jobs_of_kind(session, PUBLISH, mix_id)]

    def start(self, render_id: str, wish: PublishWish) -> Published:
        """Queue the sending of a rendered file.

        Raises
        ------
        RefusedError
            When the host's address is none, or no token for it is kept.
        NotFoundError
            When the file is not there.
        """
        host = _address(wish.host)
        path, name = self._renders.file(render_id)
        mix_id, sleeve = self._renders.sleeve(render_id)
        if wish.token:
            self._tokens.put(host, wish.token.strip())
        elif self._tokens.get(host) is None:
            raise RefusedError(f"No token for {host} is kept here. Copy it from your account's page there.")
        self._settings.put(SETTING, host)
        job_id = new_id()
        picture = None
        cover = self._folders.ours(sleeve.cover, self._folders.renders) if sleeve and sleeve.cover else None
        if cover is not None and cover.is_file():
            copy = self._folders.renders / f"{job_id}.picture.png"
            write_whole(copy, cover.read_bytes())
            picture = self._folders.stored(copy)
        order = PublishOrder(
            file=self._folders.stored(path),
            name=name,
            host=host,
            title=wish.title,
            tags=wish.tags,
            tracks=tuple(_told(start_s, said) for start_s, said in (sleeve.chapters if sleeve else ())),
            picture=picture,
            private=wish.private,
            state=f"{self._folders.renders.name}/{job_id}.upload.json",
        )
        expected = {"render_id": render_id, "host": host}
        with self._database.write() as session:
            row = self._jobs.add(session, self._kind, mix_id, wish.title, order, expected, job_id)
        self._jobs.announce(row)
        return self._view(row)

    def delete(self, job_id: str) -> None:
        """Forget that something was published; it stays where it is."""
        with self._database.write() as session:
            row = _get(session, job_id)
            if self._jobs.view(row).is_open:
                raise RefusedError("It is being sent. Cancel it first.")
            session.delete(row)
        for beside in self._folders.renders.glob(f"{escape(job_id)}.*"):
            beside.unlink(missing_ok=True)

    def _view(self, row: JobRow) -> Published:
        result = row.result or {}
        render_id, host = (str(result.get(name, "")) for name in ("render_id", "host"))
        url = result.get("url")
        return Published(self._jobs.view(row), render_id, host, url if isinstance(url, str) else None)


def _told(start_s: float, said: str) -> PublishedTrack:
    artist, between, title = said.partition(" – ")
    return PublishedTrack(start_s=start_s, title=title if between else said, artist=artist if between else "")


def _address(host: str) -> str:
    """The address of a host, whole: a name alone is meant to be safe on its way."""
    plain = host.strip()
    try:
        parts = urlsplit(plain if "://" in plain else f"https://{plain}")
    except ValueError:
        parts = urlsplit("")
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.query or parts.fragment:
        raise RefusedError(f"‘{host}’ is no address of a host. It takes one like https://mixes.example.")
    if parts.scheme == "http" and parts.hostname not in ("localhost", "127.0.0.1", "::1"):
        raise RefusedError("A token would be sent in the open to that host. Use its https address.")
    return f"{parts.scheme}://{parts.netloc}{parts.path.rstrip('/')}"


def _get(session: Session, job_id: str) -> JobRow:
    row = session.get(JobRow, job_id)
    if row is None or row.kind != PUBLISH:
        raise NotFoundError("That is not there any more.")
    return row
