"""``pemlo sheet``: for each shot exactly what to enter, and command lines from a template of somebody's own."""

import argparse
import json
from datetime import UTC, datetime
from pathlib import Path

from pemlo.cli.arguments import seed
from pemlo.cli.opened import open_now
from pemlo.core.errors import InputError
from pemlo.core.film.film import Film
from pemlo.core.persistence.whole_files import write_whole
from pemlo.handover.command_lines import FIELDS, Piece, command_line, whole_shots
from pemlo.handover.pages import sheet_page
from pemlo.handover.paper import write_pdf
from pemlo.handover.picture_page import picture_page
from pemlo.handover.pieces import pieces_of
from pemlo.handover.settings_sheet import settings_sheet
from pemlo.handover.sheet_files import sheet_csv, sheet_json, sheet_text

_DESCRIPTION = f"""Writes what to enter for each shot, with what the plan changes marked by a star. With --template one
command line a shot, which is never run; fields: {", ".join(FIELDS)}."""
_PAGES = (".html", ".pdf")
_ENDINGS = (*_PAGES, ".csv", ".json")


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("--template", metavar="LINE", help="such as 'render {shot} -s {first} -e {last}'")
    parser.add_argument("--by-machine", action="store_true", help="split shots by machine, as the run sheet does")
    parser.add_argument(
        "--pictures", action="store_true", help="the picture sheet instead: every shot and trial, to mark on; needs -o"
    )
    parser.add_argument("--cards", action="store_true", help="with -o, each shot by itself after the table")
    parser.add_argument("--csv", action="store_true", help="write a table")
    parser.add_argument("--json", action="store_true", help="write JSON")
    parser.add_argument("-o", "--output", type=Path, metavar="FILE", help=f"write a file: {', '.join(_ENDINGS)}")
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Print the sheet, or the command lines; or write them to a file."""
    film = open_now(args.project, args.seed)
    project = film.project
    if args.cards and (args.pictures or args.output is None or args.output.suffix.lower() not in _PAGES):
        raise InputError(f"--cards are part of a page: {', '.join(_PAGES)}.", "Say where with -o sheet.pdf.")
    if args.pictures:
        return _write_pictures(film, args.output)
    pieces = _by_machine(film) if args.by_machine else whole_shots(project)
    lines = () if args.template is None else tuple(command_line(args.template, project, piece) for piece in pieces)
    sheet = settings_sheet(project, pieces)
    if args.output is not None:
        ending = args.output.suffix.lower()
        if ending not in _ENDINGS:
            raise InputError(f"-o {args.output.name}: a sheet is {', '.join(_ENDINGS)}.", "Nothing was written.")
        if ending in (".csv", ".json"):
            write_whole((sheet_csv if ending == ".csv" else sheet_json)(sheet), args.output)
        else:
            page = sheet_page(project, sheet, datetime.now(UTC), lines, cards=args.cards)
            (write_pdf if ending == ".pdf" else write_whole)(page, args.output)
        return 0
    if lines:
        print(json.dumps(lines, indent=1) if args.json else "\n".join(lines))
    else:
        print((sheet_json if args.json else sheet_csv if args.csv else sheet_text)(sheet).rstrip("\r\n"))
    return 0


def _write_pictures(film: Film, output: Path | None) -> int:
    ending = "" if output is None else output.suffix.lower()
    if output is None or ending not in _PAGES:
        raise InputError(f"A picture sheet is a file: {', '.join(_PAGES)}.", "Say where with -o pictures.pdf.")
    (write_pdf if ending == ".pdf" else write_whole)(picture_page(film, datetime.now(UTC)), output)
    return 0


def _by_machine(film: Film) -> tuple[Piece, ...]:
    if not film.fit.known or not film.project.machines:
        raise InputError("Who renders which frames is not known.", "Time a frame, and add a machine.")
    return pieces_of(film.project, film.run)
