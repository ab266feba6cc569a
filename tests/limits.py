"""A limit of time for what might never end."""

import signal
from contextlib import contextmanager


@contextmanager
def limited(seconds):
    """Stop what takes longer; patterns look for signals while they search."""

    def stop(*_):
        raise TimeoutError(f"it takes more than {seconds} s")

    before = signal.signal(signal.SIGALRM, stop)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)
