"""An edit as Pemlo takes it: each shot once, with the frames that the edit needs of it. Pure."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from pemlo.core.project.names import safe_name

ENDINGS = (".otio", ".edl")
HINT = "Nothing was changed; correct the edit list, or write it anew."
_LONGEST_TEXT = 1000
_ENDING = re.compile(r"\.(?:mov|mp4|mxf|avi|mkv|webm|exr|png|tiff?|dpx|jpe?g)$", re.IGNORECASE)
_NUMBERS = re.compile(r"[._]?(?:\[[\d-]{1,40}\]|%0?\d{0,9}d|#{1,40})$")


@dataclass(frozen=True)
class Cut:
    """One clip of an edit.

    Attributes
    ----------
    name : str
    first, last : int
        Frames of its material, at its own rate, transitions and retimes counted.
    fps : float
        Of its material.
    at_s : float
        Where it begins in the edit, seconds of the clock that the edit counts by.
    speed : float
        1 unless it is retimed; 0 for a frame that stands, below 0 backwards.
    """

    name: str
    first: int
    last: int
    fps: float
    at_s: float
    speed: float = 1.0


@dataclass(frozen=True)
class CutShot:
    """A shot as the edit uses it: all its clips together.

    Attributes
    ----------
    name : str
    first, last : int
        Frames of its material.
    fps : float
    at_s : float
        Where it is first seen, seconds.
    times : int
        Into how many clips it was cut.
    speeds : tuple of float
        Of clips that are retimed.
    """

    name: str
    first: int
    last: int
    fps: float
    at_s: float
    times: int
    speeds: tuple[float, ...]

    @property
    def count(self) -> int:
        return self.last - self.first + 1


@dataclass(frozen=True)
class Edit:
    """An edit: its shots in the order in which they are first seen, and what was left aside."""

    name: str
    fps: float
    shots: tuple[CutShot, ...]
    left_aside: tuple[str, ...] = ()


def shots_of(cuts: Sequence[Cut]) -> tuple[CutShot, ...]:
    """Return each shot once, with all frames that any of its clips needs."""
    by_name: dict[str, list[Cut]] = {}
    for cut in sorted(cuts, key=lambda cut: cut.at_s):
        by_name.setdefault(cut.name, []).append(cut)
    return tuple(
        CutShot(
            name,
            min(cut.first for cut in mine),
            max(cut.last for cut in mine),
            mine[0].fps,
            mine[0].at_s,
            len(mine),
            tuple(dict.fromkeys(cut.speed for cut in mine if cut.speed != 1)),
        )
        for name, mine in by_name.items()
    )


def shot_name(text: str) -> str:
    """Return the name of a shot from that of a clip, without ending, frame numbers, and what no shot may be called.

    Examples
    --------
    >>> shot_name("070_v003.mov"), shot_name("070.[1001-1096].exr"), shot_name(" 080 ")
    ('070_v003', '070', '080')
    """
    return safe_name(_NUMBERS.sub("", _ENDING.sub("", text.strip()[:_LONGEST_TEXT])))
