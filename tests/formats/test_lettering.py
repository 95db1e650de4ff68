"""Text in pictures: every sign has a shape, letters that join are joined, lines read the way that their script does."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image, ImageDraw

from fernbrook.formats.fonts import OTHERS, SOURCE, face_of
from fernbrook.formats.lettering import Lettering, runs_of

TITLES = [
    "夜の温室 – 東京",
    "밤의 온실",
    "سماء زرقاء",
    "שלום עולם",
    "กรุงเทพฯ ที่ไหน",
    "रात की रानी",
    "🌿🌙",
    "Größe Ελληνικά Ночь",
]


def drawn(text: str, size: int = 40) -> np.ndarray:
    """The ink of a line; shape (height, width)."""
    image = Image.new("RGB", (900, 90), (255, 255, 255))
    Lettering(size).draw(ImageDraw.Draw(image), 10, 10, text, (0, 0, 0))
    return 255 - np.asarray(image)[..., 0].astype(int)


@pytest.mark.parametrize("title", TITLES)
def test_every_sign_has_a_shape_of_its_own(title: str) -> None:
    for sign in title:
        assert ord(sign) in face_of(sign).signs
    box = drawn("\U000f0000")
    for sign in {s for s in title if s.isalpha() and len(runs_of(s)) == 1}:
        assert not np.array_equal(drawn(sign), box)
    assert 0 < drawn(title).any(axis=0).sum() <= Lettering(40).length(title) + 4


def test_letters_that_join_are_joined() -> None:
    apart = sum(Lettering(60).length(s) for s in "سماء")
    assert Lettering(60).length("سماء") < 0.9 * apart


def test_a_line_is_ordered_as_its_script_is_read() -> None:
    """What comes last of a line in Hebrew stands on its left, and brackets are turned there."""
    assert [r.text for r in runs_of("שלום (remix 12)")] == [")", "remix 12", " (", "שלום"]
    assert [r.text for r in runs_of("Night שלום 夜")] == ["Night ", "שלום", " ", "夜"]
    assert [(r.text, r.direction) for r in runs_of("夜a")] == [("夜", "ltr"), ("a", "ltr")]


def leftmost(ink: np.ndarray) -> np.ndarray:
    """The shape that stands most to the left."""
    columns = np.flatnonzero(ink.any(axis=0))
    end = columns[np.flatnonzero(np.diff(columns, append=columns[-1] + 2) > 1)[0]]
    return ink[:, columns[0] : end + 1]


def test_a_bracket_is_turned_where_the_line_reads_to_the_left() -> None:
    """What opens there looks as what closes here."""
    turned, closing, opening = (leftmost(drawn(text)) for text in ("שלום(", ")", "("))
    assert turned.shape == closing.shape
    assert np.abs(turned - closing).mean() < 0.2 * np.abs(turned - opening).mean()


def test_what_belongs_to_the_sign_before_it_stays_with_it() -> None:
    assert len(runs_of("👩\u200d🎤❤\ufe0f")) == 1
    assert len(runs_of("مَرْيَم")) == 1
    assert runs_of("") == []


def test_a_line_is_cut_where_there_is_no_more_room() -> None:
    style = Lettering(40)
    cut = style.fitting("夜の温室" * 20, 300.0)
    assert cut.endswith("…")
    assert 250.0 < style.length(cut) <= 300.0
    assert style.fitting("夜", 300.0) == "夜"


def test_a_sign_that_no_face_has_is_a_box_and_no_failure() -> None:
    assert face_of("\U000f0000") is SOURCE
    assert drawn("\U000f0000").any()
    assert all(face.regular.is_file() and face.semibold.is_file() for face in (SOURCE, *OTHERS))
