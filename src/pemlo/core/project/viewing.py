"""Where a film is watched from, and what an eye can see there. Pure."""

import math
from dataclasses import dataclass

# A healthy eye tells lines a minute of arc apart: 60 px a degree (20/20 on the chart of Snellen, 1862; from memory).
EYE_PIXELS_PER_DEGREE = 60.0
# ꟻLIP's authors take 0.7 m before a screen of 3840 px and 0.7 m: 67 pixels a degree.
MOST_PIXELS_PER_DEGREE = 400.0


@dataclass(frozen=True)
class ViewingCondition:
    """A place to watch from: how far away, in widths of the picture."""

    name: str
    widths: float

    def pixels_per_degree(self, width: int) -> float:
        """Return how many pixels of a picture so wide are in one degree, at its middle.

        Examples
        --------
        >>> round(ViewingCondition("", 1.0).pixels_per_degree(3840))
        67
        """
        return width * self.widths * math.pi / 180


# Distances are common practice, no source.
VIEWING_CONDITIONS = (
    ViewingCondition("cinema seat", 1.5),
    ViewingCondition("desk", 1.1),
    ViewingCondition("phone in the hand", 2.2),
)


def pixels_per_degree(seen_from: str, width: int) -> float:
    """Return how many pixels of a picture so wide are in one degree.

    Parameters
    ----------
    seen_from : str
        Name of a seat, or pixels a degree as a number.
    width : int
        px.

    Raises
    ------
    ValueError
        If it is neither.

    Examples
    --------
    >>> pixels_per_degree("60", 1920), round(pixels_per_degree("desk", 1920))
    (60.0, 37)
    """
    for viewing in VIEWING_CONDITIONS:
        if viewing.name == seen_from.strip():
            return viewing.pixels_per_degree(width)
    try:
        number = float(seen_from)
    except ValueError:
        number = math.nan
    if not 1 <= number <= MOST_PIXELS_PER_DEGREE:
        names = ", ".join(viewing.name for viewing in VIEWING_CONDITIONS)
        raise ValueError(f"“{seen_from}” is no seat; there are {names}, or 1 to 400 pixels a degree")
    return number


def seen_size(size: tuple[int, int], pixels_per_degree: float) -> tuple[int, int]:
    """Return the size at which an eye still sees everything it can: smaller where pixels are finer than the eye.

    Parameters
    ----------
    size : tuple of int
        Width and height, px.

    Examples
    --------
    >>> seen_size((3840, 2160), 120.0), seen_size((1920, 1080), 40.0)
    ((1920, 1080), (1920, 1080))
    """
    share = min(1.0, EYE_PIXELS_PER_DEGREE / pixels_per_degree)
    return max(1, round(size[0] * share)), max(1, round(size[1] * share))
