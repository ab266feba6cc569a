"""Pemlo: forecast how long an animation takes to render, and make it fit.

The public interface is in `pemlo.api`, and stands here too: ``film = pemlo.open("job.pemlo")``.
"""

import os
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pemlo.api import Film, Forecast, InputError, PemloError, Plan, ShotForecast, open  # noqa: A004

# Nobody's plugins have a part in checking documents, and looking for them takes as long as a layer of the program.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")


__version__ = "0.1.0"
__all__ = ["Film", "Forecast", "InputError", "PemloError", "Plan", "ShotForecast", "open"]


def __getattr__(name: str) -> object:
    """Load the public interface when it is first asked for: the window and the commands come up without it."""
    if name not in __all__:
        raise AttributeError(f"module 'pemlo' has no attribute {name!r}")
    from pemlo import api  # noqa: PLC0415 - as said

    return getattr(api, name)
