"""Pictures of a movie as display codes at its size: read, mixed in light, laid into the frame. Files."""

from collections import OrderedDict
from pathlib import Path

import numpy as np

from pemlo.core.errors import PemloError
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.pixels.display import Display
from pemlo.core.pixels.source import F32, at_size, read_whole
from pemlo.handover.movie.burn_in import U8, slate
from pemlo.handover.movie.timeline import Moment

_KEPT = 4  # pictures: what is held or mixed is read once


def inside(size: tuple[int, int], frame: tuple[int, int]) -> tuple[int, int]:
    """Return the largest size with the proportions of a picture that fits into a frame.

    Examples
    --------
    >>> inside((1920, 1080), (1280, 720)), inside((1000, 1000), (1280, 720))
    ((1280, 720), (720, 720))
    """
    share = min(frame[0] / size[0], frame[1] / size[1])
    return max(1, round(size[0] * share)), max(1, round(size[1] * share))


class MoviePictures:
    """Reads what is shown, brought to one size; black around pictures of other proportions."""

    def __init__(self, size: tuple[int, int], display: Display) -> None:
        self.size, self._display = size, display
        self._light: OrderedDict[Path, F32] = OrderedDict()
        self._last: tuple[Moment, U8] | None = None
        self.damaged: list[str] = []

    def codes(self, shown: Moment) -> U8:
        """Return display codes, (H, W, 3); a slate where a picture is missing or cannot be read."""
        if self._last is not None and self._last[0].parts == shown.parts and shown.parts:
            return self._last[1].copy()
        if shown.missing:
            return slate(self.size, shown.words)
        try:
            picture = self._codes(shown)
        except PemloError as error:
            self.damaged.append(error.message)
            return slate(self.size, f"{shown.shot}: frame {shown.frame} cannot be read")
        self._last = shown, picture
        return picture.copy()

    def _codes(self, shown: Moment) -> U8:
        (path, share), *others = shown.parts
        light = self._read(path)
        if others:
            light = np.float32(share) * light
            for path, share in others:
                other = self._read(path)
                light = light + np.float32(share) * (other if other.shape == light.shape else _fitted(other, light))
        inner = np.rint(np.clip(self._display.codes(light), 0, 255)).astype(np.uint8)
        width, height = self.size
        if inner.shape[:2] == (height, width):
            return inner
        frame = np.zeros((height, width, 3), np.uint8)
        top, left = (height - inner.shape[0]) // 2, (width - inner.shape[1]) // 2
        frame[top : top + inner.shape[0], left : left + inner.shape[1]] = inner
        return frame

    def _read(self, path: Path) -> F32:
        if path not in self._light:
            with PictureFile(path, ReadOptions()) as file:
                self._light[path] = read_whole(at_size(file, inside(file.size, self.size))).colour
            while len(self._light) > _KEPT:
                self._light.popitem(last=False)
        self._light.move_to_end(path)
        return self._light[path]


def _fitted(other: F32, like: F32) -> F32:
    """Return a picture of other proportions cut or filled to the size of another."""
    out = np.zeros_like(like)
    high, wide = (min(a, b) for a, b in zip(other.shape[:2], like.shape[:2], strict=True))
    out[:high, :wide] = other[:high, :wide]
    return out
