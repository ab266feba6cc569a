"""Settings as people type them in a cell or on a command line, and read them. Pure text."""

import re

from pemlo.core.project.settings import NO_DENOISE, ONE_RAY_EACH, FrameSettings, ShotSettings
from pemlo.core.units import format_duration, parse_duration

FULL_PERCENT = 100


def rays(text: str) -> tuple[int, ...]:
    """Read a sampling split: rays a sample to lights, off a gloss, through glass.

    Examples
    --------
    >>> rays("4,1,2"), rays("4 1 2")
    ((4, 1, 2), (4, 1, 2))
    """
    parts = re.split(r"[\s,]+", text.strip())
    if len(parts) != 3 or not all(part.isdecimal() and len(part) < 4 for part in parts):
        raise ValueError(f"“{text}” is not a split; write rays to lights, off a gloss, through glass, like 4,1,2")
    return tuple(int(part) for part in parts)


def switch_names(text: str) -> tuple[str, ...]:
    """Read the switches that are on, with commas or plus signs between; ``none`` for none.

    Examples
    --------
    >>> switch_names("motion blur + wide gloss"), switch_names("none")
    (('motion blur', 'wide gloss'), ())
    """
    names = (part.strip() for part in re.split(r"[,;+]", text))
    return tuple(name for name in names if name and name.lower() not in {"none", "nothing"})


def cap(text: str) -> float | None:
    """Read most seconds a frame, as people say durations; ``none``, or 0 as renderers write it, for no cap.

    Examples
    --------
    >>> cap("4m02"), cap("none"), cap("0.0")
    (242.0, None, None)
    """
    if text.strip().lower() == "none" or re.fullmatch(r"0+([.,]0*)?", text.strip()):
        return None
    return parse_duration(text)


def rays_text(split: tuple[int, ...]) -> str:
    """Write a sampling split."""
    return ",".join(map(str, split))


def times_text(saves: int) -> str:
    """Write how often something is done.

    Examples
    --------
    >>> times_text(0), times_text(1), times_text(5)
    ('never', 'once', '5 times')
    """
    return {0: "never", 1: "once", 2: "twice"}.get(saves, f"{saves} times")


def step_words(settings: ShotSettings) -> str:
    """Write which frames are rendered, and what is shown between.

    Examples
    --------
    >>> step_words(ShotSettings(samples=1)), step_words(ShotSettings(samples=1, frame_step=2, between="blend"))
    ('every one', 'one in 2, mixed')
    """
    if settings.frame_step == 1:
        return "every one"
    return f"one in {settings.frame_step}, {'mixed' if settings.between == 'blend' else 'held'}"


def settings_words(settings: FrameSettings) -> str:
    """Write settings in a few words: sampling, size, denoiser, frame step, kept data, and what else is set.

    Examples
    --------
    >>> settings_words(FrameSettings(samples=32, denoise="frame", resolution_percent=50))
    '32 samples, 50 %, frame'
    >>> settings_words(ShotSettings(samples=512, min_samples=16, noise_threshold=0.01, keep=("light",), frame_step=2))
    'threshold 0.01, 16 to 512 samples, one in 2, held, light kept'
    """
    words = [f"{settings.samples} samples"]
    if settings.noise_threshold is not None:
        words = [f"threshold {settings.noise_threshold:g}, {settings.least_samples} to {settings.samples} samples"]
    if settings.resolution_percent != FULL_PERCENT:
        words.append(f"{settings.resolution_percent:g} %")
    if settings.denoise != NO_DENOISE:
        words.append(settings.denoise)
    if isinstance(settings, ShotSettings) and settings.frame_step > 1:
        words.append(step_words(settings))
    if settings.keep:
        words.append(f"{' and '.join(settings.keep)} kept")
    return ", ".join((*words, *_further_words(settings)))


def _further_words(settings: FrameSettings) -> tuple[str, ...]:
    """Return what is set beside samples, size, denoising and kept data, if anything is.

    Examples
    --------
    >>> _further_words(FrameSettings(samples=1, most_seconds=242, split=(4, 1, 1), switches=("motion blur",), saves=2))
    ('at most 4 m 02 s', 'split 4,1,1', 'motion blur', 'saved twice')
    """
    cap = () if settings.most_seconds is None else (f"at most {format_duration(settings.most_seconds)}",)
    split = () if settings.split == ONE_RAY_EACH else (f"split {rays_text(settings.split)}",)
    saves = (f"saved {times_text(settings.saves)}",) if settings.saves else ()
    return (*cap, *split, *settings.switches, *saves)
