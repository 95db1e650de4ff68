"""A card for somebody who plays the mix live: for each transition where to start, hand over and end, in print that is
read in the dark. One page for fifteen tracks, in two columns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

from fernbrook.formats.track_list import clock

STYLE = """
@page { size: A4; margin: 10mm }
body { font: 15px/1.25 'Source Sans 3', 'Liberation Sans', Arial, sans-serif; color: #000; margin: 14px }
h1 { font-size: 22px; margin: 0 0 8px }
main { columns: 2; column-gap: 22px }
article { break-inside: avoid; border-top: 2px solid #000; padding: 4px 0 7px }
h2 { font-size: 18px; margin: 0 }
h2 small { font-size: 13px; font-weight: normal }
dl { display: grid; grid-template-columns: max-content 1fr; gap: 0 10px; margin: 2px 0 0 }
dt { font-weight: bold }
dd { margin: 0; font-variant-numeric: tabular-nums }
p { margin: 2px 0 0; font-style: italic }
"""


@dataclass(frozen=True)
class Card:
    """One track on the card, and how the one before it goes over into it. Places are bars and beats of each."""

    number: int
    start_s: float
    title: str
    artist: str
    bpm: float
    key: str | None
    kind: str = ""
    start: str = ""
    hand_over: str = ""
    end: str = ""
    tempo: str = ""
    watch: tuple[str, ...] = ()


def cue_card(name: str, duration_s: float, cards: Sequence[Card]) -> str:
    """The card as one HTML page that needs nothing else."""
    body = "\n".join(_article(c) for c in cards)
    title = escape(name)
    return (
        f'<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>{title}</title>'
        f"<style>{STYLE}</style></head>\n<body><h1>{title} <small>{clock(duration_s)}</small></h1>\n"
        f"<main>\n{body}\n</main></body></html>\n"
    )


def rows_of(card: Card) -> list[tuple[str, str]]:
    """What a card says line by line: what each is about, and what it says."""
    tempo = card.tempo or f"{card.bpm:.4g} BPM"
    facts = " · ".join(x for x in (clock(card.start_s), tempo, card.key) if x)
    said = ((card.kind, card.start), ("bass", card.hand_over), ("out by", card.end))
    return [("at", facts), *((word, text) for word, text in said if text)]


def _article(card: Card) -> str:
    by = f" <small>{escape(card.artist)}</small>" if card.artist else ""
    lines = "".join(f"<dt>{escape(word)}</dt><dd>{escape(text)}</dd>" for word, text in rows_of(card))
    watch = "".join(f"<p>{escape(w)}</p>" for w in card.watch)
    return f"<article><h2>{card.number}. {escape(card.title)}{by}</h2><dl>{lines}</dl>{watch}</article>"
