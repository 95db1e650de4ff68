"""What makes a good running order: what a step from one track to the next costs, and what is wished of the whole."""

from fernbrook.core.ordering.appraisal import Appraisal, appraised
from fernbrook.core.ordering.bridges import Bridge, Cure, CureKind, bridges, cures, plain_cost
from fernbrook.core.ordering.candidate import Candidate, candidate_of
from fernbrook.core.ordering.counts import best_counts
from fernbrook.core.ordering.problem import FREE, Group, Ints, Pairings, Problem
from fernbrook.core.ordering.proposal import Aim, Proposal, Proposed
from fernbrook.core.ordering.running import Running, RunningEntry, running
from fernbrook.core.ordering.step import Step, step_between
from fernbrook.core.ordering.walk import key_walk
from fernbrook.core.ordering.wishes import READY, EnergyShape, Weights, Wishes

__all__ = [
    "FREE",
    "READY",
    "Aim",
    "Appraisal",
    "Bridge",
    "Candidate",
    "Cure",
    "CureKind",
    "EnergyShape",
    "Group",
    "Ints",
    "Pairings",
    "Problem",
    "Proposal",
    "Proposed",
    "Running",
    "RunningEntry",
    "Step",
    "Weights",
    "Wishes",
    "appraised",
    "best_counts",
    "bridges",
    "candidate_of",
    "cures",
    "key_walk",
    "plain_cost",
    "running",
    "step_between",
]
