"""Which settings of a shot there are to choose from: each lever's steps, and what may not go together. Pure."""

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from pemlo.core.plan.settings import LEVERS, MOST_SAMPLES, NO_DENOISE, LeverName, ShotSettings
from pemlo.core.plan.shots import Shot

PERCENTS = (25.0, 33.0, 40.0, 50.0, 60.0, 67.0, 75.0, 80.0, 85.0, 90.0, 95.0, 100.0, 125.0, 150.0, 200.0)
# Samples and thresholds go in steps of a fourth root of two, thresholds of a root of two.
SAMPLE_STEPS, FEWEST_SAMPLES = 4, 1
OCTAVES_DOWN, OCTAVES_UP = 5, 1
THRESHOLD_STEPS = (-2, 8)
_NAMES: dict[LeverName, str] = {
    "samples": "samples",
    "noise_threshold": "threshold",
    "denoise": "denoise",
    "resolution_percent": "resolution",
    "frame_step": "frame step",
    "keep": "kept data",
}


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
    """

    denoisers: tuple[str, ...] = (NO_DENOISE,)
    thresholds: bool = False
    frame_steps: tuple[int, ...] = (1,)
    keeps: tuple[tuple[str, ...], ...] = ((),)
    most_percent: float = 100.0


def why_not(shot: Shot, settings: ShotSettings) -> str:
    """Return why settings cannot be had for a shot; empty if they can.

    Kept light is wrong as soon as anything but the camera moves, and what was prepared as soon as it moves itself.
    """
    others = [moving for moving in shot.moves if moving != "camera"]
    if "light" in settings.keep and others:
        return f"Light of {shot.name} cannot be kept: it follows what moves ({', '.join(others)})."
    if "prepare" in settings.keep and "simulation" in shot.moves:
        return f"What is prepared of {shot.name} cannot be kept: a simulation makes it anew for each frame."
    if settings.frame_step > 1 and settings.frame_step * shot.step >= shot.frame_count:
        return f"One frame in {settings.frame_step} of {shot.name} leaves a single one."
    return ""


def kept_stages(shot: Shot) -> tuple[tuple[str, ...], ...]:
    """Return which stages may be kept together, none of them first."""
    wanted: tuple[tuple[str, ...], ...] = ((), ("prepare",), ("prepare", "light"))
    return tuple(keep for keep in wanted if not why_not(shot, shot.asked.changed(keep=keep, frame_step=1)))


def combinations(shot: Shot, levers: Levers) -> tuple[ShotSettings, ...]:
    """Return everything that can be chosen for a shot: as asked first, then as planned, then all combinations.

    Steps lie about what was asked; levers that are pinned stay where the shot's settings have them.
    """
    asked, now, pinned = shot.asked, shot.settings, set(shot.pins)
    found: dict[ShotSettings, None] = {asked: None, now: None}
    steps: dict[LeverName, Sequence[object]] = {
        "denoise": levers.denoisers,
        "resolution_percent": tuple(percent for percent in PERCENTS if percent <= levers.most_percent),
        "frame_step": levers.frame_steps,
        "keep": levers.keeps,
    }
    free = {name: values if name not in pinned else (getattr(now, name),) for name, values in steps.items()}
    sampling = list(_sampling(shot, levers))
    for values in itertools.product(*free.values()):
        chosen = dict(zip(free, values, strict=True))
        if "frame_step" in pinned:
            chosen["between"] = now.between
        for least, most, threshold in sampling:
            samples = {"min_samples": least, "samples": most, "noise_threshold": threshold}
            # Every value was checked where it came from: thousands are made, and none is checked again.
            made = asked.model_copy(update={**chosen, **samples})
            if made not in found and not why_not(shot, made):
                found[made] = None
    return tuple(found)


def _sampling(shot: Shot, levers: Levers) -> Iterator[tuple[int | None, int, float | None]]:
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
        thresholds = [None]
    sample_steps = range(-OCTAVES_DOWN * SAMPLE_STEPS, OCTAVES_UP * SAMPLE_STEPS + 1)
    counts = dict.fromkeys(round(asked.samples * 2 ** (step / SAMPLE_STEPS)) for step in sample_steps)
    most = [now.samples] if "samples" in pinned else [n for n in counts if FEWEST_SAMPLES <= n <= MOST_SAMPLES]
    for threshold in thresholds:
        if threshold is None:
            yield from ((None, count, None) for count in most)
        else:
            limits = now if "samples" in pinned else of
            yield limits.min_samples, limits.samples, threshold


def values_of(shot: Shot, levers: Levers) -> dict[LeverName, tuple[object, ...]]:
    """Return the values of each lever of a shot, from the least to the most; where it stands now is among them."""
    now = shot.settings
    sampling = tuple(_sampling(shot.changed(pins=()), levers))
    samples = {most for _, most, threshold in sampling if threshold is None} | {now.samples}
    thresholds = {threshold for _, _, threshold in sampling if threshold is not None}
    if now.noise_threshold is not None:
        thresholds.add(now.noise_threshold)
    percents = {percent for percent in PERCENTS if percent <= levers.most_percent} | {now.resolution_percent}
    steps = [(step, "hold") for step in levers.frame_steps] + [(2, "blend")] * (2 in levers.frame_steps)
    return {
        "samples": tuple(sorted(samples)),
        "noise_threshold": (
            *((None,) if levers.thresholds or now.noise_threshold is None else ()),
            *sorted(thresholds),
        ),
        "denoise": tuple(dict.fromkeys((*levers.denoisers, now.denoise))),
        "resolution_percent": tuple(sorted(percents)),
        "frame_step": tuple(dict.fromkeys((*steps, (now.frame_step, now.between)))),
        "keep": tuple(dict.fromkeys((*levers.keeps, now.keep))),
    }


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
        return settings.changed(frame_step=value[0], between=value[1])
    if lever == "noise_threshold":
        least = None if value is None else settings.min_samples or asked.min_samples
        return settings.changed(noise_threshold=value, min_samples=least)
    if lever == "samples" and settings.min_samples is not None:
        assert isinstance(value, int)
        return settings.changed(samples=value, min_samples=min(settings.min_samples, value))
    return settings.changed(**{lever: value})


def keeps_pins(shot: Shot, settings: ShotSettings) -> bool:
    """Whether settings leave the pinned levers of a shot where they are."""
    return all(getattr(settings, name) == getattr(shot.settings, name) for name in shot.pins)


def changed_levers(before: ShotSettings, after: ShotSettings) -> tuple[LeverName, ...]:
    """Return which levers differ, in their order."""
    return tuple(name for name in LEVERS if getattr(before, name) != getattr(after, name))


def lever_name(lever: LeverName) -> str:
    """Return what a lever is called."""
    return _NAMES[lever]


def lever_text(settings: ShotSettings, lever: LeverName) -> str:
    """Return where a lever stands."""
    if lever == "noise_threshold":
        return "none" if settings.noise_threshold is None else f"{settings.noise_threshold:g}"
    if lever == "resolution_percent":
        return f"{settings.resolution_percent:g} %"
    if lever == "frame_step":
        step = settings.frame_step
        return "every one" if step == 1 else f"one in {step}, {'mixed' if settings.between == 'blend' else 'held'}"
    if lever == "keep":
        return " and ".join(settings.keep) or "nothing"
    return str(getattr(settings, lever))
