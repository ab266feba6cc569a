"""``pemlo estimate``: hours, finish and chance of a project."""

import argparse
import json
import sys
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from pemlo.cli.arguments import add_cluster, add_formats, seed
from pemlo.cli.csv_output import as_csv
from pemlo.cli.json_values import POINTS, points
from pemlo.cli.opened import open_possible
from pemlo.core.cost.posterior import Disagreement
from pemlo.core.film.values import FIRST_ANSWER, FirstAnswer, is_large
from pemlo.core.forecast.verdict import Forecast
from pemlo.core.interval import Interval
from pemlo.core.project.notices import notices
from pemlo.core.project.project import Project
from pemlo.core.project.reframing import SHAPES, only_reframed, reframed_words
from pemlo.core.units import HOUR_S, format_duration, format_interval, listed, round_figures
from pemlo.words.disagreements import disagreement_words, disagreements_said
from pemlo.words.doubts import doubts
from pemlo.words.film_verdict import first_rests_on
from pemlo.words.unknowns import unknowns
from pemlo.words.verdicts import gone_start_words, headline, say_moment, verdict

WIDE = 30  # room for “55 m 02 s (50 m 10 s–58 m 59 s)”


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.add_argument("project", type=Path)
    add_cluster(parser)
    add_formats(parser)
    parser.add_argument(
        "--reframed", choices=[*SHAPES], metavar="SHAPE",
        help=f"as if all shots were rendered in another shape: {', '.join(SHAPES)}",
    )  # fmt: skip
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Print the forecast; what looks wrong goes to standard error."""
    film = open_possible(args.project, args.seed, args.on)
    if args.reframed:
        size = film.project.delivery.width, film.project.delivery.height
        print(f"Reframed as {reframed_words(size, args.reframed)}", file=sys.stderr)
        film = film.with_project(only_reframed(film.project, args.reframed))
    project = film.project
    if is_large(film.fit_input):
        print(first_words(project, film.get(FIRST_ANSWER, film.run_input)), file=sys.stderr, flush=True)
        film.memo.forget(FIRST_ANSWER.key(film.run_input))  # large, and said
    forecast = film.forecast
    gone = gone_start_words(project, datetime.now(UTC))
    for notice in filter(None, (*notices(project), gone, *doubts(project, film.fit))):
        print(notice, file=sys.stderr)
    if args.csv:
        print(as_csv(as_json(project, forecast)["shots"]))
    else:
        print(json.dumps(as_json(project, forecast), indent=1) if args.json else as_text(project, forecast))
    return 0


def first_words(project: Project, first: FirstAnswer) -> str:
    """Return a first answer in a sentence or two."""
    found = first.forecast
    rests_on = first_rests_on(len(first.fit.film), first.fit.timed_trials)
    words = [f"{rests_on}: {_text(found.hours)} machine-hours"]
    if found.finish is not None:
        early, middle, late = (say_moment(moment, project) for moment in found.finish)
        words.append(f"done {middle} ({early} to {late})")
    return f"{', '.join(words)}. Fitting from all draws and running every frame …"


def as_json(project: Project, forecast: Forecast) -> dict[str, Any]:
    """Return the forecast as plain data; what is not known is null."""
    return {
        "shots": [
            {
                "shot": shot.shot,
                "frames": shot.frames,
                "seconds_per_frame": points(shot.seconds),
                "machine_hours": points(shot.hours),
            }
            for shot in forecast.shots
        ],
        "machine_hours": points(forecast.hours),
        "hours_available": round(forecast.hours_available, 4),
        "finish": None
        if forecast.finish is None
        else dict(zip(POINTS, (_iso(moment) for moment in forecast.finish), strict=True)),
        "odds": forecast.probability,
        "disagreements": disagreements_json(project, forecast.disagreements),
        "verdict": verdict(project, forecast),
    }


def disagreements_json(project: Project, found: tuple[Disagreement, ...]) -> list[dict[str, Any]]:
    """Return as plain data what is wrong with trials; those concerned by their places in the table, from 1."""
    return [
        {
            "shot": disagreement.shot,
            "kind": disagreement.kind,
            "trials": [index + 1 for index in disagreement.trials],
            "factor": float(f"{disagreement.factor:.4g}"),
            "words": disagreement_words(project, disagreement),
        }
        for disagreement in found
    ]


def _iso(moment: datetime | None) -> str | None:
    return None if moment is None else moment.isoformat(timespec="seconds")


def as_text(project: Project, forecast: Forecast) -> str:
    """Return the forecast as a table for people."""
    small = forecast.hours is not None and forecast.hours.high < 1  # then hours are written as people say durations
    written = _durations if small else _text
    lines = [
        f"{'shot':<12}{'frames':>8}  {'seconds a frame':>24}  {'machine time' if small else 'machine-hours':>{WIDE}}"
    ]
    notes = {shot.name: unknowns(project, shot) for shot in project.shots}
    shared = _shared_notes(notes)
    for shot in forecast.shots:
        lines.append(f"{shot.shot:<12}{shot.frames:>8}  {_text(shot.seconds):>24}  {written(shot.hours):>{WIDE}}")
        own = (note for note in notes[shot.shot] if note not in shared)
        lines += [f"{'':<12}{unknown}" for unknown in own]
    frames = sum(shot.frames for shot in forecast.shots)
    lines.append(f"{'film':<12}{frames:>8}  {'':>24}  {written(forecast.hours):>{WIDE}}")
    lines += [f"{listed(names)}: {words}" for words, names in shared.items()]
    if project.delivery.retake_share and forecast.hours is not None:
        lines.append(f"{'':<12}the film's hours count {100 * project.delivery.retake_share:g} % of retakes")
    if forecast.hours is None:
        lines.append(f"there are {round_figures(forecast.hours_available)} machine-hours before the deadline")
    if forecast.finish is not None:
        early, middle, late = (say_moment(moment, project) for moment in forecast.finish)
        lines.append(f"finish    {middle} ({early} to {late})")
    if forecast.kind == "disagree":
        said = disagreements_said(project, forecast.disagreements)
        return "\n".join([*lines, headline(project, forecast), *said, "Until then there is no verdict."])
    return "\n".join([*lines, verdict(project, forecast)])


def _shared_notes(notes: Mapping[str, Sequence[str]]) -> dict[str, list[str]]:
    """Return what is only assumed of several shots alike, with their names: it is said once."""
    names: dict[str, list[str]] = {}
    for shot, of_shot in notes.items():
        for words in of_shot:
            names.setdefault(words, []).append(shot)
    return {words: shots for words, shots in names.items() if len(shots) > 1}


def _durations(interval: Interval | None) -> str:
    if interval is None:
        return "not known"
    low, middle, high = (format_duration(hours * HOUR_S) for hours in interval)
    return f"{middle} ({low}–{high})"


def _text(interval: Interval | None) -> str:
    return "not known" if interval is None else format_interval(interval)
