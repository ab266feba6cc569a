"""What the run sheet shows: rows of machines, words for what is under the mouse, sentences. Qt-free."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING

import numpy as np

from pemlo.core.chances import chance_words
from pemlo.core.farm.calendar import Span, spans_of
from pemlo.core.farm.money import amount_words
from pemlo.core.forecast.jobs import EARLY
from pemlo.core.project.keeping import stage_words
from pemlo.core.project.project import Project
from pemlo.core.project.sequences import in_sequences, sequence_of
from pemlo.core.units import HOUR_S, counted, format_interval, format_span, round_figures
from pemlo.gui.common.columns import Column, Role
from pemlo.words.verdicts import say_moment

if TYPE_CHECKING:
    from pemlo.core.forecast.best_order import TriedOrder
    from pemlo.core.forecast.finish import Finish
    from pemlo.core.forecast.kept_data import ShotKeeping
    from pemlo.core.forecast.verdict import Forecast
    from pemlo.core.forecast.what_it_takes import Kind
    from pemlo.core.forecast.who_when import SlotRuns
    from pemlo.core.project.machines import Machine

MOST_LANES = 24  # in a row of a folded group; of more slots some stand for all
KINDS = 20  # looks of shots that can be told apart: four tints, five hatchings
NOTHING = "–"
LATER = "later than can be said"


@dataclass(frozen=True)
class MachineLine:
    """A machine, or a folded group of equal ones.

    Attributes
    ----------
    machine : str
        Name of the group.
    label, detail : str
    slots : tuple of int
        Slots of the run that are drawn in it, each in a lane of its own.
    can_fold : bool
        Whether it is of a group of several.
    folded : bool
    heads : bool
        Whether it is the first of its group.
    spans : tuple of (begin, end)
        When it is free, hours since the start.
    """

    machine: str
    label: str
    detail: str
    slots: tuple[int, ...]
    can_fold: bool
    folded: bool
    heads: bool
    spans: tuple[Span, ...]


def rows_of(
    project: Project, finish: "Finish | None", unfolded: frozenset[str], last_h: float
) -> tuple[MachineLine, ...]:
    """Return the rows: groups of several machines as one, unless they are unfolded."""
    ran = {} if finish is None else _slots(finish)
    days = math.ceil(last_h / 24) + 1
    rows: list[MachineLine] = []
    for machine in project.machines:
        spans = spans_of(machine, project.delivery.timezone, project.start, days)
        slots, each = ran.get(machine.name, (range(0), 1))
        detail = _detail(machine)
        if machine.count <= 1 or machine.name not in unfolded:
            name = machine.name if machine.count == 1 else f"{machine.name} × {machine.count}"
            drawn = tuple(slots) if machine.count else ()
            several = machine.count > 1
            rows.append(MachineLine(machine.name, name, detail, _thinned(drawn), several, several, heads=True,
                            spans=spans if machine.count else ()))  # fmt: skip
            continue
        for number in range(machine.count):
            mine = tuple(slots[number * each : (number + 1) * each])
            label = f"{machine.name} {number + 1}"
            rows.append(MachineLine(machine.name, label, detail, mine, True, False, heads=number == 0, spans=spans))
    return tuple(rows)


def _detail(machine: "Machine") -> str:
    if not machine.count:
        return "switched off"
    words = [] if machine.speed == 1 else [f"{machine.speed:g} × as fast"]
    words += [] if machine.frames_at_once == 1 else [f"{machine.frames_at_once} in parallel"]
    words += [] if machine.most_hours is None else [f"{machine.most_hours:g} h in all"]
    return ", ".join(words)


def _slots(finish: "Finish") -> dict[str, tuple[range, int]]:
    """Return the slots of each group in the run, and how many each machine has."""
    counts = np.bincount(finish.farm.slot_group, minlength=len(finish.farm.names))
    begins = np.cumsum([0, *counts])
    return {
        name: (range(int(begins[k]), int(begins[k + 1])), max(1, int(counts[k] // max(finish.farm.machines[k], 1))))
        for k, name in enumerate(finish.farm.names)
    }


def _thinned(slots: tuple[int, ...]) -> tuple[int, ...]:
    if len(slots) <= MOST_LANES:
        return slots
    return tuple(slots[k * len(slots) // MOST_LANES] for k in range(MOST_LANES))


def looks_of(film: Sequence[str]) -> dict[str, int]:
    """Return which look each shot has: of its own, or where there are too many to be told apart, of its sequence."""
    if len(film) <= KINDS or not in_sequences(film):
        return {name: number for number, name in enumerate(film)}
    sequences = {name: number for number, name in enumerate(dict.fromkeys(map(sequence_of, film)))}
    return {name: sequences[sequence_of(name)] for name in film}


def order_of_shots(project: Project, forecast: "Forecast | None") -> tuple[str, ...]:
    """Return the shots in the order in which they are handed out."""
    from pemlo.core.forecast.jobs import shots_in_order  # noqa: PLC0415 - heavy to load

    hours = {shot.shot: shot.hours.middle for shot in forecast.shots if shot.hours is not None} if forecast else {}
    return shots_in_order(project, {shot.name: hours.get(shot.name, 0.0) for shot in project.shots})


def ways(project: Project) -> "tuple[tuple[Kind, str], ...]":
    """Return what there could be more of."""
    from pemlo.core.forecast.what_it_takes import ways_to_add  # noqa: PLC0415 - heavy to load

    return ways_to_add(project)


def run_words(finish: "Finish") -> str:
    """Return which run is shown."""
    many = f"{len(finish.hours):,}".replace(",", " ")
    return f"run {finish.typical + 1} of {many}, the middle end. Dots: filling caches; ×: failed frame"


def reading(project: Project, finish: "Finish", runs: "SlotRuns", run: int, at_h: float) -> str:
    """Return what is under the mouse: the frame that is rendered there in a run of frames, and its cost."""
    trace = finish.run.trace
    frames = runs.frames[int(runs.first[run]) : int(runs.last[run]) + 1]
    number = int(np.searchsorted(trace[frames, 1], at_h * HOUR_S, side="right")) - 1
    frame = int(frames[max(number, 0)])
    slot, begin, end, tries = trace[frame]
    job = finish.jobs[int(runs.job[run])]
    machine = finish.farm.names[finish.farm.slot_group[int(slot)]]
    begins, ends = (moment_of(project, float(one) / HOUR_S) for one in (begin, end))
    part = "" if job.part == "final" else f", {job.part}"
    lost = f"\nbroke {counted(int(tries) - 1, 'time')} before it was done" if tries > 1 else ""
    of = counted(len(frames), "frame")
    return (
        f"Shot {job.shot.name}, frame {finish.work.frame[frame]}{part}: "
        f"{format_span(float(end - begin))} on {machine}\n"
        f"{say_moment(begins, project)} to {say_moment(ends, project)}{lost}\n"
        f"in a row: {of}, {say_moment(moment_of(project, float(runs.begin[run])), project)} to "
        f"{say_moment(moment_of(project, float(runs.end[run])), project)}"
    )


def moment_of(project: Project, hours: float) -> datetime | None:
    """Return a moment, hours since the start, in the film's zone; None for never."""
    if not math.isfinite(hours):
        return None
    return project.moment(hours)


def moment_words(project: Project, hours: float) -> str:
    """Return a moment, hours since the start, as people say it."""
    return say_moment(moment_of(project, hours), project)


def date_lines(project: Project, finish: "Finish") -> list[tuple[str, Role]]:
    """Return the chance of each date that a shot or the first pass has of its own, those in doubt in brick."""
    lines: list[tuple[str, Role]] = []
    for date in finish.dates:
        what = date.what.capitalize() if date.what == EARLY else f"Shot {date.what}"
        words = f"{what}, due {moment_words(project, date.due_h)}: {chance_words(date.probability)} to make it"
        lines.append((words, "ink" if date.probability >= project.delivery.confidence else "limit"))
    return lines


def idle_words(finish: "Finish") -> str:
    """Return which group stands idle most while the film is rendered; empty if none does for long."""
    machine_use = max(finish.machines, key=lambda use: use.idle_hours)
    whole = sum(use.idle_hours + use.busy_hours for use in finish.machines)
    if machine_use.idle_hours < 0.02 * whole:
        return ""
    return (
        f"{machine_use.machine} stands idle for {round_figures(machine_use.idle_hours, 2)} h of its hours until then."
    )


def order_words(orders: "Sequence[TriedOrder]") -> tuple[str, "TriedOrder | None"]:
    """Return what another order of the shots would give, and that order; None if none is better."""
    now, *others = orders
    best = others[0] if others else None
    if best is None or best.worth <= now.worth:
        return "No other order that was tried ends sooner or keeps more dates.", None
    name = {"film": "In the order of the film", "due": "The earliest due first", "longest": "The longest first",
            "shortest": "The shortest first", "by hand": "In another order"}[best.order]  # fmt: skip
    sooner = now.end_h - best.end_h
    gains = []
    if best.dates - now.dates > 0.005:
        gains.append(f"keeps {chance_words(best.dates)} of the dates instead of {chance_words(now.dates)}")
    if best.probability - now.probability > 0.005:
        gains.append(f"has {chance_words(best.probability)} chances instead of {chance_words(now.probability)}")
    if not math.isfinite(sooner):
        gains.append("ends, which it does not now")
    elif sooner >= 0.02 * now.end_h:
        gains.append(f"ends {format_span(sooner * HOUR_S)} sooner")
    if not gains:
        return "No other order that was tried does better.", None
    return f"{name} it {' and '.join(gains)}.", best


@dataclass(frozen=True)
class TimeShare:
    """A part of what machines do until the film is done, machine time in hours."""

    name: str
    hours: float


def own_dates(project: Project) -> tuple[tuple[float, str], ...]:
    """Return the dates that shots and the first pass have of their own: hours since the start, and whose."""
    found = [(shot.due, shot.name) for shot in project.shots if shot.due is not None]
    first = project.running.first_pass
    found += [(first.due, EARLY)] if first is not None and first.due is not None else []
    return tuple(sorted((project.hours_of(moment), name) for moment, name in found))


def time_shares(finish: "Finish") -> tuple[TimeShare, ...]:
    """Return where the hours of the machines go: frames, filling what is kept, what is lost, and nothing."""
    warming, lost = (sum(getattr(use, name) for use in finish.machines) for name in ("warming_hours", "lost_hours"))
    busy = sum(use.busy_hours for use in finish.machines)
    idle = sum(use.idle_hours for use in finish.machines)
    return (
        TimeShare("frames", busy - warming - lost),
        TimeShare("filling caches", warming),
        TimeShare("lost", lost),
        TimeShare("idle", idle),
    )


def money_words(finish: "Finish", currency: str) -> str:
    """Return what the priced machines cost until then, and which have no price; empty if none has one."""
    costs = [use.cost for use in finish.machines if use.cost is not None]
    if not costs:
        return ""
    free = [use.machine for use in finish.machines if use.cost is None]
    without = f" {', '.join(free)}: no price, not counted." if free else ""
    return f"The machines that have a price cost {amount_words(sum(costs), currency)}.{without}"


def keeping_words(keeping: "ShotKeeping") -> str:
    """Return what of a shot is kept, or could be."""
    stages = stage_words(keeping.keep)
    return {
        "kept": stages,
        "could be kept": f"Nothing cached. {stages[:1].upper()}{stages[1:]} could be",
        "nothing can be kept": "nothing can be cached",
        "wrong": f"{stages}: the pictures would be wrong",
    }[keeping.state]


def _saves(keeping: "ShotKeeping") -> str:
    if keeping.saves_h is None:
        return NOTHING
    if abs(keeping.saves_h.middle) < 0.005:
        return "about the same"
    return f"{format_interval(keeping.saves_h)} h"


def _filling(keeping: "ShotKeeping") -> str:
    if keeping.filling_h is None:
        return NOTHING
    each = keeping.filling_h * HOUR_S / max(keeping.fillings, 1)
    return f"{keeping.fillings} × {format_span(each) if each >= 1 else 'under 1 s'}"


def _memory(keeping: "ShotKeeping") -> str:
    if keeping.memory_gib is None:
        return "not known"
    words = f"{format_interval(keeping.memory_gib)} GiB"
    return f"{words}: too much for {', '.join(keeping.too_small)}" if keeping.too_small else words


def _role(keeping: "ShotKeeping") -> Role:
    return "limit" if keeping.state == "wrong" else "faint" if keeping.state == "nothing can be kept" else "ink"


KEPT_COLUMNS: "tuple[Column[ShotKeeping], ...]" = (
    Column("shot", "Name of the shot", lambda r: r.shot, figures=False, width=50),
    Column("cached between frames", "What each machine keeps from frame to frame, or could", keeping_words,
           figures=False, role=_role, width=210),
    Column("saves", "Machine-hours that it saves on these machines, filling counted", _saves, role=lambda _: "time",
           width=110),
    Column("filling", "How many frames at once fill it, and what that takes each of them", _filling, width=88),
    Column("memory", "Of one frame while it renders", _memory, figures=False,
           role=lambda r: "limit" if r.too_small else "ink", width=120),
    Column("why no more", "What stands in the way of keeping other stages", lambda r: " ".join(r.why_not) or NOTHING,
           figures=False, role=_role, width=200),
)  # fmt: skip
