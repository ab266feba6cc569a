"""The command line as a script runs it."""

import os
import subprocess
import sys


def pemlo(*arguments, cwd):
    run = subprocess.run(
        [sys.executable, "-m", "pemlo", *map(str, arguments)],
        capture_output=True, text=True, cwd=cwd, timeout=120, check=False,
        env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
    )  # fmt: skip
    assert "Traceback" not in run.stderr
    return run
