"""``pemlo predict``: the seconds of one frame with settings that were never timed."""

import argparse
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from pemlo.cli.arguments import finite, seed, whole
from pemlo.cli.estimate import disagreements_json
from pemlo.cli.json_values import points
from pemlo.cli.opened import open_now
from pemlo.core.cost.draws import draw_frame
from pemlo.core.errors import InputError, Problem
from pemlo.core.interval import interval_of
from pemlo.core.persistence.table import kept_stages
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import rays, switch_names
from pemlo.core.units import format_duration
from pemlo.words.disagreements import disagreement_headline, disagreements_said


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.add_argument("project", type=Path)
    parser.add_argument("--shot", required=True)
    parser.add_argument("--frame", required=True, type=whole)
    parser.add_argument("--samples", type=whole, help="samples a pixel, the most with a noise threshold")
    parser.add_argument("--min-samples", type=whole)
    parser.add_argument("--noise-threshold", type=finite, help="0 for fixed sampling")
    parser.add_argument("--resolution-percent", type=finite)
    parser.add_argument("--denoise", help="name of the way of denoising, or none")
    parser.add_argument("--keep", help="stages whose data are kept: prepare, light, or nothing")
    parser.add_argument("--most-seconds", type=finite, help="tracing ends after that long on the reference machine")
    parser.add_argument("--split", help="rays a sample to lights, off a gloss, through glass: 4,1,2")
    parser.add_argument("--switches", help="what is switched on, with commas between; or none")
    parser.add_argument("--saves", type=whole, help="how often the unfinished frame is written")
    parser.add_argument("--seed", type=seed, default=0)
    parser.add_argument("--json", action="store_true", help="write JSON")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Print what a frame takes on the reference machine; settings not given are those of the plan."""
    film = open_now(args.project, args.seed)
    project = film.project
    shot = _shot(project, args.shot)
    first, last = shot.whole_range
    if not first <= args.frame <= last:
        raise InputError([Problem("--frame", f"{args.frame} is not in shot {shot.name} ({first}-{last})")])
    settings = _settings(shot, args)
    # A way of denoising or a switch that nobody named is known to the fit by planning it.
    planned = build(type(shot.settings), {**dict(shot.settings), **settings.frame_fields()}, "")
    project = project.replace(shots=tuple(s.replace(plan=planned) if s is shot else s for s in project.shots))
    fit = film.with_project(project).fit
    if not fit.known:
        raise InputError("Nothing has been timed yet, so nothing is known.", "Add a trial first.")
    seconds = draw_frame(fit, project, shot.name, args.frame, settings, args.seed)
    interval = interval_of(seconds)
    low, middle, high = interval
    if not np.isfinite(high):
        raise InputError("The trials are so far apart that no time can be predicted.", "Look at their seconds again.")
    wrong = tuple(disagreement for disagreement in fit.disagreements if disagreement.shot == shot.name)
    if args.json:
        print(json.dumps({"seconds": points(interval), "disagreements": disagreements_json(project, wrong)}))
    else:
        for line in (disagreement_headline(project, wrong), *disagreements_said(project, wrong)) if wrong else ():
            print(line)
        print(f"{format_duration(middle)} ({format_duration(low)} to {format_duration(high)})")
    return 0


def _shot(project: Project, name: str) -> Shot:
    try:
        return project.shot(name)
    except KeyError as error:
        known = ", ".join(shot.name for shot in project.shots[:20])
        raise InputError([Problem("--shot", f"there is no shot {name}")], f"The shots are {known}.") from error


def _read(parse: Callable[[str], Any], text: str, where: str) -> Any:  # noqa: ANN401 - what it parses to
    try:
        return parse(text)
    except ValueError as error:
        raise InputError([Problem(where, str(error))]) from error


def _settings(shot: Shot, args: argparse.Namespace) -> FrameSettings:
    given: dict[str, Any] = {
        name: getattr(args, name)
        for name in (
            *("samples", "min_samples", "noise_threshold", "resolution_percent", "denoise", "keep"),
            *("most_seconds", "split", "switches", "saves"),
        )
        if getattr(args, name) is not None
    }
    for name, parse in (("keep", kept_stages), ("split", rays), ("switches", switch_names)):
        if name in given:
            given[name] = _read(parse, given[name], f"--{name}")
    fields = {**shot.settings.frame_fields(), **given}
    if args.noise_threshold == 0:
        fields |= {"noise_threshold": None, "min_samples": None}
    if args.min_samples is None and fields["min_samples"] is not None:
        fields["min_samples"] = min(fields["min_samples"], fields["samples"])
    return build(FrameSettings, fields, "Settings")
