"""What the brief shows: rows, fields and sentences from a project and its forecast. Qt-free."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING, Any

from pemlo.core.errors import InputError, Problem
from pemlo.core.farm.calendar import spans_of
from pemlo.core.frames import format_ranges, parse_frames, ranges_of
from pemlo.core.persistence.csv_machines import speed, week
from pemlo.core.persistence.csv_shots import movements, names
from pemlo.core.persistence.table import gibibytes, number, whole_number, yes_or_no
from pemlo.core.project.currencies import currency
from pemlo.core.project.delivery import FRAME_RATES, FRAME_SIZES, rate_name
from pemlo.core.project.edits import set_delivery, set_machine, set_project, set_shot, set_shots
from pemlo.core.project.machines import Machine, OtherHours
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.scenes import scene_of, with_scene
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import denoiser, read_way, switch_names, way_words
from pemlo.core.project.start import NOW, is_watched
from pemlo.core.units import HOUR_S, counted, format_duration, format_hours, format_seconds, round_figures
from pemlo.gui.common.cells import NOTHING, optional, read
from pemlo.gui.common.columns import Column, Field, Role
from pemlo.gui.common.moments import date_text, read_date
from pemlo.words.unknowns import unknowns

if TYPE_CHECKING:
    from pemlo.core.forecast.verdict import Forecast, ShotForecast
    from pemlo.core.interval import Interval

MOST_NAMES = 6


@dataclass(frozen=True)
class ShotRow:
    """A shot, how long it is on screen, its forecast if there is one, and its date."""

    shot: Shot
    screen_seconds: float
    found: "ShotForecast | None"
    due: str = ""


@dataclass(frozen=True)
class MachineRow:
    """A machine and the machine-hours that it gives before the last frame is due."""

    machine: Machine
    hours: float


def shot_rows(project: Project, forecast: "Forecast | None") -> tuple[ShotRow, ...]:
    """Return the shots in order of the film."""
    forecasts = {shot.shot: shot for shot in forecast.shots} if forecast is not None else {}

    def row(shot: Shot) -> ShotRow:
        due = "" if shot.due is None else date_text(project, shot.due)
        return ShotRow(shot, project.screen_seconds(shot), forecasts.get(shot.name), due)

    return tuple(row(shot) for shot in project.shots)


def shots_counted(rows: Sequence[ShotRow]) -> str:
    """Say how many shots of the film rows are, and how many layers are among them."""
    shots = len({row.shot.film_name for row in rows})
    layers = sum(bool(row.shot.part_of) for row in rows)
    return counted(shots, "shot") + (f" ({counted(layers, 'layer')})" if layers else "")


def frames_together(rows: Sequence[ShotRow]) -> str:
    """Say how many frames of the film shots have; layers of one shot have the same ones."""
    return round_figures(sum({row.shot.film_name: row.shot.frame_count for row in reversed(rows)}.values()), 9)


def screen_together(rows: Sequence[ShotRow]) -> str:
    """Say how long shots are in the film; layers of one shot are in it once."""
    return format_duration(sum({row.shot.film_name: row.screen_seconds for row in reversed(rows)}.values()))


def hours_together(rows: Sequence[ShotRow]) -> str:
    """Say what shots need together, with the interval of the sum, which is narrower than the sum of intervals."""
    drawn = [row.found.drawn_hours for row in rows if row.found is not None and row.found.drawn_hours is not None]
    if not drawn:
        return NOTHING
    import numpy as np  # noqa: PLC0415 - which no window needs before it is painted

    from pemlo.core.interval import interval_of  # noqa: PLC0415 - as above

    left = len(rows) - len(drawn)
    return hours_text(interval_of(np.sum(drawn, axis=0, dtype=float))) + (f" and {left} not known" if left else "")


def machine_rows(project: Project) -> tuple[MachineRow, ...]:
    """Return the machines with the clock hours that each is free."""
    due_h = project.render_by_h
    days = int(max(due_h, 0) / 24) + 1
    rows = []
    for machine in project.machines:
        spans = spans_of(machine, project.delivery.timezone, project.start, days)
        free = sum(max(0.0, min(end, due_h) - begin) for begin, end in spans)
        rows.append(MachineRow(machine, free * machine.count))
    return tuple(rows)


def machines_line(project: Project) -> str:
    """Say how long the machines are free."""
    if not project.machines:
        return "Add one: without machines there are no hours."
    total = sum(row.hours for row in machine_rows(project))
    count = sum(machine.count for machine in project.machines)
    return f"{counted(count, 'machine')}, {round_figures(total)} clock hours before the deadline"


def assumption_lines(project: Project) -> tuple[str, ...]:
    """Say what no trial shows, each thing once with the shots that it is true of, weightiest first."""
    shots: dict[str, list[str]] = {}
    for shot in project.shots:
        for words in unknowns(project, shot):
            shots.setdefault(words, []).append(shot.name)
    order = sorted(shots, key=lambda words: -len(shots[words]))
    of_shots = tuple(f"{_names(shots[words])}: {words[:1].lower()}{words[1:]}" for words in order)
    return (*of_shots, *_assumed_of_film(project))


def _assumed_of_film(project: Project) -> tuple[str, ...]:
    """Say what of the brief is as it stands in an empty film, and what replaces that."""
    found = []
    if project.machines == (Machine(name="reference"),):
        found.append("One machine, always free, is assumed: the rows under Machines replace it.")
    if not project.delivery.assembly_minutes and not project.delivery.retake_share:
        found.append("No minutes are kept for assembly, and no frame is rendered again: type them under What is due.")
    return tuple(found)


def _names(names: list[str]) -> str:
    listed = ", ".join(names[:MOST_NAMES])
    return listed if len(names) <= MOST_NAMES else f"{listed} and {len(names) - MOST_NAMES} more"


def seconds_text(interval: "Interval | None") -> str:
    """Write seconds a frame with their interval: short ones in seconds, longer ones in minutes or hours."""
    if interval is None:
        return NOTHING
    return format_seconds(interval)


def hours_text(interval: "Interval | None") -> str:
    """Write machine-hours with their interval."""
    return NOTHING if interval is None else format_hours(interval)


@dataclass(frozen=True)
class ShotEdit:
    """Edits shots from a cell: one with all that follows from it, or many of which the film is checked once.

    `fields` says which fields of a shot a text gives which values.
    """

    fields: Callable[[Project, Shot, str], Mapping[str, object]]

    def __call__(self, project: Project, row: ShotRow, text: str) -> Project:
        return set_shot(project, row.shot.name, **self.fields(project, project.shot(row.shot.name), text))

    def many(self, project: Project, rows: Sequence[ShotRow], texts: Sequence[str]) -> Project:
        """Return a film with the text of each row taken."""
        shots = {shot.name: shot for shot in project.shots}
        pairs = [(shots[row.shot.name], text) for row, text in zip(rows, texts, strict=True)]
        return set_shots(project, {shot.name: self.fields(project, shot, text) for shot, text in pairs})


def _shot_cell(field: str, parse: Callable[[str], Any]) -> ShotEdit:
    def fields(_project: Project, shot: Shot, text: str) -> dict[str, object]:
        return {field: read(parse, text, f"Shot {shot.name}, {field.replace('_', ' ')}")}

    return ShotEdit(fields)


def _asked_cell(field: str, parse: Callable[[str], Any]) -> ShotEdit:
    def fields(_project: Project, shot: Shot, text: str) -> dict[str, object]:
        return _asked(shot, **{field: read(parse, text, f"Shot {shot.name}, {field.replace('_', ' ')}")})

    return ShotEdit(fields)


def _asked(shot: Shot, **fields: object) -> dict[str, object]:
    """Return what was asked of a shot with other values."""
    return {"asked": build(ShotSettings, {**dict(shot.asked), **fields}, f"Shot {shot.name}")}


def _way_fields(_project: Project, shot: Shot, text: str) -> dict[str, object]:
    way, value = read_way("" if text == NOTHING else text)
    return _asked(shot, way=way, way_value=value)


def _frame_fields(_project: Project, _shot: Shot, text: str) -> dict[str, object]:
    """Take ranges of frames: ``1-120``, ``1-120x2`` for every second one, ``1-10, 25-30``."""
    step, ranges = ranges_of(parse_frames(text))
    return {"first": ranges[0][0], "last": ranges[-1][1], "step": step, "ranges": ranges if len(ranges) > 1 else ()}


def _due_fields(project: Project, shot: Shot, text: str) -> dict[str, object]:
    empty = text in ("", NOTHING)
    return {"due": None if empty else read_date(project, text, f"Shot {shot.name}, due")}


def _scene_fields(_project: Project, shot: Shot, text: str) -> dict[str, object]:
    return {"extra_columns": with_scene(shot, "" if text == NOTHING else text)}


def _frames_text(row: ShotRow) -> str:
    return format_ranges(row.shot.parts, row.shot.step)


def _not_asked(row: ShotRow) -> Role:
    return "ink" if row.shot.asked.adaptive else "faint"


SHOT_COLUMNS: tuple[Column[ShotRow], ...] = (
    Column("shot", "Name of the shot", lambda r: r.shot.name, _shot_cell("name", str), figures=False, width=50,
           single=True),
    Column("frames", "First and last frame, such as 1-120", _frames_text, ShotEdit(_frame_fields), width=62,
           order=lambda r: r.shot.frame_count, total=frames_together),
    Column("on screen", "How long the shot is in the film", lambda r: f"{r.screen_seconds:.1f} s", width=62,
           order=lambda r: r.screen_seconds, total=screen_together),
    Column(
        "a frame", "What a frame takes on the reference machine, with its 90 % interval",
        lambda r: seconds_text(r.found.seconds if r.found else None), role=lambda _: "time", width=134,
        order=lambda r: r.found.seconds.middle if r.found and r.found.seconds else None,
    ),
    Column(
        "machine-hours", "What the shot needs before retakes, with its 90 % interval",
        lambda r: hours_text(r.found.hours if r.found else None), role=lambda _: "time", width=120, unit_s=HOUR_S,
        order=lambda r: r.found.hours.middle if r.found and r.found.hours else None, total=hours_together,
        left_out="before retakes",
    ),
    Column(
        "samples", "Samples a pixel as asked; the most of them with a noise threshold",
        lambda r: str(r.shot.asked.samples), _asked_cell("samples", whole_number), width=56,
    ),
    Column(
        "min", "Min samples a pixel, with a noise threshold",
        lambda r: NOTHING if r.shot.asked.min_samples is None else str(r.shot.asked.min_samples),
        _asked_cell("min_samples", optional(whole_number)), role=_not_asked, width=40,
    ),
    Column(
        "threshold", "Noise threshold at which a pixel is clean enough; empty for fixed sampling",
        lambda r: NOTHING if r.shot.asked.noise_threshold is None else f"{r.shot.asked.noise_threshold:g}",
        _asked_cell("noise_threshold", optional(number)), role=_not_asked, width=60,
    ),
    Column(
        "denoise", "Way of denoising by the name that your trials use, or none",
        lambda r: r.shot.asked.denoise, _asked_cell("denoise", denoiser), figures=False, width=54,
    ),
    Column(
        "size", "Resolution percentage of each side",
        lambda r: f"{r.shot.asked.resolution_percent:g} %", _asked_cell("resolution_percent", number),
        typed=lambda r: f"{r.shot.asked.resolution_percent:g}", width=52,
    ),
    Column(
        "way", "Another engine, method or quality than the usual one, by a name of your own: depth 20",
        lambda r: way_words(r.shot.asked.way, r.shot.asked.way_value) or NOTHING,
        ShotEdit(_way_fields),
        role=lambda r: "ink" if r.shot.asked.way else "faint",
        typed=lambda r: way_words(r.shot.asked.way, r.shot.asked.way_value), figures=False, width=52,
    ),
    Column(
        "frame step", "2 renders every second frame only",
        lambda r: str(r.shot.asked.frame_step), _asked_cell("frame_step", whole_number), width=36,
    ),
    Column(
        "handles", "Frames more at either end, rendered and not in the film; the hours count them",
        lambda r: str(r.shot.handles) if r.shot.handles else NOTHING,
        _shot_cell("handles", lambda text: 0 if text in ("", NOTHING) else whole_number(text)),
        role=lambda r: "ink" if r.shot.handles else "faint", typed=lambda r: str(r.shot.handles), width=52,
    ),
    Column(
        "moves", "What moves in the shot: camera, lights, objects, materials, simulation",
        lambda r: " ".join(r.shot.moves) or "nothing", _shot_cell("moves", movements), figures=False, width=102,
    ),
    Column(
        "part of", "The shot that this layer is combined into; empty for a shot of its own",
        lambda r: r.shot.part_of or NOTHING, _shot_cell("part_of", lambda text: "" if text == NOTHING else text),
        role=lambda r: "ink" if r.shot.part_of else "faint", typed=lambda r: r.shot.part_of, figures=False, width=60,
    ),
    Column(
        "still", "yes where nothing moves and the camera stands: one frame serves for all",
        lambda r: "yes" if r.shot.still else NOTHING,
        _shot_cell("still", lambda text: text not in ("", NOTHING) and yes_or_no(text)), figures=False,
        role=lambda r: "ink" if r.shot.still else "faint", typed=lambda r: "yes" if r.shot.still else "no", width=40,
        choices=("yes", "no"),
    ),
    Column(
        "scene", "What the renderer that ships with Pemlo shows for the shot; empty for none",
        lambda r: scene_of(r.shot) or NOTHING,
        ShotEdit(_scene_fields), role=lambda r: "ink" if scene_of(r.shot) else "faint",
        typed=lambda r: scene_of(r.shot), figures=False, width=90,
    ),
    Column(
        "look", "Shots of one look, by any name, can share what passes in Judge",
        lambda r: r.shot.look or NOTHING, _shot_cell("look", lambda text: "" if text == NOTHING else text),
        role=lambda r: "ink" if r.shot.look else "faint", typed=lambda r: r.shot.look, figures=False, width=60,
    ),
    Column(
        "cameras", "Where the scene has several, with commas between; a launch must name one of them",
        lambda r: ", ".join(r.shot.cameras) or NOTHING,
        _shot_cell("cameras", lambda text: () if text == NOTHING else names(text)), figures=False,
        role=lambda r: "ink" if r.shot.cameras else "faint", typed=lambda r: ", ".join(r.shot.cameras), width=70,
    ),
    Column(
        "only on", "Machines that alone render the shot, with commas between; empty for all",
        lambda r: ", ".join(r.shot.only_on) or NOTHING,
        _shot_cell("only_on", lambda text: () if text == NOTHING else names(text)), figures=False,
        role=lambda r: "ink" if r.shot.only_on else "faint", typed=lambda r: ", ".join(r.shot.only_on), width=70,
    ),
    Column(
        "switches", "What is switched on, by your names, with commas between, such as motion blur",
        lambda r: ", ".join(r.shot.asked.switches) or NOTHING,
        _asked_cell("switches", lambda text: () if text == NOTHING else switch_names(text)), figures=False,
        role=lambda r: "ink" if r.shot.asked.switches else "faint", width=86,
    ),
    Column(
        "due", "A date of its own: Wed 12:00; empty if it is due with the film", lambda r: r.due or NOTHING,
        ShotEdit(_due_fields),
        role=lambda r: "ink" if r.due else "faint", typed=lambda r: r.due, figures=False, width=130,
        order=lambda r: r.shot.due,
    ),
    Column(
        "note", "What people should know of the shot", lambda r: r.shot.note, _shot_cell("note", str), figures=False,
        width=120,
    ),
)  # fmt: skip


def _machine_cell(field: str, parse: Callable[[str], Any]) -> Callable[[Project, MachineRow, str], Project]:
    def edit(project: Project, row: MachineRow, text: str) -> Project:
        what = f"Machine {row.machine.name}, {field.replace('_', ' ')}"
        return set_machine(project, row.machine.name, **{field: read(parse, text, what)})

    return edit


def other_days(text: str) -> tuple[OtherHours, ...]:
    """Read other hours on single dates: ``2031-04-23 off; 2031-04-24 09:00-12:00``."""
    found = []
    for part in filter(None, (piece.strip() for piece in re.split(r"[;\n]", text))):
        day, _, hours = part.partition(" ")
        try:
            found.append(build(OtherHours, {"day": date.fromisoformat(day), "hours": hours.strip()}, part))
        except (ValueError, InputError) as error:
            raise ValueError(f"“{part}” is not a date and its hours; write 2031-04-23 off") from error
    return tuple(found)


MACHINE_COLUMNS: tuple[Column[MachineRow], ...] = (
    Column("machine", "Name of the machine or group", lambda r: r.machine.name, _machine_cell("name", str),
           figures=False, width=92, single=True),
    Column("count", "How many equal ones", lambda r: str(r.machine.count), _machine_cell("count", whole_number),
           width=44, total=lambda rows: str(sum(row.machine.count for row in rows))),
    Column("speed", "Against the reference machine: 2 is twice as fast; or what one frame takes there and here, "
           "4:02 / 2:31, or score 1850 / 1200", lambda r: f"{r.machine.speed:g}",
           _machine_cell("speed", speed), width=44),
    Column("in parallel", "Frames rendered in parallel on one machine", lambda r: str(r.machine.frames_at_once),
           _machine_cell("frames_at_once", whole_number), width=50),
    Column("contention", "Part of the work that frames in parallel cannot do side by side, 0 to 1",
           lambda r: f"{r.machine.contention:g}", _machine_cell("contention", number),
           role=lambda r: "ink" if r.machine.frames_at_once > 1 else "faint", width=66),
    Column("memory", "GiB of memory: a frame that needs more never goes there",
           lambda r: NOTHING if r.machine.memory_gib is None else f"{r.machine.memory_gib:g} GiB",
           _machine_cell("memory_gib", optional(gibibytes)), width=66),
    Column("hours", "When it is free, such as Mon-Fri 19:00-08:00, Sat-Sun all day", lambda r: r.machine.hours,
           _machine_cell("hours", week), figures=False, width=206,
           choices=("always", "Mon-Fri 19:00-08:00, Sat-Sun all day", "Mon-Fri 20:00-07:00", "never")),
    Column("free", "Clock hours that it is free before the last frame is due, of all of its kind together",
           lambda r: f"{round_figures(r.hours)} h", role=lambda _: "time", width=70, order=lambda r: r.hours,
           unit_s=HOUR_S, total=lambda rows: f"{round_figures(sum(row.hours for row in rows))} h"),
    Column("other days", "Other hours on single dates: 2031-04-23 off; 2031-04-24 09:00-12:00",
           lambda r: "; ".join(f"{o.day.isoformat()} {o.hours}" for o in r.machine.exceptions) or NOTHING,
           _machine_cell("exceptions", lambda text: other_days("" if text == NOTHING else text)),
           figures=False, width=72),
    Column("price", "For an hour of one machine, in your money",
           lambda r: NOTHING if r.machine.price_per_hour is None else f"{r.machine.price_per_hour:g}",
           _machine_cell("price_per_hour", optional(number)), width=42),
    Column("failed", "Share of frames that fail and are rendered again", lambda r: f"{r.machine.loss_percent:g} %",
           _machine_cell("loss_percent", number), typed=lambda r: f"{r.machine.loss_percent:g}", width=42),
    Column("at most", "How many can be had at most, of machines that are rented",
           lambda r: NOTHING if r.machine.most is None else str(r.machine.most),
           _machine_cell("most", optional(whole_number)), role=lambda r: "faint" if r.machine.most is None else "ink",
           width=42),
    Column("most hours", "Machine time that can be had in all, of machines that are rented",
           lambda r: NOTHING if r.machine.most_hours is None else f"{r.machine.most_hours:g} h",
           _machine_cell("most_hours", optional(number)), width=68,
           typed=lambda r: "" if r.machine.most_hours is None else f"{r.machine.most_hours:g}",
           role=lambda r: "faint" if r.machine.most_hours is None else "ink"),
    Column("note", "What people should know of the machine", lambda r: r.machine.note, _machine_cell("note", str),
           figures=False, width=120),
)  # fmt: skip


def size_name(width: int, height: int) -> str:
    """Return a frame size under its standard's name, where it has one."""
    for size in FRAME_SIZES:
        if (size.width, size.height) == (width, height):
            return f"{size.name} {width}×{height}"
    return f"{width}×{height}"


def read_size(text: str) -> tuple[int, int]:
    """Read a frame size: a standard's name, or two numbers."""
    match = re.search(r"(\d{1,6})\s*[x×*]\s*(\d{1,6})", text)
    if match:
        return int(match[1]), int(match[2])
    for size in FRAME_SIZES:
        if size.name.lower() == text.strip().lower():
            return size.width, size.height
    raise ValueError(f"“{text.strip()}” is not a frame size; write it like 1920×1080")


def _edit_size(project: Project, text: str) -> Project:
    width, height = read(read_size, text, "Size")
    return set_delivery(project, width=width, height=height)


def _edit_rate(project: Project, text: str) -> Project:
    return set_delivery(project, fps=read(number, text.removesuffix("fps").strip(), "Rate"))


def _start(project: Project) -> str:
    return NOW if project.starts_now and not is_watched(project) else date_text(project, project.start)


def _edit_moment(name: str) -> Callable[[Project, str], Project]:
    def edit(project: Project, text: str) -> Project:
        if name == "start" and text.strip().lower() == NOW:
            return set_project(project, starts_now=True)
        moment = read_date(project, text, name.capitalize())
        if name == "start":
            return set_project(project, start=moment, starts_now=False)
        return set_delivery(project, deadline=moment)

    return edit


def _budget(project: Project) -> str:
    delivery = project.delivery
    return f"{'' if delivery.budget is None else f'{delivery.budget:g}'} {delivery.currency}".strip()


def _edit_budget(project: Project, text: str) -> Project:
    """Take a budget with its currency, or only one of them: ``800 EUR``, ``800``, ``EUR``."""
    words = text.replace("€", " € ").replace("£", " £ ").split()
    amounts = [word for word in words if any(letter.isdigit() for letter in word)]
    names = [word for word in words if word not in amounts]
    if len(names) > 1:
        raise InputError([Problem("Budget", f"“{text[:40]}” is not an amount with its currency")], "Type 800 EUR.")
    budget = read(number, "".join(amounts), "Budget") if amounts else None
    return set_delivery(project, budget=budget, currency=read(currency, names[0] if names else "", "Budget"))


def _percent(text: str) -> float:
    return number(text) / 100


DUE_FIELDS: tuple[Field, ...] = (
    Field("title", "Film", "The film's title", lambda p: p.title, lambda p, text: set_project(p, title=text)),
    Field("start", "Start", "When rendering can begin: the forecast counts from here. A moment such as Mon 10:00 or "
          "2031-04-21 10:00, or now, which goes on with the clock until frames are watched", _start,
          _edit_moment("start"), moment=lambda p: p.start.astimezone(p.delivery.zone)),
    Field("deadline", "Deadline", "When the film is due: Fri 18:00, tomorrow 9:00, 24 Apr 18:00, in 3 days",
          lambda p: date_text(p, p.delivery.deadline), _edit_moment("deadline"),
          moment=lambda p: p.delivery.deadline.astimezone(p.delivery.zone)),
    Field("timezone", "Time zone", "In which hours and dates are read, such as Europe/Lisbon",
          lambda p: p.delivery.timezone, lambda p, text: set_delivery(p, timezone=text)),
    Field("size", "Size", "Frame size by its standard's name, or like 1998×1080",
          lambda p: size_name(p.delivery.width, p.delivery.height), _edit_size,
          tuple(size_name(size.width, size.height) for size in FRAME_SIZES)),
    Field("rate", "Rate", "Frames a second", lambda p: rate_name(p.delivery.fps), _edit_rate, tuple(FRAME_RATES),
          "fps"),
    Field("confidence", "How sure", "How sure you want to be of the deadline, in a hundred",
          lambda p: f"{100 * p.delivery.confidence:g}",
          lambda p, text: set_delivery(p, confidence=read(_percent, text, "How sure")), unit="%"),
    Field("assembly", "Assembly", "Minutes kept after the last frame for assembly, checking and upload",
          lambda p: f"{p.delivery.assembly_minutes:g}",
          lambda p, text: set_delivery(p, assembly_minutes=read(number, text, "Assembly")), unit="min"),
    Field("retakes", "Retakes", "Share of frames that are rendered again after a look at them",
          lambda p: f"{100 * p.delivery.retake_share:g}",
          lambda p, text: set_delivery(p, retake_share=read(_percent, text, "Retakes")), unit="%"),
    Field("budget", "Budget", "The most that rendering may cost at the prices of the machines, with its currency: "
          "800 EUR; empty for none", _budget, _edit_budget),
)  # fmt: skip
