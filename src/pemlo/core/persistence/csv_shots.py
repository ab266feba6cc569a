"""Tables of shots: ``shots.csv`` and what is pasted into the brief."""

from collections import Counter
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from pemlo.core.errors import Problem
from pemlo.core.frames import Range, format_ranges, parse_frames, ranges_of
from pemlo.core.persistence.table import (
    CsvColumn,
    Row,
    frame_rate,
    kept_stages,
    number,
    read_rows,
    refuse_if,
    resolution,
    samples,
    some_of,
    whole_number,
    with_resolution,
    write_rows,
    yes_or_no,
)
from pemlo.core.project.delivery import checked_moment
from pemlo.core.project.project import Project
from pemlo.core.project.settings import MOST_WITH_THRESHOLD, ShotSettings
from pemlo.core.project.shots import MOVEMENTS, Movement, Shot
from pemlo.core.project.spelling import cap, denoiser, rays, read_way, switch_names

Size = tuple[int, int, float]


def movements(text: str) -> tuple[Movement, ...]:
    """Read what moves: ``camera, lights``; ``nothing`` for a still.

    Examples
    --------
    >>> movements("lights + camera")
    ('camera', 'lights')
    """
    return some_of(text, MOVEMENTS, "does not move")


def moment(text: str) -> datetime:
    """Read a date and time with its time zone."""
    try:
        found = datetime.fromisoformat(text.strip())
    except ValueError as error:
        raise ValueError(f"“{text}” is not a date and time; write it like 2031-04-24T18:00+02:00") from error
    return checked_moment(found)


def names(text: str) -> tuple[str, ...]:
    """Read names with commas between."""
    return tuple(filter(None, (one.strip() for one in text.split(","))))


def approval(text: str) -> str:
    """Read whether a first pass was approved: ``approved``, ``waiting``, or yes and no."""
    word = text.strip().lower()
    if word in ("approved", "waiting"):
        return word
    return "approved" if yes_or_no(text) else "waiting"


def frame_ranges(text: str) -> tuple[int, tuple[Range, ...]]:
    """Read ranges of frames with their step; one number is so many frames from 1 on.

    Examples
    --------
    >>> frame_ranges("1-250"), frame_ranges("1-99x2"), frame_ranges("120")
    ((1, ((1, 250),)), (2, ((1, 99),)), (1, ((1, 120),)))
    """
    if text.strip().isdecimal():
        return 1, ((1, whole_number(text)),)
    return ranges_of(parse_frames(text))


# The columns that are written; and those that are read, in which people say the same in other words.
COLUMNS = (
    CsvColumn("shot", str, needed=True),
    CsvColumn("first", whole_number, needed=True, or_else="frames"),
    CsvColumn("last", whole_number, needed=True, or_else="frames"),
    CsvColumn("step", whole_number),
    CsvColumn("fps", frame_rate),
    CsvColumn("width", whole_number),
    CsvColumn("height", whole_number),
    CsvColumn("samples", samples, needed=True, or_else="noise_threshold"),
    CsvColumn("min_samples", samples),
    CsvColumn("noise_threshold", number),
    CsvColumn("denoise", denoiser),
    CsvColumn("resolution_percent", number),
    CsvColumn("frame_step", whole_number),
    CsvColumn("keep", kept_stages),
    CsvColumn("most_seconds", cap),
    CsvColumn("split", rays),
    CsvColumn("switches", switch_names),
    CsvColumn("saves", whole_number),
    CsvColumn("moves", movements),
    CsvColumn("look", str),
    CsvColumn("between", str),
    CsvColumn("ceiling", number),
    CsvColumn("weight", number),
    CsvColumn("part_of", str),
    CsvColumn("still", yes_or_no),
    CsvColumn("due", moment),
    CsvColumn("priority", whole_number),
    CsvColumn("after", names),
    CsvColumn("approval", approval),
    CsvColumn("cameras", names),
    CsvColumn("handles", whole_number),
    CsvColumn("way", str),
    CsvColumn("way_value", number),
    CsvColumn("ranges", frame_ranges),
    CsvColumn("only_on", names),
    CsvColumn("note", str),
)
READ = (*COLUMNS, CsvColumn("frames", frame_ranges), CsvColumn("resolution", resolution))
_ASKED = tuple(ShotSettings.model_fields)
_EMPTY = (
    *("fps", "width", "height", "moves", "look", "ceiling", "weight", "part_of", "still", "due", "priority", "after"),
    *("approval", "cameras", "handles", "step", "only_on", "note"),
)


def read_shots(text: str, name: str = "shots.csv", said: Mapping[str, str] | None = None) -> tuple[Shot, ...]:
    """Read a table of shots; `said` is what a person said that titles mean.

    Raises
    ------
    InputError
        With every wrong cell by file, line and column.
    """
    rows, problems, present = read_rows(text, READ, name, said)
    shots = []
    seen: dict[str, int] = {}
    for row in rows:
        shot = None
        if not row.problems:
            shot = _shot(row, present)
            problems += row.problems
        if shot is not None and shot.name in seen:
            what = f"shot {shot.name} stands in line {seen[shot.name]} already"
            problems.append(Problem(f"{row.where}, column shot", what))
        elif shot is not None:
            seen[shot.name] = row.line
            shots.append(shot)
    if not rows and not problems:
        problems.append(Problem(name, "has no shots under its header"))
    refuse_if(problems, name)
    return tuple(shots)


def _shot(row: Row, present: set[str]) -> Shot | None:
    values = with_resolution(row.values)
    step, ranges = values.pop("ranges", None) or values.pop("frames", None) or (1, ())
    values.pop("frames", None)
    if ranges:
        values = {"first": ranges[0][0], "last": ranges[-1][1], "step": step, **values}
    values["ranges"] = ranges if len(ranges) > 1 else ()
    # What a column has and a cell leaves empty is none, and not left as it was.
    asked = {key: ShotSettings.model_fields[key].default for key in _ASKED if key in present and key != "samples"}
    asked |= {key: values[key] for key in _ASKED if key in values}
    fields: dict[str, Any] = {key: Shot.model_fields[key].default for key in _EMPTY if key in present}
    fields |= {key: value for key, value in values.items() if key not in _ASKED and key != "shot"}
    if "samples" not in asked:
        if asked.get("noise_threshold") is None:
            row.problems.append(Problem(f"{row.where}, column samples", "is empty, and there is no noise_threshold"))
            return None
        asked["samples"] = MOST_WITH_THRESHOLD  # so many that the threshold ends them
    if asked.get("way") and "way_value" not in asked:
        asked["way"], asked["way_value"] = read_way(asked["way"])
    settings = row.build(ShotSettings, asked)
    if settings is None:
        return None
    return row.build(Shot, {**fields, "name": row.values["shot"], "asked": settings, "extra_columns": row.extra})


def over(before: Shot, shot: Shot) -> Shot:
    """Return a shot as a table says it, over one that is there: what no column says, its plan among it, stays."""
    said = {name: getattr(shot, name) for name in shot.model_fields_set - {"asked", "extra_columns"}}
    settings = set(shot.asked.model_fields_set)
    if shot.asked.samples == MOST_WITH_THRESHOLD and before.asked.noise_threshold is not None:
        settings.discard("samples")  # a count that was only assumed leaves the one that was said
    asked = before.asked.replace(**{name: getattr(shot.asked, name) for name in settings})
    extra = tuple({**dict(before.extra_columns), **dict(shot.extra_columns)}.items())
    return before.replace(**said, asked=asked, extra_columns=extra)


def common_size(shots: tuple[Shot, ...]) -> Size | None:
    """Return the size and rate that most shots have, to be the delivery's; None if no shot gives one."""
    given = [(s.width, s.height, s.fps) for s in shots if s.width and s.height]
    if not given:
        return None
    (width, height, fps), _ = Counter(given).most_common(1)[0]
    rates = Counter(s.fps for s in shots if s.fps)
    return width or 0, height or 0, fps or (rates.most_common(1)[0][0] if rates else None) or 24.0


def without_delivery(shots: tuple[Shot, ...], width: int, height: int, fps: float) -> tuple[Shot, ...]:
    """Leave out of shots the size and rate that the delivery has, so that they follow it."""
    found = []
    for shot in shots:
        fields: dict[str, Any] = {}
        if (shot.width, shot.height) == (width, height):
            fields |= {"width": None, "height": None}
        if shot.fps is not None and abs(shot.fps - fps) < 0.002:
            fields["fps"] = None
        found.append(shot.replace(**fields) if fields else shot)
    return tuple(found)


def write_shots(project: Project) -> str:
    """Write the shots of a project, as asked, with the size and rate of each and the columns that were not known."""
    extra = list(dict.fromkeys(title for shot in project.shots for title, _ in shot.extra_columns))
    rows = []
    for shot in project.shots:
        width, height = project.size_of(shot)
        asked = shot.asked
        cells = [shot.name, shot.first, shot.last, shot.step, f"{project.rate_of(shot):.6g}", width, height]
        cells += [asked.samples, asked.min_samples, asked.noise_threshold, asked.denoise]
        cells += [
            f"{asked.resolution_percent:g}",
            asked.frame_step,
            " ".join(asked.keep),
            asked.most_seconds,
            " ".join(map(str, asked.split)),
            ", ".join(asked.switches),
            asked.saves,
            " ".join(shot.moves),
            shot.look,
            asked.between,
            shot.ceiling,
            f"{shot.weight:g}",
            shot.part_of,
            "yes" if shot.still else "",
            "" if shot.due is None else shot.due.isoformat(),
            shot.priority or "",
            ", ".join(shot.after),
            shot.approval if shot.approval == "approved" else "",
            ", ".join(shot.cameras),
            shot.handles or "",
            asked.way,
            asked.way_value,
            format_ranges(shot.ranges, shot.step) if shot.ranges else "",
            ", ".join(shot.only_on),
            shot.note,
        ]
        kept = dict(shot.extra_columns)
        rows.append(["" if cell is None else str(cell) for cell in cells] + [kept.get(title, "") for title in extra])
    return write_rows([*(column.name for column in COLUMNS), *extra], rows)
