"""``pemlo missing``: which frames of a shot are missing, and what each machine is to render next."""

import argparse
import json
import sys
from collections.abc import Iterable
from datetime import datetime
from pathlib import Path

from pemlo.cli.arguments import add_formats, seed
from pemlo.cli.csv_output import as_csv
from pemlo.cli.opened import open_now
from pemlo.core.arrivals.frame_check import reads_to_its_end
from pemlo.core.arrivals.place import FramePlace, place_of
from pemlo.core.arrivals.scan import Arrival, scan
from pemlo.core.arrivals.what_is_missing import NextRange, frames_there, missing_frames, next_ranges, wanted_frames
from pemlo.core.errors import InputError
from pemlo.core.files.header import is_picture
from pemlo.core.frames import format_frames
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.words.verdicts import say_moment

DONE, NOT_WHOLE = 0, 3
_DESCRIPTION = """Looks into the folders into which frames arrive, and says which frames of a shot are missing.
Nothing is ever written there. Ends with 3 if not everything could be looked at."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("--shot", required=True, help="which shot")
    parser.add_argument(
        "--place", type=place, metavar="PATTERN",
        help="where frames lie, in place of the project's: renders/{shot}/{shot}.{frame:04}.exr",
    )  # fmt: skip
    parser.add_argument(
        "--split", metavar="MACHINES", help="share them out to machines, with commas between, so that all end together"
    )
    add_formats(parser)
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def place(text: str) -> FramePlace:
    """Read a place."""
    try:
        return place_of(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(str(error)) from error


def run(args: argparse.Namespace) -> int:
    """Print what is missing; what could not be read goes to standard error."""
    film = open_now(args.project, args.seed)
    project = film.project
    try:
        shot = project.shot(args.shot)
    except KeyError:
        shot_names = ", ".join(one.name for one in project.shots[:20]) or "none"
        raise InputError(f"There is no shot called {args.shot}.", f"There are {shot_names}.") from None
    found = scan(args.place or _own_place(project, shot), film.folder)
    for trouble in found.troubles:
        print(f"pemlo: {trouble}", file=sys.stderr)
    code = DONE if found.whole else NOT_WHOLE
    if not found.whole:
        print("pemlo: Not everything could be read: frames listed as missing may exist.", file=sys.stderr)
    arrivals = _whole(shot, found.arrivals)
    lacking = missing_frames(shot, arrivals)
    ranges: tuple[NextRange, ...] = ()
    if args.split:
        names = [name.strip() for name in args.split.split(",") if name.strip()]
        ranges = next_ranges(project, *film.known, shot, lacking, names)
    if args.json:
        data = {
            "shot": shot.name,
            "frames": len(wanted_frames(shot)),
            "missing": _joined(lacking),
            "in": _joined(frames_there(shot, arrivals)),
            "whole": found.whole,
            "troubles": list(found.troubles),
            "ranges": [_range_json(project, range_) for range_ in ranges],
        }
        print(json.dumps(data, indent=1))
        return code
    if args.csv:
        print(
            as_csv([_range_json(project, one) for one in ranges] or [{"shot": shot.name, "missing": _joined(lacking)}])
        )
        return code
    print(_spaced(lacking))
    for one in ranges:
        print(f"{one.machine}: {_spaced(one.frames)}; done {say_moment(_done(project, one), project)}")
    return code


def _whole(shot: Shot, arrivals: Iterable[Arrival]) -> tuple[Arrival, ...]:
    """Return the frames that are there to their end; the others count as missing, and are said.

    Of a file that is no picture of a kind that is read here nothing is known: it counts as there.
    """
    mine = [arrival for arrival in arrivals if arrival.size and arrival.found.shot in ("", shot.name)]
    paths = {arrival: Path(arrival.path) for arrival in mine}
    whole = tuple(arrival for arrival, path in paths.items() if not is_picture(path) or reads_to_its_end(path))
    torn = sorted({arrival.found.frame for arrival in mine} - {arrival.found.frame for arrival in whole})
    if torn:
        frames = format_frames(tuple(torn))
        print(f"pemlo: not whole, and missing therefore: {frames}. They may still be written.", file=sys.stderr)
    return whole


def _own_place(project: Project, shot: Shot) -> FramePlace:
    pattern = shot.place or project.watching.place
    if not pattern:
        raise InputError(
            "Where frames arrive is not known.", "Give --place, such as 'renders/{shot}/{shot}.{frame:04}.exr'."
        )
    return place(pattern)


def _range_json(project: Project, range_: NextRange) -> dict[str, str]:
    return {"machine": range_.machine, "frames": _joined(range_.frames), "done": _done(project, range_).isoformat()}


def _joined(frames: tuple[int, ...]) -> str:
    return format_frames(frames) if frames else ""


def _spaced(frames: tuple[int, ...]) -> str:
    return format_frames(frames).replace(",", ", ")


def _done(project: Project, range_: NextRange) -> datetime:
    return project.moment(range_.hours)
