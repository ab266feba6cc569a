"""Work for the workers of a cluster: of a module that they find."""

import os
import signal
import time
from contextlib import suppress
from pathlib import Path


def ends_its_worker_once(marker, number):
    if number == 3:
        with suppress(FileExistsError):
            Path(marker).touch(exist_ok=False)
            os.kill(os.getpid(), signal.SIGKILL)
    time.sleep(0.05)
    return number**2


def ends_every_worker(_, __):
    os.kill(os.getpid(), signal.SIGKILL)
