"""Changes to the grid of a track."""

from __future__ import annotations

from abc import abstractmethod
from typing import Literal

from pydantic import Field
from typing_extensions import override

from fernbrook.core.track import grid_edits
from fernbrook.core.track.commands.command import MarkupCommand
from fernbrook.core.track.grid import MAX_BPM, MIN_BPM, MOST_BEATS_A_BAR, Grid
from fernbrook.core.track.markup import Markup, MarkupError, with_grid
from fernbrook.core.value import Beat, Seconds


class GridCommand(MarkupCommand):
    """A change to the grid that there is."""

    @abstractmethod
    def edit(self, grid: Grid) -> Grid:
        """The grid after it."""

    @override
    def rule(self, markup: Markup) -> Markup:
        if markup.grid is None:
            raise MarkupError("No grid yet. Tap along, or set a tempo, first.")
        return with_grid(markup, self.edit(markup.grid))


class Slide(GridCommand):
    """Move the whole grid in time."""

    kind: Literal["slide"] = "slide"
    by_s: float = Field(ge=-60.0, le=60.0)

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.slide(grid, self.by_s)

    @override
    def words(self) -> str:
        return f"slide the grid by {self.by_s * 1000.0:+.3g} ms"


class CountFrom(GridCommand):
    """Bar 1 starts at this beat."""

    kind: Literal["count_from"] = "count_from"
    beat: Beat

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.count_from(grid, self.beat)

    @override
    def words(self) -> str:
        return "bar 1 starts here"


class FirstOfBar(GridCommand):
    """This beat is the first of its bar."""

    kind: Literal["first_of_bar"] = "first_of_bar"
    beat: Beat

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.first_of_bar(grid, self.beat)

    @override
    def words(self) -> str:
        return "first beat of the bar"


class SetBeatsPerBar(GridCommand):
    """So many beats make a bar, between the places around ``about_beat`` at which bars start again."""

    kind: Literal["set_beats_per_bar"] = "set_beats_per_bar"
    beats: int = Field(ge=2, le=MOST_BEATS_A_BAR)
    about_beat: Beat = 0.0

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.set_beats_per_bar(grid, self.beats, self.about_beat)

    @override
    def words(self) -> str:
        return f"{self.beats} beats to the bar"


class BarsBegin(GridCommand):
    """Bars start again on this beat, and have so many beats from here on."""

    kind: Literal["bars_begin"] = "bars_begin"
    beat: Beat
    beats: int = Field(ge=2, le=MOST_BEATS_A_BAR)

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.bars_from(grid, self.beat, self.beats)

    @override
    def words(self) -> str:
        return f"bars of {self.beats} beats from here on"


class BarsGoOn(GridCommand):
    """Bars no longer start again on this beat."""

    kind: Literal["bars_go_on"] = "bars_go_on"
    beat: Beat

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.bars_on(grid, self.beat)

    @override
    def words(self) -> str:
        return "bars go on counting here"


class SetTempo(GridCommand):
    """One tempo for the whole track, the line of ``about_beat`` held."""

    kind: Literal["set_tempo"] = "set_tempo"
    bpm: float = Field(ge=MIN_BPM, le=MAX_BPM)
    about_beat: Beat = 0.0

    @override
    def rule(self, markup: Markup) -> Markup:
        first = Grid.constant(self.bpm, 0.0)
        return with_grid(markup, first) if markup.grid is None else super().rule(markup)

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.set_tempo(grid, self.bpm, self.about_beat)

    @override
    def words(self) -> str:
        return f"set the tempo to {self.bpm:g} BPM"


class ScaleTempo(GridCommand):
    """Halve or double the tempo, or change it by another simple ratio."""

    kind: Literal["scale_tempo"] = "scale_tempo"
    factor: float = Field(gt=0.0, le=4.0)

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.scale(grid, self.factor)

    @override
    def words(self) -> str:
        ratio = {2.0: "double the tempo", 0.5: "halve the tempo"}
        return ratio.get(self.factor, f"change the tempo {self.factor:.4g}-fold")


class ScaleFrom(GridCommand):
    """The same from a beat on: half or twice as many beats to the end."""

    kind: Literal["scale_from"] = "scale_from"
    beat: Beat
    factor: float = Field(gt=0.0, le=4.0)

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.scale_from(grid, self.beat, self.factor)

    @override
    def words(self) -> str:
        ratio = {2.0: "double the tempo from here on", 0.5: "halve the tempo from here on"}
        return ratio.get(self.factor, f"change the tempo {self.factor:.4g}-fold from here on")


class RoundTempo(GridCommand):
    """The nearest whole tempo, the line of ``about_beat`` held."""

    kind: Literal["round_tempo"] = "round_tempo"
    about_beat: Beat = 0.0

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.round_tempo(grid, self.about_beat)

    @override
    def words(self) -> str:
        return "round the tempo"


class MoveLine(GridCommand):
    """Put the line of a beat at another moment, the anchors next to it held."""

    kind: Literal["move_line"] = "move_line"
    beat: Beat
    to_s: Seconds

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.move_line(grid, self.beat, self.to_s)

    @override
    def words(self) -> str:
        return "move a line"


class AddAnchor(GridCommand):
    """Hold the line of a beat where it is."""

    kind: Literal["add_anchor"] = "add_anchor"
    beat: Beat

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.add_anchor(grid, self.beat)

    @override
    def words(self) -> str:
        return "add an anchor"


class RemoveAnchor(GridCommand):
    """Let go of an anchor."""

    kind: Literal["remove_anchor"] = "remove_anchor"
    beat: Beat

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.remove_anchor(grid, self.beat)

    @override
    def words(self) -> str:
        return "remove an anchor"


class FromHere(GridCommand):
    """Something new from a beat on. Its line is put where it begins, ``at_s``, unless it lies there already."""

    beat: Beat
    at_s: Seconds | None = None

    def begun(self, grid: Grid) -> Grid:
        """The grid with the line where the new begins."""
        return grid if self.at_s is None else grid_edits.begin_at(grid, self.beat, self.at_s)


class TempoFrom(FromHere):
    """A new tempo from a beat on."""

    kind: Literal["tempo_from"] = "tempo_from"
    bpm: float = Field(ge=MIN_BPM, le=MAX_BPM)

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.tempo_from(self.begun(grid), self.beat, self.bpm)

    @override
    def words(self) -> str:
        return f"new tempo of {self.bpm:g} BPM from here on"


class RampFrom(FromHere):
    """From a beat on, over so many beats, to a tempo that then holds."""

    kind: Literal["ramp_from"] = "ramp_from"
    beats: float = Field(gt=0.0, le=4096.0)
    bpm: float = Field(ge=MIN_BPM, le=MAX_BPM)

    @override
    def edit(self, grid: Grid) -> Grid:
        return grid_edits.ramp_from(self.begun(grid), self.beat, self.beats, self.bpm)

    @override
    def words(self) -> str:
        return f"ramp to {self.bpm:g} BPM over {self.beats:g} beats"


class PutGrid(MarkupCommand):
    """Another grid altogether; ``why`` says where it comes from."""

    kind: Literal["put_grid"] = "put_grid"
    grid: Grid
    why: str = Field(default="set the grid", max_length=80)

    @override
    def rule(self, markup: Markup) -> Markup:
        return with_grid(markup, self.grid)

    @override
    def words(self) -> str:
        return self.why


class MarkChecked(MarkupCommand):
    """Say that the grid is right, or that it has still to be looked at."""

    kind: Literal["mark_checked"] = "mark_checked"
    checked: bool

    @override
    def rule(self, markup: Markup) -> Markup:
        if markup.grid is None:
            raise MarkupError("There is no grid to check yet. Tap along, or set a tempo, first.")
        return markup.model_copy(update={"checked": self.checked})

    @override
    def words(self) -> str:
        return "mark as checked" if self.checked else "mark as not checked"
