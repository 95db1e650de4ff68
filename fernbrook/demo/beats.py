"""The drum patterns of the demo band, as beats within a bar."""

from __future__ import annotations

from dataclasses import dataclass

Notes = tuple[tuple[float, float, int], ...]


@dataclass(frozen=True)
class Beat:
    """One bar: where kicks and snares fall, how the hats run, what the bass plays.

    ``bass`` has a note each: beat, length in beats, steps above the chord's root; None leaves the choice to the song.
    """

    kicks: tuple[float, ...]
    snares: tuple[float, ...]
    snare_drum: bool
    """A snare drum instead of a clap."""
    hats_per_beat: int = 4
    open_hats: bool = False
    bass: Notes | None = None
    percussion: bool = True
    beats: int = 4


BEATS: dict[str, Beat] = {
    "four": Beat((0.0, 1.0, 2.0, 3.0), (1.0, 3.0), snare_drum=False, open_hats=True),
    "broken": Beat(
        (0.0, 1.75, 2.5),
        (1.0, 3.0),
        snare_drum=True,
        bass=((0.0, 0.7, 0), (1.5, 0.45, 0), (2.5, 0.9, 4), (3.75, 0.25, 0)),
    ),
    "half": Beat(
        (0.0, 0.75, 2.75),
        (2.0,),
        snare_drum=True,
        bass=((0.0, 1.4, 0), (1.5, 0.4, 0), (2.5, 1.2, 4)),
    ),
    "rock": Beat(
        (0.0, 0.5, 2.0, 2.5),
        (1.0, 3.0),
        snare_drum=True,
        hats_per_beat=2,
        bass=tuple((i / 2, 0.45, 0) for i in range(8)),
        percussion=False,
    ),
    "syncopated": Beat(
        (0.0, 1.0, 2.0, 2.75),
        (1.0, 3.0),
        snare_drum=False,
        bass=((0.25, 0.4, 0), (0.75, 0.4, 0), (1.25, 0.7, 2), (2.25, 0.4, 0), (2.75, 0.7, 4), (3.25, 0.6, 2)),
    ),
    "sparse": Beat((0.0, 2.5), (2.0,), snare_drum=False, hats_per_beat=1, percussion=False),
    "waltz": Beat(
        (0.0,),
        (1.0, 2.0),
        snare_drum=True,
        hats_per_beat=2,
        bass=((0.0, 0.9, 0), (2.0, 0.8, 4)),
        percussion=False,
        beats=3,
    ),
}
