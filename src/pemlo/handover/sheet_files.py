"""The settings sheet as a table, as JSON and as text. Pure text."""

import json
from collections.abc import Sequence

from pemlo.core.persistence.table import write_rows
from pemlo.handover.settings_sheet import ShotSheet

COLUMNS = ("shot", "frames", "setting", "asked", "planned", "changed")


def sheet_csv(sheet: Sequence[ShotSheet]) -> str:
    """Return a table of one row a setting."""
    rows = [
        [one.shot, one.frames, line.name, line.asked, line.planned, "yes" if line.changed else ""]
        for one in sheet
        for line in one.lines
    ]
    return write_rows(list(COLUMNS), rows)


def sheet_json(sheet: Sequence[ShotSheet]) -> str:
    """Return the sheet as JSON."""
    return json.dumps([_json(one) for one in sheet], indent=1, ensure_ascii=False)


def _json(one: ShotSheet) -> dict[str, object]:
    return {
        "shot": one.shot,
        "frames": one.frames,
        "count": one.count,
        "place": one.place,
        "machines": [{"machine": part.machine, "frames": part.frames, "count": part.count} for part in one.pieces],
        "settings": {line.name: {"asked": line.asked, "planned": line.planned} for line in one.lines},
    }


def sheet_text(sheet: Sequence[ShotSheet]) -> str:
    """Return the sheet for a terminal; what the plan changes is marked with a star."""
    return "\n\n".join(_text(one) for one in sheet)


def _text(one: ShotSheet) -> str:
    wide = max(len(line.name) for line in one.lines)
    rows = [
        f"{'*' if line.changed else ' '} {line.name:<{wide}}  {line.planned}"
        + (f"  (asked {line.asked})" if line.changed else "")
        for line in one.lines
    ]
    parts = [f"  {part.machine}: frames {part.frames}, {part.count}" for part in one.pieces]
    return "\n".join(
        [f"{one.shot}: {'frame' if one.count == 1 else 'frames'} {one.frames}, {one.count} to render", *parts, *rows]
    )
