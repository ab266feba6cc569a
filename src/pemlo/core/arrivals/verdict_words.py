"""The verdict while frames come in: what becomes of the deadline with what is known now. Pure."""

from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.arrivals.status_page import headline as state_of
from pemlo.core.forecast.interval import interval_of
from pemlo.core.forecast.sentences import say_moment
from pemlo.core.forecast.verdict import LATEST_H, Forecast, Kind
from pemlo.core.units import HOUR_S, counted, format_interval, format_span


def watched_headline(found: LiveForecast) -> str:
    """Return the verdict in one short sentence."""
    project = found.snapshot.project
    due = say_moment(project.delivery.deadline, project, long=True)
    if found.done:
        return "All frames are in, too late." if found.probability == 0 else "All frames are in."
    if found.finish_h is None or found.probability is None:
        return f"{found.snapshot.done_count} of {found.snapshot.wanted} frames are in."
    if found.probability >= project.delivery.confidence:
        return f"On track for {due}."
    if found.probability >= 0.5:
        return f"In doubt for {due}."
    late = found.finish_h.p50 - (project.delivery.deadline - project.start).total_seconds() / HOUR_S
    by = f": about {format_span(late * HOUR_S)} late" if np.isfinite(late) and late > 0 else ""
    return f"Not on track for {due}{by}."


def watched_detail(found: LiveForecast) -> str:
    """Return the figures behind the verdict."""
    words = state_of(found)
    if found.done and found.finish_h is not None:
        return _ended(found)
    if found.rest is None:
        return f"{words}."
    left = np.sum(list(found.rest.shot_hours.values()), axis=0)
    hours = interval_of(left)
    return f"{words}; {format_interval(hours.p05, hours.p50, hours.p95)} machine-hours left."


def rests_on(found: LiveForecast) -> str:
    """Return what the verdict rests on: runs of what is left, and what they were made from."""
    # Where nothing was timed before, frames that are in stand for trials: they are no trials of the film.
    timed = any(not trial.assumed for trial in found.snapshot.project.counted_trials)
    trials = found.known.fit.timed_trials if found.known is not None and timed else 0
    frames = (
        f"{counted(found.snapshot.done_count, 'frame')} that {'is' if found.snapshot.done_count == 1 else 'are'} in"
    )
    made_from = f"from {counted(trials, 'trial')} and {frames}" if trials else f"from {frames}"
    if found.done:
        return "Nothing is left to run"
    if found.rest is None:
        return f"No run, {made_from}"
    runs, left = counted(len(found.rest.hours), "run"), counted(found.rest.frames, "frame")
    machines = counted(int(found.rest.farm.machines.sum()), "machine")
    return f"{runs} of {left} that are left on {machines}, {made_from}"


def _ended(found: LiveForecast) -> str:
    """Return when a film was done, and how that stands to its deadline."""
    project = found.snapshot.project
    assert found.finish_h is not None
    done = project.start + timedelta(hours=found.finish_h.p50)
    apart = (project.delivery.deadline - done).total_seconds()
    side = "before" if apart >= 0 else "after"
    assembled = ", assembled" if project.delivery.assembly_minutes else ""
    return f"{state_of(found)}{assembled} {say_moment(done, project)}, {format_span(abs(apart))} {side} the deadline."


def watched_forecast(forecast: Forecast, found: LiveForecast) -> Forecast:
    """Return a forecast whose finish is that which the frames that are in tell."""
    if found.rest is None or found.finish_h is None:
        return forecast
    project, ends = found.snapshot.project, found.finish_h

    def moment(hours: float) -> datetime | None:
        if hours > LATEST_H:
            return None
        return (project.start + timedelta(hours=hours)).astimezone(project.delivery.zone)

    finish = (moment(ends.p05), moment(ends.p50), moment(ends.p95))
    draws, chance = np.sort(found.rest.hours), found.rest.probability
    kind: Kind = "makes it" if chance >= project.delivery.confidence else "in doubt" if chance >= 0.5 else "misses"
    late = ends.p50 - (project.delivery.deadline - project.start).total_seconds() / HOUR_S
    return replace(forecast, finish=finish, finish_h=draws, probability=chance, kind=kind, late_h=late)
