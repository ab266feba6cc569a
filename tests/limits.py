"""A limit of time for what might never end."""

import signal
import time
from contextlib import contextmanager


@contextmanager
def limited(seconds, *, of_processor=False):
    """Stop what takes longer, on the wall or of the processor; patterns look for signals while they search."""
    which, what = (signal.ITIMER_PROF, signal.SIGPROF) if of_processor else (signal.ITIMER_REAL, signal.SIGALRM)

    def stop(*_):
        raise TimeoutError(f"it takes more than {seconds} s")

    before = signal.signal(what, stop)
    signal.setitimer(which, seconds)
    try:
        yield
    finally:
        signal.setitimer(which, 0)
        signal.signal(what, before)


LONGEST_S = 60.0


def until_stopped(monitor, words="waiting", pause_s=0.001):
    """Work on until the monitor stops it; a test that forgets to is not held up for ever."""
    end = time.monotonic() + LONGEST_S
    while time.monotonic() < end:
        monitor.step(0.1, words)
        time.sleep(pause_s)
    raise TimeoutError("nobody stopped it")
