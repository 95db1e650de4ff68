"""Cues: moments of a track that were marked, and what each is for."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import StrEnum

from pydantic import Field

from fernbrook.core.value import Beat, Value

MOST_CUES = 200
HUES = 8
"""How many hues the project's palette has."""


class CueRole(StrEnum):
    """What a cue is for.

    A listening or a mix begins at the start; a mix comes in at mix-in and leaves at mix-out; whatever plays under the
    track must be gone by alone from.
    """

    START = "start"
    MIX_IN = "mix_in"
    MIX_OUT = "mix_out"
    ALONE_FROM = "alone_from"
    PLAIN = "plain"


ROLES = tuple(CueRole)
SINGLE = frozenset({CueRole.START, CueRole.ALONE_FROM})
"""A track has one of each at most."""
PREFERRED = frozenset({CueRole.MIX_IN, CueRole.MIX_OUT})
"""A track may have several of each, a short way out and a long one; one of them is preferred."""


class Cue(Value):
    """A moment of a track, by its beat. ``hue`` is one of the palette's, where it has one of its own."""

    id: str = Field(min_length=1, max_length=32)
    at: Beat
    role: CueRole = CueRole.PLAIN
    name: str = Field(default="", max_length=60)
    hue: int | None = Field(default=None, ge=0, lt=HUES)
    note: str = Field(default="", max_length=500)
    preferred: bool = False


def with_cues(cues: Sequence[Cue], put: Iterable[Cue]) -> tuple[Cue, ...]:
    """Cues with some put in or replaced by id, in order of time.

    One that is put takes the place of another of a role that a track has once. Of those that a track may have several
    times, exactly one is preferred: the one that was put last as such, else the one that was, else the first.
    """
    kept = {c.id: c for c in cues}
    for cue in put:
        if cue.role in SINGLE:
            kept = {c.id: c for c in kept.values() if c.role is not cue.role}
        if cue.role in PREFERRED and cue.preferred:
            kept = {c.id: c.model_copy(update={"preferred": False}) if _rival(c, cue) else c for c in kept.values()}
        kept[cue.id] = cue
    return _settled(kept.values())


def without_cues(cues: Sequence[Cue], ids: Iterable[str]) -> tuple[Cue, ...]:
    """Cues without some of them."""
    gone = set(ids)
    return _settled(c for c in cues if c.id not in gone)


def chosen(cues: Iterable[Cue], role: CueRole) -> Cue | None:
    """The cue of a role that decides: the preferred one where there may be several."""
    of_role = [c for c in cues if c.role is role]
    return next((c for c in of_role if c.preferred), of_role[0] if of_role else None)


def in_order(cues: Iterable[Cue]) -> tuple[Cue, ...]:
    """By time; those of one moment by what comes first in a mix."""
    return tuple(sorted(cues, key=lambda c: (c.at, ROLES.index(c.role), c.id)))


PLATES = {
    CueRole.START: "start",
    CueRole.MIX_IN: "in",
    CueRole.MIX_OUT: "out",
    CueRole.ALONE_FROM: "alone",
    CueRole.PLAIN: "",
}


def plate_of(cue: Cue) -> str:
    """What stands on a cue's plate: its role, its name, or both.

    >>> plate_of(Cue(id="c", at=0.0, role=CueRole.MIX_IN, name="short way"))
    'in · short way'
    """
    return " · ".join(word for word in (PLATES[cue.role], cue.name) if word) or "cue"


def _rival(one: Cue, other: Cue) -> bool:
    return one.role is other.role and one.id != other.id


def _settled(cues: Iterable[Cue]) -> tuple[Cue, ...]:
    """In order, and with one preferred cue of each role that has such."""
    ordered = in_order(cues)
    preferred = {role: cue.id for role in PREFERRED if (cue := chosen(ordered, role))}
    return tuple(
        c if c.preferred is (preferred.get(c.role) == c.id) else c.model_copy(update={"preferred": not c.preferred})
        for c in ordered
    )
