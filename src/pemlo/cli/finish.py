"""``pemlo finish``: when the film is done, from the exact run of its frames on its machines."""

import argparse
import csv
import json
import math
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from pemlo.cli.arguments import seed
from pemlo.cli.takes_said import takes_json, takes_text
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.errors import InputError
from pemlo.core.forecast.disagreement_words import disagreement_headline, disagreements_said
from pemlo.core.forecast.finish import ORDERS, Finish, RunRules, finish_of, trace_rows
from pemlo.core.forecast.sentences import say_moment
from pemlo.core.forecast.verdict import Interval
from pemlo.core.forecast.what_it_takes import what_it_takes
from pemlo.core.persistence.calendar_file import write_calendar
from pemlo.core.persistence.document import read_project
from pemlo.core.project.project import Project
from pemlo.core.units import round_figures

DRAWS = 1000
MOST_DISPATCH_S = 86_400
_DESCRIPTION = """Runs the film frame by frame on its machines: nights, frames at once, memory, data that each machine
fills, losses, and frames that are rendered again. Whoever is free first takes the next frame."""
TRACE_COLUMNS = ("shot", "frame", "machine", "slot", "begin", "end", "tries")


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("--draws", type=draw_count, default=DRAWS, help="how many runs, 1 to 1000")
    parser.add_argument("--order", choices=ORDERS, default="film", help="in which shots are handed out")
    parser.add_argument(
        "--dispatch", type=dispatch_seconds, default=0.0, metavar="SECONDS", help="before each frame begins"
    )
    parser.add_argument(
        "--starts-again", action="store_true", help="a frame at the end of a machine's hours starts again in the next"
    )
    parser.add_argument(
        "--takes", action="store_true", help="say how many more machines or days would do, and what they cost"
    )
    parser.add_argument("--calendar", type=Path, metavar="FILE", help="write the middle run as a calendar, .ics")
    parser.add_argument("--trace", action="store_true", help="write one run as CSV: who rendered what when")
    parser.add_argument("--json", action="store_true", help="write JSON")
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def draw_count(text: str) -> int:
    """Read how many draws are run."""
    try:
        count = int(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"“{text}” is not a number of draws") from error
    if not 1 <= count <= DRAWS:
        raise argparse.ArgumentTypeError(f"{text} draws cannot be run; 1 to {DRAWS}")
    return count


def dispatch_seconds(text: str) -> float:
    """Read the seconds before each frame."""
    try:
        seconds = float(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"“{text}” is not a number of seconds") from error
    if not 0 <= seconds <= MOST_DISPATCH_S:
        raise argparse.ArgumentTypeError(f"{text} s before each frame cannot be; 0 to {MOST_DISPATCH_S}")
    return seconds


def run(args: argparse.Namespace) -> int:
    """Print when the film is done."""
    project = read_project(args.project)
    known = fit(project, seed=args.seed)
    if known.disagreements:
        said = "; ".join(disagreements_said(project, known.disagreements))
        raise InputError(disagreement_headline(known.disagreements), f"There is no finish until they agree. {said}")
    draws = draw_film(known, project, args.seed)
    rules = RunRules(args.order, args.seed, args.dispatch, not args.starts_again)
    traced = args.trace or args.calendar is not None
    found = finish_of(project, known, draws, rules, count=args.draws, trace=traced)
    if args.calendar is not None:
        write_calendar(project, found, args.calendar, datetime.now(UTC))
    if args.trace:
        writer = csv.writer(sys.stdout, lineterminator="\n")
        writer.writerow(TRACE_COLUMNS)
        writer.writerows(trace_rows(project, found))
    elif args.json:
        data = as_json(project, found)
        if args.takes:
            data["takes"] = takes_json(what_it_takes(project, known, draws, rules), lambda hours: _iso(project, hours))
        print(json.dumps(data, indent=1))
    else:
        print(as_text(project, found))
        if args.takes:
            wanted = project.delivery.confidence
            ways = what_it_takes(project, known, draws, rules)
            print(*takes_text(ways, wanted, lambda hours: say_moment(_moment(project, hours), project)), sep="\n")
    return 0


def as_json(project: Project, found: Finish) -> dict[str, Any]:
    """Return the answer as plain data; a moment that never comes is null."""
    return {
        "odds": found.probability,
        "finish": _moments(project, found.film),
        "shots": [{"shot": name, "finish": _moments(project, ends)} for name, ends in found.shots.items()],
        "machines": [
            {
                "machine": one.machine,
                "busy_hours": _number(one.busy_hours),
                "idle_hours": _number(one.idle_hours),
                "warming_hours": _number(one.warming_hours),
                "lost_hours": _number(one.lost_hours),
                "cost": None if one.cost is None else _number(one.cost),
            }
            for one in found.machines
        ],
        "bottleneck": found.bottleneck,
    }


def _number(value: float) -> float:
    return float(f"{value:.6g}")


def _moments(project: Project, ends: Interval) -> dict[str, str | None]:
    return {name: _iso(project, getattr(ends, name)) for name in ("p05", "p50", "p95")}


def _iso(project: Project, hours: float) -> str | None:
    moment = _moment(project, hours)
    return None if moment is None else moment.isoformat()


def _moment(project: Project, hours: float) -> datetime | None:
    if not math.isfinite(hours):
        return None
    return (project.start + timedelta(hours=hours)).astimezone(project.delivery.zone)


def as_text(project: Project, found: Finish) -> str:
    """Return the answer as lines for people."""

    def said(ends: Interval) -> str:
        low, middle, high = (say_moment(_moment(project, at), project) for at in (ends.p05, ends.p50, ends.p95))
        return f"{middle} ({low} – {high})"

    wide = max(map(len, ("finish", *found.shots, *(one.machine for one in found.machines)))) + 1
    due = say_moment(project.delivery.deadline, project)
    lines = [
        f"{'finish':<{wide}} {said(found.film)}; due {due}",
        f"{'chance':<{wide}} {found.probability:.0%}; {project.delivery.confidence:.0%} are wanted",
        *(f"{name:<{wide}} {said(ends)}" for name, ends in found.shots.items()),
    ]
    for one in found.machines:
        cost = "" if one.cost is None else f", {round_figures(one.cost)} of money"
        lines.append(
            f"{one.machine:<{wide}} {round_figures(one.busy_hours)} h busy, {round_figures(one.idle_hours)} h idle, "
            f"{round_figures(one.warming_hours)} h filling kept data, {round_figures(one.lost_hours)} h lost{cost}"
        )
    return "\n".join([*lines, found.bottleneck])
