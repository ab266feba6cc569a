"""Words of the command line for how pictures are seen."""

import argparse

from pemlo.cli.arguments import stops
from pemlo.core.pixels.display import Display, Srgb, View, check_view


def add_viewing(parser: argparse.ArgumentParser) -> None:
    """Take an exposure, and a view of a colour configuration."""
    parser.add_argument("--exposure", type=stops, default=0.0, metavar="STOPS")
    parser.add_argument(
        "--view", nargs=3, metavar=("CONFIG", "DISPLAY", "VIEW"), help="a view of a colour configuration"
    )


def display_of(args: argparse.Namespace) -> Display:
    """Return from light to what is seen, as it was asked for.

    Raises
    ------
    InputError
        If the configuration has no such view.
    """
    if not args.view:
        return Srgb(args.exposure)
    configuration, display, name = args.view
    view = View(configuration, display, name, args.exposure)
    check_view(view)
    return view
