"""``pemlo new``: make a project from tables."""

import argparse
import sys
from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path
from typing import TypeVar

import tzlocal

from pemlo.cli.arguments import finite, say_not_used
from pemlo.cli.standard_input import table_of
from pemlo.core.cost.machine_speeds import measured_speeds, with_measured_machines
from pemlo.core.errors import FileError, InputError, PemloError, Problem
from pemlo.core.persistence.csv_machines import READ as MACHINE_COLUMNS
from pemlo.core.persistence.csv_machines import read_machines
from pemlo.core.persistence.csv_shots import READ as SHOT_COLUMNS
from pemlo.core.persistence.csv_shots import common_size, read_shots, without_delivery
from pemlo.core.persistence.csv_trials import READ as TRIAL_COLUMNS
from pemlo.core.persistence.csv_trials import read_trials, wrong_cells
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.persistence.table import CsvColumn, unused_titles
from pemlo.core.project.delivery import Delivery, local_moment, zone
from pemlo.core.project.edits import add_trials, set_handles
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.repeated import incoming
from pemlo.core.project.settings import USUAL_SAMPLES, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.start import NOW
from pemlo.core.units import counted, format_interval

T = TypeVar("T")
ONE_MACHINE = Machine(name="reference")
FULL_HD = (1920, 1080)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.add_argument("--title", required=True, help="the film's title")
    parser.add_argument(
        "--start", required=True, metavar="ISO", help="when rendering can begin: 2031-04-21T10:00, or now"
    )
    parser.add_argument("--deadline", required=True, metavar="ISO", help="when the film is due")
    parser.add_argument("--timezone", help="time zone of the hours, such as Europe/Lisbon (default: this machine's)")
    parser.add_argument("--confidence", type=finite, default=0.9, help="how sure the film has to make it, 0.5 to 0.999")
    parser.add_argument("--assembly-minutes", type=finite, default=0.0, help="minutes kept after the last frame")
    parser.add_argument("--retake-share", type=finite, default=0.0, help="share of frames rendered again, such as 0.1")
    shots = parser.add_mutually_exclusive_group(required=True)
    shots.add_argument("--shots", type=Path, help="table of shots")
    shots.add_argument("--edit", type=Path, metavar="FILE", help="OpenTimelineIO file, or CMX 3600 edit list")
    shots.add_argument("--frames", type=Path, metavar="FOLDER", help="folder of frames: each run of them is a shot")
    parser.add_argument(
        "--samples", type=int, default=USUAL_SAMPLES, help="of shots from an edit or a folder (%(default)s)"
    )
    parser.add_argument("--fps", type=finite, default=24.0, help="of an edit or a folder (%(default)s)")
    parser.add_argument("--handles", type=int, help="frames more at either end of each shot, rendered and not shown")
    parser.add_argument("--trials", type=Path, help="table of timed test frames")
    parser.add_argument("--machines", type=Path, help="table of machines (default: one, always free)")
    parser.add_argument(
        "--speeds-from-trials",
        action="store_true",
        help="take the machines' speeds from frames timed on several of them",
    )
    parser.add_argument("-o", "--output", required=True, type=Path, help="the project file to write")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Make the project and write it; what was assumed is said on standard error by the caller."""
    _see_output(args)
    project = make_project(args)
    if args.speeds_from_trials:
        project = with_measured_machines(project)
        for machine_speed in measured_speeds(project):
            interval = format_interval(machine_speed.speed)
            print(f"{machine_speed.machine}: {interval} times as fast, from {counted(machine_speed.frames, 'frame')}")
    write_project(project, args.output)
    frames = sum(shot.frame_count for shot in project.shots)
    sizes = (len(project.shots), "shot"), (frames, "frame"), (len(project.trials), "trial")
    print(f"{args.output}: {', '.join(counted(*size) for size in sizes)}")
    if args.machines is None:
        print("No table of machines: one reference machine, always free, is assumed.")
    return 0


def _see_output(args: argparse.Namespace) -> None:
    """Refuse to write over what is no project, such as one of the tables."""
    if args.output.is_file():
        try:
            read_project(args.output)
        except PemloError as error:
            what = f"{args.output} exists already, and is no project that can be read"
            raise InputError([Problem("-o", what)], "Nothing was written; name another file.") from error


def make_project(args: argparse.Namespace) -> Project:
    """Return the project that the arguments describe.

    Raises
    ------
    InputError, FileError
        If something is wrong with them or with the tables.
    """
    timezone = args.timezone or tzlocal.get_localzone_name() or "UTC"
    shots, machines = _read_tables(args)
    size = common_size(shots) or ((*FULL_HD, args.fps) if args.shots is None else None)
    fields = {
        "timezone": _checked("--timezone", lambda: zone(timezone).key),
        "deadline": _checked("--deadline", lambda: local_moment(args.deadline, timezone)),
        "confidence": args.confidence,
        "assembly_minutes": args.assembly_minutes,
        "retake_share": args.retake_share,
    }
    if size is not None:
        fields |= {"width": size[0], "height": size[1], "fps": size[2]}
    delivery = build(Delivery, fields, "Delivery")
    project = build(
        Project,
        {
            "title": args.title,
            "start": _checked("--start", lambda: _start(args.start, timezone)),
            "starts_now": args.start == NOW,
            "delivery": delivery,
            "shots": without_delivery(shots, delivery.width, delivery.height, delivery.fps),
            "machines": machines,
        },
        "",
    )
    if args.handles is not None:
        project = set_handles(project, args.handles)
    if args.trials is None:
        return project
    found = incoming(project, read_trials(_table(args.trials, "trials", TRIAL_COLUMNS), project, args.trials.name))
    if found.here:
        rows = counted(len(found.here), "row")
        print(
            f"{args.trials.name}: {rows} repeat others to the last digit, and each trial counts once. "
            "If it was timed again, number it in a column “repeat”.",
            file=sys.stderr,
        )
    return add_trials(project, found.new)


def _start(text: str, timezone: str) -> datetime:
    """Return when rendering can begin: what was typed, or this minute."""
    if text == NOW:
        return datetime.now(zone(timezone)).replace(second=0, microsecond=0)
    return local_moment(text, timezone)


def _read_tables(args: argparse.Namespace) -> tuple[tuple[Shot, ...], tuple[Machine, ...]]:
    """Return the shots and machines; what is wrong with any of the tables, that of trials too, is raised together."""
    problems: list[Problem] = []
    shots = _gathered(problems, lambda: _read_shots(args))
    machines: tuple[Machine, ...] | None = (ONE_MACHINE,)
    if args.machines is not None:
        machines = _gathered(
            problems, lambda: read_machines(_table(args.machines, "machines", MACHINE_COLUMNS), args.machines.name)
        )
    if problems and args.trials is not None:
        wrong = _gathered(problems, lambda: wrong_cells(table_of(args.trials, "trials"), args.trials.name))
        problems += wrong or []
    if shots is None or machines is None:
        raise InputError(problems, "Nothing was written; correct these and try again.")
    return shots, machines


def _table(path: Path, what: str, columns: Sequence[CsvColumn]) -> str:
    """Return the text of a table of shots, trials or machines; what of it is no column is said."""
    text = table_of(path, what)
    say_not_used(path.name, unused_titles(text, columns))
    return text


def _read_shots(args: argparse.Namespace) -> tuple[Shot, ...]:
    """Return the shots of a table, of an edit, or of a folder of frames."""
    if args.shots is not None:
        return read_shots(_table(args.shots, "shots", SHOT_COLUMNS), args.shots.name)
    asked = build(ShotSettings, {"samples": args.samples}, "--samples")
    if args.edit is not None:
        from pemlo.core.editing.apart import read_edit_apart  # noqa: PLC0415 - only where shots come from an edit

        cuts = read_edit_apart(args.edit, args.fps).shots
        return tuple(
            build(
                Shot,
                {"name": cut.name, "first": 1, "last": cut.count, "fps": cut.fps, "asked": asked},
                f"{args.edit.name}, shot {cut.name}",
            )
            for cut in cuts
        )
    from pemlo.core.files.found_shots import found_shots  # noqa: PLC0415 - only where shots come from a folder

    found = found_shots(args.frames)
    for words in found.left_out:
        print(f"pemlo: {words}", file=sys.stderr)
    return tuple(shot.shot(asked) for shot in found.shots)


def _gathered(problems: list[Problem], read: Callable[[], T]) -> T | None:
    """Return what is read; None if something is wrong with it, which is put to the problems."""
    try:
        return read()
    except InputError as error:
        problems += error.problems
    except FileError as error:
        problems.append(Problem("", str(error)))
    return None


def _checked(option: str, read: Callable[[], T]) -> T:
    try:
        return read()
    except ValueError as error:
        raise InputError([Problem(option, str(error))]) from error
