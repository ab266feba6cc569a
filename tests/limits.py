"""A limit of time for what might never end."""

import signal
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
