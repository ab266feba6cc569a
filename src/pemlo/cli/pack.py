"""``pemlo pack``: the whole project with its pictures as one folder that opens elsewhere."""

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from pemlo.core.persistence.document import read_project
from pemlo.core.units import MIB, counted, round_figures
from pemlo.handover.whole_project import pack_of, write_pack

MOST_NAMED = 3
_DESCRIPTION = """Writes the project and its pictures into one folder, with names that hold there. With --weigh it is
only said what that would weigh."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("folder", type=Path, help="which is not there yet, or empty")
    parser.add_argument("--weigh", action="store_true", help="write nothing")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Say what the folder weighs, and write it."""
    project = read_project(args.project)
    pack = pack_of(project, args.project.resolve().parent)
    print(f"{counted(len(pack.files), 'picture file')}, {round_figures(pack.bytes / MIB)} MiB")
    if pack.missing:
        print(f"pemlo: {counted(len(pack.missing), 'picture')} not there: {_named(pack.missing)}", file=sys.stderr)
    if pack.left_aside:
        left_out = f"{counted(len(pack.left_aside), 'file')} left out, not pictures: {_named(pack.left_aside)}"
        print(f"pemlo: {left_out}", file=sys.stderr)
    if not args.weigh:
        print(f"{write_pack(pack, args.folder, args.project.name)}: written")
    return 0


def _named(files: Sequence[str]) -> str:
    return ", ".join(files[:MOST_NAMED]) + (", …" if len(files) > MOST_NAMED else "")
