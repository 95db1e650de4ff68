"""Transitions that nobody shaped, kept where they have been heard when the rules that place them have changed."""

from __future__ import annotations

from collections.abc import Iterable

from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.placing.placing import placed, spans_of
from fernbrook.core.mix.transitions import Transition
from fernbrook.core.track import Tracks


def with_kept_places(mix: Mix, heard: Iterable[Transition], tracks: Tracks) -> Mix:
    """The mix with each transition that nobody shaped as it was ``heard``, where it would come out otherwise now.

    Raises
    ------
    UnknownTrackError
        When an entry's track is not among ``tracks``.
    """
    now = {p.transition.pair: p for p in placed(mix, spans_of(mix, tracks))}
    moved = [t for t in heard if (here := now.get(t.pair)) and not here.shaped and here.transition != t]
    if not moved:
        return mix
    pairs = tuple(t.pair for t in moved)
    return mix.model_copy(update={"transitions": (*mix.transitions, *moved), "kept": (*mix.kept, *pairs)})
