"""Sequences of shots, by their names. Pure."""

SEPARATORS = " _./:-"


def sequence_of(shot: str) -> str:
    """Return the sequence of a shot: the part of its name before the last separator; empty if there is none.

    Examples
    --------
    >>> sequence_of("quay_010"), sequence_of("ep02-quay-010"), sequence_of("010")
    ('quay', 'ep02-quay', '')
    """
    cut = max(shot.rfind(separator) for separator in SEPARATORS)
    return shot[: max(cut, 0)].rstrip(SEPARATORS)
