"""The cue card of a mix: what somebody needs who plays it live."""

from __future__ import annotations

from dataclasses import replace
from enum import StrEnum
from typing import Any

from fernbrook.core.mix.transitions import Kind, Transition, handed_over_at
from fernbrook.core.plan import Plan, PlannedEntry, PlannedTransition, TimesAt, bar_beat, listed
from fernbrook.core.track import CueRole
from fernbrook.formats.cue_card import Card, cue_card
from fernbrook.service.files import file_name
from fernbrook.service.mixes import Mixes

WORDS = {Kind.BLEND: "blend", Kind.CUT: "cut", Kind.FADE: "fade", Kind.APART: "after"}
SAME_BPM = 0.05


class CardKind(StrEnum):
    """What a card is written as."""

    HTML = "html"
    PDF = "pdf"


class CueCards:
    """Writes cue cards."""

    def __init__(self, mixes: Mixes) -> None:
        self._mixes = mixes

    def written(self, mix_id: str, kind: CardKind) -> tuple[bytes, str]:
        """The card of a mix as it stands, and the name of its file."""
        plan = self._mixes.open(mix_id).plan
        cards = [_card(x.entry, x.number, x.start_s, plan) for x in listed(plan, TimesAt.FIRST_SOUND)]
        name = f"{file_name(plan.mix.name)} cue card.{kind}"
        if kind is CardKind.PDF:
            from fernbrook.formats.cue_card_pdf import cue_card_pdf  # its package is slow to load

            return cue_card_pdf(plan.mix.name, plan.duration_s, cards), name
        return cue_card(plan.mix.name, plan.duration_s, cards).encode(), name


def _card(entry: PlannedEntry, number: int, start_s: float, plan: Plan) -> Card:
    key = entry.entry.key_of(entry.track)
    card = Card(
        number=number,
        start_s=start_s,
        title=entry.track.title,
        artist=entry.track.artist,
        bpm=entry.home_bpm,
        key=key.key.name if key else None,
    )
    if entry.arrival is None:
        return card
    out, t = plan.entries[entry.index - 1], entry.arrival
    said: dict[str, Any] = {
        "kind": WORDS[t.transition.kind],
        "start": f"{_at(out, t.transition.out_at)} of the last, on {_at(entry, t.transition.in_at)}",
        "tempo": _tempo(out, entry, t.transition),
        "watch": _watch(entry, t, plan),
    }
    if t.transition.kind is Kind.BLEND:
        turn = handed_over_at(t.transition)
        said["hand_over"] = (
            f"on {_at(entry, t.transition.in_at + turn)}, {_at(out, t.transition.out_at + turn)} of the last"
        )
        said["end"] = (
            f"{_at(entry, t.transition.in_at + t.transition.beats)}, {t.transition.beats / out.heard.bar:g} bars"
        )
    elif t.transition.kind is Kind.FADE:
        said["end"] = f"{t.transition.seconds:g} s later"
    return replace(card, **said)


def _at(entry: PlannedEntry, beat: float) -> str:
    return f"bar {bar_beat(beat, entry.heard.bar_lines)}"


def _tempo(out: PlannedEntry, into: PlannedEntry, t: Transition) -> str:
    before, after = out.span.bpm_at(t.out_at), into.span.bpm_at(t.in_at + t.beats)
    if abs(before - after) < SAME_BPM:
        return ""
    return f"{before:.4g} → {after:.4g} BPM ({after / before - 1.0:+.1%})".replace("-", "−")


def _watch(entry: PlannedEntry, planned: PlannedTransition, plan: Plan) -> tuple[str, ...]:
    """What to watch for: what was noted on the cues of this arrival, and warnings that nobody has said are meant."""
    noted = [c.note for c in entry.track.cues if c.note and c.role in (CueRole.MIX_IN, CueRole.ALONE_FROM)]
    warnings = [s.message for s in plan.warnings if s.transition == planned.index and not s.is_meant]
    return (*noted, *warnings)
