"""Weighs what each shot of a film could be: one way for the window and the command line. Pure; seconds."""

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.predict.shot_appearance import Appearances
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.threads import in_order
from pemlo.core.trade.options import Options, options_of

FilmOptions = tuple[Options, ...]
Known = tuple[Fit, FilmDraws]


class SideBySide:
    """A monitor of shots weighed side by side: each asks whether it is still wanted, the whole says how far it is."""

    def __init__(self, whole: Monitor) -> None:
        self._whole = whole
        self._said = 0.0, ""

    def say(self, fraction: float, text: str) -> None:
        self._said = fraction, text
        self._whole.step(fraction, text)

    def step(self, fraction: float, text: str) -> None:  # noqa: ARG002 - that of one shot
        self._whole.step(*self._said)


def evaluate_film_options(
    project: Project, known: Known, appearances: Appearances, monitor: Monitor | None = None
) -> FilmOptions:
    """Return the options of every shot, in the order of the shots.

    Raises
    ------
    InputError
        If nothing was timed yet.
    Cancelled
        From the monitor.
    """
    if not known[0].known:
        raise InputError("Nothing was timed yet: no plan can be made.", "Time one frame first.")
    watch = SideBySide(monitor or Unwatched())
    watch.say(0.0, "Weighing what shots could be")

    def weighed(shot: Shot) -> Options:
        return options_of(project, *known, shot, appearances.get(shot.name), watch)

    options = []
    for number, (shot, made) in enumerate(in_order(project.shots, weighed)):
        watch.say((number + 1) / len(project.shots), f"Weighed what {shot.name} could be")
        options.append(made)
    return tuple(options)
