"""An order that is proposed, weighed against the one that there is."""

from __future__ import annotations

from enum import StrEnum

from fernbrook.core.ordering.appraisal import Appraisal
from fernbrook.core.ordering.candidate import Candidate
from fernbrook.core.value import Value


class Aim(StrEnum):
    """What an order is good at above all."""

    TOGETHER = "together"
    TEMPO = "tempo"
    KEY = "key"
    SHAPE = "shape"


class Proposal(Value):
    """An order that is proposed, with what it is good at: several aims where they lead to the same.

    ``seats`` are its candidates as they would be shifted and counted, ``left_out`` those without a seat; ``gap`` is by
    which share it may cost more than the best possible for its aim, None where that is not known.
    """

    aims: tuple[Aim, ...]
    seats: tuple[Candidate, ...]
    left_out: tuple[Candidate, ...]
    appraisal: Appraisal
    gap: float | None


class Proposed(Value):
    """The present order weighed by the same wishes, and what is proposed instead."""

    present: Proposal
    proposals: tuple[Proposal, ...]
