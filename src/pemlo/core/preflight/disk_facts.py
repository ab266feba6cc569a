"""What the disk says of the folders that a launch names. Files only; writes nothing."""

import os
import shutil
from pathlib import Path

from pemlo.core.preflight.check_context import CheckContext, FolderFacts
from pemlo.core.preflight.disk import folder_of

GIB = 2**30


def folder_facts(here: CheckContext, root: Path) -> dict[str, FolderFacts]:
    """Return what is known of every folder into which frames are to be written, by the name that the launch gives it.

    Parameters
    ----------
    here : CheckContext
    root : path
        From where folders are meant.
    """
    names = {folder_of(path) for paths in here.paths for path in paths[:1]}
    return {name: _facts(root / name) for name in sorted(names)}


def _facts(folder: Path) -> FolderFacts:
    try:
        is_folder = folder.is_dir()
        nearest = folder
        while not nearest.exists() and nearest != nearest.parent:
            nearest = nearest.parent
        writable = nearest.is_dir() and os.access(nearest, os.W_OK | os.X_OK)
    except OSError:  # a name that no disk takes
        return FolderFacts(is_folder=False, writable=False, free_gib=float("nan"), names=frozenset())
    try:
        free = shutil.disk_usage(nearest).free / GIB
    except OSError:
        free = float("nan")
    try:
        names = frozenset(os.listdir(folder)) if is_folder else frozenset()  # noqa: PTH208 - names alone
    except OSError:
        names = frozenset()
    return FolderFacts(is_folder, writable, free, names)
