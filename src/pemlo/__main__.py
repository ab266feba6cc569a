"""Picks between the command line and the window: a command goes to `cli`, a project file or nothing opens `gui`."""

import sys


def main() -> int:
    """Run what the arguments ask for and return the exit code."""
    arguments = sys.argv[1:]
    from pemlo.cli import main as cli

    if arguments and (arguments[0] in cli.COMMANDS or arguments[0] in ("-h", "--help", "--version")):
        return cli.main(arguments)
    from pemlo.gui.start import start

    return start(arguments)


if __name__ == "__main__":
    sys.exit(main())
