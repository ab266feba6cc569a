"""Whether a picture fits into memory, asked before it is read."""

from pathlib import Path

from pemlo.core.errors import FileError
from pemlo.core.units import GIB

ASKED_FROM = 2**28  # bytes: less than that every machine has
USABLE = 0.7  # of what is free: others want some too
_MEMINFO = Path("/proc/meminfo")


def free_bytes() -> int | None:
    """Return the memory that can be had without pushing others out, None if the system does not tell."""
    try:
        lines = _MEMINFO.read_text(encoding="ascii").splitlines()
        return next(1024 * int(line.split()[1]) for line in lines if line.startswith("MemAvailable:"))
    except (OSError, ValueError, IndexError, StopIteration):
        return None


def see_that_it_fits(name: str, size: tuple[int, int], needed: int) -> None:
    """Refuse to read what does not fit into memory.

    Parameters
    ----------
    name : str
        Of the picture.
    size : tuple of int
        Width and height, px.
    needed : int
        Bytes.

    Raises
    ------
    FileError
    """
    if needed < ASKED_FROM:
        return
    free = free_bytes()
    if free is not None and needed > USABLE * free:
        raise FileError(
            f"{name} is {size[0]}×{size[1]} px: that takes {needed / GIB:.1f} GiB, and {free / GIB:.1f} are free.",
            "Bring in a smaller copy of it, or close other programs.",
            "memory",
        )
