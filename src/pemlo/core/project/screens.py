"""Where a film is watched, and the percentage of its size that loses nothing there. Pure.

An eye tells about 60 pixels a degree apart (see `viewing`); a screen has the pixels it has. Whichever is fewer is what
a picture needs. Sizes of feeds are those that people deliver today (common practice, no source), as are the distances.
"""

import math
from dataclasses import dataclass

from pemlo.core.project.viewing import EYE_PIXELS_PER_DEGREE


@dataclass(frozen=True)
class Screen:
    """A place to watch.

    Attributes
    ----------
    name : str
    widths : float, optional
        How far away, in widths of the picture; None where nobody can say.
    pixels : (int, int), optional
        Width and height of what shows it, px; None where it shows all there are.
    """

    name: str
    widths: float | None
    pixels: tuple[int, int] | None = None


SCREENS = (
    Screen("phone in the hand", 2.2, (1920, 1080)),
    Screen("laptop", 1.6, (1920, 1080)),
    Screen("desk", 1.1, (2560, 1440)),
    Screen("living room", 2.5, (3840, 2160)),
    Screen("cinema seat", 1.5, (4096, 2160)),
    Screen("feed, square", 2.6, (1080, 1080)),
    Screen("feed, upright 4:5", 2.6, (1080, 1350)),
    Screen("feed, full upright 9:16", 2.6, (1080, 1920)),
)


@dataclass(frozen=True)
class ScreenFit:
    """What a film needs for a screen.

    Attributes
    ----------
    percent : float
        Resolution percentage; 100 where all pixels are needed.
    size : (int, int)
        Width and height at that percentage, px: even, and of the film's shape as nearly as whole pixels allow.
    needed_width : float
        px that can be seen there.
    limited_by : str
        ``eye``, ``screen``, or ``film`` where it has fewer pixels than could be seen.
    pixels_share : float
        Of the pixels at 100 %.
    keeps_shape : bool
        Whether the size has exactly the film's aspect ratio.
    fills : float
        Share of the screen's area that the film covers; 1 where the shapes are alike or the screen's is not known.
    """

    percent: float
    size: tuple[int, int]
    needed_width: float
    limited_by: str
    pixels_share: float
    keeps_shape: bool
    fills: float


def custom(text: str) -> Screen:
    """Read a screen of one's own: ``1280x720``, ``1280x720 at 1.5 widths``, or ``2.5 widths``.

    Raises
    ------
    ValueError
        If it is none of these.

    Examples
    --------
    >>> custom("1280x720 at 1.5 widths")
    Screen(name='1280x720 at 1.5 widths', widths=1.5, pixels=(1280, 720))
    """
    import re  # noqa: PLC0415 - only here

    size = re.search(r"(\d{2,5})\s*[x×*]\s*(\d{2,5})", text)
    away = re.search(r"(\d+(?:\.\d+)?)\s*widths?", text)
    widths = float(away[1]) if away else None
    if size is None and widths is None:
        raise ValueError(
            f"“{text}” is no screen; write its pixels like 1280x720, how far it is like 2.5 widths, or both"
        )
    if widths is not None and not 0.1 <= widths <= 100:
        raise ValueError(f"{away[1] if away else ''} widths away is not between 0.1 and 100")
    return Screen(text.strip(), widths, None if size is None else (int(size[1]), int(size[2])))


def eye_width(widths: float) -> float:
    """Return how many pixels across an eye can tell apart in a picture so many widths away.

    Counted over the angle that the picture takes: seen from near by, its edges are farther than its middle.

    Examples
    --------
    >>> round(eye_width(1.0)), round(eye_width(2.5))
    (3188, 1357)
    """
    return EYE_PIXELS_PER_DEGREE * math.degrees(2 * math.atan(0.5 / widths))


def fit_for(screen: Screen, size: tuple[int, int]) -> ScreenFit:
    """Return what a film of a size needs for a screen.

    Parameters
    ----------
    screen : Screen
    size : (int, int)
        Width and height of the film at 100 %, px.
    """
    width, height = size
    limits = [(float(width), "film")]
    fills = 1.0
    if screen.pixels is not None:
        across = min(screen.pixels[0], screen.pixels[1] * width / height)
        limits.append((across, "screen"))
        fills = across * across * height / width / (screen.pixels[0] * screen.pixels[1])
    if screen.widths is not None:
        # A picture that does not fill the screen's width is farther away, in widths of its own.
        share = 1.0 if screen.pixels is None else limits[-1][0] / screen.pixels[0]
        limits.append((eye_width(screen.widths / max(share, 1e-6)), "eye"))
    needed, limited_by = min(limits)
    even, keeps_shape = even_size(size, needed)
    return ScreenFit(
        100.0 * even[0] / width, even, needed, limited_by, even[0] * even[1] / (width * height), keeps_shape, fills
    )


def even_size(size: tuple[int, int], needed: float) -> tuple[tuple[int, int], bool]:
    """Return the least even size that is at least so wide, and whether it keeps the shape to the pixel.

    A size that keeps the shape is taken if there is one within a twentieth of what is needed: encoders want even
    sizes, and a picture of another shape has to be cut or squeezed.

    Examples
    --------
    >>> even_size((1920, 1080), 1350), even_size((1920, 1080), 1920), even_size((2048, 858), 1000)
    (((1376, 774), True), ((1920, 1080), True), ((1000, 418), False))
    """
    width, height = size
    if needed >= width:
        return size, True
    common = math.gcd(width, height)
    shape = width // common, height // common
    step = 1 if shape[0] % 2 == 0 and shape[1] % 2 == 0 else 2
    exact = math.ceil(needed / (shape[0] * step)) * step
    if exact * shape[0] <= min(width, 1.05 * needed):
        return (exact * shape[0], exact * shape[1]), True
    across = min(2 * math.ceil(needed / 2), width - width % 2)
    return (across, max(2, 2 * round(across * height / width / 2))), False


def fit_words(screen: Screen, screen_fit: ScreenFit) -> str:
    """Return in a sentence or two what a film needs for a screen."""
    limit = {"eye": "more cannot be seen from there", "screen": "the screen shows no more", "film": "all of it shows"}
    size = f"{screen_fit.size[0]}×{screen_fit.size[1]}"
    words = f"{screen.name}: {screen_fit.percent:.4g} % ({size}) loses nothing; {limit[screen_fit.limited_by]}."
    if screen_fit.percent >= 100:
        words = f"{screen.name}: needs the whole size; {limit[screen_fit.limited_by]}."
    if not screen_fit.keeps_shape:
        words += " No even size keeps the shape to the pixel: this one is less than two pixels off."
    if screen_fit.fills < 0.95:
        words += f" The film covers {screen_fit.fills:.0%} of that screen."
    return words
