"""How much memory values take, so that what is kept can be bounded. Any thread."""

from collections.abc import Mapping
from dataclasses import fields, is_dataclass

import numpy as np

from pemlo.core.project.record import Record

LITTLE = 64  # of what is neither an array nor holds any


def bytes_of(value: object) -> int:
    """Return about how much memory something takes: that of its arrays, and a little for what is not one."""
    if isinstance(value, np.ndarray):
        return int(value.nbytes)
    if isinstance(value, tuple | list):
        # Of many records each takes as little as the first.
        if value and isinstance(value[0], Record):
            return LITTLE * (1 + len(value))
        return LITTLE + sum(map(bytes_of, value))
    if isinstance(value, Mapping):
        return LITTLE + sum(map(bytes_of, value.values()))
    if is_dataclass(value):
        return LITTLE + sum(bytes_of(getattr(value, one.name)) for one in fields(value))
    return LITTLE
