"""What the trade stage says: levers and what a step does, bars of the fall, points of the frontier. Qt-free."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.chances import chance_percent
from pemlo.core.farm.money import cost_words
from pemlo.core.forecast.disk_memory import DiskMemory
from pemlo.core.forecast.ledger import in_units, said_in
from pemlo.core.interval import Interval, interval_of
from pemlo.core.project.keeping import stage_words
from pemlo.core.project.project import Project
from pemlo.core.project.settings import CHARACTER, NO_DENOISE, LeverName, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words
from pemlo.core.trade.levers import Levers, changed_levers, lever_name, lever_text, not_had, value_of, values_of
from pemlo.core.trade.prices import FREE, LEAST_SHARE
from pemlo.core.trade.savings import saving_words
from pemlo.core.units import HOUR_S, format_hours, format_interval, format_span, machine_hours, round_figures

if TYPE_CHECKING:
    from pemlo.core.trade.options import Numbers, Options
    from pemlo.core.trade.plan_comparison import PlanRow
    from pemlo.core.trade.planning import FilmPlan
    from pemlo.core.trade.prices import LeverStep
    from pemlo.core.trade.required_test import RequiredTest
    from pemlo.core.trade.savings import FilmSaving
    from pemlo.core.trade.waterfall import Waterfall
    from pemlo.words.plans import ChangesAlike
    from pemlo.words.ways_out import WaysOut

LEVER_TIPS: dict[LeverName, str] = {
    "samples": "Samples a pixel; with a threshold the most",
    "noise_threshold": "Noise at which a pixel takes no more samples; none for as many everywhere",
    "min_samples": "Samples that every pixel takes, whatever the threshold says",
    "most_seconds": "Tracing of a frame ends after so long on the reference machine: expensive frames stay noisier",
    "split": "Rays a sample to lights, off a gloss, through glass; those that were timed and seen",
    "switches": "Choices of yes or no, by your names; those of which one trial with and one without were seen",
    "saves": "How often an unfinished frame is written: each costs its writing, and a broken frame goes on from there",
    "denoise": "Those of which it is known what they leave",
    "resolution_percent": "Of each side; the picture is brought to the delivery's size",
    "frame_step": "Frames that are left out are held or mixed from their neighbours",
    "keep": "Stages that are worked out once and read back",
}
SAMPLING = "sampling"
MOST_MOVED = 4
NOT_MEASURED = "error not measured"
BY_EYE: dict[int | None, str] = {1: "passes by eye", 0: "look first", -1: "refused by eye"}
_DIGITS = 2
_SMALL_H, _LEAST_S = 0.1, 1.0  # less than these is written in minutes or seconds, or is nothing
FULL = 100.0


@dataclass(frozen=True)
class LeverRow:
    """One lever.

    Attributes
    ----------
    values, texts : tuple
        What it can be set to, and in words.
    at, asked : int
        Which of them it is, and was as asked.
    down, up : str
        What a step either way does.
    pinned : bool
        Whether a plan leaves it where it stands.
    allowed : bool, optional
        Whether a plan may move it, of a lever that changes what the picture is; None of the others.
    not_had : tuple of str
        What it cannot be set to, and why.
    """

    lever: LeverName
    name: str
    values: tuple[object, ...]
    texts: tuple[str, ...]
    at: int
    asked: int
    down: str
    up: str
    pinned: bool
    not_had: tuple[str, ...] = ()
    allowed: bool | None = None

    @property
    def asked_text(self) -> str:
        return self.texts[self.asked]


def lever_rows(
    shot: Shot, levers: Levers, steps: "Sequence[LeverStep]", film_hours: float = 0.0
) -> tuple[LeverRow, ...]:
    """Return the levers of a shot; those with a single value are left out.

    A step that changes less than the noise of the film's hours, and no error that shows, is about the same.
    """
    rows = []
    done = {(step.lever, step.way): step_text(step, LEAST_SHARE * film_hours) for step in steps}
    reasons = not_had(shot, levers)
    for lever, own in values_of(shot, levers).items():
        asked = value_of(shot.asked, lever)
        values = own if asked in own else (*own, asked)
        if len(values) == 1 or (lever == "min_samples" and not shot.settings.adaptive):
            continue
        texts = tuple(lever_text(_with(shot.asked, lever, value), lever) for value in values)
        at, before = values.index(value_of(shot.settings, lever)), values.index(asked)
        down, up = (done.get((lever, way), "") for way in ("down", "up"))
        pinned, why = lever in shot.pins, reasons.get(lever, ())
        allowed = lever in shot.allows if lever in CHARACTER else None
        rows.append(LeverRow(lever, lever_name(lever), values, texts, at, before, down, up, pinned, why, allowed))
    return tuple(rows)


def _with(settings: ShotSettings, lever: LeverName, value: object) -> ShotSettings:
    if lever == "frame_step":
        assert isinstance(value, tuple)
        return settings.model_copy(update={"frame_step": value[0], "between": value[1]})
    return settings.model_copy(update={lever: value})


def step_text(step: "LeverStep", least: float = 0.0) -> str:
    """Return what a step does: hours and codes; fewer hours than `least` are within the noise of the estimate.

    Examples
    --------
    ``−1.2 h, +0.1 codes; 12 h a code``
    """
    if abs(step.hours) < least and abs(step.error) < FREE:
        return "about the same"
    if np.isnan(step.error):
        return f"{signed_hours(step.hours)}, {BY_EYE.get(step.by_eye, NOT_MEASURED)}"
    error = f"{signed(step.error, 1)} levels"
    price = abs(step.hours / step.error) if abs(step.error) > FREE else np.nan
    more = "" if np.isnan(price) or step.hours * step.error > 0 else f"; {round_figures(price, _DIGITS)} h a level"
    return f"{signed_hours(step.hours)}, {error}{more}"


def signed(value: float, places: int) -> str:
    """Return a number with its sign; 0 has none.

    Examples
    --------
    >>> signed(-1.26, 1), signed(0.04, 1), signed(2, 1)
    ('−1.3', '0', '+2.0')
    """
    text = f"{abs(value):.{places}f}"
    if float(text) == 0:
        return "0"
    return ("−" if value < 0 else "+") + text


def signed_hours(value: float) -> str:
    """Return machine-hours with their sign and two figures; a few minutes as such.

    Examples
    --------
    >>> signed_hours(-12.34), signed_hours(0.004), signed_hours(0.26), signed_hours(0)
    ('−12 h', '+14 s', '+0.26 h', '0 h')
    """
    if abs(value) * HOUR_S < _LEAST_S:
        return "0 h"
    small = abs(value) < _SMALL_H
    amount = format_span(abs(value) * HOUR_S) if small else f"{round_figures(abs(value), _DIGITS)} h"
    return ("−" if value < 0 else "+") + amount


def picked_words(project: Project, names: Sequence[str]) -> str:
    """Return which shots the levers move."""
    if len(names) == 1:
        return f"shot {names[0]}"
    if len(names) == len(project.shots):
        return "all shots"
    return f"{len(names)} shots, as {names[0]} goes"


def saving_line(saving: "FilmSaving") -> str:
    """Return one of the best savings: what to do, what it saves, and what it costs to the eye."""
    return saving_words(saving, machine_hours(saving.hours, _DIGITS))


def no_bargain_words(film_hours: float) -> str:
    """Return that no step is worth naming."""
    least = machine_hours(LEAST_SHARE * film_hours, _DIGITS)
    return f"No step from here that passes, or that one look would decide, saves more than {least}."


def purchase_words(step: "LeverStep") -> str:
    """Return what some more hours would buy most, in a line."""
    hours = f"{signed_hours(step.hours).lstrip('+')} more" if step.hours > 0.005 else "about the same hours"
    error = f"{-step.error:.1f} levels less error for {hours}"
    action = action_words(step)
    return f"With the spare hours: {action} in {step.shot}. {error[0].upper()}{error[1:]}"


def action_words(step: "LeverStep") -> str:
    """Return what a step of a lever is to do.

    Examples
    --------
    ``turn motion blur off``, ``152 samples in place of 192``, ``no denoising``, ``95 % size in place of 100 %``
    """
    before, after = step.before, step.settings
    off = [f"turn {name} off" for name in before.switches if name not in after.switches]
    on = [f"turn {name} on" for name in after.switches if name not in before.switches]
    then, was = lever_text(after, step.lever), lever_text(before, step.lever)
    words: dict[LeverName, str] = {
        "samples": f"{then} samples in place of {was}",
        "noise_threshold": f"threshold {then} in place of {was}" if then != "none" else "no noise threshold",
        "min_samples": f"at least {then} samples in place of {was}",
        "most_seconds": f"at most {then} a frame" if then != "none" else "no cap on seconds",
        "split": f"split {then} in place of {was}",
        "denoise": f"denoise {then}" if after.denoise != NO_DENOISE else "no denoising",
        "resolution_percent": f"{then} size in place of {was}",
        "frame_step": f"render {then}",
        "keep": f"cache {stage_words(after.keep)}" if after.keep else "no cache",
        "switches": " and ".join((*off, *on)),
        "saves": f"save {then} while rendering",
    }
    return words[step.lever]


# The fall


@dataclass(frozen=True)
class Bar:
    """One bar of the fall: its name, from where to where, machine-hours, what it says on hovering, and beside it."""

    name: str
    start: float
    end: float
    tip: str
    low: float = np.nan
    high: float = np.nan
    said: str = ""

    @property
    def is_end(self) -> bool:
        """Whether it is one of the two ends, which have an interval."""
        return not np.isnan(self.low)


def waterfall_words(waterfall: "Waterfall", available_h: float) -> str:
    """Return what the fall comes to."""
    line = f"machine-hours; the line: {round_figures(available_h)} available"
    saved = waterfall.asked.middle - waterfall.plan.middle
    if abs(saved) < 0.005 * waterfall.asked.middle:
        return line
    return f"{line}; {'saves' if saved > 0 else 'costs'} {abs(saved) / waterfall.asked.middle:.0%}"


def bars(waterfall: "Waterfall") -> tuple[Bar, ...]:
    """Return the bars of a fall: as asked, the levers, the plan; what is written of them sums."""
    found = [_end("as asked", waterfall.asked, waterfall.unit)]
    for bar in waterfall.bars():
        names = [SAMPLING if step.lever == "samples" else lever_name(step.lever) for step in bar.steps]
        apart = said_in(abs(bar.end - bar.start), waterfall.unit)
        said = "about 0" if apart == "0" else f"{'−' if bar.end < bar.start else '+'}{apart}"
        if len(names) == 1:
            most = sorted(bar.steps[0].by_shot.items(), key=lambda pair: -abs(pair[1]))
            tip = ", ".join(f"{shot} {signed_hours(-saved)}" for shot, saved in most[:8])
            found.append(Bar(names[0], bar.start, bar.end, f"Machine-hours by shot: {tip}", said=said))
        else:
            tip = f"About the same hours: {', '.join(names)}"
            found.append(Bar(f"others ({len(names)})", bar.start, bar.end, tip, said=said))
    return (*found, _end("plan", waterfall.plan, waterfall.unit))


def _end(name: str, points: Interval, unit: float) -> Bar:
    low, middle, high = points
    tip = f"{said_in(middle, unit)} machine-hours, 9 in 10 between {said_in(low, unit)} and {said_in(high, unit)}"
    return Bar(name, 0.0, in_units(middle, unit), tip, low, high, said_in(middle, unit))


# The film


@dataclass(frozen=True)
class Share:
    """One shot in the film's strip: machine-hours as asked and planned, and error over ceiling (NaN: not known)."""

    shot: str
    asked_hours: float
    hours: float
    asked_ratio: float
    ratio: float


def share(options: "Options", now: "Numbers") -> Share:
    """Return a shot's part of the film's strip."""
    hours = float(options.middle_hours[0])
    known = not np.isnan(options.ceiling) and now.found is not None
    after = now.found.total.middle / options.ceiling if known and now.found is not None else np.nan
    return Share(options.shot, hours, now.middle_hours, float(options.error[0]) / options.ceiling, after)


@lru_cache(maxsize=64)
def option_words(options: "Options") -> Mapping[int, str]:
    """Return what each option is, by its place."""
    return {place: settings_words(settings) for place, settings in enumerate(options.settings)}


@dataclass(frozen=True)
class PlanChanges:
    """What a plan changes against as asked.

    Attributes
    ----------
    rows : tuple of ChangesAlike
        Of what pictures are first, then the largest savings.
    running : tuple of str
        What it changes of how frames are run.
    rest : tuple of str
        What stays and why, and what keeps the plan from being better.
    """

    rows: "tuple[ChangesAlike, ...]" = ()
    running: tuple[str, ...] = ()
    rest: tuple[str, ...] = ()


def plan_changes(plan: "FilmPlan", project: Project) -> PlanChanges:
    """Return what a plan changes, what stays as asked, and what binds."""
    from pemlo.words.plans import (  # noqa: PLC0415 - heavy to load
        by_weight,
        changes,
        changes_alike,
        groups_words,
        unchanged_words,
        what_binds,
    )

    every = changes(plan.options, plan.plan, [shot.asked for shot in project.shots])
    rest = list(unchanged_words(project, plan.options, every))
    if plan.groups is not None:
        rest.append(groups_words(plan.groups))
    rest.append(what_binds(plan.options, plan.plan, plan.available_h))
    return PlanChanges(
        changes_alike(by_weight(every), len(project.shots)), plan.running.words, tuple(filter(None, rest))
    )


def way_out(plan: "FilmPlan", project: Project) -> "WaysOut | None":
    """Return what would do where nothing passes and a plan is late."""
    from pemlo.words.ways_out import ways_out  # noqa: PLC0415 - heavy to load

    return ways_out(project, plan.options, plan.plan, plan.available_h)


def plan_words(found: "FilmPlan", project: Project) -> str:
    """Return what a plan that was found comes to."""
    from pemlo.words.plans import gap_words  # noqa: PLC0415 - heavy to load

    plan = found.plan
    ledger = found.ledger(project.delivery.confidence)
    worst = "" if np.isnan(plan.worst_ratio) else f" The worst shot is at {plan.worst_ratio:.2f} times its error limit."
    chance = chance_percent(plan.probability)
    in_time = f" {chance[:1].upper()}{chance[1:]} to make it."
    words = ledger.words if plan.missing_hours > 0 else f"{ledger.words}{in_time}"
    stretch = "" if np.isnan(plan.stretch) else f" Or raise every error limit to {plan.stretch:.2f} times itself."
    cost = cost_words(project, float(np.median(plan.hours)))
    pays = "" if found.budget_h is None else " The budget pays for no more."
    money = f" It costs about {cost}.{pays}" if cost else ""
    return words + worst + stretch + money + ("" if plan.proved else f" {gap_words(plan)}")


def error_words(numbers: "Numbers | None", options: "Options") -> str:
    """Return the error of a shot as planned, and its flicker where something moves, beside what passes."""
    if numbers is None or numbers.found is None:
        return "Error not measured: hours alone are known."
    prediction, total = numbers.found, numbers.found.total
    words = f"{total.middle:.1f} ({total.low:.1f}–{total.high:.1f}) levels"
    if not np.isnan(options.ceiling):
        words += f", error limit {options.ceiling:.1f} ({options.ceiling_from})"
    if prediction.flicker is None or np.isnan(options.flicker_limit):
        return words
    flicker = f"{prediction.flicker.middle:.2f} ({prediction.flicker.low:.2f}–{prediction.flicker.high:.2f})"
    over = ": too much" if prediction.flicker.middle > options.flicker_limit else ""
    return f"{words}. Flicker {flicker}, limit {options.flicker_limit:.2f} ({prediction.flicker_source}){over}"


def since_words(project: Project, adopted: Mapping[str, ShotSettings], before: Mapping[str, ShotSettings]) -> str:
    """Return what stands otherwise than the plan that was adopted; empty if nothing does, or it was taken back."""
    if all(before.get(shot.name) == shot.settings for shot in project.shots):
        return ""
    moved = []
    for shot in project.shots:
        planned = adopted.get(shot.name)
        if planned is not None and planned != shot.settings:
            names = ", ".join(lever_name(lever) for lever in changed_levers(planned, shot.settings))
            moved.append(f"{shot.name} ({names})")
    if not moved:
        return ""
    more = f" and {len(moved) - MOST_MOVED} more" if len(moved) > MOST_MOVED else ""
    return f"Changed since you adopted a plan: {', '.join(moved[:MOST_MOVED])}{more}."


def by_hours_words(shot: Shot, options: "Options", hours_of: Callable[[Shot], Floats | None]) -> str:
    """Return what a shot takes as planned, and with the cheapest settings that pass by eye; errors are not known."""
    takes = f"{shot.name} takes {_hours_of(hours_of(shot))} as planned; error not measured"
    passing = np.flatnonzero(options.plannable)
    if options.eye is None or not len(passing):
        return takes
    cheapest = int(passing[np.argmin(options.middle_hours[passing])])
    settings = options.settings[cheapest]
    hours = _hours_of(hours_of(shot.replace(plan=settings)))
    return f"{takes}. Cheapest that passes by eye: {settings_words(settings)}, {hours}."


def _hours_of(draws: Floats | None) -> str:
    if draws is None:
        return "unknown"
    hours = interval_of(draws)
    return f"{format_hours(hours)} {'of machine time' if hours.low > 0 and hours.high < 1 else 'machine-hours'}"


def first_words(first: "RequiredTest") -> str:
    """Return which trial the settings of the levers cannot be weighed without, and why."""
    return f"To weigh these settings: {first.why} Frame {first.frame}: {settings_words(first.settings)}."


def more_words(more: "RequiredTest") -> str:
    """Return which trial would let levers reach farther."""
    return f"{more.why} Frame {more.frame}, {settings_words(more.settings)} would tell."


def disk_memory_words(disk_memory: DiskMemory, small: Sequence[str], unsure: Sequence[str] = ()) -> str:
    """Return what a shot takes on disk and in memory, and which machines have too little of that, or may have."""
    disk = "disk not known" if disk_memory.disk_gib is None else f"{_gib(disk_memory.disk_gib)} GiB on disk"
    memory = (
        "memory not known"
        if disk_memory.memory_gib is None
        else f"{_gib(disk_memory.memory_gib)} GiB of memory a frame"
    )
    short = f". Too much for {', '.join(small)}" if small else ""
    open_ = f". May not fit on {', '.join(unsure)}" if unsure else ""
    return f"{disk}, {memory}{short}{open_}."


def _gib(interval: Interval) -> str:
    return format_interval(interval)


def plan_cells(row: "PlanRow") -> tuple[str, ...]:
    """Return what a plan comes to, cell by cell; what is not known says so."""
    hours = "not known" if row.hours is None else format_interval(row.hours)
    probability = "not known" if row.probability is None else chance_percent(row.probability)
    worst = f"{row.worst_shot}: {row.worst_ratio:.2f}" if row.worst_shot else "not known"
    money = "no price" if row.money is None else round_figures(row.money)
    disk = "not known" if row.disk_gib is None else f"{_gib(row.disk_gib)} GiB"
    return row.name, hours, probability, worst, money, disk
