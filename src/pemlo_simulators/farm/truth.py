"""What frames really cost on the small farm, and how fast its machines really are. NumPy."""

from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import knots, places
from pemlo.core.cost.draws import draw_film, seconds_of
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.project.project import Project

SPEED_SD = 0.1  # machines are as fast as the brief says, give or take a tenth
SCATTER = 0.04  # and a frame takes what it should, give or take a twenty-fifth
WAVES, WAVE_SD = 3, 0.06  # along a shot, beside what its trials show


@dataclass(frozen=True)
class Truth:
    """What is so, whatever was believed.

    Attributes
    ----------
    seconds : dict of str to (F,) ndarray
        Of every frame of each shot on the reference machine, from its first handle to its last.
    pace : (M,) ndarray
        By what factor each machine is faster than the brief says.
    loss : (M,) ndarray
        Chance that a frame is lost.
    """

    seconds: dict[str, Floats]
    pace: Floats
    loss: Floats


def truth_of(project: Project, seed: int) -> Truth:
    """Draw a truth that the trials of a project leave open.

    One of the draws of what is known, with waves along each shot that no trial saw, and speeds a little off.
    """
    random = np.random.default_rng([seed, 29])
    known = fit(fit_input(project, seed))
    draws = draw_film(known, project, seed)
    seconds = {}
    for shot in project.shots:
        mine = draws[shot.name]
        one = int(random.integers(len(mine.theta)))
        wanted = frames_of([shot.settings], [project.size_of(shot)], known.cost_factors, known.shots[shot.name].shape())
        cost_profile = seconds_of(mine.theta[one, None, None, :], wanted, mine.cost_profile[one : one + 1])[0][0]
        own, _ = knots(shot.frame_count)
        low, high = shot.whole_range
        at = places(np.arange(low, high + 1, dtype=float), shot.first, shot.last)
        waves = sum(
            random.normal(0, WAVE_SD) * np.sin(np.pi * random.uniform(1, 6) * at + random.uniform(0, 2 * np.pi))
            for _ in range(WAVES)
        )
        scatter = SCATTER * random.standard_normal(len(at))
        seconds[shot.name] = np.asarray(np.interp(at, own, cost_profile) * np.exp(waves + scatter))
    pace = np.exp(SPEED_SD * random.standard_normal(len(project.machines)))
    loss = np.array([machine.loss_percent / 100 for machine in project.machines])
    return Truth(seconds, pace, loss)
