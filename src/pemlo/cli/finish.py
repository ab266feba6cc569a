"""``pemlo finish``: when the film is done, from the exact run of its frames on its machines."""

import argparse
import csv
import json
import sys
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from pemlo.cli.arguments import add_cluster, add_formats, seed
from pemlo.cli.csv_output import as_csv
from pemlo.cli.json_values import moment, moments, number, points
from pemlo.cli.opened import open_possible
from pemlo.cli.takes_said import orders_json, orders_text, takes_json, takes_text
from pemlo.core.chances import chance_percent
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.farm.money import amount_words
from pemlo.core.farm.spread_runs import SpreadRuns
from pemlo.core.forecast.best_order import orders_tried
from pemlo.core.forecast.finish import Finish, finish_of
from pemlo.core.forecast.jobs import EARLY
from pemlo.core.forecast.run_effect import exact_draws
from pemlo.core.forecast.two_passes import TwoPasses, passes_words, two_passes
from pemlo.core.forecast.what_it_takes import what_it_takes
from pemlo.core.forecast.who_when import trace_rows
from pemlo.core.interval import Interval
from pemlo.core.persistence.calendar_file import write_calendar, write_hours
from pemlo.core.persistence.table import harmless
from pemlo.core.project.delivery import local_moment
from pemlo.core.project.edits import set_running
from pemlo.core.project.project import Project
from pemlo.core.project.running import MOST_DISPATCH_S, ORDERS
from pemlo.core.units import HOUR_S, format_duration, round_figures
from pemlo.words.disagreements import disagreement_headline, disagreements_said
from pemlo.words.verdicts import say_hours, say_moment

DRAWS = 1000
_DESCRIPTION = """Runs the film frame by frame on its machines: nights, frames at once, memory, data that each machine
fills, losses, and frames that are rendered again. Whoever is free first takes the next frame."""
TRACE_COLUMNS = ("shot", "frame", "machine", "slot", "begin", "end", "tries", "part")


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument(
        "--draws", type=draw_count, help="how many runs, 1 to 1000; all of them, or fewer for a huge film, unless given"
    )
    parser.add_argument("--order", choices=ORDERS, help="in which shots are assigned, in place of what the film says")
    parser.add_argument("--dispatch", type=dispatch_seconds, metavar="SECONDS", help="before frames are assigned")
    parser.add_argument(
        "--starts-again", action="store_true", help="a frame at the end of a machine's hours starts again in the next"
    )
    parser.add_argument(
        "--takes", action="store_true", help="say how many more machines or days would do, and what they cost"
    )
    parser.add_argument("--orders", action="store_true", help="say what other orders of the shots would give")
    parser.add_argument(
        "--passes",
        metavar="SET",
        help="say what a first pass for all with a set of settings takes, and a second after it",
    )
    parser.add_argument(
        "--approved", metavar="ISO", help="when the second pass may begin; when the first is done unless given"
    )
    parser.add_argument("--calendar", type=Path, metavar="FILE", help="write the middle run as a calendar, .ics")
    parser.add_argument("--hours", type=Path, metavar="FILE", help="write what each machine is planned for, .csv")
    add_cluster(parser)
    parser.add_argument("--trace", action="store_true", help="write one run as CSV: who rendered what when")
    add_formats(parser)
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def draw_count(text: str) -> int:
    """Read how many draws are run."""
    return int(_within(text, 1, DRAWS, "draws", int))


def dispatch_seconds(text: str) -> float:
    """Read the seconds before frames are handed out."""
    return _within(text, 0, MOST_DISPATCH_S, "seconds before frames are assigned", float)


def _within(text: str, least: float, most: float, what: str, kind: Callable[[str], float]) -> float:
    try:
        value = kind(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"“{text}” is not a number of {what}") from error
    if not least <= value <= most:
        raise argparse.ArgumentTypeError(f"{text} {what} cannot be; {least:g} to {most:g}")
    return value


def with_rules(project: Project, args: argparse.Namespace) -> Project:
    """Return the film with the rules of its run that were given in place of its own."""
    given: dict[str, Any] = {}
    if args.order is not None:
        given["order"] = args.order
    if args.dispatch is not None:
        given["dispatch_seconds"] = args.dispatch
    if args.starts_again:
        given["starts_again"] = True
    return set_running(project, **given) if given else project


def run(args: argparse.Namespace) -> int:
    """Print when the film is done."""
    if args.csv and (args.passes is not None or args.takes or args.orders):
        raise InputError("--csv writes when each shot is done.", "Ask for --json with --passes, --takes and --orders.")
    return _run(args)


def _run(args: argparse.Namespace) -> int:
    film = open_possible(args.project, args.seed, args.on)
    project = with_rules(film.project, args)
    fit, draws = film.with_project(project).known
    if fit.disagreements:
        said = "; ".join(disagreements_said(project, fit.disagreements))
        raise InputError(
            disagreement_headline(project, fit.disagreements), f"There is no finish until they agree. {said}"
        )
    if args.passes is not None:
        return _say_passes(project, fit, draws, args)
    traced = args.trace or args.calendar is not None or args.hours is not None
    finish = _finish(project, fit, draws, args, traced=traced)
    if args.calendar is not None:
        write_calendar(project, finish, args.calendar, datetime.now(UTC))
    if args.hours is not None:
        write_hours(project, finish, args.hours)
    if args.trace:
        writer = csv.writer(sys.stdout, lineterminator="\n")
        writer.writerow(TRACE_COLUMNS)
        writer.writerows([harmless(str(cell)) for cell in row] for row in trace_rows(project, finish))
    elif args.json:
        print(json.dumps(as_json(project, finish) | _more_json(project, fit, draws, args), indent=1))
    elif args.csv:
        print(as_csv(as_json(project, finish)["shots"]))
    else:
        print(as_text(project, finish, huge=args.draws is None and len(finish.which) < DRAWS))
        if args.orders:
            print(*orders_text(orders_tried(project, fit, draws), _sayer(project)), sep="\n")
        if args.takes:
            wanted = project.delivery.confidence
            ways = what_it_takes(project, fit, draws, args.seed)
            print(*takes_text(ways, wanted, _sayer(project), project.delivery.currency), sep="\n")
    return 0


def _finish(project: Project, fit: Fit, draws: FilmDraws, args: argparse.Namespace, *, traced: bool) -> Finish:
    which = exact_draws(project, fit, draws) if args.draws is None else np.arange(args.draws)
    runner = None if args.on is None else SpreadRuns(args.on)
    return finish_of(project, fit, draws, args.seed, which=which, trace=traced, runner=runner)


def _more_json(project: Project, fit: Fit, draws: FilmDraws, args: argparse.Namespace) -> dict[str, Any]:
    """Return what else was asked for: what it takes, and what other orders give."""
    more: dict[str, Any] = {}
    if args.takes:
        ways = what_it_takes(project, fit, draws, args.seed)
        more["takes"] = takes_json(ways, lambda hours: moment(project, hours))
    if args.orders:
        more["orders"] = orders_json(orders_tried(project, fit, draws), lambda hours: moment(project, hours))
    return more


def _say_passes(project: Project, fit: Fit, draws: FilmDraws, args: argparse.Namespace) -> int:
    """Print what two passes over the film take."""
    named_settings = next((preset for preset in project.sets if preset.name == args.passes), None)
    if named_settings is None:
        names = ", ".join(preset.name for preset in project.sets) or "none"
        raise InputError(f"There is no set of settings called {args.passes}.", f"There are {names}.")
    try:
        approved = None if args.approved is None else local_moment(args.approved, project.delivery.timezone)
    except ValueError as error:
        raise InputError(f"--approved: {error}.") from error
    begins = None if approved is None else project.hours_of(approved)
    found = two_passes(project, fit, draws, named_settings, begins)
    if args.json:
        print(json.dumps(_passes_json(project, found), indent=1))
    else:
        print(passes_words(project, found, _sayer(project)(found.first_done_h)))
    return 0


def _passes_json(project: Project, found: TwoPasses) -> dict[str, Any]:
    hours = {name: points(getattr(found, name)) for name in ("first", "again", "topped_up", "once", "more")}
    cannot = None if found.cannot is None else {"shot": found.cannot[0], "frame": found.cannot[1]}
    return {
        **hours,
        "not_topped_up": found.not_topped_up,
        "first_done": moment(project, found.first_done_h),
        "noise": number(found.noise),
        "cannot": cannot,
    }


def as_json(project: Project, finish: Finish) -> dict[str, Any]:
    """Return the answer as plain data; a moment that never comes is null."""
    dates = {date.what: {"due": moment(project, date.due_h), "odds": date.probability} for date in finish.dates}
    return {
        "odds": finish.probability,
        "finish": moments(project, finish.film),
        "shots": [
            {"shot": name, "finish": moments(project, ends), **dates.get(name, {})}
            for name, ends in finish.shots.items()
        ],
        **({EARLY.replace(" ", "_"): dates[EARLY]} if EARLY in dates else {}),
        "machines": [
            {
                "machine": machine.machine,
                "busy_hours": number(machine.busy_hours),
                "idle_hours": number(machine.idle_hours),
                "warming_hours": number(machine.warming_hours),
                "lost_hours": number(machine.lost_hours),
                "cost": None if machine.cost is None else number(machine.cost),
            }
            for machine in finish.machines
        ],
        "bottleneck": finish.bottleneck,
    }


def _sayer(project: Project) -> Callable[[float], str]:
    return lambda hours: say_hours(hours, project)


def _time(hours: float) -> str:
    """Write hours; less than one as people say it, and less than a second is none."""
    if hours * HOUR_S < 1:
        return "0 h"
    return format_duration(hours * HOUR_S) if 0 < hours < 1 else f"{round_figures(hours)} h"


def as_text(project: Project, finish: Finish, *, huge: bool) -> str:
    """Return the answer as lines for people; of a huge film it is from fewer draws than there are."""

    def said(ends: Interval) -> str:
        low, middle, high = (say_hours(hours, project) for hours in ends)
        return f"{middle} ({low} – {high})"

    dates, machines = ((date.what for date in finish.dates), (machine.machine for machine in finish.machines))
    wide = max(map(len, ("finish", *finish.shots, *dates, *machines))) + 1
    due = say_moment(project.delivery.deadline, project)
    lines = [
        f"{'finish':<{wide}} {said(finish.film)}; due {due}",
        f"{'chance':<{wide}} {chance_percent(finish.probability)}; {project.delivery.confidence:.0%} are wanted",
        *(f"{name:<{wide}} {said(ends)}" for name, ends in finish.shots.items()),
        *(
            f"{date.what:<{wide}} due {say_hours(date.due_h, project)}: chance {chance_percent(date.probability)}"
            for date in finish.dates
        ),
    ]
    for machine in finish.machines:
        cost = "" if machine.cost is None else f", cost {amount_words(machine.cost, project.delivery.currency)}"
        lines.append(
            f"{machine.machine:<{wide}} {_time(machine.busy_hours)} busy, {_time(machine.idle_hours)} idle, "
            f"{_time(machine.warming_hours)} filling caches, {_time(machine.lost_hours)} lost{cost}"
        )
    fewer = f"From {len(finish.which)} of {DRAWS} draws; --draws {DRAWS} runs all."
    return "\n".join([*lines, finish.bottleneck, *([fewer] if huge else [])])
