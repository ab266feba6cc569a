"""Sequences of shots, by their names. Pure."""

from collections.abc import Sequence
from functools import lru_cache

SEPARATORS = " _./:-"


@lru_cache(maxsize=16_384)
def sequence_of(shot: str) -> str:
    """Return the sequence of a shot: the part of its name before the last separator; empty if there is none.

    Examples
    --------
    >>> sequence_of("quay_010"), sequence_of("ep02-quay-010"), sequence_of("010")
    ('quay', 'ep02-quay', '')
    """
    cut = max(shot.rfind(separator) for separator in SEPARATORS)
    return shot[: max(cut, 0)].rstrip(SEPARATORS)


def runs_of(names: Sequence[str]) -> list[tuple[str, int, int]]:
    """Return names that follow each other as one, with the first and the last place of each.

    Examples
    --------
    >>> runs_of(["quay", "quay", "lamp", "quay"])
    [('quay', 0, 1), ('lamp', 2, 2), ('quay', 3, 3)]
    """
    runs: list[tuple[str, int, int]] = []
    for place, name in enumerate(names):
        if runs and runs[-1][0] == name:
            runs[-1] = (name, runs[-1][1], place)
        else:
            runs.append((name, place, place))
    return runs


def in_sequences(names: Sequence[str]) -> bool:
    """Return whether shots come in sequences: fewer than half as many, and more than one."""
    return 2 <= len(runs_of([sequence_of(name) for name in names])) <= len(names) / 2
