"""What leaves the renderer: the EXR with its header, and the trial's row for a table. Files only."""

from dataclasses import replace
from pathlib import Path

import numpy as np

from pemlo.core.appraisal.noise_sources import SOURCES
from pemlo.core.cost.noise_shape import noise_shape
from pemlo.core.project.trials import region_share, why_left_out
from pemlo.core.units import MIB
from pemlo_simulators.renderer.clock import STAGES
from pemlo_simulators.renderer.exr import HEADER, Channels, write_exr
from pemlo_simulators.renderer.render import Rendered, machine_seconds
from pemlo_simulators.renderer.settings import SWITCHES

# Columns of a table of trials; what the renderer knows beyond them follows.
ROW_COLUMNS = (
    "shot", "frame", "samples", "min_samples", "noise_threshold", "denoise", "resolution_percent", "seconds", "machine",
    "seed", "prepare_seconds", "light_seconds", "trace_seconds", "denoise_seconds", "write_seconds", "mean_samples",
    "noise", "noise_shape", "keep", "most_seconds", "split", "switches", "saves", "memory_gib", "disk_mib",
    "region_percent", "threads", "wall_seconds", "picture", "left_out",
)  # fmt: skip


def write_picture(rendered: Rendered, path: Path, machine: str = "", *, first_run: bool = False) -> dict[str, object]:
    """Write a frame, time its writing, and return its header with all stage seconds.

    The time of writing can only be known when it is over: the file is written once to time it, then its header is
    put right. Light split by source is not in the first file: trials with it and without take as long.

    Raises
    ------
    FileError
        If it cannot be written. Nothing is left under the final name then.
    """
    half = rendered.settings.half
    plain = channels_of(replace(rendered, picture=replace(rendered.picture, parts=None, part_variance=None)))
    with rendered.clock.stage("write"):
        write_exr(path, replace(plain, header=header_of(rendered, machine, first_run=first_run)), half)
    header = header_of(rendered, machine, first_run=first_run, disk_mib=path.stat().st_size / MIB)
    write_exr(path, replace(channels_of(rendered), header=header), half)
    return dict(header)


def channels_of(rendered: Rendered) -> Channels:
    """Return a frame's channels, without a header; see `exr`."""
    picture = rendered.picture
    parts = [("", "RGB", picture.colour)]
    if rendered.settings.denoise != "none":
        parts.append(("noisy.", "RGB", rendered.noisy))
    parts += [
        ("albedo.", "RGB", picture.albedo),
        ("normal.", "XYZ", picture.normal),
        ("depth.", "Z", picture.depth[..., None]),
        ("variance.", "RGB", picture.variance),
        ("samples.", "N", picture.samples[..., None].astype(np.float32)),
    ]
    if picture.parts is not None and picture.part_variance is not None:
        for number, source in enumerate(SOURCES):
            parts.append((f"{source}.", "RGB", picture.parts[..., 3 * number : 3 * number + 3]))
        for number, source in enumerate(SOURCES):
            parts.append((f"variance.{source}.", "Y", picture.part_variance[..., number, None]))
    names = tuple(group + letter for group, letters, _ in parts for letter in letters)
    return Channels(names, np.concatenate([pixels for _, _, pixels in parts], axis=-1), {})


def header_of(
    rendered: Rendered, machine: str = "", *, first_run: bool = False, disk_mib: float = 0.0
) -> dict[str, str | float | int]:
    """Return what a frame's header says; keys are those of `exr.HEADER`."""
    s, spent = rendered.settings, machine_seconds(rendered.clock, rendered.threads)
    values: dict[str, str | float | int] = {
        "scene": s.scene,
        "frame": s.frame,
        "full_width": s.width,
        "full_height": s.height,
        "resolution_percent": float(s.resolution_percent),
        "region": ",".join(map(str, s.region)) if s.region else "whole",
        "samples": s.samples,
        "min_samples": s.min_samples if s.noise_threshold else s.samples,
        "noise_threshold": float(s.noise_threshold or 0.0),
        "mean_samples": rendered.mean_samples,
        "seed": str(s.seed),
        "denoise": s.denoise,
        "keep": " ".join(s.keep) or "nothing",
        "most_seconds": float(s.seconds or 0.0),
        "switches": ", ".join(name for name, field in SWITCHES.items() if getattr(s, field)) or "none",
        "saves": s.saves,
        "memory_gib": rendered.memory_gib,
        "disk_mib": disk_mib,
        "read_back": " ".join(rendered.read_back) or "nothing",
        "split": f"{s.split.shadow},{s.split.gloss},{s.split.through}",
        "threads": rendered.threads,
        "machine": machine,
        "first_run": int(first_run),
        "seconds": sum(spent.values()),
        **{f"{stage}_seconds": spent[stage] for stage in STAGES},
        "wall_seconds": sum(rendered.clock.wall.values()),
        "noise": relative_noise(rendered),
        "noise_shape": " ".join(f"{value:.4f}" for value in shape_of(rendered)),
    }
    return {name: values[name] for name in HEADER}


def relative_noise(rendered: Rendered) -> float:
    """Return the noise of a frame as traced: standard error of its pixels over its mean brightness, both linear.

    Standard errors are averaged as squares over all pixels and colours.
    """
    variance, colour = rendered.picture.variance.astype(float), rendered.noisy.astype(float)
    return float(np.sqrt(variance.mean()) / max(colour.mean(), 1e-12))


def shape_of(rendered: Rendered) -> tuple[float, ...]:
    """Return how noise is spread over a frame as traced."""
    picture = rendered.picture
    return noise_shape(rendered.noisy.astype(float), picture.variance.astype(float), picture.samples.astype(float))


def table_row(header: dict[str, object], picture: Path) -> dict[str, str]:
    """Return the trial's row of a CSV table, `ROW_COLUMNS` in order."""
    values: dict[str, object] = {
        **header,
        "shot": header["scene"],
        # What was to be kept and was not there yet had to be worked out: the times are those of a whole frame.
        "keep": header["read_back"],
        "picture": picture.name,
        "region_percent": _share(header),
        "left_out": why_left_out(first_run=bool(header["first_run"])),
    }
    if not header["noise_threshold"]:
        values["noise_threshold"] = values["min_samples"] = ""
    if not header["most_seconds"]:
        values["most_seconds"] = ""
    return {name: _written(values[name]) for name in ROW_COLUMNS}


def _share(header: dict[str, object]) -> object:
    share = region_share(str(header["region"]), float(str(header["full_width"])), float(str(header["full_height"])))
    return "" if share is None else share


def _written(value: object) -> str:
    return f"{value:.6g}" if isinstance(value, float) else str(value)
