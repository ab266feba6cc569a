"""Reads the command line and runs one command. Exit codes: 0 done, 2 wrong input, 1 a bug."""

import argparse
import sys
import traceback
from collections.abc import Sequence
from importlib import import_module

from pemlo import __version__
from pemlo.core.errors import InputError, PemloError

# Each is a file of this folder; only the one that is run is loaded.
COMMANDS = {
    "new": "make a project from tables of shots, trials and machines",
    "estimate": "say how long each shot and the film take, and the odds",
    "predict": "say how long one frame takes with other settings",
    "render": "render a frame of a demo scene with the renderer that ships with Pemlo",
    "measure": "say how noisy a picture is, and how far from a cleaner one",
    "plan": "choose what to give up, so that the film is ready in time",
}
DONE, BUG, WRONG_INPUT = 0, 1, 2


def parser(command: str = "") -> argparse.ArgumentParser:
    """Return the parser of all commands; it knows the arguments of one."""
    top = argparse.ArgumentParser(
        prog="pemlo",
        description="Forecast how long an animation takes to render.",
        epilog="pemlo [--demo | job.pemlo] opens the window.",
    )
    top.add_argument("--version", action="version", version=f"pemlo {__version__}")
    commands = top.add_subparsers(dest="command", metavar="command", required=True)
    for name, words in COMMANDS.items():
        made = commands.add_parser(name, help=words)
        if name == command:
            import_module(f"pemlo.cli.{name}").add_arguments(made)
    return top


def main(arguments: Sequence[str]) -> int:
    """Run a command and return its exit code; what is wrong goes to standard error."""
    args = parser(arguments[0] if arguments else "").parse_args(arguments)
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
