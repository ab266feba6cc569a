"""Settings as people type them in a cell or on a command line. Pure text."""

import re


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
