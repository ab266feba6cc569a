"""Where the picture of a trial lies. Files are looked for, not read; loads nothing heavy."""

from pathlib import Path

from pemlo.core.project.trials import Trial


def picture_path(trial: Trial, folder: Path) -> Path | None:
    """Return the picture of a trial, relative names taken from a folder; None if it is not there."""
    path = folder / trial.picture if trial.picture else None
    return path if path is not None and path.is_file() else None
