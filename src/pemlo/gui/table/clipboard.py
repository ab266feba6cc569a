"""Rows on the clipboard: as text with tabs for any table program, and as whole records for Pemlo itself. GUI thread.

What lies on a clipboard may be anything: records are read as strictly as those of a file.
"""

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from pydantic import BaseModel
from PySide6.QtCore import QMimeData
from PySide6.QtGui import QGuiApplication

from pemlo.core.errors import InputError
from pemlo.core.persistence.table import harmless
from pemlo.core.project.record import build
from pemlo.gui.common.columns import Column, typed_text

R = TypeVar("R")
M = TypeVar("M", bound=BaseModel)
MIME = "application/x-pemlo-rows+json"
MOST_BYTES = 64 * 1024 * 1024


@dataclass(frozen=True)
class Records(Generic[R, M]):
    """How the rows of a table are copied whole.

    Attributes
    ----------
    kind : type
        Of the records.
    of : callable
        Gives the record of a row.
    put : callable
        Puts records into the film.
    """

    kind: type[M]
    of: Callable[[R], M]
    put: Callable[[tuple[M, ...]], None]


def copy_rows(columns: Sequence[Column[R]], rows: Sequence[R], records: Records[R, Any] | None) -> None:
    """Put rows on the clipboard."""
    data = QMimeData()
    data.setText(rows_text(columns, rows))
    if records is not None:
        whole = {"kind": records.kind.__name__, "rows": [records.of(row).model_dump(mode="json") for row in rows]}
        data.setData(MIME, json.dumps(whole).encode())
    QGuiApplication.clipboard().setMimeData(data)


def rows_text(columns: Sequence[Column[R]], rows: Sequence[R]) -> str:
    """Return rows as text with tabs, under their titles."""
    shown = [column for column in columns if column.title]
    lines = [[column.title for column in shown]]
    lines += [[_cell(harmless(typed_text(column, row))) for column in shown] for row in rows]
    return "\n".join("\t".join(cells) for cells in lines)


def _cell(text: str) -> str:
    """Return a cell that a table program takes for one."""
    return f'"{text.replace(chr(34), chr(34) * 2)}"' if any(sign in text for sign in '\t\n\r"') else text


def copied_records(records: Records[R, M] | None) -> tuple[M, ...]:
    """Return the records on the clipboard, none if there are none of this kind.

    Raises
    ------
    InputError
        If they are not what they say.
    """
    data = QGuiApplication.clipboard().mimeData()
    if records is None or not data.hasFormat(MIME):
        return ()
    raw = bytes(data.data(MIME).data())
    try:
        whole = json.loads(raw) if len(raw) <= MOST_BYTES else None
    except (ValueError, RecursionError):
        whole = None
    rows = whole.get("rows") if isinstance(whole, dict) else None
    if not isinstance(whole, dict) or not isinstance(rows, list):
        raise InputError("What lies on the clipboard is damaged.", "Copy the rows again.")
    if whole.get("kind") != records.kind.__name__:
        return ()
    if not all(isinstance(row, dict) for row in rows):
        raise InputError("What lies on the clipboard is damaged.", "Copy the rows again.")
    return tuple(build(records.kind, row, f"Row {number}") for number, row in enumerate(rows, 1))
