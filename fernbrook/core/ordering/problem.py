"""An order that is to be found, as numbers: what each step and each place costs. Every solver works on these alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.mix.entries import LAST
from fernbrook.core.ordering.candidate import Candidate
from fernbrook.core.ordering.step import LEFT_OUT, SAME_ARTIST, SHIFTED, UNUSED_PAIRING, bent, meeting_cost, same_artist
from fernbrook.core.ordering.wishes import EnergyShape, Wishes
from fernbrook.core.track import FloatArray, distance
from fernbrook.core.value import Value

MISSED_LENGTH = 5.0
"""What each minute costs by which a wished length is missed."""
LEAST_RANGE = 0.3
"""A mix whose energies lie closer together than this has no lows and highs worth a place of their own."""
FREE = -10_000
"""Stands for no fixed start."""
Ints = NDArray[np.int64]
Pairings = Mapping[tuple[str, str], str]
"""The notes of saved pairings, by the ids of the two tracks."""


class Group(Value):
    """Candidates that stay together, by their numbers. ``start`` is the place, from 0, at which they must begin;
    ``LAST`` for the end, None for anywhere. ``needed`` says that they may not be left out."""

    members: tuple[int, ...]
    start: int | None = None
    needed: bool = True


@dataclass(frozen=True)
class Node:
    """A group at one shift of its keys."""

    group: int
    members: tuple[int, ...]
    shift: int


class Problem:
    """The costs of all orders of some groups of candidates. An order is a sequence of node numbers.

    Attributes
    ----------
    nodes : groups, each at each shift that is allowed; n of them
    faces : the candidates of each node, shifted
    steps : shape (n, n), what node j right after node i costs; infinite for two of one group
    apart : shape (n, n), what it costs that one track alone lies between i and j
    own : shape (n,), what a node costs wherever it is
    first : shape (n,), what it costs as the first
    sizes : shape (n,), tracks in each
    group : shape (n,), the group of each
    left_out : shape (groups,), what it costs to leave a group out; infinite where that may not be
    """

    def __init__(
        self, candidates: Sequence[Candidate], groups: Sequence[Group], wishes: Wishes, pairings: Pairings | None = None
    ) -> None:
        self.candidates = tuple(candidates)
        self.groups = tuple(groups)
        self.wishes = wishes
        self.pairings = pairings or {}
        shifts = (-1, 0, 1) if wishes.shifts else (0,)
        self.nodes = tuple(
            Node(number, g.members, shift)
            for number, g in enumerate(groups)
            for shift in shifts
            if not shift or any(candidates[m].key for m in g.members)
        )
        self.group: Ints = np.array([n.group for n in self.nodes], dtype=np.int64)
        self.sizes: Ints = np.array([len(n.members) for n in self.nodes], dtype=np.int64)
        self.faces = tuple(tuple(candidates[m].shifted(n.shift) for m in n.members) for n in self.nodes)
        self._followers = self._known_followers()
        self.energy_weight = 0.0 if wishes.shape in (EnergyShape.ANY, EnergyShape.STEADY) else wishes.weights.energy
        self.steps = self._steps()
        self.apart = self._apart()
        self.own: FloatArray = np.array([self._own(n, f) for n, f in zip(self.nodes, self.faces, strict=True)])
        self.first: FloatArray = np.array([self._as_first(f[0]) for f in self.faces])
        self.left_out: FloatArray = np.array([self._missing(g) for g in groups])

    @property
    def total(self) -> int:
        """How many tracks there are in all."""
        return sum(len(g.members) for g in self.groups)

    @cached_property
    def lengths(self) -> range:
        """How many tracks an order may have."""
        needed = sum(len(g.members) for g in self.groups if g.needed)
        fixed = sum(len(g.members) for g in self.groups if g.needed and g.start is not None)
        fewest, most = max(1, fixed, needed - self.most_left_out), self.total
        if self.wishes.length_s is None:
            return range(fewest, most + 1)
        plays = np.sort([c.plays_s for c in self.candidates])
        ends = max(c.lead_s for c in self.candidates) + max(c.tail_s for c in self.candidates)
        longest, shortest = np.cumsum(plays[::-1]) + ends, np.cumsum(plays)
        low, high = self.wishes.length_s - self.wishes.within_s, self.wishes.length_s + self.wishes.within_s
        may = [m for m in range(fewest, most + 1) if longest[m - 1] >= low and shortest[m - 1] <= high]
        return range(may[0], may[-1] + 1) if may else range(fewest, most + 1)

    @cached_property
    def seconds_possible(self) -> tuple[float, float]:
        """About the shortest and the longest that a mix of these can be, as a wished length would have it: only what
        has a fixed place must be in it."""
        sizes = [[self.candidates[m] for m in g.members] for g in self.groups]
        plays = [sum(c.plays_s for c in members) for members in sizes]
        must = [n for n, g in enumerate(self.groups) if g.needed and g.start is not None]
        leads, tails = [m[0].lead_s for m in sizes], [m[-1].tail_s for m in sizes]
        if must:
            shortest = sum(plays[n] for n in must) + min(leads[n] for n in must) + min(tails[n] for n in must)
        else:
            shortest = min(a + b + c for a, b, c in zip(leads, plays, tails, strict=True))
        return shortest, sum(plays) + max(leads) + max(tails)

    @property
    def most_left_out(self) -> int:
        """How many entries may be left out: as many as a wished length asks for, where there is one."""
        return self.wishes.leave_out if self.wishes.length_s is None else self.total

    def _missing(self, group: Group) -> float:
        size = len(group.members)
        if not group.needed:
            return 0.0
        if group.start is not None:  # somebody said where it lies: it is not left out
            return float(np.inf)
        return LEFT_OUT * size if size <= self.most_left_out else float(np.inf)

    def place_costs(self, tracks: int) -> FloatArray:
        """What it costs that a node begins at a place of an order of so many tracks; shape (n, tracks).

        Infinite where it would not fit, and where its place is fixed elsewhere.
        """
        costs = np.zeros((len(self.nodes), tracks))
        levels = self.wishes.levels(tracks)
        for number, node in enumerate(self.nodes):
            size = len(node.members)
            costs[number, max(tracks - size + 1, 0) :] = np.inf
            start = self.start_of(node.group, tracks)
            if start != FREE:
                costs[number, np.arange(tracks) != start] = np.inf
            if levels is not None and self.energy_weight:
                for offset, energy in enumerate(self.energies[number][:size]):
                    within = tracks - offset
                    costs[number, :within] += self.energy_weight * np.abs(levels[offset:] - energy)
        return costs

    def start_of(self, group: int, tracks: int) -> int:
        """The place at which a group must begin in an order of so many tracks; ``FREE`` for none."""
        fixed, size = self.groups[group].start, len(self.groups[group].members)
        if fixed is None:
            return FREE
        return max(0, tracks - size if fixed == LAST else min(fixed, tracks - size))

    @cached_property
    def energies(self) -> FloatArray:
        """The energy of each node's tracks, over the range that all candidates have; shape (n, longest)."""
        known = [c.energy for c in self.candidates if c.energy is not None]
        low, high = (float(v) for v in np.quantile(known, (0.05, 0.95))) if known else (0.0, 1.0)
        middle, span = (low + high) / 2.0, max(high - low, LEAST_RANGE)
        scaled = [
            0.5 if c.energy is None else min(max((c.energy - middle) / span + 0.5, 0.0), 1.0) for c in self.candidates
        ]
        longest = int(self.sizes.max(initial=1))
        return np.array([[scaled[m] for m in n.members] + [0.5] * (longest - len(n.members)) for n in self.nodes])

    def seconds(self, order: Sequence[int]) -> float:
        """About how long a mix in an order lasts."""
        faces = [c for number in order for c in self.faces[number]]
        return faces[0].lead_s + sum(c.plays_s for c in faces) + faces[-1].tail_s

    def cost(self, order: Sequence[int]) -> float:
        """What an order costs: its steps, its places, what is left out, and how far its length is off."""
        tracks = int(sum(self.sizes[n] for n in order))
        place, at, total = self.place_costs(tracks), 0, float(self.first[order[0]])
        for number in order:
            total += float(self.own[number] + place[number, at])
            at += int(self.sizes[number])
        for one, other in pairwise(order):
            total += float(self.steps[one, other])
        for one, between, other in zip(order, order[1:], order[2:], strict=False):
            if self.sizes[between] == 1:
                total += float(self.apart[one, other])
        missing = set(range(len(self.groups))) - {int(self.group[n]) for n in order}
        if sum(len(self.groups[g].members) for g in missing if self.groups[g].needed) > self.most_left_out:
            return float(np.inf)
        total += float(sum(self.left_out[g] for g in missing))
        return total + self.length_cost(self.seconds(order))

    def length_cost(self, seconds: float) -> float:
        """What it costs that a mix lasts so long."""
        if self.wishes.length_s is None:
            return 0.0
        return MISSED_LENGTH * max(0.0, abs(seconds - self.wishes.length_s) - self.wishes.within_s) / 60.0

    def _known_followers(self) -> dict[str, set[str]]:
        """For each track, those that are saved as going well after it, and are there to stay."""
        here = {self.candidates[m].track_id for g in self.groups if g.needed for m in g.members}
        followers: dict[str, set[str]] = {}
        for first, second in self.pairings:
            if second in here:
                followers.setdefault(first, set()).add(second)
        return followers

    def step_cost(self, out: Candidate, into: Candidate) -> float:
        """What it costs that one candidate comes right after another."""
        weights = self.wishes.weights
        cost = meeting_cost(out, into, weights)
        if (out.track_id, into.track_id) in self.pairings:
            cost *= max(0.0, 1.0 - weights.pairing)
        elif out.track_id in self._followers:
            cost += weights.pairing * UNUSED_PAIRING
        if self.wishes.shape is EnergyShape.STEADY and out.energy is not None and into.energy is not None:
            cost += weights.energy * abs(into.energy - out.energy)
        return cost + (weights.artist * SAME_ARTIST if same_artist(out, into) else 0.0)

    def _one_between(self, one: Candidate, other: Candidate) -> float:
        return self.wishes.weights.artist * SAME_ARTIST / 2.0 if same_artist(one, other) else 0.0

    def _steps(self) -> FloatArray:
        n = len(self.nodes)
        steps = np.full((n, n), np.inf)
        known: dict[tuple[int, int, int, int], float] = {}
        for i, (out, node) in enumerate(zip(self.faces, self.nodes, strict=True)):
            for j, (into, other) in enumerate(zip(self.faces, self.nodes, strict=True)):
                if node.group == other.group:
                    continue
                key = (node.members[-1], node.shift, other.members[0], other.shift)
                if key not in known:
                    known[key] = self.step_cost(out[-1], into[0])
                near = self._one_between(out[-2], into[0]) if len(out) > 1 else 0.0
                near += self._one_between(out[-1], into[1]) if len(into) > 1 else 0.0
                steps[i, j] = known[key] + near
        return steps

    def _apart(self) -> FloatArray:
        ends = [[self._one_between(out[-1], into[0]) for into in self.faces] for out in self.faces]
        apart = np.array(ends)
        apart[self.group[:, None] == self.group[None, :]] = 0.0
        return apart

    def _own(self, node: Node, faces: Sequence[Candidate]) -> float:
        within = sum(self.step_cost(a, b) for a, b in pairwise(faces))
        within += sum(self._one_between(a, b) for a, b in zip(faces, faces[2:], strict=False))
        return within + SHIFTED * len(faces) * abs(node.shift)

    def _as_first(self, face: Candidate) -> float:
        wishes, cost = self.wishes, 0.0
        if wishes.start_bpm and face.bpm:
            cost += wishes.weights.tempo * bent(abs(wishes.start_bpm / face.bpm - 1.0))
        if wishes.start_key and face.key:
            cost += wishes.weights.key * distance(wishes.start_key, face.key)
        return cost
