"""What each machine is to render next of a shot, with what is known by now: so that all end together. NumPy."""

from datetime import timedelta

import numpy as np

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.arrivals.what_is_missing import NextRange, next_ranges


def next_launch(live: LiveForecast, shot: str) -> tuple[NextRange, ...]:
    """Share the missing frames of a shot out to the machines that render.

    Machines are as fast as they are, and those that are silent get nothing. Hours count from now.

    Raises
    ------
    InputError
        If nothing is known of costs, or no machine is ever free.
    """
    snapshot = live.snapshot
    frames = snapshot.of(shot).missing
    if live.known is None or live.updated is None or not frames:
        return ()
    pace = np.median(live.updated.pace, axis=0)
    machines = tuple(
        machine.replace(speed=float(np.clip(machine.speed * pace[k], 1e-3, 1000)))
        for k, machine in enumerate(snapshot.project.machines)
    )
    silent = live.rest.silent if live.rest is not None else ()
    names = [machine.name for machine in machines if machine.count and machine.name not in silent]
    # From now on, though that may be past the deadline, of which a film is not made anew.
    start = snapshot.project.start + timedelta(seconds=snapshot.now)
    here = snapshot.project.model_copy(update={"machines": machines, "start": start})
    shares = next_ranges(here, live.known.fit, live.updated.draws, snapshot.project.shot(shot), frames, names)
    return tuple(share for share in shares if share.frames)
