"""What is predicted of the error with other settings: lines of a plot, and sentences. Qt-free."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from pemlo.app.film_known import FilmForecast as Forecast
from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import draw_frame, draw_samples
from pemlo.core.errors import InputError
from pemlo.core.interval import interval_of
from pemlo.core.project.record import build
from pemlo.core.project.settings import NO_DENOISE, FrameSettings
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import Trial
from pemlo.core.units import format_duration
from pemlo.gui.judge.presenter import PictureChoice

if TYPE_CHECKING:
    from pemlo.core.appraisal.frame_appearance import FrameAppearance
    from pemlo.core.interval import Interval
    from pemlo.core.predict.error_model import ErrorModel, Prediction

_POINTS = 33


@dataclass(frozen=True)
class ErrorDot:
    """A trial that was measured: samples, error in codes, place among all trials, and what it says."""

    x: float
    y: float
    index: int
    denoise: str
    words: str


@dataclass(frozen=True)
class ErrorLine:
    """Error over samples with one denoiser or none; (K,) each, codes. Parts are None where they are not known apart."""

    denoise: str
    samples: Floats
    low: Floats
    middle: Floats
    high: Floats
    residual: Floats | None
    bias: Floats | None


@dataclass(frozen=True)
class ErrorPlot:
    """Everything that the plot shows; the ceiling is None where nothing passed yet."""

    lines: tuple[ErrorLine, ...]
    dots: tuple[ErrorDot, ...]
    ceiling: float | None


def error_plot(appearance: "FrameAppearance", of: Sequence[PictureChoice], ceiling: float | None) -> ErrorPlot:
    """Return how error runs against samples, from how a frame looks and its trials, in the order of its errors."""
    dots = []
    for choice, error in zip(of, appearance.errors, strict=True):
        trial = choice.trial
        assert trial is not None
        samples = float(trial.mean_samples or trial.samples)
        words = f"{settings_words(trial)}: {_interval(error.total)} levels, {format_duration(trial.seconds)}"
        words += f", {trial.mark}" if trial.mark else ""
        dots.append(ErrorDot(samples, max(error.total.middle, 1e-3), choice.index or 0, trial.denoise, words))
    if appearance.error_model is None:
        return ErrorPlot((), tuple(dots), ceiling)
    seen = [dot.x for dot in dots] or [16.0]
    grid = np.geomspace(max(min(seen) / 2, 1.0), 4 * max(seen), _POINTS)
    usual = _as_the_reference(appearance.error_model, [choice.trial for choice in of])
    lines = [
        _line(appearance.error_model, usual.replace(denoise=denoise), grid)
        for denoise in (NO_DENOISE, *appearance.error_model.laws)
    ]
    return ErrorPlot(tuple(lines), tuple(dots), ceiling)


def _as_the_reference(model: "ErrorModel", trials: Sequence[Trial | None]) -> FrameSettings:
    """Return settings with the switches and the split of the reference: what others do is not always known."""
    alike = next((trial for trial in trials if trial is not None and trial.switched == model.switched), None)
    plain = FrameSettings(samples=1)
    return plain if alike is None else plain.replace(switches=alike.switches, split=alike.split)


def _line(model: "ErrorModel", settings: FrameSettings, grid: Floats) -> ErrorLine:
    along = [model.predict(settings, float(n)) for n in grid]
    denoise = settings.denoise
    low, middle, high = (
        np.array([getattr(prediction.total, name) for prediction in along]) for name in ("low", "middle", "high")
    )
    apart = denoise != NO_DENOISE and all(prediction.grain and prediction.softening for prediction in along)
    residual = np.array([prediction.grain.middle for prediction in along if prediction.grain]) if apart else None
    bias = np.array([prediction.softening.middle for prediction in along if prediction.softening]) if apart else None
    return ErrorLine(denoise, grid, low, middle, high, residual, bias)


def read_settings(like: Trial, samples: str, threshold: str, denoise: str, percent: str) -> FrameSettings:
    """Return the settings that were typed, with the switches and the split of a trial.

    Raises
    ------
    InputError
        If something is no number, or not allowed.
    """
    return build(
        FrameSettings,
        {
            "samples": _number(samples, "number of samples", "64"),
            "noise_threshold": _number(threshold, "noise threshold", "0.02") if threshold.strip() else None,
            "denoise": denoise,
            "resolution_percent": _number(percent, "percentage", "100"),
            "switches": like.switches,
            "split": like.split,
        },
        "",
    )


def _number(text: str, what: str, such_as: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
    if not 0 < value < float("inf"):
        raise InputError(f"“{text}” is not a {what}. Type one such as {such_as}.")
    return value


@dataclass(frozen=True)
class AskedError:
    """The prediction for typed settings: a sentence or two, and where it lies on the plot, if on it."""

    words: str
    samples: float | None = None
    error: float | None = None


def ask(model: "ErrorModel", forecast: Forecast | None, shot: str, frame: int, settings: FrameSettings) -> AskedError:
    """Predict what settings would leave and take; may take 100 ms."""
    fit = None if forecast is None else forecast.fit
    known = fit is not None and fit.known and shot in fit.shots and settings.denoise in {NO_DENOISE, *fit.denoisers}
    mean: float | None = None
    if settings.adaptive:
        if forecast is None or not known:
            return AskedError("What the noise threshold spends is not known: time one such trial first.")
        mean = float(np.median(draw_samples(forecast.fit, forecast.project, shot, frame, settings)))
    try:
        predicted = model.predict(settings, mean)
    except InputError as error:
        return AskedError(str(error))
    spent = f", {mean:.0f} samples a pixel on average" if mean is not None else ""
    takes = "What it takes is not known yet."
    if forecast is not None and known:
        drawn = draw_frame(forecast.fit, forecast.project, shot, frame, settings)
        low, middle, high = map(format_duration, interval_of(drawn))
        takes = f"Takes {middle} ({low} to {high}) a frame{spent}."
    words = f"Error {_interval(predicted.total)} levels predicted: {_parts(predicted)}. {takes}"
    return AskedError(words, float(mean or settings.samples), predicted.total.middle)


def _parts(predicted: "Prediction") -> str:
    if predicted.softening is not None and predicted.grain is not None:
        words = f"grain {predicted.grain.middle:.1f}, softening {predicted.softening.middle:.1f}"
    elif predicted.grain is not None:
        words = f"grain {predicted.grain.middle:.1f}, no softening"
    else:
        words = "grain and softening are not known apart"
    return f"{words}, scaling {predicted.scaling:.1f}" if predicted.scaling else words


def _interval(value: "Interval") -> str:
    return f"{value.middle:.1f} ({value.low:.1f}–{value.high:.1f})"


def about_words(appearance: "FrameAppearance", trial: Trial) -> str:
    """Return what the plot shows, or what is missing."""
    if appearance.error_model is None:
        return (
            "Nothing can be predicted yet: no trial of this frame without denoising tells its variance. Render one in "
            "Trials, or once more with another seed."
        )
    words = f"Frame {trial.frame}. Marks are trials that were measured, bands hold 9 in 10."
    if trial.resolution_percent != 100:
        words += (
            f" The pictures are of {trial.resolution_percent:g} % of the delivery's size: those of 100 % are taken to "
            "err as much."
        )
    if any(law.residual is None for law in appearance.error_model.laws.values()):
        words += " With a second seed of a denoised trial, residual noise and softening are measured apart."
    if not appearance.error_model.laws:
        words += " Render one denoised trial, and its line comes too."
    return words


def offered_denoisers(model: "ErrorModel") -> tuple[str, ...]:
    """Return the ways of denoising of which something is known."""
    return (NO_DENOISE, *model.laws)


def beginning(trial: Trial) -> FrameSettings:
    """Return the settings that are asked for first: those of a trial, twice the samples."""
    return FrameSettings.model_validate(trial.frame_fields()).replace(samples=2 * trial.samples)
