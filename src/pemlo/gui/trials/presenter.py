"""What the trials stage shows: rows, curves and sentences from a project and its forecast. Qt-free."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.curves import Curve, along_curve, seconds_curve
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.frame_model import samples_spent
from pemlo.core.cost.next_trial import Advice
from pemlo.core.cost.noise_level import noise_level
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError, Problem
from pemlo.core.interval import NINETY
from pemlo.core.persistence.column_names import matched
from pemlo.core.persistence.csv_trials import READ as TRIAL_TABLE
from pemlo.core.persistence.csv_trials import read_trials
from pemlo.core.persistence.table import number, samples, whole_number
from pemlo.core.project.eye_marks import (
    carried_words,
    contradiction_sentence,
    contradictions,
    deciding,
    eye_marks_of,
    next_look,
    passing_words,
)
from pemlo.core.project.guesses import base_seconds, read_time
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import denoiser, read_way, settings_words
from pemlo.core.project.trials import Trial
from pemlo.core.units import HOUR_S, format_duration, format_span, round_figures
from pemlo.gui.common.cells import read
from pemlo.gui.trials.trial_columns import TrialRow, noise_text, off_text, trial_rows
from pemlo.words.disagreements import Answer, answers, disagreement_words

LADDER_POINTS = 40
MOST_LINES = 4
_SMALL_H = 0.1  # less is written in minutes or seconds


def timed_words(rows: Sequence[TrialRow]) -> str:
    """Say how many trials a shot has, and how many of them are left out."""
    out = sum(bool(row.trial.left_out) for row in rows)
    return (f"{len(rows)} timed" + (f", {out} left out" if out else "")) if rows else "none yet"


def picture_words(trial: Trial) -> str:
    """Say below a picture what it is of and what it took."""
    stages = [f"{stage} {format_duration(seconds)}" for stage, seconds in trial.stage_seconds().items() if seconds > 0]
    took = format_duration(trial.seconds) + (f" ({', '.join(stages)})" if stages else "")
    spent = "" if trial.mean_samples is None else f", {round_figures(trial.mean_samples, 3)} samples a pixel spent"
    noise = "" if trial.noise is None else f", noise {noise_text(trial)} of the mean brightness"
    machine = f" on {trial.machine}" if trial.machine else ""
    left_out = f" Left out of the forecast: {trial.left_out}." if trial.left_out else ""
    return f"{settings_words(trial)}: {took}{machine}{spent}{noise}.{left_out}"


@dataclass(frozen=True)
class LadderLine:
    """Seconds over samples at one resolution; the plan's own line carries the band."""

    label: str
    samples: Floats
    curve: Curve
    plan: bool


@dataclass(frozen=True)
class TrialDot:
    """A trial in a plot: where, which, whether it looks sound, and what it says."""

    x: float
    y: float
    index: int
    doubtful: bool
    words: str


@dataclass(frozen=True)
class NoiseLadder:
    """Noise over samples: the line of the trials with fixed samples, if there are any, and all trials that tell it."""

    curve: Curve | None
    dots: tuple[TrialDot, ...]


@dataclass(frozen=True)
class Ladder:
    """The ladder plot: lines, trials, and the frame as the plan has it (samples, low, middle, high seconds)."""

    lines: tuple[LadderLine, ...]
    dots: tuple[TrialDot, ...]
    plan: tuple[float, float, float, float]
    noise: NoiseLadder
    words: str


def ladder(project: Project, shot: Shot, fit: Fit, draws: FilmDraws) -> Ladder:
    """Return what the ladder plot of a shot shows.

    Trials stand at the samples that they spent, brought to the reference machine, the shot's mean frame and the
    plan's way of denoising, so that they can be read against the line of their resolution.
    """
    rows = trial_rows(project, shot.name, fit)
    plan = FrameSettings.model_validate(shot.settings.frame_fields())
    spent = [_spent(project, shot, fit, row.trial) for row in rows]
    at_plan = _spent(project, shot, fit, plan)
    low, high = min([4.0, at_plan, *spent]), max([at_plan, float(plan.samples), *spent])
    samples = np.unique(np.round(np.geomspace(max(low / 1.3, 1.0), high * 1.5, LADDER_POINTS), 3))
    lines = []
    for percent in _resolutions(plan, rows):
        settings = [_fixed(plan, percent, n) for n in samples]
        curve = _over_samples(fit, draws, project, shot, settings, samples)
        lines.append(LadderLine(f"{percent:g} %", samples, curve, percent == plan.resolution_percent))
    by_percent = {line.label: line for line in lines}
    dots = []
    for row, n in zip(rows, spent, strict=True):
        line = by_percent.get(f"{row.trial.resolution_percent:g} %")
        if line is None or row.residual is None:
            continue
        seconds = float(np.exp(np.interp(np.log(n), np.log(samples), np.log(line.curve.middle)))) * (
            1 + row.residual.off
        )
        dots.append(TrialDot(n, seconds, row.index, row.doubtful, _dot_words(row)))
    found = seconds_curve(fit, draws[shot.name], project, shot, [plan])
    timed = sum(not row.trial.left_out for row in rows)
    words = f"mean frame, reference machine; {timed} timed" if timed else "never timed: taken from other shots"
    return Ladder(
        tuple(lines),
        tuple(dots),
        (at_plan, float(found.low[0]), float(found.middle[0]), float(found.high[0])),
        _noise_ladder(rows, spent, samples),
        words,
    )


def _noise_ladder(rows: tuple[TrialRow, ...], spent: list[float], samples: Floats) -> NoiseLadder:
    level = noise_level([row.trial for row in rows])
    dots = [
        TrialDot(n, row.trial.noise, row.index, doubtful=False, words=_noise_words(row.trial))
        for row, n in zip(rows, spent, strict=True)
        if row.trial.noise
    ]
    return NoiseLadder(level.curve(samples) if level is not None else None, tuple(dots))


def _noise_words(trial: Trial) -> str:
    return f"frame {trial.frame}, {settings_words(trial)}: noise {noise_text(trial)} of the mean brightness"


def _over_samples(
    fit: Fit, draws: FilmDraws, project: Project, shot: Shot, settings: list[FrameSettings], samples: Floats
) -> Curve:
    """Return the curve at samples that need not be whole: whole settings, put right by their own slope."""
    curve = seconds_curve(fit, draws[shot.name], project, shot, settings)
    whole = np.array([float(s.samples) for s in settings])
    keep = np.concatenate([[True], np.diff(whole) > 0])

    def along(values: Floats) -> Floats:
        return np.asarray(np.exp(np.interp(np.log(samples), np.log(whole[keep]), np.log(values[keep]))))

    return Curve(samples, along(curve.low), along(curve.middle), along(curve.high))


def _fixed(plan: FrameSettings, percent: float, samples: float) -> FrameSettings:
    return plan.replace(
        samples=max(1, round(samples)), min_samples=None, noise_threshold=None, resolution_percent=percent
    )


def _resolutions(plan: FrameSettings, rows: tuple[TrialRow, ...]) -> list[float]:
    """Return the plan's resolution and those that most trials have."""
    counts: dict[float, int] = {}
    for row in rows:
        counts[row.trial.resolution_percent] = counts.get(row.trial.resolution_percent, 0) + 1
    others = sorted((p for p in counts if p != plan.resolution_percent), key=lambda p: -counts[p])
    return [plan.resolution_percent, *others[: MOST_LINES - 1]]


def _spent(project: Project, shot: Shot, fit: Fit, settings: FrameSettings) -> float:
    frames = frames_of([settings], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape())
    return float(samples_spent(fit.shots[shot.name].best[None, :], frames)[0][0])


def _dot_words(row: TrialRow) -> str:
    trial = row.trial
    return (
        f"frame {trial.frame}, {settings_words(trial)}: {format_duration(trial.seconds)}, {off_text(row)} off the fit"
    )


def disagreement(project: Project, shot: str, fit: Fit) -> tuple[str, ...]:
    """Say which trials of a shot do not agree, if they do not."""
    return tuple(disagreement_words(project, one) for one in fit.disagreements if one.shot == shot)


def answers_of(project: Project, shot: str, fit: Fit) -> tuple[Answer, ...]:
    """Return what may have been so where the time as asked lies far from where the others lead."""
    return tuple(answer for one in fit.disagreements if one.shot == shot for answer in answers(project, one))


@dataclass(frozen=True)
class Along:
    """The plot along the shot: the course with its band, and the trials."""

    curve: Curve
    dots: tuple[TrialDot, ...]


def along(project: Project, shot: Shot, fit: Fit) -> Along:
    """Return what the plot of cost along a shot shows: factors against its typical frame."""
    frames = np.unique(np.round(np.linspace(shot.first, shot.last, min(shot.frame_count, 121))))
    dots = [
        TrialDot(float(row.trial.frame), row.residual.factor, row.index, row.doubtful, _dot_words(row))
        for row in trial_rows(project, shot.name, fit)
        if row.residual is not None
    ]
    return Along(along_curve(fit, shot, frames), tuple(dots))


def advice_words(advice: Advice, *, known: bool) -> tuple[str, str]:
    """Say which trial to run next, and why."""
    took = format_duration(advice.seconds).replace(" ", "\u00a0")
    seconds = f", about {took}" if known else ""
    what = f"Shot {advice.shot}, frame {advice.frame}, {settings_words(advice.settings)}{seconds}."
    if not known:
        return what, "There is no trial yet: this one says most about the film."
    if advice.again:
        return what, "Once more: its time does not agree with the others, and nothing else tells more until they do."
    before, after = (_within(sd) for sd in (advice.hours_sd, advice.hours_sd_after))
    if before == after:
        why = f"It leaves the shot at ±{before}, but is worth its time beside the trials after it."
    else:
        noun = " machine-hours"
        first = before.removesuffix(noun) if after.endswith(noun) else before
        why = f"Best use of a minute: the estimate of the shot goes from ±{first} to ±{after}."
    if advice.question is not None:
        after = _within(advice.question.hours_sd_after)
        why += (
            f" Or without rendering: did the renderer say how long it prepared frame {advice.question.frame}? Typed in "
            f"the column “prepare”, it leaves ±{after}."
        )
    return what, why


def _within(hours_sd: float) -> str:
    """Write half of the 90 % interval of machine-hours."""
    hours = NINETY * hours_sd
    return format_span(hours * HOUR_S) if hours < _SMALL_H else f"{round_figures(hours, 2)} machine-hours"


def pasted_table(text: str, shot: str) -> str:
    """Return pasted trials as a table with titles: without them they are frame and time, or frame, samples and time.

    A table without a column for the shot is of the shot that is shown.

    Raises
    ------
    InputError
        If there is nothing, or no titles and not two or three columns.
    """
    lines = [line for line in text.splitlines() if line.strip()]
    if not lines:
        raise InputError("There is nothing to paste.", "Copy cells with frame and time first.")
    mark = next((mark for mark in ("\t", ";", ",") if mark in lines[0]), "\t")
    first = [cell.strip() for cell in lines[0].split(mark)]
    columns = {column.name for column in TRIAL_TABLE}
    names = matched(first, columns)
    if not set(names) & columns and (len(lines) == 1 or any(map(str.isdigit, lines[0]))):
        if not 2 <= len(first) <= 3:
            raise InputError(
                "What you pasted has no header, and not two or three columns.",
                "Paste frame and time, or frame, samples and time, or put the columns' names above them.",
            )
        names = ("frame", "seconds") if len(first) == 2 else ("frame", "samples", "seconds")
        lines.insert(0, mark.join(names))
    if "shot" not in names:
        lines = [f"shot{mark}{lines[0]}", *(f"{shot}{mark}{line}" for line in lines[1:])]
    return "\n".join(lines)


def pasted_trials(text: str, project: Project, shot: str) -> tuple[Trial, ...]:
    """Read trials that were pasted, as `pasted_table` has them.

    Raises
    ------
    InputError
        That lists what cannot be read.
    """
    return read_trials(pasted_table(text, shot), project, "What you pasted")


def marked_words(project: Project, shot: str) -> tuple[str, str]:
    """Return what passes by eye and where to look next, and which marks contradict each other; both may be empty."""
    marks = deciding(eye_marks_of(project, shot))
    if not marks:
        return "", ""
    ask = next_look(marks)
    where = "" if ask is None else f" Look first at {ask.words}: it would decide."
    words = f"{passing_words(marks)}{where} {carried_words(marks)}".strip()
    return words, contradiction_sentence(contradictions(marks))


def typed_trial(project: Project, shot: str, typed: dict[str, str]) -> Trial:
    """Make a trial from what was typed in the line below the table; what is empty is as asked.

    Raises
    ------
    InputError
        That says which field is wrong.
    """
    asked = project.shot(shot).asked.frame_fields()
    parsers: dict[str, Callable[[str], Any]] = {
        "frame": whole_number, "samples": samples, "resolution_percent": number, "noise_threshold": number,
        "denoise": denoiser, "machine": str, "region_percent": number,
    }  # fmt: skip
    given = {
        name: read(parse, typed[name].strip(), name.replace("_", " ").capitalize())
        for name, parse in parsers.items()
        if typed.get(name, "").strip()
    }
    if typed.get("way", "").strip():
        given["way"], given["way_value"] = read_way(typed["way"])
    base = base_seconds(project, shot)
    if typed.get("seconds", "").strip():
        given["seconds"], given["assumed"] = read_time(typed["seconds"], base)
    if given.get("assumed") and "frame" not in given:
        given["frame"] = (project.shot(shot).first + project.shot(shot).last) // 2  # a guess is of no frame more
    for name, words in (
        ("frame", "which frame you timed"),
        ("seconds", "how long it took, like 4:02 or 17.4; ~4:02 or “a third” is a guess"),
    ):
        if name not in given:
            raise InputError([Problem("New trial", f"type {words}")])
    if "samples" in given and "noise_threshold" not in given:
        asked |= {"noise_threshold": None, "min_samples": None}
    if asked["min_samples"] is not None and given.get("samples", asked["samples"]) < asked["min_samples"]:
        asked["min_samples"] = None
    return build(Trial, {**asked, **given, "shot": shot}, "New trial")
