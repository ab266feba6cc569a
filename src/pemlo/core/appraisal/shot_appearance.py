"""Finds out how shots look from the pictures of their trials: for each the frame with most of them. Takes seconds."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from pathlib import Path

from pemlo.core.appraisal.flicker import AlongSequence, along, flicker_of_run
from pemlo.core.appraisal.frame_appearance import FrameAppearance, TrialPicture, appraise_frame
from pemlo.core.errors import FileError
from pemlo.core.files.picture_file import ReadOptions
from pemlo.core.files.sequence import Sequence
from pemlo.core.files.trial_pictures import picture_path
from pemlo.core.pixels.display import Display
from pemlo.core.predict.shot_appearance import FramePictures, PictureSample, ShotAppearance
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.project import Project
from pemlo.core.project.reference import cleanest, same_with_another_seed
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial

FEWEST_IN_A_ROW = 3


def appearances_of(
    project: Project, folder: Path, display: Display, reading: ReadOptions | None = None, monitor: Monitor | None = None
) -> tuple[Mapping[str, ShotAppearance], tuple[FileError, ...]]:
    """Return how the shots of a film look, those of which enough is known, and what could not be read.

    Parameters
    ----------
    project : Project
    folder : path
        From which relative names of pictures are taken: the project's.
    display : Display
    reading : ReadOptions, optional
    monitor : Monitor, optional

    Raises
    ------
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    found, troubles = {}, []
    for number, shot in enumerate(project.shots):
        watch.step(number / len(project.shots), f"Looking at {shot.name}")
        try:
            appearance = appearance_of(project.trials_of(shot.name), folder, display, reading)
        except FileError as error:
            troubles.append(error)
            continue
        if appearance is not None:
            found[shot.name] = appearance
    return found, tuple(troubles)


def appearance_of(
    trials: Iterable[Trial], folder: Path, display: Display, reading: ReadOptions | None = None
) -> ShotAppearance | None:
    """Return how a shot looks, from its trials; None if no picture tells enough.

    Raises
    ------
    FileError
        If a picture is damaged.
    """
    with_picture = [
        trial for trial in trials if trial.region_percent is None and picture_path(trial, folder) is not None
    ]
    frames = [trial.frame for trial in with_picture]
    for frame in sorted(dict.fromkeys(frames), key=lambda one: (-frames.count(one), one)):
        of_frame = [trial for trial in with_picture if trial.frame == frame]
        reference = cleanest(of_frame)
        if reference is None:
            continue
        others = [
            trial
            for trial in of_frame
            if trial is not reference and trial.resolution_percent == reference.resolution_percent
        ]
        others.sort(key=lambda trial: trial.mean_samples or trial.samples)
        clean = _pictured(reference, of_frame, folder)
        pictured = [_pictured(trial, of_frame, folder) for trial in others]
        appearance = appraise_frame(clean, pictured, display, reading)
        if appearance.error_model is not None:
            trial, run = _in_a_row(with_picture, folder)
            changes = along(Sequence("", dict(run)), display, reading) if run else AlongSequence({}, None)
            pictures = _pictures(clean, pictured, appearance, run)
            model = appearance.error_model
            if trial is not None and model.flicker.source(trial.denoise) == "assumed":
                model = replace(model, flicker=flicker_of_run(_pictured(trial, [], folder), changes, model))
            return ShotAppearance(frame, reference.resolution_percent, model, _stepping(changes), pictures)
    return None


def _pictures(
    reference: TrialPicture, others: Iterable[TrialPicture], appearance: FrameAppearance, run: Mapping[int, Path]
) -> FramePictures:
    pairs = list(zip(others, appearance.errors, strict=True))
    samples = tuple(
        PictureSample(trial_picture.path, trial_picture.settings, error.total.middle, error.reference_noise or 0.0)
        for trial_picture, error in pairs
    )
    noisiest = max(appearance.errors, key=lambda error: error.total.middle, default=None)
    spots = () if noisiest is None else noisiest.map.spots(1)
    size = (1, 1) if appearance.error_model is None else appearance.error_model.size
    return FramePictures(reference.path, samples, spots[0] if spots else (0, 0, *size), run)


def _pictured(trial: Trial, among: Iterable[Trial], folder: Path) -> TrialPicture:
    twin = same_with_another_seed(trial, among)
    settings = FrameSettings.model_validate(trial.frame_fields())
    path = folder / trial.picture
    second = None if twin is None else picture_path(twin, folder)
    return TrialPicture(path, settings, float(trial.mean_samples or trial.samples), second)


def _in_a_row(trials: Iterable[Trial], folder: Path) -> tuple[Trial | None, Mapping[int, Path]]:
    """Return the pictures of the most trials with equal settings, by frame, and one of these trials, if enough are."""
    rows: dict[tuple[object, ...], dict[int, Trial]] = {}
    for trial in trials:
        rows.setdefault(tuple(trial.frame_fields().values()), {}).setdefault(trial.frame, trial)
    longest = max(rows.values(), key=len, default={})
    if len(longest) < FEWEST_IN_A_ROW:
        return None, {}
    return next(iter(longest.values())), {frame: folder / longest[frame].picture for frame in sorted(longest)}


def _stepping(changes: AlongSequence) -> Mapping[str, float]:
    """Return the error of every second frame, held and mixed; empty if pictures do not tell."""
    return {} if changes.stepping is None else dict(zip(("hold", "blend"), changes.stepping, strict=True))
