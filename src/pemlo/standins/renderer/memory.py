"""The most memory that this process held since it was last asked, as the system counts it. Linux."""

import resource
from contextlib import suppress
from pathlib import Path

from pemlo.core.units import GIB

_STATUS, _CLEAR = Path("/proc/self/status"), Path("/proc/self/clear_refs")
_FORGET_PEAK = "5"
_PEAK = "VmHWM:"


def forget_peak() -> None:
    """Count from now on; where the system does not allow that, the peak stays that of the whole process."""
    with suppress(OSError):
        _CLEAR.write_text(_FORGET_PEAK)


def peak_gib() -> float:
    """Return the most that was held, GiB."""
    with suppress(OSError):
        for line in _STATUS.read_text().splitlines():
            if line.startswith(_PEAK):
                return int(line.split()[1]) * 1024 / GIB
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 / GIB
