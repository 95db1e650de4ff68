"""Puts the demo tracks into a library and makes the two mixes of them."""

from __future__ import annotations

import time
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path

from fernbrook.core.mix.commands import AddTracks, AnyMixCommand, ApplyShape, RenameMix, SetCurve, SetTempoPolicy
from fernbrook.core.mix.curves import Control, Curve
from fernbrook.core.mix.transitions import ReadyShape, Side, TempoPolicy
from fernbrook.demo.made_own import give_stems, own_commands
from fernbrook.demo.make import DemoTrack
from fernbrook.demo.preparation import prepare
from fernbrook.demo.songs import SPARE
from fernbrook.service.mixes import OpenMix
from fernbrook.service.services import Services
from fernbrook.whole import write_whole

MIX = "Glasshouse Late"
UNTOUCHED = "Glasshouse Late (untouched)"


def is_wanted(services: Services) -> bool:
    """Whether a library is to be filled: it is empty, or its filling was cut off."""
    return not services.catalogue.tracks() or _begun(services).exists()


def begin(services: Services) -> None:
    """Note that the demo is being made, so that it goes on where it is cut off."""
    begun = _begun(services)
    write_whole(begun, begun.read_bytes() if begun.exists() else b"")


def install(services: Services, tracks: list[DemoTrack], progress: Callable[[float], None]) -> None:
    """Fill a library, from where that was cut off if it was. The tracks are analysed like any others."""
    begin(services)
    begun = _begun(services)
    ids = [services.library.bring_in_path(t.path).track.id for t in tracks]
    _wait(services, progress)
    prepare(services)
    give_stems(services, tracks, {t.song.title: i for t, i in zip(tracks, ids, strict=True)})
    _put_aside(services, begun.read_text())
    evening = [i for t, i in zip(tracks, ids, strict=True) if t.song != SPARE]
    _made(services, UNTOUCHED, evening, lambda _: None)
    _made(services, MIX, evening, lambda opened: _shaped(services, opened))
    begun.unlink()


def _begun(services: Services) -> Path:
    """There while the demo is being made; it names the mix that is."""
    return services.folders.root / "demo.begun"


def _put_aside(services: Services, begun: str) -> None:
    """Half of a mix is none of the demo's; it stays, under another name, as somebody may have gone on with it."""
    for left in (m for m in services.mixes.list() if m.id == begun):
        opened = services.mixes.open(left.id)
        services.mixes.change(left.id, opened.version, RenameMix(name=f"{left.name} (cut off)"))


def _made(services: Services, name: str, ids: list[str], shape: Callable[[OpenMix], None]) -> None:
    """Make a mix of all tracks, unless it has been made."""
    if any(m.name == name for m in services.mixes.list()):
        return
    opened = services.mixes.create(name)
    write_whole(_begun(services), opened.id.encode())
    shape(services.mixes.change(opened.id, opened.version, AddTracks(track_ids=tuple(ids))))
    write_whole(_begun(services), b"")


def _wait(services: Services, progress: Callable[[float], None]) -> None:
    """Until all tracks are analysed."""
    while True:
        listed = services.catalogue.tracks()
        open_shares = [t.job.progress for t in listed if t.job and t.is_waiting]
        progress((len(listed) - len(open_shares) + sum(open_shares)) / len(listed))
        if not open_shares:
            return
        time.sleep(0.2)


def _shaped(services: Services, opened: OpenMix) -> None:
    """Shape each transition of the ten in the order of the night, and make some of it our own."""
    entries = [e.entry.id for e in opened.plan.entries]
    for out_id, in_id in pairwise(entries):
        for command in _shaping(entries.index(in_id), out_id, in_id):
            opened = services.mixes.change(opened.id, opened.version, command)
    by_title = {e.track.title: e for e in opened.plan.entries}
    entry_ids = {title: e.entry.id for title, e in by_title.items()}
    for command in own_commands(entry_ids, {title: e.track.id for title, e in by_title.items()}):
        opened = services.mixes.change(opened.id, opened.version, command)


def _shaping(number: int, out_id: str, in_id: str) -> list[AnyMixCommand]:
    """The commands that shape the transition into the entry with this number in the order, counted from 0."""
    pair = {"out_id": out_id, "in_id": in_id}
    shape = ReadyShape.EVEN_BLEND if number in (2, 6) else ReadyShape.BASS
    if number == 8:
        return [ApplyShape(shape=ReadyShape.CLEAN_CUT, **pair)]
    commands: list[AnyMixCommand] = [ApplyShape(shape=shape, **pair)]
    if number == 2:
        dip = Curve.of((0.0, 1.0), (0.45, 1.0), (0.5, 0.0), (1.0, 0.0))
        rise = Curve.of((0.0, 0.0), (0.5, 0.0), (0.55, 1.0), (1.0, 1.0))
        commands += [
            SetCurve(side=Side.OUTGOING, control=Control.LOW, curve=dip, **pair),
            SetCurve(side=Side.INCOMING, control=Control.LOW, curve=rise, **pair),
        ]
    if number == 7:
        commands += [SetTempoPolicy(tempo=TempoPolicy.SWITCH_AT_END, **pair)]
    return commands
