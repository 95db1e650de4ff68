"""The base of all immutable values that are stored as JSON, and the bounds of the numbers in them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Annotated, Any, Self, Union

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

MOST_BEATS = 1e6
"""Four hours at 400 BPM are a tenth of this."""
MOST_SECONDS = 1e5

Beat = Annotated[float, Field(ge=-MOST_BEATS, le=MOST_BEATS)]
"""A place in beats. What lies beyond is no place in any music, and arithmetic with it would lose the beats."""
Seconds = Annotated[float, Field(ge=-MOST_SECONDS, le=MOST_SECONDS)]
"""A moment or a length in seconds; a little over a day at most."""


FIRST_YEAR, LAST_YEAR = 1970, 2999


def _when(moment: datetime) -> datetime:
    """A moment with its zone, UTC where none is said, that can be reckoned with in any other."""
    if not FIRST_YEAR <= moment.year <= LAST_YEAR:
        raise ValueError(f"the year {moment.year} is no year of a mix")
    return moment if moment.tzinfo else moment.replace(tzinfo=UTC)


When = Annotated[datetime, AfterValidator(_when)]
"""A moment of the calendar that comes from elsewhere."""


def _says_which_it_is(schema: dict[str, Any]) -> None:
    """JSON must have the field by which a value is told from the others of its union, though code need not give it."""
    told_by = [name for name, field in schema.get("properties", {}).items() if "const" in field]
    if told_by:
        schema["required"] = list(dict.fromkeys([*told_by, *schema.get("required", [])]))


class Value(BaseModel):
    """A frozen, strictly shaped value: unknown fields and infinities are refused, equality is by content."""

    model_config = ConfigDict(
        frozen=True,
        extra="forbid",
        allow_inf_nan=False,
        json_schema_serialization_defaults_required=True,
        json_schema_extra=_says_which_it_is,
    )

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy with some fields changed. What the original had computed and kept of itself is not taken along."""
        copied = super().model_copy(update=update, deep=deep)
        for name in set(copied.__dict__) - set(type(self).model_fields):
            del copied.__dict__[name]
        return copied

    def __eq__(self, other: object) -> bool:
        """Whether the fields are equal; what the values have computed and kept of themselves does not count."""
        if type(self) is not type(other):
            return NotImplemented
        return all(getattr(self, name) == getattr(other, name) for name in type(self).model_fields)

    def __hash__(self) -> int:
        return hash((type(self), *(getattr(self, name) for name in type(self).model_fields)))


def what_is_wrong(error: ValidationError) -> str:
    """What is wrong with a value that came from elsewhere, in one sentence without its end: the words of our own rules,
    else the place of what is missing or cannot be, and what it should be.

    >>> class Ends(Value):
    ...     at: tuple[float, ...]
    >>> try: Ends.model_validate({"at": [0.0, "soon"]})
    ... except ValidationError as error: what_is_wrong(error)
    'number 2 of ‘at’ should be a valid number, unable to parse string as a number'
    """
    first = error.errors()[0]
    if first["type"] == "value_error":
        return str(first["msg"]).removeprefix("Value error, ")
    if first["type"] == "json_invalid":
        return "it is no whole JSON"
    place = _place(first["loc"])
    if first["type"] == "missing":
        return f"{place} is missing"
    said = str(first["msg"])
    return f"{place} {said.removeprefix('Input ')}" if said.startswith("Input should") else f"{place} cannot be so"


def _place(parts: Sequence[int | str]) -> str:
    """Where something stands, from the inside out."""
    named = [f"number {part + 1}" if isinstance(part, int) else f"‘{part[:60]}’" for part in reversed(parts)]
    return " of ".join(named[:4]) or "it"


class Command(Value):
    """The base of all commands: each has a ``kind`` by which it is told from the others in JSON."""


def one_of_all(base: type[Command], *namespaces: Mapping[str, object]) -> object:
    """The union of all commands of a base that some modules hold; what only sorts them has no ``kind`` and is none."""
    held = [x for names in namespaces for x in names.values() if isinstance(x, type) and issubclass(x, base)]
    return Union[tuple(dict.fromkeys(x for x in held if "kind" in x.model_fields))]  # noqa: UP007 - found out, not written
