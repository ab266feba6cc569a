"""Writes how a shot would look as picture files, so that they can be looked at like any others. Files; seconds."""

from collections.abc import Mapping
from pathlib import Path

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - its own short name

from pemlo.core.appraisal.preview import make_preview
from pemlo.core.errors import FileError
from pemlo.core.files.loading import load
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.pixels.source import F32
from pemlo.core.predict.shot_appearance import ShotAppearance
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.settings import ShotSettings

NAME = "predicted"
SAYS = "predicted by Pemlo: no render"


def write_preview(
    appearance: ShotAppearance, settings: ShotSettings, spent: float, folder: Path, monitor: Monitor | None = None
) -> Path | None:
    """Write the whole frame as it would look; where frames are left out, a few in a row as they would be shown.

    Parameters
    ----------
    appearance : ShotAppearance
        Of the shot.
    settings : ShotSettings
    spent : float
        Mean samples a pixel that they take.
    folder : path
        Where files go, under names of ours.
    monitor : Monitor, optional

    Returns
    -------
    path or None
        Of the frame, or of the first in a row; None if there is no picture with that denoiser.

    Raises
    ------
    FileError
        If a picture cannot be read or written.
    InputError
        If nothing is predicted of these settings.
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    if appearance.pictures is None:
        return None
    if settings.frame_step > 1 and appearance.pictures.run:
        return _write_run(appearance.pictures.run, settings, folder, watch)
    watch.step(0.0, "Predicting the whole frame")
    with PictureFile(appearance.pictures.reference) as clean:
        width, height = clean.size
    preview = make_preview(appearance.error_model, appearance.pictures, settings, spent, (0, 0, width, height))
    if preview is None:
        return None
    path = folder / f"{NAME}.exr"
    _write(preview.predicted, path)
    return path


def _write_run(run: Mapping[int, Path], settings: ShotSettings, folder: Path, watch: Monitor) -> Path:
    """Write frames in a row of which only some are rendered: the others hold the one before, or are mixed."""
    frames, step = sorted(run), settings.frame_step
    rendered = frames[::step]
    shown: dict[int, F32] = {}
    for number, frame in enumerate(rendered):
        watch.step(number / len(frames), "Predicting frames in a row")
        shown[frame] = load(run[frame], ReadOptions()).colour
    first = folder / f"{NAME}.{frames[0]:04d}.exr"
    for frame in frames[: (len(rendered) - 1) * step + 1]:
        before = max(one for one in rendered if one <= frame)
        after = min((one for one in rendered if one >= frame), default=before)
        way = 0.0 if after == before or settings.between == "hold" else (frame - before) / (after - before)
        mixed = np.float32(1 - way) * shown[before] + np.float32(way) * shown[after]
        _write(mixed, folder / f"{NAME}.{frame:04d}.exr")
    return first


def _write(colour: F32, path: Path) -> None:
    image = oiio.ImageBuf(np.ascontiguousarray(colour, np.float32))
    image.specmod().attribute("ImageDescription", SAYS)
    if not image.write(str(path), "half"):
        raise FileError(f"The picture cannot be written to {path}: {image.geterror()}")
