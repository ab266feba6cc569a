"""Many settings in little room: each field as numbers into a table of its values. Records are made when looked at."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, overload

import numpy as np
import numpy.typing as npt

from pemlo.core.project.settings import ShotSettings

FIELDS = tuple(ShotSettings.model_fields)
Codes = npt.NDArray[np.int16]


@dataclass(frozen=True, eq=False)
class SettingsTable(Sequence[ShotSettings]):
    """Settings in a row.

    Attributes
    ----------
    base : ShotSettings
        From which the others are made: it keeps what a newer program wrote.
    codes : (K, F) ndarray of int
        The fields of each, equal values as equal numbers: quick to compare.
    values : tuple of tuple
        What the numbers of each field stand for.
    """

    base: ShotSettings
    codes: Codes
    values: tuple[tuple[object, ...], ...]

    @classmethod
    def of(cls, settings: Sequence[ShotSettings]) -> "SettingsTable":
        """Return a table of one or more settings."""
        columns, tables = [], []
        for name in FIELDS:
            seen: dict[object, int] = {}
            columns.append([seen.setdefault(getattr(one, name), len(seen)) for one in settings])
            tables.append(tuple(seen))
        return cls(settings[0], np.array(columns, np.int16).T.copy(), tuple(tables))

    def __len__(self) -> int:
        return len(self.codes)

    @overload
    def __getitem__(self, place: int) -> ShotSettings: ...

    @overload
    def __getitem__(self, place: slice) -> "SettingsTable": ...

    def __getitem__(self, place: int | slice) -> "ShotSettings | SettingsTable":
        if isinstance(place, slice):
            return self.only(np.arange(len(self))[place])
        return self._made(self.codes[place].tolist())

    def __iter__(self) -> Iterator[ShotSettings]:
        return map(self._made, self.codes.tolist())

    def rows(self) -> Iterator[tuple[object, ...]]:
        """Yield the fields of each, in their order."""
        for codes in self.codes.tolist():
            yield tuple(table[code] for table, code in zip(self.values, codes, strict=True))

    def _made(self, codes: list[int]) -> ShotSettings:
        # Every value was checked where it came from.
        update = {name: table[code] for name, table, code in zip(FIELDS, self.values, codes, strict=True)}
        return self.base.model_copy(update=update)

    def values_of(self, field: str) -> set[Any]:
        """Return what they have in a field, each once."""
        number = FIELDS.index(field)
        return {self.values[number][code] for code in np.unique(self.codes[:, number]).tolist()}

    def only(self, places: Iterable[int] | npt.NDArray[np.intp]) -> "SettingsTable":
        """Return some of them."""
        return SettingsTable(self.base, self.codes[np.asarray(list(places), np.intp)], self.values)

    def and_one(self, settings: ShotSettings) -> "SettingsTable":
        """Return them with one more at the end."""
        codes, tables = [], list(self.values)
        for number, (name, table) in enumerate(zip(FIELDS, self.values, strict=True)):
            value = getattr(settings, name)
            code = _code(table, value)
            if code is None:
                code, tables[number] = len(table), (*table, value)
            codes.append(code)
        return SettingsTable(self.base, np.vstack([self.codes, np.array(codes, np.int16)]), tuple(tables))

    def differing(self, settings: ShotSettings) -> npt.NDArray[np.bool_]:
        """Return in which fields each differs from some settings, (K, F)."""
        columns = [
            np.array([value != getattr(settings, name) for value in table], bool)[self.codes[:, number]]
            for number, (name, table) in enumerate(zip(FIELDS, self.values, strict=True))
        ]
        return np.stack(columns, axis=1)

    def place(self, settings: ShotSettings) -> int | None:
        """Return where settings stand; None if they do not."""
        own = [_code(table, getattr(settings, name)) for name, table in zip(FIELDS, self.values, strict=True)]
        if None in own:
            return None
        row = np.array(own, np.int16)
        keys, order = self._sorted
        at = int(np.searchsorted(keys, int(row @ self._weights)))
        while at < len(keys) and keys[at] == row @ self._weights:
            if (self.codes[order[at]] == row).all():
                return int(order[at])
            at += 1  # a number too large for its room may stand for two rows
        return None

    @cached_property
    def _weights(self) -> npt.NDArray[np.int64]:
        """What the numbers of each field count in one number for the row."""
        sizes = [len(table) for table in self.values]
        return np.cumprod([1, *sizes[:-1]], dtype=np.int64)

    @cached_property
    def _sorted(self) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.intp]]:
        """One number for each row, rising, and which rows they are."""
        keys = self.codes @ self._weights
        order = np.argsort(keys, kind="stable")
        return keys[order], order


def _code(table: tuple[object, ...], value: object) -> int | None:
    return table.index(value) if value in table else None
