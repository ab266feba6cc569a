"""Tables of trials: ``trials.csv`` and what is pasted into the trials stage."""

from collections.abc import Mapping
from typing import Any

from pemlo.core.errors import Problem
from pemlo.core.persistence.table import (
    CsvColumn,
    Row,
    gibibytes,
    kept_stages,
    mebibytes,
    number,
    read_rows,
    refuse_if,
    resolution,
    samples,
    seconds_or_none,
    whole_number,
    with_resolution,
    write_rows,
    yes_or_no,
)
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.spelling import cap, denoiser, rays, read_way, switch_names
from pemlo.core.project.trials import BAD, GOOD, STAGES, Trial
from pemlo.core.units import parse_duration

_GOOD = ("good enough", "good", "passes", "pass", "● passes", "ok", "yes")
_BAD = ("not good enough", "not good", "bad", "fails", "fail", "× fails", "no")
_MARKS = dict.fromkeys(_GOOD, GOOD) | dict.fromkeys(_BAD, BAD)


def mark(text: str) -> str:
    """Read a mark."""
    words = " ".join(text.lower().replace("_", " ").split())
    if words not in _MARKS:
        raise ValueError(f"“{text}” is not a mark; write “good enough” or “not good enough”")
    return _MARKS[words]


def why_left_out(text: str) -> str:
    """Read why a trial is left out; ``no`` says that it is not."""
    word = text.strip().lower()
    if word in {"no", "n", "0", "false", "-"}:
        return ""
    return "left out" if word in {"yes", "y", "1", "true", "x"} else text


def share(text: str) -> float:
    """Read a share of one; with a percent sign, of a hundred."""
    return number(text) / 100 if text.strip().endswith("%") else number(text)


def _numbers(text: str) -> tuple[float, ...]:
    return tuple(number(word) for word in text.split())


COLUMNS = (
    CsvColumn("shot", str, needed=True),
    CsvColumn("frame", whole_number, needed=True),
    CsvColumn("seconds", parse_duration, needed=True),
    CsvColumn("samples", samples),
    CsvColumn("min_samples", samples),
    CsvColumn("noise_threshold", number),
    CsvColumn("resolution_percent", number),
    CsvColumn("width", whole_number),
    CsvColumn("height", whole_number),
    CsvColumn("denoise", denoiser),
    CsvColumn("keep", kept_stages),
    CsvColumn("most_seconds", cap),
    CsvColumn("split", rays),
    CsvColumn("switches", switch_names),
    CsvColumn("saves", whole_number),
    CsvColumn("region_percent", number),
    CsvColumn("machine", str),
    CsvColumn("frames_at_once", whole_number),
    CsvColumn("seed", whole_number),
    *(CsvColumn(f"{stage}_seconds", seconds_or_none) for stage in STAGES),
    CsvColumn("mean_samples", number),
    CsvColumn("noise", share),
    CsvColumn("noise_shape", _numbers),
    CsvColumn("memory_gib", gibibytes),
    CsvColumn("processor_seconds", seconds_or_none),
    CsvColumn("other_load", share),
    CsvColumn("disk_mib", mebibytes),
    CsvColumn("picture", str),
    CsvColumn("left_out", why_left_out),
    CsvColumn("repeat", whole_number),
    CsvColumn("way", str),
    CsvColumn("way_value", number),
    CsvColumn("assumed", yes_or_no),
    CsvColumn("mark", mark),
    CsvColumn("mark_for", str),
    CsvColumn("mark_size", yes_or_no),
    CsvColumn("error", number),
    CsvColumn("error_against", str),
    CsvColumn("note", str),
)


READ = (*COLUMNS, CsvColumn("resolution", resolution))
# An empty cell says that there is none of it, whatever the shot asks for.
_NONE_IF_EMPTY = ("denoise", "keep", "most_seconds", "split", "switches", "saves")


def read_trials(
    text: str, project: Project, name: str = "trials.csv", said: Mapping[str, str] | None = None
) -> tuple[Trial, ...]:
    """Read a table of trials for the shots of a project; `said` is what a person said that titles mean.

    Settings whose column is missing are those that the shot asks for. In a column that is there, an empty cell means
    no noise threshold, no denoising, nothing kept, capped, split, switched or saved; for the others again as asked.

    Raises
    ------
    InputError
        With every wrong cell by file, line and column.
    """
    rows, problems, present = read_rows(text, READ, name, said)
    trials = []
    for row in rows:
        if row.problems:
            continue
        trial = _trial(row, project, present, problems)
        if trial is not None:
            trials.append(trial)
    if not rows and not problems:
        problems.append(Problem(name, "has no trials under its header"))
    refuse_if(problems, name)
    return tuple(trials)


def wrong_cells(text: str, name: str = "trials.csv") -> list[Problem]:
    """Return what is wrong with a table of trials, whatever shots there are."""
    return read_rows(text, READ, name)[1]


def _trial(row: Row, project: Project, present: set[str], problems: list[Problem]) -> Trial | None:
    try:
        shot = project.shot(row.values["shot"])
    except KeyError:
        problems.append(Problem(f"{row.where}, column shot", f"shot {row.values['shot']} is not in the brief"))
        return None
    settings = shot.asked.frame_fields()
    if "noise_threshold" in present and "noise_threshold" not in row.values:
        settings["noise_threshold"] = None
        settings["min_samples"] = None
    for field in _NONE_IF_EMPTY:
        if field in present and field not in row.values:
            settings[field] = FrameSettings.model_fields[field].default
    fields: dict[str, Any] = {**settings, **with_resolution(row.values), "extra_columns": row.extra}
    if "way" in present and "way_value" not in row.values:
        fields["way"], fields["way_value"] = read_way(row.values.get("way", ""))
    least = fields.get("min_samples")
    if "min_samples" not in row.values and least is not None and least > fields["samples"]:
        fields["min_samples"] = None
    trial = row.build(Trial, fields)
    problems += row.problems
    return trial


def write_trials(project: Project) -> str:
    """Write all trials of a project, with the columns that were not known."""
    extra = list(dict.fromkeys(title for trial in project.trials for title, _ in trial.extra_columns))
    rows = []
    for trial in project.trials:
        cells = [_named_cell(column.name, getattr(trial, column.name)) for column in COLUMNS]
        kept = dict(trial.extra_columns)
        rows.append(cells + [kept.get(title, "") for title in extra])
    return write_rows([*(column.name for column in COLUMNS), *extra], rows)


def _named_cell(name: str, value: Any) -> str:  # noqa: ANN401 - of any column
    return "" if value is None or value is False else ", ".join(value) if name == "switches" else _cell(value)


def _cell(value: object) -> str:
    if isinstance(value, tuple):
        return " ".join(_cell(part) for part in value)
    return repr(value).removesuffix(".0") if isinstance(value, float) else str(value)
