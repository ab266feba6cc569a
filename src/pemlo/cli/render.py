"""``pemlo render``: renders one frame of a demo scene with the small renderer that ships with Pemlo."""

import argparse
import csv
import json
import platform
import sys
from dataclasses import replace
from pathlib import Path

from pemlo.cli.arguments import finite, whole
from pemlo.cli.progress_bar import ProgressBar
from pemlo.core.errors import FileError, InputError, Problem
from pemlo.core.persistence.table import read_table_file
from pemlo.core.project.settings import LOOKS_AROUND, MOTION_BLUR
from pemlo.core.project.spelling import switch_names
from pemlo.core.units import format_duration
from pemlo.standins.renderer.settings import RenderSettings, Split, switched


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
    parser.add_argument("--threads", type=whole, default=0, help="0 for all")
    parser.add_argument("--by-source", action="store_true", help="tell light apart by where it comes from")
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
    from pemlo.standins.renderer.scenes import SCENES, find_scene  # noqa: PLC0415

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
    from pemlo.standins.renderer.film_file import read_film, read_unfinished, write_film  # noqa: PLC0415 - as above
    from pemlo.standins.renderer.output import table_row, write_picture  # noqa: PLC0415 - as above
    from pemlo.standins.renderer.render import render  # noqa: PLC0415 - as above
    from pemlo.standins.renderer.scenes import find_scene  # noqa: PLC0415 - as above

    settings = _settings(args, name)
    unfinished = args.top_up or args.output.with_name(f".{args.output.stem}.unfinished.npz")
    film, before = read_film(args.top_up, settings) if args.top_up else None, None
    if settings.saves and not args.top_up:
        film, before = read_unfinished(unfinished, settings) or (None, None)
    try:
        if args.warm_up:
            render(find_scene(name), replace(settings, width=16, height=9, region=None, samples=1, min_samples=1))
        with ProgressBar() as bar:
            rendered = render(
                find_scene(name),
                settings,
                bar,
                (args.kept_data or args.output.parent / "kept") if settings.keep else None,
                film=film,
                unfinished=unfinished,
                before=before,
            )
    except KeyboardInterrupt:
        print("pemlo: stopped; nothing was written", file=sys.stderr)
        return 130
    header = write_picture(rendered, args.output, platform.node(), first_run=not args.warm_up)
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
        by_source=args.by_source,
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
    from pemlo.standins.renderer.output import ROW_COLUMNS  # noqa: PLC0415 - as above

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
