"""The cue card says everything on one page for fifteen tracks, in print that is large enough."""

from __future__ import annotations

import io
import re

import pytest
from pypdf import PdfReader

from fernbrook.formats.cue_card import Card, cue_card
from fernbrook.formats.cue_card_pdf import cue_card_pdf


def cards(count: int, title: str = "Condensation", watch: tuple[str, ...] = ()) -> list[Card]:
    return [
        Card(
            number=n,
            start_s=n * 190.0,
            title=f"{title} {n}",
            artist="Orla Fenn & the Über Köche",
            bpm=112.0 + n,
            key="Am",
            kind="blend",
            start=f"bar {n}.1 of the last, on bar 1.1",
            hand_over="on bar 9.1, bar 97.1 of the last",
            end="bar 17.1, 16 bars",
            tempo="112 → 114 BPM (+1.8%)",
            watch=watch,
        )
        for n in range(1, count + 1)
    ]


def read(content: bytes) -> tuple[int, str, set[float]]:
    """The pages of a PDF, its text, and the sizes of type that are used."""
    reader = PdfReader(io.BytesIO(content))
    sizes: set[float] = set()
    text = ""
    for page in reader.pages:
        text += page.extract_text() + "\n"
        operations = page.get_contents()
        assert operations is not None
        sizes |= {float(m) for m in re.findall(rb"/F\d+ ([\d.]+) Tf", operations.get_data())}
    return len(reader.pages), re.sub(r"\s+", " ", text), sizes


def test_fifteen_tracks_fit_one_page_in_large_print() -> None:
    pages, text, sizes = read(cue_card_pdf("Glasshouse Late", 1883.0, cards(15)))
    assert pages == 1
    assert min(sizes) >= 10.0
    for n in range(1, 16):
        assert f"{n}. Condensation {n}" in text
        assert f"bar {n}.1 of the last, on bar 1.1" in text
    for said in ("Glasshouse Late", "31:23", "on bar 9.1, bar 97.1 of the last", "112 → 114 BPM (+1.8%)", "Über Köche"):
        assert said in text


@pytest.mark.parametrize("count", [0, 1, 40])
def test_few_are_as_large_as_they_get_and_many_go_on_to_other_pages(count: int) -> None:
    pages, text, sizes = read(cue_card_pdf("Night", 60.0, cards(count, watch=("filter it in from here",))))
    assert pages == (1 if count < 2 else pages)
    assert pages > 1 or count < 40
    assert all(f"{n}. Condensation {n}" in text for n in range(1, count + 1))
    if count == 1:
        assert max(sizes) >= 14.0
        assert "filter it in from here" in text
    if count == 40:
        assert min(sizes) >= 8.0


def test_long_titles_are_broken_and_lose_nothing() -> None:
    long = "The Moss Beneath the Nineteenth Pane of the Old Palm House"
    _, text, _ = read(cue_card_pdf("Night", 60.0, cards(3, long)))
    assert text.count(long.rsplit(maxsplit=1)[-1]) == 3
    assert f"1. {long} 1" in text


def test_html_says_the_same_and_escapes() -> None:
    page = cue_card("A & B", 60.0, cards(2, "<Moss>", watch=("mind the <gap>",)))
    assert "&lt;Moss&gt; 1" in page
    assert "mind the &lt;gap&gt;" in page
    assert "<Moss>" not in page
    assert "bar 2.1 of the last, on bar 1.1" in page
    assert "112 → 114 BPM (+1.8%)" in page
    assert "http" not in page


SCRIPTS = {
    "NotoSansArabic": "سماء زرقاء",
    "NotoSansHebrew": "שלום עולם",
    "NotoSansThai": "กรุงเทพฯ",
    "NotoSansDevanagari": "रात की रानी",
    "NotoEmoji": "🌿🌙",
    "WenQuanYiMicroHei": "夜の温室 밤의 온실 时间",
}


@pytest.mark.parametrize("face", SCRIPTS)
def test_titles_of_any_script_are_drawn_with_a_face_that_has_their_signs(face: str) -> None:
    reader = PdfReader(io.BytesIO(cue_card_pdf("Night", 190.0, cards(1, SCRIPTS[face]))))
    fonts = [f.get_object() for f in reader.pages[0]["/Resources"]["/Font"].get_object().values()]
    names = {str(f["/BaseFont"]).partition("+")[2] or str(f["/BaseFont"]) for f in fonts}
    assert any(face.replace("NotoSans", "Noto").lower() in n.replace("NotoSans", "Noto").lower() for n in names), names
    said = reader.pages[0].extract_text()
    assert all(sign in said for sign in SCRIPTS[face] if sign.isalpha()), said
