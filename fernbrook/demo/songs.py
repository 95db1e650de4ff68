"""The ten tracks of 'Glasshouse Late', one evening in a palm house from the doors to the last tram, and one that lies
ready beside them."""

from __future__ import annotations

from fernbrook.demo.song import Section, Song


def _sections(*pairs: tuple[str, int]) -> tuple[Section, ...]:
    return tuple(Section(kind, bars) for kind, bars in pairs)


EVENING: tuple[Song, ...] = (
    Song(
        title="Condensation",
        artist="Orla Fenn",
        bpm=112.0,
        tonic=9,
        minor=True,
        chords=(0, 5, 3, 4),
        sections=_sections(("beat", 16), ("bass", 8), ("full", 32), ("break", 8), ("full", 24), ("outro", 16)),
        seed=11,
        file="01 condensation.wav",
        swing=0.08,
        tone=0.25,
        intro_s=20.0,
    ),
    Song(
        title="Night Warden",
        artist="Tamsin Oke",
        bpm=114.0,
        tonic=2,
        minor=True,
        chords=(0, 6, 5, 6),
        sections=_sections(
            ("beat", 16), ("bass", 16), ("full", 24), ("break", 8), ("rise", 4), ("full", 24), ("outro", 16)
        ),
        seed=12,
        file="02 night warden.wav",
        tone=0.4,
        mono=True,
    ),
    Song(
        title="Wet Glass",
        artist="Halden Moss",
        bpm=116.5,
        tonic=5,
        minor=False,
        chords=(0, 3, 5, 4),
        sections=_sections(("beat", 16), ("bass", 8), ("full", 32), ("break", 16), ("full", 24), ("outro", 16)),
        seed=14,
        file="03 wet glass.mp3",
        swing=0.14,
        tone=0.35,
        pick_up_beats=1.0,
    ),
    Song(
        title="Ripe Figs",
        artist="Copse & Lantern",
        bpm=118.0,
        tonic=9,
        minor=True,
        chords=(0, 3, 6, 2),
        sections=_sections(("beat", 8), ("bass", 8), ("full", 32), ("break", 8), ("full", 32), ("outro", 8)),
        seed=15,
        file="04 ripe figs.flac",
        sings=True,
        wander=0.015,
        tone=0.5,
    ),
    Song(
        title="Heliconia",
        artist="Marrow Street",
        bpm=120.0,
        tonic=4,
        minor=True,
        chords=(0, 5, 2, 6),
        sections=_sections(("beat", 16), ("full", 32), ("break", 16), ("rise", 8), ("full", 32), ("outro", 16)),
        seed=16,
        file="05 heliconia.flac",
        sings=True,
        tone=0.55,
    ),
    Song(
        title="Tendril",
        artist="Ines Caldwater",
        bpm=121.0,
        tonic=11,
        minor=True,
        chords=(0, 3, 5, 4),
        sections=_sections(("beat", 16), ("bass", 16), ("full", 24), ("break", 8), ("full", 32), ("outro", 16)),
        seed=17,
        file="06 tendril.wav",
        swing=0.05,
        second_bpm=124.0,
        rate=48_000,
        tone=0.45,
    ),
    Song(
        title="Stomata",
        artist="Kelp Union",
        bpm=125.0,
        tonic=5,
        minor=True,
        chords=(0, 0, 5, 6),
        sections=_sections(
            ("beat", 16), ("bass", 16), ("full", 32), ("break", 8), ("rise", 8), ("full", 32), ("outro", 2)
        ),
        seed=18,
        file="07 stomata.ogg",
        tone=0.7,
    ),
    Song(
        title="Palm House, 2 a.m.",
        artist="Dusk Inventory",
        bpm=128.0,
        tonic=7,
        minor=True,
        chords=(0, 5, 3, 4),
        sections=_sections(
            ("beat", 16), ("bass", 16), ("full", 32), ("break", 16), ("rise", 8), ("full", 32), ("outro", 16)
        ),
        seed=19,
        file="08 palm house 2 am.mp3",
        tone=0.9,
        peak_db=-0.05,
        drive=4.5,
    ),
    Song(
        title="Breaker Fern",
        artist="Low Orchard",
        bpm=174.0,
        tonic=0,
        minor=True,
        chords=(0, 5, 6, 4),
        sections=_sections(
            ("beat", 16), ("bass", 16), ("full", 32), ("break", 16), ("rise", 8), ("full", 32), ("outro", 16)
        ),
        seed=20,
        file="09 breaker fern.flac",
        beat="broken",
        tone=0.8,
    ),
    Song(
        title="Last Tram Home",
        artist="Juniper Static",
        bpm=87.0,
        tonic=0,
        minor=True,
        chords=(0, 5, 3, 6),
        sections=_sections(("beat", 8), ("bass", 8), ("full", 16), ("break", 8), ("full", 16), ("outro", 8)),
        seed=21,
        file="10 last tram home.wav",
        beat="broken",
        swing=0.1,
        tone=0.3,
        peak_db=-13.0,
    ),
)
SPARE = Song(
    title="Sluice Gate",
    artist="Aster & Weir",
    bpm=128.0,
    tonic=7,
    minor=True,
    chords=(0, 5, 3, 6),
    sections=_sections(("beat", 16), ("bass", 8), ("full", 24), ("break", 8), ("rise", 8), ("full", 32), ("outro", 16)),
    seed=22,
    file="11 sluice gate.flac",
    second_bpm=174.0,
    ramp_beats=30.0,
    short_bars=((63, 2),),
    tone=0.75,
)
"""It climbs from the tempo of the eighth to that of the ninth, and drops two beats before everything comes back."""
SONGS = (*EVENING, SPARE)
