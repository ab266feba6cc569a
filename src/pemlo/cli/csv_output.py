"""What commands write as a table: titles as in `--json`, a line for each shot, machine or finding."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from pemlo.core.persistence.table import write_rows


def as_csv(rows: Iterable[Mapping[str, Any]]) -> str:
    r"""Return plain data as a table; a list or a mapping inside becomes columns of its own, None an empty cell.

    Examples
    --------
    >>> as_csv([{"shot": "010", "machine_hours": {"low": 1.5, "high": 2.0}, "error": None}])
    'shot,machine_hours_low,machine_hours_high,error\n010,1.5,2.0,'
    """
    flat = [_flat(row) for row in rows]
    titles = list(dict.fromkeys(title for row in flat for title in row))
    table = write_rows(titles, [[row.get(title, "") for title in titles] for row in flat])
    return table.replace("\r\n", "\n").rstrip("\n")


def _flat(row: Mapping[str, Any], before: str = "") -> dict[str, str]:
    cells: dict[str, str] = {}
    for name, value in row.items():
        title = f"{before}{name}"
        if isinstance(value, Mapping):
            cells |= _flat(value, f"{title}_")
        elif isinstance(value, Sequence) and not isinstance(value, str):
            cells[title] = ", ".join(str(part) for part in value)
        else:
            cells[title] = "" if value is None else str(value)
    return cells
