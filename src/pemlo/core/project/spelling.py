"""Settings as people type them in a cell or on a command line, and read them. Pure text."""

import math
import re

from pemlo.core.project.keeping import stage_words
from pemlo.core.project.settings import NO_DENOISE, ONE_RAY_EACH, FrameSettings, ShotSettings
from pemlo.core.units import format_duration, parse_duration

FULL_PERCENT = 100
Way = tuple[str, float | None]
_NO = {"", "no", "none", "off", "false", "0", "-", "–"}
_YES = {"yes", "on", "true", "1", "y", "x", "denoised", "denoise"}
_PRODUCT = re.compile(r"([0-9]{1,6})\s*[x×*·]\s*([0-9]{1,6})")
_SQUARE = re.compile(r"([0-9]{1,6})\s*(?:²|\^\s*2|\*\*\s*2)")
DENOISED = "denoised"  # what a way of denoising is called where people only say that there is one


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


def denoiser(text: str) -> str:
    """Read a way of denoising: a name of one's own, or only whether there is one.

    Examples
    --------
    >>> denoiser("No"), denoiser("yes"), denoiser("neighbours 12")
    ('none', 'denoised', 'neighbours 12')
    """
    word = text.strip().lower()
    return NO_DENOISE if word in _NO else DENOISED if word in _YES else text.strip()


def sample_count(text: str) -> str:
    """Return a number of samples as one number, where it is written as a product or a square.

    Examples
    --------
    >>> sample_count("3x3"), sample_count("8²"), sample_count("4 × 16"), sample_count("128")
    ('9', '64', '64', '128')
    """
    product = _PRODUCT.fullmatch(text.strip())
    if product:
        return str(int(product[1]) * int(product[2]))
    square = _SQUARE.fullmatch(text.strip())
    return str(int(square[1]) ** 2) if square else text


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
    if text.strip().lower() in _NO or re.fullmatch(r"0+([.,]0*)?", text.strip()):
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
    ('every frame', 'every second frame, mixed')
    """
    if settings.frame_step == 1:
        return "every frame"
    nth = {2: "second", 3: "third"}.get(settings.frame_step, f"{settings.frame_step}th")
    return f"every {nth} frame, {'mixed' if settings.between == 'blend' else 'held'}"


def settings_words(settings: FrameSettings) -> str:
    """Write settings in a few words: sampling, size, denoiser, frame step, kept data, and what else is set.

    Examples
    --------
    >>> settings_words(FrameSettings(samples=32, denoise="frame", resolution_percent=50))
    '32 samples, 50 %, frame'
    >>> settings_words(ShotSettings(samples=512, min_samples=16, noise_threshold=0.01, keep=("light",), frame_step=2))
    'threshold 0.01, 16 to 512 samples, every second frame, held, light cached'
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
        words.append(f"{stage_words(settings.keep)} cached")
    return ", ".join((*words, *_further_words(settings)))


def _further_words(settings: FrameSettings) -> tuple[str, ...]:
    """Return what is set beside samples, size, denoising and kept data, if anything is.

    Examples
    --------
    >>> _further_words(FrameSettings(samples=1, most_seconds=242, split=(4, 1, 1), switches=("motion blur",), saves=2))
    ('at most 4 m 02 s', 'split 4,1,1', 'motion blur', 'saved twice')
    >>> _further_words(FrameSettings(samples=1, way="depth", way_value=20))
    ('depth 20',)
    """
    way = (way_words(settings.way, settings.way_value),) if settings.way else ()
    cap = () if settings.most_seconds is None else (f"at most {format_duration(settings.most_seconds)}",)
    split = () if settings.split == ONE_RAY_EACH else (f"split {rays_text(settings.split)}",)
    saves = (f"saved {times_text(settings.saves)}",) if settings.saves else ()
    return (*way, *cap, *split, *settings.switches, *saves)


def read_way(text: str) -> Way:
    """Read a way as people write it: a name, and a number after it if it has one.

    Examples
    --------
    >>> read_way("depth 20"), read_way("quick engine"), read_way("")
    (('depth', 20.0), ('quick engine', None), ('', None))
    """
    words = text.split()
    if len(words) > 1:
        try:
            value = float(words[-1])
        except ValueError:
            return " ".join(words), None
        if math.isfinite(value):
            return " ".join(words[:-1]), value
    return " ".join(words), None


def way_words(way: str, value: float | None) -> str:
    """Return a way as people write it.

    Examples
    --------
    >>> way_words("depth", 20.0), way_words("", None)
    ('depth 20', '')
    """
    return way if value is None else f"{way} {value:g}"
