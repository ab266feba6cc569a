"""Reads the command line and runs one command. Exit codes: 0 done, 2 wrong input, 1 a bug."""

import argparse
import sys
import traceback
from collections.abc import Sequence

from pemlo import __version__
from pemlo.cli import estimate, measure, new, plan, predict, render
from pemlo.core.errors import InputError, PemloError

COMMANDS = ("new", "estimate", "predict", "render", "measure", "plan")
DONE, BUG, WRONG_INPUT = 0, 1, 2


def parser() -> argparse.ArgumentParser:
    """Return the parser of all commands."""
    top = argparse.ArgumentParser(
        prog="pemlo",
        description="Forecast how long an animation takes to render.",
        epilog="pemlo [--demo | job.pemlo] opens the window.",
    )
    top.add_argument("--version", action="version", version=f"pemlo {__version__}")
    commands = top.add_subparsers(dest="command", metavar="command", required=True)
    for module in (new, estimate, predict, render, measure, plan):
        module.add_parser(commands)
    return top


def main(arguments: Sequence[str]) -> int:
    """Run a command and return its exit code; what is wrong goes to standard error."""
    args = parser().parse_args(arguments)
    try:
        return int(args.run(args))
    except InputError as error:
        for problem in error.problems:
            print(f"pemlo: {problem}", file=sys.stderr)
        if error.hint:
            print(error.hint, file=sys.stderr)
        return WRONG_INPUT
    except PemloError as error:
        print(f"pemlo: {error}", file=sys.stderr)
        return WRONG_INPUT
    except BrokenPipeError:
        sys.stderr.close()
        return DONE
    except Exception:  # noqa: BLE001 - the last fence: a bug must end with its own exit code
        traceback.print_exc()
        print("pemlo: this is a bug in Pemlo; the lines above say where.", file=sys.stderr)
        return BUG
