"""The base of all requests and answers: what comes in is bounded and strict, what goes out has every field."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Gesture = Annotated[
    str | None, Field(max_length=40, description="Changes in a row that say the same one are one step to undo.")
]


class ApiModel(BaseModel):
    """A request or an answer. Numbers that are none, and unknown fields, are refused."""

    model_config = ConfigDict(allow_inf_nan=False, extra="forbid", json_schema_serialization_defaults_required=True)


def rounded(value: float) -> float:
    """A moment or a beat to a millionth, which is less than a sample in both."""
    return round(value, 6)
