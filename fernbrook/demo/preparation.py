"""What somebody who prepares the night has marked, tagged and gathered of the demo tracks."""

from __future__ import annotations

from fernbrook.core.track import CueRole, PutCues, PutGrid, PutLoops
from fernbrook.demo.song import true_grid
from fernbrook.demo.songs import SPARE
from fernbrook.service.services import Services

NOTES = {
    "Heliconia": {CueRole.MIX_IN: "filter it in from here", CueRole.ALONE_FROM: "first line of the verse"},
    "Wet Glass": {CueRole.MIX_OUT: "rim shots alone, eight bars are enough"},
    "Stomata": {CueRole.MIX_IN: "the bass waits until bar 17"},
}
"""Whose suggested cues were taken over, and what was noted on them."""
TAGS = {
    "opening": ("Condensation", "Night Warden"),
    "warm": ("Condensation", "Night Warden", "Wet Glass", "Ripe Figs"),
    "glasshouse": ("Heliconia", "Ripe Figs", "Wet Glass", "Palm House, 2 a.m."),
    "peak": ("Stomata", "Palm House, 2 a.m.", "Breaker Fern"),
    "bridges": ("Sluice Gate",),
    "live drums": ("Ripe Figs", "Tendril"),
    "last hour": ("Breaker Fern", "Last Tram Home"),
}
LISTS = {
    "Doors at nine": ("Condensation", "Night Warden", "Wet Glass"),
    "If it rains": ("Ripe Figs", "Last Tram Home"),
}
FILTERS = {"To begin with": "instrumental bpm:108-118", "Grid to check": "-checked -steady"}
PAIRINGS = (
    ("Wet Glass", "Ripe Figs", "the rim shots answer the congas"),
    ("Heliconia", "Tendril", ""),
    ("Breaker Fern", "Last Tram Home", "half time, on the last word"),
)


def prepare(services: Services) -> None:
    """Mark, tag and gather the tracks of a library by their titles; those that are not there are passed over, and what
    has been done already is not done again."""
    ids = {t.title: t.id for t in services.catalogue.tracks()}

    def known(titles: tuple[str, ...]) -> list[str]:
        return [ids[t] for t in titles if t in ids]

    for title, notes in NOTES.items():
        if title in ids:
            _mark(services, ids[title], notes)
    if SPARE.title in ids and not services.marking.open(ids[SPARE.title]).markup.by_hand:
        put = PutGrid(grid=true_grid(SPARE), why="count the bars by ear")
        services.marking.change(ids[SPARE.title], None, put)
    for tag, titles in TAGS.items():
        if known(titles):
            services.collection.tag(known(titles), add=[tag])
    gathered = services.collection.gathered()
    have = {x.name for x in gathered.lists} | {x.name for x in gathered.filters}
    for name, titles in LISTS.items():
        if name not in have:
            services.collection.make_list(name, known(titles))
    for name, search in FILTERS.items():
        if name not in have:
            services.collection.save_filter(name, search)
    for first, second, note in PAIRINGS:
        if first in ids and second in ids:
            services.collection.pair(ids[first], ids[second], note)


def _mark(services: Services, track_id: str, notes: dict[CueRole, str]) -> None:
    """Take over what is suggested for a track, with notes, unless it has cues."""
    opened = services.marking.open(track_id)
    if opened.markup.cues:
        return
    cues = tuple(p.cue.model_copy(update={"note": notes.get(p.cue.role, "")}) for p in opened.suggested_cues)
    if cues:
        services.marking.change(track_id, None, PutCues(cues=cues, why="accept what was suggested"))
    loops = tuple(p.loop for p in opened.suggested_loops[:1])
    if loops:
        services.marking.change(track_id, None, PutLoops(loops=loops, why="accept a suggested loop"))
