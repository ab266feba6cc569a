"""Tables of launches: ``launch.csv``, what the renderer is set to. Cells that are left out are not known."""

import re
from collections.abc import Mapping
from typing import get_args

from pemlo.core.errors import Problem
from pemlo.core.foreign import shown
from pemlo.core.persistence.csv_shots import frame_ranges
from pemlo.core.persistence.table import (
    CsvColumn,
    kept_stages,
    number,
    read_rows,
    refuse_if,
    resolution,
    samples,
    size_in_px,
    whole_number,
    write_rows,
    yes_or_no,
)
from pemlo.core.project.launch import Colour, LaunchRow
from pemlo.core.project.project import Project
from pemlo.core.project.spelling import cap, rays, switch_names


def frame_size(text: str) -> tuple[int, int]:
    """Read a size in px.

    Examples
    --------
    >>> frame_size("1920x1080"), frame_size("1920 × 1080")
    ((1920, 1080), (1920, 1080))
    """
    found = size_in_px(text)
    if found is None:
        raise ValueError(f"“{shown(text, 40)}” is not a size; write it like 1920x1080")
    return found


def percentage(text: str) -> float:
    """Read a percentage, with its sign or without."""
    return number(text.strip().rstrip("%").strip())


def layer_names(text: str) -> tuple[str, ...]:
    """Read names of layers with commas or semicolons between; ``none`` for none."""
    names = [one.strip() for one in re.split(r"[,;]", text)]
    return tuple(name for name in names if name and name.lower() != "none")


def threshold(text: str) -> float:
    """Read a noise threshold; ``none`` is 0."""
    return 0.0 if text.strip().lower() in {"none", "-", "–"} else number(text)


def colour(text: str) -> str:
    """Read what files hold: ``scene-linear`` or ``display``."""
    word = text.strip().lower().replace(" ", "-").replace("linear", "scene-linear").replace("scene-scene", "scene")
    if word not in get_args(Colour)[1:]:
        raise ValueError(f"“{shown(text, 40)}” is neither scene-linear nor display")
    return word


def region(text: str) -> str:
    """Read a region; ``none``, ``off``, ``no`` or ``full`` for none."""
    return "" if text.strip().lower() in {"none", "off", "no", "full", "-"} else text.strip()


def limit(text: str) -> float:
    """Read a time limit of a frame; ``none`` is 0."""
    return cap(text) or 0.0


def way(text: str) -> str:
    """Read a way of rendering; ``usual`` for the usual one."""
    return "" if text.strip().lower() in {"usual", "none", "-"} else text.strip()


COLUMNS = (
    CsvColumn("shot", str, needed=True),
    CsvColumn("first", whole_number),
    CsvColumn("last", whole_number),
    CsvColumn("step", whole_number),
    CsvColumn("camera", str),
    CsvColumn("size", resolution),
    CsvColumn("percentage", percentage),
    CsvColumn("samples", samples),
    CsvColumn("threshold", threshold),
    CsvColumn("denoise", str),
    CsvColumn("layers", layer_names),
    CsvColumn("pattern", str),
    CsvColumn("folder", str),
    CsvColumn("pixel_aspect", number),
    CsvColumn("colour", colour),
    CsvColumn("resume", yes_or_no),
    CsvColumn("region", region),
    CsvColumn("bounces", whole_number),
    CsvColumn("min_samples", samples),
    CsvColumn("most_seconds", limit),
    CsvColumn("split", rays),
    CsvColumn("switches", switch_names),
    CsvColumn("keep", kept_stages),
    CsvColumn("way", way),
    CsvColumn("skips", yes_or_no),
    CsvColumn("note", str),
)
# What shots and trials have too is read by their names, and in their words.
READ = (
    *COLUMNS,
    CsvColumn("width", whole_number),
    CsvColumn("height", whole_number),
    CsvColumn("frames", frame_ranges),
)


def read_launch(
    text: str, project: Project, name: str = "launch.csv", said: Mapping[str, str] | None = None
) -> tuple[LaunchRow, ...]:
    """Read a table of launches; `said` is what a person said that titles mean.

    Raises
    ------
    InputError
        With every wrong cell by file, line and column; and with shots that the brief does not have.
    """
    rows, problems, _ = read_rows(text, READ, name, said)
    known = {shot.name for shot in project.shots}
    found = []
    for row in rows:
        if row.problems:
            continue
        fields = {**row.values, "extra_columns": row.extra}
        size = fields.pop("size", None)
        if isinstance(size, tuple):
            fields["width"], fields["height"] = size
        elif size is not None:
            fields["percent"] = size
        if "percentage" in fields:
            fields["percent"] = fields.pop("percentage")
        # A row of several ranges launches each of them.
        step, ranges = fields.pop("frames", (None, ()))
        each = [{"first": first, "last": last, "step": step} for first, last in ranges] or [{}]
        for ends in each:
            kept = {key: value for key, value in {**ends, **fields}.items() if value is not None}
            made = row.build(LaunchRow, kept)
            if made is None:
                break
            if made.shot not in known:
                problems.append(Problem(f"{row.where}, column shot", f"there is no shot {made.shot} in the brief"))
                break
            found.append(made)
        problems += row.problems
    if not rows and not problems:
        problems.append(Problem(name, "has no launches under its header"))
    refuse_if(problems, name)
    return tuple(found)


def yes_or_none(value: bool | None) -> str | None:  # noqa: FBT001 - it is what is written
    """Return what is written for yes, no and what is not known."""
    return None if value is None else "yes" if value else "no"


def write_launch(rows: tuple[LaunchRow, ...]) -> str:
    """Write a table of launches, with the columns that were not known."""
    extra = list(dict.fromkeys(title for row in rows for title, _ in row.extra_columns))
    cells = []
    for row in rows:
        size = f"{row.width}x{row.height}" if row.width and row.height else None
        layers = None if row.layers is None else ", ".join(row.layers) or "none"
        values = (row.shot, row.first, row.last, row.step, row.camera, size, row.percent, row.samples, row.threshold,
                  row.denoise, layers, row.pattern, row.folder, row.pixel_aspect, row.colour, yes_or_none(row.resume),
                  row.region, row.bounces, row.min_samples, row.most_seconds,
                  None if row.split is None else " ".join(map(str, row.split)),
                  None if row.switches is None else ", ".join(row.switches) or "none",
                  None if row.keep is None else " ".join(row.keep) or "nothing", row.way,
                  yes_or_none(row.skips), row.note)  # fmt: skip
        kept = dict(row.extra_columns)
        written = [
            "" if value is None else f"{value:g}" if isinstance(value, float) else str(value) for value in values
        ]
        cells.append(written + [kept.get(title, "") for title in extra])
    return write_rows([*(column.name for column in COLUMNS), *extra], cells)
