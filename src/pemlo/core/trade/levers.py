"""Which settings of a shot there are to choose from: each lever's steps, and what may not go together. Pure."""

import itertools
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import inf, prod
from typing import Any

import numpy as np
import numpy.typing as npt

from pemlo.core.project.keeping import why_not_kept
from pemlo.core.project.settings import (
    CHARACTER,
    KEEPABLE,
    LEVERS,
    MOST_SAMPLES,
    MOTION_BLUR,
    NO_DENOISE,
    ONE_RAY_EACH,
    FrameSettings,
    LeverName,
    ShotSettings,
)
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import rays_text, step_words, times_text
from pemlo.core.trade.settings_table import FIELDS, SettingsTable
from pemlo.core.units import format_duration

PERCENTS = (25.0, 33.0, 40.0, 50.0, 60.0, 67.0, 75.0, 80.0, 85.0, 90.0, 95.0, 100.0, 125.0, 150.0, 200.0)
# Smaller ones can be set by hand; nobody proposes them.
TINY = (10.0, 15.0, 20.0)
# Samples and thresholds go in steps of a fourth root of two, thresholds of a root of two.
SAMPLE_STEPS, FEWEST_SAMPLES = 4, 1
OCTAVES_DOWN, OCTAVES_UP = 5, 1
THRESHOLD_STEPS = (-2, 8)
_NAMES: dict[LeverName, str] = {
    "samples": "samples",
    "noise_threshold": "threshold",
    "min_samples": "min samples",
    "most_seconds": "time limit",
    "split": "split",
    "denoise": "denoise",
    "resolution_percent": "resolution",
    "frame_step": "frame step",
    "keep": "cache",
    "switches": "switches",
    "saves": "saves",
}
SAVES = (0, 1, 2, 3, 5, 8)


@dataclass(frozen=True)
class Levers:
    """What can be chosen for a shot.

    Attributes
    ----------
    denoisers : tuple of str
        Ways of denoising of which it is known what they leave, `NO_DENOISE` among them.
    thresholds : bool
        Whether it is known what a noise threshold spends.
    frame_steps : tuple of int
        Which are known to the eye; 1 always is.
    keeps : tuple of tuple of str
        Stages that may be kept together.
    most_percent : float
        Largest resolution percentage of which it was seen what it gives.
    caps : tuple of float
        Most seconds of tracing that bite, from the least.
    splits : tuple of tuple of int
        Of which it was seen what they do to the noise, and timed what they cost.
    switches : tuple of tuple of str
        Sets of switches that may be on together, of each of which it was seen and timed what it does.
    saves : int
        With so many a frame takes least, lost ones counted.
    tried_thresholds : tuple of float
        That were tried on a shot that was asked for without one.
    always : tuple of ShotSettings
        To the digit: what was timed of the shot, and what was marked good enough.
    """

    denoisers: tuple[str, ...] = (NO_DENOISE,)
    thresholds: bool = False
    frame_steps: tuple[int, ...] = (1,)
    keeps: tuple[tuple[str, ...], ...] = ((),)
    most_percent: float = 100.0
    caps: tuple[float, ...] = ()
    splits: tuple[tuple[int, ...], ...] = (ONE_RAY_EACH,)
    switches: tuple[tuple[str, ...], ...] = ((),)
    saves: int = 0
    tried_thresholds: tuple[float, ...] = ()
    always: tuple[ShotSettings, ...] = ()


def why_not(shot: Shot, settings: ShotSettings) -> str:
    """Return why settings cannot be had for a shot; empty if they can."""
    for stage in reversed(settings.keep):
        if words := why_not_kept(shot, stage):
            return words
    if words := excluded(shot, settings):
        return words
    if settings.frame_step > 1 and shot.still:
        return f"Nothing moves in {shot.name}: one frame is rendered whatever the step."
    if settings.frame_step > 1 and settings.frame_step * shot.step >= shot.frame_count:
        return f"One frame in {settings.frame_step} of {shot.name} leaves a single one."
    return ""


def excluded(shot: Shot, settings: ShotSettings) -> str:
    """Return which two settings exclude each other; empty if none do."""
    if settings.looks_around and MOTION_BLUR in settings.switches:
        return (
            f"Denoising “{settings.denoise}” looks at other frames and takes the blur of what moves for noise: it "
            f"cannot be had with motion blur in the render of {shot.name}."
        )
    return ""


def not_had(shot: Shot, levers: Levers) -> dict[LeverName, tuple[str, ...]]:
    """Return in words what a shot's levers cannot be set to, for the levers of which that is so."""
    settings = shot.settings
    tried: dict[LeverName, Iterable[ShotSettings]] = {
        "keep": (settings.replace(keep=(stage,)) for stage in KEEPABLE),
        "denoise": (settings.replace(denoise=name) for name in levers.denoisers),
        "switches": (settings.replace(switches=names) for names in levers.switches),
        "frame_step": (settings.replace(frame_step=step) for step in levers.frame_steps),
    }
    reasons = {lever: dict.fromkeys(why_not(shot, way) for way in ways) for lever, ways in tried.items()}
    return {lever: tuple(filter(None, words)) for lever, words in reasons.items() if any(words)}


Keeps = Callable[[ShotSettings], bool]


def combinations(shot: Shot, levers: Levers, keeps: Keeps | None = None) -> tuple[ShotSettings, ...]:
    """Return everything that can be chosen for a shot: as asked, as planned, what is always there, all combinations.

    Steps lie about what was asked; levers that are pinned stay where the shot's settings have them. With `keeps`, see
    `keeps_character`, only those that a plan may choose, and single steps from what was asked: a twentieth of all.
    """
    asked, now, pinned = shot.asked, shot.settings, set(shot.pins)
    found: dict[ShotSettings, None] = dict.fromkeys(always_of(shot, levers))
    steps: dict[LeverName, Sequence[object]] = {
        "denoise": levers.denoisers,
        "resolution_percent": tuple(percent for percent in PERCENTS if percent <= levers.most_percent),
        "frame_step": levers.frame_steps,
        "keep": levers.keeps,
        "split": levers.splits,
        "switches": levers.switches,
        "saves": (levers.saves,),
    }
    free = {name: values if name not in pinned else (getattr(now, name),) for name, values in steps.items()}
    every_sampling = list(_sampling(shot, levers))
    as_asked = [one for one in every_sampling if one == _own_sampling(asked)]
    for values in itertools.product(*free.values()):
        chosen = dict(zip(free, values, strict=True))
        if "frame_step" in pinned:
            chosen["between"] = now.between
        sampling = every_sampling
        if keeps is not None and not keeps(asked.model_copy(update=chosen)):
            steps_taken = {name for name, value in chosen.items() if value != getattr(asked, name)}
            if steps_taken != {"denoise"}:
                sampling = as_asked if len(steps_taken) == 1 else []
        as_usual = chosen["split"] == asked.split and chosen["switches"] == asked.switches
        for least, most, threshold, cap in sampling:
            if not as_usual and threshold is not None:  # what it spends then was not seen
                continue
            samples = {"min_samples": least, "samples": most, "noise_threshold": threshold, "most_seconds": cap}
            # Every value was checked where it came from: thousands are made, and none is checked again.
            made = asked.model_copy(update={**chosen, **samples})
            if made not in found and not why_not(shot, made):
                found[made] = None
    return tuple(found)


def _own_sampling(settings: ShotSettings) -> tuple[int | None, int, float | None, float | None]:
    return settings.min_samples, settings.samples, settings.noise_threshold, settings.most_seconds


def always_of(shot: Shot, levers: Levers) -> tuple[ShotSettings, ...]:
    """Return the settings of a shot that are options whatever a model says: as asked, as planned, timed, and marked."""
    possible = (settings for settings in levers.always if not why_not(shot, settings))
    return tuple(dict.fromkeys((shot.asked, shot.settings, *possible)))


def _sampling(shot: Shot, levers: Levers) -> Iterator[tuple[int | None, int, float | None, float | None]]:
    """Yield least samples, most samples, threshold and most seconds."""
    asked, now, pinned = shot.asked, shot.settings, set(shot.pins)
    if "most_seconds" in pinned and now.most_seconds is not None:
        yield now.min_samples, now.samples, now.noise_threshold, now.most_seconds
        return
    yield from ((*one, None) for one in _uncapped(shot, levers))
    if "most_seconds" not in pinned and not ("noise_threshold" in pinned and now.noise_threshold is not None):
        # Which pixels a threshold had served when its time was over is not known: caps go with as many for all.
        of = now if "samples" in pinned else asked
        yield from ((None, of.samples, None, cap) for cap in levers.caps)


def _uncapped(shot: Shot, levers: Levers) -> Iterator[tuple[int | None, int, float | None]]:
    """Yield least samples, most samples and threshold."""
    asked, now, pinned = shot.asked, shot.settings, set(shot.pins)
    of = now if "noise_threshold" in pinned else asked
    if "noise_threshold" in pinned:
        thresholds = [now.noise_threshold]
    elif of.noise_threshold is not None and levers.thresholds:
        first, last = THRESHOLD_STEPS
        steps = (of.noise_threshold * 2 ** (step / 2) for step in range(first, last + 1))
        thresholds = [None, *(float(f"{threshold:.3g}") for threshold in steps)]
    else:
        thresholds = [None, *levers.tried_thresholds]
    sample_steps = range(-OCTAVES_DOWN * SAMPLE_STEPS, OCTAVES_UP * SAMPLE_STEPS + 1)
    counts = dict.fromkeys(round(asked.samples * 2 ** (step / SAMPLE_STEPS)) for step in sample_steps)
    most = [now.samples] if "samples" in pinned else [n for n in counts if FEWEST_SAMPLES <= n <= MOST_SAMPLES]
    for threshold in thresholds:
        if threshold is None:
            yield from ((None, count, None) for count in most)
            continue
        limits = now if "samples" in pinned else of
        # What the least samples do is shown where the threshold stands: elsewhere it is much the same.
        near = threshold in {asked.noise_threshold, now.noise_threshold} and "min_samples" not in pinned
        held = now.min_samples if "min_samples" in pinned else limits.min_samples
        for least in _leasts(held, limits.samples) if near else (held,):
            yield least, limits.samples, threshold


def _leasts(least: int | None, most: int) -> tuple[int | None, ...]:
    """Return least samples to choose from: as they are, half and twice as many."""
    if least is None:
        return (None,)
    return tuple(dict.fromkeys((least, max(1, least // 2), min(2 * least, most))))


def values_of(shot: Shot, levers: Levers) -> dict[LeverName, tuple[object, ...]]:
    """Return the values of each lever of a shot, from the least to the most; where it stands now is among them."""
    now = shot.settings
    known = (now, *(settings for settings in levers.always if not why_not(shot, settings)))
    sampling = tuple(_uncapped(shot.replace(pins=()), levers))
    samples = {most for _, most, threshold in sampling if threshold is None} | {settings.samples for settings in known}
    thresholds = {threshold for _, _, threshold in sampling if threshold is not None}
    thresholds |= {settings.noise_threshold for settings in known if settings.noise_threshold is not None}
    leasts = {least for least, _, _ in sampling if least is not None} | {now.min_samples}
    leasts |= {settings.min_samples for settings in known if settings.min_samples is not None}
    percents = {one for one in (*TINY, *PERCENTS) if one <= levers.most_percent}
    percents |= {settings.resolution_percent for settings in known}
    caps = {*levers.caps, *(settings.most_seconds for settings in known if settings.most_seconds)}
    steps = [(step, "hold") for step in levers.frame_steps] + [(2, "blend")] * (2 in levers.frame_steps)
    return {
        "samples": tuple(sorted(samples)),
        "min_samples": _in_order("min_samples", *leasts) if now.min_samples is not None else (now.min_samples,),
        "noise_threshold": (
            *((None,) if levers.thresholds or now.noise_threshold is None else ()),
            *sorted(thresholds),
        ),
        "denoise": tuple(dict.fromkeys((*levers.denoisers, *(settings.denoise for settings in known)))),
        "resolution_percent": tuple(sorted(percents)),
        "frame_step": tuple(dict.fromkeys((*steps, (now.frame_step, now.between)))),
        "keep": tuple(dict.fromkeys((*levers.keeps, *(settings.keep for settings in known)))),
        "most_seconds": (*sorted(caps), None),
        "split": _in_order("split", *levers.splits, *(settings.split for settings in known)),
        "switches": _in_order("switches", *levers.switches, *(settings.switches for settings in known)),
        "saves": tuple(sorted({*SAVES, now.saves})) if levers.saves or now.saves else (0,),
    }


def _in_order(lever: LeverName, *values: object) -> tuple[object, ...]:
    return tuple(sorted(set(values), key=lambda value: rank(lever, value)))


def rank(lever: LeverName, value: Any) -> tuple[float, str]:  # noqa: ANN401 - whatever the lever has
    """Return by what the values of a lever stand in order, from the least to the most."""
    if lever in {"keep", "switches"}:
        return float(len(value)), " ".join(value)
    if lever == "split":
        return float(prod(value)), str(value)
    if lever == "denoise":
        return float(value != NO_DENOISE), str(value)
    return (inf if value is None else float(value)), ""


def value_of(settings: ShotSettings, lever: LeverName) -> object:
    """Return where a lever stands, as `values_of` has it."""
    return (settings.frame_step, settings.between) if lever == "frame_step" else getattr(settings, lever)


def moved(settings: ShotSettings, asked: ShotSettings, lever: LeverName, value: object) -> ShotSettings:
    """Return settings with one lever at another value.

    Without a threshold there is no least number of samples; with one it is as asked.

    Raises
    ------
    InputError
        If the value is not allowed.
    """
    if lever == "frame_step":
        assert isinstance(value, tuple)
        return settings.replace(frame_step=value[0], between=value[1])
    if lever == "noise_threshold":
        least = None if value is None else settings.min_samples or asked.min_samples
        return settings.replace(noise_threshold=value, min_samples=least)
    if lever == "samples" and settings.min_samples is not None:
        assert isinstance(value, int)
        return settings.replace(samples=value, min_samples=min(settings.min_samples, value))
    return settings.replace(**{lever: value})


def keeps_pins(shot: Shot, settings: ShotSettings) -> bool:
    """Whether settings leave the pinned levers of a shot where they are; least samples only with a threshold."""
    pins = (name for name in shot.pins if settings.adaptive or name != "min_samples")
    return all(getattr(settings, name) == getattr(shot.settings, name) for name in pins)


def keeps_character(shot: Shot, passed: Iterable[ShotSettings] = (), *, flicker_known: bool = False) -> Keeps:
    """Return what says whether settings leave what the picture is: its size, every frame, its switches.

    A larger size changes nothing. Where something moves, a denoiser that looks at each frame alone is taken to make it
    flicker, unless it is known how much. What the shot allows, is planned with, and what somebody passed may be.
    """

    def character(one: ShotSettings) -> tuple[float, int, tuple[str, ...], str]:
        free = shot.allows
        steady = flicker_known or not shot.moves or one.looks_around or "denoise" in free
        return (
            100.0 if "resolution_percent" in free else min(one.resolution_percent, shot.asked.resolution_percent),
            1 if "frame_step" in free else one.frame_step,
            () if "switches" in free else one.switches,
            NO_DENOISE if steady else one.denoise,
        )

    had = {character(one) for one in (shot.asked, shot.settings, *passed)}
    had |= {(size, step, on, NO_DENOISE) for size, step, on, _ in had}  # undenoised it does not flicker so
    return lambda settings: character(settings) in had


def changed_character(before: ShotSettings, after: ShotSettings) -> tuple[LeverName, ...]:
    """Return which levers that change what the picture is differ."""
    return tuple(name for name in changed_levers(before, after) if name in CHARACTER)


def changed_levers(before: ShotSettings, after: ShotSettings) -> tuple[LeverName, ...]:
    """Return which levers differ, in their order; least samples come and go with a threshold."""
    both = before.adaptive and after.adaptive
    names = (name for name in LEVERS if both or name != "min_samples")
    return tuple(name for name in names if getattr(before, name) != getattr(after, name))


def count_changed(before: ShotSettings, after: SettingsTable) -> npt.NDArray[np.intp]:
    """Return how many levers each of many settings changes, (K,), as `changed_levers` names them."""
    differs = after.differing(before)
    thresholds = np.array([value is not None for value in after.values[FIELDS.index("noise_threshold")]], bool)
    adaptive = thresholds[after.codes[:, FIELDS.index("noise_threshold")]] & before.adaptive
    named = [FIELDS.index(name) for name in LEVERS if name != "min_samples"]
    return np.asarray(differs[:, named].sum(axis=1) + (differs[:, FIELDS.index("min_samples")] & adaptive), np.intp)


def lever_name(lever: LeverName) -> str:
    """Return what a lever is called."""
    return _NAMES[lever]


def lever_text(settings: FrameSettings, lever: LeverName) -> str:
    """Return where a lever stands."""
    value = getattr(settings, lever)
    say = _TEXTS.get(lever, str)
    if isinstance(settings, ShotSettings) and lever == "frame_step":
        return step_words(settings)
    return say(value)


_TEXTS: Mapping[LeverName, Callable[[Any], str]] = {
    "noise_threshold": lambda threshold: "none" if threshold is None else f"{threshold:g}",
    "min_samples": lambda least: "1" if least is None else str(least),
    "most_seconds": lambda seconds: "none" if seconds is None else format_duration(seconds),
    "split": rays_text,
    "resolution_percent": lambda percent: f"{percent:g} %",
    "keep": lambda stages: " and ".join(stages) or "nothing",
    "switches": lambda names: " and ".join(names) or "none",
    "saves": times_text,
}
