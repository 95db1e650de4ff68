"""Which beats of an entry begin a bar."""

from __future__ import annotations

from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.core.track import BarLines


class BarLinesOut(ApiModel):
    """Bars as a function of the entry's beats, linear between ``knots``; bar ``numbers`` begin there. ``before`` and
    ``after`` are how many beats a bar has outside them, with the bars ``phrases`` phrases start again."""

    knots: list[float]
    numbers: list[float]
    before: float
    after: float
    phrases: list[float]

    @classmethod
    def of(cls, lines: BarLines) -> BarLinesOut | None:
        """The answer for bar lines; None where all bars have one length and the first begins with beat 0."""
        if len(lines.knots) == 1 and lines.knots[0] == 0.0 and lines.before == lines.after:
            return None
        return cls(
            knots=lines.knots.tolist(),
            numbers=lines.numbers.tolist(),
            before=lines.before,
            after=lines.after,
            phrases=lines.phrases.tolist(),
        )
