"""What a producer needs to decide: verdict, what was given up, what more would buy, what is assumed. Takes seconds."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.film.film import Film
from pemlo.core.film.values import FORECAST, MOVES, RUN
from pemlo.core.forecast.moves_most import Move
from pemlo.core.forecast.verdict import Forecast
from pemlo.core.interval import Interval
from pemlo.core.predict.shot_appearance import ShotAppearance
from pemlo.core.progress import Monitor, PartOfWork, Unwatched
from pemlo.core.project.ceiling import ceiling_of
from pemlo.core.project.eye_marks import deciding, eye_marks_of
from pemlo.core.project.eye_marks import verdict as verdict_by_eye
from pemlo.core.project.notices import notices
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.trade.levers import changed_levers, lever_name, lever_text
from pemlo.core.trade.options import Numbers, numbers_of
from pemlo.core.trade.waterfall import ShotWaterfall, Waterfall, film_waterfall, shot_waterfall
from pemlo.core.units import HOUR_S, counted, format_span, round_figures
from pemlo.handover.spots import Spot, spots_of
from pemlo.words.doubts import doubts
from pemlo.words.film_verdict import FilmVerdict, film_verdict
from pemlo.words.unknowns import unknowns
from pemlo.words.verdicts import say_moment

MOST_SPOTS, MOST_MORE, MOST_ASSUMED = 3, 6, 8
LEAST_SOONER_H = 0.25  # what ends the film sooner by less than this buys nothing


@dataclass(frozen=True)
class GivenUp:
    """A lever that was moved: its name, what it saves, machine-hours, and on which shots from what to what."""

    lever: str
    saved_h: float
    where: str


@dataclass(frozen=True)
class CaseShot:
    """One shot: hours as asked and planned, error planned, and what passes; NaN or None where that is not known.

    `eye` says what marks by eye say of it as planned, with what was noted; empty if there are none.
    """

    shot: str
    frames: int
    asked: Interval | None
    planned: Interval | None
    error: float
    ceiling: float | None
    eye: str = ""


@dataclass(frozen=True)
class CaseFacts:
    """All that stands in the case.

    Attributes
    ----------
    project : Project
    written : datetime
    verdict : FilmVerdict
    asked, planned : Forecast
        As it was asked for, and as it is planned.
    waterfall : Waterfall or None
        None if nothing was timed.
    given_up : tuple of GivenUp
        What saves most first.
    spots : tuple of Spot
    more : tuple of str
        What one more machine, night or day buys.
    assumed : tuple of str
    would_change : tuple of str
        What would change the answer.
    shots : tuple of CaseShot
    """

    project: Project
    written: datetime
    verdict: FilmVerdict
    asked: Forecast
    planned: Forecast
    waterfall: Waterfall | None
    given_up: tuple[GivenUp, ...]
    spots: tuple[Spot, ...]
    more: tuple[str, ...]
    assumed: tuple[str, ...]
    would_change: tuple[str, ...]
    shots: tuple[CaseShot, ...]


def case_facts(
    film: Film, written: datetime, monitor: Monitor | None = None, live_forecast: LiveForecast | None = None
) -> CaseFacts:
    """Work out all that stands in the case.

    Parameters
    ----------
    film : Film
    written : datetime
    monitor : Monitor, optional
    live_forecast : LiveForecast, optional
        What frames that are in tell: then the verdict is by them.

    Raises
    ------
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    watch.step(0.0, "Forecasting the film")
    project, (fit_, draws) = film.project, film.known
    asked_film = as_asked(project)
    planned = film.get(FORECAST, film.run_input, watch)
    as_asked_now = film.with_project(asked_film)
    asked = film.get(FORECAST, as_asked_now.run_input, watch)
    watch.step(0.1, "Looking at pictures")
    looks, _ = film.looks(PartOfWork(watch, 0.1, 0.5))
    timed = [shot for shot in project.shots if shot.name in fit_.shots]
    numbers = {shot.name: numbers_of(project, fit_, draws, shot, looks.get(shot.name)) for shot in timed}
    falls = [shot_waterfall(project, fit_, draws, shot) for shot in timed]
    watch.step(0.6, "Cutting out the worst spots")
    before = {
        shot.name: numbers_of(asked_film, fit_, draws, asked_film.shot(shot.name), looks.get(shot.name)).spent
        for shot in timed
    }
    spots = spots_of(project, looks, numbers, before, MOST_SPOTS)
    watch.step(0.7, "Trying what more would buy")
    finish = film.peek(RUN, film.run_input)
    return CaseFacts(
        project,
        written,
        film_verdict(project, planned, finish, fit_.timed_trials, live_forecast),
        asked,
        planned,
        film_waterfall(falls) if falls else None,
        _given_up(project, falls),
        spots,
        _more(film, planned, PartOfWork(watch, 0.7, 1.0)),
        _assumed(project),
        _would_change(project, fit_, planned),
        _shots(project, asked, planned, numbers, looks),
    )


def as_asked(project: Project) -> Project:
    """Return a film as it was asked for."""
    return project.replace(shots=tuple(shot.replace(plan=None) for shot in project.shots))


def _given_up(project: Project, falls: list[ShotWaterfall]) -> tuple[GivenUp, ...]:
    given_up = []
    for step in film_waterfall(falls).steps if falls else ():
        moved = [project.shot(name) for name in step.by_shot]
        given_up.append(GivenUp(lever_name(step.lever), step.saved, _where(moved, step.lever)))
    return tuple(sorted(given_up, key=lambda one: -one.saved_h))


def _where(shots: list[Shot], lever: str) -> str:
    """Return on which shots a lever was moved, from what to what: shots that were moved alike together."""
    alike: dict[str, list[str]] = {}
    for shot in shots:
        alike.setdefault(_moved(shot.asked, shot.settings, lever), []).append(shot.name)
    return "; ".join(f"{', '.join(names)}: {words}" for words, names in alike.items())


def _moved(before: ShotSettings, after: ShotSettings, lever: str) -> str:
    with_it = ("samples", "noise_threshold", "min_samples", "most_seconds") if lever == "samples" else (lever,)
    names = [name for name in changed_levers(before, after) if name in with_it]
    if len(names) == 1 and names[0] == lever:
        return f"{lever_text(before, names[0])} to {lever_text(after, names[0])}"
    return ", ".join(f"{lever_name(name)} {lever_text(before, name)} to {lever_text(after, name)}" for name in names)


def _more(film: Film, planned: Forecast, watch: Monitor) -> tuple[str, ...]:
    """Return what one more of each would buy, what buys most first."""
    if not film.fit.known or planned.kind == "disagree" or not film.project.machines:
        return ()
    try:
        moves = film.get(MOVES, film.run_input, watch)
    except InputError:
        return ()
    sooner = [move for move in moves if move.sooner_h >= LEAST_SOONER_H]
    if not sooner:
        return ("No single machine, night or day more would end it noticeably sooner.",)
    return tuple(_move_words(move) for move in sooner[:MOST_MORE])


def _move_words(move: Move) -> str:
    what = {
        "machines": f"One more of {move.machine}",
        "nights": f"One night more of {move.machine}",
        "days": f"One day more, round the clock, of {move.machine}",
        "off": f"Without {move.machine}, which is slow and takes one of the last frames",
    }[move.kind]
    if math.isinf(move.sooner_h):
        return f"{what}: only then it ends at all."
    return f"{what}: about {format_span(move.sooner_h * HOUR_S)} sooner."


def _assumed(project: Project) -> tuple[str, ...]:
    found = [f"{shot.name}: {words}" for shot in project.shots for words in unknowns(project, shot)[:1]]
    delivery = project.delivery
    rest = []
    plain = [shot.replace(handles=0) for shot in project.shots]
    handles = sum(
        shot.rendered_count(shot.settings) - one.rendered_count(one.settings)
        for shot, one in zip(project.shots, plain, strict=True)
    )
    if handles:
        rest.append(f"{counted(handles, 'frame')} more are rendered as handles, at the ends of shots.")
    if delivery.retake_share:
        rest.append(f"{100 * delivery.retake_share:g} % of the frames are rendered a second time.")
    if delivery.assembly_minutes:
        rest.append(f"{delivery.assembly_minutes:g} minutes are kept after the last frame.")
    rest += [
        f"{machine.name}: {machine.loss_percent:g} % of the frames are lost and rendered again."
        for machine in project.machines
        if machine.loss_percent and machine.count
    ]
    rest.append(f"Machines are free in the hours that the brief gives them ({delivery.timezone}).")
    rest += [str(problem) for problem in notices(project)]
    shown = found[:MOST_ASSUMED]
    if len(found) > len(shown):
        shown.append(f"The same holds for {counted(len(found) - len(shown), 'more shot')}.")
    return (*shown, *rest)


def _would_change(project: Project, fit: Fit, planned: Forecast) -> tuple[str, ...]:
    """Return what would change the answer: where hours are least certain, times in doubt, shots that were not timed."""
    found = [f"{problem}" for problem in doubts(project, fit)]
    with_hours = [(shot, shot.hours) for shot in planned.shots if shot.hours is not None]
    if with_hours:
        widest, hours = max(with_hours, key=lambda pair: pair[1].high - pair[1].low)
        width = hours.high - hours.low
        found.append(
            f"{widest.shot} is least certain: {round_figures(hours.low, 2)} to {round_figures(hours.high, 2)} "
            f"machine-hours, {round_figures(width, 2)} apart, from {counted(widest.trials, 'trial')}. "
            f"One {'more trial' if widest.trials else 'timed frame'} of it tells most."
        )
    if planned.finish is not None:
        early, _, late = (say_moment(moment, project) for moment in planned.finish)
        found.append(f"9 in 10 outcomes end between {early} and {late}.")
    untimed = [shot.shot for shot in planned.shots if not shot.trials]
    if untimed:
        found.append(f"Nothing was timed of {', '.join(untimed)}.")
    return tuple(found)


def _shots(
    project: Project,
    asked: Forecast,
    planned: Forecast,
    numbers: Mapping[str, Numbers],
    looks: Mapping[str, ShotAppearance],
) -> tuple[CaseShot, ...]:
    rows = []
    for shot, before, after in zip(project.shots, asked.shots, planned.shots, strict=True):
        prediction = numbers[shot.name].found if shot.name in numbers and shot.name in looks else None
        error = float("nan") if prediction is None else prediction.total.middle
        ceiling = ceiling_of(project, shot.name).value
        eye = _by_eye(project, shot)
        rows.append(CaseShot(shot.name, after.frames, before.hours, after.hours, error, ceiling, eye))
    return tuple(rows)


def _by_eye(project: Project, shot: Shot) -> str:
    """Return what marks by eye say of a shot as it is planned, with the notes that stand with them."""
    marks = deciding(eye_marks_of(project, shot.name))
    if not marks:
        return ""
    notes = "; ".join(dict.fromkeys(mark.note for mark in marks if mark.note))
    said = f"by eye: {verdict_by_eye(shot.settings, marks)}"
    return f"{said} ({notes})" if notes else said
