"""The fonts that are drawn with where there is no page.

Source Sans Pro, and where it has no sign, faces for other scripts: Noto for Arabic, Hebrew, Devanagari, Thai and emoji,
WenQuanYi Micro Hei for Chinese, Japanese and Korean. Their licences lie beside them.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from fontTools.ttLib import TTFont

FOLDER = Path(__file__).parent


@dataclass(frozen=True)
class Face:
    """A face in two weights, or one that serves as both."""

    name: str
    regular: Path
    semibold: Path

    @classmethod
    def of(cls, name: str, strong: str | None = "SemiBold") -> Face:
        """The face whose files have this name."""
        regular = FOLDER / f"{name}-Regular.ttf" if strong else FOLDER / f"{name}.ttf"
        return cls(name, regular, FOLDER / f"{name}-{strong}.ttf" if strong else regular)

    @property
    def signs(self) -> frozenset[int]:
        """The code points that it has a shape for."""
        return _signs(self.regular)


SOURCE = Face.of("SourceSansPro", "Semibold")
OTHERS = (
    Face.of("NotoSansArabic"),
    Face.of("NotoSansHebrew"),
    Face.of("NotoSansThai"),
    Face.of("NotoSansDevanagari"),
    Face.of("NotoEmoji", strong=None),
    Face.of("WenQuanYiMicroHei", strong=None),
)
"""In the order in which they are asked: what all have is taken from the first."""


@lru_cache(maxsize=16)
def _signs(path: Path) -> frozenset[int]:
    with TTFont(path, lazy=True) as font:
        return frozenset(font.getBestCmap())


def face_of(sign: str) -> Face:
    """The face that a sign is drawn with: the first that has it, else Source Sans, which shows a box."""
    point = ord(sign)
    if point in SOURCE.signs:
        return SOURCE
    return next((face for face in OTHERS if point in face.signs), SOURCE)


def faces_for(texts: Iterable[str]) -> list[Face]:
    """The faces that some texts need beside Source Sans."""
    needed = {face_of(sign) for sign in {sign for text in texts for sign in text}}
    return [face for face in OTHERS if face in needed]
