"""Two ways of rendering a shot or the film, side by side. Pure; as long as two forecasts."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.forecast.disk_memory import disk_memory_of, sum_of
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.forecast.verdict import Forecast
from pemlo.core.interval import Interval, interval_of
from pemlo.core.predict.error_model import Prediction
from pemlo.core.predict.shot_appearance import Appearances
from pemlo.core.project.edits import adopt
from pemlo.core.project.eye_marks import Verdict, eye_marks_of, verdict
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import Trial
from pemlo.core.trade.film_options import Known
from pemlo.core.trade.options import numbers_of
from pemlo.core.units import HOUR_S

SettingsOf = Mapping[str, ShotSettings]


@dataclass(frozen=True)
class Way:
    """One way of rendering: a name, and the settings of the shots that it is about."""

    name: str
    settings: dict[str, ShotSettings]


@dataclass(frozen=True)
class WayNumbers:
    """What one way comes to.

    Attributes
    ----------
    name : str
    settings : ShotSettings, optional
        Of the shot; None where it is about the film.
    frame_seconds : Interval, optional
        A frame of the shot on the reference machine; None for the film.
    hours : Interval
        Machine-hours of the shot, or of the film, retakes counted.
    film_hours : Interval
        Machine-hours of the film with it.
    finish : datetime, optional
        When half of the draws are done; None if never.
    probability : float, optional
        Of making the deadline; None while trials do not agree.
    disk_gib : Interval, optional
    error : Prediction, optional
        Of the shot; None where it is not known.
    by_eye : str, optional
        What marks by eye say of the shot; None where there are none.
    """

    name: str
    settings: ShotSettings | None
    frame_seconds: Interval | None
    hours: Interval
    film_hours: Interval
    finish: datetime | None
    probability: float | None
    disk_gib: Interval | None
    error: Prediction | None
    by_eye: Verdict | None


@dataclass(frozen=True)
class TwoWays:
    """Both, and what the second saves against the first.

    Attributes
    ----------
    about : str
        The shot; empty for the film.
    frames : int
        Frames of the film that it is about.
    first, second : WayNumbers
    saved_share : Interval
        Of the hours, 0 to 1; below 0 where the second takes more.
    saved_hours : Interval
        Machine-hours.
    timed : tuple of (Trial, Trial), optional
        A frame that was timed both ways; the one that differs by the middle of all such.
    """

    about: str
    frames: int
    first: WayNumbers
    second: WayNumbers
    saved_share: Interval
    saved_hours: Interval
    timed: tuple[Trial, Trial] | None = None


def saved_hours(project: Project, known: Known, first: SettingsOf, second: SettingsOf) -> Interval:
    """Return the machine-hours that a film needs fewer with the second settings of its shots, retakes counted."""
    needed = (
        _hours(adopt(project, settings), known, [shot.name for shot in project.shots]) for settings in (first, second)
    )
    return interval_of(next(needed) - next(needed))


def _hours(film: Project, known: Known, names: list[str]) -> Floats:
    hours = np.sum([shot_hours(*known, film, film.shot(name)) for name in names], axis=0)
    return np.asarray(hours) * (1 + film.delivery.retake_share)


def two_ways(
    project: Project,
    known: Known,
    appearances: Appearances,
    shot: str,
    first: Way,
    second: Way,
    forecast_of: Callable[[Project], Forecast],
) -> TwoWays:
    """Compare two ways.

    What both have in common cancels: the saving is counted draw by draw.

    Parameters
    ----------
    project : Project
    known : (Fit, FilmDraws)
    appearances : mapping of str to ShotAppearance
        Of the shots of which it is known how they look.
    shot : str
        What it is about; empty for the film.
    first, second : Way
        Shots that a way does not name stay as they are planned.
    forecast_of : callable
        Says when a film is done, as it is said of the film everywhere else.
    """
    films = [adopt(project, way.settings) for way in (first, second)]
    names = [shot] if shot else [one.name for one in project.shots]
    hours = [_hours(film, known, names) for film in films]
    saved = hours[0] - hours[1]
    numbers = [
        _numbers(way, film, known, appearances, shot, own, forecast_of(film))
        for way, film, own in zip((first, second), films, hours, strict=True)
    ]
    return TwoWays(
        shot,
        sum(one.frame_count for one in project.on_screen if not shot or one.name in names or one.film_name in names),
        numbers[0],
        numbers[1],
        interval_of(saved / np.maximum(hours[0], 1e-12)),
        interval_of(saved),
        timed_both_ways(project, shot, first.settings[shot], second.settings[shot])
        if shot in first.settings and shot in second.settings
        else None,
    )


def _numbers(
    way: Way, film: Project, known: Known, appearances: Appearances, name: str, hours: Floats, forecast: Forecast
) -> WayNumbers:
    whole = [disk_memory_of(film, one, one.settings).disk_gib for one in film.shots if name in ("", one.name)]
    disk = sum_of([interval for interval in whole if interval is not None]) if all(whole) and whole else None
    assert forecast.hours is not None
    if not name:
        return WayNumbers(
            way.name, None, None, interval_of(hours), forecast.hours, forecast.finish[1] if forecast.finish else None,
            forecast.probability, disk, None, None,
        )  # fmt: skip
    shot = film.shot(name)
    each = hours * HOUR_S / max(shot.rendered_count(shot.settings), 1) / (1 + film.delivery.retake_share)
    marks = eye_marks_of(film, name)
    return WayNumbers(
        way.name,
        shot.settings,
        interval_of(each),
        interval_of(hours),
        forecast.hours,
        forecast.finish[1] if forecast.finish else None,
        forecast.probability,
        disk,
        numbers_of(film, *known, shot, appearances.get(name)).found,
        verdict(shot.settings, marks) if marks else None,
    )


def timed_both_ways(
    project: Project, shot: str, first: ShotSettings, second: ShotSettings
) -> tuple[Trial, Trial] | None:
    """Return a frame that was timed with both settings on one machine, or None: the difference is what was measured."""
    whole = [
        trial
        for trial in project.trials_of(shot)
        if not trial.left_out and not trial.assumed and trial.region_percent is None
    ]
    if first.frame_fields() == second.frame_fields():
        return None
    ones, others = (
        [trial for trial in whole if trial.frame_fields() == settings.frame_fields()] for settings in (first, second)
    )
    pairs = [
        (one, other)
        for one in ones
        for other in others
        if (one.frame, one.machine, one.frames_at_once) == (other.frame, other.machine, other.frames_at_once)
    ]
    pairs.sort(key=lambda pair: pair[1].seconds / pair[0].seconds)
    return pairs[len(pairs) // 2] if pairs else None
