"""Puts a run of the small farm together: what is true, who renders what when, what goes wrong, and its pictures."""

from pathlib import Path

from pemlo.core.arrivals.place import FramePlace
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.standins.farm.faults import faults_of
from pemlo.standins.farm.logs import Style
from pemlo.standins.farm.pictures import render_pictures
from pemlo.standins.farm.play import FarmRun
from pemlo.standins.farm.schedule import deliveries
from pemlo.standins.farm.truth import truth_of


def farm_run(
    project: Project,
    into: Path,
    monitor: Monitor,
    *,
    place: FramePlace,
    faults: str = "",
    seed: int = 0,
    speed: float = 600.0,
    log: Style | None = None,
    headers: bool = True,
) -> FarmRun:
    """Make a run that can be played.

    Parameters
    ----------
    project : Project
    into : path
        Folder; the place is meant from it.
    monitor : Monitor
    place : FramePlace
    faults : str
        See `faults_of`.
    seed : int
        Of what frames cost, of losses and of chance.
    speed : float
        Seconds on the farm in one on the wall.
    log : str, optional
        Style.
    headers : bool
        Whether pictures say what they took.

    Raises
    ------
    InputError
        If faults cannot be read.
    Cancelled
        From the monitor.
    """
    wrong = faults_of(faults, project, seed)
    truth = truth_of(project, seed)
    coming = deliveries(project, truth, wrong, seed)
    pictures = render_pictures(project, monitor)
    return FarmRun(project, into, place, pictures, coming, wrong, speed, log, headers)
