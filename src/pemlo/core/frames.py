"""Sets of frames, written and read as the trade writes them. Pure; the notation is read by fileseq.

A set is a tuple of frame numbers in rising order, without repeats.
"""

import re
from collections.abc import Sequence
from itertools import pairwise

from pemlo.core.errors import InputError
from pemlo.core.foreign import shown

MOST_FRAMES = 1_000_000
Range = tuple[int, int]
_PART = re.compile(r"(-?\d{1,9})(?:-(-?\d{1,9})(?:x(\d{1,9}))?)?")


def parse_frames(text: str) -> tuple[int, ...]:
    """Read a set of frames.

    Parameters
    ----------
    text : str
        Numbers and ranges with commas: ``1-10, 25-30``; ``x`` and a step: ``1-300x2``.

    Returns
    -------
    tuple of int
        Rising, without repeats.

    Raises
    ------
    InputError
        If the text is empty or cannot be read, a range falls, a step is zero, or there are over a million frames.

    Examples
    --------
    >>> parse_frames("1-4, 10-20x5")
    (1, 2, 3, 4, 10, 15, 20)
    """
    hint = "Write frames like 1-10, 25-30 or 1-300x2."
    compact = "".join(text.split())
    parts = compact.split(",")
    count = 0
    for part in parts:
        if not _PART.fullmatch(part):
            raise InputError(f"“{shown(text)}” is not a set of frames.", hint)
        count += _length(part, text, hint)
        if count > MOST_FRAMES:  # those that stand there twice are counted twice: reading them takes as long
            raise InputError(f"“{shown(text)}” has more than a million frames.", hint)
    import fileseq  # noqa: PLC0415 - as heavy as all the rest of the core, and rarely asked

    return tuple(sorted({int(frame) for frame in fileseq.FrameSet(compact)}))


def _length(part: str, text: str, hint: str) -> int:
    match = _PART.fullmatch(part)
    if match is None or match[2] is None:
        return 1
    first, last, step = int(match[1]), int(match[2]), int(match[3] or 1)
    if last < first or step == 0:
        raise InputError(f"“{part}” in “{shown(text)}” runs backwards or has no step.", hint)
    return (last - first) // step + 1


def format_frames(frames: tuple[int, ...]) -> str:
    """Write a set of frames with ranges; the empty set is “none”.

    Examples
    --------
    >>> format_frames((1, 2, 3, 7, 9, 11)), format_frames(())
    ('1-3,7-11x2', 'none')
    """
    if not frames:
        return "none"
    import fileseq  # noqa: PLC0415 - as above

    return str(fileseq.framesToFrameRange(sorted(set(frames)), zfill=0, compress=False))


def ranges_of(frames: Sequence[int]) -> tuple[int, tuple[Range, ...]]:
    """Return the step of a set of frames, and the first and last of each of its ranges.

    Examples
    --------
    >>> ranges_of(parse_frames("1-10, 25-30")), ranges_of(parse_frames("1-9x2"))
    ((1, ((1, 10), (25, 30))), (2, ((1, 9),)))
    """
    gaps = [later - earlier for earlier, later in pairwise(frames)]
    step = min(gaps, default=1)
    starts = [0, *(at + 1 for at, gap in enumerate(gaps) if gap != step)]
    ends = [*(start - 1 for start in starts[1:]), len(frames) - 1]
    return step, tuple((frames[start], frames[end]) for start, end in zip(starts, ends, strict=True))


def format_ranges(ranges: Sequence[Range], step: int = 1) -> str:
    """Write ranges of frames.

    Examples
    --------
    >>> format_ranges([(1, 10), (25, 25)]), format_ranges([(1, 9)], 2)
    ('1-10, 25', '1-9x2')
    """
    every = f"x{step}" if step > 1 else ""
    return ", ".join(str(first) if first == last else f"{first}-{last}{every}" for first, last in ranges)


def stepped(first: int, last: int, step: int = 1) -> tuple[int, ...]:
    """Return every `step`-th frame from `first` to `last`, both counted.

    Examples
    --------
    >>> stepped(1, 10, 4)
    (1, 5, 9)
    """
    return tuple(range(first, last + 1, step))


def missing(wanted: tuple[int, ...], present: tuple[int, ...]) -> tuple[int, ...]:
    """Return the frames of `wanted` that `present` lacks.

    Examples
    --------
    >>> format_frames(missing(parse_frames("1-10"), parse_frames("1-3, 6")))
    '4-5,7-10'
    """
    return tuple(sorted(set(wanted) - set(present)))
