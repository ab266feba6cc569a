"""Turns Python functions into machine code, and keeps that code between runs.

The compiler's own cache looks only at the file a function stands in, not at what that function calls in other files.
So the cache is a folder of its own for each state of the whole renderer's source.
"""

import hashlib
import os
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import platformdirs

from pemlo.core.compiler import numba

F = TypeVar("F", bound=Callable[..., object])

# Sums may be put in another order, but infinity and "not a number" keep their meaning: they are looked for.
_FAST = {"nsz", "arcp", "contract", "afn", "reassoc"}
_KEPT_STATES = 3


def _cache_folder() -> Path:
    sources = sorted(Path(__file__).parent.glob("*.py"))
    state = hashlib.sha256(b"".join(source.read_bytes() for source in sources)).hexdigest()[:16]
    top = Path(os.environ.get("PEMLO_CACHE_FOLDER") or platformdirs.user_cache_dir("pemlo")) / "compiled"
    others = sorted((p for p in top.glob("*") if p.name != state), key=lambda p: p.stat().st_mtime)
    for old in others[: max(0, len(others) + 1 - _KEPT_STATES)]:
        shutil.rmtree(old, ignore_errors=True)
    return top / state


CACHE_FOLDER = _cache_folder()
numba.config.CACHE_DIR = str(CACHE_FOLDER)


def compiled(function: F) -> F:
    """Compile a function that makes no arrays, and put it in place wherever compiled code calls it.

    It counts no references to the arrays it is given: counting would be most of the work of a ray, and the threads
    would wait for each other's counts. And it is put in place because a call hands over every word of every array.
    """
    return _compile(function, _nrt=False, forceinline=True)


def compiled_apart(function: F) -> F:
    """Compile a function like `compiled`, but keep it apart: where it would crowd the registers of a tight loop."""
    return _compile(function, _nrt=False)


def compiled_with_arrays(function: F) -> F:
    """Compile a function that makes arrays."""
    return _compile(function)


def _compile(function: F, **options: Any) -> F:  # noqa: ANN401 - what the compiler takes
    made: F = numba.njit(cache=True, nogil=True, error_model="numpy", fastmath=_FAST, **options)(function)
    return made
