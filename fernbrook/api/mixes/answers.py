"""How a change of a mix is answered: by what it changed, where the page says which answer it has."""

from __future__ import annotations

from fastapi import Response

from fernbrook.api.schemas.mix_change import MixChange
from fernbrook.api.schemas.mixes import MixOut
from fernbrook.kept import KeptValues
from fernbrook.service.mixes import OpenMix

ANSWERS_KEPT = 48
Changed = MixOut | MixChange

_answers: KeptValues[str, MixOut] = KeptValues(ANSWERS_KEPT)


def whole(opened: OpenMix) -> MixOut:
    """The answer for a mix as it stands; it is at hand for a while, so that a change can be told against it."""
    answer = MixOut.of(opened)
    _answers.put(answer.tag, answer)
    return answer


def changed(opened: OpenMix, have: str | None) -> Response:
    """The answer for a mix after a change: all of it, or what is otherwise than in the answer ``have``."""
    after = whole(opened)
    before = _answers.get(have) if have is not None else None
    told = after if before is None or before.id != after.id else MixChange.of(before, after)
    return Response(told.model_dump_json(), media_type="application/json")
