"""What was typed to render trials, as frames and settings. Qt-free."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pemlo.core.errors import InputError, Problem
from pemlo.core.frames import parse_frames
from pemlo.core.persistence.table import kept_stages, number
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import NO_DENOISE, FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import cap, rays, rays_text, switch_names
from pemlo.core.units import format_duration
from pemlo.gui.common.cells import read

MOST_RENDERS = 200
LADDER_STEPS = 5
Region = tuple[int, int, int, int]


@dataclass(frozen=True)
class RenderRequest:
    """One frame to render."""

    frame: int
    settings: FrameSettings
    region: Region | None = None


def beginning(settings: FrameSettings, frame: int, region: Region | None = None) -> dict[str, str]:
    """Return what the fields begin with: one frame with those settings, or a region of it."""
    return {
        "frames": str(frame),
        "samples": str(settings.samples),
        "thresholds": "" if settings.noise_threshold is None else f"{settings.noise_threshold:g}",
        "least": str(settings.least_samples) if settings.adaptive else "",
        "size": f"{settings.resolution_percent:g}",
        "denoise": settings.denoise,
        "keep": " ".join(settings.keep),
        "cap": "" if settings.most_seconds is None else format_duration(settings.most_seconds),
        "split": rays_text(settings.split),
        "switches": ", ".join(settings.switches),
        "saves": str(settings.saves),
        "region": "" if region is None else ",".join(map(str, region)),
    }


def as_ladder(typed: Mapping[str, str]) -> dict[str, str]:
    """Return the fields with a ladder up to their most expensive step: samples doubling, or thresholds halving.

    Examples
    --------
    >>> as_ladder({"samples": "64", "thresholds": ""})["samples"]
    '4, 8, 16, 32, 64'
    >>> as_ladder({"samples": "512", "thresholds": "0.02"})["thresholds"]
    '0.16, 0.08, 0.04, 0.02'
    """
    thresholds = _numbers(typed["thresholds"], "Thresholds")
    if thresholds:
        return {**typed, "thresholds": ", ".join(f"{min(thresholds) * factor:.3g}" for factor in (8, 4, 2, 1))}
    samples = _numbers(typed["samples"], "Samples")
    steps = [max(1, int(max(samples, default=64.0)))]
    while steps[0] > 7 and len(steps) < LADDER_STEPS:
        steps.insert(0, steps[0] // 2)
    return {**typed, "samples": ", ".join(map(str, steps))}


def wanted(project: Project, shot: Shot, typed: Mapping[str, str]) -> tuple[RenderRequest, ...]:
    """Return the frames that the fields ask for: every frame with every step of the ladder, the cheapest step first.

    With thresholds the steps are those, falling, and samples are the most; without, the steps are the samples, rising.

    Raises
    ------
    InputError
        That says which field is wrong.
    """
    frames = [int(frame) for frame in read(parse_frames, typed["frames"], "Frames")]
    first, last = shot.whole_range
    outside = [frame for frame in frames if not first <= frame <= last]
    if outside:
        raise InputError([Problem("Frames", f"{outside[0]} is not in shot {shot.name} ({first}-{last})")])
    samples = sorted(int(value) for value in _numbers(typed["samples"], "Samples"))
    thresholds = sorted(_numbers(typed["thresholds"], "Thresholds"), reverse=True)
    if not samples or not frames:
        raise InputError([Problem("Samples" if frames else "Frames", "is empty")])
    common: dict[str, Any] = {
        "resolution_percent": read(number, typed["size"], "Size"),
        "denoise": typed["denoise"].strip() or NO_DENOISE,
        "keep": read(kept_stages, typed["keep"], "Keep"),
        "most_seconds": read(cap, typed["cap"], "Time limit") if typed["cap"].strip() else None,
        "split": read(rays, typed["split"] or "1,1,1", "Split"),
        "switches": read(switch_names, typed["switches"], "Switches"),
        "saves": int(read(number, typed["saves"] or "0", "Saves")),
    }
    steps: list[dict[str, Any]] = [{"samples": n} for n in samples]
    if thresholds:
        least = int(read(number, typed["least"], "Min samples")) if typed["least"].strip() else None
        steps = [{"samples": samples[-1], "min_samples": least, "noise_threshold": value} for value in thresholds]
    region = _region(typed["region"], project.size_of(shot)) if typed["region"].strip() else None
    found = tuple(
        RenderRequest(frame, build(FrameSettings, {**common, **step}, "Trial"), region)
        for step in steps
        for frame in frames
    )
    if len(found) > MOST_RENDERS:
        raise InputError(f"That would be {len(found)} frames; not more than {MOST_RENDERS} are rendered in one go.")
    return found


def _numbers(text: str, what: str) -> list[float]:
    return [read(number, part, what) for part in text.replace(";", ",").split(",") if part.strip()]


def _region(text: str, size: tuple[int, int]) -> Region:
    edges = [int(value) for value in _numbers(text, "Region")]
    if len(edges) != 4 or not (0 <= edges[0] < edges[2] <= size[0] and 0 <= edges[1] < edges[3] <= size[1]):
        raise InputError(
            [Problem("Region", f"“{text}” is not left, top, right, bottom inside {size[0]} x {size[1]} px")]
        )
    return edges[0], edges[1], edges[2], edges[3]
