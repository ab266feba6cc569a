"""The picture sheet: a picture of every shot and every trial, labelled, with boxes to mark. Files; seconds."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from pemlo.core.errors import FileError, InputError
from pemlo.core.files.small import read_for_display
from pemlo.core.files.trial_pictures import picture_path, small_beside
from pemlo.core.film.film import Film
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.eye_marks import LARGEST_PERCENT
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import GOOD, Trial
from pemlo.core.trade.options import numbers_of
from pemlo.core.units import format_duration, machine_hours

WIDE = 300  # px
MOST_PICTURES = 400
_QUALITY = 88


@dataclass(frozen=True)
class SheetTrial:
    """A trial that stands on the sheet, by its place among all; None where a shot has no picture."""

    shot: str
    index: int | None
    trial: Trial | None
    picture: Path | None


@dataclass(frozen=True)
class SheetPicture:
    """A picture of the sheet, and what stands under it.

    Attributes
    ----------
    shot, title, words, hours : str
        The shot; shot and frame; settings and time; what the whole shot takes so, or why that is not known.
    mark : str
        How it is marked; empty for not yet.
    jpeg : bytes
        Empty where there is no picture.
    """

    shot: str
    title: str
    words: str
    hours: str
    mark: str
    jpeg: bytes


def shown_of(trial: Trial, folder: Path) -> Path | None:
    """Return the picture of a trial, or its small copy; None if neither is there."""
    if not trial.picture:
        return None
    whole = picture_path(trial, folder)
    if whole is not None:
        return whole
    return next((path for path in small_beside(folder / trial.picture) if path.is_file()), None)


def one_of_each(project: Project, folder: Path) -> tuple[SheetTrial, ...]:
    """Return for every shot the trial that stands for it: as planned, else what passed last, else the cleanest."""
    found = []
    for shot in project.shots:
        mine = _pictured(project, shot.name, folder)
        best = max(mine, key=lambda one: _stands_for(shot, one), default=None)
        found.append(best or SheetTrial(shot.name, None, None, None))
    return tuple(found)


def variants_of(project: Project, shot: str, folder: Path) -> tuple[SheetTrial, ...]:
    """Return every trial of a shot that has a picture, by frame and then from coarse to fine."""
    return tuple(sorted(_pictured(project, shot, folder), key=_by_frame))


def _pictured(project: Project, shot: str, folder: Path) -> list[SheetTrial]:
    return [
        SheetTrial(shot, index, trial, path)
        for index, trial in enumerate(project.trials)
        if trial.shot == shot and trial.region_percent is None and (path := shown_of(trial, folder)) is not None
    ]


def _by_frame(trial: SheetTrial) -> tuple[int, float, float, str]:
    assert trial.trial is not None
    return (
        trial.trial.frame,
        trial.trial.resolution_percent,
        trial.trial.mean_samples or trial.trial.samples,
        trial.trial.denoise,
    )


def _stands_for(shot: Shot, trial: SheetTrial) -> tuple[bool, bool, float, float]:
    assert trial.trial is not None
    as_planned = trial.trial.frame_fields() == shot.settings.frame_fields()
    samples = trial.trial.mean_samples or trial.trial.samples
    return as_planned, trial.trial.mark == GOOD, trial.trial.resolution_percent, float(samples)


def sheet_pictures(film: Film, of: Sequence[SheetTrial], monitor: Monitor | None = None) -> tuple[SheetPicture, ...]:
    """Return pictures with their labels; one that cannot be read says so.

    Raises
    ------
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    found = []
    for number, trial in enumerate(of):
        watch.step(number / len(of), f"Making the picture sheet, {trial.shot}")
        found.append(_picture(film, trial))
    return tuple(found)


def _picture(film: Film, trial: SheetTrial) -> SheetPicture:
    if trial.trial is None or trial.picture is None:
        return SheetPicture(trial.shot, trial.shot, "No picture yet.", "", "", b"")
    words = f"{settings_words(trial.trial)}; {format_duration(trial.trial.seconds)} a frame"
    title = f"{trial.shot}, frame {trial.trial.frame}"
    try:
        jpeg = _jpeg(trial.picture)
    except FileError as error:
        return SheetPicture(trial.shot, title, f"{words}. {error}", "", trial.trial.mark, b"")
    return SheetPicture(trial.shot, title, words, _hours(film, trial.shot, trial.trial), trial.trial.mark, jpeg)


def _hours(film: Film, name: str, trial: Trial) -> str:
    """Return what a whole shot takes as a trial was rendered; empty where that is not known."""
    fit, draws = film.known
    shot = film.project.shot(name)
    if name not in fit.shots or trial.resolution_percent > LARGEST_PERCENT or not fit.known:
        return ""
    fields = dict(trial.frame_fields()) | {"resolution_percent": max(trial.resolution_percent, 1.0)}
    try:
        planned = shot.replace(plan=ShotSettings.model_validate(fields))
        hours = numbers_of(film.project, fit, draws, planned, None).hours
    except (InputError, ValueError):
        return ""
    return f"whole shot {machine_hours(float(np.median(hours)))}"


def _jpeg(picture: Path) -> bytes:
    from PIL import Image  # noqa: PLC0415 - only where a page is made

    file = io.BytesIO()
    Image.fromarray(read_for_display(picture, WIDE)).save(file, "JPEG", quality=_QUALITY)
    return file.getvalue()
