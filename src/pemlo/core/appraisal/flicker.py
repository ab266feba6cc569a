"""What changes along a sequence of picture files: flicker, and what leaving frames out costs. Files; may take long."""

from collections.abc import Mapping, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from pemlo.core.appraisal.frame_appearance import TrialPicture, plain_flicker
from pemlo.core.errors import InputError
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.files.sequence import Sequence as FrameSequence
from pemlo.core.measure.flicker import Flicker, of_three
from pemlo.core.measure.motion import stepping, still_noise
from pemlo.core.pixels.display import F32, Display
from pemlo.core.pixels.source import Source, at_size, read_whole
from pemlo.core.predict.error_model import ErrorModel
from pemlo.core.predict.flicker import FlickerModel, MeasuredFlicker, flicker_model
from pemlo.core.progress import Monitor, Unwatched

MOST_STEPPED = 9


@dataclass(frozen=True)
class AlongSequence:
    """What changes along a sequence.

    Attributes
    ----------
    flicker : mapping of int to Flicker
        Of each frame that has both its neighbours.
    stepping : tuple of float, optional
        Error of every second frame, held and mixed, levels; None if no three frames follow each other.
    """

    flicker: Mapping[int, Flicker]
    stepping: tuple[float, float] | None


def along(
    run: FrameSequence, display: Display, reading: ReadOptions | None = None, monitor: Monitor | None = None
) -> AlongSequence:
    """Return what changes along a sequence.

    Raises
    ------
    FileError
        If a picture cannot be read.
    Cancelled
        From the monitor.
    """
    flickers, noises = _frame_by_frame(run.paths, display, reading, monitor or Unwatched())
    row = _first_row(list(run.paths))
    if len(row) <= 2:
        return AlongSequence(flickers, None)
    noise = float(np.median(noises)) if noises else 0.0
    return AlongSequence(flickers, stepping_along([run.paths[frame] for frame in row], display, noise, reading))


def _first_row(frames: Sequence[int]) -> list[int]:
    """Return the first three or more frames that follow each other, to their end; fewer if there are none."""
    row: list[int] = []
    for frame in frames:
        if row and frame != row[-1] + 1:
            if len(row) > 2:
                break
            row = []
        row.append(frame)
    return row


def _frame_by_frame(
    paths: Mapping[int, Path], display: Display, reading: ReadOptions | None, watch: Monitor
) -> tuple[dict[int, Flicker], list[float]]:
    """Return the flicker of each frame between its neighbours, and the noise of still pixels of each pair."""
    flickers: dict[int, Flicker] = {}
    noises: list[float] = []
    last: list[tuple[int, F32]] = []
    size = (0, 0)
    for number, (frame, path) in enumerate(paths.items()):
        watch.step(number / len(paths), f"Measuring flicker, {path.name}")
        with PictureFile(path, reading) as file:
            size = size if last else file.size
            codes = display.codes(read_whole(at_size(file, size)).colour)
        last = [*(one for one in last[-2:] if frame - one[0] <= 2), (frame, codes)]
        if len(last) > 1 and (found := still_noise(last[-2][1], codes).value) is not None:
            noises.append(found)
        if [one for one, _ in last] == [frame - 2, frame - 1, frame]:
            flickers[frame - 1] = of_three(*(picture for _, picture in last))
    return flickers, noises


def stepping_along(
    paths: Sequence[Path], display: Display, noise: float, reading: ReadOptions | None = None
) -> tuple[float, float]:
    """Return the error of rendering every second frame of a sequence, held and mixed, levels.

    Parameters
    ----------
    paths : sequence of path
        Of consecutive frames; the first `MOST_STEPPED` of them count.
    noise : float
        What a frame varies by itself, levels.
    """
    with ExitStack() as files:
        frames: list[Source] = [files.enter_context(PictureFile(path, reading)) for path in paths[:MOST_STEPPED]]
        held, mixed = (stepping(frames, 2, display, blend=blend, noise=noise) for blend in (False, True))
    return held, mixed


def flicker_of_run(picture: TrialPicture, along_sequence: AlongSequence, model: ErrorModel) -> FlickerModel:
    """Return how much denoisers flicker, with what a sequence of pictures shows of one that had no twin.

    Parameters
    ----------
    picture : TrialPicture
        One of the sequence.
    along_sequence : AlongSequence
        What changes along it.
    model : ErrorModel
        Of the shot. Flicker is a part of a picture's error: more than that is movement, and does not count.
    """
    values = [flicker.value for flicker in along_sequence.flicker.values() if flicker.value is not None]
    try:
        most = model.predict(picture.settings, picture.samples).total.middle
    except InputError:
        most = np.inf
    if not values or np.median(values) > most:
        return model.flicker
    mine = MeasuredFlicker(picture.settings.denoise, float(np.median(values)), plain_flicker(model, picture))
    return FlickerModel({**model.flicker.shares, **flicker_model([mine]).shares})
