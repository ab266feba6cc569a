"""Weighs what each shot of a film could be: one way for the window and the command line. Pure; seconds."""

from collections.abc import Callable, Iterator

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.predict.shot_appearance import Appearances, ShotAppearance
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.threads import in_order
from pemlo.core.trade.options import Options, options_of

FilmOptions = tuple[Options, ...]
Known = tuple[Fit, FilmDraws]


def weigh_shots(
    project: Project,
    known: Known,
    appearance: Callable[[Shot], ShotAppearance | None],
    kept: Callable[[Shot, ShotAppearance | None], Options | None] = lambda _shot, _appearance: None,
    first: str = "",
    monitor: Monitor | None = None,
) -> Iterator[tuple[Shot, Options]]:
    """Weigh the shots of a film, one after another.

    Parameters
    ----------
    project : Project
    known : (Fit, FilmDraws)
    appearance : callable
        Gives the appearance of a shot; it may take seconds. Called on two threads at once, as is `kept`.
    kept : callable
        Gives options that were weighed before and still hold, or None.
    first : str
        The shot that comes before the others.
    monitor : Monitor, optional

    Yields
    ------
    Shot, Options

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
    shots = sorted(project.shots, key=lambda shot: shot.name != first)
    watch.say(0.0, "Weighing what shots could be")

    def weighed(shot: Shot) -> Options:
        seen = appearance(shot)
        return kept(shot, seen) or options_of(project, *known, shot, seen, watch)

    for number, (shot, options) in enumerate(in_order(shots, weighed)):
        watch.say((number + 1) / len(shots), f"Weighed what {shot.name} could be")
        yield shot, options


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
    """Return the options of every shot, in the order of the shots; errors as in `weigh_shots`."""
    weighed = weigh_shots(project, known, lambda shot: appearances.get(shot.name), monitor=monitor)
    return tuple(options for _, options in weighed)
