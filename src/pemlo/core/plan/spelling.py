"""Settings as people type them in a cell or on a command line. Pure text."""

import re

from pemlo.core.units import parse_duration


def rays(text: str) -> tuple[int, ...]:
    """Read a sampling split: rays a sample to lights, off a gloss, through glass.

    Examples
    --------
    >>> rays("4,1,2"), rays("4 1 2")
    ((4, 1, 2), (4, 1, 2))
    """
    parts = re.split(r"[\s,]+", text.strip())
    if len(parts) != 3 or not all(part.isdigit() for part in parts):
        raise ValueError(f"“{text}” is not a split; write rays to lights, off a gloss, through glass, like 4,1,2")
    return tuple(int(part) for part in parts)


def switch_names(text: str) -> tuple[str, ...]:
    """Read the switches that are on, with commas or plus signs between; ``none`` for none.

    Examples
    --------
    >>> switch_names("motion blur + wide gloss"), switch_names("none")
    (('motion blur', 'wide gloss'), ())
    """
    names = (part.strip() for part in re.split(r"[,;+]", text))
    return tuple(name for name in names if name and name.lower() not in {"none", "nothing"})


def cap(text: str) -> float | None:
    """Read most seconds a frame, as people say durations; ``none``, or 0 as renderers write it, for no cap.

    Examples
    --------
    >>> cap("4m02"), cap("none"), cap("0.0")
    (242.0, None, None)
    """
    if text.strip().lower() == "none" or re.fullmatch(r"0+([.,]0*)?", text.strip()):
        return None
    return parse_duration(text)
