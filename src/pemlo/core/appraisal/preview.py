"""Makes a part of a frame as it would look with settings that were never rendered. Files; a second or so.

The reference is given what a trial was measured to err by, pixel by pixel, in proportion to the error that is
predicted: the trial's own noise where it was not denoised, what a denoiser left where it was. So the noise lies where
this renderer puts it, and hangs together as it does there; the picture is no render, and says so.
"""

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from pemlo.core.appraisal.frame_appearance import bands_of
from pemlo.core.files.loading import load_part
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.pixels.box import Box
from pemlo.core.pixels.rescale import smaller_size, there_and_back
from pemlo.core.pixels.source import F32, ArraySource, read_whole
from pemlo.core.predict.error_model import ErrorModel
from pemlo.core.predict.shot_appearance import FramePictures, PictureSample
from pemlo.core.project.settings import FrameSettings

FULL = 100.0
_ROUNDS = 6


@dataclass(frozen=True)
class Preview:
    """Two (H, W, 3) parts, scene-linear: the reference and what is predicted; and the trial whose error was taken."""

    reference: F32
    predicted: F32
    taken_from: PictureSample


def make_preview(
    model: ErrorModel,
    pictures: FramePictures,
    settings: FrameSettings,
    spent: float,
    box: Box,
    reading: ReadOptions | None = None,
) -> Preview | None:
    """Return a part of a frame as it would look.

    Parameters
    ----------
    model : ErrorModel
        Of the frame.
    pictures : FramePictures
    settings : FrameSettings
    spent : float
        Mean samples a pixel that they take.
    box : tuple of int
        Left, top, right and bottom, px of the reference.
    reading : ReadOptions, optional

    Returns
    -------
    Preview or None
        None if there is no picture with that denoiser.

    Raises
    ------
    FileError
        If a picture cannot be read.
    InputError
        If nothing is predicted of these settings.
    """
    alike = [sample for sample in pictures.samples if sample.settings.denoise == settings.denoise and sample.error > 0]
    if not alike:
        return None
    # What is switched is in a picture as it is: another picture stands in for it only where there is none.
    alike = [
        picture_sample for picture_sample in alike if picture_sample.settings.switched == settings.switched
    ] or alike
    wanted = model.predict(settings.model_copy(update={"resolution_percent": 100.0}), spent).total.middle
    nearest = min(alike, key=lambda picture_sample: abs(np.log(picture_sample.error / wanted)))
    how = reading or ReadOptions()
    with PictureFile(pictures.reference, reading) as clean:
        size = clean.size
    there, trial = (load_part(path, how, size, box) for path in (pictures.reference, nearest.path))
    made = np.maximum(there + np.float32(_scale(model, pictures.reference, nearest, wanted, how)) * (trial - there), 0)
    if settings.resolution_percent < FULL:
        part = ArraySource(made)
        made = read_whole(there_and_back(part, smaller_size(part.size, settings.resolution_percent), part.size)).colour
    return Preview(there, np.asarray(made, np.float32), nearest)


def _scale(model: ErrorModel, reference: Path, sample: PictureSample, wanted: float, how: ReadOptions) -> float:
    """Return by which factor a trial's difference to the reference is to be taken, in light, to err as is wanted.

    On a display the error is not in proportion to it: it is searched for, on some bands of the whole picture.
    """
    with PictureFile(reference, how) as clean, PictureFile(sample.path, how) as trial:
        bands = bands_of(clean.size)
        there = np.concatenate([clean.rows(*band).colour for band in bands])
        step = np.concatenate([trial.rows(*band).colour for band in bands]) - there
    shown = model.display.codes(there)

    def error(scale: float) -> float:
        codes = model.display.codes(np.maximum(there + np.float32(scale) * step, 0))
        return float(np.sqrt(np.mean((codes - shown) ** 2, dtype=np.float64)))

    target = error(1.0) * sample.times(wanted)
    scale = sample.times(wanted)
    for _ in range(_ROUNDS):
        scale *= target / max(error(scale), 1e-9)
    return scale
