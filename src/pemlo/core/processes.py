"""The one place that starts processes of our own. Any thread. A person's command is `keeper.py`'s.

They are started isolated: neither the folder they begin in nor the environment's paths say where code is taken from, so
that a file beside an edit or a picture is never run. They begin in the root of the disk, so that nothing that looks
around itself finds what others wrote, and in a session of their own. Paths are given to them whole.
"""

import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

FOLDER = Path("/")


def command_of(module: str, *arguments: str) -> list[str]:
    """Return the command that runs a module of Pemlo by this interpreter, isolated.

    Examples
    --------
    >>> command_of("pemlo", "estimate")[1:]
    ['-I', '-m', 'pemlo', 'estimate']
    """
    return [sys.executable, "-I", "-m", module, *arguments]


def finished(command: Sequence[str], longest_s: float) -> subprocess.CompletedProcess[bytes]:
    """Run a command to its end, and return what it wrote.

    Raises
    ------
    subprocess.TimeoutExpired
        If it has not ended by then; it is killed.
    """
    return subprocess.run(  # noqa: S603 - our own modules, see `command_of`
        command,
        stdin=subprocess.DEVNULL,
        capture_output=True,
        timeout=longest_s,
        check=False,
        cwd=FOLDER,
        start_new_session=True,
    )


def started(command: Sequence[str]) -> "subprocess.Popen[str]":
    """Start a command that is talked to line by line.

    Raises
    ------
    OSError
        If it cannot be started.
    """
    return subprocess.Popen(  # noqa: S603 - our own modules, see `command_of`
        command,
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        encoding="utf-8",
        errors="replace",
        cwd=FOLDER,
        start_new_session=True,
    )
