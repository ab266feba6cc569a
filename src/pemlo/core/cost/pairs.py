"""Frames that were timed twice, with one choice made otherwise: what it costs is seen at once. Pure NumPy."""

from collections import defaultdict
from collections.abc import Mapping

import numpy as np

from pemlo.core.cost.fit_input import REFERENCE, FitInput
from pemlo.core.project.trials import TimedFrame

_CHOICES = ("switches", "split")


def reference_seconds(given: FitInput, trial: TimedFrame) -> float:
    """Return what a trial took, as seconds of the reference machine with one frame at once."""
    return trial.seconds * given.machine.get(trial.machine, REFERENCE).slot_speed(trial.frames_at_once)


def switch_widths(given: FitInput) -> Mapping[str, float]:
    """Return how wide to believe switches and splits, log, by name: twice what frames with and without them differ."""
    alike: dict[tuple[object, ...], dict[tuple[str, ...], list[float]]] = defaultdict(lambda: defaultdict(list))
    for trial in given.trials:
        if not trial.left_out and not trial.assumed and not trial.stopped_by_cap:
            fields = tuple(value for name, value in trial.frame_fields().items() if name not in _CHOICES)
            here = (trial.shot, trial.frame, trial.region_percent, *fields)
            alike[here][trial.switched].append(float(np.log(reference_seconds(given, trial))))
    found: dict[str, float] = {}
    for ways in alike.values():
        for names, times in ways.items():
            for name in names:
                without = ways.get(tuple(one for one in names if one != name))
                if without:
                    apart = abs(float(np.median(times) - np.median(without)))
                    found[name] = max(2.0 * apart, found.get(name, 0.0))
    return found
