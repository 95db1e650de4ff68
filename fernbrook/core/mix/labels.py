"""What a command is called in the history: 'Undo: move the mix-in of Heliconia'."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.hand_over import READY, HandOver
from fernbrook.core.mix.layer import MADE_SOUNDS, Layer, Made
from fernbrook.core.mix.mix import Mix
from fernbrook.core.mix.saved_hand_over import SavedHandOver
from fernbrook.core.mix.transition import Kind, Side
from fernbrook.core.track.edits import DropOut, Edit, Repeat, Skip, Swap
from fernbrook.core.track.facts import TrackFacts

KINDS = {Kind.BLEND: "blend", Kind.CUT: "cut", Kind.FADE: "fade", Kind.APART: "pause"}


def label_of(command: c.Command, mix: Mix, tracks: Mapping[str, TrackFacts]) -> str:
    """A few words on what the command does to the mix, with the titles of the tracks concerned."""

    def title(entry_id: str) -> str:
        index = mix.index_of(entry_id)
        track = tracks.get(mix.entries[index].track_id) if index is not None else None
        return f"‘{track.title}’" if track else "an entry"

    def some(entry_ids: tuple[str, ...]) -> str:
        return title(entry_ids[0]) if len(entry_ids) == 1 else f"{len(entry_ids)} entries"

    match command:
        case c.RenameMix():
            return "rename the mix"
        case c.SetTarget():
            return "set the target loudness"
        case c.SetLoudness():
            return "choose what is equally loud"
        case c.SetLimiting(db=db):
            return f"allow {db:g} dB of limiting"
        case c.AddTracks(track_ids=ids):
            first = tracks.get(ids[0])
            return f"add ‘{first.title}’" if len(ids) == 1 and first else f"add {len(ids)} tracks"
        case c.RemoveEntries(entry_ids=ids):
            return f"take out {some(ids)}"
        case c.MoveEntries(entry_ids=ids):
            return f"move {some(ids)} in the order"
        case c.DuplicateEntries(entry_ids=ids):
            return f"put in {some(ids)} once more"
        case c.ReplaceTrack(entry_id=entry, track_id=track):
            return f"replace {title(entry)} by ‘{tracks[track].title}’" if track in tracks else "replace a track"
        case c.KeepTogether(entry_ids=ids, together=together):
            return f"keep {some(ids)} together" if together else f"let {some(ids)} go"
        case c.FixEntry(entry_id=entry, place=None):
            return f"let {title(entry)} go"
        case c.FixEntry(entry_id=entry):
            return f"fix the place of {title(entry)}"
        case c.SortEntries(by=by):
            return f"sort by {by.value}"
        case c.PutPair(out=out, into=into):
            names = [tracks[e.track_id].title if e.track_id in tracks else "a track" for e in (out, into)]
            return f"put in ‘{names[0]}’ → ‘{names[1]}’ as tried"
        case c.UseOrder():
            return "use another order"
        case c.SetGain(entry_id=entry):
            return f"set the gain of {title(entry)}"
        case c.SetKeyLock(entry_id=entry, key_lock=on):
            return f"switch key lock {'on' if on else 'off'} for {title(entry)}"
        case c.SetKeyShift(entry_id=entry, semitones=semitones):
            shift = f"{semitones:+d}".replace("-", "−") if semitones else "back"
            return f"shift the key of {title(entry)} {shift}"
        case c.SetHomeTempo(entry_id=entry):
            return f"set the tempo of {title(entry)}"
        case c.SetCount(entry_id=entry):
            return f"set the count of {title(entry)}"
        case c.PutEdits(entry_id=entry, edits=edits):
            what = {edit_words(e) for e in edits}
            return f"{what.pop() if len(what) == 1 else 'edit'} {title(entry)}"
        case c.EditEntries(entries=ones):
            return f"edit {some(tuple(one.entry_id for one in ones))}"
        case c.RemoveEdits(entry_id=entry, ids=ids):
            return f"take {'all edits' if ids is None or len(ids) > 1 else 'an edit'} of {title(entry)} back"
        case c.PlayAsRecorded(entry_id=entry, as_recorded=on):
            return f"play {title(entry)} {'as recorded' if on else 'with its edits'}"
        case c.CopyEdits(entry_id=entry, to_ids=ids):
            return f"copy the edits of {title(entry)} to {some(ids)}"
        case c.PutLayers(layers=layers):
            known = {x.id for x in mix.layers}
            doing = "change" if all(x.id in known for x in layers) else "lay"
            return f"{doing} {layer_words(layers[0], tracks) if len(layers) == 1 else f'{len(layers)} layers'}"
        case c.RemoveLayers(ids=ids):
            gone = [layer_words(x, tracks) for x in mix.layers if x.id in ids]
            return f"take {gone[0] if len(gone) == 1 else f'{len(ids)} layers'} away"
        case c.HoldTempo(bpm=bpm, entry_ids=ids):
            whose = "the whole mix" if ids is None else some(ids)
            return f"play {whose} at {bpm:g} BPM" if bpm else f"give {whose} its own tempo"
        case c.SetTempoMarks():
            return "set the tempo by hand"
        case c.MarkAsMeant(meant=meant):
            return f"mark a snag as {'meant' if meant else 'not meant'}"
        case c.SetCrossovers():
            return "set the equaliser's bands"
        case c.SetUntouched():
            return "choose what an untouched transition is"
        case c.SettlePlaces(anew=anew):
            return f"{'place anew' if anew else 'leave as they are'} what nobody shaped"
        case c.ResetTransition():
            return f"reset the transition into {title(command.in_id)}"
        case _:
            return _of_transitions(command, title)


def _of_transitions(command: c.Command, title: Callable[[str], str]) -> str:
    """The same of a command on transitions."""
    match command:
        case c.PlaceTransition():
            return f"{_placing(command)} {title(command.in_id)}"
        case c.SetTempoPolicy():
            return f"set the tempo into {title(command.in_id)}"
        case c.UseProposal():
            return f"use a proposal into {title(command.in_id)}"
        case c.SetKind(to=to):
            return f"{KINDS[to]} into {title(command.in_id)}"
        case c.SetNudge():
            return f"move {title(command.in_id)} by milliseconds"
        case c.SetCurve(side=side, control=control):
            whose = title(command.out_id if side is Side.OUTGOING else command.in_id)
            return f"shape the {control} of {whose}"
        case c.RecordRide(side=side, control=control):
            whose = title(command.out_id if side is Side.OUTGOING else command.in_id)
            return f"ride the {control} of {whose}"
        case c.SetCurves() | c.SetVolumeLaw():
            return f"shape the transition into {title(command.in_id)}"
        case c.SetEffects():
            return f"set the effects into {title(command.in_id)}"
        case c.SetBreath(beats=beats):
            return f"{'put back' if beats == 0 else 'leave out'} the beats before {title(command.in_id)}"
        case c.ApplyHandOver(hand_over=hand_over):
            return f"use the {_named(hand_over)} into {title(command.in_id)}"
        case c.ShapeTransitions(hand_over=hand_over, pairs=pairs):
            return f"use the {_named(hand_over)} for {'all' if pairs is None else len(pairs)} transitions"
        case c.KeepTake():
            return f"keep a take into {title(command.in_id)}"
        case c.UseTake(number=number):
            return f"use take {number} into {title(command.in_id)}"
        case c.DescribeTake(number=number):
            return f"describe take {number} into {title(command.in_id)}"
        case c.DropTake(number=number):
            return f"forget take {number} into {title(command.in_id)}"
        case _:
            raise TypeError(f"a command without words: {type(command).__name__}")


def layer_words(layer: Layer, tracks: Mapping[str, TrackFacts]) -> str:
    """What a layer is called: by the name that it was given, else by what it is."""
    if layer.name:
        return f"‘{layer.name}’"
    if isinstance(layer.sound, Made):
        return f"a {MADE_SOUNDS[layer.sound.sound].label.lower()}"
    track = tracks.get(layer.sound.track_id)
    whose = f"‘{track.title}’" if track else "a track"
    return f"{layer.sound.stem.value} of {whose}" if layer.sound.stem else f"a part of {whose}"


def edit_words(edit: Edit) -> str:
    """What an edit does, in words before the title of a track."""
    if not edit.on:
        return "let an edit wait of"
    match edit:
        case Skip():
            return "leave out a part of"
        case Repeat():
            return "repeat a part of"
        case Swap():
            return "swap parts of"
        case DropOut(stems=stems):
            return f"drop {' and '.join(s.value for s in stems) or 'all'} of a part of"


def _named(hand_over: HandOver | SavedHandOver) -> str:
    return f"‘{hand_over.name}’" if isinstance(hand_over, SavedHandOver) else READY[hand_over].label.lower()


def _placing(command: c.PlaceTransition) -> str:
    changed = [n for n in ("out_at", "in_at", "beats", "lead", "seconds") if getattr(command, n) is not None]
    if changed == ["in_at"]:
        return "move the mix-in of"
    if changed == ["out_at"]:
        return "move the mix-out before"
    if changed in (["beats"], ["lead"], ["seconds"]):
        return "change the length of the transition into"
    return "move the transition into"
