"""Changes to what is marked on a track: its sections, voice spans, cues and loops."""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from fernbrook.core.track.commands.command import MarkupCommand
from fernbrook.core.track.cue import MOST_CUES, Cue, with_cues, without_cues
from fernbrook.core.track.loop import MOST_LOOPS, Loop, with_loops, without_loops
from fernbrook.core.track.markup import Markup, MarkupError
from fernbrook.core.track.section import Section, VoiceSpan, check_apart


class PutSections(MarkupCommand):
    """Sections, all of them again: moved, renamed, split or joined."""

    kind: Literal["put_sections"] = "put_sections"
    sections: tuple[Section, ...] = Field(max_length=200)
    why: str = Field(default="change sections", max_length=80)

    @override
    def rule(self, markup: Markup) -> Markup:
        check_apart(self.sections)
        return markup.model_copy(update={"sections": self.sections})

    @override
    def words(self) -> str:
        return self.why


class PutVoice(MarkupCommand):
    """Voice spans, all of them again."""

    kind: Literal["put_voice"] = "put_voice"
    voice: tuple[VoiceSpan, ...] = Field(max_length=500)
    why: str = Field(default="change voice spans", max_length=80)

    @override
    def rule(self, markup: Markup) -> Markup:
        check_apart(self.voice)
        return markup.model_copy(update={"voice": self.voice})

    @override
    def words(self) -> str:
        return self.why


class PutCues(MarkupCommand):
    """Cues put in, or others in the place of those with the same ids."""

    kind: Literal["put_cues"] = "put_cues"
    cues: tuple[Cue, ...] = Field(min_length=1, max_length=MOST_CUES)
    why: str = Field(default="set a cue", max_length=80)

    @override
    def rule(self, markup: Markup) -> Markup:
        return _few_enough(markup.model_copy(update={"cues": with_cues(markup.cues, self.cues)}))

    @override
    def words(self) -> str:
        return self.why


class RemoveCues(MarkupCommand):
    """Take cues away."""

    kind: Literal["remove_cues"] = "remove_cues"
    ids: tuple[str, ...] = Field(min_length=1, max_length=MOST_CUES)

    @override
    def rule(self, markup: Markup) -> Markup:
        return markup.model_copy(update={"cues": without_cues(markup.cues, self.ids)})

    @override
    def words(self) -> str:
        return "remove a cue" if len(self.ids) == 1 else f"remove {len(self.ids)} cues"


class PutLoops(MarkupCommand):
    """Loops put in, or others in the place of those with the same ids."""

    kind: Literal["put_loops"] = "put_loops"
    loops: tuple[Loop, ...] = Field(min_length=1, max_length=MOST_LOOPS)
    why: str = Field(default="set a loop", max_length=80)

    @override
    def rule(self, markup: Markup) -> Markup:
        return _few_enough(markup.model_copy(update={"loops": with_loops(markup.loops, self.loops)}))

    @override
    def words(self) -> str:
        return self.why


class RemoveLoops(MarkupCommand):
    """Take loops away."""

    kind: Literal["remove_loops"] = "remove_loops"
    ids: tuple[str, ...] = Field(min_length=1, max_length=MOST_LOOPS)

    @override
    def rule(self, markup: Markup) -> Markup:
        return markup.model_copy(update={"loops": without_loops(markup.loops, self.ids)})

    @override
    def words(self) -> str:
        return "remove a loop" if len(self.ids) == 1 else f"remove {len(self.ids)} loops"


def _few_enough(markup: Markup) -> Markup:
    """The markup, or the reason why it is too much."""
    if len(markup.cues) > MOST_CUES or len(markup.loops) > MOST_LOOPS:
        raise MarkupError(f"A track holds up to {MOST_CUES} cues and {MOST_LOOPS} loops. Remove some first.")
    return markup
