"""Tables of machines: ``machines.csv`` and what is pasted into the brief."""

from collections.abc import Mapping

from pemlo.core.errors import Problem
from pemlo.core.persistence.table import (
    CsvColumn,
    gibibytes,
    number,
    read_rows,
    refuse_if,
    whole_number,
    write_rows,
)
from pemlo.core.project.hours import format_week, parse_week
from pemlo.core.project.machines import ASSUMED_CONTENTION, Machine
from pemlo.core.project.project import Project
from pemlo.core.units import parse_duration


def week(text: str) -> str:
    """Read the hours of a week, as the document keeps them."""
    return format_week(parse_week(text))


def speed(text: str) -> float:
    """Read a machine's speed: a number, or two times or scores that say it.

    One frame that took 4:02 on the reference machine and 2:31 on this one is written ``4:02 / 2:31``; a benchmark that
    gave this one 1850 points and the reference machine 1200 ``score 1850 / 1200``: points times seconds are constant
    (within half a percent, common practice, no source).

    Examples
    --------
    >>> speed("1.6"), speed("4:02 / 2:01"), speed("score 1800 / 1200")
    (1.6, 2.0, 1.5)
    """
    words, slash, after = text.strip().lower().partition("/")
    if not slash:
        return number(text)
    scores = words.startswith("score")
    try:
        first, second = (number(one) if scores else parse_duration(one.strip())
                         for one in (words.removeprefix("score"), after))  # fmt: skip
        return first / second
    except (ValueError, ZeroDivisionError) as error:
        what = f"“{text}” does not say a speed; write 1.6, or what one frame takes there and here: 4:02 / 2:31"
        raise ValueError(what) from error


COLUMNS = (
    CsvColumn("machine", str, needed=True),
    CsvColumn("count", whole_number),
    CsvColumn("speed", speed),
    CsvColumn("frames_at_once", whole_number),
    CsvColumn("memory_gib", gibibytes),
    CsvColumn("hours", week),
    CsvColumn("price_per_hour", number),
    CsvColumn("loss_percent", number),
)
# Only written where somebody gave it: most tables have no such column.
CONTENTION = CsvColumn("contention", number)
RARE = (CsvColumn("coherency", number), CsvColumn("most", whole_number), CsvColumn("most_hours", number),
        CsvColumn("note", str))  # fmt: skip
READ = (*COLUMNS, CONTENTION, *RARE)


def read_machines(text: str, name: str = "machines.csv", said: Mapping[str, str] | None = None) -> tuple[Machine, ...]:
    """Read a table of machines; `said` is what a person said that titles mean.

    A machine whose hours are empty is always free.

    Raises
    ------
    InputError
        With every wrong cell by file, line and column.
    """
    rows, problems, _ = read_rows(text, READ, name, said)
    machines = []
    seen: dict[str, int] = {}
    for row in rows:
        if row.problems:
            continue
        fields = {**row.values, "name": row.values["machine"], "extra_columns": row.extra}
        machine = row.build(Machine, {key: value for key, value in fields.items() if key != "machine"})
        problems += row.problems
        if machine is None:
            continue
        if machine.name in seen:
            what = f"{machine.name} stands in line {seen[machine.name]} already"
            problems.append(Problem(f"{row.where}, column machine", what))
        seen[machine.name] = row.line
        machines.append(machine)
    if not rows and not problems:
        problems.append(Problem(name, "has no machines under its header"))
    refuse_if(problems, name)
    return tuple(machines)


def write_machines(project: Project) -> str:
    """Write the machines of a project, with the columns that were not known."""
    extra = list(dict.fromkeys(title for machine in project.machines for title, _ in machine.extra_columns))
    measured = any(machine.contention != ASSUMED_CONTENTION for machine in project.machines)
    usual = Machine(name="usual")
    rare = [
        column
        for column in RARE
        if any(getattr(machine, column.name) != getattr(usual, column.name) for machine in project.machines)
    ]
    rows = []
    for machine in project.machines:
        cells = [machine.name, machine.count, f"{machine.speed:g}", machine.frames_at_once, machine.memory_gib]
        cells += [machine.hours, machine.price_per_hour, f"{machine.loss_percent:g}"]
        cells += [f"{machine.contention:g}"] if measured else []
        cells += [getattr(machine, column.name) for column in rare]
        kept = dict(machine.extra_columns)
        rows.append(["" if cell is None else str(cell) for cell in cells] + [kept.get(title, "") for title in extra])
    header = [column.name for column in (*COLUMNS, *([CONTENTION] if measured else []), *rare)]
    return write_rows([*header, *extra], rows)
