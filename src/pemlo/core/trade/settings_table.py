"""Many settings in little room: each field as numbers into a table of its values. Records are made when looked at."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import overload

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

    def place(self, settings: ShotSettings) -> int | None:
        """Return where settings stand; None if they do not."""
        own = [_code(table, getattr(settings, name)) for name, table in zip(FIELDS, self.values, strict=True)]
        if None in own:
            return None
        found = np.flatnonzero((self.codes == np.array(own, np.int16)).all(axis=1))
        return int(found[0]) if len(found) else None


def _code(table: tuple[object, ...], value: object) -> int | None:
    return table.index(value) if value in table else None
