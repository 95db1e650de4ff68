"""Routes for publishing rendered files to hosts."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter, Response

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.jobs import JobOut
from fernbrook.service.exporting import Published, PublishWish

router = APIRouter(tags=["publishing"])


class PublishedOut(ApiModel):
    """A file on its way to a host, or there."""

    id: str
    job: JobOut
    render_id: str
    host: str
    title: str
    url: str | None
    at: datetime

    @classmethod
    def of(cls, published: Published) -> PublishedOut:
        """The shape of what was published."""
        job = published.job
        return cls(
            id=job.id,
            job=JobOut.of(job),
            render_id=published.render_id,
            host=published.host,
            title=job.title,
            url=published.url,
            at=job.created_at,
        )


class HostOut(ApiModel):
    """The host that was used last, and whether its token is kept."""

    host: str
    has_token: bool


@router.get("/publishing-host")
def get_host(services: ServicesDep) -> HostOut:
    """The host that was used last."""
    known = services.publishing.host()
    return HostOut(host=known.host, has_token=known.has_token)


@router.delete("/publishing-host", status_code=204)
def forget_token(services: ServicesDep) -> Response:
    """Forget the token for the host that was used last."""
    known = services.publishing.host()
    if known.host:
        services.publishing.forget_token(known.host)
    return Response(status_code=204)


@router.get("/mixes/{mix_id}/published")
def list_published(services: ServicesDep, mix_id: str) -> list[PublishedOut]:
    """What was published of a mix, the newest first."""
    return [PublishedOut.of(p) for p in services.publishing.of_mix(mix_id)]


@router.post("/renders/{render_id}/publish", status_code=202)
def publish_render(services: ServicesDep, render_id: str, wish: PublishWish) -> PublishedOut:
    """Send a rendered file to a host."""
    return PublishedOut.of(services.publishing.start(render_id, wish))


@router.delete("/published/{published_id}", status_code=204)
def forget_published(services: ServicesDep, published_id: str) -> Response:
    """Forget that something was published; it stays where it is."""
    services.publishing.delete(published_id)
    return Response(status_code=204)
