"""Rows of marks by sequence, where shots are too many to be seen at once: each opens to those of its shots. Pure."""

from collections.abc import Collection, Sequence

import numpy as np

from pemlo.core.arrivals.states import FrameState
from pemlo.core.project.sequences import in_sequences, runs_of, sequence_of
from pemlo.core.units import counted, round_figures
from pemlo.gui.watch.marks import MarkRow, RowMarks

MOST_SHOTS = 40  # that stand each for itself


def by_sequence(rows: Sequence[MarkRow], opened: Collection[str]) -> tuple[MarkRow, ...]:
    """Return a row for each sequence, with those of its shots below where it is opened; few shots as they are.

    Parameters
    ----------
    rows : sequence of MarkRow
        Of every shot, in the order of the film.
    opened : collection of str
        Sequences.
    """
    names = [row.shot for row in rows]
    if len(rows) <= MOST_SHOTS or not in_sequences(names):
        return tuple(rows)
    found: list[MarkRow] = []
    for name, first, last in runs_of([sequence_of(shot) for shot in names]):
        members = rows[first : last + 1]
        found.append(_group(name, members))
        if name in opened:
            found += members
    return tuple(found)


def _group(name: str, members: Sequence[MarkRow]) -> MarkRow:
    state = np.concatenate([row.marks.state for row in members])
    marks = RowMarks(state, np.concatenate([row.marks.strength for row in members]), fills=True)
    there = int((state == FrameState.IN).sum())
    words = "all in" if there == len(state) else f"{round_figures(there, 9)} of {round_figures(len(state), 9)}"
    return MarkRow(members[0].shot, np.arange(len(state)), marks, words, group=name)


def group_words(row: MarkRow, shots: int) -> str:
    """Return what a row of a sequence says."""
    return f"Sequence {row.group}: {counted(shots, 'shot')}, {row.words}\nA click, or Enter, shows or hides its shots"
