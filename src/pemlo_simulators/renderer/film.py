"""The film: sums of samples for each pixel, and the compiled loop that adds samples to it."""

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.pixels.luma import LUMA
from pemlo_simulators.renderer.camera import aim
from pemlo_simulators.renderer.compiled import compiled, compiled_with_arrays
from pemlo_simulators.renderer.dice import Dice, roll, take_up
from pemlo_simulators.renderer.lights import Lights
from pemlo_simulators.renderer.paths import GUIDE, PARTS, Rules, see
from pemlo_simulators.renderer.rays import new_scratch
from pemlo_simulators.renderer.settings import RenderSettings
from pemlo_simulators.renderer.vectors import on_circle
from pemlo_simulators.renderer.world import World

BOX_FILTER, GAUSSIAN_FILTER = range(2)


class Sums(NamedTuple):
    """What is kept of the samples of H x W pixels.

    Attributes
    ----------
    light : (H, W, 6) float64
        Sums of radiance and of its square, by red, green, blue.
    guide : (H, W, GUIDE) float64
        Sums of albedo, normal, depth.
    taken : (H, W) int32
        Samples taken.
    lost : (H, W) int32
        Samples that came to no number and count as black.
    parts : (H, W, PARTS + 3) float64
        Sums of the light of each part, see `paths.see`, and of the square of its brightness; (0, 0, PARTS + 3) if they
        are not wanted.
    """

    light: Floats
    guide: Floats
    taken: npt.NDArray[np.int32]
    lost: npt.NDArray[np.int32]
    parts: Floats


class Frame(NamedTuple):
    """Which picture a film is of.

    Attributes
    ----------
    width, height : int
        Of the whole picture as rendered, px.
    left, top : int
        Where the film lies in it.
    filter : int
        BOX_FILTER or GAUSSIAN_FILTER.
    filter_width : float
        Radius of the box or standard deviation of the Gaussian, px.
    seed : int
        Same seed, same samples.
    """

    width: int
    height: int
    left: int
    top: int
    filter: int
    filter_width: float
    seed: int


@dataclass(frozen=True)
class Picture:
    """What a film shows.

    Attributes
    ----------
    colour, albedo, normal, variance : (H, W, 3) float32
        Scene-linear; variance is that of the mean, by colour.
    depth : (H, W) float32
        Metres.
    samples : (H, W) int32
    parts : (H, W, 9) float32, optional
        Colour that came from lights, off a gloss, and through glass.
    part_variance : (H, W, 3) float32, optional
        Of the mean brightness of each.
    """

    colour: npt.NDArray[np.float32]
    albedo: npt.NDArray[np.float32]
    normal: npt.NDArray[np.float32]
    depth: npt.NDArray[np.float32]
    variance: npt.NDArray[np.float32]
    samples: npt.NDArray[np.int32]
    parts: npt.NDArray[np.float32] | None = None
    part_variance: npt.NDArray[np.float32] | None = None


def new_film(height: int, width: int, *, by_source: bool = False) -> Sums:
    """Return a film without samples, which may tell light apart by where it comes from."""
    return Sums(
        np.zeros((height, width, 6)),
        np.zeros((height, width, GUIDE)),
        np.zeros((height, width), np.int32),
        np.zeros((height, width), np.int32),
        np.zeros((height, width, PARTS + 3) if by_source else (0, 0, PARTS + 3)),
    )


def blank_film(settings: RenderSettings) -> Sums:
    """Return a film without samples for the pixels that the settings ask for."""
    left, top, right, bottom = settings.rendered_region()
    return new_film(bottom - top, right - left, by_source=settings.by_source)


def develop(film: Sums) -> Picture:
    """Return the means of a film and the variance of those means.

    Pixels without samples are black, and those with one sample have the variance of their own square.
    """
    n = np.maximum(film.taken, 1)[..., None]
    mean = film.light[..., :3] / n
    spread = np.maximum(film.light[..., 3:] / n - mean**2, 0.0)
    variance = np.where(n > 1, spread / np.maximum(n - 1, 1), mean**2)
    guide = film.guide / n
    parts = part_variance = None
    if film.parts.size:
        parts = (film.parts[..., :PARTS] / n).astype(np.float32)
        bright = parts.reshape(*parts.shape[:2], 3, 3) @ np.array(LUMA)
        scatter = np.maximum(film.parts[..., PARTS:] / n - bright**2, 0.0)
        part_variance = np.where(n > 1, scatter / np.maximum(n - 1, 1), bright**2).astype(np.float32)
    return Picture(
        mean.astype(np.float32),
        guide[..., :3].astype(np.float32),
        guide[..., 3:6].astype(np.float32),
        guide[..., 6].astype(np.float32),
        variance.astype(np.float32),
        film.taken.copy(),
        parts,
        part_variance,
    )


@compiled
def _spot(frame: Frame, dice: Dice) -> tuple[float, float]:
    """Pick where in and around a pixel a sample falls; samples fall as often as the filter weighs them."""
    a, b = roll(dice), roll(dice)
    if frame.filter == BOX_FILTER:
        return 0.5 + frame.filter_width * (2.0 * a - 1.0), 0.5 + frame.filter_width * (2.0 * b - 1.0)
    # Cut off at three standard deviations, by leaving the outermost part of the radii out.
    radius = frame.filter_width * math.sqrt(-2.0 * math.log(1.0 - a * (1.0 - math.exp(-4.5))))
    c, s = on_circle(b)
    return 0.5 + radius * c, 0.5 + radius * s


@compiled_with_arrays
def add_samples(
    world: World,
    lights: Lights,
    table: Floats,
    sky: Floats,
    camera: Floats,
    rules: Rules,
    frame: Frame,
    film: Sums,
    pixels: npt.NDArray[np.int64],
    most: npt.NDArray[np.int32],
    first: int,
    end: int,
) -> None:
    """Add samples to some pixels, in order of their number.

    Parameters
    ----------
    camera : (2, camera.ROW) ndarray
    film : Sums
        Changed in place.
    pixels : (K,) ndarray of int
        Places in the film, row by row.
    most : (K,) ndarray of int
        How many samples each of them has afterwards.
    first, end : int
        Which of `pixels` to do, for one thread of several.
    """
    width = film.taken.shape[1]
    dice, scratch, guide, parts = np.empty(1, np.uint64), new_scratch(), np.empty(GUIDE), np.empty(PARTS)
    by_source = film.parts.shape[0] > 0
    for k in range(first, end):
        y, x = pixels[k] // width, pixels[k] % width
        stream = (frame.top + y) * frame.width + frame.left + x
        light, guides = film.light[y, x], film.guide[y, x]
        for number in range(film.taken[y, x], most[k]):
            take_up(dice, frame.seed, stream, number)
            dx, dy = _spot(frame, dice)
            time = roll(dice)
            across = 2.0 * (frame.left + x + dx) / frame.width - 1.0
            upward = 1.0 - 2.0 * (frame.top + y + dy) / frame.height
            o, d = aim(camera, across, upward, time, dice)
            found = see(world, lights, table, sky, rules, o, d, time, dice, scratch, guide, parts)
            if not (math.isfinite(found[0]) and math.isfinite(found[1]) and math.isfinite(found[2])):
                film.lost[y, x] += 1
                found = (0.0, 0.0, 0.0)
                parts[:] = 0.0
            for c in range(3):
                light[c] += found[c]
                light[3 + c] += found[c] * found[c]
            for c in range(GUIDE):
                guides[c] += guide[c]
            if by_source:
                for c in range(PARTS):
                    film.parts[y, x, c] += parts[c]
                for p in range(3):
                    bright = LUMA[0] * parts[3 * p] + LUMA[1] * parts[3 * p + 1] + LUMA[2] * parts[3 * p + 2]
                    film.parts[y, x, PARTS + p] += bright * bright
        film.taken[y, x] = max(film.taken[y, x], most[k])
