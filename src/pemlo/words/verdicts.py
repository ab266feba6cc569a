"""The verdict in plain words, and moments as people say them. Pure text from a forecast."""

from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from pemlo.core.chances import chance_words
from pemlo.core.project.project import Project
from pemlo.core.project.start import is_watched
from pemlo.core.units import HOUR_S, format_duration, format_span, round_figures
from pemlo.words.disagreements import disagreement_headline, disagreement_in_short

if TYPE_CHECKING:
    from pemlo.core.forecast.ledger import Ledger
    from pemlo.core.forecast.verdict import Forecast


# Less than this is no loss to speak of.
LEAST, LEAST_SHARE = timedelta(minutes=30), 0.02


def gone_start_words(project: Project, now: datetime) -> str:
    """Return that the start has passed and its hours are counted; empty where frames are watched, or it is too little.

    Parameters
    ----------
    project : Project
    now : datetime
        Aware.
    """
    gone, whole = now - project.start, project.delivery.deadline - project.start
    if is_watched(project) or not project.shots or gone >= whole or gone < max(LEAST, LEAST_SHARE * whole):
        return ""
    return (
        f"The start, {say_moment(project.start, project)}, was {format_duration(gone.total_seconds())} ago: "
        "its hours are counted, though nothing is watched that was rendered in them."
    )


_LONG = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")

# Less to spare than these shares of the hours needed, or of their interval, is within the noise of the forecast.
JUST, JUST_OF_INTERVAL = 0.02, 0.05
# A chance counted over a thousand draws is known to about a hundredth.
JUST_CHANCE = 0.01


def say_moment(moment: datetime | None, project: Project, *, long: bool = False) -> str:
    """Write a moment in the project's zone: ``Thu 18:00``; with day and month from a week after the start.

    Seconds count within an hour of the start: ``Mon 10:02:18``.
    """
    if moment is None:
        return "never"
    local = moment.astimezone(project.delivery.zone)
    day = _LONG[local.weekday()] if long else _LONG[local.weekday()][:3]
    away = abs(local - project.start)
    date = f" {local.day} {_MONTHS[local.month - 1]}" if away >= timedelta(days=7) else ""
    year = f" {local.year}" if away >= timedelta(days=300) else ""
    seconds = f":{local:%S}" if timedelta(0) < local - project.start < timedelta(hours=1) and local.second else ""
    return f"{day}{date}{year} {local:%H:%M}{seconds}"


def say_hours(hours: float, project: Project) -> str:
    """Write the moment so many hours after the start; “never” where they are infinite."""
    return say_moment(project.end(hours), project)


def headline(project: Project, forecast: "Forecast") -> str:
    """Return the verdict in one short sentence."""
    if not project.shots:
        return "Say what the film is."
    if forecast.kind == "unknown":
        return f"Time one frame of shot {_longest_shot(project)} to begin."
    if forecast.kind == "disagree":
        return disagreement_headline(project, forecast.disagreements)
    return _timed_headline(project, forecast)


def _timed_headline(project: Project, forecast: "Forecast") -> str:
    due = say_moment(project.delivery.deadline, project, long=True)
    if forecast.hours_available <= 0:
        return f"No machine has hours before {due}."
    if forecast.never:
        return f"Cannot finish with these machines; due {due}."
    if forecast.kind == "makes it":
        spare = forecast.spare_h or 0.0
        close = (forecast.probability or 0.0) < project.delivery.confidence + JUST_CHANCE
        if spare < _noise(forecast) or close:
            return f"Makes {due}, just: {_in_ten(forecast.probability)}."
        ledger = _ledger(project, forecast)
        return f"Makes {due}." if ledger is None else f"Makes {due} with {_spare(ledger.apart)}."
    if forecast.kind == "in doubt":
        return f"In doubt for {due}."
    return _late(project, forecast, due)


def _noise(forecast: "Forecast") -> float:
    """Return what is within the noise of a forecast, machine-hours."""
    if forecast.hours is None:
        return 0.0
    return max(JUST * forecast.hours.middle, JUST_OF_INTERVAL * (forecast.hours.high - forecast.hours.low))


def _late(project: Project, forecast: "Forecast", due: str) -> str:
    late = forecast.late_h if forecast.late_h is not None else float("inf")
    if late > 24 * 365:
        return f"Misses {due} by more than a year."
    end = "" if forecast.finish is None else say_moment(forecast.finish[1], project, long=True)
    return f"Likely done {end}, {format_span(late * HOUR_S)} late." if end else f"Misses {due}."


def detail(project: Project, forecast: "Forecast") -> str:
    """Return the figures behind the verdict in one or two sentences."""
    if not project.shots:
        return "One line is enough: shots, frames, what one frame takes, when it is due."
    if forecast.never:
        return forecast.never
    there = f"{round_figures(forecast.hours_available)} machine-hours are available before the deadline"
    if forecast.kind == "disagree":
        return f"{disagreement_in_short(project, forecast.disagreements[0])} Until then there is no verdict."
    if forecast.hours is None or forecast.probability is None or forecast.spare_h is None:
        return f"{there}; how many are needed is not known yet."
    ledger = _ledger(project, forecast)
    assert ledger is not None
    return f"{ledger.words} The chance to make it is {chance_words(forecast.probability)}."


def verdict(project: Project, forecast: "Forecast") -> str:
    """Return headline and detail."""
    return f"{headline(project, forecast)} {detail(project, forecast)}"


def _longest_shot(project: Project) -> str:
    return max(project.shots, key=lambda shot: shot.frame_count).name


def _spare(apart: str) -> str:
    """Return what is to spare, with its unit: ``21 machine-hours to spare``."""
    amount, _, rest = apart.partition(" ")
    return f"{amount} machine-hours {rest}" if rest == "to spare" else apart  # a duration has its own units


def _ledger(project: Project, forecast: "Forecast") -> "Ledger | None":
    from pemlo.core.forecast.ledger import ledger_of  # noqa: PLC0415 - which knows what a forecast is

    return ledger_of(forecast, project.delivery.confidence)


def _in_ten(probability: float | None) -> str:
    """Return a chance as people say it of a close thing; never more than is known."""
    tenths = round(10 * (probability or 0.0))
    return "more than 9 in 10" if tenths >= 10 else f"{tenths} in 10"
