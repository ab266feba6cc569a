"""Trials that render themselves against trials placed by hand: the table of docs/method/validation.md.

./dev unattended     forty minutes on two cores: twenty of unattended trials, the rest to render what is not known yet

A film of ten shots, one of each scene, with no trial in it. Twenty minutes are spent as `pemlo trial --minutes 20`
does, by a template of the small renderer alone, on one thread as the renders of `truth.py`. Then those renders, which
no fit has seen, are predicted, all of them at the usual pace of the machine: from the unattended trials, from those
that the advice places at one full frame a shot (`truth_study.py`), and from what people do by hand: the first, the
middle and the last frame as asked.
"""

import argparse
import sys
import tempfile
import time
from pathlib import Path

from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.film.film import Film
from pemlo.core.progress import Unwatched
from pemlo.core.project.edits import add_trials
from pemlo.core.project.project import Project
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import STAGES, Trial
from pemlo.core.trialrun.session import Place, machines_of
from pemlo.core.trialrun.small_renderer import small_renderer
from pemlo.core.trialrun.spending import Ended, Situation, Spent, next_choice, task_of
from pemlo.words.trial_runs import choice_words, landed_words
from rendered import Renders, pace_seconds
from truth import to_render, unseen
from truth_study import as_trial, film, follow_advice, predictions, summary

MINUTES = 20.0


def with_way(project: Project) -> Project:
    """Return the film with a template of the small renderer, on one thread, and the scenes of its shots."""
    small = small_renderer()
    way = RenderWay(name="one thread", command=f"{small.command} --threads 1", sayings=small.sayings)
    shots = tuple(shot.replace(extra_columns=(("scene", shot.name),)) for shot in project.shots)
    return project.replace(shots=shots, render_ways=(way,))


def at_pace(trial: Trial, pace: float, usual: float) -> Trial:
    """Return a trial at the usual pace of the machine, as the renders of the study are brought to it."""
    times = {name: getattr(trial, name) for name in ("seconds", *(f"{stage}_seconds" for stage in STAGES))}
    scaled = {name: value * usual / pace for name, value in times.items() if value is not None}
    return trial.replace(machine="study", **scaled)


def unattended(minutes: float, usual: float) -> Project:
    """Spend the minutes as the queue does, to their end: a settled verdict does not stop them here."""
    folder = Path(tempfile.mkdtemp(prefix="unattended-"))
    state = Film(with_way(film()), folder)
    way = state.project.render_ways[0]
    place = Place(way, machines_of(way)[0], folder / "pictures", folder)
    spent, until, count = Spent(), time.monotonic() + 60 * minutes, 0
    while True:
        began, left = time.monotonic(), until - time.monotonic()
        choice = next_choice(Situation(state, way, spent, left, until_settled=False))
        if isinstance(choice, Ended):
            print(choice, file=sys.stderr)
            return state.project
        count += 1
        spent = spent.begun(choice)
        before = pace_seconds()
        found = place.render(task_of(state.project, choice, count), Unwatched())
        trial = found.trial
        if time.monotonic() > until:
            return state.project
        words = f"{choice_words(choice)} ({choice.why}): {landed_words(found)}"
        print(f"{60 * minutes - until + time.monotonic():6.0f} s  {words}", file=sys.stderr, flush=True)
        if trial is None:
            spent = spent.with_failed(choice.shot, found.why)
            continue
        spent = spent.with_landed(trial, time.monotonic() - began)
        state = state.with_project(add_trials(state.project, [at_pace(trial, (before + pace_seconds()) / 2, usual)]))


def by_hand(renders: Renders) -> Project:
    """Return the film with what people time: the first, the middle and the last frame as asked."""
    project = film()
    trials = []
    for shot in project.shots:
        asked = FrameSettings.model_validate(shot.asked.frame_fields())
        for frame in (shot.first, shot.middle, shot.last):
            settings = to_render(shot.name, frame, asked, 700)
            trials.append(as_trial(settings, renders.get(settings)))
    return project.replace(trials=tuple(trials))


def print_errors(name: str, project: Project, renders: Renders) -> None:
    known = fit(fit_input(project))
    rows = predictions(known, project, unseen(), renders)
    spent = sum(trial.seconds for trial in project.trials)
    label = f"{name} ({len(project.trials)} trials, {spent:.0f} s)"
    print(summary(label, [row[0] for row in rows], [row[1] for row in rows]), flush=True)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=MINUTES)
    parser.add_argument("--renders-only", action="store_true", help="only render what is to be predicted")
    args = parser.parse_args()
    renders = Renders()
    for settings in unseen():
        renders.get(settings)
    hand, (advised, _) = by_hand(renders), follow_advice(film(), renders)
    if args.renders_only:
        return
    mine = unattended(args.minutes, renders.usual_pace)
    print("| renders not seen, from | how many | median error | 90 % of errors within | 90 % interval holds |")
    print("|---|---|---|---|---|")
    print_errors("unattended", mine, renders)
    print_errors("the advice followed by hand", advised, renders)
    print_errors("first, middle and last frame", hand, renders)


if __name__ == "__main__":
    main()
