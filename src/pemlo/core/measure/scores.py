"""Published scores of how alike two pictures are, each from its own library, in strips so that large ones fit. Pure.

All three look at display codes. Strips reach beyond their rows by as much as a score looks around a pixel, so that the
sum over strips is what the library says of the whole picture.
"""

import math
import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.errors import InputError
from pemlo.core.pixels.curve import CODES
from pemlo.core.pixels.display import Display
from pemlo.core.pixels.source import Source, at_size
from pemlo.core.progress import Monitor, Unwatched

T = TypeVar("T")
# The window of Wang et al.: a Gaussian of 1.5 px, cut off at 3.5 of those.
_SSIM_SIGMA, _SSIM_REACH = 1.5, 5
_STRIP_PIXELS = 500_000
_LEAST_SIDE = 11


@dataclass(frozen=True)
class Scores:
    """SSIM (1 is equal), PSNR (dB, infinite is equal) and mean ꟻLIP (0 is equal); NaN where a picture is too small."""

    ssim: float
    psnr: float
    flip: float


def ssim_and_psnr(
    picture: Source, reference: Source, display: Display, monitor: Monitor | None = None
) -> tuple[float, float]:
    """Return SSIM and PSNR of two pictures, at the reference's size.

    References
    ----------
    .. [1] Z. Wang et al., "Image quality assessment: from error visibility to structural similarity", IEEE Trans.
       Image Processing 13, 2004. Computed by scikit-image, with the authors' Gaussian window.
    """
    from skimage.metrics import mean_squared_error, structural_similarity  # noqa: PLC0415 - heavy to load

    reach, size = _SSIM_REACH, reference.size
    small = min(size) < _LEAST_SIDE

    def strip(a: Floats, b: Floats, top: int, rows: int) -> tuple[float, int, float]:
        inside = slice(top, top + rows)
        squares = float(mean_squared_error(a[inside], b[inside])) * a[inside].size
        if small:
            return 0.0, 1, squares
        full = structural_similarity(
            a, b, channel_axis=-1, data_range=CODES, gaussian_weights=True, sigma=_SSIM_SIGMA,
            use_sample_covariance=False, full=True,
        )[1]  # fmt: skip
        # The library leaves out what its window cannot cover at the edges of the picture.
        first, end = max(top, reach), min(top + rows, len(a) - reach)
        kept = full[first:end, reach:-reach]
        return float(kept.sum()), kept.size, squares

    found = list(_over_strips(picture, reference, display, reach, strip, monitor, "Comparing structure"))
    alike, count, squares = (sum(values) for values in zip(*found, strict=True))
    mean = squares / (size[0] * size[1] * 3)
    psnr = math.inf if mean == 0 else 10 * math.log10(CODES**2 / mean)
    return (math.nan if small else alike / count), psnr


def flip(
    picture: Source, reference: Source, display: Display, pixels_per_degree: float, monitor: Monitor | None = None
) -> float:
    """Return mean ꟻLIP of two pictures at the reference's size.

    Parameters
    ----------
    picture, reference : Source
    display : Display
    pixels_per_degree : float
        From where the picture is seen.

    References
    ----------
    .. [1] P. Andersson et al., "FLIP: a difference evaluator for alternating images", Proc. ACM Comput. Graph.
       Interact. Tech. 3, 2020. Computed by the authors' library.
    """
    import flip_evaluator  # noqa: PLC0415 - loaded when it is asked for

    # The widest of its filters: contrast in yellow and blue, and the edges it looks for.
    reach = math.ceil(3 * math.sqrt(0.04 / (2 * math.pi**2)) * pixels_per_degree) + math.ceil(
        3 * 0.5 * 0.082 * pixels_per_degree
    )

    def strip(a: Floats, b: Floats, top: int, rows: int) -> tuple[float, int]:
        shown = [np.ascontiguousarray(codes / CODES, np.float32) for codes in (b, a)]
        found, _, _ = flip_evaluator.evaluate(
            *shown, "LDR", applyMagma=False, computeMeanError=False, parameters={"ppd": pixels_per_degree}
        )
        kept = np.asarray(found)[top : top + rows]
        return float(kept.sum()), kept.shape[0] * kept.shape[1]

    found = list(
        _over_strips(picture, reference, display, reach, strip, monitor, "Comparing as an eye does", at_once=1)
    )
    return sum(total for total, _ in found) / sum(count for _, count in found)


def _over_strips(
    picture: Source,
    reference: Source,
    display: Display,
    reach: int,
    work: Callable[[Floats, Floats, int, int], T],
    monitor: Monitor | None,
    text: str,
    at_once: int = 0,
) -> Iterator[T]:
    """Call work on the codes of strips of both pictures, the first row that counts, and how many rows do."""
    size = reference.size
    if min(size) < 1:
        raise InputError("The picture has no pixels.", "Choose another.")
    picture = at_size(picture, size)
    watch = monitor or Unwatched()
    rows = max(2 * reach, _STRIP_PIXELS // size[0], 1)

    def one(first: int) -> T:
        end = min(first + rows, size[1])
        top, bottom = max(0, first - reach), min(size[1], end + reach)
        codes = [display.codes(source.rows(top, bottom).colour).astype(np.float64) for source in (picture, reference)]
        return work(codes[0], codes[1], first - top, end - first)

    firsts = range(0, size[1], rows)
    with ThreadPoolExecutor(at_once or os.cpu_count() or 1) as pool:
        try:
            for number, found in enumerate(pool.map(one, firsts)):
                watch.step((number + 1) / len(firsts), text)
                yield found
        finally:
            pool.shutdown(wait=True, cancel_futures=True)
