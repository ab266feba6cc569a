"""``pemlo compare``: two ways of rendering a shot or the film, side by side."""

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from pemlo.cli.arguments import add_formats, seed
from pemlo.cli.csv_output import as_csv
from pemlo.cli.json_values import number, points
from pemlo.cli.opened import open_possible
from pemlo.core.errors import InputError, Problem
from pemlo.core.interval import Interval
from pemlo.core.project.kept_plans import KeptPlan, PlannedShot
from pemlo.core.project.project import Project
from pemlo.core.project.settings_text import settings_over
from pemlo.core.project.shots import Shot
from pemlo.core.trade.levers import why_not
from pemlo.core.trade.two_ways import TwoWays, Way, WayNumbers, two_ways
from pemlo.words.disagreements import disagreement_headline
from pemlo.words.two_ways import as_text, said_of_times, saving_sentence

ASKED, PLAN = "asked", "plan"
_DESCRIPTION = """Compares two ways of rendering a shot, or the film without --shot. A way is: asked, plan, or settings
over what was asked, like noise_threshold=0.075,denoise=frame."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("--shot", default="", help="compare a shot; the film without")
    parser.add_argument("first", metavar="A", help="asked, plan, or settings over what was asked")
    parser.add_argument("second", metavar="B", help="as A")
    add_formats(parser)
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Print the comparison; pictures that cannot be read go to standard error."""
    film = open_possible(args.project, args.seed)
    project = film.project
    first, second = (_way(project, args.shot, words) for words in (args.first, args.second))
    # Ways that only the comparison names have a cost of their own too: the fit has to know them.
    named = film.with_project(_with_names(project, [first, second]))
    known = named.known
    if not known[0].known:
        raise InputError("Nothing was timed yet: there is nothing to compare.", "Time one frame first.")
    looks, troubles = film.looks()
    for trouble in troubles:
        print(f"pemlo: {trouble}", file=sys.stderr)
    ways = two_ways(project, known, looks, args.shot, first, second, named.forecast_with)
    if args.json:
        print(json.dumps(as_json(ways), indent=1))
        return 0
    if args.csv:
        print(as_csv((_way_json(ways.first), _way_json(ways.second))))
        return 0
    if known[0].disagreements:
        print(disagreement_headline(project, known[0].disagreements))
    print(as_text(project, ways))
    return 0


def _way(project: Project, name: str, words: str) -> Way:
    shots = [shot for shot in project.shots if name in ("", shot.name)]
    if not shots:
        raise InputError([Problem(f"--shot {name}", "there is no such shot")])
    if words == ASKED:
        return Way("as asked", {shot.name: shot.asked for shot in shots})
    if words == PLAN:
        return Way("plan", {shot.name: shot.settings for shot in shots})
    settings = {shot.name: settings_over(shot.asked, words) for shot in shots}
    for shot in shots:
        _refuse(shot, why_not(shot, settings[shot.name]), words)
    return Way(words, settings)


def _refuse(shot: Shot, reason: str, words: str) -> None:
    if reason:
        raise InputError([Problem(f"{shot.name}: {words}", reason)])


def _with_names(project: Project, ways: list[Way]) -> Project:
    """Return the project with plans kept that name what the ways use, so that its cost is drawn too."""
    kept = tuple(
        KeptPlan(name=f"way {number}", shots=tuple(PlannedShot(shot=k, settings=v) for k, v in way.settings.items()))
        for number, way in enumerate(ways)
    )
    return project.replace(plans=kept)


def as_json(ways: TwoWays) -> dict[str, Any]:
    """Return the comparison as plain data; what is not known is null."""
    return {
        "shot": ways.about or None,
        "frames": ways.frames,
        "first": _way_json(ways.first),
        "second": _way_json(ways.second),
        "saved_share": points(ways.saved_share),
        "saved_machine_hours": points(ways.saved_hours),
        "as_timed": said_of_times(ways) or None,
        "sentence": saving_sentence(ways),
    }


def _way_json(way: WayNumbers) -> dict[str, Any]:
    error = way.error
    return {
        "name": way.name,
        "settings": None if way.settings is None else way.settings.model_dump(mode="json"),
        "seconds_a_frame": points(way.frame_seconds),
        "machine_hours": points(way.hours),
        "film_machine_hours": points(way.film_hours),
        "finish": None if way.finish is None else way.finish.isoformat(),
        "odds": way.probability,
        "disk_gib": _estimate(way.disk_gib),
        "error": None if error is None else _estimate(error.total),
        "softening": None if error is None else _estimate(error.softening),
        "by_eye": way.by_eye,
    }


def _estimate(value: Interval | None) -> dict[str, float | None] | None:
    if value is None:
        return None
    return dict(zip(("low", "value", "high"), map(number, value), strict=True))
