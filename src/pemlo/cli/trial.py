"""``pemlo trial``: runs trials by a way of rendering, and puts them into the project."""

import argparse
import fcntl
import json
import math
import sys
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from pemlo.app import picture_places
from pemlo.cli.arguments import finite, whole
from pemlo.cli.opened import held as kept_in_memory
from pemlo.cli.opened import open_now
from pemlo.cli.progress_bar import ProgressBar
from pemlo.cli.standard_input import DASH
from pemlo.core.errors import InputError, PemloError, Problem
from pemlo.core.film.film import Film
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.persistence.picture_names import with_short_names
from pemlo.core.progress import Cancelled
from pemlo.core.project.edits import add_trials
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.repeated import incoming
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import switch_names
from pemlo.core.project.trials import Trial
from pemlo.core.trialrun import allowed
from pemlo.core.trialrun.landed import Landed, from_record, last_lines
from pemlo.core.trialrun.run import output_of, planned, records
from pemlo.core.trialrun.session import Company, Place, machines_of, mark_taken, not_taken
from pemlo.core.trialrun.small_renderer import NAME as SMALL_RENDERER
from pemlo.core.trialrun.speeds import with_learned_speed
from pemlo.core.trialrun.spending import (
    Choice,
    Ended,
    Order,
    Situation,
    Spent,
    choices,
    next_choice,
    renderable,
    task_of,
    way_named,
)
from pemlo.core.trialrun.template import as_reachable, check_way
from pemlo.core.units import MINUTE_S, format_duration
from pemlo.words.trial_runs import choice_words, command_words, ended_words, landed_words, speed_words, why_words
from pemlo.words.verdicts import headline

_DESCRIPTION = """Renders trials by a way of the project (see pemlo way), times them and puts them into the project: one
that is asked for, the next few that tell most, or as many as tell something in some minutes. What was rendered when it
was stopped is in the project; the next call goes on. Exit code 1 says that no frame was a trial."""
NOTHING_LANDED = 1
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


class _Stopping:
    """A monitor of one frame: tells the bar how far it is, and stops when all do."""

    def __init__(self, crew: "Crew", bar: ProgressBar, choice: Choice) -> None:
        self._crew, self._bar, self._choice, self._began = crew, bar, choice, time.monotonic()

    def step(self, _fraction: float, text: str) -> None:
        if self._crew.stopping.is_set() or self._crew.left_s() <= 0:
            raise Cancelled
        took = time.monotonic() - self._began
        expected = self._choice.seconds if math.isfinite(self._choice.seconds) and self._choice.seconds > 0 else None
        share = min(0.95, took / expected) if expected else 0.0
        self._bar.step(share, f"{choice_words(self._choice)}, {text}")


@contextmanager
def held(path: Path) -> Iterator[None]:
    """Hold a project while a trial is put into it: two calls at once lose none of each other's."""
    folder = picture_places.folder_for(path)
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / ".lock").open("w") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        yield


@dataclass
class Crew:
    """All places that render for one call of the command. Each in a thread of its own.

    Attributes
    ----------
    path : path
        Of the project.
    film : Film
    way : RenderWay
    args : namespace
    asked : list of Choice
        Frames that are wanted as they are; the next ones where none are.
    """

    path: Path
    film: Film
    way: RenderWay
    args: argparse.Namespace
    asked: list[Choice]
    stopping: threading.Event = field(default_factory=threading.Event)
    landed: list[Landed] = field(default_factory=list)
    spent: Spent = field(default_factory=Spent)
    ended: Ended | None = None
    _lock: threading.Lock = field(default_factory=threading.Lock)
    _began: float = field(default_factory=time.monotonic)
    _running: int = 0

    def left_s(self) -> float:
        """Return the seconds that are left."""
        if self.args.minutes is None:
            return math.inf
        return float(self.args.minutes * MINUTE_S - (time.monotonic() - self._began))

    def take_finished(self) -> None:
        """Put trials into the project that had ended when an earlier call was killed."""
        folders = not_taken(records(picture_places.folder_for(self.path)))
        for folder in folders:
            with suppress(InputError):
                found = from_record(folder)
                # A record that came with the project is no measurement of this computer.
                if found.trial is not None and allowed.may_run(found.run.way, self.path.parent):
                    self._keep(found)
                    print(f"Taken in from an earlier call: {landed_words(found)}", file=sys.stderr)
            mark_taken([folder])

    def work(self, bar: ProgressBar) -> None:
        """Render until there is nothing more to do."""
        company = Company()
        base = self.path.parent
        places = [
            Place(self.way, machine, picture_places.folder_for(self.path), base, company)
            for machine in machines_of(self.way)
            for _ in range(self.way.at_once)
        ]
        with ThreadPoolExecutor(len(places)) as pool:
            jobs = [pool.submit(self._at_place, place, bar) for place in places]
            try:
                for job in jobs:
                    job.result()
            except BaseException:
                self.stop()
                raise

    def stop(self) -> None:
        """Stop all frames."""
        self.stopping.set()

    def _at_place(self, place: Place, bar: ProgressBar) -> None:
        while not self.stopping.is_set():
            began = time.monotonic()
            with self._lock:
                choice = self._next(place.machine)
            if choice is None:
                return
            task = task_of(self.film.project, choice, len(self.film.project.trials) + 1)
            try:
                found = place.render(task, _Stopping(self, bar, choice))
            except Cancelled:
                return
            except PemloError:
                self.stop()
                raise
            with self._lock:
                self._take(found, choice, time.monotonic() - began)

    def _next(self, machine: str) -> Choice | None:
        if self.args.next is None and self.args.minutes is None:
            return self.asked.pop(0) if self.asked else None
        if self.args.next is not None and self._running >= self.args.next:
            return None
        order: Order = "shots" if self.args.shot_by_shot else "telling"
        runs_on = machine if len(self.way.machines) > 1 else ""
        found = next_choice(
            Situation(
                self.film, self.way, self.spent, self.left_s(), order, tuple(self.args.shot),
                until_settled=self.args.next is None, machine=runs_on,
            )
        )  # fmt: skip
        if isinstance(found, Ended):
            self.ended = found
            return None
        self._running += 1
        self.spent = self.spent.begun(found, machine)
        return found

    def _take(self, found: Landed, choice: Choice, whole_s: float) -> None:
        self.landed.append(found)
        if found.trial is None:
            self.spent = self.spent.with_failed(choice.shot, found.why)
        else:
            self.spent = self.spent.with_landed(found.trial, whole_s)
            self._keep(found)
        mark_taken([found.run.folder])
        if not self.args.json:
            why = f" ({why_words(choice)})" if choice.why != "asked" else ""
            print(f"{choice_words(choice)}{why}: {landed_words(found)}", flush=True)

    def _keep(self, found: Landed) -> None:
        """Put a trial into the file as it is now: somebody may have saved it meanwhile."""
        if found.trial is None:
            return
        with held(self.path):
            self._put_in(found.trial)

    def _put_in(self, trial: Trial) -> None:
        project = read_project(self.path)
        new = incoming(project, [trial]).new
        if new and any(shot.name == trial.shot for shot in project.shots):
            added = with_learned_speed(add_trials(project, new), trial.machine)
            words = speed_words(project, added, trial.machine)
            if words:
                print(f"Learned: {words}.", file=sys.stderr)
            project = with_short_names(added, self.path.parent)
            write_project(project, self.path)
        self.film = kept_in_memory(self.film.with_project(project))

    def report(self) -> int:
        """Say what came of it."""
        if self.args.json:
            print(
                json.dumps({"trials": [landed_json(one) for one in self.landed], "ended": self._ended_json()}, indent=1)
            )
        else:
            if self.ended is not None:
                print(ended_words(self.ended))
            if self.args.minutes is not None:
                took = format_duration(max(1.0, time.monotonic() - self._began))
                print(f"{len([one for one in self.landed if one.trial])} trials in {took}.")
            print(headline(self.film.project, self.film.forecast))
        return NOTHING_LANDED if self.landed and not any(one.trial for one in self.landed) else 0

    def _ended_json(self) -> dict[str, Any] | None:
        if self.ended is None:
            return None
        return {"why": self.ended.why, "chance": self.ended.chance, "words": ended_words(self.ended)}


def landed_json(found: Landed) -> dict[str, Any]:
    """Return what came of a run as plain data."""
    task, trial, measured = found.run.task, found.trial, found.measured
    return {
        "shot": task.shot,
        "frame": task.frame,
        "settings": task.settings.model_dump(mode="json"),
        "repeat": task.repeat,
        "machine": found.run.machine,
        "seconds": None if trial is None else trial.seconds,
        "wall_seconds": measured.seconds,
        "processor_seconds": measured.processor_seconds,
        "memory_gib": measured.memory_bytes / 2**30 if trial is None else trial.memory_gib,
        "read_bytes": measured.read_bytes,
        "written_bytes": measured.written_bytes,
        "other_load": measured.other_load,
        "exit_code": measured.code,
        "picture": None if trial is None else trial.picture or None,
        "left_out": None if trial is None else trial.left_out or None,
        "last_lines": last_lines(output_of(found.run.folder)),
        "why": found.why or None,
        "said": list(found.said),
    }
