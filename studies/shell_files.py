"""Writes what shells complete and man shows of the commands, made from their parsers, into ``packaging/shell``."""

import argparse
from pathlib import Path

import shtab
from argparse_manpage.manpage import Manpage

from pemlo.cli.main import whole_parser

FOLDER = Path(__file__).parents[1] / "packaging/shell"
SHELLS = {"bash": "pemlo", "zsh": "_pemlo", "fish": "pemlo.fish"}
MAN = "pemlo.1"
ABOUT = "forecast how long an animation takes to render, and make it fit"
WIDTH = 100  # letters of a line of help, whatever the terminal's


def files() -> dict[str, str]:
    """Return each file's text by its name."""
    parser = whole_parser(WIDTH)
    _complete_files(parser)
    made = {name: shtab.complete(parser, shell=shell) for shell, name in SHELLS.items()}
    page = Manpage(parser)
    page.manual, page.date = "Pemlo", ""
    made[MAN] = str(page).replace(".SH NAME\npemlo\n", f".SH NAME\npemlo \\- {ABOUT}\n", 1)
    return {name: text.rstrip() + "\n" for name, text in made.items()}


def _complete_files(parser: argparse.ArgumentParser) -> None:
    """Let what is the path of a file be completed as one."""
    for action in parser._actions:  # noqa: SLF001 - argparse has no other way to list them
        if action.type is Path:
            action.complete = shtab.FILE  # type: ignore[attr-defined]
        if isinstance(action, argparse._SubParsersAction):  # noqa: SLF001 - as above
            for command in action.choices.values():
                _complete_files(command)


if __name__ == "__main__":
    for name, text in files().items():
        (FOLDER / name).write_text(text)
