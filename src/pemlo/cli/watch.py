"""``pemlo watch``: what has come in, when the rest is done, and what is wrong."""

import argparse
import json
import math
import sys
import time
from contextlib import AbstractContextManager, nullcontext, suppress
from datetime import datetime
from pathlib import Path
from typing import Any

from pemlo.cli.arguments import seed
from pemlo.cli.json_values import moment, moments, number, points
from pemlo.cli.missing import place
from pemlo.core.arrivals.arrival_snapshot import arrival_snapshot
from pemlo.core.arrivals.farm_clock import now_in
from pemlo.core.arrivals.folder_scanner import BUDGET_S, FolderScanner
from pemlo.core.arrivals.live_forecast import Known, LiveForecast, LiveShotForecast, know, live_forecast
from pemlo.core.arrivals.store import FinishRow, Store, store_path
from pemlo.core.chances import chance_percent
from pemlo.core.errors import FileError, InputError
from pemlo.core.frames import format_frames
from pemlo.core.interval import Interval
from pemlo.core.persistence.document import read_project
from pemlo.core.project.delivery import local_moment
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S, format_duration, format_interval, round_figures
from pemlo.words.verdicts import say_hours

_DESCRIPTION = """Looks into the folders into which frames arrive, learns from every frame, and says when the rest is
done. Without --once it prints a line whenever something changes, until all is in. Nothing is written into the folders;
what came is kept in an SQLite file beside the project, which can be deleted."""
EVERY_S = 2.0


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("--place", type=place, metavar="PATTERN", help="where frames lie, in place of the project's")
    parser.add_argument(
        "--log", type=Path, metavar="FILE", help="a log that is read as the project reads one, in place of its own"
    )
    parser.add_argument("--now", metavar="ISO", help="the present moment, if it is another than that of this machine")
    parser.add_argument("--once", action="store_true", help="look once and stop")
    parser.add_argument("--json", action="store_true", help="write JSON, one object a line without --once")
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Look once, or until all is in."""
    project = _as_asked(read_project(args.project), args)
    if not project.watching.place and not any(shot.place for shot in project.shots):
        raise InputError(
            "Where frames arrive is not known.", "Give --place, such as 'renders/{shot}/{shot}.{frame:04}.exr'."
        )
    root = args.project.resolve().parent
    said_now = _moment(args.now, project) if args.now else None
    with _kept(store_path(args.project.resolve())) as store:
        scanner = FolderScanner(root, store)
        chances = [row.chance for row in store.finishes()] if store else []
        known: Known | None = None
        while True:
            now, slack = (said_now, 0.0) if said_now else now_in(project, root, time.time())
            budget = math.inf if args.once else BUDGET_S
            look = scanner.look(project, now.timestamp(), budget_s=budget, slack_s=slack)
            if look.changed or args.once or known is None:
                at = (now - project.start).total_seconds()
                known = known or know(project, None, args.seed)
                snapshot = arrival_snapshot(project, look, at, known.shortest_gaps if known else None)
                known = known or know(project, snapshot, args.seed)
                live = live_forecast(snapshot, known, max(chances, default=None), args.seed)
                if live.finish_h is not None and live.probability is not None:
                    chances.append(live.probability)
                    _keep(store, live.finish_h, live)
                _say(live, args)
                if args.once or live.done:
                    return 0
            try:
                time.sleep(EVERY_S)
            except KeyboardInterrupt:
                return 130


def _kept(path: Path) -> AbstractContextManager[Store | None]:
    """Return where what came is kept; nowhere, which is said, if nothing can be written there."""
    try:
        return Store(path)
    except FileError as error:
        print(f"pemlo: {error.message} What arrives is watched all the same.", file=sys.stderr)
        return nullcontext()


def _keep(store: Store | None, finish: Interval, live: LiveForecast) -> None:
    if store is None or live.probability is None:
        return
    row = FinishRow(
        live.snapshot.now, live.snapshot.done_count, finish.low, finish.middle, finish.high, live.probability
    )
    with suppress(FileError):  # a disk that is full is said by the look
        store.put_finish(row)


def _as_asked(project: Project, args: argparse.Namespace) -> Project:
    """Return the film with the place and the log that were given."""
    given: dict[str, Any] = {}
    if args.place is not None:
        given["place"] = args.place.pattern
        project = project.replace(shots=tuple(shot.replace(place="") for shot in project.shots))
    if args.log is not None:
        if not project.watching.logs:
            raise InputError(
                "How lines of the log are read is not known.", "Mark a line of it in the window, in Watch, and save."
            )
        given["logs"] = tuple(log.replace(path=str(args.log.resolve())) for log in project.watching.logs)
    return project.replace(watching=project.watching.replace(**given)) if given else project


def _moment(text: str, project: Project) -> datetime:
    try:
        return local_moment(text, project.delivery.timezone)
    except ValueError as error:
        raise InputError(f"--now: {error}.") from error


def _say(live: LiveForecast, args: argparse.Namespace) -> None:
    if args.json:
        print(json.dumps(watch_json(live), indent=1 if args.once else None), flush=True)
    elif args.once:
        _print_whole(live)
    else:
        print(_line(live), flush=True)


def _line(live: LiveForecast) -> str:
    project, snapshot = live.snapshot.project, live.snapshot
    at = say_hours(snapshot.now / HOUR_S, project)
    words = f"{at}  {snapshot.done_count} of {snapshot.wanted} frames in"
    if live.finish_h is not None and live.probability is not None:
        low, middle, high = (say_hours(hours, project) for hours in live.finish_h)
        words += f"; done {middle} ({low} to {high}), chance {chance_percent(live.probability)}"
    elif live.why_not:
        words += f"; {live.why_not}"
    return words + (f"; {live.alarms[0].words}" if live.alarms else "")


def _print_whole(live: LiveForecast) -> None:
    print(_line(live))
    for shot in live.shots:
        missing = live.snapshot.of(shot.shot).missing
        took = "" if shot.times is None else f", {format_duration(shot.times.mean)} a frame"
        left = "" if shot.hours_left is None else f", left {format_interval(shot.hours_left)} machine-hours"
        lacking = f", missing {format_frames(missing).replace(',', ', ')}" if missing else ""
        print(f"{shot.shot}: {shot.done_count} of {shot.frames} in{took}{left}{lacking}")
    if live.reasons is not None and live.reasons.actual:
        why = live.reasons
        print(
            f"Frames took {round_figures(why.actual)} machine-hours, {round_figures(why.predicted)} were predicted: "
            f"frames {why.frames:+.2g}, machines {why.machines:+.2g}; "
            f"also {why.losses:.2g} h lost and {why.away:.2g} h away."
        )
    for alarm in live.alarms:
        print(f"{alarm.words} {alarm.todo}".strip())
    sys.stdout.flush()


def watch_json(live: LiveForecast) -> dict[str, Any]:
    """Return what is said of a film as plain data."""
    project = live.snapshot.project
    return {
        "now": moment(project, live.snapshot.now / HOUR_S),
        "shots": [_shot_json(live, shot) for shot in live.shots],
        "machines": [
            {
                "machine": machine.machine, "frames": machine.record.delivered,
                "frames_an_hour": number(machine.frames_an_hour), "pace": points(machine.pace),
                "loss": points(machine.loss), "silent": machine.silent,
            }
            for machine in live.machines
        ],
        "finish": None
        if live.finish_h is None
        else moments(project, live.finish_h),
        "odds": live.probability,
        "reasons": None if live.reasons is None else vars(live.reasons),
        "alarms": [
            {"kind": alarm.kind, "shot": alarm.shot, "frames": format_frames(alarm.frames) if alarm.frames else "",
             "machine": alarm.machine, "words": alarm.words, "todo": alarm.todo}
            for alarm in live.alarms
        ],
        "why_not": live.why_not,
    }  # fmt: skip


def _shot_json(live: LiveForecast, shot: LiveShotForecast) -> dict[str, Any]:
    missing = live.snapshot.of(shot.shot).missing
    times = None
    if shot.times is not None:
        times = {"mean": shot.times.mean, "deviation": shot.times.deviation, "frames": shot.times.count}
    return {
        "shot": shot.shot,
        "frames": shot.frames,
        "in": shot.done_count,
        "broken": shot.broken,
        "lost": shot.lost,
        "again": shot.again,
        "missing": format_frames(missing) if missing else "",
        "seconds": times,
        "mean_frame": points(shot.now),
        "remaining_machine_hours": points(shot.hours_left),
        "done": None if shot.done_h is None else moments(live.snapshot.project, shot.done_h),
        "gib": shot.gib,
        "gib_at_end": number(shot.gib_at_end),
    }  # fmt: skip
