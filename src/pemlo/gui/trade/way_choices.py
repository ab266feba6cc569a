"""The ways that can be put side by side: as asked, as planned, trials, kept plans, typed settings. Qt-free."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from pemlo.core.errors import InputError
from pemlo.core.project.edits import take_plan
from pemlo.core.project.project import Project
from pemlo.core.project.settings import NO_DENOISE, FrameSettings, ShotSettings
from pemlo.core.project.settings_text import settings_over
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import Trial
from pemlo.core.units import format_duration

if TYPE_CHECKING:
    from pemlo.core.trade.two_ways import Way

ASKED, PLANNED, TYPED = "as asked", "as planned", "typed"
# Gives the settings of a shot, from the project and what was typed.
SettingsOf = Callable[[Project, Shot, str], ShotSettings]


@dataclass(frozen=True)
class WayChoice:
    """A way that can be chosen; a trial's knows what it took."""

    name: str
    settings_of: SettingsOf
    trial: Trial | None = None

    def way(self, project: Project, shot: str, typed: str, *, of_film: bool) -> "Way":
        """Return the way for a shot, or for all of them.

        Raises
        ------
        InputError
            If it cannot be had.
        """
        from pemlo.core.trade.levers import why_not  # noqa: PLC0415 - heavy to load
        from pemlo.core.trade.two_ways import Way  # noqa: PLC0415 - as above

        shots = project.shots if of_film else (project.shot(shot),)
        settings = {one.name: self.settings_of(project, one, typed) for one in shots}
        for one in shots:
            reason = why_not(one, settings[one.name])
            if reason:
                raise InputError(reason)
        return Way(typed.strip() if self.name == TYPED else self.name, settings)


def way_choices(project: Project, shot: Shot, *, of_film: bool) -> tuple[WayChoice, ...]:
    """Return the ways of a shot, or of the film."""
    found = [
        WayChoice(ASKED, lambda _, one, __: one.asked),
        WayChoice(PLANNED, lambda _, one, __: one.settings),
    ]
    if not of_film:
        found += [
            WayChoice(_trial_name(trial), _as_trial(trial), trial)
            for trial in project.trials_of(shot.name)
            if trial.region_percent is None
        ]
    found += [WayChoice(f"plan {plan.name}", _as_kept(plan.name)) for plan in project.plans]
    return (*{way_choice.name: way_choice for way_choice in found}.values(), WayChoice(TYPED, _as_typed))


def _trial_name(trial: Trial) -> str:
    about = "~" if trial.assumed else ""
    return f"frame {trial.frame}, {settings_words(trial)}: {about}{format_duration(trial.seconds)}"


def _as_trial(trial: Trial) -> SettingsOf:
    fields = {name: getattr(trial, name) for name in FrameSettings.model_fields}
    return lambda _project, _shot, _typed: ShotSettings.model_validate(fields)


def _as_kept(name: str) -> SettingsOf:
    return lambda project, shot, _: take_plan(project, name).shot(shot.name).settings


def _as_typed(project: Project, shot: Shot, typed: str) -> ShotSettings:
    if not typed.strip():
        raise InputError("Nothing is typed yet.", "Write settings over what was asked, like samples=64,denoise=frame.")
    settings = settings_over(shot.asked, typed)
    costs = project.cost_factors()
    known = {NO_DENOISE, *costs.denoisers, *costs.switches, *(way.name for way in costs.ways)}
    unknown = [name for name in (settings.denoise, *settings.switched) if name not in known]
    if unknown:
        raise InputError(f"What “{unknown[0]}” costs is not known.", "Time a frame with it, or try it on paper.")
    return settings
