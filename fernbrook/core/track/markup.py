"""What is known of a track and may be changed by hand: its grid, its sections, where a voice is heard.

Every change is a small command and a pure function ``(markup, command) -> markup``, as for mixes.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from enum import StrEnum
from typing import Annotated, Literal, TypeVar

from pydantic import Field

from fernbrook.core.track import grid_edits
from fernbrook.core.track.grid import MAX_BPM, MIN_BPM, Grid
from fernbrook.core.track.section import Section, VoiceSpan, check_apart
from fernbrook.core.value import Beat, Seconds, Value
from fernbrook.core.value import Command as CommandValue
from fernbrook.errors import RefusedError

Span = TypeVar("Span", Section, VoiceSpan)


class Markup(Value):
    """``by_hand`` once the user has changed the grid, ``checked`` once they have said that it is right."""

    grid: Grid | None = None
    sections: tuple[Section, ...] = ()
    voice: tuple[VoiceSpan, ...] = ()
    by_hand: bool = False
    checked: bool = False


class MarkupError(RefusedError):
    """The command cannot be done to this track; the message says why and what would do."""


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


GridCommand = (
    Slide | CountFrom | FirstOfBar | SetBeatsPerBar | SetTempo | ScaleTempo | RoundTempo | MoveLine | AddAnchor
    | RemoveAnchor | TempoFrom
)  # fmt: skip
MarkupCommand = Annotated[
    GridCommand | PutGrid | MarkChecked | PutSections | PutVoice,
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
            case PutGrid():
                return with_grid(markup, command.grid)
            case SetTempo() if markup.grid is None:
                return with_grid(markup, Grid.constant(command.bpm, 0.0))
            case _:
                if markup.grid is None:
                    raise MarkupError("There is no grid yet. Tap along, or set a tempo, first.")
                return with_grid(markup, edited(markup.grid, command))
    except ValueError as error:
        raise MarkupError(str(error)) from error


def with_grid(markup: Markup, grid: Grid) -> Markup:
    """The track with a grid set by hand; sections and voice spans stay where they sound."""
    if grid == markup.grid:
        return markup
    return recounted(markup, grid).model_copy(update={"grid": grid, "by_hand": True, "checked": False})


def recounted(markup: Markup, grid: Grid) -> Markup:
    """What is counted in beats, counted in those of another grid at the same moments."""
    old = markup.grid
    if old is None:
        return markup

    def beat(value: float) -> float:
        return float(grid.beat_at(old.time_at(value)))

    return markup.model_copy(update={f.value: _recounted(getattr(markup, f), beat, f in ON_LINES) for f in COUNTED})


def _recounted(spans: Sequence[Span], beat: Callable[[float], float], on_lines: bool) -> tuple[Span, ...]:
    """Spans at other beats. Those that lie on lines keep to them, and last at least a beat."""

    def moved(span: Span) -> Span:
        start, end = beat(span.start), beat(span.end)
        if on_lines:
            start, end = _line_near(start), _line_near(end)
            end = max(end, start + 1.0)
        return span.model_copy(update={"start": start, "end": end})

    return tuple(moved(span) for span in spans)


def _line_near(beat: float) -> float:
    """The line that a beat lies near to, else the beat itself."""
    return float(round(beat)) if abs(beat - round(beat)) < 0.25 else beat


class Facet(StrEnum):
    """A part of the markup that can be taken from the analysis by itself; its value names the field."""

    GRID = "grid"
    SECTIONS = "sections"
    VOICE = "voice"


COUNTED = (Facet.SECTIONS, Facet.VOICE)
"""The facets that hold spans counted in beats of the grid. A new one is named in ``Markup``, ``Facet``, and here."""
ON_LINES = frozenset({Facet.SECTIONS})
"""Those whose spans begin and end on beats."""
AS_ANALYSED = {
    Facet.GRID: "back to the analysed grid",
    Facet.SECTIONS: "sections as analysed",
    Facet.VOICE: "voice spans as analysed",
}
"""What taking a facet from the analysis is called in the history."""


def as_found(markup: Markup, found: Markup, facet: Facet) -> Markup:
    """One facet as the analysis found it; the others stay where they sound.

    Raises
    ------
    MarkupError
        When the analysis found no grid to count by.
    """
    if found.grid is None:
        raise MarkupError("The analysis found no grid to go back to.")
    if facet is Facet.GRID:
        counted = recounted(markup, found.grid) if markup.grid else found
        return counted.model_copy(update={"grid": found.grid, "by_hand": False, "checked": False})
    here = recounted(found, markup.grid or found.grid)
    return markup.model_copy(update={facet.value: getattr(here, facet)})


def analysed_again(markup: Markup, before: Markup, found: Markup) -> Markup:
    """What a newer analysis found, but for what was changed by hand since the one before.

    A grid that was changed or checked stays, and so does each facet that is not as ``before``.
    """
    grid_stays = markup.by_hand or markup.checked
    if markup.grid is None or found.grid is None:
        return markup if grid_stays else found
    grid = markup.grid if grid_stays else found.grid
    was, new, mine = (recounted(m, grid) for m in (before, found, markup))
    merged = {f.value: getattr(mine if getattr(mine, f) != getattr(was, f) else new, f) for f in COUNTED}
    return (markup if grid_stays else found).model_copy(update={"grid": grid, **merged})


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
        case MarkChecked():
            return "mark as checked" if command.checked else "mark as not checked"
        case PutGrid() | PutSections() | PutVoice():
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
