"""Names of pictures: whole in memory, so that they hold wherever the project is saved; short in its file. Pure."""

import os
from collections.abc import Callable
from pathlib import Path

from pemlo.core.project.project import Project
from pemlo.core.project.trials import Trial


def with_whole_names(project: Project, folder: Path) -> Project:
    """Return a project whose names of pictures are absolute; relative ones are taken from a folder.

    Examples
    --------
    A trial's ``renders/a.exr`` of a project in ``/film`` becomes ``/film/renders/a.exr``.
    """
    return _with_trials(project, whole_names(project.trials, folder))


def whole_names(trials: tuple[Trial, ...], folder: Path) -> tuple[Trial, ...]:
    """Return trials whose names of pictures are absolute; relative ones are taken from a folder."""
    whole = _absolute(folder)
    return _renamed(trials, lambda name: str(whole / name))


def with_short_names(project: Project, folder: Path) -> Project:
    """Return a project whose names of pictures are relative where they lie in a folder, else absolute."""
    whole = _absolute(folder)

    def short(name: str) -> str:
        path = whole / name
        return path.relative_to(whole).as_posix() if path.is_relative_to(whole) else str(path)

    return _with_trials(project, _renamed(project.trials, short))


def _absolute(folder: Path) -> Path:
    return Path(os.path.abspath(folder))  # noqa: PTH100 - links in it stay as they are


def _renamed(trials: tuple[Trial, ...], rename: Callable[[str], str]) -> tuple[Trial, ...]:
    """Return trials with other names of pictures; the same tuple where nothing changes."""
    found = []
    for trial in trials:
        names = {name: rename(old) for name in ("picture", "error_against") if (old := getattr(trial, name))}
        changed = any(getattr(trial, name) != new for name, new in names.items())
        # Nothing else is touched, so nothing needs to be checked again.
        found.append(trial.model_copy(update=names) if changed else trial)
    same = all(new is old for new, old in zip(found, trials, strict=True))
    return trials if same else tuple(found)


def _with_trials(project: Project, trials: tuple[Trial, ...]) -> Project:
    return project if trials is project.trials else project.model_copy(update={"trials": trials})
