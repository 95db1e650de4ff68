"""Transitions that nobody shaped, kept where they have been heard when the rules that place them have changed."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Literal

from typing_extensions import override

from fernbrook.core.mix.changing import CommandError, MixCommand, Tracks
from fernbrook.core.mix.mix import Mix
from fernbrook.core.mix.naming import Naming
from fernbrook.core.mix.placing import placed, spans_of
from fernbrook.core.mix.transition import Transition
from fernbrook.core.track.facts import TrackFacts


class SettlePlaces(MixCommand):
    """Decide on the places that were kept over an upgrade: find them anew by the rules of now, or leave them."""

    kind: Literal["settle_places"] = "settle_places"
    anew: bool

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        if not mix.kept:
            raise CommandError("Those transitions have been decided on already.")
        return mix.without_transitions(mix.kept) if self.anew else mix.model_copy(update={"kept": ()})

    @override
    def words(self, naming: Naming) -> str:
        return f"{'place anew' if self.anew else 'leave as they are'} what nobody shaped"


def with_kept_places(mix: Mix, heard: Iterable[Transition], tracks: Mapping[str, TrackFacts]) -> Mix:
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
