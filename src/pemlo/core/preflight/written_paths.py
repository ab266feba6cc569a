"""What a row of a launch writes: its frames, and the path of each. Pure text."""

import re

from pemlo.core.arrivals.place import place_of, with_frame_field
from pemlo.core.project.launch import LaunchRow

MOVIES = ("mp4", "mov", "avi", "mkv", "webm", "m4v", "mpg")
_FRAME = re.compile(r"\{frame(?::0?(\d+))?\}")


def frames_of_row(row: LaunchRow) -> range:
    """Return the frames that a row renders; none where its range is not known."""
    if row.first is None or row.last is None or row.last < row.first:
        return range(0)
    return range(row.first, row.last + 1, row.step or 1)


def one_file(row: LaunchRow) -> bool:
    """Return whether a row writes one file: a movie, or a still whose name needs no frame."""
    name = with_frame_field(row.pattern).rpartition("/")[2]
    return "{frame" not in name and (ending_is_movie(row.pattern) or len(frames_of_row(row)) <= 1)


def ending_is_movie(pattern: str) -> bool:
    """Return whether a name is that of a movie."""
    return pattern.rpartition(".")[2].lower() in MOVIES


def paths_of(row: LaunchRow) -> tuple[str, ...]:
    """Return the paths that a row writes, from its folder on; none where its name or range cannot be read.

    Examples
    --------
    >>> paths_of(LaunchRow(shot="070", first=9, last=10, pattern="{shot}.{frame:04}.exr", folder="r"))
    ('r/070.0009.exr', 'r/070.0010.exr')
    """
    if not row.pattern:
        return ()
    if one_file(row):
        path = re.sub(r"\{(?:layer|take)\}", "", row.pattern).replace("{shot}", row.shot)
        return (f"{row.folder}/{path}" if row.folder else path,)
    try:
        place = place_of(f"{row.folder}/{row.pattern}" if row.folder else row.pattern)
    except ValueError:
        return ()
    # Between its frames a path is the same: that is filled in once, and braces in it are no fields.
    texts = _FRAME.split("/".join(place.parts))
    fixed = [re.sub(r"\{(?:layer|take)\}", "", text).replace("{shot}", row.shot) for text in texts[::2]]
    wide = [int(digits or 1) for digits in texts[1::2]]
    plain, negative = (_form(fixed, wide, sign) for sign in ("", "-"))
    start = "/" if row.folder.startswith("/") else ""
    return tuple(
        start + (plain.format(frame) if frame >= 0 else negative.format(-frame)) for frame in frames_of_row(row)
    )


def first_path(row: LaunchRow) -> str:
    """Return the path of the first file that a row writes, from its folder on; empty where it cannot be read.

    Examples
    --------
    >>> first_path(LaunchRow(shot="070", first=9, last=900_000, pattern="{shot}.####.exr", folder="r"))
    'r/070.0009.exr'
    """
    counted = "{frame" in with_frame_field(row.pattern)
    return next(iter(paths_of(row.replace(last=row.first) if counted else row)), "")


def _form(fixed: list[str], wide: list[int], sign: str) -> str:
    """Return a path with one field for its frame, as often as it stands in it."""
    texts = [text.replace("{", "{{").replace("}", "}}") for text in fixed]
    fields = [f"{sign}{{0:0{digits}d}}" for digits in wide]
    return "".join(text + field for text, field in zip(texts, [*fields, ""], strict=True))
