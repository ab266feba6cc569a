"""How words of the command line are read, where more than one command has them."""

import argparse
import math
import sys
from collections.abc import Sequence

from pemlo.core.cluster import Cluster, address_of
from pemlo.core.foreign import shown

LARGEST_SEED = 2**63 - 1
MOST_TITLES, LONGEST_TITLE = 12, 60
MOST_STOPS = 30.0  # a billion times as bright, or as dark: beyond there is nothing to be seen


def seed(text: str) -> int:
    """Read a seed, a whole number of 0 or more."""
    return _between(text, 0, LARGEST_SEED, f"no seed: a whole number from 0 to {LARGEST_SEED}")


def finite(text: str) -> float:
    """Read a number, neither infinite nor “not a number”."""
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise argparse.ArgumentTypeError(f"“{text[:40]}” is not a number")
    return value


def stops(text: str) -> float:
    """Read an exposure."""
    value = finite(text)
    if abs(value) > MOST_STOPS:
        raise argparse.ArgumentTypeError(f"{text[:40]} stops show nothing; {MOST_STOPS:g} either way are the most")
    return value


def whole(text: str) -> int:
    """Read a whole number that fits into 64 bits."""
    return _between(text, -LARGEST_SEED - 1, LARGEST_SEED, "not a whole number")


def _between(text: str, least: int, most: int, what: str) -> int:
    try:
        value = int(text)
    except ValueError:
        value = most + 1
    if not least <= value <= most:
        raise argparse.ArgumentTypeError(f"“{text[:40]}” is {what}")
    return value


def cluster(text: str) -> Cluster:
    """Read where a cluster is."""
    try:
        return Cluster(address_of(text))
    except ValueError as error:
        raise argparse.ArgumentTypeError(str(error)) from error


def add_cluster(parser: argparse.ArgumentParser) -> None:
    """Let a command have its large work done by other machines."""
    parser.add_argument(
        "--on", type=cluster, metavar="dask://HOST:PORT", help="spread the work over a Dask cluster; the same numbers"
    )


def add_formats(parser: argparse.ArgumentParser) -> None:
    """Let a command be asked for plain data in place of words."""
    formats = parser.add_mutually_exclusive_group()
    formats.add_argument("--json", action="store_true", help="write JSON")
    formats.add_argument("--csv", action="store_true", help="write its table as CSV")


def say_not_used(name: str, titles: Sequence[str]) -> None:
    """Say on standard error which columns of a table were not used."""
    if titles:
        listed = ", ".join(f"“{shown(title, LONGEST_TITLE)}”" for title in titles[:MOST_TITLES])
        more = f" and {len(titles) - MOST_TITLES} more" if len(titles) > MOST_TITLES else ""
        print(f"pemlo: not used of {name}: {listed}{more}. They are kept with their rows.", file=sys.stderr)
