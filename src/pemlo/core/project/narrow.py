"""What a computation gets of a record, and no more: quick to make again after every edit. Any thread.

An edit leaves almost all records the same objects. What was narrowed of one is kept as long as the record lives, and
what comes out equal to the last time *is* the last one: then comparing it costs nothing, all the way up.
"""

import weakref
from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Any, Concatenate, ParamSpec, TypeVar, dataclass_transform

from pemlo.core.project.record import Record

R = TypeVar("R", bound=Record)
K = TypeVar("K")
P = ParamSpec("P")
V = TypeVar("V")


def narrowing(make: Callable[Concatenate[K, P], V]) -> Callable[Concatenate[K, P], V]:
    """Keep what is made of a record for as long as the record lives; further arguments are compared by value."""
    made: dict[int, tuple[weakref.ref[K], object, V]] = {}

    @wraps(make)
    def kept(record: K, /, *more: P.args, **named: P.kwargs) -> V:
        entry = made.get(id(record))
        if entry is not None and entry[0]() is record and entry[1] == (more, named):
            return entry[2]
        value = make(record, *more, **named)

        def forget(gone: weakref.ref[K], place: int = id(record)) -> None:
            if (late := made.get(place)) is not None and late[0] is gone:
                del made[place]

        made[id(record)] = weakref.ref(record, forget), (more, named), value
        return value

    return kept


def same_as_last(make: Callable[P, V]) -> Callable[P, V]:
    """Return the last value again where the new one is equal to it, so that others see at once that nothing changed."""
    last: list[V] = []

    @wraps(make)
    def same(*given: P.args, **named: P.kwargs) -> V:
        value = make(*given, **named)
        before = last[-1:]
        if before and before[0] == value:
            return before[0]
        last[:] = [value]
        return value

    return same


C = TypeVar("C")


@dataclass_transform(frozen_default=True)
def frozen_input(kind: type[C]) -> type[C]:
    """Make a frozen data class of what a value is made from: its hash is worked out once."""
    made = dataclass(frozen=True)(kind)
    plain = made.__hash__

    def hashed(self: C) -> int:
        known = self.__dict__.get("_hash")
        if known is None:
            known = self.__dict__["_hash"] = plain(self)
        return int(known)

    made.__hash__ = hashed  # type: ignore[method-assign, assignment]
    return made


T = TypeVar("T")


def bare(kind: type[R], **fields: Any) -> R:  # noqa: ANN401 - whatever the fields hold; they were checked elsewhere
    """Return a record in which just these fields stand; to read another that has no usual value is an error."""
    made: R = kind.model_construct(**fields)  # type: ignore[assignment]
    return made


class RecordRow(tuple[T, ...]):  # noqa: SLOT001 - it keeps its hash
    """Records in a row, whose hash is worked out once."""

    _hash: int | None = None

    def __hash__(self) -> int:
        if self._hash is None:
            self._hash = super().__hash__()
        return self._hash
