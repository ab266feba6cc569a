"""What each named set of settings would cost on all shots of a film. NumPy; fast."""

from dataclasses import dataclass

import numpy as np

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.interval import Interval, interval_of
from pemlo.core.project.edits import apply_set
from pemlo.core.project.project import Project


@dataclass(frozen=True)
class PresetCost:
    """Machine-hours of all shots with a set of settings, first passes and retakes not counted."""

    name: str
    hours: Interval


def preset_costs(project: Project, fit: Fit, draws: FilmDraws) -> tuple[PresetCost, ...]:
    """Return what each set of a film would cost; nothing while no frame was timed."""
    if not fit.known or not project.shots:
        return ()
    costs = []
    for preset in project.sets:
        film = apply_set(project, preset.name, [shot.name for shot in project.shots])
        hours = np.sum([shot_hours(fit, draws, film, shot) for shot in film.shots], axis=0)
        costs.append(PresetCost(preset.name, interval_of(hours)))
    return tuple(costs)
