"""Reads the command line and runs one command. Exit codes: 0 done, 2 wrong input, 130 stopped by Ctrl+C, 1 a bug."""

import argparse
import errno
import io
import os
import sys
import traceback
from collections.abc import Sequence
from contextlib import redirect_stderr, redirect_stdout
from difflib import get_close_matches
from functools import partial
from importlib import import_module
from pathlib import Path
from typing import Any, TextIO, cast

from pemlo import __version__
from pemlo.core.errors import InputError, PemloError
from pemlo.core.foreign import shown, visible


class PlainStream:
    """A stream of text that obeys nobody but the program: what cannot be seen is written by its number."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        self._stream.write(visible(text))
        return len(text)

    def writelines(self, lines: list[str]) -> None:
        for line in lines:
            self.write(line)

    def __getattr__(self, name: str) -> Any:  # noqa: ANN401 - all else is the stream's own
        return getattr(self._stream, name)


# In the order of the work. Each is a file of this folder; only the one that is run is loaded.
COMMANDS = {
    "new": "make a project from tables of shots, trials and machines",
    "estimate": "say how long each shot and the film take, and the chance",
    "predict": "say how long one frame takes with other settings",
    "way": "keep how a frame is rendered: your own command, with fields in braces",
    "trial": "render trials by your own command, and put them into the project",
    "compare": "put two ways of rendering side by side",
    "plan": "choose what to give up, so that the film is ready in time",
    "finish": "say when the last frame is done, machine by machine",
    "check": "check a launch before it is made",
    "sheet": "write what to enter for each shot, or command lines from a template",
    "case": "write the case for a producer: verdict, what was given up, what more would buy",
    "watch": "say what has come in, when the rest is done, and what is wrong",
    "missing": "say which frames of a shot are not there, and who renders what next",
    "edit": "say what a changed edit does to the film, and take it in",
    "movie": "write a review movie from finished or trial frames",
    "pack": "write the project with its pictures as one folder that opens elsewhere",
    "measure": "say how noisy a picture is, and how far from a cleaner one",
    "render": "render a frame of a demo scene with the renderer that ships with Pemlo",
    "farm": "render a plan on the small farm that ships with Pemlo, into a folder",
}
SIMULATORS = ("render", "farm")  # programs of their own, not of this folder
EXAMPLES = {
    "new": 'new --title "Film" --start 2031-04-21T10:00 --deadline 2031-04-24T18:00 --shots shots.csv -o film.pemlo',
    "estimate": "estimate film.pemlo",
    "predict": "predict film.pemlo --shot 070 --frame 41 --samples 128",
    "way": "way film.pemlo main --command 'draw {scene} -f {frame} -s {samples} -o {out}'",
    "trial": "trial film.pemlo --way main --minutes 40",
    "compare": "compare film.pemlo --shot 070 asked noise_threshold=0.075,denoise=frame",
    "plan": "plan film.pemlo --goal picture --adopt",
    "finish": "finish film.pemlo --takes --calendar run.ics",
    "check": "check film.pemlo --launch launch.csv",
    "sheet": "sheet film.pemlo -o sheet.pdf",
    "case": "case film.pemlo -o case.pdf",
    "watch": 'watch film.pemlo --place "renders/{shot}/{shot}.{frame:04}.exr" --once',
    "missing": "missing film.pemlo --shot 070",
    "edit": "edit film.pemlo reel.otio --take",
    "movie": "movie film.pemlo -o review.mp4",
    "pack": "pack film.pemlo folder",
    "measure": "measure a.exr another-seed.exr --reference clean.exr",
    "render": "render --scene stairs --frame 20 --samples 64 -o out.exr",
    "farm": "farm film.pemlo --into renders --clock 600",
}
HELP = "help"
DONE, BUG, WRONG_INPUT, INTERRUPTED = 0, 1, 2, 130


def parser(command: str = "") -> argparse.ArgumentParser:
    """Return the parser of all commands; it knows the arguments of one."""
    top = argparse.ArgumentParser(
        prog="pemlo",
        description="Forecast how long an animation takes to render.",
        epilog="pemlo help COMMAND says more of one. pemlo [--demo | film.pemlo] opens the window.",
    )
    top.add_argument("--version", action="version", version=f"pemlo {__version__}")
    commands = top.add_subparsers(dest="command", metavar="command", required=True)
    for name, words in COMMANDS.items():
        made = commands.add_parser(name, help=words, epilog=f"Example: pemlo {EXAMPLES[name]}")
        if name == command:
            _module_of(name).add_arguments(made)
    return top


def _module_of(name: str) -> Any:  # noqa: ANN401 - a module
    return import_module(f"pemlo_simulators.{name}_command" if name in SIMULATORS else f"pemlo.cli.{name}")


def whole_parser(width: int) -> argparse.ArgumentParser:
    """Return the parser of all commands with the arguments of each, in lines of so many letters."""
    top = argparse.ArgumentParser(
        prog="pemlo",
        description="Forecast how long an animation takes to render. pemlo [--demo | film.pemlo] opens the window.",
        formatter_class=partial(argparse.HelpFormatter, width=width),
    )
    top.add_argument("--version", action="version", version=f"pemlo {__version__}")
    commands = top.add_subparsers(dest="command", metavar="command")
    for name, words in COMMANDS.items():
        made = commands.add_parser(
            name, help=words, formatter_class=partial(argparse.HelpFormatter, width=width),
            epilog=f"Example: pemlo {EXAMPLES[name]}",
        )  # fmt: skip
        _module_of(name).add_arguments(made)
    return top


def is_command(arguments: Sequence[str]) -> bool:
    """Return whether arguments are for a command, and not for the window: a word that is no file is meant as one."""
    if not arguments:
        return False
    first = arguments[0]
    if first in COMMANDS or first in (HELP, "-h", "--help", "--version"):
        return True
    is_word = not first.startswith("-") and not Path(first).suffix and os.sep not in first
    return is_word and not Path(first).exists()


def main(arguments: Sequence[str]) -> int:
    """Run a command and return its exit code; what is wrong goes to standard error."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")  # a narrow encoding of the terminal is no reason to say nothing
    with redirect_stdout(_plain(sys.stdout)), redirect_stderr(_plain(sys.stderr)):
        return _run(arguments)


def _plain(stream: TextIO) -> TextIO:
    return cast("TextIO", PlainStream(stream))


def _run(arguments: Sequence[str]) -> int:
    if arguments and arguments[0] == HELP:
        arguments = [*arguments[1:2], "--help"]
    if arguments and not arguments[0].startswith("-") and arguments[0] not in COMMANDS:
        return _no_command(arguments[0])
    args = parser(arguments[0] if arguments else "").parse_args(arguments)
    try:
        code = int(args.run(args))
        sys.stdout.flush()
    except PemloError as error:
        code = _refuse(error)
    except KeyboardInterrupt:
        code = INTERRUPTED
    except BrokenPipeError:
        sys.stderr.close()
        code = DONE
    except OSError as error:
        code = _no_room() if error.errno == errno.ENOSPC else _bug()
    except Exception:  # noqa: BLE001 - the last fence: a bug must end with its own exit code
        code = _bug()
    return code


def _no_command(name: str) -> int:
    near = get_close_matches(name, COMMANDS, 1)
    meant = f" Did you mean {near[0]}?" if near else ""
    print(f"pemlo: there is no command or project “{shown(name, 40)}”.{meant}", file=sys.stderr)
    print("pemlo help lists the commands.", file=sys.stderr)
    return WRONG_INPUT


def _refuse(error: PemloError) -> int:
    if isinstance(error, InputError):
        for problem in error.problems:
            print(f"pemlo: {problem}", file=sys.stderr)
        if error.hint:
            print(error.hint, file=sys.stderr)
    else:
        print(f"pemlo: {error}", file=sys.stderr)
    return WRONG_INPUT


def _no_room() -> int:
    # What is not written yet would be tried again at the end, and fail there with words for programmers.
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    print("pemlo: there is no room for what is to be written.", file=sys.stderr)
    return WRONG_INPUT


def _bug() -> int:
    traceback.print_exc()
    print("pemlo: this is a bug in Pemlo; the lines above say where.", file=sys.stderr)
    return BUG
