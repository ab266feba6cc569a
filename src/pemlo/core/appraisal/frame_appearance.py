"""Finds out from its picture files how a frame looks, to predict errors of other settings. Takes seconds."""

from collections.abc import Sequence
from contextlib import ExitStack
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import numpy.typing as npt

from pemlo.core.appraisal.picture_comparison import was_denoised
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.measure.flicker import BLOCK, between_seeds
from pemlo.core.measure.frame import Error, MeasureRequest, measure
from pemlo.core.pixels.display import Display
from pemlo.core.pixels.source import at_size
from pemlo.core.predict.denoisers import MeasuredDenoising
from pemlo.core.predict.error_model import ErrorModel, MeasuredTrial, make_error_model
from pemlo.core.predict.flicker import MeasuredFlicker, flicker_model
from pemlo.core.predict.grain_curve import Noise, noise_of
from pemlo.core.predict.scaling import scaling_curve
from pemlo.core.predict.switches import Effect, MeasuredNoise, effect, others_than
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.settings import NO_DENOISE, FrameSettings

_BAND, _MOST_PIXELS = 64, 200_000


@dataclass(frozen=True)
class TrialPicture:
    """A picture of a frame: its file, how it was rendered, the samples a pixel took, and its twin of another seed."""

    path: Path
    settings: FrameSettings
    samples: float
    second: Path | None = None

    @property
    def denoised(self) -> bool:
        return self.settings.denoise != NO_DENOISE


@dataclass(frozen=True)
class FrameAppearance:
    """How a frame looks, None if no picture tells its variance; and the errors of its pictures, in their order."""

    error_model: ErrorModel | None
    errors: tuple[Error, ...]


def appraise_frame(
    reference: TrialPicture,
    others: Sequence[TrialPicture],
    display: Display,
    reading: ReadOptions | None = None,
    monitor: Monitor | None = None,
) -> FrameAppearance:
    """Find out how a frame looks.

    Parameters
    ----------
    reference : TrialPicture
        The cleanest.
    others : sequence of TrialPicture
        Of the same frame, from coarse to fine. All are measured; those of the reference's size tell how it looks.
    display : Display
    reading : ReadOptions, optional
        How all are read.
    monitor : Monitor, optional

    Raises
    ------
    FileError
        If one cannot be read.
    InputError
        If they do not show the same frame.
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    errors = []
    switched = reference.settings.switched
    for number, trial_picture in enumerate(others):
        watch.step(number / len(others), "Measuring the trials of the frame")
        errors.append(
            _measured(trial_picture, reference, display, reading, alike=trial_picture.settings.switched == switched)
        )
    full = [
        (trial_picture, error)
        for trial_picture, error in zip(others, errors, strict=True)
        if trial_picture.settings.resolution_percent == reference.settings.resolution_percent
    ]
    others_on = [pair for pair in full if pair[0].settings.switched != switched and not pair[0].denoised]
    full = [pair for pair in full if pair[0].settings.switched == switched]
    plain = [(trial_picture, error) for trial_picture, error in full if not trial_picture.denoised]
    # The cleanest but the reference shows noise best: where it lies on the curve the reference then tells.
    candidates: list[tuple[TrialPicture, Error | None]] = [*reversed(plain), (reference, None)]
    found = next(
        ((n, *candidate) for candidate in candidates if (n := _noise(candidate[0], reference, reading)) is not None),
        None,
    )
    if found is None:
        return FrameAppearance(None, tuple(errors))
    noise, picture, error_of_it = found
    seen = None if error_of_it is None else MeasuredTrial(picture.settings, picture.samples, error_of_it.total.middle)
    known = [_known(trial_picture, error) for trial_picture, error in full if trial_picture.denoised]
    with PictureFile(reference.path, reading) as clean:
        scaling = scaling_curve(clean, display, monitor)
        model = make_error_model(clean.size, noise, scaling, seen, known, display)
    effects = _switch_effects(
        others_on, [trial_picture for trial_picture, _ in plain], reference, display, reading, model
    )
    flickers = [_flicker(twins, model, display, reading) for twins, _ in full]
    flicker = flicker_model([measured for measured in flickers if measured is not None])
    model = replace(model, switched=switched, effects=effects, flicker=flicker)
    return FrameAppearance(model, tuple(errors))


def _flicker(
    picture: TrialPicture, model: ErrorModel, display: Display, reading: ReadOptions | None
) -> MeasuredFlicker | None:
    """Return the flicker of a denoised picture that has a twin: nothing moves between the two."""
    if picture.second is None or not picture.denoised:
        return None
    with PictureFile(picture.path, reading) as picture_file, PictureFile(picture.second, reading) as twin:
        if picture_file.size != twin.size:
            return None
        codes = [
            np.concatenate([display.codes(file.rows(*band).colour) for band in bands_of(picture_file.size)])
            for file in (picture_file, twin)
        ]
    return MeasuredFlicker(picture.settings.denoise, between_seeds(*codes), plain_flicker(model, picture))


def plain_flicker(model: ErrorModel, picture: TrialPicture) -> float:
    """Return the flicker that a picture's samples would leave without denoising, levels."""
    return float(model.curve_of(picture.settings).at(picture.samples).middle) / BLOCK


def _switch_effects(
    others_on: Sequence[tuple[TrialPicture, Error]],
    plain: Sequence[TrialPicture],
    reference: TrialPicture,
    display: Display,
    reading: ReadOptions | None,
    model: ErrorModel,
) -> dict[str, Effect]:
    """Return what each switch does to the picture, from trials that differ from the reference in it alone."""
    effects: dict[str, Effect] = {}
    for trial_picture, error in sorted(others_on, key=lambda pair: pair[0].samples):
        names = others_than(trial_picture.settings.switched, reference.settings.switched)
        if len(names) != 1 or not plain:
            continue
        # What a variance makes of codes is off by the tails of light: the same is measured without, and taken out.
        near = min(plain, key=lambda other: abs(np.log(other.samples / trial_picture.samples)))
        without = _measured(near, reference, display, reading, alike=False)
        on, off = _shown(trial_picture, error), _shown(near, without)
        if on is not None and off is not None:
            here, measured_noise = (on, off) if names[0] in trial_picture.settings.switched else (off, on)
            effects[names[0]] = effect(here, measured_noise, model.curve)
    return effects


def _shown(picture: TrialPicture, error: Error) -> MeasuredNoise | None:
    if error.grain is None or error.softening is None:
        return None
    return MeasuredNoise(picture.samples, error.grain, error.softening)


def _known(picture: TrialPicture, error: Error) -> MeasuredDenoising:
    bias = None if error.softening is None else error.softening.middle
    return MeasuredDenoising(picture.samples, picture.settings.denoise, error.total.middle, error.grain, bias)


def _noise(picture: TrialPicture, reference: TrialPicture, reading: ReadOptions | None) -> Noise | None:
    """Return the noise of one sample from some bands of a picture: they tell as much as all of a large one."""
    with PictureFile(picture.path, reading) as noisy, PictureFile(reference.path, reading) as clean:
        if not noisy.has_variance or was_denoised(noisy):
            return None
        bands = bands_of(noisy.size)
        cleaner = at_size(clean, noisy.size)
        rows = [noisy.rows(*band) for band in bands]
        means = [cleaner.rows(*band).colour for band in bands]
        counted = next((layer for layer in noisy.layers if layer.name == "samples"), None)
        taken: npt.NDArray[np.floating] | float = picture.samples
        if counted is not None:
            taken = np.concatenate([noisy.channels(counted.channels[:1], *band)[..., 0] for band in bands])
        variance = np.concatenate([row.variance for row in rows if row.variance is not None])
        return noise_of(np.concatenate(means), variance, taken)


def bands_of(size: tuple[int, int]) -> list[tuple[int, int]]:
    """Return first and last row of bands spread over a picture; all of a small one."""
    width, height = size
    count = _MOST_PIXELS // (width * _BAND)
    if count * _BAND >= height:
        return [(0, height)]
    firsts = [round(k * (height - _BAND) / max(count - 1, 1)) for k in range(max(count, 1))]
    return [(first, min(first + _BAND, height)) for first in firsts]


def _measured(
    picture: TrialPicture, reference: TrialPicture, display: Display, reading: ReadOptions | None, *, alike: bool = True
) -> Error:
    with ExitStack() as files:
        picture_file, clean = (files.enter_context(PictureFile(file.path, reading)) for file in (picture, reference))
        twin = None if picture.second is None else files.enter_context(PictureFile(picture.second, reading))
        asked = MeasureRequest(
            picture_file, twin, clean, denoised=picture.denoised, alike=alike, size=clean.size, display=display
        )
        error = measure(asked).error
    assert error is not None
    return error
