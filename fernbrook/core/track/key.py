"""Musical keys: their names, their places on the circle of fifths, and how two of them relate."""

from __future__ import annotations

import re

from pydantic import Field

from fernbrook.core.value import Value

MAJOR_NAMES = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
MINOR_NAMES = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "G#", "A", "Bb", "B")
LETTERS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
SHIFTS = {"#": 1, "♯": 1, "b": -1, "♭": -1}
WHEEL_OF_C = 8
"""The number of C major (and of A minor) in the wheel code; each fifth up adds one."""


class Key(Value):
    """A key: the pitch class of its tonic (0 is C) and its mode."""

    tonic: int = Field(ge=0, le=11)
    minor: bool

    @property
    def name(self) -> str:
        """As musicians write it, with the fewer signs: ``Db`` but ``C#m``.

        >>> Key(tonic=1, minor=False).name, Key(tonic=1, minor=True).name
        ('Db', 'C#m')
        """
        return f"{MINOR_NAMES[self.tonic]}m" if self.minor else MAJOR_NAMES[self.tonic]

    @property
    def fifths(self) -> int:
        """Steps on the circle of fifths from C major, or for a minor key those of its relative major; 0..11."""
        major = (self.tonic + 3) % 12 if self.minor else self.tonic
        return major * 7 % 12

    @property
    def wheel(self) -> str:
        """The trade's number-and-letter code: neighbours on the circle of fifths have neighbouring numbers."""
        return f"{(self.fifths + WHEEL_OF_C - 1) % 12 + 1}{'A' if self.minor else 'B'}"

    def shifted(self, semitones: int) -> Key:
        """The key so many semitones higher."""
        return Key(tonic=(self.tonic + semitones) % 12, minor=self.minor)

    @classmethod
    def parse(cls, text: str) -> Key | None:
        """Read a key in musical or wheel notation, as tags have it; None where it is neither."""
        plain = text.strip().replace(" ", "")
        wheel = re.fullmatch(r"(0?[1-9]|1[0-2])([ABab])", plain)
        if wheel:
            major = (int(wheel[1]) - WHEEL_OF_C) * 7 % 12
            minor = wheel[2] in "Aa"
            return cls(tonic=(major - 3) % 12 if minor else major, minor=minor)
        music = re.fullmatch(r"([A-Ga-g])([#♯b♭]?)(m|min|minor|maj|major|M)?", plain)
        if not music:
            return None
        tonic = (LETTERS[music[1].upper()] + SHIFTS.get(music[2], 0)) % 12
        return cls(tonic=tonic, minor=(music[3] or "") in {"m", "min", "minor"})
