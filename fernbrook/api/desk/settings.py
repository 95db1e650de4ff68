"""Routes for settings."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import Field

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.core.track import Stem
from fernbrook.service.ground import Settings

router = APIRouter(prefix="/settings", tags=["settings"])


class ModelIn(ApiModel):
    """The whole path of an ONNX model on this machine; None for the built-in way."""

    path: str | None = Field(max_length=4000)


class ModelOut(ApiModel):
    """The model by which tracks are taken apart; no path where the program does it itself. ``hears_voices`` is whether
    the trained network of the built-in way is installed."""

    path: str | None
    stems: list[Stem]
    problem: str
    hears_voices: bool

    @classmethod
    def of(cls, settings: Settings) -> ModelOut:
        """The shape of what is set."""
        found = settings.model()
        if found is None:
            return cls(path=None, stems=[], problem="", hears_voices=settings.hears_voices)
        return cls(path=found.path, stems=list(found.stems), problem=found.problem, hears_voices=settings.hears_voices)


@router.get("/separation-model")
def get_separation_model(services: ServicesDep) -> ModelOut:
    """By what tracks are taken apart."""
    return ModelOut.of(services.settings)


@router.put("/separation-model")
def use_separation_model(services: ServicesDep, model: ModelIn) -> ModelOut:
    """Take tracks apart by a model, or by the program itself."""
    services.settings.use_model(model.path or None)
    return ModelOut.of(services.settings)
