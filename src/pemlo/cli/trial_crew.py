"""Renders the trials of one call of ``pemlo trial``: a thread for each place, and one project that they go into."""

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
from pemlo.cli.opened import held as kept_in_memory
from pemlo.cli.progress_bar import ProgressBar
from pemlo.core.errors import InputError, PemloError
from pemlo.core.film.film import Film
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.persistence.picture_names import with_short_names
from pemlo.core.progress import Cancelled
from pemlo.core.project.edits import add_trials
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.repeated import incoming
from pemlo.core.project.trials import Trial
from pemlo.core.trialrun import allowed
from pemlo.core.trialrun.landed import Landed, from_record, last_lines
from pemlo.core.trialrun.run import output_of, records
from pemlo.core.trialrun.session import Company, Place, machines_of, mark_taken, not_taken
from pemlo.core.trialrun.speeds import with_learned_speed
from pemlo.core.trialrun.spending import (
    Choice,
    Ended,
    Order,
    Situation,
    Spent,
    next_choice,
    task_of,
)
from pemlo.core.units import MINUTE_S, format_duration
from pemlo.words.trial_runs import choice_words, ended_words, landed_words, speed_words, why_words
from pemlo.words.verdicts import headline

NOTHING_LANDED = 1


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
