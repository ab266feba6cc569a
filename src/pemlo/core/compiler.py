"""The compiler, loaded so that it takes nothing from the folder in which the program was started. Heavy to load.

Numba reads `.numba_config.yaml` where the program begins, when it is loaded and before each compilation, if a reader of
YAML is installed: a file beside a delivered film could say from which folder compiled code, which is run, is taken.
So it is loaded without that reader, and then looks for its file where none can be. All modules take `numba` from here.
"""

import sys
import warnings
from types import ModuleType
from typing import Any

_NOWHERE = "/dev/null/no-config"


def _loaded() -> ModuleType:
    before = sys.modules.get("yaml")
    sys.modules["yaml"] = None  # type: ignore[assignment]
    try:
        with warnings.catch_warnings():
            warnings.filterwarnings("ignore", message="A Numba config file is found")
            import numba  # noqa: PLC0415 - the one place that loads it
            import numba.core.config  # noqa: PLC0415 - with it
    finally:
        if before is None:
            del sys.modules["yaml"]
        else:
            sys.modules["yaml"] = before
    numba.core.config._config_fname = _NOWHERE  # noqa: SLF001 - it has no other way
    return numba


numba: Any = _loaded()
