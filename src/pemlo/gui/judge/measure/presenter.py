"""What is said of two pictures: numbers, sources of noise, the worth of denoising, what is missing. Qt-free."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from pemlo.core.appraisal.sentences import denoise_sentence, split_words
from pemlo.core.measure.noise_sources import shares
from pemlo.core.predict.denoise_worth import DenoiseWorth
from pemlo.core.project.settings import MOST_SAMPLES, NO_DENOISE, FrameSettings
from pemlo.core.units import format_duration
from pemlo.gui.common.columns import Role
from pemlo.gui.judge.presenter import PictureChoice
from pemlo.words.two_ways import saving

if TYPE_CHECKING:
    from pemlo.core.appraisal.noise_sources import SourceMap, Sources
    from pemlo.core.appraisal.picture_comparison import PictureComparison
    from pemlo.core.predict.error_model import ErrorModel


@dataclass(frozen=True)
class Line:
    """One measured number: what it is, what it says, what it means, and how it is inked."""

    name: str
    text: str
    tip: str
    role: Role = "picture"


def number_lines(comparison: "PictureComparison | None") -> tuple[Line, ...]:
    """Return what was measured of the left picture, line by line; what is not known says what is missing."""
    if comparison is None:
        return ()
    measured, error = comparison.measured, comparison.measured.error
    lines = [_error_line(comparison), _grain_line(comparison)]
    if error is not None:
        lines.append(_softening_line(comparison))
        if error.scaling:
            lines.append(
                Line("scaling", f"{error.scaling:.1f}", "What rendering smaller loses, as the reference itself shows")
            )
    share = measured.fireflies.energy_share
    lines.append(
        Line(
            "fireflies",
            f"{measured.fireflies.count}, {share:.1%} of light" if measured.fireflies.count else "none",
            "Single pixels that outshine their neighbours threefold, and which share of the light they have too much",
            "ink",
        )
    )
    if comparison.scores is not None:
        scores = comparison.scores
        lines.append(
            Line(
                "ꟻLIP, SSIM, PSNR",
                f"{scores.flip:.3f}, {scores.ssim:.3f}, {scores.psnr:.1f} dB",
                f"Published scores against the reference; ꟻLIP seen at {comparison.pixels_per_degree:.0f} px a degree. "
                "Equal pictures have 0, 1, and no end",
                "ink",
            )
        )
    if measured.bad:
        lines.append(Line("no numbers", f"{measured.bad} pixels", "Infinity or “not a number”: left out", "limit"))
    return tuple(lines)


def _error_line(comparison: "PictureComparison") -> Line:
    error = comparison.measured.error
    if error is None:
        return Line("error", "needs a cleaner trial", "Render this frame with more samples: it becomes the reference",
                    "faint")  # fmt: skip
    total = error.total
    tip = "Root mean square difference to the reference, in levels of an 8-bit display, with its 90 % interval"
    if error.reference_noise is None:
        tip += ". The reference's own noise is not known, and counts as error"
    return Line("error", f"{total.middle:.1f} ({total.low:.1f}–{total.high:.1f})", tip)


def _grain_line(comparison: "PictureComparison") -> Line:
    grain = comparison.measured.grain
    if grain is None:
        return Line("grain", "needs another seed", "Render this frame once more with another seed", "faint")
    bound = "≤ " if grain.upper_bound else ""
    how = f"Noise of the picture, from {'its ' if grain.how == 'variance channel' else ''}{grain.how}"
    more = ". An upper bound: texture counts too" if grain.upper_bound else ""
    tip = f"{how}, in levels{more}. One tile in twenty is worse than the second number; the worst spot may be far worse"
    return Line("grain", f"{bound}{grain.mean:.1f}, worst {bound}{grain.worst:.1f}", tip)


def _softening_line(comparison: "PictureComparison") -> Line:
    error = comparison.measured.error
    assert error is not None
    tip = "The error without its grain: detail that is washed out or moved"
    if error.softening is None:
        return Line("softening", "needs another seed", "Render this frame once more with another seed", "faint")
    value = error.softening
    if value.high == 0:
        return Line("softening", "none, not denoised", tip)
    if value.low <= 0:
        return Line("softening", f"none seen (≤ {value.high:.1f})", tip)
    return Line("softening", f"{value.middle:.1f} ({value.low:.1f}–{value.high:.1f})", tip)


def time_line(left: PictureChoice | None, right: PictureChoice | None, frames: int) -> tuple[Line, ...]:
    """Return what the left trial took, and saves against the right one, over so many frames of the shot."""
    if left is None or left.trial is None:
        return ()
    took = format_duration(left.trial.seconds)
    if right is None or right.trial is None or right.path == left.path:
        return (Line("a frame took", took, "As it was timed, on its machine", "time"),)
    found = saving(right.trial.seconds, left.trial.seconds, frames)
    tip = f"Against the right picture, as both were timed: {found}"
    return (Line("a frame took", f"{took}, {-100 * found.share:+.0f} %".replace("-", "−"), tip, "time"),)


def denoise_words(
    choice: PictureChoice,
    comparison: "PictureComparison | None",
    model: "ErrorModel | None",
    seconds_without: float | None,
) -> str:
    """Return whether denoising is worth it, or what is missing to say so; empty for a picture without."""
    trial = choice.trial
    if trial is None or trial.denoise == NO_DENOISE:
        return ""
    if comparison is None or comparison.measured.error is None:
        return "Whether denoising is worth it: needs a cleaner trial of this frame without denoising."
    if model is None or seconds_without is None:
        return "Whether denoising is worth it: needs a trial of this frame with its variance, without denoising."
    error = comparison.measured.error
    softening = None if error.softening is None else (error.softening.middle if error.softening.low > 0 else 0.0)
    samples = trial.mean_samples or trial.samples
    equal = model.curve.samples_for(max(error.total.middle, 1e-3))
    return denoise_sentence(DenoiseWorth(samples, equal, trial.seconds, seconds_without, softening))


def source_here(source_map: "SourceMap", at: tuple[int, int], shown: tuple[int, int]) -> str:
    """Return where the noise comes from at a pixel of a picture that is shown at a size."""
    x, y = (min(place * own // size, own - 1) for place, own, size in zip(at, source_map.size, shown, strict=True))
    name, share = source_map.at(x, y)
    return f"   noise from {name}, {share:.0%}"


def source_words(sources: "Sources | None") -> tuple[dict[str, float], str]:
    """Return each source's share of the noise, largest first, and how rays are better shared out."""
    if sources is None or not sources.sources:
        return {}, ""
    found_shares = shares(sources.rest, sources.sources)
    ordered = dict(sorted(found_shares.items(), key=lambda pair: (pair[0] == "rest", -pair[1])))
    return ordered, split_words(sources.rest, sources.sources)


@dataclass(frozen=True)
class Missing:
    """A trial without which a number cannot be had, and what asking for it says."""

    words: str
    shot: str
    frame: int
    settings: FrameSettings


def missing_trial(
    choice: PictureChoice | None, comparison: "PictureComparison | None", *, has_reference: bool
) -> Missing | None:
    """Return the trial that would tell what is not known of a picture; None if nothing is missing."""
    if choice is None or choice.trial is None or comparison is None:
        return None
    trial = choice.trial
    settings = FrameSettings.model_validate(trial.frame_fields())
    error = comparison.measured.error
    if not has_reference and trial.denoise != NO_DENOISE:
        samples = min(4 * trial.samples, MOST_SAMPLES)
        cleaner = settings.replace(samples=samples, noise_threshold=None, min_samples=None, denoise=NO_DENOISE)
        return Missing(f"Render a reference: {samples} samples, not denoised", trial.shot, trial.frame, cleaner)
    if error is not None and error.softening is None:
        return Missing("Render this frame once more with another seed", trial.shot, trial.frame, settings)
    return None


def source_lines(sources: "Sources | None") -> tuple[Line, ...]:
    """Return which source dominates the noise of a region; nothing where the picture does not tell."""
    share, _ = source_words(sources)
    if not share:
        return ()
    name, most = max(share.items(), key=lambda pair: pair[1])
    tip = ", ".join(f"{one} {part:.0%}" for one, part in share.items())
    return (Line("noise from", f"{name}, {most:.0%}", f"Shares of the noise's variance: {tip}"),)
