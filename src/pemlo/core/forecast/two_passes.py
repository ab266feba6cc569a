"""A first pass for everybody soon, more samples later: what both take, and what two cost more than one. NumPy.

The second pass either renders anew, or tops up: it reads back the sums of the first and adds the samples that are
missing. It prepares, denoises and writes again, and traces only what is left.
"""

from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws, mean_of
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.farm.capacity import Capacity
from pemlo.core.forecast.jobs import shots_in_order
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.forecast.verdict import project_capacity
from pemlo.core.interval import Interval, interval_of
from pemlo.core.project.named_settings import NamedSettings
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.units import HOUR_S, format_interval, round_figures

TOPS_UP = ("samples", "min_samples", "noise_threshold", "most_seconds")


@dataclass(frozen=True)
class TwoPasses:
    """What two passes over a film take.

    Attributes
    ----------
    first, again, topped_up, once : Interval
        Machine-hours of the first pass; of a second that renders anew; of one that tops up; of one pass alone.
    more : Interval
        Machine-hours that two passes take more than one, where the second tops up what it can.
    not_topped_up : tuple of str
        Shots whose first pass differs in more than samples: they are rendered anew.
    first_done_h : float
        When the first pass is done with the chance asked for, hours since the start; infinity if never.
    noise : float
        Of the first pass, over that of the final one: mean over the shots.
    cannot : (str, int) or None
        From which shot and frame on the second pass is not done by the deadline with the chance asked for.
    """

    first: Interval
    again: Interval
    topped_up: Interval
    once: Interval
    more: Interval
    not_topped_up: tuple[str, ...]
    first_done_h: float
    noise: float
    cannot: tuple[str, int] | None


def two_passes(
    project: Project, fit: Fit, draws: FilmDraws, named_settings: NamedSettings, approved_h: float | None = None
) -> TwoPasses:
    """Return what a first pass with a set of settings and a second one take.

    Parameters
    ----------
    project : Project
    fit : Fit
    draws : FilmDraws
        Of that fit.
    named_settings : NamedSettings
        Of the first pass.
    approved_h : float, optional
        When the second pass may begin, hours since the start; when the first is done unless given.
    """
    early = {shot.name: named_settings.on(shot.settings) for shot in project.shots}
    first, once, saved, noise = {}, {}, {}, []
    for shot in project.shots:
        planned = shot.replace(plan=early[shot.name])
        first[shot.name] = shot_hours(fit, draws, project, planned)
        once[shot.name] = shot_hours(fit, draws, project, shot)
        saved[shot.name] = _traced(project, fit, draws, shot, early[shot.name])
        noise.append(_noise(project, fit, draws, shot, early[shot.name]))
    second = {name: once[name] - np.minimum(saved[name], 0.98 * once[name]) for name in once}
    total = {key: np.asarray(np.sum(list(of.values()), axis=0)) for key, of in
             (("first", first), ("once", once), ("second", second))}  # fmt: skip
    curve = project_capacity(project)
    wanted = project.delivery.confidence
    first_done = float(curve.hours_for(np.array([np.quantile(total["first"], wanted)]))[0])
    begins = max(first_done if approved_h is None else approved_h, 0.0)
    return TwoPasses(
        interval_of(total["first"]),
        interval_of(total["once"]),
        interval_of(total["second"]),
        interval_of(total["once"]),
        interval_of(total["first"] + total["second"] - total["once"]),
        tuple(shot.name for shot in project.shots if not tops_up(early[shot.name], shot.settings)),
        first_done,
        float(np.mean(noise)),
        _cannot(project, curve, once, second, begins),
    )


def tops_up(first: ShotSettings, final: ShotSettings) -> bool:
    """Whether frames of a first pass can be topped up: they differ from the final ones in samples at most."""
    return all(
        getattr(first, name) == getattr(final, name)
        for name in type(first).model_fields
        if name not in (*TOPS_UP, "denoise", "saves", "keep")
    )


def _traced(project: Project, fit: Fit, draws: FilmDraws, shot: Shot, early: ShotSettings) -> Floats:
    """Return machine-hours of the samples of the first pass that a top-up need not trace again, (N,); 0 if it cannot.

    Seconds run straight with the samples that are spent: the slope between one sample and those of the first pass.
    """
    mine = draws[shot.name]
    if not tops_up(early, shot.settings):
        return np.zeros(len(mine.theta))
    settings = early.replace(samples=1, min_samples=None, noise_threshold=None, most_seconds=None)
    wanted = frames_of([early, settings], [project.size_of(shot)] * 2, fit.cost_factors, fit.shots[shot.name].shape())
    seconds, spent = mean_of(mine, wanted)
    slope = (seconds[:, 0] - seconds[:, 1]) / np.maximum(spent[:, 0] - spent[:, 1], 1e-9)
    count = min(shot.rendered_count(early), shot.rendered_count(shot.settings))
    return np.asarray(np.maximum(slope, 0.0) * spent[:, 0] * count / HOUR_S)


def _noise(project: Project, fit: Fit, draws: FilmDraws, shot: Shot, early: ShotSettings) -> float:
    """Return the noise of a first pass over that of the final one: it falls with the root of the samples."""
    sizes = [project.size_of(shot)] * 2
    wanted = frames_of([early, shot.settings], sizes, fit.cost_factors, fit.shots[shot.name].shape())
    spent = mean_of(draws[shot.name], wanted)[1]
    return float(np.median(np.sqrt(spent[:, 1] / np.maximum(spent[:, 0], 1e-9))))


def _cannot(
    project: Project, curve: Capacity, once: dict[str, Floats], second: dict[str, Floats], begins: float
) -> tuple[str, int] | None:
    """Return from which frame on the second pass is late: shots in the order in which they are handed out."""
    due = project.render_by_h
    available_h = max(curve.work_by(max(due, 0.0)) - curve.work_by(begins), 0.0)
    order = shots_in_order(project, {name: float(np.median(one)) for name, one in once.items()})
    before: Floats | float = 0.0
    for name in order:
        shot = project.shot(name)
        upto = before + second[name]
        if float(np.quantile(upto, project.delivery.confidence)) <= available_h:
            before = upto
            continue
        count = shot.rendered_count(shot.settings)
        shares = [float(np.quantile(before + second[name] * k / count, project.delivery.confidence))
                  for k in range(1, count + 1)]  # fmt: skip
        late = int(np.searchsorted(shares, available_h, side="right"))
        return name, shot.rendered_frames(shot.settings)[late]
    return None


def passes_words(project: Project, found: TwoPasses, moment: str) -> str:
    """Return what two passes take, in sentences; `moment` says when the first is done."""

    def hours(one: Interval) -> str:
        return format_interval(one)

    words = f"A first pass for all takes {hours(found.first)} machine-hours, done {moment}, with "
    words += f"{round_figures(found.noise, 2)} times the noise. A second that tops it up takes "
    words += f"{hours(found.topped_up)}, one that renders anew {hours(found.again)}: topped up, two passes take "
    words += f"{hours(found.more)} more than one."
    if found.not_topped_up:
        words += f" {', '.join(found.not_topped_up)} cannot be topped up: more than samples differs."
    if found.cannot is not None:
        shot, frame = found.cannot
        words += f" From frame {frame} of {shot} on the second pass is not done by the deadline at "
        words += f"{100 * project.delivery.confidence:.0f} in 100."
    return words
