"""Timecode after SMPTE ST 12-1, drop-frame too, through OpenTimelineIO; other rates count the same way. Pure."""

import math
import re

from pemlo.core.project.delivery import exact_rate

_PARTS = re.compile(r"(\d{2}):(\d{2}):(\d{2})([:;.,])(\d{2,3})")
DAY_S = 86_400


def counts_drop(fps: float) -> bool:
    """Whether drop-frame timecode is there for a rate: for multiples of 30000/1001 alone."""
    thirty = exact_rate(fps) * 1001 / 30000
    return abs(thirty - round(thirty)) < 1e-9 and round(thirty) > 0


def nominal(fps: float) -> int:
    """Return how many frames timecode counts in a second: 24 for 24000/1001."""
    return max(1, math.ceil(fps - 1e-6))


def timecode(frame: int, fps: float, *, drop: bool = False) -> str:
    """Return the timecode of a frame.

    Parameters
    ----------
    frame : int
        >= 0, counted from 00:00:00:00.
    fps : float
        Frames a second, > 0.
    drop : bool
        Leave out numbers, so that timecode keeps up with the clock; only for multiples of 30000/1001.

    Raises
    ------
    ValueError
        If the frame is below 0, or the rate has no drop-frame timecode.

    References
    ----------
    .. [1] SMPTE ST 12-1:2014, "Time and control code", 5.2.2: of each minute but every tenth, numbers 00 and 01 are
       left out.

    Examples
    --------
    >>> timecode(1800, 30000 / 1001, drop=True), timecode(1800, 30000 / 1001), timecode(86_400, 24)
    ('00:01:00;02', '00:01:00:00', '01:00:00:00')
    """
    from opentimelineio.opentime import RationalTime  # noqa: PLC0415 - only where timecode is asked for

    fps = exact_rate(fps)
    if frame < 0:
        raise ValueError("timecode begins at frame 0")
    if drop and not counts_drop(fps):
        raise ValueError(f"there is no drop-frame timecode at {fps:g} frames a second")
    frame %= _frames_of_day(fps, drop=drop)
    if drop and nominal(fps) <= 60:
        return str(RationalTime(frame, fps).to_timecode(fps, True))
    count = nominal(fps)
    seconds, rest = divmod(frame, count)
    wide = len(str(count - 1))
    return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}:{rest:0{max(wide, 2)}d}"


def _frames_of_day(fps: float, *, drop: bool) -> int:
    if drop:
        return round(fps * 1001 / 30000) * 17_982 * 6 * 24
    return nominal(fps) * DAY_S


def frame_of(text: str, fps: float) -> int:
    """Return the frame of a timecode; a semicolon before the frames means drop-frame.

    Raises
    ------
    ValueError
        If it is no timecode of that rate, or one whose number is left out.

    Examples
    --------
    >>> frame_of("00:10:00;00", 30000 / 1001), frame_of("01:00:00:00", 25)
    (17982, 90000)
    """
    match = _PARTS.fullmatch(text.strip())
    if match is None:
        raise ValueError(f"“{text}” is no timecode; it is written like 01:00:04:12")
    hours, minutes, seconds, frames = (int(match[k]) for k in (1, 2, 3, 5))
    count, drop = nominal(fps), match[4] in ";,"
    if hours > 23 or minutes > 59 or seconds > 59:
        raise ValueError(f"“{text}” has no such time of day")
    if frames >= count:
        raise ValueError(f"“{text}” has a frame {frames:02d}, and a second of {count} frames ends with {count - 1:02d}")
    whole = ((hours * 60 + minutes) * 60 + seconds) * count + frames
    if not drop:
        return whole
    if not counts_drop(fps):
        raise ValueError(f"“{text}” is drop-frame, which there is not at {fps:g} frames a second")
    left_out = 2 * (count // 30)
    if minutes % 10 and seconds == 0 and frames < left_out:
        raise ValueError(f"“{text}” is a number that drop-frame timecode leaves out")
    total = hours * 60 + minutes
    return whole - left_out * (total - total // 10)
