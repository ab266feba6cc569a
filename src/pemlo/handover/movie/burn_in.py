"""Words on pictures of a movie: shot, frame, timecode and settings in a strip below; slates. Pillow draws letters."""

from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt

U8 = npt.NDArray[np.uint8]
FONT = Path(__file__).parents[2] / "fonts" / "Inter-Medium.otf"
_SHARE, _LEAST_PX = 36, 11  # of a picture's height; px
_UNDER = 0.35  # of the light of what lies under words
SLATE, ON_SLATE = 52, 235  # codes


def letters_px(height: int) -> int:
    """Return how large letters are on a picture so high, px."""
    return max(_LEAST_PX, round(height / _SHARE))


def strip_px(height: int) -> int:
    """Return how high the strip with words is, px."""
    return round(letters_px(height) * 1.7)


@lru_cache(maxsize=512)
def letters(words: str, size: int) -> U8:
    """Return words as a mask: (H, W), 0 where nothing is and 255 where a letter is full."""
    from PIL import Image, ImageDraw, ImageFont  # noqa: PLC0415 - only where a movie is made

    font = ImageFont.truetype(str(FONT), size)
    font_wide = int(np.ceil(font.getlength(words))) + 2
    image = Image.new("L", (max(font_wide, 1), round(size * 1.4)), 0)
    ImageDraw.Draw(image).text((1, round(size * 0.1)), words, fill=255, font=font)
    mask = np.asarray(image)
    mask.setflags(write=False)
    return mask


def burn(picture: U8, left: str, middle: str, right: str) -> None:
    """Write words into the strip at the foot of a picture, (H, W, 3), in place; what is too long is cut off."""
    height, width, _ = picture.shape
    high, size = strip_px(height), letters_px(height)
    strip = picture[height - high :]
    strip[:] = (strip * _UNDER).astype(np.uint8)
    edge = round(size * 0.6)
    ends = [letters(words, size) for words in (left, right)]
    taken = ends[0].shape[1] + ends[1].shape[1] + 4 * edge
    _put(strip, ends[0], edge)
    _put(strip, ends[1], width - edge - ends[1].shape[1])
    if middle:
        mask = letters(middle, size)[:, : max(width - taken, 0)]
        at = max((width - mask.shape[1]) // 2, ends[0].shape[1] + 2 * edge)
        _put(strip, mask, min(at, width - ends[1].shape[1] - 2 * edge - mask.shape[1]))


def _put(strip: U8, mask: U8, left: int) -> None:
    """Lay white letters over a strip, in the middle of its height."""
    top = max((strip.shape[0] - mask.shape[0]) // 2, 0)
    begin, end = max(left, 0), min(left + mask.shape[1], strip.shape[1])
    if end <= begin:
        return
    share = mask[: strip.shape[0] - top, begin - left : end - left, None].astype(np.float32) / 255
    part = strip[top : top + share.shape[0], begin:end]
    part[:] = np.rint(part + share * (255.0 - part)).astype(np.uint8)


def slate(size: tuple[int, int], words: str) -> U8:
    """Return a picture that says what is missing: grey, with words and a cross, so that nobody takes it for a frame."""
    width, height = size
    picture = np.full((height, width, 3), SLATE, np.uint8)
    steps = np.linspace(0, 1, 2 * max(width, height))
    for x in (steps, 1 - steps):
        columns = np.clip((x * (width - 1)).round().astype(int), 0, width - 1)
        rows = np.clip((steps * (height - 1)).round().astype(int), 0, height - 1)
        picture[rows, columns] = SLATE + 40
    px = letters_px(height) * 2
    while px > _LEAST_PX and letters(words, px).shape[1] > 0.92 * width:
        px -= 1
    mask = letters(words, px)
    top = (height - mask.shape[0]) // 2
    band = picture[max(top - px // 2, 0) : top + mask.shape[0] + px // 2]
    band[:] = SLATE
    _put(band, mask, max((width - mask.shape[1]) // 2, 0))
    return picture
