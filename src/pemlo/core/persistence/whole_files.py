"""Reading files with a limit, and writing them whole or not at all.

A save goes to a file beside the target, is flushed to the disk, and takes the target's name in one step: whoever dies
in between leaves the old file as it was. A link stays a link, rights stay as they were, and what two programs write at
once are two files, of which one wins.
"""

import errno
import fcntl
import os
import secrets
import stat
from contextlib import suppress
from pathlib import Path

from pemlo.core.errors import FileError

_BEFORE, _AFTER = ".pemlo-", ".saving"


def read_whole(path: Path, most: int, hint: str) -> bytes:
    """Return what is in a file.

    Parameters
    ----------
    path : Path
    most : int
        Bytes that it may have.
    hint : str
        What to do about a larger one.

    Raises
    ------
    FileError
        If it cannot be opened, is too large, or is a folder, a device or a pipe.
    """
    try:
        # Opening never waits for somebody who writes into a pipe.
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        try:
            if not stat.S_ISREG(os.fstat(handle).st_mode):
                raise FileError(f"{path.name or path} is no file.", "Name a file, not a folder, a device or a pipe.")
            with open(handle, "rb", closefd=False) as file:
                found = file.read(most + 1)
        finally:
            os.close(handle)
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or "its name cannot be one"
        raise FileError(f"{path.name or path} cannot be opened: {why}.", "Check its place and rights.") from error
    if len(found) > most:
        raise FileError(f"{path.name} is larger than {most // 2**20} MiB.", hint, "too large")
    return found


def write_whole(text: str, path: Path) -> None:
    """Write a text file so that its name always stands for a complete one.

    Raises
    ------
    FileError
        If it cannot be written, or is read-only; what was there before is as it was.
    """
    # Half a surrogate pair has no UTF-8; as an escape, JSON and people can read it.
    write_whole_bytes(text.encode("utf-8", "backslashreplace"), path)


def write_whole_bytes(data: bytes, path: Path) -> None:
    """Write a file so that its name always stands for a complete one.

    Raises
    ------
    FileError
        If it cannot be written, or is read-only; what was there before is as it was.
    """
    target = Path(os.path.realpath(path))
    if not path.name or target.is_dir():
        raise FileError(f"“{path}” is a folder and no file.", "Name a file.", "cannot save")
    beside = target
    try:
        rights = _rights(target)
        _remove_left_behind(target.parent)
        beside, handle = _made_beside(target)
        with os.fdopen(handle, "wb") as file:
            if rights is not None:
                os.fchmod(file.fileno(), rights)
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
            beside.replace(target)  # while it is held: nobody takes it for one that was left behind
        _flush_folder(target.parent)
    except OSError as error:
        if beside != target:
            with suppress(OSError):
                beside.unlink(missing_ok=True)
        hint = "Check that the folder exists, may be written to and has room, or save elsewhere."
        raise FileError(f"{path.name} cannot be saved: {why_not_written(error)}.", hint, "cannot save") from error


def why_not_written(error: OSError) -> str:
    """Return why something could not be written, as people say it."""
    return "there is no room" if error.errno == errno.ENOSPC else error.strerror or str(error)


def _made_beside(target: Path) -> tuple[Path, int]:
    """Make a file beside another, and hold it, so that nobody takes it for one that was left behind."""
    while True:
        beside = target.with_name(f"{_BEFORE}{secrets.token_hex(8)}{_AFTER}")
        handle = os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o666)
        fcntl.flock(handle, fcntl.LOCK_EX)
        if os.fstat(handle).st_nlink:  # else it was removed before it was held
            return beside, handle
        os.close(handle)


def _rights(target: Path) -> int | None:
    """Return the rights of a file that is there, None if there is none; refuse one that is read-only."""
    try:
        rights = stat.S_IMODE(target.stat().st_mode)
    except FileNotFoundError:
        return None
    if not rights & 0o222 or not os.access(target, os.W_OK):
        hint = "Save under another name, or allow writing to it."
        raise FileError(f"{target.name} is read-only.", hint, "cannot save")
    return rights


def _remove_left_behind(folder: Path) -> None:
    """Remove what savers left that died: nobody holds it any more."""
    names: list[str] = []
    with suppress(OSError), os.scandir(folder) as entries:
        names = [entry.name for entry in entries if entry.name.startswith(_BEFORE) and entry.name.endswith(_AFTER)]
    for name in names:
        with suppress(OSError), (folder / name).open("rb") as file:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            (folder / name).unlink()


def _flush_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
