"""When a file was written. Any thread; it may wait for a slow share."""

from pathlib import Path


def when_written(path: Path, _before: object = None) -> int | None:
    """Return when a file was written, ns; None if it is not there, or is no file."""
    try:
        return path.stat().st_mtime_ns if path.is_file() else None
    except OSError:
        return None
