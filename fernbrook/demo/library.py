"""Puts the demo tracks into a library and makes the two mixes of them."""

from __future__ import annotations

import time
from collections.abc import Callable
from itertools import pairwise

from fernbrook.core.mix.commands import AddTracks, ApplyHandOver, Command, SetCurve, SetTempoPolicy
from fernbrook.core.mix.control import Control
from fernbrook.core.mix.curve import Curve
from fernbrook.core.mix.hand_over import HandOver
from fernbrook.core.mix.transition import Side, TempoPolicy
from fernbrook.demo.made_own import give_stems, own_commands
from fernbrook.demo.make import DemoTrack
from fernbrook.demo.preparation import prepare
from fernbrook.service.house import House

MIX = "Glasshouse Late"
UNTOUCHED = "Glasshouse Late (untouched)"


def install(house: House, tracks: list[DemoTrack], progress: Callable[[float], None]) -> bool:
    """Fill an empty library; returns False, and does nothing, where it holds tracks already.

    The tracks are analysed like any others.
    """
    if house.catalogue.tracks():
        return False
    ids = [house.library.bring_in_path(t.path).track.id for t in tracks]
    _wait(house, progress)
    prepare(house)
    give_stems(house, tracks, {t.song.title: i for t, i in zip(tracks, ids, strict=True)})
    house.mixes.change(*_started(house, UNTOUCHED), AddTracks(track_ids=tuple(ids)))
    _finished_mix(house, ids)
    return True


def _started(house: House, name: str) -> tuple[str, int]:
    opened = house.mixes.create(name)
    return opened.id, opened.version


def _wait(house: House, progress: Callable[[float], None]) -> None:
    """Until all tracks are analysed."""
    while True:
        listed = house.catalogue.tracks()
        open_shares = [t.job.progress for t in listed if t.job and t.is_waiting]
        progress((len(listed) - len(open_shares) + sum(open_shares)) / len(listed))
        if not open_shares:
            return
        time.sleep(0.2)


def _finished_mix(house: House, ids: list[str]) -> None:
    """All ten in the order of the night, each transition shaped, and some of it made our own."""
    opened = house.mixes.change(*_started(house, MIX), AddTracks(track_ids=tuple(ids)))
    entries = [e.entry.id for e in opened.plan.entries]
    for out_id, in_id in pairwise(entries):
        for command in _shaping(entries.index(in_id), out_id, in_id):
            opened = house.mixes.change(opened.id, opened.version, command)
    by_title = {e.track.title: e for e in opened.plan.entries}
    entry_ids = {title: e.entry.id for title, e in by_title.items()}
    for command in own_commands(entry_ids, {title: e.track.id for title, e in by_title.items()}):
        opened = house.mixes.change(opened.id, opened.version, command)


def _shaping(number: int, out_id: str, in_id: str) -> list[Command]:
    """The commands that shape the transition into the entry with this number in the order, counted from 0."""
    pair = {"out_id": out_id, "in_id": in_id}
    hand_over = HandOver.EVEN_BLEND if number in (2, 6) else HandOver.BASS
    if number == 8:
        return [ApplyHandOver(hand_over=HandOver.CLEAN_CUT, **pair)]
    commands: list[Command] = [ApplyHandOver(hand_over=hand_over, **pair)]
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
