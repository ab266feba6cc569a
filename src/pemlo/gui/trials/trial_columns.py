"""Rows and columns of the table of trials. Qt-free."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pemlo.app.picture_places import named_picture
from pemlo.core.cost.curves import TrialFit, trial_fits
from pemlo.core.cost.posterior import Fit
from pemlo.core.cost.priors import DOUBTFUL
from pemlo.core.persistence.csv_trials import mark
from pemlo.core.persistence.table import gibibytes, mebibytes, number, seconds_or_none, whole_number
from pemlo.core.project.edits import set_trial
from pemlo.core.project.guesses import read_time
from pemlo.core.project.project import Project
from pemlo.core.project.spelling import cap, denoiser, rays, rays_text, read_way, switch_names, way_words
from pemlo.core.project.trials import BAD, GOOD, STAGES, Trial
from pemlo.core.units import format_duration, round_figures, share_words
from pemlo.gui.common.cells import NOTHING, optional, read
from pemlo.gui.common.columns import Column, Role


@dataclass(frozen=True)
class TrialRow:
    """A trial by its index in the project, how it lies against the fit, and where its picture should be.

    `disagrees` says that it is among those of its shot that do not agree with each other.
    """

    index: int
    trial: Trial
    residual: TrialFit | None
    picture: Path | None = None
    disagrees: bool = False

    @property
    def doubtful(self) -> bool:
        return self.disagrees or (self.residual is not None and self.residual.inlier < DOUBTFUL)


def trial_rows(project: Project, shot: str, fit: Fit | None, project_file: Path | None = None) -> tuple[TrialRow, ...]:
    """Return the trials of a shot in the order in which they were added."""
    residual: dict[int, TrialFit] = {}
    apart: set[int] = set()
    if fit is not None and shot in fit.shots:
        residual = trial_fits(fit, shot)
        apart = {
            index for disagreement in fit.disagreements if disagreement.shot == shot for index in disagreement.trials
        }
    return tuple(
        TrialRow(
            index,
            trial,
            residual.get(index),
            named_picture(trial, project_file),
            index in apart,
        )
        for index, trial in enumerate(project.trials)
        if trial.shot == shot
    )


def _cell(field: str, parse: Callable[[str], Any]) -> Callable[[Project, TrialRow, str], Project]:
    def edit(project: Project, row: TrialRow, text: str) -> Project:
        return set_trial(project, row.index, **{field: read(parse, text, f"Trial, {field.replace('_', ' ')}")})

    return edit


def _set_threshold(project: Project, row: TrialRow, text: str) -> Project:
    value = read(optional(number), text, "Trial, threshold")
    least = row.trial.min_samples if value is not None else None
    return set_trial(project, row.index, noise_threshold=value, min_samples=least)


def _set_way(project: Project, row: TrialRow, text: str) -> Project:
    way, value = read_way("" if text == NOTHING else text)
    return set_trial(project, row.index, way=way, way_value=value)


def _set_time(project: Project, row: TrialRow, text: str) -> Project:
    seconds, assumed = read_time(text, None)
    return set_trial(project, row.index, seconds=seconds, assumed=assumed)


def time_text(row: TrialRow) -> str:
    """Say what the frame took; a guess says that it is one."""
    return f"~{format_duration(row.trial.seconds)}" if row.trial.assumed else format_duration(row.trial.seconds)


def mark_text(row: TrialRow) -> str:
    """Say whether the trial passes, by a shape and a word."""
    return {GOOD: "● passes", BAD: "× fails"}.get(row.trial.mark, NOTHING)


def _mark_role(row: TrialRow) -> Role:
    return "limit" if row.trial.mark == BAD else "picture" if row.trial.mark == GOOD else "faint"


def off_text(row: TrialRow) -> str:
    """Say how far a time lies from the fit, and whether it should be looked at again."""
    if row.trial.left_out:
        return "left out"
    if row.trial.assumed:
        return "a guess"
    if row.residual is None:
        return NOTHING
    percent = round(100 * row.residual.off)
    sign = "−" if percent < 0 else "+" if row.residual.off < 2 else ""
    words = "0 %" if percent == 0 else sign + share_words(row.residual.off)
    return f"{words}  apart" if row.disagrees else f"{words}  check" if row.doubtful else words


def _stage_column(stage: str) -> Column[TrialRow]:
    field = f"{stage}_seconds"

    def text(row: TrialRow) -> str:
        seconds = getattr(row.trial, field)
        return NOTHING if seconds is None else format_duration(seconds)

    return Column(
        stage if stage != "denoise" else "filter",
        f"What the stage “{stage}” of the frame took, if it was timed by itself",
        text,
        _cell(field, optional(seconds_or_none)),
        role=lambda r: "faint" if getattr(r.trial, field) is None else "ink",
        width=64,
        order=lambda r: getattr(r.trial, field),
    )


def _switches(text: str) -> tuple[str, ...]:
    return () if text == NOTHING else switch_names(text)


def _cap(text: str) -> float | None:
    return None if text in ("", NOTHING) else cap(text)


def _amount(value: float | None, unit: str) -> str:
    return NOTHING if value is None else f"{round_figures(value, 3)} {unit}"


def _time_role(row: TrialRow) -> Role:
    return "limit" if row.doubtful else "time"


def noise_text(trial: Trial) -> str:
    """Say the noise of a trial as a share of the frame's mean brightness."""
    return NOTHING if trial.noise is None else f"{round_figures(100 * trial.noise, 2)} %"


TRIAL_COLUMNS: tuple[Column[TrialRow], ...] = (
    Column("", "Its picture, small; double-click to see it larger", lambda _: "", figures=False, width=46,
           picture=lambda r: r.picture),
    Column("frame", "Which frame was timed", lambda r: str(r.trial.frame), _cell("frame", whole_number), width=52),
    Column("samples", "Samples a pixel; the most of them with a noise threshold", lambda r: str(r.trial.samples),
           _cell("samples", whole_number), width=62),
    Column("threshold", "Noise threshold; empty for fixed sampling",
           lambda r: NOTHING if r.trial.noise_threshold is None else f"{r.trial.noise_threshold:g}",
           _set_threshold, width=68),
    Column("denoise", "Way of denoising, or none", lambda r: r.trial.denoise,
           _cell("denoise", denoiser), figures=False, width=64),
    Column("size", "The pixels that it was timed at, as a percentage of the delivery's on each side",
           lambda r: f"{r.trial.resolution_percent:g} %",
           _cell("resolution_percent", number), typed=lambda r: f"{r.trial.resolution_percent:g}", width=54),
    Column("time", "What the frame took: 4:02, 4m02, 242 or 1h03; ~4:02 is a guess", time_text,
           _set_time, role=_time_role, width=82, order=lambda r: r.trial.seconds),
    Column("passes", "Whether what you saw is good enough; no picture needs to be here", mark_text,
           _cell("mark", lambda text: "" if text in ("", NOTHING) else mark(text)), figures=False, width=100,
           choices=("", "good enough", "not good enough"), typed=lambda r: r.trial.mark, role=_mark_role),
    Column("note", "What you saw, and where: shadow edge soft, fine", lambda r: r.trial.note, _cell("note", str),
           figures=False, width=120),
    Column("off fit", "How far the time lies from the fit; “check” where it looks like a slip, “apart” where "
           "it is among times that do not agree, “left out” where none "
           "of the forecast rests on it: the first frame after the renderer's start", off_text,
           order=lambda r: None if r.residual is None else abs(r.residual.off),
           role=lambda r: "limit" if r.doubtful else "faint" if r.trial.left_out else "ink", width=96),
    Column("noise", "What noise was left, as a share of the frame's mean brightness, scene-linear, before denoising",
           lambda r: noise_text(r.trial), order=lambda r: r.trial.noise,
           role=lambda r: "ink" if r.trial.noise is not None else "faint", width=58),
    Column("machine", "Which machine ran it; empty for the reference machine", lambda r: r.trial.machine or NOTHING,
           _cell("machine", lambda text: "" if text == NOTHING else text), figures=False, width=80),
    Column("way", "Another engine, method or quality, by a name of your own, and how far it goes: depth 20",
           lambda r: way_words(r.trial.way, r.trial.way_value) or NOTHING, _set_way,
           typed=lambda r: way_words(r.trial.way, r.trial.way_value), figures=False, width=80),
    Column("min", "Min samples a pixel, with a noise threshold",
           lambda r: NOTHING if r.trial.min_samples is None else str(r.trial.min_samples),
           _cell("min_samples", optional(whole_number)), width=46),
    Column("region", "The share of the frame's pixels, if only a part of it was timed; empty for the whole frame",
           lambda r: NOTHING if r.trial.region_percent is None else f"{r.trial.region_percent:g} %",
           _cell("region_percent", optional(number)),
           typed=lambda r: "" if r.trial.region_percent is None else f"{r.trial.region_percent:g}", width=56),
    Column("pixels", "Width and height of the whole frame that was timed; they stay when the film gets another size",
           lambda r: f"{r.trial.width}×{r.trial.height}", width=82),
    *(_stage_column(stage) for stage in STAGES),
    Column("switches", "What was switched on, by your names, with commas between: one trial with and one without tell "
           "what it does", lambda r: ", ".join(r.trial.switches) or NOTHING, _cell("switches", _switches),
           figures=False, width=90),
    Column("split", "Rays a sample to lights, off a gloss, through glass", lambda r: rays_text(r.trial.split),
           _cell("split", rays), width=52),
    Column("time limit", "After which tracing ended; empty for no cap",
           lambda r: NOTHING if r.trial.most_seconds is None else format_duration(r.trial.most_seconds),
           _cell("most_seconds", _cap), width=84,
           order=lambda r: r.trial.most_seconds),
    Column("saves", "How often the unfinished frame was written", lambda r: str(r.trial.saves),
           _cell("saves", whole_number), width=46),
    Column("memory", "The most that the renderer held, GiB", lambda r: _amount(r.trial.memory_gib, "GiB"),
           _cell("memory_gib", optional(gibibytes)), width=74, order=lambda r: r.trial.memory_gib),
    Column("disk", "What the written frame takes, MiB", lambda r: _amount(r.trial.disk_mib, "MiB"),
           _cell("disk_mib", optional(mebibytes)), width=72),
)  # fmt: skip
