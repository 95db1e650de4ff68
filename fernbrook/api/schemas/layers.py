"""Requests and answers: layers."""

from __future__ import annotations

from collections.abc import Sequence

from fernbrook.api.schemas.api_model import ApiModel, rounded
from fernbrook.core.mix.layers import Layer
from fernbrook.core.plan import LayerProposal, PlannedEntry, PlannedLayer, fitting_shift, key_of


class HeardOut(ApiModel):
    """When a layer is heard once, in seconds of the mix."""

    start_s: float
    end_s: float


class LayerOut(ApiModel):
    """A layer in its place. ``clock`` is the place of its clock; its beats are counted by that."""

    layer: Layer
    words: str
    title: str | None
    track_version: int | None
    waits: str
    leads_up: bool
    key: str | None
    fitting_shift: int | None
    clock: int
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    heard: list[HeardOut]

    @classmethod
    def of(cls, planned: PlannedLayer, words: str, clock: int, entries: Sequence[PlannedEntry]) -> LayerOut:
        """The answer for a layer in its place, called so."""
        key = key_of(planned)
        return cls(
            layer=planned.layer,
            words=words,
            title=planned.track.title if planned.track else None,
            track_version=planned.track.version if planned.track else None,
            waits=planned.waits.words if planned.waits else "",
            leads_up=planned.layer.ends_on_its_place,
            key=key.name if key else None,
            fitting_shift=fitting_shift(planned, entries),
            clock=clock,
            start_beat=rounded(planned.start_beat),
            end_beat=rounded(planned.end_beat),
            start_s=rounded(planned.start_s),
            end_s=rounded(planned.end_s),
            heard=[] if planned.waits else [HeardOut(start_s=rounded(a), end_s=rounded(b)) for a, b in planned.spans_s],
        )


class LayerProposalOut(ApiModel):
    """A layer that would help, and why."""

    words: str
    reason: str
    layer: Layer

    @classmethod
    def of(cls, proposal: LayerProposal) -> LayerProposalOut:
        """The answer for a proposal."""
        return cls(
            words=proposal.words,
            reason=proposal.reason,
            layer=proposal.layer,
        )
