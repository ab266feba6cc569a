"""Ranges of shots by machine, as the run sheet shares the work out. NumPy."""

from collections import Counter
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from pemlo.core.forecast.finish import Finish
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.handover.command_lines import Piece, whole_shot


def pieces_of(project: Project, finish: Finish) -> tuple[Piece, ...]:
    """Return which range of each shot each group of machines is to render.

    In the run frames go to whoever is free, one by one; here each machine gets one range of as many frames, so that it
    can be typed; more than one where the shot has gaps. Together they are the shot with its handles, without overlap.

    Parameters
    ----------
    project : Project
    finish : Finish
        With a trace of the same film.
    """
    done = np.flatnonzero(finish.run.trace[:, 3] > 0)
    groups = finish.farm.slot_group[finish.run.trace[done, 0].astype(int)]
    counts: dict[str, Counter[str]] = {}
    for at, group in zip(done, groups, strict=True):
        job = finish.jobs[int(finish.work.job_of[at])]
        if job.part == "final":
            counts.setdefault(job.shot.name, Counter())[finish.farm.names[int(group)]] += 1
    pieces: list[Piece] = []
    for shot in project.shots:
        frames = tuple(shot.rendered_frames(shot.settings))
        step = shot.step * shot.settings.frame_step
        mine = counts.get(shot.name)
        if not mine or shot.still:
            pieces += whole_shot(shot)
            continue
        total, begin, seen = sum(mine.values()), 0, 0
        for machine in (name for name in dict.fromkeys(finish.farm.names) if name in mine):
            seen += mine[machine]
            end = round(len(frames) * seen / total)
            if end > begin:
                pieces += _without_gaps(shot, frames[begin:end], step, machine)
            begin = end
    return tuple(pieces)


def _without_gaps(shot: Shot, frames: Sequence[int], step: int, machine: str) -> list[Piece]:
    """Return pieces without a gap of some frames of a shot."""
    ends = [at for at, (one, other) in enumerate(pairwise(frames), 1) if other - one != step]
    edges = [0, *ends, len(frames)]
    return [Piece(shot, frames[a], frames[b - 1], machine) for a, b in pairwise(edges)]
