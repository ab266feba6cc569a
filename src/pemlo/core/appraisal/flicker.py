"""What changes along a sequence of picture files: flicker, and what leaving frames out costs. Files; may take long."""

from collections.abc import Sequence
from contextlib import ExitStack
from pathlib import Path

from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.files.sequence import Sequence as FrameSequence
from pemlo.core.measure.motion import Flicker, flicker, stepping
from pemlo.core.pixels.display import F32, Display
from pemlo.core.pixels.source import Source, at_size, read_whole
from pemlo.core.progress import Monitor, Unwatched

MOST_STEPPED = 9


def flicker_along(
    paths: Sequence[Path], display: Display, reading: ReadOptions | None = None, monitor: Monitor | None = None
) -> tuple[Flicker, ...]:
    """Return the flicker between each picture and the next: one less than there are pictures.

    Raises
    ------
    FileError
        If one cannot be read.
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    found: list[Flicker] = []
    before: F32 | None = None
    size = (0, 0)
    for number, path in enumerate(paths):
        watch.step(number / len(paths), f"Measuring flicker, {path.name}")
        with PictureFile(path, reading) as file:
            size = size if before is not None else file.size
            codes = display.codes(read_whole(at_size(file, size)).colour)
        if before is not None:
            found.append(flicker(before, codes))
        before = codes
    return tuple(found)


def stepping_along(
    paths: Sequence[Path], display: Display, noise: float, reading: ReadOptions | None = None
) -> tuple[float, float]:
    """Return the error of rendering every second frame of a sequence, held and mixed, display codes.

    Parameters
    ----------
    paths : sequence of path
        Of consecutive frames; the first `MOST_STEPPED` of them count.
    noise : float
        What a frame varies by itself, display codes.
    """
    with ExitStack() as files:
        frames: list[Source] = [files.enter_context(PictureFile(path, reading)) for path in paths[:MOST_STEPPED]]
        held, mixed = (stepping(frames, 2, display, blend=blend, noise=noise) for blend in (False, True))
    return held, mixed


def along(
    run: FrameSequence, display: Display, reading: ReadOptions | None = None, monitor: Monitor | None = None
) -> tuple[tuple[Flicker, ...], tuple[float, float] | None]:
    """Return flicker along a sequence, and the error of every second frame; None if three frames do not follow."""
    paths = list(run.paths.values())
    values = flicker_along(paths, display, reading, monitor)
    frames = list(run.paths)
    row = next((k for k in range(len(frames) - 2) if frames[k + 2] == frames[k] + 2), None)
    if row is None:
        return values, None
    end = row
    while end + 1 < len(frames) and frames[end + 1] == frames[end] + 1:
        end += 1
    known = [one.value for one in values if one.value is not None]
    noise = sorted(known)[len(known) // 2] if known else 0.0
    return values, stepping_along(paths[row : end + 1], display, noise, reading)
