"""Trials whose times look like slips, said in words. Pure."""

from pemlo.core.cost.curves import trial_fits
from pemlo.core.cost.posterior import Fit
from pemlo.core.cost.priors import DOUBTFUL
from pemlo.core.errors import Problem
from pemlo.core.project.project import Project
from pemlo.core.units import format_duration
from pemlo.words.disagreements import FIRST_FRAME, is_first


def doubts(project: Project, fit: Fit) -> tuple[Problem, ...]:
    """Return the trials whose times look like slips, each with its place; they hardly count in the forecast.

    Shots whose trials do not agree at all are not among them: see `Fit.disagreements`.
    """
    problems = []
    unsure = {disagreement.shot for disagreement in fit.disagreements}
    for shot in project.shots:
        if shot.name in unsure:
            continue
        for index, residual in trial_fits(fit, shot.name).items():
            if residual.inlier < DOUBTFUL and not project.trials[index].assumed:
                trial = project.trials[index]
                took = format_duration(trial.seconds)
                words = f"{took} differs a lot from what the other trials predict, and hardly counts. Check it."
                if residual.off > 0 and is_first(project, index):
                    words += f" {FIRST_FRAME}"
                problems.append(Problem(f"Trial of shot {shot.name}, frame {trial.frame}", words))
    return tuple(problems)
