"""Every change to a track by hand is one of these commands: a pure function ``(markup, command) -> markup``."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, ValidationError

from fernbrook.core.track import grid_edits
from fernbrook.core.track.cue import MOST_CUES, Cue, with_cues, without_cues
from fernbrook.core.track.edits import MOST_EDITS, Edit
from fernbrook.core.track.grid import MAX_BPM, MIN_BPM, Grid
from fernbrook.core.track.loop import MOST_LOOPS, Loop, with_loops, without_loops
from fernbrook.core.track.markup import MOST_TRIM_DB, Markup, MarkupError, with_grid
from fernbrook.core.track.section import Section, VoiceSpan, check_apart
from fernbrook.core.value import Beat, Seconds, Value, what_is_wrong
from fernbrook.core.value import Command as CommandValue


class Slide(CommandValue):
    """Move the whole grid in time."""

    kind: Literal["slide"] = "slide"
    by_s: float = Field(ge=-60.0, le=60.0)


class CountFrom(CommandValue):
    """Bar 1 starts at this beat."""

    kind: Literal["count_from"] = "count_from"
    beat: Beat


class FirstOfBar(CommandValue):
    """This beat is the first of its bar."""

    kind: Literal["first_of_bar"] = "first_of_bar"
    beat: Beat


class SetBeatsPerBar(CommandValue):
    """So many beats make a bar."""

    kind: Literal["set_beats_per_bar"] = "set_beats_per_bar"
    beats: int = Field(ge=2, le=12)


class SetTempo(CommandValue):
    """One tempo for the whole track, the line of ``about_beat`` held."""

    kind: Literal["set_tempo"] = "set_tempo"
    bpm: float = Field(ge=MIN_BPM, le=MAX_BPM)
    about_beat: Beat = 0.0


class ScaleTempo(CommandValue):
    """Halve or double the tempo, or change it by another simple ratio."""

    kind: Literal["scale_tempo"] = "scale_tempo"
    factor: float = Field(gt=0.0, le=4.0)


class RoundTempo(CommandValue):
    """The nearest whole tempo, the line of ``about_beat`` held."""

    kind: Literal["round_tempo"] = "round_tempo"
    about_beat: Beat = 0.0


class MoveLine(CommandValue):
    """Put the line of a beat at another moment, the anchors next to it held."""

    kind: Literal["move_line"] = "move_line"
    beat: Beat
    to_s: Seconds


class AddAnchor(CommandValue):
    """Hold the line of a beat where it is."""

    kind: Literal["add_anchor"] = "add_anchor"
    beat: Beat


class RemoveAnchor(CommandValue):
    """Let go of an anchor."""

    kind: Literal["remove_anchor"] = "remove_anchor"
    beat: Beat


class TempoFrom(CommandValue):
    """A new tempo from a beat on."""

    kind: Literal["tempo_from"] = "tempo_from"
    beat: Beat
    bpm: float = Field(ge=MIN_BPM, le=MAX_BPM)


class PutGrid(CommandValue):
    """Another grid altogether; ``why`` says where it comes from."""

    kind: Literal["put_grid"] = "put_grid"
    grid: Grid
    why: str = Field(default="set the grid", max_length=80)


class MarkChecked(CommandValue):
    """Say that the grid is right, or that it has still to be looked at."""

    kind: Literal["mark_checked"] = "mark_checked"
    checked: bool


class PutSections(CommandValue):
    """Sections, all of them anew: moved, renamed, split or joined."""

    kind: Literal["put_sections"] = "put_sections"
    sections: tuple[Section, ...] = Field(max_length=200)
    why: str = Field(default="change sections", max_length=80)


class PutVoice(CommandValue):
    """Voice spans, all of them anew."""

    kind: Literal["put_voice"] = "put_voice"
    voice: tuple[VoiceSpan, ...] = Field(max_length=500)
    why: str = Field(default="change voice spans", max_length=80)


class PutCues(CommandValue):
    """Cues put in, or others in the place of those with the same ids."""

    kind: Literal["put_cues"] = "put_cues"
    cues: tuple[Cue, ...] = Field(min_length=1, max_length=MOST_CUES)
    why: str = Field(default="set a cue", max_length=80)


class RemoveCues(CommandValue):
    """Take cues away."""

    kind: Literal["remove_cues"] = "remove_cues"
    ids: tuple[str, ...] = Field(min_length=1, max_length=MOST_CUES)


class PutLoops(CommandValue):
    """Loops put in, or others in the place of those with the same ids."""

    kind: Literal["put_loops"] = "put_loops"
    loops: tuple[Loop, ...] = Field(min_length=1, max_length=MOST_LOOPS)
    why: str = Field(default="set a loop", max_length=80)


class RemoveLoops(CommandValue):
    """Take loops away."""

    kind: Literal["remove_loops"] = "remove_loops"
    ids: tuple[str, ...] = Field(min_length=1, max_length=MOST_LOOPS)


class KeepEdits(CommandValue):
    """Keep edits with the track, so that they are offered wherever it is used; none forgets those that there are."""

    kind: Literal["keep_edits"] = "keep_edits"
    edits: tuple[Edit, ...] = Field(max_length=MOST_EDITS)


class SetTrim(CommandValue):
    """Play a track louder or softer than its loudness would have it."""

    kind: Literal["set_trim"] = "set_trim"
    db: float = Field(ge=-MOST_TRIM_DB, le=MOST_TRIM_DB)


GridCommand = (
    Slide | CountFrom | FirstOfBar | SetBeatsPerBar | SetTempo | ScaleTempo | RoundTempo | MoveLine | AddAnchor
    | RemoveAnchor | TempoFrom
)  # fmt: skip
MarkupCommand = Annotated[
    GridCommand
    | PutGrid
    | MarkChecked
    | PutSections
    | PutVoice
    | PutCues
    | RemoveCues
    | PutLoops
    | RemoveLoops
    | KeepEdits
    | SetTrim,
    Field(discriminator="kind"),
]


def apply(markup: Markup, command: MarkupCommand) -> Markup:
    """The track after a command.

    Raises
    ------
    MarkupError
        When the command cannot be done.
    """
    try:
        match command:
            case MarkChecked():
                if markup.grid is None:
                    raise MarkupError("There is no grid to check yet. Tap along, or set a tempo, first.")
                return markup.model_copy(update={"checked": command.checked})
            case PutSections():
                check_apart(command.sections)
                return markup.model_copy(update={"sections": command.sections})
            case PutVoice():
                check_apart(command.voice)
                return markup.model_copy(update={"voice": command.voice})
            case PutCues():
                return _few_enough(markup.model_copy(update={"cues": with_cues(markup.cues, command.cues)}))
            case RemoveCues():
                return markup.model_copy(update={"cues": without_cues(markup.cues, command.ids)})
            case PutLoops():
                return _few_enough(markup.model_copy(update={"loops": with_loops(markup.loops, command.loops)}))
            case RemoveLoops():
                return markup.model_copy(update={"loops": without_loops(markup.loops, command.ids)})
            case KeepEdits():
                return markup.model_copy(update={"kept": command.edits})
            case SetTrim():
                return markup.model_copy(update={"trim_db": command.db})
            case PutGrid():
                return with_grid(markup, command.grid)
            case SetTempo() if markup.grid is None:
                return with_grid(markup, Grid.constant(command.bpm, 0.0))
            case _:
                if markup.grid is None:
                    raise MarkupError("There is no grid yet. Tap along, or set a tempo, first.")
                return with_grid(markup, edited(markup.grid, command))
    except ValueError as error:
        words = what_is_wrong(error) if isinstance(error, ValidationError) else str(error)
        raise MarkupError(words) from error


def _few_enough(markup: Markup) -> Markup:
    """The markup, or the reason why it is too much."""
    if len(markup.cues) > MOST_CUES or len(markup.loops) > MOST_LOOPS:
        raise MarkupError(f"A track holds up to {MOST_CUES} cues and {MOST_LOOPS} loops. Remove some first.")
    return markup


def edited(grid: Grid, command: GridCommand) -> Grid:
    """The grid after a command."""
    match command:
        case Slide():
            return grid_edits.slide(grid, command.by_s)
        case CountFrom():
            return grid_edits.count_from(grid, command.beat)
        case FirstOfBar():
            return grid_edits.first_of_bar(grid, command.beat)
        case SetBeatsPerBar():
            return grid.model_copy(update={"beats_per_bar": command.beats})
        case SetTempo():
            return grid_edits.set_tempo(grid, command.bpm, command.about_beat)
        case ScaleTempo():
            return grid_edits.scale(grid, command.factor)
        case RoundTempo():
            return grid_edits.round_tempo(grid, command.about_beat)
        case MoveLine():
            return grid_edits.move_line(grid, command.beat, command.to_s)
        case AddAnchor():
            return grid_edits.add_anchor(grid, command.beat)
        case RemoveAnchor():
            return grid_edits.remove_anchor(grid, command.beat)
        case TempoFrom():
            return grid_edits.tempo_from(grid, command.beat, command.bpm)


def label_of(command: MarkupCommand) -> str:
    """What a command does, for undo and redo: ‘slide the grid by 10 ms’."""
    match command:
        case Slide():
            return f"slide the grid by {command.by_s * 1000.0:+.3g} ms"
        case SetTempo():
            return f"set the tempo to {command.bpm:g} BPM"
        case ScaleTempo():
            ratio = {2.0: "double the tempo", 0.5: "halve the tempo"}
            return ratio.get(command.factor, f"change the tempo {command.factor:.4g}-fold")
        case TempoFrom():
            return f"new tempo of {command.bpm:g} BPM from beat {command.beat:g}"
        case SetBeatsPerBar():
            return f"{command.beats} beats to the bar"
        case KeepEdits(edits=edits):
            return "keep edits with the track" if edits else "forget the edits that were kept"
        case SetTrim(db=db):
            return f"trim by {db:+g} dB"
        case RemoveCues(ids=ids):
            return "remove a cue" if len(ids) == 1 else f"remove {len(ids)} cues"
        case RemoveLoops(ids=ids):
            return "remove a loop" if len(ids) == 1 else f"remove {len(ids)} loops"
        case MarkChecked():
            return "mark as checked" if command.checked else "mark as not checked"
        case PutGrid() | PutSections() | PutVoice() | PutCues() | PutLoops():
            return command.why
        case _:
            return LABELS[type(command)]


LABELS: dict[type[Value], str] = {
    CountFrom: "bar 1 starts here",
    FirstOfBar: "first beat of the bar",
    RoundTempo: "round the tempo",
    MoveLine: "move a line",
    AddAnchor: "add an anchor",
    RemoveAnchor: "remove an anchor",
}
