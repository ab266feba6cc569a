"""The settings sheet as a table, as JSON and as text. Pure text."""

import json
from collections.abc import Sequence

from pemlo.core.persistence.table import write_rows
from pemlo.handover.settings_sheet import ShotSheet

COLUMNS = ("shot", "frames", "setting", "asked", "planned", "changed")


def sheet_csv(sheet: Sequence[ShotSheet]) -> str:
    """Return a table of one row a setting."""
    rows = [
        [shot_sheet.shot, shot_sheet.frames, line.name, line.asked, line.planned, "yes" if line.changed else ""]
        for shot_sheet in sheet
        for line in shot_sheet.lines
    ]
    return write_rows(list(COLUMNS), rows)


def sheet_json(sheet: Sequence[ShotSheet]) -> str:
    """Return the sheet as JSON."""
    return json.dumps([_json(shot_sheet) for shot_sheet in sheet], indent=1, ensure_ascii=False)


def _json(shot_sheet: ShotSheet) -> dict[str, object]:
    return {
        "shot": shot_sheet.shot,
        "frames": shot_sheet.frames,
        "count": shot_sheet.count,
        "place": shot_sheet.place,
        "machines": [
            {"machine": part.machine, "frames": part.frames, "count": part.count} for part in shot_sheet.pieces
        ],
        "settings": {line.name: {"asked": line.asked, "planned": line.planned} for line in shot_sheet.lines},
    }


def sheet_text(sheet: Sequence[ShotSheet]) -> str:
    """Return the sheet for a terminal; what the plan changes is marked with a star."""
    return "\n\n".join(_text(shot_sheet) for shot_sheet in sheet)


def _text(shot_sheet: ShotSheet) -> str:
    wide = max(len(line.name) for line in shot_sheet.lines)
    rows = [
        f"{'*' if line.changed else ' '} {line.name:<{wide}}  {line.planned}"
        + (f"  (asked {line.asked})" if line.changed else "")
        for line in shot_sheet.lines
    ]
    parts = [f"  {part.machine}: frames {part.frames}, {part.count}" for part in shot_sheet.pieces]
    noun = "frame" if shot_sheet.count == 1 else "frames"
    head = f"{shot_sheet.shot}: {noun} {shot_sheet.frames}, {shot_sheet.count} to render"
    return "\n".join([head, *parts, *rows])
