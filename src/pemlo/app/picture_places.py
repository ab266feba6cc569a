"""Where the pictures of trials lie. Files are named, not read; what looks for them says so. Qt-free."""

from pathlib import Path
from zlib import crc32

import platformdirs

from pemlo.core.files.trial_pictures import SMALL, small_beside
from pemlo.core.project.trials import Trial


def folder_for(project_file: Path | None) -> Path:
    """Return where new pictures go: beside the project's file, or among the user's data while it has none."""
    if project_file is None:
        return Path(platformdirs.user_data_dir("pemlo", appauthor=False)) / "pictures"
    return project_file.parent / f"{project_file.stem} pictures"


def named_picture(trial: Trial, project_file: Path | None) -> Path | None:
    """Return where a trial's picture should be, None if it has none."""
    if not trial.picture:
        return None
    return base_folder(project_file) / trial.picture


def base_folder(project_file: Path | None) -> Path:
    """Return the folder from which relative names of pictures are taken, where somebody typed one."""
    return project_file.parent if project_file is not None else folder_for(None)


def small_beside_project(picture: Path, project_file: Path | None) -> Path:
    """Return where the small copy of somebody else's picture goes: never into the picture's own folder.

    Looks at the disk, which may be slow.
    """
    folder = crc32(str(picture.parent.resolve()).encode())
    return folder_for(project_file) / "small" / f"{picture.stem}-{folder:08x}{SMALL}"


def small_of(picture: Path | None, project_file: Path | None = None) -> Path | None:
    """Return the small picture that goes with a picture, which need not be there itself, or may be small enough.

    Looks at the disk, which may be slow.
    """
    if picture is None:
        return None
    for small in (*small_beside(picture), small_beside_project(picture, project_file)):
        if small.exists():
            return small
    return picture if picture.suffix.lower() in {".jpg", ".jpeg", ".png"} and picture.exists() else None
