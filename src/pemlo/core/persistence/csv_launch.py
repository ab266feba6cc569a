"""Tables of launches: ``launch.csv``, what the renderer is set to. Cells that are left out are not known."""

import re
from typing import get_args

from pemlo.core.errors import Problem
from pemlo.core.foreign import shown
from pemlo.core.persistence.table import CsvColumn, number, read_rows, refuse_if, whole_number, write_rows, yes_or_no
from pemlo.core.project.launch import Colour, LaunchRow
from pemlo.core.project.project import Project

LONGEST_SIZE = 60  # letters
_SIZE = re.compile(r"(\d{1,6}) ?[x×*] ?(\d{1,6}) ?(?:px)?")


def frame_size(text: str) -> tuple[int, int]:
    """Read a size in px.

    Examples
    --------
    >>> frame_size("1920x1080"), frame_size("1920 × 1080")
    ((1920, 1080), (1920, 1080))
    """
    match = _SIZE.fullmatch(" ".join(text[:LONGEST_SIZE].split()))
    if match is None:
        raise ValueError(f"“{shown(text, 40)}” is not a size; write it like 1920x1080")
    return int(match[1]), int(match[2])


def percentage(text: str) -> float:
    """Read a percentage, with its sign or without."""
    return number(text.strip().rstrip("%").strip())


def layer_names(text: str) -> tuple[str, ...]:
    """Read names of layers with commas or semicolons between; ``none`` for none."""
    names = [one.strip() for one in re.split(r"[,;]", text)]
    return tuple(one for one in names if one and one.lower() != "none")


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


COLUMNS = (
    CsvColumn("shot", str, needed=True),
    CsvColumn("first", whole_number),
    CsvColumn("last", whole_number),
    CsvColumn("step", whole_number),
    CsvColumn("camera", str),
    CsvColumn("size", frame_size),
    CsvColumn("percentage", percentage),
    CsvColumn("samples", whole_number),
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
)


def read_launch(text: str, project: Project, name: str = "launch.csv") -> tuple[LaunchRow, ...]:
    """Read a table of launches.

    Raises
    ------
    InputError
        With every wrong cell by file, line and column; and with shots that the brief does not have.
    """
    rows, problems, _ = read_rows(text, COLUMNS, name)
    known = {shot.name for shot in project.shots}
    found = []
    for row in rows:
        if row.problems:
            continue
        fields = {**row.values, "extra_columns": row.extra}
        fields["width"], fields["height"] = fields.pop("size", None) or (None, None)
        fields["percent"] = fields.pop("percentage", None)
        kept = {key: value for key, value in fields.items() if value is not None}
        made = row.build(LaunchRow, kept)
        problems += row.problems
        if made is None:
            continue
        if made.shot not in known:
            problems.append(Problem(f"{row.where}, column shot", f"there is no shot {made.shot} in the brief"))
        found.append(made)
    if not rows and not problems:
        problems.append(Problem(name, "has no launches under its header"))
    refuse_if(problems, name)
    return tuple(found)


def write_launch(rows: tuple[LaunchRow, ...]) -> str:
    """Write a table of launches, with the columns that were not known."""
    extra = list(dict.fromkeys(title for row in rows for title, _ in row.extra_columns))
    cells = []
    for row in rows:
        size = f"{row.width}x{row.height}" if row.width and row.height else None
        layers = None if row.layers is None else ", ".join(row.layers) or "none"
        resume = None if row.resume is None else "yes" if row.resume else "no"
        values = (row.shot, row.first, row.last, row.step, row.camera, size, row.percent, row.samples, row.threshold,
                  row.denoise, layers, row.pattern, row.folder, row.pixel_aspect, row.colour, resume, row.region,
                  row.bounces)  # fmt: skip
        kept = dict(row.extra_columns)
        written = ["" if one is None else f"{one:g}" if isinstance(one, float) else str(one) for one in values]
        cells.append(written + [kept.get(title, "") for title in extra])
    return write_rows([*(column.name for column in COLUMNS), *extra], cells)
