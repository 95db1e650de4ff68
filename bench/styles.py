"""How the bars of a style are played: what its drums, bass, chords and lead do."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

KICK, SNARE, STICK, CLOSED, OPEN, PEDAL, RIDE, CRASH, TOM, LOW_TOM, SHAKER, BELL = (
    36, 38, 37, 42, 46, 44, 51, 49, 47, 43, 82, 56,
)  # fmt: skip
DRUMS = 9
"""The channel of drums."""
THIRD = 1.0 / 3.0
Notes = list[tuple[float, float, int, int, int]]
"""Beat, length in beats, channel, pitch, velocity."""


@dataclass
class Bar:
    """What a style adds its notes to."""

    start: float
    number: int
    root: int
    third: int
    rng: np.random.Generator
    notes: Notes = field(default_factory=list)
    drums: bool = True
    full: bool = True

    def hit(self, drum: int, *beats: float, v: int = 92) -> None:
        if self.drums:
            for b in beats:
                self.notes.append((self.start + b, 0.1, DRUMS, drum, int(np.clip(v + self.rng.normal(0, 6), 20, 127))))

    def note(self, channel: int, semitone: int, at: float, length: float, v: int = 84) -> None:
        velocity = int(np.clip(v + self.rng.normal(0, 5), 20, 127))
        self.notes.append((self.start + at, length, channel, semitone, velocity))

    def bass(self, *hits: tuple[float, float, int], v: int = 96) -> None:
        for at, length, step in hits:
            self.note(0, 36 + (self.root + 4) % 12 - 4 + step, at, length, v)

    def chord(self, *hits: tuple[float, float], v: int = 74) -> None:
        for at, length in hits:
            for step in (0, self.third, 7, 10):
                self.note(1, 55 + (self.root + step) % 12, at, length, v)

    def lead(self, places: tuple[float, ...], length: float, chance: float = 0.6) -> None:
        if self.number % 4 == 3 or not self.full:
            return
        scale = (0, 3, 5, 7, 10, 12) if self.third == 3 else (0, 2, 4, 7, 9, 12)
        for at in places:
            if self.rng.random() < chance:
                self.note(2, 67 + (self.root + int(self.rng.choice(scale))) % 12, at, length, 82)


def _rock(b: Bar) -> None:
    b.hit(CLOSED, *np.arange(0, 4, 0.5), v=70)
    b.hit(SNARE, 1, 3, v=105)
    b.hit(KICK, *((0, 2, 2.5) if b.number % 2 else (0, 1.5, 2)), v=108)
    b.bass(*((e, 0.45, 0) for e in np.arange(0, 4, 0.5)))
    b.chord((0, 1.4), (1.5, 0.4), (2, 1.8))
    b.lead(tuple(np.arange(0, 4, 0.5)), 0.5, 0.5)


def _punk(b: Bar) -> None:
    b.hit(OPEN if b.full else CLOSED, *np.arange(0, 4, 1.0), v=84)
    b.hit(SNARE, *((1, 3) if b.number // 8 % 2 else (0.5, 1.5, 2.5, 3.5)), v=108)
    b.hit(KICK, *((0, 0.5, 2, 2.5) if b.number // 8 % 2 else (0, 1, 2, 3)), v=112)
    b.bass(*((e, 0.45, 0) for e in np.arange(0, 4, 0.5)))
    b.chord(*((e, 0.4) for e in np.arange(0, 4, 0.5)), v=88)


def _double_kick(b: Bar) -> None:
    b.hit(KICK, *np.arange(0, 4, 0.25), v=100)
    b.hit(SNARE, *((2,) if b.number // 8 % 2 else (1, 3)), v=112)
    b.hit(RIDE if b.full else CRASH, *np.arange(0, 4, 1.0), v=80)
    b.bass(*((e, 0.22, 0) for e in np.arange(0, 4, 0.25)))
    b.chord(*((e, 0.2) for e in (0, 0.25, 0.5, 1, 1.5, 1.75, 2, 2.5, 3, 3.25, 3.5)), v=92)


def _gallop(b: Bar) -> None:
    for beat in range(4):
        b.hit(KICK, beat, beat + 0.5, beat + 0.75, v=104)
        b.bass((beat, 0.4, 0), (beat + 0.5, 0.2, 0), (beat + 0.75, 0.2, 0))
        b.chord((beat, 0.4), (beat + 0.5, 0.2), (beat + 0.75, 0.2), v=86)
    b.hit(SNARE, 1, 3, v=110)
    b.hit(RIDE, 0, 1, 2, 3, v=82)


def _shuffle(b: Bar) -> None:
    for beat in range(4):
        b.hit(RIDE if b.full else CLOSED, beat, beat + 2 * THIRD, v=76)
        b.bass((beat, 0.6, (0, 4, 7, 9)[beat]), (beat + 2 * THIRD, 0.3, (0, 4, 7, 9)[beat]))
    b.hit(KICK, 0, 2, 2 - THIRD, v=104)
    b.hit(SNARE, 1, 3, v=104)
    b.chord((1 - THIRD, 0.25), (1, 0.25), (3 - THIRD, 0.25), (3, 0.25))
    b.lead((0, 2 * THIRD, 1, 2, 2 + THIRD, 2 + 2 * THIRD, 3), 0.3, 0.5)


def _slow_blues(b: Bar) -> None:
    b.hit(CLOSED, *np.arange(0, 4, THIRD), v=70)
    b.hit(KICK, 0, 2, 2 + 2 * THIRD, v=100)
    b.hit(SNARE, 1, 3, v=100)
    b.bass((0, 0.9, 0), (1, 0.6, 4), (1 + 2 * THIRD, 0.3, 5), (2, 0.9, 7), (3, 0.6, 9), (3 + 2 * THIRD, 0.3, 10))
    b.chord(*((e, 0.25) for e in np.arange(0, 4, THIRD)), v=60)
    b.lead(tuple(np.arange(0, 4, THIRD)), 0.35, 0.45)


def _swing(b: Bar) -> None:
    late = 0.62 + 0.05 * (b.number % 2)
    b.hit(RIDE, 0, 1, 1 + late, 2, 3, 3 + late, v=84)
    b.hit(PEDAL, 1, 3, v=80)
    if b.rng.random() < 0.5:
        b.hit(SNARE, float(b.rng.choice([late, 1 + late, 2 + late, 3])), v=60)
    if b.rng.random() < 0.4:
        b.hit(KICK, float(b.rng.choice([0, 2, 2 + late, 3 + late])), v=80)
    steps = [0, int(b.rng.choice([2, 4, 12])), 7, int(b.rng.choice([5, 9, 11]))]
    b.bass(*((beat, 0.9, steps[beat]) for beat in range(4)))
    b.chord(*((float(e), 0.3) for e in b.rng.choice([0, late, 1, 1 + late, 2 + late, 3, 3 + late], 2, replace=False)))
    b.lead((0, late, 1, 1 + late, 2, 2 + late, 3, 3 + late), 0.4, 0.6)


def _jazz_waltz(b: Bar) -> None:
    b.hit(RIDE, 0, 1, 1.66, 2, v=82)
    b.hit(PEDAL, 1, 2, v=70)
    b.hit(KICK, 0, v=78)
    b.bass((0, 0.9, 0), (1, 0.9, 7), (2, 0.9, 4))
    b.chord((0.66, 0.3), (2, 0.5)) if b.number % 2 else b.chord((0, 1.4), (1.5, 1.2))
    b.lead((0, 0.66, 1, 1.66, 2, 2.66), 0.4, 0.5)


def _waltz(b: Bar) -> None:
    b.hit(KICK, 0, v=100)
    b.hit(STICK, 1, 2, v=78)
    b.bass((0, 0.9, 0))
    b.chord((1, 0.6), (2, 0.6))
    b.lead((0, 1, 2) if b.number % 2 else (0, 0.5, 1, 1.5, 2, 2.5), 0.7, 0.6)


def _hemiola(b: Bar) -> None:
    b.hit(CLOSED, *np.arange(0, 3, 0.5), v=70)
    b.hit(KICK, 0, v=100)
    b.hit(SNARE, *((1.5,) if b.number % 4 > 1 else (2,)), v=92)
    b.bass((0, 1.4, 0), (1.5, 1.4, 7)) if b.number % 4 > 1 else b.bass((0, 0.9, 0), (1, 0.9, 7), (2, 0.9, 7))
    b.chord((0, 1.4), (1.5, 1.4)) if b.number % 4 > 1 else b.chord((0, 0.8), (1, 0.8), (2, 0.8))


def _six_eight(b: Bar) -> None:
    b.hit(CLOSED, *np.arange(0, 2, THIRD), v=72)
    b.hit(KICK, 0, *((2 * THIRD,) if b.number % 2 else ()), v=100)
    b.hit(SNARE, 1, v=100)
    b.bass((0, 0.9, 0), (1, 0.6, 7), (1 + 2 * THIRD, 0.3, 5))
    for i in range(6):
        b.note(1, 55 + (b.root + (0, b.third, 7, 12, 7, b.third)[i]) % 12 + 12 * (i == 3), i * THIRD, 0.4, 72)
    b.lead((0, THIRD, 2 * THIRD, 1, 1 + 2 * THIRD), 0.5, 0.5)


def _funk(b: Bar) -> None:
    b.hit(CLOSED, *np.arange(0, 4, 0.25), v=64)
    b.hit(SNARE, 1, 3, v=108)
    b.hit(SNARE, 1.75, 2.25, v=42)
    b.hit(KICK, *((0, 0.5, 2.5, 2.75) if b.number % 2 else (0, 0.75, 1.5, 2.5)), v=108)
    b.bass(
        (0, 0.4, 0), (0.75, 0.2, 10), (1.25, 0.2, 12), (1.5, 0.2, 10), (2.5, 0.3, 0), (3.25, 0.2, 7), (3.75, 0.2, 10)
    )
    b.chord((0.75, 0.15), (1.25, 0.15), (2.75, 0.15), (3.25, 0.2))
    b.lead(tuple(np.arange(0, 4, 0.25)), 0.2, 0.25)


def _floor(b: Bar) -> None:
    b.hit(KICK, 0, 1, 2, 3, v=115)
    b.hit(OPEN, 0.5, 1.5, 2.5, 3.5, v=82)
    b.hit(SNARE, 1, 3, v=80) if b.full else None
    b.hit(CLOSED, *np.arange(0, 4, 0.25), v=52)
    b.bass(*((e + 0.5, 0.4, 0) for e in range(4)))
    b.chord((0.5, 0.3), (1.5, 0.3), (2.5, 0.3), (3.25, 0.3))
    b.lead((0, 0.75, 1.5, 2.25, 3), 0.5, 0.7)


def _one_drop(b: Bar) -> None:
    b.hit(CLOSED, *np.arange(0, 4, 0.5), v=68)
    b.hit(KICK, 2, v=108)
    b.hit(STICK, 2, v=104)
    b.bass((0, 0.4, 0), (0.75, 0.4, 0), (1.5, 0.4, 4), (2.5, 0.4, 7), (3.25, 0.4, 5))
    b.chord((0.5, 0.2), (1.5, 0.2), (2.5, 0.2), (3.5, 0.2), v=84)
    b.lead((0, 1, 1.5, 2, 3), 0.6, 0.4)


def _two_step(b: Bar) -> None:
    b.hit(KICK, 0, *((2.5,) if b.number % 2 else (1.75, 2.75)), v=112)
    b.hit(SNARE, 1, 3, v=106)
    b.hit(CLOSED, 0.5, 1.5, 1.66, 2.5, 3.5, v=70)
    b.bass((0, 0.6, 0), (1.75, 0.5, 0), (2.75, 0.8, 3))
    b.chord((0.66, 0.3), (2.66, 0.3))
    b.lead((0, 0.5, 2, 2.5), 0.4, 0.4)


def _breaks(b: Bar) -> None:
    b.hit(KICK, 0, 0.5, *((2.5, 2.75) if b.number % 2 else (2.5,)), v=110)
    b.hit(SNARE, 1, 3, v=110)
    b.hit(SNARE, 1.75, 2.25, *((3.75,) if b.number % 4 == 3 else ()), v=60)
    b.hit(RIDE, *np.arange(0, 4, 0.5), v=72)
    b.bass((0, 1.9, 0), (2.5, 1.4, 10 if b.number % 2 else 0))
    b.chord((0, 3.8), v=56)


def _half_time(b: Bar) -> None:
    if b.number // 8 % 2:
        b.hit(KICK, 0, 1.5, v=110)
        b.hit(SNARE, 2, v=112)
        b.hit(CRASH if b.number % 4 == 0 else CLOSED, 0, 1, 2, 3, v=84)
        b.bass((0, 1.9, 0), (2, 1.9, 0))
        b.chord((0, 3.8), v=86)
    else:
        _rock(b)


def _bossa(b: Bar) -> None:
    b.hit(CLOSED, *np.arange(0, 4, 0.5), v=58)
    b.hit(STICK, *((0, 1.5, 3) if b.number % 2 else (1, 2.5)), v=84)
    b.hit(KICK, 0, 1.5, 2, 3.5, v=80)
    b.bass((0, 1.4, 0), (1.5, 0.4, 7), (2, 1.4, 7), (3.5, 0.4, 0))
    b.chord((0, 0.4), (1, 0.4), (1.5, 0.9), (3, 0.4), (3.5, 0.4))
    b.lead((0, 0.5, 1.5, 2, 3, 3.5), 0.6, 0.5)


def _train(b: Bar) -> None:
    b.hit(SNARE, *np.arange(0, 4, 0.25), v=48)
    b.hit(SNARE, *np.arange(0.5, 4, 1.0), v=88)
    b.hit(KICK, 0, 1, 2, 3, v=92)
    b.bass((0, 0.9, 0), (2, 0.9, 7))
    b.chord((1, 0.3), (3, 0.3))
    b.lead(tuple(np.arange(0, 4, 0.5)), 0.4, 0.5)


def _ballad(b: Bar) -> None:
    for i in range(8):
        step = (0, 7, 12, 12 + b.third, 12, 7, 12, 7)[i]
        b.note(1, 48 + b.root % 12 + step, i * 0.5, 0.9, 70)
    b.bass((0, 3.8, 0), v=80)
    b.lead((0, 1, 1.5, 2, 3), 1.0, 0.6)


def _comping(b: Bar) -> None:
    b.chord(*((float(e), 0.9) for e in range(4)), v=76)
    b.bass((0, 1.9, 0), (2, 1.9, 7))
    b.lead((0, 0.5, 1, 2, 2.5, 3), 0.6, 0.5)


def _soul(b: Bar) -> None:
    b.hit(CLOSED, *np.arange(0, 4, THIRD if b.number // 8 % 2 else 2 * THIRD), v=60)
    b.hit(SNARE, 1, 3, v=100)
    b.hit(KICK, 0, 2 - THIRD, 2, v=100)
    b.bass((0, 0.6, 0), (1 + 2 * THIRD, 0.3, 7), (2, 0.8, 0), (3 + 2 * THIRD, 0.3, 10))
    b.chord((1, 0.5), (3, 0.5))
    b.lead((0, 2 * THIRD, 1, 2, 2 + 2 * THIRD, 3), 0.4, 0.5)


STYLES: dict[str, Callable[[Bar], None]] = {
    "rock": _rock, "punk": _punk, "double kick": _double_kick, "gallop": _gallop, "shuffle": _shuffle,
    "slow blues": _slow_blues, "swing": _swing, "jazz waltz": _jazz_waltz, "waltz": _waltz, "hemiola": _hemiola,
    "six-eight": _six_eight, "funk": _funk, "floor": _floor, "one drop": _one_drop, "two-step": _two_step,
    "breaks": _breaks, "half-time": _half_time, "bossa": _bossa, "train": _train, "ballad": _ballad,
    "comping": _comping, "soul": _soul,
}  # fmt: skip
STRAIGHT = {
    "rock": (80.0, 190.0), "punk": (160.0, 200.0), "double kick": (110.0, 190.0), "gallop": (90.0, 180.0),
    "funk": (76.0, 126.0), "floor": (110.0, 182.0), "one drop": (66.0, 90.0), "breaks": (84.0, 180.0),
    "half-time": (84.0, 170.0), "bossa": (100.0, 160.0), "train": (80.0, 130.0), "ballad": (62.0, 96.0),
    "comping": (76.0, 140.0), "two-step": (84.0, 142.0),
}  # fmt: skip
THIRDS = {"shuffle": (70.0, 170.0), "slow blues": (60.0, 84.0), "swing": (92.0, 200.0), "soul": (66.0, 112.0)}
THREES = {"jazz waltz": (90.0, 190.0), "waltz": (84.0, 190.0), "hemiola": (84.0, 160.0)}
"""Styles that may be crossed with each other, and the tempi at which they are played."""
