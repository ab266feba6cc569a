"""What a frame is asked to be. May import the core's words for settings; no compiled code."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from pemlo.core.errors import InputError, Problem

KEEPABLE = ("prepare", "light")
LARGEST_SIDE = 16384
# What can be switched on, and the field that it sets.
SWITCHES = {"motion blur": "motion_blur", "soft filter": "gaussian_filter"}
MOST_SAMPLES = 1_000_000


@dataclass(frozen=True)
class Split:
    """Rays per sample at the first surface: to lights, off a gloss, through glass."""

    shadow: int = 1
    gloss: int = 1
    through: int = 1


@dataclass(frozen=True)
class RenderSettings:
    """Everything that decides how one frame is rendered.

    Attributes
    ----------
    scene : str
        Name of a scene.
    frame : int
        Counts from 1.
    width, height : int
        Of the whole frame at 100 %, px.
    resolution_percent : float
        Of each side.
    samples : int
        Of every pixel; with a threshold the most of any.
    min_samples : int
        Least of any pixel, with a threshold.
    noise_threshold : float, optional
        Pixels stop when the standard error of their brightness, over the square root of that brightness, is below;
        see `adaptive`.
    seconds : float, optional
        Tracing stops after that long, whatever else was asked; counted as stages are timed, see `machine_seconds`.
    region : tuple of int, optional
        Left, top, right and bottom edge in px of the frame at 100 %; the rest is not rendered.
    denoise : str
        See `denoise`.
    keep : tuple of str
        Stages of `KEEPABLE` whose data are taken from an earlier frame if there are any.
    threads : int
        0 for as many as the machine has.
    motion_blur : bool
        Whether the shutter stays open while things move; without, all stands still as it opens.
    saves : int
        How often the unfinished frame is written while it is traced.
    by_source : bool
        Whether the picture also tells light apart by where it comes from at the first surface.
    """

    scene: str
    frame: int = 1
    width: int = 640
    height: int = 360
    resolution_percent: float = 100.0
    samples: int = 64
    min_samples: int = 8
    noise_threshold: float | None = None
    seconds: float | None = None
    seed: int = 0
    region: tuple[int, int, int, int] | None = None
    denoise: str = "none"
    keep: tuple[str, ...] = ()
    split: Split = field(default_factory=Split)
    threads: int = 0
    gaussian_filter: bool = False
    motion_blur: bool = True
    half: bool = True
    saves: int = 0
    by_source: bool = False

    def rendered_size(self) -> tuple[int, int]:
        """Return width and height as rendered, px."""
        share = self.resolution_percent / 100
        return max(1, round(self.width * share)), max(1, round(self.height * share))

    def rendered_region(self) -> tuple[int, int, int, int]:
        """Return left, top, right, bottom of what is rendered, in px as rendered."""
        width, height = self.rendered_size()
        if self.region is None:
            return 0, 0, width, height
        share = self.resolution_percent / 100
        left, top, right, bottom = (round(edge * share) for edge in self.region)
        left, top = min(left, width - 1), min(top, height - 1)
        return left, top, min(max(right, left + 1), width), min(max(bottom, top + 1), height)


def switched(names: Iterable[str]) -> dict[str, bool]:
    """Return the fields that switches set; those that are not named are off.

    Raises
    ------
    InputError
        If one is unknown.
    """
    wanted = set(names)
    unknown = sorted(wanted - set(SWITCHES))
    if unknown:
        raise InputError(
            [Problem("switches", f"this renderer has no “{unknown[0]}”")], f"There are: {', '.join(SWITCHES)}."
        )
    return {field: name in wanted for name, field in SWITCHES.items()}


def settings_of(fields: Mapping[str, Any]) -> RenderSettings:
    """Return settings from plain data, in which switches are named and a split is a list.

    Raises
    ------
    InputError
        If a switch is unknown.
    """
    plain = dict(fields)
    plain |= switched(plain.pop("switches", ("motion blur",)))
    plain["split"] = Split(*plain.get("split", ()))
    for name in ("region", "keep"):
        plain[name] = tuple(plain[name]) if plain.get(name) else RenderSettings.__dataclass_fields__[name].default
    return RenderSettings(**plain)


def check(settings: RenderSettings, frames: int) -> None:
    """Refuse what cannot be rendered.

    Parameters
    ----------
    settings : RenderSettings
    frames : int
        How many frames the scene has.

    Raises
    ------
    InputError
        With one problem for each wrong value.
    """
    s = settings
    wrong = [
        (not 1 <= s.frame <= frames, "frame", f"{s.frame} is not in the scene, which has frames 1 to {frames}"),
        (
            not (1 <= s.width <= LARGEST_SIDE and 1 <= s.height <= LARGEST_SIDE),
            "size",
            f"{s.width}x{s.height} is not a size; sides are 1 to {LARGEST_SIDE} px",
        ),
        (not 1 <= s.resolution_percent <= 400, "resolution percent", "must be between 1 and 400"),
        (not 1 <= s.samples <= MOST_SAMPLES, "samples", f"must be between 1 and {MOST_SAMPLES}"),
        (not 1 <= s.min_samples <= MOST_SAMPLES, "min samples", f"must be between 1 and {MOST_SAMPLES}"),
        (
            s.noise_threshold is not None and not 0 < s.noise_threshold < 1e6,
            "noise threshold",
            "must be a number above 0",
        ),
        (s.seconds is not None and not 0 < s.seconds < 1e7, "seconds", "must be a number above 0"),
        (not 0 <= s.seed < 2**63, "seed", "must be a whole number from 0 on"),
        (not 0 <= s.saves <= 100, "saves", "must be between 0 and 100"),
        (not 0 <= s.threads <= 1024, "threads", "must be between 0 (all) and 1024"),
        (
            min(s.split.shadow, s.split.gloss, s.split.through) < 1
            or max(s.split.shadow, s.split.gloss, s.split.through) > 64,
            "split",
            "each part must be between 1 and 64",
        ),
    ]
    problems = [Problem(where, what) for is_wrong, where, what in wrong if is_wrong]
    if s.noise_threshold is not None and 1 <= s.samples < s.min_samples:
        problems.append(
            Problem("min samples", f"the min samples ({s.min_samples}) are more than the most ({s.samples})")
        )
    if s.region is not None:
        left, top, right, bottom = s.region
        if not (0 <= left < right <= s.width and 0 <= top < bottom <= s.height):
            problems.append(
                Problem("region", f"{left},{top},{right},{bottom} is not inside the frame of {s.width}x{s.height} px")
            )
    problems += [Problem("keep", f"“{stage}” cannot be kept") for stage in s.keep if stage not in KEEPABLE]
    if problems:
        hint = f"Stages that can be kept: {', '.join(KEEPABLE)}." if any(p.where == "keep" for p in problems) else ""
        raise InputError(problems, hint)
