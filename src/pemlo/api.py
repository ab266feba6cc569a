"""The public interface: a film from a file, what follows from it, and films that differ from it.

What stands here and in `docs/reference/python.md` stays as it is through all versions 1: names are added, and none is
taken away or changes its meaning or unit. Everything else in `pemlo` may change. Nothing of the window is loaded.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from pemlo.core.errors import InputError, PemloError
from pemlo.core.film.film import Film as CoreFilm
from pemlo.core.film.film import open_film
from pemlo.core.forecast.verdict import Forecast as CoreForecast
from pemlo.core.forecast.verdict import ShotForecast as CoreShotForecast
from pemlo.core.persistence.document import write_project
from pemlo.core.project.edits import add_trials, adopt, set_asked, set_delivery, set_machine, set_shot
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import Trial
from pemlo.core.trade.best_plan import GOALS, Goal
from pemlo.core.trade.held_levers import hold as hold_lever
from pemlo.core.trade.planning import FilmPlan
from pemlo.words.verdicts import verdict

__all__ = ["Film", "Forecast", "InputError", "PemloError", "Plan", "ShotForecast", "open"]
DIGITS = 6


def _number(value: float | None) -> float | None:
    """Return a number for plain data: none where it is not known or without end."""
    return None if value is None or not math.isfinite(value) else float(f"{value:.{DIGITS}g}")


@dataclass(frozen=True)
class ShotForecast:
    """What one shot takes.

    Attributes
    ----------
    shot : str
    frames : int
        That are rendered.
    trials : int
        That were timed of it.
    frame_seconds : float or None
        Of its mean frame on the reference machine, likely; None if nothing was timed.
    frame_seconds_90 : tuple of float or None
        Between which 9 in 10 outcomes lie.
    likely_hours : float or None
        Machine-hours, retakes not counted.
    """

    shot: str
    frames: int
    trials: int
    frame_seconds: float | None
    frame_seconds_90: tuple[float, float] | None
    likely_hours: float | None

    def to_dict(self) -> dict[str, Any]:
        """Return it as plain data."""
        ends = self.frame_seconds_90
        return {
            "shot": self.shot,
            "frames": self.frames,
            "trials": self.trials,
            "frame_seconds": _number(self.frame_seconds),
            "frame_seconds_90": None if ends is None else [_number(end) for end in ends],
            "likely_hours": _number(self.likely_hours),
        }


@dataclass(frozen=True)
class Forecast:
    """Whether a film is done in time.

    Attributes
    ----------
    likely_hours, safe_hours : float or None
        Machine-hours that it needs: in the middle outcome, and with the chance that is wanted. None if nothing was
        timed.
    available_hours : float
        Machine-hours before the deadline that the film can use.
    spare_hours : float or None
        Available less safe; below 0 if it is short.
    chance : float or None
        Of being done by the deadline, 0 to 1; None if nothing was timed, or trials do not agree.
    finish : datetime or None
        In the middle outcome; None if that is never, or not known.
    finish_90 : tuple of datetime
        Between which 9 in 10 outcomes end; an end is None if it is never.
    verdict : str
        The same in sentences.
    shots : tuple of ShotForecast
    """

    likely_hours: float | None
    safe_hours: float | None
    available_hours: float
    spare_hours: float | None
    chance: float | None
    finish: datetime | None
    finish_90: tuple[datetime | None, datetime | None] | None
    verdict: str
    shots: tuple[ShotForecast, ...]

    def to_dict(self) -> dict[str, Any]:
        """Return it as plain data; moments as ISO 8601, what is not known as None."""

        def iso(moment: datetime | None) -> str | None:
            return None if moment is None else moment.isoformat(timespec="seconds")

        return {
            "likely_hours": _number(self.likely_hours),
            "safe_hours": _number(self.safe_hours),
            "available_hours": _number(self.available_hours),
            "spare_hours": _number(self.spare_hours),
            "chance": _number(self.chance),
            "finish": iso(self.finish),
            "finish_90": None if self.finish_90 is None else [iso(end) for end in self.finish_90],
            "verdict": self.verdict,
            "shots": [shot.to_dict() for shot in self.shots],
        }


@dataclass(frozen=True)
class Plan:
    """The best settings for a goal.

    Attributes
    ----------
    goal : str
    reached : bool
        Whether the goal is reached: in time for ``picture``, every error under its ceiling for ``hours``, both for
        ``missing``.
    settings : mapping of str to mapping
        Of each shot, by its name: fields of its settings.
    likely_hours, safe_hours : float
        Machine-hours that it needs, as in `Forecast`.
    chance : float
        Of being done by the deadline.
    short_hours : float
        Machine-hours that are short with the chance asked for; 0 if none are.
    worst_ratio : float or None
        Of error over ceiling, of the shots whose error is known; None if none is.
    """

    goal: str
    reached: bool
    settings: Mapping[str, Mapping[str, Any]]
    likely_hours: float
    safe_hours: float
    chance: float
    short_hours: float
    worst_ratio: float | None

    def to_dict(self) -> dict[str, Any]:
        """Return it as plain data."""
        return {
            "goal": self.goal,
            "reached": self.reached,
            "settings": {shot: dict(fields) for shot, fields in self.settings.items()},
            "likely_hours": _number(self.likely_hours),
            "safe_hours": _number(self.safe_hours),
            "chance": _number(self.chance),
            "short_hours": _number(self.short_hours),
            "worst_ratio": _number(self.worst_ratio),
        }


class Film:
    """A film, which never changes: each ``with_…`` returns another.

    Films that come from each other share what is the same in them: a second forecast of the same film takes no time,
    one with another deadline or other settings a moment, and only one with other times is fitted anew.
    """

    def __init__(self, core: CoreFilm) -> None:
        self._core = core

    # What is in it

    @property
    def title(self) -> str:
        """What it is called."""
        return self._core.project.title

    @property
    def shots(self) -> tuple[str, ...]:
        """The names of its shots, in their order."""
        return tuple(shot.name for shot in self._core.project.shots)

    @property
    def deadline(self) -> datetime:
        """When it is due."""
        return self._core.project.delivery.deadline

    def settings(self, shot: str) -> dict[str, Any]:
        """Return the settings of a shot as it is planned.

        Raises
        ------
        InputError
            If there is no such shot.
        """
        return dict(self._shot(shot).settings.model_dump(mode="json"))

    def to_dict(self) -> dict[str, Any]:
        """Return the project as plain data, as its file has it."""
        return self._core.project.model_dump(mode="json")

    # What follows

    @property
    def forecast(self) -> Forecast:
        """Hours, chance and finish of the film as it is planned; the first time it takes some seconds."""
        return _forecast(self._core.project, self._core.forecast)

    def plan(self, goal: Goal = "picture", hold: Mapping[str, object] | None = None) -> Plan:
        """Return the best plan; it takes some seconds.

        Parameters
        ----------
        goal : str
            ``picture``, the best picture by the deadline; ``hours``, the fewest hours with every error under its
            ceiling; ``missing``, what is short to have both.
        hold : mapping of str to value, optional
            Levers that stay where they are put: ``{"010.samples": 64}``.

        Raises
        ------
        InputError
            If nothing was timed, or there is no such goal, shot, lever or value.
        """
        if goal not in GOALS:
            raise InputError(f"There is no goal called {goal}.", f"There are: {', '.join(GOALS)}.")
        project = self._core.project
        for lever, value in (hold or {}).items():
            project = hold_lever(project, f"{lever}={value}")
        film = self._core.with_project(project)
        return _plan(project, film.plan(goal))

    # Other films

    def with_trial(self, shot: str, frame: int, seconds: float, **fields: Any) -> "Film":  # noqa: ANN401
        """Return the film with one more timed frame.

        Parameters
        ----------
        shot : str
        frame : int
        seconds : float
            That it took, > 0.
        **fields
            Its settings, as asked for unless given, and others of a trial: ``machine``, ``mean_samples``, …

        Raises
        ------
        InputError
            If there is no such shot or field, or a value is not allowed.
        """
        asked = self._shot(shot).asked.frame_fields()
        values = {**asked, **_known(fields, Trial), "shot": shot, "frame": frame, "seconds": seconds}
        trial = build(Trial, values, f"Trial of {shot}")
        return self._with(add_trials(self._core.project, [trial]))

    def with_asked(self, shot: str, **fields: Any) -> "Film":  # noqa: ANN401
        """Return the film with other settings asked for in a shot; errors as `with_trial`."""
        self._shot(shot)
        return self._with(set_asked(self._core.project, [shot], **_known(fields, ShotSettings)))

    def with_settings(self, shot: str, **fields: Any) -> "Film":  # noqa: ANN401
        """Return the film with other settings planned for a shot; errors as `with_trial`."""
        planned = self._shot(shot).settings.replace(**_known(fields, ShotSettings))
        return self._with(set_shot(self._core.project, shot, plan=planned))

    def with_delivery(self, **fields: Any) -> "Film":  # noqa: ANN401
        """Return the film with another ``deadline``, ``confidence``, ``retake_share``, …; errors as `with_trial`."""
        return self._with(set_delivery(self._core.project, **_known(fields, type(self._core.project.delivery))))

    def with_machine(self, name: str, **fields: Any) -> "Film":  # noqa: ANN401
        """Return the film with other ``count``, ``speed``, ``hours``, … of a machine; errors as `with_trial`."""
        names = [machine.name for machine in self._core.project.machines]
        if name not in names:
            raise InputError(f"There is no machine called {name}.", f"There are: {', '.join(names) or 'none'}.")
        return self._with(set_machine(self._core.project, name, **_known(fields, Machine)))

    def adopt(self, plan: Plan) -> "Film":
        """Return the film with a plan's settings."""
        chosen = {shot: build(ShotSettings, fields, f"Plan of {shot}") for shot, fields in plan.settings.items()}
        for shot in chosen:
            self._shot(shot)
        return self._with(adopt(self._core.project, chosen))

    def save(self, path: "str | Path") -> None:
        """Write the film to a file, which is replaced whole.

        Raises
        ------
        FileError
            If it cannot be written.
        """
        write_project(self._core.project, Path(path))

    def _with(self, project: Project) -> "Film":
        return Film(replace(self._core, project=project))

    def _shot(self, name: str) -> Any:  # noqa: ANN401 - a record of the project, which is not promised
        for shot in self._core.project.shots:
            if shot.name == name:
                return shot
        raise InputError(f"There is no shot called {name}.", f"There are: {', '.join(self.shots[:20]) or 'none'}.")

    def __repr__(self) -> str:
        return f"<Film “{self.title}” of {len(self.shots)} shots>"


def open(path: "str | Path", seed: int = 0) -> Film:  # noqa: A001 - read as ``pemlo.open``
    """Read a film from a file.

    Parameters
    ----------
    path : str or Path
    seed : int
        Of the random numbers, >= 0; the same seed gives the same numbers.

    Raises
    ------
    FileError, InputError
        If it cannot be read.
    """
    return Film(open_film(Path(path), seed, datetime.now(UTC)))


def _known(fields: Mapping[str, Any], kind: type) -> Mapping[str, Any]:
    """Return fields if a record has all of them: one that is misspelt must not vanish."""
    names = getattr(kind, "model_fields", {})
    unknown = [name for name in fields if name not in names]
    if unknown:
        raise InputError(f"There is no field called {unknown[0]}.", f"There are: {', '.join(names)}.")
    return fields


def _shot_forecast(shot: CoreShotForecast) -> ShotForecast:
    seconds, hours = shot.seconds, shot.hours
    return ShotForecast(
        shot.shot,
        shot.frames,
        shot.trials,
        None if seconds is None else seconds.middle,
        None if seconds is None else (seconds.low, seconds.high),
        None if hours is None else hours.middle,
    )


def _forecast(project: Project, forecast: CoreForecast) -> Forecast:
    spare, finish = forecast.spare_h, forecast.finish
    return Forecast(
        None if forecast.hours is None else forecast.hours.middle,
        None if spare is None else forecast.hours_usable - spare,
        forecast.hours_usable,
        spare,
        forecast.probability,
        None if finish is None else finish[1],
        None if finish is None else (finish[0], finish[2]),
        verdict(project, forecast),
        tuple(map(_shot_forecast, forecast.shots)),
    )


def _plan(project: Project, found: FilmPlan) -> Plan:
    plan = found.plan
    likely, safe = np.quantile(plan.hours, [0.5, project.delivery.confidence])
    return Plan(
        plan.goal,
        plan.feasible,
        {shot: settings.model_dump(mode="json") for shot, settings in found.settings().items()},
        float(likely),
        float(safe),
        plan.probability,
        plan.missing_hours,
        None if math.isnan(plan.worst_ratio) else plan.worst_ratio,
    )
