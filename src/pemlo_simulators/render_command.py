"""``pemlo render``: renders one frame of a demo scene with the small renderer that ships with Pemlo."""

import argparse
import csv
import hashlib
import json
import platform
import sys
import time
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from pemlo.cli.arguments import finite, whole
from pemlo.cli.progress_bar import ProgressBar
from pemlo.core.errors import FileError, InputError, PemloError, Problem
from pemlo.core.persistence.table import read_table_file
from pemlo.core.project.settings import LOOKS_AROUND, MOTION_BLUR
from pemlo.core.project.spelling import switch_names
from pemlo.core.units import DAY_S, format_duration
from pemlo_simulators.renderer.settings import RenderSettings, Split, switched

if TYPE_CHECKING:
    from pemlo_simulators.renderer.clock import Clock
    from pemlo_simulators.renderer.film import Sums


# Light of larger frames is not split by source: that takes 96 bytes a pixel.
MOST_PIXELS_BY_SOURCE = 4_000_000
UNFINISHED = ".unfinished.npz"
FORGOTTEN_DAYS = 14  # nobody goes on from so old a frame


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.add_argument("--list", action="store_true", help="name the scenes and stop")
    parser.add_argument("--scene")
    parser.add_argument("--frame", type=whole, default=1)
    parser.add_argument("--size", type=_size, default=(640, 360), metavar="WxH", help="whole frame at 100 %%, px")
    parser.add_argument("--resolution-percent", type=finite, default=100.0)
    parser.add_argument("--samples", type=whole, default=None, help="of every pixel; the most with a noise threshold")
    parser.add_argument("--noise-threshold", type=finite, default=None)
    parser.add_argument("--min-samples", type=whole, default=8, help="the least, with a noise threshold")
    parser.add_argument(
        "--seconds", type=finite, default=None, help="stop tracing after that long, were nothing else running"
    )
    parser.add_argument("--seed", type=whole, default=0)
    parser.add_argument("--region", type=_region, default=None, metavar="x0,y0,x1,y1", help="px of the frame at 100 %%")
    parser.add_argument(
        "--denoise", default="none", help="none, frame, neighbours; soft or strong, then RADIUS and REACH, may follow"
    )
    parser.add_argument("--keep", default="", help="stages to keep between frames: prepare,light")
    parser.add_argument(
        "--kept-data", type=Path, default=None, help="folder of the cache; next to the picture if not given"
    )
    parser.add_argument(
        "--split",
        type=_split,
        default=Split(),
        metavar="SHADOW,GLOSS,THROUGH",
        help="rays a sample at the first surface",
    )
    parser.add_argument(
        "--warm-up", action="store_true", help="render a tiny frame first, so that loading and compiling is not timed"
    )
    parser.add_argument(
        "--switches",
        default="motion blur",
        help="what is switched on, with commas between: motion blur, soft filter; or none",
    )
    parser.add_argument(
        "--saves",
        type=whole,
        default=0,
        help="how often the unfinished frame is written; a broken one goes on from there",
    )
    parser.add_argument("--machine", default="", help="what the header calls this computer; its own name if not given")
    parser.add_argument(
        "--refine", type=finite, default=None, metavar="SECONDS", help="write what there is so far that often"
    )
    parser.add_argument("--threads", type=whole, default=0, help="0 for all")
    parser.add_argument(
        "--by-source",
        action="store_true",
        help=f"tell light apart by where it comes from, in frames of up to {MOST_PIXELS_BY_SOURCE // 1_000_000} Mpx",
    )
    parser.add_argument("--float", action="store_true", help="32 bits a value instead of 16")
    parser.add_argument(
        "--top-up",
        type=Path,
        default=None,
        metavar="FILE",
        help="keep the sums of samples here; add to them if the file exists",
    )
    parser.add_argument("--row", type=Path, default=None, metavar="FILE.csv", help="add the trial's row to this table")
    parser.add_argument("-o", "--output", type=Path, help="picture to write, .exr")
    parser.add_argument("--json", action="store_true", help="write JSON")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """List the scenes, or render one frame, write it and say how long each stage took."""
    # The renderer's machine code takes a second to load: not before it is needed.
    from pemlo_simulators.renderer.scenes import SCENES, find_scene  # noqa: PLC0415

    if args.list:
        if args.json:
            print(
                json.dumps([{"scene": s.name, "title": s.title, "frames": s.frames, "moves": s.moves} for s in SCENES])
            )
        else:
            for s in SCENES:
                print(f"{s.name:12} {s.title:22} {s.frames:4} frames   moves: {', '.join(s.moves)}")
        return 0
    if not args.scene or not args.output:
        missing = [
            Problem(flag, "is missing") for flag, value in (("--scene", args.scene), ("-o", args.output)) if not value
        ]
        raise InputError(missing, "pemlo render --list names the scenes.")
    if args.output.suffix.lower() != ".exr":
        raise InputError([Problem("-o", f"{args.output.name} does not end in .exr")], "Pictures are written as EXR.")
    _see_that_it_can_be_written(args.output)
    if args.row:
        _see_table(args.row)
    scene = find_scene(args.scene)
    return _render(args, scene.name)


def _render(args: argparse.Namespace, name: str) -> int:
    from pemlo_simulators.renderer.film_file import read_film, write_film  # noqa: PLC0415 - as above
    from pemlo_simulators.renderer.output import table_row, write_picture  # noqa: PLC0415 - as above
    from pemlo_simulators.renderer.render import render  # noqa: PLC0415 - as above
    from pemlo_simulators.renderer.scenes import find_scene  # noqa: PLC0415 - as above

    settings = _settings(args, name)
    unfinished = args.top_up or _unfinished_of(args.output, settings)
    film, before = read_film(args.top_up, settings) if args.top_up else None, None
    if settings.saves and not args.top_up:
        _remove_forgotten(args.output.parent)
        settings, film, before = _gone_on_from(unfinished, settings)
    try:
        if args.warm_up:
            render(find_scene(name), replace(settings, width=16, height=9, region=None, samples=1, min_samples=1))
        with ProgressBar() as bar:
            rendered = render(
                find_scene(name),
                settings,
                bar,
                (args.kept_data or args.output.parent / "kept") if settings.keep else None,
                None if args.refine is None else _Refined(args.output, args.refine),
                film=film,
                unfinished=unfinished,
                before=before,
            )
    except KeyboardInterrupt:
        print("pemlo: stopped; nothing was written", file=sys.stderr)
        return 130
    header = write_picture(rendered, args.output, args.machine or platform.node(), first_run=not args.warm_up)
    if args.top_up:
        write_film(args.top_up, settings, rendered.film)
    elif settings.saves:
        unfinished.unlink(missing_ok=True)
    row = table_row(header, args.output)
    if args.row:
        picture, folder = args.output.absolute(), args.row.absolute().parent
        near = picture.is_relative_to(folder)
        _add_row(args.row, {**row, "picture": (picture.relative_to(folder) if near else picture).as_posix()})
    if args.json:
        known = {key: float(f"{value:.6g}") if isinstance(value, float) else value for key, value in header.items()}
        print(json.dumps({"picture": str(args.output), **known}))
    else:
        stages = ", ".join(
            f"{stage} {seconds:.2f} s" for stage, seconds in rendered.clock.wall.items() if seconds > 0.0005
        )
        print(f"{args.output}: {format_duration(sum(rendered.clock.wall.values()))} ({stages})")
        noise = f"{100 * float(str(header['noise'])):.2g} % of the mean brightness"
        print(f"{rendered.mean_samples:.4g} samples a pixel, noise {noise}")
        if rendered.lost:
            print(f"{rendered.lost} samples came to no number and count as black")
    return 0


class _Refined:
    """Writes what there is so far under the picture's own name, not too often: whoever waits can look at it."""

    def __init__(self, path: Path, every_s: float) -> None:
        self._path, self._every_s = path, every_s
        self._written = time.monotonic()

    def __call__(self, film: "Sums") -> None:
        from pemlo_simulators.renderer.exr import Channels, write_exr  # noqa: PLC0415 - as above
        from pemlo_simulators.renderer.film import develop  # noqa: PLC0415 - as above

        if time.monotonic() - self._written > self._every_s:
            write_exr(self._path, Channels(("R", "G", "B"), develop(film).colour, {}))
            self._written = time.monotonic()


def _unfinished_of(output: Path, settings: RenderSettings) -> Path:
    """Return where the unfinished frame is written: asked for again in the same way, it goes on from there."""
    asked = repr(replace(settings, seed=0, threads=0))
    return output.with_name(f".{hashlib.sha256(asked.encode()).hexdigest()[:16]}{UNFINISHED}")


def _gone_on_from(path: Path, settings: RenderSettings) -> "tuple[RenderSettings, Sums | None, Clock | None]":
    """Return the settings of a frame with what there is of it in a file; a file that is of no use is removed."""
    from pemlo_simulators.renderer.film_file import read_unfinished, seed_of  # noqa: PLC0415 - as above

    seed = seed_of(path)
    if seed is not None:
        again = replace(settings, seed=seed)
        with suppress(PemloError):
            found = read_unfinished(path, again)
            if found is not None:
                return again, *found
    path.unlink(missing_ok=True)
    return settings, None, None


def _remove_forgotten(folder: Path) -> None:
    """Remove what unfinished frames left long ago."""
    for left in folder.glob(f".*{UNFINISHED}"):
        with suppress(OSError):
            if time.time() - left.stat().st_mtime > FORGOTTEN_DAYS * DAY_S:
                left.unlink()


def _settings(args: argparse.Namespace, name: str) -> RenderSettings:
    switches = switch_names(args.switches)
    if args.denoise.startswith(LOOKS_AROUND) and MOTION_BLUR in switches:
        raise InputError(
            f"Denoising “{args.denoise}” looks at other frames and takes motion blur for noise.",
            "Add --switches none, or denoise another way.",
        )
    if args.samples is None:
        args.samples = 1_000_000 if args.seconds else 256 if args.noise_threshold else 64
    if args.noise_threshold is not None and args.samples < args.min_samples == 8:
        args.min_samples = args.samples
    return RenderSettings(
        scene=name,
        frame=args.frame,
        width=args.size[0],
        height=args.size[1],
        resolution_percent=args.resolution_percent,
        samples=args.samples,
        min_samples=args.min_samples,
        noise_threshold=args.noise_threshold,
        seconds=args.seconds,
        seed=args.seed,
        region=args.region,
        denoise=args.denoise,
        keep=tuple(part for part in args.keep.replace(",", " ").split() if part),
        split=args.split,
        by_source=args.by_source and args.size[0] * args.size[1] <= MOST_PIXELS_BY_SOURCE,
        threads=args.threads,
        saves=args.saves,
        **switched(switches),
        half=not args.float,
    )


def _see_that_it_can_be_written(path: Path) -> None:
    """Find out before the work, not after it, that the picture has no place."""
    probe = path.with_name(f".{path.name}.probe")
    try:
        probe.touch()
        probe.unlink()
    except OSError as error:
        raise FileError(
            f"The picture cannot be written to {path}: {error.strerror}.",
            "See that the folder exists and may be written to.",
        ) from error


def _see_table(path: Path) -> None:
    """Refuse to add rows to what is no table of such rows; before the work, not after it."""
    from pemlo_simulators.renderer.output import ROW_COLUMNS  # noqa: PLC0415 - as above

    if not path.exists():
        return
    missing = set(ROW_COLUMNS) - set(_header(path))
    if missing:
        names = ", ".join(sorted(missing)[:5])
        what = f"{path.name} is no table to which a trial can be added: it has no column {names}"
        raise InputError([Problem("--row", what)], "Name a new file, and it is made.")


def _header(path: Path) -> list[str]:
    lines = list(csv.reader(read_table_file(path).splitlines()[:1]))
    return lines[0] if lines else []


def _add_row(path: Path, row: dict[str, str]) -> None:
    _see_table(path)  # it may be another by now
    try:
        before = path.read_bytes() if path.exists() else b""
        with path.open("a", newline="", encoding="utf-8") as file:
            if before and not before.endswith(b"\n"):
                file.write("\r\n")
            writer = csv.DictWriter(file, _header(path) if before else list(row), restval="")
            if not before:
                writer.writeheader()
            writer.writerow(row)
    except OSError as error:
        raise FileError(f"The row cannot be written to {path}: {error.strerror}.") from error


def _short_number(text: str) -> bool:
    return text.isdecimal() and len(text) < 10


def _size(text: str) -> tuple[int, int]:
    width, separator, height = text.lower().partition("x")
    if not separator or not _short_number(width) or not _short_number(height):
        raise argparse.ArgumentTypeError(f"“{text}” is not a size like 1280x720")
    return int(width), int(height)


def _region(text: str) -> tuple[int, int, int, int]:
    parts = _numbers(text, 4, "a region like 100,50,300,200")
    return parts[0], parts[1], parts[2], parts[3]


def _split(text: str) -> Split:
    return Split(*_numbers(text, 3, "a split like 2,1,1"))


def _numbers(text: str, count: int, what: str) -> list[int]:
    parts = text.split(",")
    if len(parts) != count or not all(_short_number(part.strip()) for part in parts):
        raise argparse.ArgumentTypeError(f"“{text}” is not {what}")
    return [int(part) for part in parts]
