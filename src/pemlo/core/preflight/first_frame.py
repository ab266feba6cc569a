"""The first frame of a launch, held against the plan: size, settings, layers, time, noise, colours. Files; seconds."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import numpy as np

from pemlo.core.appraisal.picture_comparison import ComparisonRequest, compare
from pemlo.core.appraisal.shot_appearance import appearance_of
from pemlo.core.arrivals.frame_check import Checked, check_frame, settings_differ
from pemlo.core.cost.draws import FilmDraws, draw_film, draw_frame
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import PemloError
from pemlo.core.files.loading import size_of
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.files.trial_pictures import picture_path
from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.source import F32, at_size, read_whole
from pemlo.core.preflight.finding import Finding, fine, not_known, wrong
from pemlo.core.preflight.left_on import HOLDS
from pemlo.core.preflight.pictures import needed_layers
from pemlo.core.project.launch import Colour
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.reference import cleanest
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shot_names import stands_in
from pemlo.core.project.shots import Shot
from pemlo.core.project.timed_sizes import file_sizes
from pemlo.core.project.trials import GOOD, Trial
from pemlo.core.trade.options import numbers_of
from pemlo.core.units import format_duration, format_interval

CHECK = "first frame"
COLOUR_CODES = 3.0  # a picture whose middle differs by more is of another colour; noise and a new seed stay below
ERROR_SLACK = 1.25  # beyond its interval an error may be off by so much: one frame of a shot stands for another
_TILES = (16, 9)
MOST_COMPARED = 8  # trials of the frame


@dataclass(frozen=True)
class FirstFrame:
    """What a first frame is held against.

    Attributes
    ----------
    project : Project
    fit : Fit
        Of its trials.
    folder : path
        From which names of pictures are taken.
    seed : int
        >= 0, of the draws.
    """

    project: Project
    fit: Fit
    folder: Path
    seed: int = 0

    @cached_property
    def _draws(self) -> FilmDraws:
        return draw_film(self.fit, self.project, self.seed)

    def findings(self, shot_name: str, path: Path) -> list[Finding]:
        """Return what is wrong with a frame that was rendered with launch settings; that all is fine if nothing is.

        Parameters
        ----------
        shot_name : str
        path : path
            Of the picture.
        """
        project = self.project
        shot = project.shot(shot_name)
        sizes = file_sizes(project.size_of(shot), shot.settings.resolution_percent)
        checked = check_frame(path, sizes[0], dict(project.watching.header_names), sizes[-1])
        if checked.trouble:
            words = f"The first frame of {shot_name} {checked.told}."
            return [wrong(CHECK, words, "Fix the launch.", shot_name)]
        said = dict(checked.said or {})
        frame = said.get("frame", _number_in(path))
        found = [
            *self._settings(shot, checked),
            *_layers(project, shot, path),
            *_left_on(project, shot, checked, path),
            *self._seconds(shot, frame, said.get("seconds"), str(said.get("machine", ""))),
            *self._pictures(shot, frame, path),
        ]
        return found or [fine(CHECK, shot_name, f"The first frame of {shot_name} is as planned: go.")]

    def _settings(self, shot: Shot, checked: Checked) -> list[Finding]:
        parts = (
            settings_differ(checked.said or {}, shot.settings),
            checked.not_read and f"in its header {checked.not_read}",
        )
        words = "; ".join(filter(None, parts))
        if not words:
            return []
        said = f"The first frame of {shot.name} is not as planned: {words}."
        return [wrong(CHECK, said, "Set it to the plan.", shot.name)]

    def _seconds(self, shot: Shot, frame: int | None, seconds: float | None, machine: str) -> list[Finding]:
        """Hold what a frame took against what is predicted on its machine."""
        if seconds is None:
            words = f"What the first frame of {shot.name} took is not known."
            return [not_known(CHECK, words, "Type its time in Trials.", shot.name)]
        if not self.fit.known:
            return []
        settings = FrameSettings.model_validate(shot.settings.frame_fields())
        at = shot.first if frame is None else frame
        drawn = draw_frame(self.fit, self.project, shot.name, at, settings, self.seed)
        speed = next((one.slot_speed() for one in self.project.machines if one.name == machine), 1.0)
        low, high = (float(one) for one in np.quantile(drawn / speed, [0.05, 0.95]))
        if low <= seconds <= high:
            return []
        words = f"The first frame of {shot.name} took {format_duration(seconds)}, and {format_duration(low)} to "
        words += f"{format_duration(high)} were predicted" + (f" on {machine}." if machine else ".")
        return [wrong(CHECK, words, "Find out why before the night, or count it as a trial.", shot.name)]

    def _pictures(self, shot: Shot, frame: int | None, path: Path) -> list[Finding]:
        """Hold a frame against trials of the same frame: colours against what was approved, noise as predicted."""
        pictured = [
            trial
            for trial in self.project.trials_of(shot.name)
            if trial.region_percent is None and picture_path(trial, self.folder) is not None
        ]
        same = [trial for trial in pictured if trial.frame == frame]
        if not same:
            frames = sorted({trial.frame for trial in pictured})
            hint = f"Render frame {frames[0]} first: there is a trial of it." if frames else "Bring in a trial."
            words = f"Whether the first frame of {shot.name} looks as approved is not known."
            return [not_known(CHECK, words, hint, shot.name)]
        try:
            return [*self._colours(shot, same, path), *self._error(shot, same, path)]
        except PemloError as error:  # a trial's picture that cannot be read says nothing of this one
            return [not_known(CHECK, f"It cannot be compared: {error.message}", "", shot.name)]

    def _colours(self, shot: Shot, same: list[Trial], path: Path) -> list[Finding]:
        """Hold colours against what was approved; fine if any trial of the frame has them: denoising dims a little."""
        approved = cleanest([trial for trial in same if trial.mark == GOOD]) or cleanest(same)
        own = _small_codes(path)
        steps = {
            trial: np.median(own - _small_codes(other), axis=(0, 1))
            for trial in dict.fromkeys((*same[:MOST_COMPARED], *(() if approved is None else (approved,))))
            if (other := picture_path(trial, self.folder)) is not None
        }
        if (
            approved is None
            or approved not in steps
            or any(np.abs(step).max() <= COLOUR_CODES for step in steps.values())
        ):
            return []
        red, green, blue = steps[approved]
        what = "approved trial" if approved.mark == GOOD else "cleanest trial"
        words = (
            f"The first frame of {shot.name} has other colours than the {what}: by {_signed(red)} levels in red, "
            f"{_signed(green)} in green, {_signed(blue)} in blue."
        )
        return [wrong(CHECK, words, "Look for lights, materials or a view that changed.", shot.name)]

    def _error(self, shot: Shot, same: list[Trial], path: Path) -> list[Finding]:
        reference = cleanest(same)
        clean = None if reference is None else picture_path(reference, self.folder)
        if clean is None or shot.name not in self.fit.shots or size_of(clean) != size_of(path):
            return []  # a picture that is brought to another size has other noise
        look = appearance_of(self.project.trials_of(shot.name), self.folder, Srgb())
        prediction = numbers_of(self.project, self.fit, self._draws, shot, look).found
        if prediction is None:
            return []
        measured = compare(ComparisonRequest(path, reference=clean), with_scores=False).measured.error
        if measured is None:
            return []
        # Noise of the reference is in what is measured where it cannot be told apart.
        least, most = prediction.total.low / ERROR_SLACK, prediction.total.high * ERROR_SLACK
        has = measured.total
        if has.low <= most and has.high >= least:
            return []
        words = (
            f"The first frame of {shot.name} errs by {format_interval(has)} levels, and "
            f"{format_interval(prediction.total)} were predicted."
        )
        return [wrong(CHECK, words, "See whether samples, threshold and denoising are those of the plan.", shot.name)]


def shots_of_files(project: Project, paths: Sequence[Path]) -> tuple[dict[str, Path], tuple[Path, ...]]:
    """Return of which shots files are, by the names in theirs: the longest that stands alone; and those of none."""
    names = sorted((shot.name for shot in project.shots), key=len, reverse=True)
    found: dict[str, Path] = {}
    left = []
    for path in paths:
        mine = next((name for name in names if stands_in(name, path.stem)), None)
        mine = mine or next((name for name in names if stands_in(name, path.parent.name)), None)
        if mine is None:
            left.append(path)
        else:
            found[mine] = path
    return found, tuple(left)


def frame_to_render(project: Project, shot_name: str) -> tuple[int, FrameSettings]:
    """Return which frame of a shot tells most as its first, and the settings that its launch has.

    One of which a trial has a picture can be compared; else it is the frame in the middle.
    """
    shot = project.shot(shot_name)
    pictured = [trial for trial in project.trials_of(shot_name) if trial.picture and trial.region_percent is None]
    best = next((trial for trial in pictured if trial.mark == GOOD), None) or cleanest(pictured)
    frame = shot.middle if best is None else best.frame
    row = next((one for one in project.launch if one.shot == shot_name), None)
    fields = dict(shot.settings.frame_fields())
    if row is not None:
        said = {"samples": row.samples, "denoise": row.denoise or None, "resolution_percent": row.percent}
        fields |= {name: value for name, value in said.items() if value is not None}
        if row.threshold is not None:
            fields["noise_threshold"] = row.threshold or None
        if not fields["noise_threshold"]:
            fields["min_samples"] = None
    return frame, build(FrameSettings, fields, f"Launch of {shot_name}")


def _number_in(path: Path) -> int | None:
    """Return the number of a frame that its name says; None if it says none."""
    numbers = re.findall(r"(?<!\d)\d{1,9}(?!\d)", path.stem)
    return int(numbers[-1]) if numbers else None


def _left_on(project: Project, shot: Shot, checked: Checked, path: Path) -> list[Finding]:
    """Say what a header tells of a test that was left on: a region, pixels that are not square."""
    found = []
    if (checked.said or {}).get("region_percent") is not None:
        words = f"The first frame of {shot.name} was rendered in a region alone."
        found.append(wrong(CHECK, words, "Render whole frames.", shot.name))
    with PictureFile(path) as file:
        aspect = file.header.attributes.get("PixelAspectRatio", "1")
        linear = file.scene_linear
    if _number(aspect) not in (None, 1.0):
        words = f"Pixels of the first frame of {shot.name} are {aspect} times as wide as high."
        found.append(wrong(CHECK, words, "Use a pixel aspect of 1.", shot.name))
    needs = project.needs.colour
    holds: Colour = "scene-linear" if linear else "display"
    if needs and holds != needs:
        words = f"The first frame of {shot.name} holds {HOLDS[holds]}, and {HOLDS[needs]} is delivered."
        found.append(wrong(CHECK, words, f"Write {needs} files.", shot.name))
    return found


def _number(text: str) -> float | None:
    try:
        return float(text)
    except ValueError:
        return None


def _layers(project: Project, shot: Shot, path: Path) -> list[Finding]:
    wanted = needed_layers(project, shot)
    if not wanted:
        return []
    with PictureFile(path) as file:
        pictured = {layer.name.lower() for layer in file.layers}
    missing = [name for name in wanted if name.lower() not in pictured]
    if not missing:
        return []
    words = f"The first frame of {shot.name} lacks the layers {', '.join(missing)}."
    return [wrong(CHECK, words, "Switch them on.", shot.name)]


def _small_codes(path: Path) -> F32:
    """Return a picture in a few tiles, in display codes: noise is gone there, colours are not."""
    with PictureFile(path, ReadOptions()) as file:
        return Srgb().codes(read_whole(at_size(file, _TILES)).colour)


def _signed(codes: float) -> str:
    return f"{'+' if codes > 0 else '−'}{abs(codes):.0f}"
