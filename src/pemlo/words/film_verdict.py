"""One verdict of a film for all that shows it: by its plan, and once frames are in, by what they tell. Pure."""

from dataclasses import dataclass, replace
from datetime import timedelta

import numpy as np

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.forecast.finish import Finish
from pemlo.core.forecast.verdict import Forecast, Kind
from pemlo.core.interval import interval_of
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S, counted, format_interval, format_span
from pemlo.words.frames_in import headline as state_of
from pemlo.words.verdicts import detail, headline, say_moment


def watched_headline(live: LiveForecast) -> str:
    """Return the verdict in one short sentence."""
    project = live.snapshot.project
    due = say_moment(project.delivery.deadline, project, long=True)
    if live.done:
        return "All frames are in, too late." if live.probability == 0 else "All frames are in."
    if live.finish_h is None or live.probability is None:
        return f"{live.snapshot.done_count} of {live.snapshot.wanted} frames are in."
    if live.probability >= project.delivery.confidence:
        return f"On track for {due}."
    if live.probability >= 0.5:
        return f"In doubt for {due}."
    late = live.finish_h.middle - project.deadline_h
    by = f": about {format_span(late * HOUR_S)} late" if np.isfinite(late) and late > 0 else ""
    return f"Not on track for {due}{by}."


def watched_detail(live: LiveForecast) -> str:
    """Return the figures behind the verdict."""
    words = state_of(live)
    if live.done and live.finish_h is not None:
        return _ended(live)
    if live.rest is None:
        return f"{words}."
    left = np.sum(list(live.rest.shot_hours.values()), axis=0)
    hours = interval_of(left)
    return f"{words}; {format_interval(hours)} machine-hours left."


def rests_on(live: LiveForecast) -> str:
    """Return what the verdict rests on: runs of what is left, and what they were made from."""
    # Where nothing was timed before, frames that are in stand for trials: they are no trials of the film.
    timed = any(not trial.assumed for trial in live.snapshot.project.counted_trials)
    trials = live.known.fit.timed_trials if live.known is not None and timed else 0
    frames = f"{counted(live.snapshot.done_count, 'frame')} that {'is' if live.snapshot.done_count == 1 else 'are'} in"
    made_from = f"from {counted(trials, 'trial')} and {frames}" if trials else f"from {frames}"
    if live.done:
        return "Nothing is left to run"
    if live.rest is None:
        return f"No run, {made_from}"
    runs, left = counted(len(live.rest.hours), "run"), counted(live.rest.frames, "frame")
    machines = counted(int(live.rest.farm.machines.sum()), "machine")
    return f"{runs} of {left} that are left on {machines}, {made_from}"


def _ended(live: LiveForecast) -> str:
    """Return when a film was done, and how that stands to its deadline."""
    project = live.snapshot.project
    assert live.finish_h is not None
    done = project.start + timedelta(hours=live.finish_h.middle)
    apart = (project.delivery.deadline - done).total_seconds()
    side = "before" if apart >= 0 else "after"
    assembled = ", assembled" if project.delivery.assembly_minutes else ""
    return f"{state_of(live)}{assembled} {say_moment(done, project)}, {format_span(abs(apart))} {side} the deadline."


def watched_forecast(forecast: Forecast, live: LiveForecast) -> Forecast:
    """Return a forecast whose finish is that which the frames that are in tell."""
    if live.rest is None or live.finish_h is None:
        return forecast
    project, ends = live.snapshot.project, live.finish_h
    finish = (project.end(ends.low), project.end(ends.middle), project.end(ends.high))
    draws, chance = np.sort(live.rest.hours), live.rest.probability
    kind: Kind = "makes it" if chance >= project.delivery.confidence else "in doubt" if chance >= 0.5 else "misses"
    late = ends.middle - project.deadline_h
    return replace(forecast, finish=finish, finish_h=draws, probability=chance, kind=kind, late_h=late)


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
    project: Project,
    forecast: Forecast,
    finish: Finish | None,
    trials: int,
    live_forecast: LiveForecast | None = None,
    *,
    first: bool = False,
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
    first : bool
        Whether the forecast is a first answer, from few draws.
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
    rest = first_rests_on(len(forecast.finish_h), trials) if first else _plan_rests_on(finish, trials)
    return FilmVerdict(project, forecast, *said, rest)


def _shots(project: Project) -> list[str]:
    return [shot.name for shot in project.shots]


def first_rests_on(draws: int, trials: int) -> str:
    """Return what a first answer rests on."""
    made_from = f"{counted(draws, 'draw')} and {counted(trials, 'trial')}"
    return f"First answer from {made_from}, by hours poured into the machines"


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
