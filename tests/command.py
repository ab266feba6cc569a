"""The command line as a script runs it: as a process of its own, or for speed inside this one."""

import contextlib
import io
import os
import subprocess
import sys
from types import SimpleNamespace

from pemlo.cli.main import main


def pemlo_process(*arguments, cwd):
    run = subprocess.run(
        [sys.executable, "-m", "pemlo", *map(str, arguments)],
        capture_output=True, text=True, cwd=cwd, timeout=120, check=False,
        env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
    )  # fmt: skip
    assert "Traceback" not in run.stderr
    return run


def pemlo(*arguments, cwd):
    """Run a command here, without the seconds that a new process takes to load; the same exit code and outputs."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.chdir(cwd), contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            code = main([str(argument) for argument in arguments])
        except SystemExit as left:  # so the parser of arguments leaves
            code = left.code or 0
    assert "Traceback" not in err.getvalue()
    return SimpleNamespace(returncode=code, stdout=out.getvalue(), stderr=err.getvalue())
