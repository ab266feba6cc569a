"""Denoisers: one that looks at a frame alone, one that looks at its neighbours too. Both are one non-local filter.

A pixel becomes the mean of pixels around it, in this frame and in the others, weighed by how alike small patches of
colour are, within what their noise allows, and by how alike albedo, normal and depth are. It follows A. Buades et al.,
"A non-local algorithm for image denoising", CVPR 2005, with the distance of F. Rousselle et al., "Adaptive rendering
with non-local means filtering", SIGGRAPH Asia 2012, that takes the known variance out.
"""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.errors import InputError, Problem
from pemlo.core.threads import run_in_parts
from pemlo_simulators.renderer.compiled import compiled
from pemlo_simulators.renderer.film import Picture

NONE, FRAME, NEIGHBOURS = "none", "frame", "neighbours"
_RADIUS, _REACH = 5, 1
_PATCH = 1
_STRENGTHS = {"soft": 0.6, "": 1.0, "strong": 1.8}
_SMALL = 1e-4


@dataclass(frozen=True)
class Denoiser:
    """A way of denoising: how far it looks in the picture (px), how many frames before and after, and how strong it is.

    By its strength the differences between patches that noise may make are multiplied.
    """

    radius: int = _RADIUS
    reach: int = 0
    strength: float = 1.0

    def neighbours(self, frame: int, frames: int) -> list[int]:
        """Return the other frames it wants to look at, of a shot of `frames` frames."""
        wanted = range(max(1, frame - self.reach), min(frames, frame + self.reach) + 1)
        return [number for number in wanted if number != frame]


def parse(name: str) -> Denoiser | None:
    """Read a way of denoising: ``none``, ``frame``, ``neighbours``; with ``soft`` or ``strong``; a radius and reach.

    Raises
    ------
    InputError
        If the name is unknown.

    Examples
    --------
    >>> parse("frame"), parse("neighbours 8 2")
    (Denoiser(radius=5, reach=0, strength=1.0), Denoiser(radius=8, reach=2, strength=1.0))
    >>> parse("frame strong 8")
    Denoiser(radius=8, reach=0, strength=1.8)
    """
    if name == NONE:
        return None
    match = re.fullmatch(r"(frame|neighbours)(?: (soft|strong))?(?: (\d{1,2}))?(?: (\d))?", name.strip())
    if not match or (match[1] == FRAME and match[4]) or match[3] == "0":
        raise InputError(
            [Problem("denoise", f"“{name}” is not a way of denoising")],
            "There are: none; frame; neighbours; frame soft, frame strong; and neighbours 8 2, which looks 8 px and 2 "
            "frames around.",
        )
    reach = 0 if match[1] == FRAME else int(match[4] or _REACH)
    return Denoiser(int(match[3] or _RADIUS), reach, _STRENGTHS[match[2] or ""])


def denoised(picture: Picture, neighbours: Sequence[Picture], how: Denoiser, threads: int) -> npt.NDArray[np.float32]:
    """Return the colour of a picture with less noise.

    Parameters
    ----------
    picture : Picture
        H x W pixels.
    neighbours : sequence of Picture
        Of the frames around it, same size.
    how : Denoiser
    threads : int

    Returns
    -------
    (H, W, 3) float32 ndarray
        Scene-linear.
    """
    stack = [picture, *neighbours]
    albedo = np.maximum(np.stack([one.albedo for one in stack]), 0.02).astype(float)
    # Light without the surface's own colour is smoother, so patterns are not washed out.
    light = np.stack([one.colour for one in stack]) / albedo
    variance = np.stack([one.variance for one in stack]) / albedo**2
    guide = np.concatenate(
        [albedo, np.stack([one.normal for one in stack]), np.log1p(np.stack([one.depth for one in stack]))[..., None]],
        axis=-1,
    )
    light = _without_fireflies(light)
    brightness, noise = light.mean(axis=-1), variance.mean(axis=-1)
    out = np.empty(light.shape[1:])
    noise = np.maximum(noise, _spread_out(noise))

    def some_rows(first: int, end: int) -> None:
        _filter(light, brightness, noise, guide, how.radius, how.strength, out, first, end)

    run_in_parts(threads, len(out), some_rows)
    return (out * albedo[0]).astype(np.float32)


def _around(values: Floats) -> list[Floats]:
    """Return the eight neighbours of each pixel of (frames, H, W, ...) values."""
    padded = np.pad(values, ((0, 0), (1, 1), (1, 1), *((0, 0) for _ in values.shape[3:])), mode="edge")
    height, width = values.shape[1:3]
    places = [(y, x) for y in range(3) for x in range(3) if (y, x) != (1, 1)]
    return [padded[:, y : y + height, x : x + width] for y, x in places]


def _spread_out(noise: Floats) -> Floats:
    """Smooth variances over 3 x 3 pixels: those of few samples are noisy themselves."""
    return np.asarray((noise + sum(_around(noise))) / 9)


def _without_fireflies(light: Floats) -> Floats:
    """Hold pixels that outshine all but one of their neighbours down to the second brightest of those."""
    brightness = light.mean(axis=-1)
    limit = np.sort(np.stack(_around(brightness)), axis=0)[-2]
    return light * np.minimum(1.0, (limit + _SMALL) / (brightness + _SMALL))[..., None]


@compiled
def _filter(
    light: Floats,
    brightness: Floats,
    noise: Floats,
    guide: Floats,
    radius: int,
    strength: float,
    out: Floats,
    first: int,
    end: int,
) -> None:
    frames, height, width = brightness.shape
    for y in range(first, end):
        for x in range(width):
            r = g = b = total = 0.0
            for f in range(frames):
                for v in range(max(0, y - radius), min(height, y + radius + 1)):
                    for u in range(max(0, x - radius), min(width, x + radius + 1)):
                        off = 0.0
                        for c in range(3):
                            step = guide[f, v, u, c] - guide[0, y, x, c]
                            off += 40.0 * step * step
                            step = guide[f, v, u, 3 + c] - guide[0, y, x, 3 + c]
                            off += 12.0 * step * step
                        step = guide[f, v, u, 6] - guide[0, y, x, 6]
                        off += 400.0 * step * step
                        if off > 12.0:
                            continue
                        patch, count = 0.0, 0
                        for dy in range(-_PATCH, _PATCH + 1):
                            for dx in range(-_PATCH, _PATCH + 1):
                                ya, xa, yb, xb = y + dy, x + dx, v + dy, u + dx
                                if min(ya, min(xa, min(yb, xb))) < 0 or max(ya, yb) >= height or max(xa, xb) >= width:
                                    continue
                                here, there = noise[0, ya, xa], noise[f, yb, xb]
                                step = brightness[0, ya, xa] - brightness[f, yb, xb]
                                patch += (step * step - (here + min(here, there))) / (
                                    _SMALL + strength * strength * (here + there)
                                )
                                count += 1
                        weight = math.exp(-max(0.0, patch / count) - off)
                        r += weight * light[f, v, u, 0]
                        g += weight * light[f, v, u, 1]
                        b += weight * light[f, v, u, 2]
                        total += weight
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = r / total, g / total, b / total
