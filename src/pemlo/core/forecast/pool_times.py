"""What frames took where only the times of their files are known, and several machines write into one folder. NumPy.

Files of n machines are a superposition: the gap between two of them is no frame's time. But what all machines together
had time for between two moments is known, and so is how the frames that came meanwhile compare to each other: their
sum is brought to that time.

References
----------
.. [1] Superposition of renewal processes: D. Cox and W. Smith, "On the superposition of renewal processes",
   Biometrika 41, 1954.
"""

from dataclasses import replace
from itertools import pairwise

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.forecast.completed_frames import UNKNOWN_MACHINE, CompletedFrames, Pool, open_until
from pemlo.core.forecast.updated_posterior import expected_of
from pemlo.core.project.project import Project

FEWEST = 4  # files: fewer say nothing of a pool
EACH = 4.0  # files of a window for each frame that is rendered at once: those under way at its ends weigh little then
MOST_WINDOWS = 24
COPIED = 0.1  # of the time that the machines had: files that came with less were copied, and teach nothing


def with_pool_times(project: Project, fit: Fit, draws: FilmDraws, frames: CompletedFrames) -> CompletedFrames:
    """Return frames with what they took, where that is known of all machines together only.

    Parameters
    ----------
    project : Project
    fit : Fit
    draws : FilmDraws
        Of that fit.
    frames : CompletedFrames
        Those without a time and without a machine get one, if there are enough of them.
    """
    here = np.flatnonzero(~frames.timed & (frames.machine == UNKNOWN_MACHINE))
    machines = [machine for machine in project.machines if machine.count]
    if len(here) < FEWEST or not machines:
        return frames
    mine = here[np.argsort(frames.ended[here], kind="stable")]
    expected, ended = expected_of(project, fit, draws, frames)[mine], frames.ended[mine]
    by_machine = _had(project, ended)
    had = by_machine.sum(axis=0)
    slots = sum(machine.count * machine.frames_at_once for machine in machines)
    windows = int(np.clip(len(mine) / (EACH * slots), 1, MOST_WINDOWS))
    edges = np.unique(np.linspace(0, len(mine) - 1, windows + 1).round().astype(int))
    took = np.full(len(mine), np.nan)
    for first, last in pairwise(edges.tolist()):
        # From one file to another: what was under way at the first came after it, and what is at the last did not.
        factor = (had[last] - had[first]) / expected[first + 1 : last + 1].sum()
        if factor >= COPIED:
            took[first + 1 : last + 1] = factor * expected[first + 1 : last + 1]
    if np.isfinite(took[1:2]).all():
        took[0] = took[1] / expected[1] * expected[0]
    # Whose machine is not known is taken to be as fast as the middle one.
    middle = np.exp(np.mean(np.log([machine.slot_speed() for machine in project.machines])))
    seconds = frames.seconds.copy()
    seconds[mine] = took / middle
    share = by_machine[:, -1] / max(had[-1], 1e-9)
    # At both ends of a window each other slot is somewhere in its frame, evenly: a variance of 1/12 of a frame each.
    noise = (slots - 1) / 6.0 / max(len(mine) / windows, 1.0)
    return replace(frames, seconds=seconds, pool=Pool(share, noise))


def _had(project: Project, moments: Floats) -> Floats:
    """Return what each machine could have rendered until some moments, seconds of the reference machine, (M, K)."""
    found = np.zeros((len(project.machines), len(moments)))
    for number, machine in enumerate(project.machines):
        if machine.count:
            power = machine.count * machine.frames_at_once * machine.slot_speed() * (1 - machine.loss_percent / 100)
            found[number] = power * open_until(project, number, moments)
    return found
