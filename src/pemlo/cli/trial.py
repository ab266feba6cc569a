"""``pemlo trial``: runs trials by a way of rendering, and puts them into the project."""

import argparse
import json
import math
import sys
from pathlib import Path
from typing import Any

from pemlo.app import picture_places
from pemlo.cli.arguments import finite, whole
from pemlo.cli.opened import open_now
from pemlo.cli.progress_bar import ProgressBar
from pemlo.cli.standard_input import DASH
from pemlo.cli.trial_crew import Crew
from pemlo.core.errors import InputError, Problem
from pemlo.core.film.film import Film
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import switch_names
from pemlo.core.trialrun import allowed
from pemlo.core.trialrun.run import planned
from pemlo.core.trialrun.session import machines_of
from pemlo.core.trialrun.small_renderer import NAME as SMALL_RENDERER
from pemlo.core.trialrun.spending import (
    Choice,
    Order,
    Situation,
    choices,
    renderable,
    task_of,
    way_named,
)
from pemlo.core.trialrun.template import as_reachable, check_way
from pemlo.core.units import MINUTE_S
from pemlo.words.trial_runs import choice_words, command_words

_DESCRIPTION = """Renders trials by a way of the project (see pemlo way), times them and puts them into the project: one
that is asked for, the next few that tell most, or as many as tell something in some minutes. What was rendered when it
was stopped is in the project; the next call goes on. Exit status 1 says that no frame was a trial."""
_SETTINGS = (
    "samples", "noise_threshold", "min_samples", "resolution_percent", "denoise", "switches", "most_seconds", "keep",
)  # fmt: skip


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument(
        "--way", default="", help=f"of the project; its first if not given, or the {SMALL_RENDERER} if it has none"
    )
    how_many = parser.add_mutually_exclusive_group()
    how_many.add_argument("--next", type=whole, metavar="N", help="the N trials that tell most, one after another")
    how_many.add_argument("--minutes", type=finite, metavar="M", help="as many as tell something in so many minutes")
    parser.add_argument("--shot", action="append", default=[], help="which shot; may be given again with --next")
    parser.add_argument("--frame", type=whole, help="which frame of it (default: the middle one)")
    parser.add_argument("--samples", type=whole, help="the rest is as the shot asks")
    parser.add_argument("--noise-threshold", type=finite, help="0 for fixed sampling")
    parser.add_argument("--min-samples", type=whole)
    parser.add_argument("--resolution-percent", type=finite)
    parser.add_argument("--denoise")
    parser.add_argument("--switches", help="with commas between; none for none")
    parser.add_argument("--times", type=whole, default=1, help="render the one frame so many times")
    parser.add_argument(
        "--shot-by-shot", action="store_true", help="one shot after another, and not what decides the deadline"
    )
    parser.add_argument("--dry-run", action="store_true", help="show the commands, run none")
    parser.add_argument("--json", action="store_true", help="write JSON")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Run trials until there are enough."""
    if args.project == DASH:
        raise InputError("Trials are put into the project: it cannot come from standard input.", "Name a file.")
    if args.minutes is not None and args.minutes <= 0:
        raise InputError([Problem("--minutes", "must be more than 0")])
    for option, value in (("--next", args.next), ("--times", args.times)):
        if value is not None and not 1 <= value <= 1000:
            raise InputError([Problem(option, "must be between 1 and 1000")])
    film = open_now(args.project, 0)
    way = _way(film.project, args.way)
    asked = _asked(args, film.project, way)
    if args.dry_run:
        return _dry_run(args, film, way, asked)
    allowed.see_that_it_may_run(way, args.project.absolute().parent)
    crew = Crew(args.project.absolute(), film, way, args, asked)
    crew.take_finished()
    try:
        with ProgressBar() as bar:
            crew.work(bar)
    except KeyboardInterrupt:
        crew.stop()
        print("pemlo: stopped; what was rendered is in the project", file=sys.stderr)
        return 130
    return crew.report()


def _way(project: Project, name: str) -> RenderWay:
    way = way_named(project, name)
    if way is None:
        names = ", ".join([*(one.name for one in project.render_ways), SMALL_RENDERER])
        raise InputError([Problem("--way", f"there is no way “{name[:40]}”")], f"There are: {names}.")
    check_way(way)
    return way


def _asked(args: argparse.Namespace, project: Project, way: RenderWay) -> list[Choice]:
    """Return the frame that was asked for, as often as it was; nothing where the next ones are."""
    one = [name for name in ("frame", *_SETTINGS[:6]) if getattr(args, name) is not None]
    unknown = [name for name in args.shot if all(shot.name != name for shot in project.shots)]
    if unknown:
        raise InputError([Problem(f"--shot {unknown[0]}", "there is no such shot")])
    if args.next is not None or args.minutes is not None:
        if one:
            raise InputError(
                f"--{one[0].replace('_', '-')} is of one frame, and --next and --minutes choose theirs.",
                "Leave one of them out.",
            )
        return []
    if len(args.shot) != 1:
        raise InputError("Which trials is not said.", "Give --next, --minutes, or --shot of one frame.")
    shot = project.shot(args.shot[0])
    frame = shot.middle if args.frame is None else args.frame
    first, last = shot.whole_range
    if not first <= frame <= last:
        raise InputError([Problem("--frame", f"{frame} is not in shot {shot.name} ({first}-{last})")])
    if not renderable(way, shot):
        raise InputError([Problem(f"Shot {shot.name}", "has no scene or camera for this way")], "Say it in the brief.")
    settings = _settings(args, shot)
    reached = as_reachable(way, settings, FrameSettings.model_validate(shot.asked.frame_fields()))
    differing = [name for name in _SETTINGS if getattr(reached, name) != getattr(settings, name)]
    if differing:
        what = differing[0].replace("_", " ")
        raise InputError(
            [Problem(f"Way {way.name}", f"cannot set {what}: its command has no field for it")],
            f"Leave it as the shot asks, {getattr(reached, differing[0])}, or add the field.",
        )
    return [Choice(shot.name, frame, settings, math.inf, repeat=number) for number in range(args.times)]


def _settings(args: argparse.Namespace, shot: Shot) -> FrameSettings:
    fields: dict[str, Any] = shot.settings.frame_fields()
    given = {name: getattr(args, name) for name in _SETTINGS[:6] if getattr(args, name) is not None}
    if "switches" in given:
        given["switches"] = switch_names(given["switches"])
    fields |= given
    if args.noise_threshold == 0 or (args.samples is not None and args.noise_threshold is None):
        fields |= {"noise_threshold": None, "min_samples": None}
    return build(FrameSettings, fields, "Trial")


def _dry_run(args: argparse.Namespace, film: Film, way: RenderWay, asked: list[Choice]) -> int:
    left = math.inf if args.minutes is None else args.minutes * MINUTE_S
    order: Order = "shots" if args.shot_by_shot else "telling"
    now = Situation(film, way, left_s=left, order=order, shots=tuple(args.shot))
    wanted = asked or list(choices(now))[: args.next or 10]
    folder, base = picture_places.folder_for(args.project.absolute()), args.project.absolute().parent
    made = []
    for choice in wanted:
        for machine in machines_of(way):
            command = planned(way, task_of(film.project, choice, 1), machine, folder, base)
            made.append((choice, machine, command))
    if args.json:
        rows = [
            {"shot": choice.shot, "frame": choice.frame, "machine": machine, "folder": command.folder,
             "words": list(command.words), "environment": dict(command.environment), "picture": command.picture}
            for choice, machine, command in made
        ]  # fmt: skip
        print(json.dumps({"commands": rows}, indent=1))
        return 0
    for choice, machine, command in made:
        print(f"{choice_words(choice)}, on {machine}, in {command.folder}")
        print(f"  {command_words(command)}")
    if not made:
        print("Nothing would be run: no trial tells enough.")
    return 0
