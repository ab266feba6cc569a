"""The table of the launch: its rows, its columns, and what of it is not as planned. Qt-free."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from pemlo.core.persistence.csv_launch import (
    colour,
    frame_size,
    layer_names,
    limit,
    percentage,
    region,
    threshold,
    way,
    yes_or_none,
)
from pemlo.core.persistence.table import kept_stages, whole_number, yes_or_no
from pemlo.core.preflight.check_context import plan_rows
from pemlo.core.preflight.written_paths import first_path
from pemlo.core.project.launch import LaunchRow
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.spelling import rays, rays_text, switch_names
from pemlo.core.units import counted, format_duration
from pemlo.gui.common.cells import NOTHING, optional, read
from pemlo.gui.common.columns import Column, Role

DIFFERS = "◆ "  # before a cell that is not as planned
MOST_NAMED = 8


@dataclass(frozen=True)
class LaunchCells:
    """A row of the launch, and what the plan would have.

    `place` is its place among all rows, None if it is only the plan's; `alone` whether it is all of its shot, and no
    piece of it.
    """

    row: LaunchRow
    place: int | None
    planned: LaunchRow
    alone: bool = True


def launch_rows(project: Project) -> tuple[LaunchCells, ...]:
    """Return the rows of the launch in order of the film; of a shot without one, what its plan says."""
    found = []
    for shot in project.shots:
        ranges = plan_rows(project, shot)
        planned = ranges[0]
        mine = [(number, row) for number, row in enumerate(project.launch) if row.shot == shot.name]
        alone = len(mine) == len(ranges) == 1
        found += [LaunchCells(row, number, planned, alone) for number, row in mine]
        if not mine:
            found += [LaunchCells(one, None, one) for one in ranges]
    return tuple(found)


COMPARED = {
    "first": "first", "last": "last", "step": "step", "width": "size", "height": "size", "percent": "percent",
    "samples": "samples", "min_samples": "min samples", "threshold": "threshold", "denoise": "denoise",
    "most_seconds": "time limit", "split": "split", "switches": "switches", "keep": "kept", "way": "way",
}  # fmt: skip


def differences(cells: LaunchCells) -> tuple[str, ...]:
    """Return the fields in which a row is not as planned; ends of a piece of a range are its own."""
    if cells.place is None:
        return ()
    names = [name for name in COMPARED if cells.alone or name not in ("first", "last")]
    return tuple(name for name in names if _differs(name, getattr(cells.row, name), getattr(cells.planned, name)))


def _differs(name: str, have: object, planned: object) -> bool:
    """Whether a value is known and not the planned one; an empty way is the usual one, and known."""
    if name == "min_samples" and planned is None:  # without a threshold there is no least
        return False
    return have is not None and (have != "" or name == "way") and have != planned


def launch_words(project: Project) -> str:
    """Return what stands in the table, and what of it is not as planned."""
    if not project.launch:
        return "As planned. Type over a cell what the renderer is really set to, paste rows, or bring in a table."
    rows = launch_rows(project)
    off = [(row.row.shot, dict.fromkeys(COMPARED[name] for name in differences(row))) for row in rows]
    said = [f"{shot} {', '.join(names)}" for shot, names in off if names]
    typed = counted(sum(row.place is not None for row in rows), "row")
    if not said:
        return f"{typed}, all as planned."
    listed = "; ".join(said[:MOST_NAMED]) + (f" and {len(said) - MOST_NAMED} more" if len(said) > MOST_NAMED else "")
    return f"{typed}, {len(said)} not as planned ({DIFFERS.strip()}): {listed}."


def _number(value: float | None) -> str:
    return NOTHING if value is None else f"{value:g}"


def _cell(name: str, value: Callable[[LaunchRow], str], *fields: str) -> Callable[[LaunchCells], str]:
    wanted = fields or (name,)

    def text(cells: LaunchCells) -> str:
        off = any(field in differences(cells) for field in wanted)
        return f"{DIFFERS if off else ''}{value(cells.row)}"

    return text


def _role(*fields: str) -> Callable[[LaunchCells], Role]:
    def role(cells: LaunchCells) -> Role:
        if any(field in differences(cells) for field in fields):
            return "limit"
        return "faint" if cells.place is None else "ink"

    return role


def set_cells(project: Project, cells: LaunchCells, **fields: Any) -> Project:  # noqa: ANN401 - of any field
    """Return a film with other fields in a row of its launch; a row is made where there was none."""
    row = build(LaunchRow, {**dict(cells.row), **fields}, f"Launch of {cells.row.shot}")
    if cells.place is None:
        return project.replace(launch=(*project.launch, row))
    return project.replace(launch=(*project.launch[: cells.place], row, *project.launch[cells.place + 1 :]))


def _column(
    title: str,
    tip: str,
    value: Callable[[LaunchRow], str],
    name: str,
    parse: Callable[[str], Any],
    *,
    figures: bool = True,
) -> Column[LaunchCells]:
    def edit(project: Project, cells: LaunchCells, text: str) -> Project:
        return set_cells(project, cells, **{name: read(parse, text.removeprefix(DIFFERS).strip(), title)})

    def typed(cells: LaunchCells) -> str:
        return value(cells.row).replace(NOTHING, "")

    return Column(title, tip, _cell(name, value), edit, typed, figures=figures, role=_role(name), width=60)


def _size_text(row: LaunchRow) -> str:
    return NOTHING if row.width is None or row.height is None else f"{row.width}×{row.height}"


def _edit_size(project: Project, cells: LaunchCells, text: str) -> Project:
    found = read(optional(frame_size), text.removeprefix(DIFFERS), "size") or (None, None)
    return set_cells(project, cells, width=found[0], height=found[1])


def _words(text: str) -> str:
    return "" if text == NOTHING else text


def _layers_text(row: LaunchRow) -> str:
    return NOTHING if row.layers is None else ", ".join(row.layers) or "none"


def _percent(row: LaunchRow) -> str:
    return NOTHING if row.percent is None else f"{row.percent:g} %"


def _known(parse: Callable[[str], Any]) -> Callable[[str], Any]:
    """Let an empty cell or a dash mean that it is not known; ``none`` is known, and none."""
    return lambda text: None if text in ("", NOTHING) else parse(text)


def _limit_text(row: LaunchRow) -> str:
    return NOTHING if row.most_seconds is None else format_duration(row.most_seconds) if row.most_seconds else "none"


def _split_text(row: LaunchRow) -> str:
    return NOTHING if row.split is None else rays_text(row.split)


def _switches_text(row: LaunchRow) -> str:
    return NOTHING if row.switches is None else ", ".join(row.switches) or "none"


def _kept_text(row: LaunchRow) -> str:
    return NOTHING if row.keep is None else " ".join(row.keep) or "nothing"


def _way_text(row: LaunchRow) -> str:
    return NOTHING if row.way is None else row.way or "usual"


def _layers(text: str) -> tuple[str, ...] | None:
    return None if text in ("", NOTHING) else layer_names(text)


def _colour(text: str) -> str:
    return "" if text in ("", NOTHING) else colour(text)


def _region(text: str) -> str:
    return "" if text == NOTHING else region(text)


LAUNCH: tuple[Column[LaunchCells], ...] = (
    Column("shot", "As in the brief; ◆ marks what is not as planned", lambda cells: cells.row.shot, figures=False,
           single=True, role=lambda cells: "faint" if cells.place is None else "ink", width=56),
    _column("first", "First frame", lambda row: _number(row.first), "first", optional(whole_number)),
    _column("last", "Last frame", lambda row: _number(row.last), "last", optional(whole_number)),
    _column("step", "Every so many frames", lambda row: _number(row.step), "step", optional(whole_number)),
    Column("size", "Width and height, px", _cell("size", _size_text, "width", "height"), _edit_size,
           lambda cells: _size_text(cells.row).replace(NOTHING, ""), role=_role("width", "height"), width=80),
    _column("percent", "Of the size", _percent, "percent", optional(percentage)),
    _column("samples", "A pixel, at most", lambda row: _number(row.samples), "samples", optional(whole_number)),
    _column("min", "Min samples a pixel, with a noise threshold", lambda row: _number(row.min_samples),
            "min_samples", optional(whole_number)),
    _column("threshold", "Of noise; 0 is none", lambda row: _number(row.threshold), "threshold", _known(threshold)),
    _column("denoise", "By its name", lambda row: row.denoise or NOTHING, "denoise", _words, figures=False),
    _column("limit", "After which tracing ends; none for no limit, empty if it is not known", _limit_text,
            "most_seconds", _known(limit)),
    _column("split", "Rays a sample to lights, off a gloss, through glass", _split_text, "split", _known(rays)),
    _column("switches", "What is switched on, with commas between; “none” if nothing is", _switches_text, "switches",
            _known(switch_names), figures=False),
    _column("kept", "Stages whose data are read back: prepare light, or nothing", _kept_text, "keep",
            _known(kept_stages), figures=False),
    _column("way", "Another engine, method or quality; usual for the usual one", _way_text, "way", _known(way),
            figures=False),
    _column("camera", "Where a shot has several", lambda row: row.camera or NOTHING, "camera", _words, figures=False),
    _column("layers", "With commas between", _layers_text, "layers", _layers, figures=False),
    _column("pattern", "As {shot}.{frame:04}.exr; ####, @@@@ and %04d are read, too",
            lambda row: row.pattern or NOTHING, "pattern", _words, figures=False),
    _column("folder", "From the project's own folder on", lambda row: row.folder or NOTHING, "folder", _words,
            figures=False),
    Column("first file", "As the folder and the pattern are read", lambda cells: first_path(cells.row) or NOTHING,
           figures=False, role=lambda _: "faint", width=140),
    _column("aspect", "Of a pixel; 1 is square", lambda row: _number(row.pixel_aspect), "pixel_aspect",
            optional(float)),
    _column("holds", "What files hold: scene-linear, or display", lambda row: row.colour or NOTHING, "colour", _colour,
            figures=False),
    _column("resumes", "Whether an unfinished frame is gone on with: yes or no",
            lambda row: yes_or_none(row.resume) or NOTHING, "resume",
            optional(yes_or_no), figures=False),
    _column("skips", "Whether existing frames are left as they are: yes or no",
            lambda row: yes_or_none(row.skips) or NOTHING, "skips",
            optional(yes_or_no), figures=False),
    _column("region", "That alone is rendered; empty for all", lambda row: row.region or NOTHING, "region", _region,
            figures=False),
    _column("bounces", "Of light, at most", lambda row: _number(row.bounces), "bounces", optional(whole_number)),
    _column("note", "What people should know of the row", lambda row: row.note or NOTHING, "note", _words,
            figures=False),
)  # fmt: skip
