"""Picks between the command line and the window: a command goes to `cli`, a project file or nothing opens `gui`."""

import sys

INTERRUPTED = 130


def main() -> int:
    """Run what the arguments ask for and return the exit code."""
    try:
        return _run(sys.argv[1:])
    except KeyboardInterrupt:  # while a command is being loaded
        return INTERRUPTED


def _run(arguments: list[str]) -> int:
    from pemlo.cli import main as cli

    if cli.is_command(arguments):
        return cli.main(arguments)
    from pemlo.gui.start import start

    return start(arguments)


if __name__ == "__main__":
    sys.exit(main())
