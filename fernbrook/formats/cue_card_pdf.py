"""The cue card as a PDF: A4, two columns, as large as all of it fits on one page, for up to fifteen tracks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fpdf import FPDF

from fernbrook.formats.cue_card import Card, rows_of
from fernbrook.formats.fonts import SOURCE, faces_for
from fernbrook.formats.track_list import clock

WIDTH, HEIGHT, MARGIN, GUTTER = 210.0, 297.0, 10.0, 8.0
COLUMN = (WIDTH - 2 * MARGIN - GUTTER) / 2.0
LARGEST, SMALLEST, STEP = 14.0, 8.0, 0.25
"""Of the type, in points. What does not fit at the smallest goes on to another page."""
LEADING = 0.42
"""Millimetres of a line for each point of its type."""
WORD = 15.0
"""Millimetres for what a line is about, at the largest type."""
HEAD = 12.0


@dataclass(frozen=True)
class _Line:
    """A line of the card: what it is about, and what it says; ``scale`` is its size against that of the text."""

    text: str
    word: str = ""
    scale: float = 1.0
    is_title: bool = False


def cue_card_pdf(name: str, duration_s: float, cards: Sequence[Card]) -> bytes:
    """The card as a PDF."""
    pdf = FPDF(format="A4")
    pdf.set_auto_page_break(False)
    pdf.set_title(name)
    pdf.set_creator("Fernbrook")
    pdf.add_font("card", "", SOURCE.regular)
    pdf.add_font("card", "B", SOURCE.semibold)
    if others := faces_for([name, *(x for card in cards for x in _texts(card))]):
        for face in others:
            pdf.add_font(face.name, "", face.regular)
            pdf.add_font(face.name, "B", face.semibold)
        pdf.set_fallback_fonts([face.name for face in others])
        # The card is read from left to right, whatever its titles are.
        pdf.set_text_shaping(True, direction="ltr")
    size = LARGEST
    while size > SMALLEST and len(_columns(pdf, cards, size)) > 2:
        size -= STEP
    columns = _columns(pdf, cards, size) or [[]]
    for n, column in enumerate(columns):
        if n % 2 == 0:
            pdf.add_page()
            pdf.set_font("card", "B", 18)
            pdf.set_xy(MARGIN, MARGIN - 2)
            pdf.cell(pdf.get_string_width(name) + 6.0, 8, name)
            pdf.cell(40.0, 8, clock(duration_s))
        _draw(pdf, column, MARGIN + n % 2 * (COLUMN + GUTTER), size)
    return bytes(pdf.output())


def _texts(card: Card) -> list[str]:
    return [card.title, card.artist, *(text for _, text in rows_of(card)), *card.watch]


def _columns(pdf: FPDF, cards: Sequence[Card], size: float) -> list[list[list[_Line]]]:
    """The cards, each as its lines, in as many columns as they take at a size."""
    room = HEIGHT - 2 * MARGIN - HEAD
    columns: list[list[list[_Line]]] = []
    left = 0.0
    for card in cards:
        lines = _lines(pdf, card, size)
        tall = sum(x.scale for x in lines) * size * LEADING + 3.0
        if not columns or tall > left:
            columns.append([])
            left = room
        columns[-1].append(lines)
        left -= tall
    return columns


def _lines(pdf: FPDF, card: Card, size: float) -> list[_Line]:
    """A card as lines, broken where there is no more room."""
    by = f"  {card.artist}" if card.artist else ""
    title = f"{card.number}. {card.title}"
    found = [_Line(x, scale=1.25, is_title=True) for x in _broken(pdf, title + by, size * 1.25, COLUMN, "B")]
    word = WORD * size / LARGEST
    for about, text in rows_of(card):
        parts = _broken(pdf, text, size, COLUMN - word, "")
        found += [_Line(part, about if n == 0 else "") for n, part in enumerate(parts)]
    for text in card.watch:
        parts = _broken(pdf, text, size, COLUMN - word, "")
        found += [_Line(part, "watch" if n == 0 else "") for n, part in enumerate(parts)]
    return found


def _broken(pdf: FPDF, text: str, size: float, room: float, style: str) -> list[str]:
    pdf.set_font("card", style, size)
    lines: list[str] = []
    for word in text.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and pdf.get_string_width(longer) <= room - 2.0:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines or [""]


def _draw(pdf: FPDF, column: Sequence[Sequence[_Line]], left: float, size: float) -> None:
    word, top = WORD * size / LARGEST, MARGIN + HEAD - 3.0
    for lines in column:
        pdf.set_line_width(0.5)
        pdf.line(left, top, left + COLUMN, top)
        top += 1.0
        for line in lines:
            tall = line.scale * size * LEADING
            pdf.set_xy(left, top)
            if line.is_title:
                pdf.set_font("card", "B", size * line.scale)
                pdf.cell(COLUMN, tall, line.text)
            else:
                pdf.set_font("card", "B", size)
                pdf.cell(word, tall, line.word)
                pdf.set_font("card", "", size)
                pdf.cell(COLUMN - word, tall, line.text)
            top += tall
        top += 2.0
