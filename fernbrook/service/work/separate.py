"""Taking a track apart."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from fernbrook.analysis.separation.bands import Sound
from fernbrook.analysis.separation.model import SeparationModel
from fernbrook.analysis.separation.separate import separate
from fernbrook.audio.sources import Source, write_stem
from fernbrook.core.plan import RATE
from fernbrook.core.track import KEPT, STEMS_VERSION, Stem, StemsFact, TrackFacts
from fernbrook.core.value import Value
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders


class SeparateOrder(Value):
    """A track, its file as the data folder notes it, and the content of that; and a model to use, if there is one."""

    track: TrackFacts
    path: str
    content_hash: str
    model: str | None = None


def separate_track(order: SeparateOrder, root: Path, report: Report) -> Result:
    """Write the stems of a track beside it, and return what is known of them."""
    folders, track = Folders(root), order.track
    with Source(folders.audio_file(order.path), RATE, track.title) as source:
        sound = source.read(0, source.frames)
    report(0.05)

    def ahead(share: float) -> None:
        report(0.05 + 0.85 * share)

    parts, fact = _by_model(Path(order.model), sound, ahead) if order.model else _itself(track, sound, ahead)
    for stem in KEPT:
        part = parts.get(stem)
        write_stem(
            folders.stem_file(order.content_hash, stem.value), np.zeros_like(sound) if part is None else part, RATE
        )
    return {"stems": fact.model_dump(mode="json")}


def _itself(track: TrackFacts, sound: Sound, report: Report) -> tuple[dict[Stem, Sound], StemsFact]:
    """By signal processing, with what is known of the track."""
    found = separate(sound, track.riding_grid, track.sections, track.voice, RATE, report)
    fact = StemsFact(
        coherent=round(found.coherent, 4),
        is_clean=found.is_clean,
        has_voice=bool(track.voice),
        by_network=found.by_network,
        version=STEMS_VERSION,
    )
    return {Stem.DRUMS: found.drums, Stem.BASS: found.bass, Stem.VOICE: found.voice}, fact


def _by_model(path: Path, sound: Sound, report: Report) -> tuple[dict[Stem, Sound], StemsFact]:
    """By a model of the user's own."""
    model = SeparationModel(path, RATE)
    parts = model.separate(sound, report)
    given = tuple(s for s in KEPT if s in parts)
    fact = StemsFact(given=given, model=model.name, coherent=1.0, is_clean=True, has_voice=Stem.VOICE in given)
    return parts, fact
