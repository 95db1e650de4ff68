"""Routes for layers."""

from __future__ import annotations

from fastapi import APIRouter

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.layers import LayerProposalOut
from fernbrook.core.plan import layer_proposals

router = APIRouter(prefix="/mixes/{mix_id}", tags=["layers"])


@router.get("/layer-proposals")
def list_layer_proposals(services: ServicesDep, mix_id: str) -> list[LayerProposalOut]:
    """What could be laid over a mix, with reasons, in the order in which it would be heard."""
    return [LayerProposalOut.of(p) for p in layer_proposals(services.mixes.open(mix_id).plan)]
