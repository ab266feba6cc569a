"""What holds up the end of a film, and why some work never ends, in sentences. Pure."""

import numpy as np

from pemlo.core.farm.simulation import Farm, Run, RunRules
from pemlo.core.forecast.queue import Queue
from pemlo.core.units import HOUR_S, format_span

DAYS_AFTER = 60  # machines are followed so long past the deadline


def bottleneck_words(farm: Farm, queue: Queue, run: Run, rules: RunRules) -> str:
    """Return which shot ends last, and on which machines; or why one never does."""
    if words := never_ends(farm, queue, run, rules):
        return words
    names = [job.shot.name for job in queue.jobs]
    late = float(np.mean(~np.isfinite(run.end)))
    if late:
        never = next(name for k, name in enumerate(names) if not np.isfinite(run.finish[:, k]).all())
        return f"Shot {never} is not done within {DAYS_AFTER} days after the deadline, in {late:.0%} of the draws."
    last = np.argmax(run.finish, axis=1)
    job = int(np.bincount(last, minlength=len(names)).argmax())
    group = int(np.bincount(run.holder, minlength=len(farm.names)).argmax())
    share = float(np.mean((last == job) & (run.holder == group)))
    part = queue.jobs[job].part
    what = {"final": "", "again": ", frames again,", "denoise": ", denoising,", "first pass": ", first pass,"}[part]
    often = "" if share == 1 else f", in {share:.0%} of the draws"
    return f"Shot {names[job]}{what} on {farm.names[group]} ends last{often}."


def never_ends(farm: Farm, queue: Queue, run: Run, rules: RunRules) -> str:
    """Return why some work could not be ended by these machines however long they had; empty if it could."""
    if np.isfinite(run.end).all():
        return ""
    work = queue.work
    stuck = np.flatnonzero(~np.isfinite(run.finish).all(axis=0))
    full = run.full_at[np.isfinite(run.full_at)]
    if len(full):
        after = format_span(float(np.median(full)))
        share = len(full) / len(run.full_at)
        return f"The disk is full {after} after the start, in {share:.0%} of the draws: no other frame can be written."
    for number in stuck:
        name, needs = queue.jobs[number].shot.name, float(work.memory_gib[work.row[number]])
        if not (farm.memory_gib >= needs).any():
            return f"Shot {name} never ends: a frame needs {needs:.3g} GiB, and no machine has that."
        if work.share is not None and not (work.share[:, work.row[number]] > 0).any():
            return f"Shot {name} never ends: none of the machines that it is bound to renders."
        if not rules.carries and (words := _too_long(farm, queue, int(number))):
            return words
    return ""


def _too_long(farm: Farm, queue: Queue, job: int) -> str:
    """Return that a frame of a job is longer than any machine is free at a stretch; empty if it is not so."""
    work, row = queue.work, int(queue.work.row[job])
    frame = float(np.median(work.full[:, row, : work.lengths[row]].max(axis=1)))
    spans = farm.ends - farm.begins
    for group in np.flatnonzero(farm.memory_gib >= work.memory_gib[row]):
        speed = farm.speed[farm.slot_group == group][0]
        if frame / speed <= spans[farm.window_of[group] : farm.window_of[group + 1]].max(initial=0.0):
            return ""
    fastest = float(farm.speed.max())
    return (
        f"Shot {queue.jobs[job].shot.name} never ends: a frame takes about {frame / fastest / HOUR_S:.2g} h, longer "
        "than any machine is free at a stretch, and starts again each time."
    )
