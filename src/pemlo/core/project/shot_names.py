"""Names of shots in names of files and clips. Pure text."""

import re

_PARTS = re.compile(r"[^\W\d_]+|\d+")


def stands_in(name: str, text: str) -> bool:
    """Whether the name of a shot stands alone in a text: its words and numbers, whole and one after another.

    Examples
    --------
    >>> stands_in("070", "S070_v2"), stands_in("night 070", "Night_070_final"), stands_in("100", "0100")
    (True, True, False)
    """
    parts, wanted = _PARTS.findall(text.lower()), _PARTS.findall(name.lower())
    last = len(parts) - len(wanted)
    return bool(wanted) and any(parts[k : k + len(wanted)] == wanted for k in range(last + 1))
