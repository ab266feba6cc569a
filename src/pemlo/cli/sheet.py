"""``pemlo sheet``: for each shot exactly what to enter, and command lines from a template of somebody's own."""

import argparse
import csv
import json
import sys
from pathlib import Path

from pemlo.core.handover.command_lines import FIELDS, command_line, whole_shots
from pemlo.core.handover.settings_sheet import ShotSheet, settings_sheet
from pemlo.core.persistence.document import read_project

_DESCRIPTION = f"""Writes what to enter for each shot, with what the plan changes marked by a star. With --template one
command line a shot, which is never run; fields: {", ".join(FIELDS)}."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("--template", metavar="LINE", help="such as 'render {shot} -s {first} -e {last}'")
    parser.add_argument("--csv", action="store_true", help="write a table")
    parser.add_argument("--json", action="store_true", help="write JSON")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Print the sheet, or the command lines."""
    project = read_project(args.project)
    if args.template is not None:
        lines = [command_line(args.template, project, piece) for piece in whole_shots(project)]
        print(json.dumps(lines, indent=1) if args.json else "\n".join(lines))
        return 0
    sheet = settings_sheet(project)
    if args.json:
        print(json.dumps([_json(one) for one in sheet], indent=1))
    elif args.csv:
        writer = csv.writer(sys.stdout, lineterminator="\n")
        writer.writerow(("shot", "frames", "setting", "asked", "planned", "changed"))
        for one in sheet:
            writer.writerows(
                (one.shot, one.frames, line.name, line.asked, line.planned, "yes" if line.changed else "")
                for line in one.lines
            )
    else:
        print("\n\n".join(_text(one) for one in sheet))
    return 0


def _json(one: ShotSheet) -> dict[str, object]:
    return {
        "shot": one.shot,
        "frames": one.frames,
        "count": one.count,
        "settings": {line.name: {"asked": line.asked, "planned": line.planned} for line in one.lines},
    }


def _text(one: ShotSheet) -> str:
    wide = max(len(line.name) for line in one.lines)
    rows = [
        f"{'*' if line.changed else ' '} {line.name:<{wide}}  {line.planned}"
        + (f"  (asked {line.asked})" if line.changed else "")
        for line in one.lines
    ]
    return "\n".join([f"{one.shot}: frames {one.frames}, {one.count} to render", *rows])
