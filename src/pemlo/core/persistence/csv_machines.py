"""Tables of machines: ``machines.csv`` and what is pasted into the brief."""

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


def week(text: str) -> str:
    """Read the hours of a week, as the document keeps them."""
    return format_week(parse_week(text))


COLUMNS = (
    CsvColumn("machine", str, needed=True),
    CsvColumn("count", whole_number),
    CsvColumn("speed", number),
    CsvColumn("frames_at_once", whole_number),
    CsvColumn("memory_gib", gibibytes),
    CsvColumn("hours", week),
    CsvColumn("price_per_hour", number),
    CsvColumn("loss_percent", number),
)
# Only written where somebody measured it: most tables have no such column.
CONTENTION = CsvColumn("contention", number)


def read_machines(text: str, name: str = "machines.csv") -> tuple[Machine, ...]:
    """Read a table of machines. A machine whose hours are empty is always free.

    Raises
    ------
    InputError
        With every wrong cell by file, line and column.
    """
    rows, problems, _ = read_rows(text, (*COLUMNS, CONTENTION), name)
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
    rows = []
    for machine in project.machines:
        cells = [machine.name, machine.count, f"{machine.speed:g}", machine.frames_at_once, machine.memory_gib]
        cells += [machine.hours, machine.price_per_hour, f"{machine.loss_percent:g}"]
        cells += [f"{machine.contention:g}"] if measured else []
        kept = dict(machine.extra_columns)
        rows.append(["" if cell is None else str(cell) for cell in cells] + [kept.get(title, "") for title in extra])
    header = [column.name for column in (*COLUMNS, *([CONTENTION] if measured else []))]
    return write_rows([*header, *extra], rows)
