"""``pemlo check``: what is wrong with a launch before it is made."""

import argparse
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

from pemlo.cli.arguments import add_formats, say_not_used, seed
from pemlo.cli.csv_output import as_csv
from pemlo.cli.opened import open_now
from pemlo.cli.standard_input import table_of
from pemlo.core.errors import InputError
from pemlo.core.film.film import Film
from pemlo.core.persistence.csv_launch import READ as LAUNCH_COLUMNS
from pemlo.core.persistence.csv_launch import read_launch
from pemlo.core.persistence.table import unused_titles
from pemlo.core.preflight.all_checks import ready_shots, run_checks, unsure_shots
from pemlo.core.preflight.check_context import CheckContext, situation_of
from pemlo.core.preflight.disk_facts import folder_facts
from pemlo.core.preflight.finding import WRONG, Finding
from pemlo.core.preflight.first_frame import FirstFrame
from pemlo.core.preflight.grouped import grouped
from pemlo.core.preflight.with_forecast import with_forecast
from pemlo.core.project.launch import LaunchRow
from pemlo.core.project.project import Project
from pemlo.core.units import counted

SOMETHING_WRONG = 3
_DESCRIPTION = """Checks a launch against the brief, the plan and the disk: ranges, sizes, settings, names, what would
be overwritten, memory, hours. Without --launch the plan itself is checked. Ends with 3 if something is wrong."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("--launch", type=Path, metavar="FILE.csv", help="what the renderer is set to, shot by shot")
    parser.add_argument(
        "--first-frame", action="append", default=[], metavar="SHOT=FILE", help="a frame rendered with launch settings"
    )
    add_formats(parser)
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Print what is wrong, and what is not known."""
    film = open_now(args.project, args.seed)
    project = film.project
    launch: tuple[LaunchRow, ...] | None = None
    not_used: tuple[str, ...] = ()
    if args.launch is not None:
        table = table_of(args.launch, "launch")
        launch, not_used = read_launch(table, project, args.launch.name), unused_titles(table, LAUNCH_COLUMNS)
        say_not_used(args.launch.name, not_used)
    here, frames = _known(film, situation_of(project, launch), args)
    here = replace(here, folders=folder_facts(here, film.folder))
    found = (*run_checks(here), *frames)
    if args.json:
        print(json.dumps({**check_json(here, found), "columns_not_used": list(not_used)}, indent=1))
    elif args.csv:
        print(as_csv(check_json(here, found)["checks"]))
    else:
        print(*as_lines(here, found), sep="\n")
    return SOMETHING_WRONG if any(finding.outcome == WRONG for finding in found) else 0


def _known(film: Film, here: CheckContext, args: argparse.Namespace) -> tuple[CheckContext, tuple[Finding, ...]]:
    """Return the situation with what the forecast says, and what first frames say."""
    project = here.project
    pairs = [_first_frame(text, project) for text in args.first_frame]
    here = with_forecast(here, film.fit, film.forecast.probability, args.seed)
    first = FirstFrame(project, film.fit, film.folder, args.seed)
    found = tuple(finding for name, path in pairs for finding in first.findings(name, path))
    return here, found


def _first_frame(text: str, project: Project) -> tuple[str, Path]:
    name, equals, path = text.partition("=")
    if not equals or all(shot.name != name for shot in project.shots):
        raise InputError(f"--first-frame: “{text}” names no shot and its file.", "Write 070=frame.exr.")
    return name, Path(path)


def as_lines(here: CheckContext, found: tuple[Finding, ...]) -> list[str]:
    """Return what is said for people."""
    lines = [
        f"{finding.outcome}: {finding.words} {finding.todo}".strip() for finding in grouped(found) if finding.words
    ]
    ready, unsure = ready_shots(here, found), unsure_shots(here, found)
    shots = len(here.project.shots)
    more = f", {len(unsure)} not fully known" if unsure else ""
    return [*lines, f"{len(ready)} of {counted(shots, 'shot')} ready{more}."]


def check_json(here: CheckContext, found: tuple[Finding, ...]) -> dict[str, Any]:
    """Return what is said as plain data."""
    return {
        "ready": list(ready_shots(here, found)),
        "checks": [
            {"check": finding.check, "shot": finding.shot, "outcome": finding.outcome, "words": finding.words,
             "todo": finding.todo, "mend": None if finding.mend is None else finding.mend.name}
            for finding in found
        ],
    }  # fmt: skip
