"""``pemlo movie``: a review movie from finished or trial frames."""

import argparse
import sys
from pathlib import Path

from pemlo.cli.progress_bar import ProgressBar
from pemlo.cli.viewing import add_viewing, display_of
from pemlo.core.editing.timecode import frame_of
from pemlo.core.errors import InputError
from pemlo.core.persistence.document import read_project
from pemlo.core.units import counted
from pemlo.handover.movie.codecs import CODECS
from pemlo.handover.movie.make_movie import BURNED, Burned, make_movie
from pemlo.handover.movie.order import MovieWish, Source, movie_order

_ENDINGS = ", ".join(f"{codec.ending} ({codec.name})" for codec in CODECS)
_DESCRIPTION = f"""Writes a movie to review: {_ENDINGS}. Frames that were not planned are held or mixed as the plan
says; where one is missing a slate says so. The movie is written whole or not at all."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="FILE")
    parser.add_argument("--trials", action="store_true", help="show the frames of trials, each until the next")
    parser.add_argument("--place", default="", help="where frames lie (default: where they arrive)")
    parser.add_argument("--beside", default="", metavar="PLACE", help="a second sequence, right of the first")
    parser.add_argument("--beside-trials", action="store_true", help="the frames of trials as the second sequence")
    parser.add_argument("--split", action="store_true", help="left half of the first, right half of the second")
    parser.add_argument("--shots", default="", help="only these, with commas between")
    parser.add_argument("--width", type=int, help="of one sequence, px")
    parser.add_argument("--codec", default="", help=", ".join(codec.name for codec in CODECS))
    parser.add_argument("--burn", default=",".join(BURNED), help="words below: %(default)s; none for none")
    add_viewing(parser)
    parser.add_argument("--timecode", default="", help="of the first frame: 01:00:00:00, or 01:00:00;00 for drop-frame")
    parser.add_argument("--sound", type=Path, metavar="FILE.wav")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Write the movie."""
    project = read_project(args.project)
    drop = ";" in args.timecode
    try:
        first = frame_of(args.timecode, project.delivery.fps) if args.timecode else 0
    except ValueError as error:
        raise InputError(f"--timecode: {error}.") from error
    second: Source | None = "trials" if args.beside_trials else "frames" if args.beside else None
    wish = MovieWish(
        source="trials" if args.trials else "frames", place=args.place, second=second,
        second_place=args.beside, layout="split" if args.split else "beside",
        shots=tuple(filter(None, (name.strip() for name in args.shots.split(",")))), width=args.width, codec=args.codec,
        burned=_burned(args.burn), display=display_of(args), first_frame=first, drop=drop, sound=args.sound,
    )  # fmt: skip
    order = movie_order(project, args.project.resolve().parent, wish, args.output)
    with ProgressBar() as bar:
        made = make_movie(order, args.output, bar)
    size = "×".join(map(str, order.whole_size))
    lacks = f", {counted(made.missing, 'slate')} for missing frames" if made.missing else ""
    print(f"{args.output}: {counted(made.frames, 'frame')} of {size} px{lacks}")
    for words in made.damaged:
        print(f"pemlo: {words}", file=sys.stderr)
    return 0


def _burned(text: str) -> tuple[Burned, ...]:
    names = [] if text.strip() == "none" else [name.strip() for name in text.split(",") if name.strip()]
    unknown = [name for name in names if name not in BURNED]
    if unknown:
        raise InputError(f"--burn: “{unknown[0]}” cannot be written.", f"There are {', '.join(BURNED)}, and none.")
    return tuple(name for name in BURNED if name in names)
