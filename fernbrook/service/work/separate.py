"""Taking a track apart."""

from __future__ import annotations

from pathlib import Path

from fernbrook.analysis.separation.separate import separate
from fernbrook.audio.source import Source
from fernbrook.audio.stem_file import write_stem
from fernbrook.core.plan.rate import RATE
from fernbrook.core.track.facts import TrackFacts
from fernbrook.core.track.stems import Stem, StemsFact
from fernbrook.core.value import Value
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders


class SeparateOrder(Value):
    """A track, its file as the data folder notes it, and the content of that."""

    track: TrackFacts
    path: str
    content_hash: str


def separate_track(order: SeparateOrder, root: Path, report: Report) -> Result:
    """Write the stems of a track beside it, and return what is known of them."""
    folders, track = Folders(root), order.track
    with Source(folders.audio_file(order.path), RATE, track.title) as source:
        sound = source.read(0, source.frames)
    report(0.05)
    found = separate(
        sound, track.riding_grid, track.sections, track.voice, RATE, lambda share: report(0.05 + 0.85 * share)
    )
    for stem, part in ((Stem.DRUMS, found.drums), (Stem.BASS, found.bass), (Stem.VOICE, found.voice)):
        write_stem(folders.stem_file(order.content_hash, stem.value), part, RATE)
    fact = StemsFact(coherent=round(found.coherent, 4), is_clean=found.is_clean, has_voice=bool(track.voice))
    return {"stems": fact.model_dump(mode="json")}
