"""Changes of a film's levers, pins, ceilings and weights. Pure; each returns another film."""

from collections.abc import Sequence

from pemlo.core.errors import InputError
from pemlo.core.project.edits import set_shot, set_shots
from pemlo.core.project.eye_marks import at_size
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import AllowedLever, FrameSettings, LeverName, ShotSettings
from pemlo.core.project.shots import SettingsMark, Shot
from pemlo.core.trade.levers import moved, why_not


def set_lever(project: Project, names: Sequence[str], lever: LeverName, value: object) -> Project:
    """Return a film in which a lever of some shots has moved: the first to a value, the others in step with it.

    Samples and thresholds of the others keep their proportion to what was asked; other levers take the same value,
    where they can have it.

    Raises
    ------
    InputError
        If the first cannot have it.
    """
    first = project.shot(names[0])
    reason = why_not(first, moved(first.settings, first.asked, lever, value))
    if reason:
        raise InputError(reason)
    base = getattr(first.asked, lever)
    times = value / base if isinstance(value, int | float) and isinstance(base, int | float) and base else None
    new: dict[str, dict[str, object]] = {}
    for name in names:
        shot = project.shot(name)
        own = value
        if name != names[0] and lever in {"samples", "noise_threshold"}:
            asked = getattr(shot.asked, lever)
            if asked is None or times is None:
                continue
            own = max(1, round(asked * times)) if lever == "samples" else float(f"{asked * times:.3g}")
        settings = moved(shot.settings, shot.asked, lever, own)
        if not why_not(shot, settings):
            new[name] = {"plan": None if settings == shot.asked else settings}
    return set_shots(project, new)


def set_pin(project: Project, names: Sequence[str], lever: LeverName, *, on: bool) -> Project:
    """Return a film in which a lever of some shots is pinned, or free."""
    new: dict[str, dict[str, object]] = {}
    for name in names:
        others = tuple(one for one in project.shot(name).pins if one != lever)
        new[name] = {"pins": (*others, lever) if on else others}
    return set_shots(project, new)


def allow(project: Project, names: Sequence[str], lever: AllowedLever, *, on: bool) -> Project:
    """Return a film in which plans may move a lever of some shots that changes what the picture is, or not."""
    new: dict[str, dict[str, object]] = {}
    for name in names:
        others = tuple(one for one in project.shot(name).allows if one != lever)
        new[name] = {"allows": (*others, lever) if on else others}
    return set_shots(project, new)


def set_field(project: Project, names: Sequence[str], field: str, text: str) -> Project:
    """Return a film in which some shots have a ceiling or a weight, as it was typed; empty for none.

    Raises
    ------
    InputError
        If it is no number, or not allowed.
    """
    empty = {"ceiling": None, "weight": 1.0}[field]
    try:
        value = float(text) if text else empty
    except ValueError:
        raise InputError(f"“{text}” is no {field}.", "Type a number such as 2.5, or nothing.") from None
    return set_shots(project, {name: {field: value} for name in names})


def as_asked(project: Project, names: Sequence[str]) -> Project:
    """Return a film in which some shots are rendered as they were asked."""
    return set_shots(project, {name: {"plan": None} for name in names})


def take(project: Project, name: str, settings: ShotSettings) -> Project:
    """Return a film in which a shot is planned with settings."""
    shot = project.shot(name)
    return set_shot(project, name, plan=None if settings == shot.asked else settings)


def like_trial(project: Project, index: int) -> Project:
    """Return a film in which a shot is planned as one of its trials was rendered.

    A trial that is smaller than what is asked for stands for what looks like it at that size, unless its own size was
    said to pass. Frames that are left out stay as they are planned.

    Raises
    ------
    InputError
        If the settings cannot be had for the shot.
    """
    trial = project.trials[index]
    shot = project.shot(trial.shot)
    seen: FrameSettings = trial
    if trial.resolution_percent < shot.asked.resolution_percent and not trial.mark_size:
        seen = at_size(trial, shot.asked.resolution_percent)
    fields = {name: getattr(seen, name) for name in FrameSettings.model_fields}
    settings = shot.settings.replace(**fields)
    reason = why_not(shot, settings)
    if reason:
        raise InputError(reason)
    return take(project, shot.name, settings)


def pin(project: Project, shot: Shot, settings: ShotSettings, levers: Sequence[LeverName]) -> Project:
    """Return a film in which a shot has settings as its plan, and some levers of it are pinned."""
    return set_shot(project, shot.name, plan=settings, pins=(*shot.pins, *levers))


def mark_by_eye(project: Project, names: Sequence[str], what: str, note: str) -> Project:
    """Return a film in which shots are marked by eye as they are planned; a mark on the same settings gives way."""
    for name in names:
        shot = project.shot(name)
        kept = tuple(mark for mark in shot.marks if mark.settings != shot.settings)
        made = build(SettingsMark, {"settings": shot.settings, "mark": what, "note": note}, f"Mark of {name}")
        project = set_shot(project, name, marks=(*kept, made))
    return project
