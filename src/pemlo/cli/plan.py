"""``pemlo plan``: what to give up on which shot, so that the film is ready in time."""

import argparse
import json
import math
import sys
from pathlib import Path
from typing import Any

import numpy as np

from pemlo.cli.arguments import add_cluster, add_formats, seed
from pemlo.cli.csv_output import as_csv
from pemlo.cli.estimate import disagreements_json
from pemlo.cli.json_values import number, points
from pemlo.cli.opened import open_possible
from pemlo.cli.standard_input import DASH
from pemlo.core.chances import chance_percent
from pemlo.core.errors import InputError
from pemlo.core.farm.money import cost_words
from pemlo.core.forecast.disk_memory import disk_memory_of, sum_of
from pemlo.core.interval import interval_of
from pemlo.core.persistence.document import write_project
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ALLOWABLE, LEVERS
from pemlo.core.trade.best_plan import GOALS
from pemlo.core.trade.held_levers import hold
from pemlo.core.trade.lever_edits import allow, like_trial, pin
from pemlo.core.trade.planning import FilmPlan
from pemlo.core.units import format_interval, round_figures
from pemlo.words.disagreements import disagreement_headline, disagreements_said
from pemlo.words.plans import (
    by_weight,
    changes,
    flicker_words,
    gap_words,
    groups_words,
    unchanged_words,
    what_binds,
)
from pemlo.words.ways_out import ways_out

ALL = "all"
_DESCRIPTION = """Chooses settings for each shot. Goals: picture, the best picture by the deadline; hours, the fewest
machine-hours with every error within its limit; missing, what is short to have both. What was never rendered is
predicted from the pictures of trials; shots without them take what passed by eye, or stay as they were asked. Changes
that give next to nothing are left out. Smaller pictures, frames that are held, other switches, and denoising frame
by frame where something moves are not proposed unless they are allowed, or a trial of them was marked good enough."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("--goal", choices=GOALS, default="picture")
    parser.add_argument(
        "--set", dest="held", action="append", default=[], metavar="shot.lever=value", help="hold a lever of a shot"
    )
    parser.add_argument(
        "--like", action="append", type=int, default=[], metavar="TRIAL",
        help="plan a shot as one of its trials was rendered, by its place in the table from 1",
    )  # fmt: skip
    parser.add_argument(
        "--allow", action="append", default=[], choices=[*ALLOWABLE, ALL],
        help="let plans move a lever that changes what the picture is, in all shots; they are locked otherwise",
    )  # fmt: skip
    parser.add_argument("--few", action="store_true", help="put shots into groups that share their settings")
    parser.add_argument("--adopt", action="store_true", help="write the plan into the project")
    add_cluster(parser)
    add_formats(parser)
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Print the plan; pictures that cannot be read go to standard error."""
    if args.adopt and args.project == DASH:
        raise InputError("A plan cannot be written into standard input.", "Name the project, or leave out --adopt.")
    film = open_possible(args.project, args.seed, args.on)
    project = film.project
    for place in args.like:
        if not 1 <= place <= len(project.trials):
            raise InputError(f"There is no trial {place}; there are {len(project.trials)}.", "Count them from 1.")
        project = like_trial(project, place - 1)
        name = project.trials[place - 1].shot
        project = pin(project, project.shot(name), project.shot(name).settings, LEVERS)
    for words in args.held:
        project = hold(project, words)
    names = [shot.name for shot in project.shots]
    for lever in ALLOWABLE if ALL in args.allow else [one for one in ALLOWABLE if one in args.allow]:
        project = allow(project, names, lever, on=True)
    film = film.with_project(project)
    for trouble in film.looks()[1]:
        print(f"pemlo: {trouble}", file=sys.stderr)
    plan = film.plan(args.goal, few=args.few)
    wrong = film.fit.disagreements
    if args.json:
        said = {"disagreements": disagreements_json(project, wrong)} | ({"odds": None} if wrong else {})
        print(json.dumps({**as_json(plan), **said}, indent=1))
    elif args.csv:
        print(as_csv(as_json(plan)["shots"]))
    else:
        for line in (disagreement_headline(project, wrong), *disagreements_said(project, wrong)) if wrong else ():
            print(line)
        print(as_text(project, plan, sure=not wrong))
    if args.adopt and wrong:
        raise InputError(disagreement_headline(project, wrong), "Nothing was adopted. Fix the trials first.")
    if args.adopt:
        write_project(plan.taken(project), args.project)
    return 0


def as_json(found: FilmPlan) -> dict[str, Any]:
    """Return the plan as plain data; what is not known is null."""
    plan = found.plan
    return {
        "feasible": plan.feasible,
        "goal": plan.goal,
        "shots": [
            {
                "shot": options.shot,
                "settings": options.settings[k].model_dump(mode="json"),
                "machine_hours": points(interval_of(options.draws(k))),
                "error": number(options.error[k]),
                "ceiling": number(options.ceiling),
                "flicker": number(math.nan if options.flicker is None else options.flicker[k]),
                "flicker_limit": number(options.flicker_limit),
            }
            for options, k in zip(found.options, plan.chosen, strict=True)
        ],
        "machine_hours": points(interval_of(plan.hours)),
        "odds": number(plan.probability),
        "worst_ratio": number(plan.worst_ratio),
        "missing_machine_hours": number(plan.missing_hours),
        "proved": plan.proved,
        "gap": number(plan.gap),
        "running": {
            "order": found.running.order,
            "frames_at_once": {name: count for name, count, _ in found.running.at_once},
        },
        "groups": None
        if found.groups is None
        else {
            "before": found.groups.before,
            "after": found.groups.after,
            "more_hours": number(found.groups.more_hours),
        },
    }


def as_text(project: Project, found: FilmPlan, *, sure: bool) -> str:
    """Return the plan as lines for people; without a chance if the trials do not agree."""
    plan = found.plan
    before = [shot.asked for shot in project.shots]
    changed = changes(found.options, plan, before)
    lines = [*(f"{words}." for words in found.running.words), *(change.words for change in by_weight(changed))]
    lines += unchanged_words(project, found.options, changed)
    held = [
        f"{shot_options.shot} by {shot_options.ceiling:.1f} levels ({shot_options.ceiling_from})"
        for shot_options in found.options
        if shot_options.known
    ]
    lines.append(f"limits    {'; '.join(held) or 'none known'}")
    if flicker := flicker_words(found.options, plan):
        lines.append(f"flicker   {flicker}")
    lines.append(f"hours     {found.ledger(project.delivery.confidence).words}")
    if sure:
        probability = (
            chance_percent(plan.probability)
            if math.isfinite(plan.probability)
            else "not known whether there is any chance"
        )
        lines.append(f"chance    {probability} to make it; {project.delivery.confidence:.0%} are wanted")
    worst = "not known" if math.isnan(plan.worst_ratio) else f"{plan.worst_ratio:.2f} times its limit"
    lines.append(f"worst     {worst}")
    if cost := cost_words(project, float(np.median(plan.hours))):
        lines.append(f"cost      about {cost}")
    if found.budget_h is not None:
        lines.append(
            f"budget    pays for {round_figures(found.budget_h)} machine-hours, fewer than the deadline leaves"
        )
    settings = found.settings()
    disk = [disk_memory_of(project, shot, settings[shot.name]).disk_gib for shot in project.shots]
    if all(disk):
        taken = sum_of([interval for interval in disk if interval is not None])
        lines.append(f"disk      {format_interval(taken)} GiB")
    if not math.isnan(plan.stretch):
        lines.append(f"or        every error limit raised to {plan.stretch:.2f} times itself, with the hours available")
    if found.groups is not None:
        lines.append(f"groups    {groups_words(found.groups)}")
    out = ways_out(project, found.options, plan, found.available_h)
    lines += (what_binds(found.options, plan, found.available_h),) if out is None else out.words
    if not plan.proved:
        lines.append(gap_words(plan))
    return "\n".join(lines)
