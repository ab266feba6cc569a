"""Puts a run of the small farm together: what is true, who renders what when, what goes wrong, and its pictures."""

from pathlib import Path

from pemlo.core.arrivals.farm_faults import faults_of
from pemlo.core.arrivals.place import FramePlace
from pemlo.core.errors import PemloError
from pemlo.core.files.fingerprint import fingerprint
from pemlo.core.frames import parse_frames
from pemlo.core.persistence.document import read_project
from pemlo.core.project.project import Project
from pemlo_simulators.farm.logs import Style
from pemlo_simulators.farm.pictures import FilmPictures
from pemlo_simulators.farm.play import FarmRun
from pemlo_simulators.farm.schedule import deliveries
from pemlo_simulators.farm.truth import truth_of


def farm_run(
    project: Project,
    into: Path,
    *,
    place: FramePlace,
    faults: str = "",
    seed: int = 0,
    speed: float = 600.0,
    log: Style | None = None,
    headers: bool = True,
    film: Path | None = None,
) -> FarmRun:
    """Make a run that can be played.

    Parameters
    ----------
    project : Project
    into : path
        Folder; the place is meant from it.
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
    film : path, optional
        The project's file: when it is written anew, the farm goes on by the new plan.

    Raises
    ------
    InputError
        If faults cannot be read.
    """
    wrong = faults_of(faults, project, seed)
    truth = truth_of(project, seed)
    coming = deliveries(project, truth, wrong, seed)
    pictures = FilmPictures(project)
    replan = _Replan(film, seed) if film is not None else None
    return FarmRun(project, into, place, pictures, coming, wrong, speed, log, headers, replan)


class _Replan:
    """Follows the file of the film: a new plan, other machines, frames that are to be rendered again."""

    def __init__(self, film: Path, seed: int) -> None:
        self._film, self._seed = film, seed
        self._read = fingerprint(film)

    def __call__(self, run: FarmRun, now: float) -> bool:
        """Put what is coming in order anew, if the file is another; return whether it was."""
        seen = fingerprint(self._film)
        if seen in ("", self._read):
            return False
        self._read = seen
        try:
            project = read_project(self._film)
        except PemloError:  # it is being written, or wrong: the old plan goes on
            return False
        start = project.start.timestamp()
        again = {
            (mark.shot, frame): mark.since.timestamp() - start
            for mark in project.watching.again
            for frame in parse_frames(mark.frames)
        }
        done = {key for key, at in run.delivered.items() if again.get(key[:2], -1.0) < at}
        run.faults = [fault for fault in run.faults if (fault.shot, fault.frame) not in again]
        run.project = project
        run.coming = deliveries(project, truth_of(project, self._seed), run.faults, self._seed, done, now)
        return True
