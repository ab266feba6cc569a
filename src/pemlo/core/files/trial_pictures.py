"""Where the picture of a trial lies. Files are looked for, not read; loads nothing heavy."""

from pathlib import Path

from pemlo.core.project.trials import Trial

SMALL = ".small.jpg"
_SMALL_ENDINGS = (SMALL, ".small.png")


def picture_path(trial: Trial, folder: Path) -> Path | None:
    """Return the picture of a trial, relative names taken from a folder; None if it is not there."""
    path = folder / trial.picture if trial.picture else None
    return path if path is not None and path.is_file() else None


def small_beside(picture: Path) -> tuple[Path, ...]:
    """Return where small copies beside a picture may lie, which itself need not be there.

    Examples
    --------
    >>> [path.name for path in small_beside(Path("a.0001.exr"))]
    ['a.0001.small.jpg', 'a.0001.small.png']
    """
    stem = picture.name.removesuffix(picture.suffix)
    return tuple(picture.with_name(stem + ending) for ending in _SMALL_ENDINGS)
