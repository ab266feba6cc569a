"""Standard output is for answers: what a library prints there by itself goes to standard error instead."""

import ctypes
import os
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager

_lock = threading.Lock()
_OUT, _ERROR = 1, 2


@contextmanager
def kept_from_standard_output() -> Iterator[None]:
    """Send what compiled code prints meanwhile to standard error: a solver says things in the middle of JSON."""
    with _lock:
        try:
            kept = os.dup(_OUT)
        except OSError:  # there is no standard output
            yield
            return
        own = ctypes.CDLL(None)
        try:
            if sys.stdout is not None:
                sys.stdout.flush()
            own.fflush(None)
            os.dup2(_ERROR, _OUT)
            yield
        finally:
            own.fflush(None)
            os.dup2(kept, _OUT)
            os.close(kept)
