"""``pemlo case``: a report for those who decide, as one HTML file or as PDF."""

import argparse
import sys
from datetime import UTC, datetime
from pathlib import Path

from pemlo.cli.arguments import seed
from pemlo.cli.opened import open_now
from pemlo.core.errors import InputError
from pemlo.core.persistence.whole_files import write_whole
from pemlo.handover.case_facts import case_facts
from pemlo.handover.pages import case_page
from pemlo.handover.paper import write_pdf

_DESCRIPTION = """Writes what a producer needs to decide, to be read in two minutes: the verdict, what was given up and
what it saves, how it looks, what one more machine or day would buy, what is assumed. One file holds all it shows."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="FILE", help=".html or .pdf")
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Write the report."""
    ending = args.output.suffix.lower()
    if ending not in (".html", ".pdf"):
        raise InputError(f"-o {args.output.name}: a report is .html or .pdf.", "Nothing was written.")
    facts = case_facts(open_now(args.project, args.seed), datetime.now(UTC))
    page = case_page(facts)
    if ending == ".pdf":
        write_pdf(page, args.output)
    else:
        write_whole(page, args.output)
    print(f"{args.output}: written", file=sys.stderr)
    return 0
