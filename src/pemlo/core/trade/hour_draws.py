"""Draws of what many options take, made again of those that are looked at: all of a large film's take gigabytes.

What a row is made from is held by the one who made it; a row comes out the same whenever it is made.
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats

F32 = npt.NDArray[np.float32]
MOST_ROWS = 64  # that are kept, of those looked at last


class HourDraws:
    """Draws of machine-hours of K options, (K, N), of which rows are asked for.

    Parameters
    ----------
    make : callable
        From places to their rows, (k, N) float32.
    middle : (K,) ndarray
        Their medians.
    """

    def __init__(self, make: Callable[[Sequence[int]], F32], middle: Floats) -> None:
        self._make, self.middle = make, middle
        self._rows: dict[int, F32] = {}
        self._more: dict[int, F32] = {}

    def __len__(self) -> int:
        return len(self.middle)

    def __getitem__(self, places: Any) -> F32:  # noqa: ANN401 - a place, or many of them
        if np.ndim(places) == 0:
            return self._of([int(places)])[0]
        at = np.asarray(places)
        wanted = np.flatnonzero(at) if at.dtype == bool else at
        return np.stack(self._of([int(place) for place in wanted])) if len(wanted) else np.zeros((0, 1), np.float32)

    def _of(self, places: list[int]) -> list[F32]:
        known = self._more | self._rows
        missing = [place for place in dict.fromkeys(places) if place not in known]
        if missing:
            made = self._make(missing)
            known |= dict(zip(missing, made, strict=True))
            if len(missing) <= MOST_ROWS:  # many at once are looked at once
                kept = {**self._rows, **dict(zip(missing, made, strict=True))}
                self._rows = dict(list(kept.items())[-MOST_ROWS:])
        return [known[place] for place in places]

    def __getstate__(self) -> dict[str, Any]:
        """Return what travels to another machine: not what rows are made from, which is there already."""
        return {**self.__dict__, "_make": None}

    def made_by(self, make: Callable[[Sequence[int]], F32]) -> "HourDraws":
        """Return the same, with rows made here."""
        return HourDraws(make, self.middle)

    def and_one(self, row: Floats) -> "HourDraws":
        """Return them with one more at the end."""
        made = HourDraws(self._make, np.append(self.middle, np.median(row)))
        made._rows, made._more = self._rows, {**self._more, len(self): row.astype(np.float32)}
        return made

    def only(self, places: Sequence[int]) -> "HourDraws":
        """Return some of them."""
        at = list(places)
        return HourDraws(lambda some: np.stack(self._of([at[place] for place in some])), self.middle[at])
