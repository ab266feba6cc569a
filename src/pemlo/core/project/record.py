"""What all parts of the document share: frozen, checked, and keeping what a newer program wrote into them.

Also turns the checker's findings into sentences. May import errors only, of Pemlo.
"""

from collections.abc import Mapping
from typing import Any, Self, TypeVar

from pydantic import BaseModel, ConfigDict, ValidationError

from pemlo.core.errors import InputError, Problem

R = TypeVar("R", bound=BaseModel)


class Record(BaseModel):
    """A frozen part of the document. Unknown fields are kept and written back."""

    # Built when first used: the window comes up before most of them are.
    model_config = ConfigDict(
        frozen=True, extra="allow", allow_inf_nan=False, str_strip_whitespace=True, defer_build=True
    )

    def replace(self, **fields: Any) -> Self:  # noqa: ANN401 - whatever the fields hold is checked here
        """Return a copy with other values in some fields, checked like new.

        Raises
        ------
        InputError
            If a value is not allowed.
        """
        return build(type(self), {**dict(self), **fields}, "")


def build(kind: type[R], values: Mapping[str, Any], where: str, names: Mapping[str, str] | None = None) -> R:
    """Make a record from plain values.

    Parameters
    ----------
    kind : type
        Which record.
    values : mapping
        Field names to values.
    where : str
        What the values are, as the first words of each message: ``Shot 040``.
    names : mapping of str to str, optional
        What messages call some of the fields; the others go by their own names.

    Raises
    ------
    InputError
        With one problem for each wrong value.
    """
    try:
        return kind.model_validate(values)
    except ValidationError as error:
        raise InputError(explain(error, where, names)) from error


def explain(error: ValidationError, where: str = "", names: Mapping[str, str] | None = None) -> tuple[Problem, ...]:
    """Turn a checker's error into problems that say where and what."""
    return tuple(
        Problem(_place(found["loc"], where, names or {}), _sentence(found["type"], found["msg"], found.get("ctx", {})))
        for found in error.errors(include_url=False, include_input=False)
    )


def _place(location: tuple[int | str, ...], where: str, names: Mapping[str, str]) -> str:
    words = [
        f"number {part + 1}" if isinstance(part, int) else names.get(part, part.replace("_", " ")) for part in location
    ]
    return ", ".join([where, *words] if where else words)


def _sentence(kind: str, message: str, context: Mapping[str, Any]) -> str:
    if kind == "value_error":
        return message.removeprefix("Value error, ")
    limits = {
        "greater_than": "must be more than {gt}",
        "greater_than_equal": "must be {ge} or more",
        "less_than": "must be less than {lt}",
        "less_than_equal": "must be {le} or less",
        "missing": "is missing",
        "finite_number": "must be a number, not infinity or “not a number”",
        "string_too_short": "is empty",
        "string_too_long": "is longer than {max_length} letters",
        "too_long": "has more than {max_length} entries",
        "literal_error": "must be {expected}",
    }
    if kind in limits:
        return limits[kind].format(**context)
    kinds = {
        "int_": "must be a whole number",
        "float_": "must be a number",
        "string_": "must be text",
        "datetime_": "must be a date and time like 2031-04-24T18:00",
        "date_": "must be a date like 2031-04-24",
        "timezone_": "must have a time zone",
    }
    for part, words in kinds.items():
        if kind.startswith(part):
            return words
    return message[:1].lower() + message[1:]
