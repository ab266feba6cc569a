"""``pemlo farm``: the small farm renders a plan into a folder, by a clock of its own, and goes wrong as farms do."""

import argparse
import sys
from pathlib import Path

from pemlo.cli.arguments import finite, seed
from pemlo.core.arrivals.farm_clock import FASTEST, PLACE
from pemlo.core.arrivals.place import FramePlace, place_of
from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.document import read_project
from pemlo.core.progress import Unwatched
from pemlo.core.units import counted
from pemlo_simulators.farm.logs import STYLES

_DESCRIPTION = """Renders the plan of a film on its machines, with their hours, speeds and losses, into a folder:
small pictures, with headers and a log. What frames really cost is drawn from what the trials leave open."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("--into", type=Path, required=True, metavar="FOLDER", help="where frames are written")
    parser.add_argument("--place", type=_place, default=place_of(PLACE), metavar="PATTERN", help=f"in it: {PLACE}")
    parser.add_argument(
        "--clock", type=_speed, default=600.0, help="seconds on the farm in one on the wall, 1 to 10000"
    )
    parser.add_argument(
        "--faults", default="", help="lost:070/12, truncated:, size:, black:, slow:blade@10h, dead:, clock:, "
        "power@20h, full@30h, order; or chance; with commas between",
    )  # fmt: skip
    parser.add_argument("--log", choices=STYLES, help="write a log in one of three styles")
    parser.add_argument("--no-headers", action="store_true", help="say nothing in the headers of pictures")
    parser.add_argument(
        "--seed", type=seed, default=0, help="of what frames cost and of chance; the same, the same run"
    )
    parser.set_defaults(run=run)


def _place(text: str) -> FramePlace:
    try:
        return place_of(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(str(error)) from error


def _speed(text: str) -> float:
    value = finite(text)
    if not 1 <= value <= FASTEST:
        raise argparse.ArgumentTypeError(f"a clock runs 1 to {FASTEST:g} times as fast, not {text[:40]}")
    return value


def run(args: argparse.Namespace) -> int:
    """Play the farm until all frames are written, or it is stopped."""
    project = read_project(args.project)
    if not project.shots or not any(machine.count for machine in project.machines):
        raise InputError("There is no shot, or no machine: nothing can be rendered.", "Add them in the brief.")
    # The renderer's machine code takes a second to load: not before it is needed.
    from pemlo_simulators.farm.run import farm_run  # noqa: PLC0415

    try:
        args.into.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"Nothing can be written into {args.into}: {error.strerror}.") from error
    made = farm_run(
        project, args.into, place=args.place, faults=args.faults, seed=args.seed, speed=args.clock, log=args.log,
        headers=not args.no_headers, film=args.project,
    )  # fmt: skip
    made.refuse_what_is_there()
    frames = counted(len(made.coming), "frame")
    print(f"{frames}, {args.clock:g} times as fast as the wall, into {args.into}", flush=True)
    try:
        made.play(Unwatched(), says=lambda words: print(words, flush=True))
    except KeyboardInterrupt:
        print(f"pemlo: stopped after {counted(made.written, 'frame')}", file=sys.stderr)
        return 130
    print(f"{counted(made.written, 'frame')} written.")
    return 0
