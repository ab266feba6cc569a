"""Who rendered what when, in the one run of a film that was followed. NumPy."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats, Ints
from pemlo.core.forecast.finish import Finish
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S


@dataclass(frozen=True)
class SlotRuns:
    """Runs of frames: one after another of one job on one slot, R of them, slot by slot and then by time.

    Attributes
    ----------
    slot, job : (R,) ndarray of int
    begin, end : (R,) ndarray
        Hours since the start.
    first, last : (R,) ndarray of int
        Where a run's frames stand among `frames`.
    lost : (R,) ndarray of int
        How often a frame of it broke.
    fills : (R,) ndarray of bool
        Whether its first frame fills data that are kept then.
    frames : (N,) ndarray of int
        Frames that were rendered, in the same order: where each stands in the trace.
    """

    slot: Ints
    job: Ints
    begin: Floats
    end: Floats
    first: Ints
    last: Ints
    lost: Ints
    fills: npt.NDArray[np.bool_]
    frames: Ints

    def of_slot(self, slot: int) -> slice:
        """Return where the runs of a slot stand."""
        return slice(*(int(np.searchsorted(self.slot, slot, side)) for side in ("left", "right")))


def slot_runs(finish: Finish) -> SlotRuns:
    """Return the runs of frames in the run that was followed.

    Parameters
    ----------
    finish : Finish
        With a trace.
    """
    trace = finish.run.trace
    job = finish.work.job_of
    done = np.flatnonzero((trace[:, 3] > 0) & np.isfinite(trace[:, 2]))
    order = done[np.lexsort((trace[done, 1], trace[done, 0]))]
    slot, mine = trace[order, 0].astype(np.int64), job[order]
    new = np.ones(len(order), bool)
    new[1:] = (slot[1:] != slot[:-1]) | (mine[1:] != mine[:-1])
    first = np.flatnonzero(new)
    last = np.append(first[1:], len(order)) - 1 if len(first) else first
    row = finish.work.row[mine[first]]
    fills = np.zeros(len(first), bool)
    # Runs of a slot stand in the order of time: the first of each row is the one that fills.
    fills[np.unique(slot[first] * len(finish.work.keeps) + row, return_index=True)[1]] = True
    lost = np.cumsum(np.append(0, trace[order, 3].astype(np.int64) - 1))
    return SlotRuns(
        slot[first],
        mine[first],
        trace[order[first], 1] / HOUR_S,
        trace[order[last], 2] / HOUR_S,
        first.astype(np.int64),
        last.astype(np.int64),
        lost[last + 1] - lost[first],
        fills & finish.work.keeps[row],
        order.astype(np.int64),
    )


def trace_rows(project: Project, finish: Finish) -> Sequence[tuple[str, ...]]:
    """Return who rendered what when: shot, frame, machine, slot, begin, end, tries, part; shots in film order."""
    zone = project.delivery.zone
    rows = []
    for number, frame, (slot, *times, tries) in zip(
        finish.work.job_of, finish.work.frame, finish.run.trace, strict=True
    ):
        # A frame that nobody could take has no machine and no times.
        where = ["", "", "", ""]
        if tries:
            moments = [(project.start + timedelta(seconds=float(one))).astimezone(zone) for one in times]
            machine = finish.farm.names[finish.farm.slot_group[int(slot)]]
            where = [machine, str(int(slot)), *(moment.isoformat(timespec="seconds") for moment in moments)]
        job = finish.jobs[int(number)]
        rows.append((job.shot.name, str(int(frame)), *where, str(int(tries)), job.part))
    return rows
