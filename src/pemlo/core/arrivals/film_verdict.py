"""One verdict of a film for all that shows it: by its plan, and once frames are in, by what they tell. Pure."""

from dataclasses import dataclass

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.arrivals.verdict_words import rests_on, watched_detail, watched_forecast, watched_headline
from pemlo.core.forecast.finish import Finish
from pemlo.core.forecast.sentences import detail, headline
from pemlo.core.forecast.verdict import Forecast
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S, counted


@dataclass(frozen=True, eq=False)
class FilmVerdict:
    """What becomes of the deadline.

    Attributes
    ----------
    project : Project
    forecast : Forecast
        With the finish and the chance that the headline speaks of.
    headline, detail : str
    rests_on : str
        What it was made from.
    now_h : float or None
        The present moment, hours since the start, once frames are in; None while it is by the plan alone.
    """

    project: Project
    forecast: Forecast
    headline: str
    detail: str
    rests_on: str
    now_h: float | None = None

    @property
    def by_frames(self) -> bool:
        """Whether frames that are in say it."""
        return self.now_h is not None


def film_verdict(
    project: Project, forecast: Forecast, finish: Finish | None, trials: int, live_forecast: LiveForecast | None = None
) -> FilmVerdict:
    """Return the verdict of a film.

    Parameters
    ----------
    project : Project
    forecast : Forecast
        Of its plan.
    finish : Finish or None
        The run that the forecast is from, if every frame was run.
    trials : int
        From how many the forecast is.
    live_forecast : LiveForecast, optional
        What frames that are in tell; of other shots than the project's it says nothing.
    """
    if (
        live_forecast is not None
        and live_forecast.snapshot.done_count
        and _shots(live_forecast.snapshot.project) == _shots(project)
    ):
        return FilmVerdict(
            project,
            watched_forecast(forecast, live_forecast),
            watched_headline(live_forecast),
            watched_detail(live_forecast),
            rests_on(live_forecast),
            live_forecast.snapshot.now / HOUR_S,
        )
    said = headline(project, forecast), detail(project, forecast)
    return FilmVerdict(project, forecast, *said, _plan_rests_on(finish, trials))


def _shots(project: Project) -> list[str]:
    return [shot.name for shot in project.shots]


def _plan_rests_on(finish: Finish | None, trials: int) -> str:
    """Return what the forecast of a plan rests on: runs of every frame, or until they are done a few of them."""
    if not trials:
        return "No trial yet"
    made_from = f"from {counted(trials, 'trial')}"
    if finish is None:
        return f"Forecast from 1 000 draws, {made_from}"
    frames, machines = len(finish.work.frame), int(finish.farm.machines.sum())
    runs = f"{counted(len(finish.hours), 'run')} of {counted(frames, 'frame')} on {counted(machines, 'machine')}"
    return f"{runs}, {made_from}"
