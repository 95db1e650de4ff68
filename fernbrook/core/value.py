"""The base of all immutable values that are stored as JSON."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Value(BaseModel):
    """A frozen, strictly shaped value: unknown fields and infinities are refused, equality is by content."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
